package proof

import (
	"fmt"
	"net/mail"
	"slices"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/letter"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
)

// plain finds what can be seen without solving anything.
func (p *prover) plain() {
	p.dates()
	p.aid()
	p.fees()
	p.vote()
	p.letters()
	p.blanks()
	p.seen()
	p.sizes()
	p.rows()
	for _, u := range design.NotYet(p.f.Design) {
		p.found(Finding{Grade: Note, Code: NotYetUsed, Path: u.Path, Says: u.What + " is not used yet: " + u.Since + "."})
	}
}

// rows lists what hangs on the rows of a table: how many there are and what
// stands in them is not solved for, so nothing is claimed of it.
func (p *prover) rows() {
	tables := map[form.Key]form.Key{} // by figure
	for _, x := range p.f.Design.Figures {
		for _, r := range x.Of {
			if r.Answer != "" && r.Column != "" {
				tables[x.Key] = r.Answer
			}
		}
	}
	eachCond(p.f.Design, func(path string, c condition.Cond) {
		c.Refs(func(r condition.Ref) {
			table, ok := tables[r.Figure]
			if q := p.f.Question(table); r.Figure != "" && ok && q != nil {
				p.open(path, "This hangs on the rows of "+quoted(q.Label)+". How many rows there can be and what may stand in "+
					"them is not looked at.")
			}
		})
	})
}

// fewestChecking is how few working days for checks make an officer think
// again (common practice, no source).
const fewestChecking = 2

func (p *prover) dates() {
	d := p.f.Design
	say := func(g Grade, path, format string, args ...any) *Finding {
		p.found(Finding{Grade: g, Code: Dates, Path: path, Says: fmt.Sprintf(format, args...)})
		return &p.report.Findings[len(p.report.Findings)-1]
	}
	at := func(path string, w calendar.Wall, label string) []Mend {
		return []Mend{{label, []design.Op{set(path+"/at", w)}}}
	}
	closings := map[form.Key]bool{}
	for _, s := range d.Stages {
		if s.Does == form.Apply {
			closings[s.To] = true
		}
		if from, to := p.f.At(s.From), p.f.At(s.To); !to.After(from) {
			say(CannotOpen, "stages/"+string(s.Key), "“%s” ends before it begins: it runs from %s to %s.", s.Label,
				p.moment(s.From), p.moment(s.To))
		}
	}
	for _, m := range d.Calendar {
		path := "calendar/" + string(m.Key)
		if m.At.IsZero() {
			say(ThinkAgain, path, "%s has no date yet.", initial(m.Label))
			continue
		}
		switch _, kind := m.At.In(p.f.Zone); kind {
		case calendar.Nonexistent:
			say(ThinkAgain, path, "%s lies at a time that the clocks jump over: %s.", initial(m.Label), m.At.Words())
		case calendar.Ambiguous:
			say(ThinkAgain, path, "%s lies at a time that the clocks show twice: %s. The later is taken.", initial(m.Label),
				m.At.Words())
		}
		if !closings[m.Key] {
			continue
		}
		if m.At.Second == 0 {
			x := say(ThinkAgain, path, "%s is at 00:00, the very start of %s. People read it as the end of that day.",
				initial(m.Label), m.At.Date.Words())
			before := calendar.Wall{Date: m.At.Date.AddDays(-1), Second: 23*3600 + 59*60}
			x.Mends = at(path, before, "Close at 23:59 on the day before")
		}
		if !calendar.IsWorkingDay(m.At.Date, p.f.Off) {
			x := say(ThinkAgain, path, "%s falls on %s, when the office is shut and nobody can be asked.", initial(m.Label),
				dayWords(m.At.Date))
			next := calendar.Wall{Date: calendar.AddWorkingDays(m.At.Date, 1, p.f.Off), Second: m.At.Second}
			x.Mends = at(path, next, "Close on "+next.Date.Words()+" instead")
		}
	}
	closes, _ := d.Moment(form.Closes)
	checks, _ := d.Moment(form.ChecksBy)
	if n := calendar.WorkingDaysBetween(closes.At.Date, checks.At.Date, p.f.Off); n <= fewestChecking {
		say(ThinkAgain, "calendar/"+string(form.ChecksBy), "Checks must be done within %d working days of the closing.", n)
	}
	for i := range d.Sections {
		s := &d.Sections[i]
		closing := p.f.StageWindow(s.Stage).Closes
		for j := range s.Questions {
			q := &s.Questions[j]
			if q.Ask != nil && p.f.Follows(q) {
				switch due := p.f.DueDay(q, closing); {
				case !q.Ask.Waits:
					say(Note, pathOf(s.Key, q.Key),
						"%s is taken until %s, after the closing, and nobody waits for it: an application may be read before it has come.",
						quoted(q.Label), due.Words())
				case due > checks.At.Date:
					say(ThinkAgain, pathOf(s.Key, q.Key), "%s is taken until %s, after the checks that wait for it are to be done.",
						quoted(q.Label), due.Words())
				}
			}
			if q.Ask != nil && !p.f.Day(q.Ask.By).IsZero() &&
				p.f.Day(q.Ask.By) < calendar.DateOf(p.f.StageWindow(s.Stage).Opens, p.f.Zone) {
				say(CannotOpen, pathOf(s.Key, q.Key), "%s is due on %s, before anybody can be asked.", quoted(q.Label),
					p.f.Day(q.Ask.By).Words())
			}
			if l := q.Limits.Else.Slot; !p.f.Day(q.FollowBy).IsZero() && l != nil && l.FilesLeast > 1 {
				say(ThinkAgain, pathOf(s.Key, q.Key), "%s wants %d files, and only one can follow after sending.", quoted(q.Label),
					l.FilesLeast)
			}
			if by := p.f.Day(q.FollowBy); !by.IsZero() && by > checks.At.Date {
				say(ThinkAgain, pathOf(s.Key, q.Key), "%s may follow until %s, after the checks that need it are to be done.",
					quoted(q.Label), by.Words())
			}
		}
	}
}

// dayWords is the day of the week, or the date of a holiday on a weekday.
func dayWords(d calendar.Date) string {
	if calendar.IsWorkingDay(d, nil) {
		return d.Words() + ", a holiday"
	}
	return d.Weekday().String()
}

func (p *prover) moment(k form.Key) string {
	m, ok := p.f.Design.Moment(k)
	if !ok {
		return string(k)
	}
	return m.Label + " (" + m.At.Words() + ")"
}

func initial(s string) string { return phrase.Initial(s) }

func (p *prover) letters() {
	d := p.f.Design
	if a, err := mail.ParseAddress(d.Contact); err != nil || a.Address != d.Contact {
		p.found(Finding{Grade: CannotOpen, Code: Letters, Path: "",
			Says: "Letters have no address to be answered to: give the round a contact."})
	}
	if d.NotesOn != "" && d.Notes == form.NotesStay {
		p.found(Finding{Grade: ThinkAgain, Code: Letters, Path: "",
			Says: "Readers’ notes have a day on which they go out, and go to nobody."})
	} else if d.NotesOn != "" && p.f.At(d.NotesOn).Before(p.f.At(form.AnswerOn)) {
		p.found(Finding{Grade: ThinkAgain, Code: Letters, Path: "calendar/" + string(d.NotesOn),
			Says: "Readers’ notes go out before the answer is promised: " + p.moment(d.NotesOn) +
				". Whoever is told later has them then."})
	}
	last := p.f.NextStage(p.f.FirstStage()) == nil
	for _, step := range lifecycle.Table {
		if step.Letter == "" || step.Event == lifecycle.InviteOn && last {
			continue
		}
		if _, ok := p.f.Letter(form.Key(step.Letter)); ok {
			continue
		}
		l := form.Letter{Key: form.Key(step.Letter), Subject: "{{ref}}: " + string(step.To),
			Body: "Dear {{name}},\n\n“{{title}}” is now " + string(step.To) + " in {{round}}.\n\n{{office}}"}
		p.found(Finding{Grade: CannotOpen, Code: Letters, Path: "letters",
			Says: "There is no letter for “" + string(step.To) + "”: nobody would be told.",
			Mends: []Mend{{"Add a plain letter, to be written out",
				[]design.Op{{Do: design.Add, Path: "letters", Value: encode(l)}}}}})
	}
	for _, l := range d.Letters {
		if unknown := letter.Unknown(l.Subject + "\n" + l.Body); len(unknown) > 0 {
			p.found(Finding{Grade: CannotOpen, Code: Letters, Path: "letters/" + string(l.Key),
				Says: "The letter “" + l.Subject + "” asks for {{" + strings.Join(unknown, "}}, {{") + "}}, which no case has."})
		}
	}
}

// blanks finds deciding questions whose blank would leave everything that
// hangs on them open for good.
func (p *prover) blanks() {
	w := newWorld(newFormula(), p.f, map[string]lit{})
	for i := range p.f.Design.Sections {
		s := &p.f.Design.Sections[i]
		for j := range s.Questions {
			q := &s.Questions[j]
			if !w.deciding[q.Key] || q.Blank != form.MeansUnknown || p.inSumsOnly(q.Key) {
				continue
			}
			path := pathOf(s.Key, q.Key)
			p.found(Finding{Grade: CannotOpen, Code: BlankDecides, Path: path,
				Says: quoted(q.Label) +
					" decides something and may be left empty; say what that means, or what hangs on it stays open for ever.",
				Mends: []Mend{{"Read a blank as no", []design.Op{set(path+"/blank", form.MeansNo)}},
					{"It must be answered", []design.Op{set(path+"/blank", form.Required)}}}})
		}
	}
}

// inSumsOnly reports a question that no condition reads itself.
func (p *prover) inSumsOnly(k form.Key) bool {
	read := false
	eachCond(p.f.Design, func(_ string, c condition.Cond) {
		c.Refs(func(r condition.Ref) { read = read || r.Answer == k || r.Figure != "" })
	})
	return !read
}

// seen finds names that readers see where they are to be hidden, questions
// that nobody uses, and criteria with nothing to judge by.
func (p *prover) seen() {
	d := p.f.Design
	w := newWorld(newFormula(), p.f, map[string]lit{})
	used := map[form.Key]bool{d.Request: true, d.Listed.Question: true}
	read := false
	for i := range d.Sections {
		for _, q := range d.Sections[i].Questions {
			used[q.Slot], used[q.CopyOf], used[q.Request] = true, true, true
			read = read || q.ForReaders() && d.Sections[i].Stage != form.AfterSending
		}
	}
	for _, x := range d.Figures { // a figure that is shown counts as used
		for _, r := range x.Of {
			used[r.Answer] = true
		}
	}
	if len(d.Criteria) > 0 && !read {
		p.found(Finding{Grade: CannotOpen, Code: Unjudged, Path: "criteria",
			Says: "Readers are to mark, and see nothing: no question is shown to them."})
	}
	for i := range d.Sections {
		s := &d.Sections[i]
		if s.Stage == form.AfterSending { // a survey is used by being counted
			continue
		}
		for j := range s.Questions {
			q := &s.Questions[j]
			path := pathOf(s.Key, q.Key)
			if d.HideNames && q.ForReaders() && q.Identifies() {
				p.found(Finding{Grade: ThinkAgain, Code: ShowsName, Path: path,
					Says:  "Names are hidden from readers, and they would see " + quoted(q.Label) + ".",
					Mends: []Mend{{"Show it to the office alone", []design.Op{set(path+"/seen", form.ToOffice)}}}})
			}
			if d.HideNames && q.Identifies() {
				continue // the office needs to know whom it writes to, though nobody judges by it
			}
			if q.Seen == form.ToOffice && q.Purpose == form.ForJudging && !w.deciding[q.Key] && !used[q.Key] &&
				form.KindOf(q.Kind).Weighed {
				p.found(Finding{Grade: Note, Code: Unused, Path: path,
					Says: "Nobody uses " + quoted(q.Label) + ": readers do not see it, no rule reads it, no report counts it.",
					Mends: []Mend{{"Count it in reports", []design.Op{set(path+"/purpose", form.ForReports)}},
						{"Let readers see it", []design.Op{set(path+"/seen", form.ToReaders)}}}})
			}
		}
	}
	if len(d.Streams) > 0 && w.fixedKey(condition.Stream) == "" {
		p.found(Finding{Grade: CannotOpen, Code: StreamsUnused, Path: "streams",
			Says: "The round has streams, and no question asks which one somebody applies in."})
	}
}

// UnusedBy lists the questions that nothing uses: no reader sees them, no rule
// or condition reads them, no figure or report counts them.
func UnusedBy(f *form.Form) []form.Key {
	p := &prover{f: f, report: &Report{}}
	p.seen()
	var out []form.Key
	for _, x := range p.report.Findings {
		if x.Code == Unused {
			out = append(out, form.Key(x.Path[strings.LastIndexByte(x.Path, '/')+1:]))
		}
	}
	return out
}

// sizes finds slots whose limits cross.
func (p *prover) sizes() {
	for i := range p.f.Design.Sections {
		s := &p.f.Design.Sections[i]
		for j := range s.Questions {
			q := &s.Questions[j]
			for _, c := range append(slices.Clone(q.Limits.When), form.Case[form.Limits]{Then: q.Limits.Else}) {
				l := c.Then.Slot
				if l == nil {
					continue
				}
				path := pathOf(s.Key, q.Key)
				if l.FilesLeast > l.Most() {
					p.found(Finding{Grade: CannotOpen, Code: Sizes, Path: path,
						Says: fmt.Sprintf("%s wants at least %d files and takes at most %d.", quoted(q.Label), l.FilesLeast, l.Most())})
				}
				if l.SizeAll > 0 && l.SizeMost > l.SizeAll {
					p.found(Finding{Grade: ThinkAgain, Code: Sizes, Path: path,
						Says: quoted(q.Label) + " takes a file that is larger than all files together may be."})
				}
				if l.SecondsMost > 0 && l.SecondsLeast > l.SecondsMost {
					p.found(Finding{Grade: CannotOpen, Code: Sizes, Path: path,
						Says: quoted(q.Label) + " wants a longer film than it takes."})
				}
			}
		}
	}
}
