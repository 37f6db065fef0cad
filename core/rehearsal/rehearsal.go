// Package rehearsal lets a made-up troupe walk a round in simulated time: who
// writes when, every mail and reminder, the closings, the office's queue by
// working day, and what readers have left. Nothing is written and no clock is
// read: the round's own calendar is the time.
package rehearsal

import (
	"cmp"
	"slices"
	"strconv"
	"time"

	"ulvant/core/assignment"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/letter"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/proof"
	"ulvant/core/request"
)

// Member of the troupe.
type Member struct {
	Name string
	Kind string // what tells them apart
	*proof.Applicant
}

// Part is who or what an event is about.
type Part string

// The parts.
const (
	Mail      Part = "mail"
	Applicant Part = "applicant"
	Third     Part = "third party"
	Office    Part = "office"
	Reader    Part = "reader"
	Round     Part = "round"
)

// Event is one thing that happens.
type Event struct {
	At   time.Time
	Part Part
	Who  string // "" for the round itself
	Says string
}

// Day is one day of the round, as it ends.
type Day struct {
	Date    calendar.Date
	Working bool
	Writing int // drafts
	Office  int // cases that wait for a person of the office
	ToMark  int // marks that readers still owe
}

// Play is a whole rehearsal.
type Play struct {
	Opens, Ends time.Time
	Events      []Event // in order
	Days        []Day
	Sent        int
	Lapsed      int
	MostOffice  int // the longest the office's queue gets
	Each        int // cases that the reader with most of them has
}

// names of the troupe: all made up.
var names = []string{"Ansel Quoyle", "Brigid Tarn", "Cosmo Fell", "Dilys Wrack", "Ewan Skerry", "Fenella Moss",
	"Gil Harrow", "Hesper Lunn"}

// perDay is how many cases a person of the office settles on a working day.
const perDay = 6

// Troupe names the applicants of each kind.
func Troupe(kinds []string, of []*proof.Applicant) []Member {
	var out []Member
	for i, a := range of {
		if a != nil {
			out = append(out, Member{names[i%len(names)], kinds[i], a})
		}
	}
	return out
}

type stage struct {
	f    *form.Form
	play *Play
	days map[calendar.Date]*Day
	sent []*act
}

// act is one member's way through the round.
type act struct {
	m      Member
	path   *form.Path
	begun  time.Time
	sentAt time.Time // zero: never
	settle time.Time // when a person of the office looked; zero: nobody had to
	state  lifecycle.State
	asked  int64
}

// Make rehearses a round with a troupe.
func Make(f *form.Form, troupe []Member) *Play {
	w := f.Window()
	p := &Play{Opens: w.Opens, Ends: f.At(form.AnswerOn)}
	s := &stage{f: f, play: p, days: map[calendar.Date]*Day{}}
	for d := calendar.DateOf(w.Opens, f.Zone); d <= calendar.DateOf(p.Ends, f.Zone); d++ {
		p.Days = append(p.Days, Day{Date: d, Working: calendar.IsWorkingDay(d, f.Off)})
	}
	s.tell(w.Opens, Round, "", "The round opens.")
	for i, m := range troupe {
		s.member(i, len(troupe), m)
	}
	s.tell(w.Closes, Round, "", "The round closes. "+strconv.Itoa(p.Sent)+" are in.")
	s.checks()
	s.reading()
	s.vote()
	s.decide()
	slices.SortStableFunc(p.Events, func(a, b Event) int { return a.At.Compare(b.At) })
	s.tally()
	return p
}

func (s *stage) tell(at time.Time, part Part, who, says string) {
	s.play.Events = append(s.play.Events, Event{at, part, who, says})
}

// letter is a mail of the design, by its subject.
func (s *stage) letter(at time.Time, a *act, key form.Key, extra map[string]string) {
	l, ok := s.f.Letter(key)
	if !ok {
		s.tell(at, Mail, a.m.Name, "There is no letter “"+string(key)+"” to send.")
		return
	}
	answer, _ := s.f.Design.Moment(form.AnswerOn)
	values := map[string]string{"name": a.m.Name, "title": "the work of " + a.m.Name, "ref": s.f.Design.Prefix + "-0000",
		"round": s.f.Design.Name, "office": "the office",
		"asked": money.Format(a.asked, s.f.Design.Currency), "amount": money.Format(a.asked,
			s.f.Design.Currency), "answer-on": answer.At.Date.Words(), "reasons": "…", "place": "1", "number": "1",
		"address": s.f.Design.Contact}
	for k, v := range extra {
		values[k] = v
	}
	subject, err := letter.Fill(l.Subject, values)
	if err != nil {
		subject = l.Subject
	}
	s.tell(at, Mail, a.m.Name, "gets “"+subject+"”")
}

// member plays one of n through writing and sending. How they go about it
// falls to them by their place, so that every round shows each way once.
func (s *stage) member(i, n int, m Member) {
	w := s.f.Window()
	span := w.Closes.Sub(w.Opens)
	a := &act{m: m, path: s.f.Walk(m.Filled), begun: w.Opens.Add(span * time.Duration(i+1) / time.Duration(2*n+2)),
		state: lifecycle.Draft}
	if st := a.path.Find(s.f.Design.Request); st != nil && st.Value.Number != nil {
		a.asked = st.Value.Number.Num
	}
	if a.path.Verdict() == form.Fails {
		s.tell(a.begun, Applicant, m.Name, "is told by the check that this is not for them, and does not begin.")
		return
	}
	s.tell(a.begun, Applicant, m.Name, "begins: "+m.Kind+".")
	ready := s.letters(i, a)
	if n := len(a.path.Obstacles); n > 0 {
		s.tell(w.Closes, Applicant, m.Name, "never gets it sent: "+strconv.Itoa(n)+" things stand in the way.")
		s.lapse(a)
		return
	}
	switch i % 4 {
	case 1:
		a.sentAt = w.Closes.Add(-20 * time.Minute)
	case 2:
		late := w.Closes.Add(3 * time.Minute)
		if n > 3 {
			s.tell(late, Applicant, m.Name, "presses Send three minutes after the closing. Nothing is taken.")
			s.lapse(a)
			return
		}
		a.sentAt = w.Closes.Add(-2 * time.Hour)
	default:
		a.sentAt = a.begun.Add(w.Closes.Sub(a.begun) * 2 / 3)
	}
	if a.sentAt.Before(ready) {
		a.sentAt = ready.Add(time.Hour)
	}
	if !a.sentAt.Before(w.Closes) {
		s.tell(w.Closes, Applicant, m.Name, "waits for a letter that comes too late.")
		s.lapse(a)
		return
	}
	s.play.Sent++
	a.state = lifecycle.Sent
	s.tell(a.sentAt, Applicant, m.Name, "sends.")
	s.letter(a.sentAt, a, "received", nil)
	s.sent = append(s.sent, a)
}

func (s *stage) lapse(a *act) {
	s.play.Lapsed++
	a.state = lifecycle.Lapsed
	s.sent = append(s.sent, a)
}

// letters plays those whom the applicant must ask; ready is when the last of
// them has done it.
func (s *stage) letters(i int, a *act) (ready time.Time) {
	for q := range a.path.Questions {
		st := &a.path.Questions[q]
		question := s.f.Question(st.Key)
		if !question.AsksPeople() {
			continue
		}
		for k := range len(a.m.Filled.Referees[st.Key]) {
			who := "the referee of " + a.m.Name
			if question.Confirms() {
				who = "the signatory of " + a.m.Name
			}
			at := a.begun.Add(time.Duration(20+k) * time.Hour)
			s.tell(at, Mail, who, "is asked by mail.")
			done := at.Add(30 * time.Hour)
			switch (i + k) % 3 {
			case 1: // silent until reminded
				done = at.Add(request.Silent + 5*time.Hour)
				s.tell(at.Add(request.Silent), Mail, who, "has said nothing for six days and is reminded.")
			case 2: // put up, not sent
				up := at.Add(40 * time.Hour)
				s.tell(up, Third, who, "puts the letter up, and does not send it.")
				s.tell(up.Add(request.AfterHour), Mail, who, "is reminded that it is not sent.")
				done = up.Add(request.AfterHour + 3*time.Hour)
			}
			s.tell(done, Third, who, "sends it; both are thanked by mail.")
			if done.After(ready) {
				ready = done
			}
		}
	}
	return ready
}

// checks lets the office settle what the rules leave to a person: so many on
// each working day, those that came first first.
func (s *stage) checks() {
	var wait []*act
	for _, a := range s.sent {
		if !a.state.Is(lifecycle.ToCheck) {
			continue
		}
		person := a.path.Verdict() == form.Person
		if !person {
			a.state = lifecycle.Eligible
			s.tell(a.sentAt.Add(time.Second), Office, a.m.Name, "meets every rule: eligible at once.")
			continue
		}
		s.tell(a.sentAt.Add(time.Second), Office, a.m.Name, "has a rule that a person must look at.")
		wait = append(wait, a)
	}
	slices.SortFunc(wait, func(a, b *act) int { return a.sentAt.Compare(b.sentAt) })
	done := map[calendar.Date]int{}
	for _, a := range wait {
		d := calendar.AddWorkingDays(calendar.DateOf(a.sentAt, s.f.Zone), 1, s.f.Off)
		for done[d] >= perDay {
			d = calendar.AddWorkingDays(d, 1, s.f.Off)
		}
		done[d]++
		a.settle, _ = calendar.At(d, 11, 0).In(s.f.Zone)
		a.state = lifecycle.Eligible
		s.tell(a.settle, Office, a.m.Name, "is settled by a person: eligible.")
	}
}

// reading hands the eligible out and lets readers mark until reading ends.
func (s *stage) reading() {
	var cases []*act
	for _, a := range s.sent {
		if a.state.Is(lifecycle.ToRead) {
			cases = append(cases, a)
		}
	}
	each := s.f.Design.ReadersEach
	if len(cases) == 0 || !s.f.ReadAfter(s.f.FirstStage()) {
		return
	}
	readers := max(each, 3)
	load := assignment.Solve(assignment.Evenly(len(cases), readers, each), 0).Loads(readers)
	s.play.Each = slices.Max(load)
	out := s.f.At(form.ChecksBy)
	s.tell(out, Office, "",
		strconv.Itoa(len(cases))+" cases are handed out; no reader has more than "+strconv.Itoa(s.play.Each)+".")
	for r, n := range load {
		s.tell(out, Mail, "reader "+strconv.Itoa(r+1), "is given "+strconv.Itoa(n)+" to mark.")
	}
	s.tell(s.f.At(form.ReadingEnd), Round, "", "Reading ends.")
}

// decide awards in the order of the fund, and lets the letters go after their hold.
func (s *stage) decide() {
	at := s.f.At(form.AnswerOn)
	hold := time.Duration(s.f.Design.HoldMinutes) * time.Minute
	left := s.f.Design.Fund
	any := false
	for _, a := range s.sent {
		if !a.state.Is(lifecycle.ToRead) {
			continue
		}
		any = true
		key, to := form.Key("not-awarded"), lifecycle.NotAwarded
		if a.asked <= left {
			key, to = "awarded", lifecycle.Awarded
			left -= a.asked
		}
		a.state = to
		s.letter(at.Add(hold), a, key, nil)
	}
	if any {
		s.tell(at, Office, "",
			"The panel’s decisions are recorded. Letters wait "+strconv.Itoa(s.f.Design.HoldMinutes)+" minutes.")
		s.play.Ends = at.Add(hold)
	}
}

// tally counts, for the end of each day, who writes and what waits.
func (s *stage) tally() {
	marks := 0
	for _, a := range s.sent {
		if a.state.Decided() {
			marks += s.f.Design.ReadersEach
		}
	}
	from, to := calendar.DateOf(s.f.At(form.ChecksBy), s.f.Zone), calendar.DateOf(s.f.At(form.ReadingEnd), s.f.Zone)
	whole := calendar.WorkingDaysBetween(from, to, s.f.Off)
	for i := range s.play.Days {
		d := &s.play.Days[i]
		end, _ := calendar.At(d.Date, 17, 0).In(s.f.Zone)
		for _, a := range s.sent {
			ended := a.sentAt
			if ended.IsZero() {
				ended = s.f.Window().Closes
			}
			if a.begun.Before(end) && end.Before(ended) {
				d.Writing++
			}
			if !a.settle.IsZero() && a.sentAt.Before(end) && end.Before(a.settle) {
				d.Office++
			}
		}
		if s.play.Each > 0 && d.Date >= from && d.Date < to {
			gone := calendar.WorkingDaysBetween(from, d.Date, s.f.Off)
			d.ToMark = marks - marks*gone/max(whole, 1)
		}
		s.play.MostOffice = max(s.play.MostOffice, d.Office)
	}
}

// Until counts what has happened by a time, by part.
func (p *Play) Until(at time.Time) map[Part]int {
	out := map[Part]int{}
	for _, e := range p.Events {
		if cmp.Compare(e.At.UnixNano(), at.UnixNano()) <= 0 {
			out[e.Part]++
		}
	}
	return out
}
