package form

import (
	"fmt"
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/lifecycle"
	"ulvant/core/slot"
)

// Kinds about files and other people, and the fees.
var _ = register(map[Kind]*kindRule{
	File: {means: "File slot", check: checkFile, limits: []string{"slot"},
		compile: func(c *compiler, q *Question) { c.need(q.Limits.Else.Slot != nil, "a file slot needs its limits") }},
	PageRef: {means: "A page, or pages from to, of a file put in before", typ: condition.TypeText, read: readPages, check: checkPages, members: []string{"slot"},
		compile: func(c *compiler, q *Question) {
			s, ok := c.f.index[q.Slot]
			c.need(ok && s < c.walked && c.f.questions[s].def.Kind == File, "name the file slot before it")
		}},
	Referee:   {means: "Referee, who is asked for a letter by mail", check: checkReferee, members: []string{"ask"}, limits: []string{"referees"}, compile: needAsk},
	Signatory: {means: "Somebody who confirms one thing by mail, or on paper", check: checkReferee, members: []string{"ask"}, limits: []string{"referees"}, compile: needAsk},
	Fees: {means: "The fees: extras to take, and a code", typ: condition.TypeNumber, comparable: true, parts: feeParts, check: checkFees,
		compile: func(c *compiler, _ *Question) { c.need(len(c.f.Design.Fees) > 0, "the round charges no fees") }},
})

func needAsk(c *compiler, q *Question) {
	if q.Ask != nil && q.Ask.By != nil && q.Ask.By.Key != "" {
		_, ok := c.f.Design.Moment(q.Ask.By.Key)
		c.need(ok, "the calendar has no %q", q.Ask.By.Key)
	}
	c.need(q.Limits.Else.Referees > 0, "say how many are asked")
}

// FileRow is the row under which what is written beside a file is kept.
func FileRow(id int64) string { return "f" + strconv.FormatInt(id, 10) }

// DetailColumn and TickColumn name where the i-th detail of a file, and the
// i-th thing ticked of a slot, are kept. ColMade keeps when a file was made.
func DetailColumn(i int) Key { return Key("detail-" + strconv.Itoa(i+1)) }

// TickColumn is where the i-th tick of a slot is kept.
func TickColumn(i int) Key { return Key("tick-" + strconv.Itoa(i+1)) }

// Tick is what an applicant ticked of a slot and a checker must confirm.
type Tick struct {
	Rule Key // under which the checker's word is kept
	Slot Key
	Says []string
}

// TickRule is the key under which a checker confirms what was ticked of a slot.
func TickRule(slot Key) Key { return "ticked-" + slot }

// Ticks lists what was ticked on a path, for the checker.
func (f *Form) Ticks(p *Path) []Tick {
	var out []Tick
	for i := range p.Questions {
		st := &p.Questions[i]
		if l := st.Limits.Slot; l != nil && len(l.Ticks) > 0 && st.Presence == condition.Given {
			out = append(out, Tick{TickRule(st.Key), st.Key, l.Ticks})
		}
	}
	return out
}

// ColMade keeps when a file was made or taken.
const ColMade Key = "made"

func checkFile(w *walk, q *question, s *QuestionState) {
	limits := slot.Limits{}
	if s.Limits.Slot != nil {
		limits = *s.Limits.Slot
	}
	files := w.filled.Files[q.def.Key]
	switch {
	case limits.Wish == slot.NotAccepted:
		for _, f := range files {
			w.obstacle(s, Obstacle{Code: CodeNotAccepted, Name: f.Name})
		}
		s.Presence = condition.NotAsked
		return
	case len(files) == 0:
		if s.Must != condition.No && limits.Wish != slot.BetterNot {
			w.obstacle(s, Obstacle{Code: CodeFileMissing})
		}
		return
	}
	s.Presence = condition.Given
	w.files(q, s, files, limits)
}

// files judges the files of a slot, and what is written beside them.
func (w *walk) files(q *question, s *QuestionState, files []slot.File, limits slot.Limits) {
	total, taken := int64(0), 0
	for _, f := range files {
		total += f.Size
		if fault, have, limit := slot.Check(f, limits); fault != "" {
			w.obstacle(s, Obstacle{Code: CodeFile, Name: f.Name, Detail: string(fault), Have: have, Limit: limit})
			continue
		}
		taken++
		row := FileRow(f.ID)
		for i, d := range limits.Details {
			at := Place{q.def.Key, row, DetailColumn(i)}
			if w.filled.Answers[at].Empty() {
				w.obstacle(s, Obstacle{Code: CodeFileDetail, Place: at, Name: f.Name, Detail: d})
			}
		}
		if !limits.MadeSince.IsZero() {
			w.made(q, s, f, limits.MadeSince)
		}
	}
	if taken < limits.FilesLeast {
		w.obstacle(s, Obstacle{Code: CodeFilesFew, Have: int64(taken), Limit: int64(limits.FilesLeast)})
	} else if n := len(files); n > limits.Most() {
		w.obstacle(s, Obstacle{Code: CodeFilesMany, Have: int64(n), Limit: int64(limits.Most())})
	}
	if limits.SizeAll > 0 && total > limits.SizeAll {
		w.obstacle(s, Obstacle{Code: CodeFilesSize, Have: total, Limit: limits.SizeAll})
	}
	if limits.Needs != "" && len(w.filled.Files[Key(limits.Needs)]) == 0 {
		o := Obstacle{Code: CodeFileNeeds, Name: files[0].Name, Detail: limits.Needs}
		if other := w.form.Question(Key(limits.Needs)); other != nil {
			o.Detail = other.Label
		}
		w.obstacle(s, o)
	}
	for i, t := range limits.Ticks {
		at := Place{Question: q.def.Key, Column: TickColumn(i)}
		if w.filled.Answers[at].Raw != "yes" {
			w.obstacle(s, Obstacle{Code: CodeFileTick, Place: at, Detail: t})
		}
	}
}

func (w *walk) made(q *question, s *QuestionState, f slot.File, since calendar.Date) {
	at := Place{q.def.Key, FileRow(f.ID), ColMade}
	d, ok := calendar.ParseDate(strings.TrimSpace(w.filled.Answers[at].Raw))
	switch {
	case !ok:
		w.obstacle(s, Obstacle{Code: CodeFileDetail, Place: at, Name: f.Name, Detail: "when it was made"})
	case d < since:
		w.obstacle(s, Obstacle{Code: CodeFileMade, Place: at, Name: f.Name, Day: since})
	}
}

// readPages reads 12 or 12–15.
func readPages(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	from, to, ok := pages(raw)
	return condition.Value{Text: fmt.Sprintf("%d–%d", from, to)}, ok
}

func pages(raw string) (from, to int, ok bool) {
	a, b, span := strings.Cut(strings.NewReplacer("–", "-", "—", "-", " to ", "-").Replace(strings.TrimSpace(raw)), "-")
	from, err := strconv.Atoi(strings.TrimSpace(a))
	if err != nil {
		return 0, 0, false
	}
	to = from
	if span {
		if to, err = strconv.Atoi(strings.TrimSpace(b)); err != nil {
			return 0, 0, false
		}
	}
	return from, to, from >= 1 && to >= from && to < 100_000
}

// checkPages holds a page reference to the real page count of the file.
func checkPages(w *walk, q *question, s *QuestionState) {
	from, to, _ := pages(s.Raw)
	files := w.filled.Files[q.def.Slot]
	if len(files) == 0 {
		w.obstacle(s, Obstacle{Code: CodePageSlot, Name: w.form.Question(q.def.Slot).Label})
		return
	}
	most := 0
	for _, f := range files {
		most = max(most, f.Pages)
	}
	if most > 0 && to > most {
		w.obstacle(s, Obstacle{Code: CodePageRange, Have: int64(max(from, to)), Limit: int64(most), Name: files[0].Name})
	}
}

func checkReferee(w *walk, q *question, s *QuestionState) {
	standing := 0
	for _, r := range w.filled.Referees[q.def.Key] {
		if r.Letter == Replaced {
			continue
		}
		o := Obstacle{Name: r.Name, Day: r.Since, Move: lifecycle.Third}
		standing++
		switch r.Letter {
		case ToAsk:
			o.Code, o.Move = CodeRefereeToAsk, lifecycle.Applicant
		case Asked:
			o.Code = CodeRefereeAsked
		case Accepted:
			o.Code = CodeRefereeWriting
		case Declined:
			o.Code, o.Move = CodeRefereeNo, lifecycle.Applicant
		case Uploaded:
			o.Code = CodeLetterNotSent
		default:
			continue
		}
		w.obstacle(s, o)
	}
	if standing > 0 {
		s.Presence = condition.Given
	}
	if missing := s.Limits.Referees - standing; missing > 0 && s.Must != condition.No {
		w.obstacle(s, Obstacle{Code: CodeRefereeMissing, Have: int64(standing), Limit: int64(s.Limits.Referees)})
	}
}
