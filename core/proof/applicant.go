package proof

import (
	"slices"
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Applicant is somebody made up, with all that they would write.
type Applicant struct {
	Filled  *form.Filled // for the first stage
	Results map[form.Key]string
	Says    []Answered // what matters of it, in reading order
}

// Answered is one answer that matters to a finding, in words.
type Answered struct {
	Question form.Key
	Label    string
	Value    string
}

// At is what a walk reads of the applicant in a stage.
func (a *Applicant) At(f *form.Form, stage form.Key) *form.Filled {
	if f.Place(stage) == f.Place("") {
		return a.Filled
	}
	later := *a.Filled
	later.Stage, later.Results, later.Earlier = stage, a.Results, a.Filled
	return &later
}

// applicant turns a model into somebody who can be walked through the real
// form: what the model decides, and examples for the rest.
func (w *world) applicant(m model) (*Applicant, bool) {
	values, ok := w.numbersOf(m)
	if !ok {
		return nil, false
	}
	a := &Applicant{Results: map[form.Key]string{}, Filled: &form.Filled{Answers: map[form.Place]form.Answer{},
		Files: map[form.Key][]slot.File{}, Referees: map[form.Key][]form.RefereeStanding{}, Lead: form.ExampleLead}}
	kept := map[form.Key]bool{}
	for _, st := range w.questions {
		q := st.q
		place := form.Place{Question: q.Key}
		if m.holds(st.leaves()) {
			kept[q.Key] = true
			continue
		}
		if m.holds(st.says()) {
			a.Filled.Answers[place] = form.Answer{Non: q.NonAnswers[0]}
			kept[q.Key] = true
			continue
		}
		if st.cell.value == nil {
			continue
		}
		if w.put(a.Filled, q, st.cell.value, m, values) {
			kept[q.Key] = true
		}
	}
	w.putTables(a.Filled, m, values)
	w.putBudgets(a, m, values)
	for key, c := range w.cells {
		name, is := strings.CutPrefix(key, "fixed/")
		if !is {
			continue
		}
		switch v := c.value.(type) {
		case *finite:
			if i := v.picked(m); i >= 0 {
				a.Results[form.Key(name)] = v.vals[i].Text
			}
		case amount:
			n := values(v.x)
			switch condition.Fixed(name) {
			case condition.Today:
				a.Filled.Today = calendar.Date(n)
			case condition.OthersInRound:
				a.Filled.Others.Round = int(n)
			case condition.OthersInProgramme:
				a.Filled.Others.Programme = int(n)
			}
		}
	}
	if a.Filled.Today.IsZero() {
		if m, ok := w.f.Design.Moment(form.Opens); ok {
			a.Filled.Today = m.At.Date
		}
	}
	stages := w.f.Applying()
	finish(w.f, a.Filled, kept)
	for _, s := range stages[min(1, len(stages)):] {
		later := a.At(w.f, s.Key)
		finish(w.f, later, kept)
	}
	return a, true
}

// usualDay is the date given where any would do.
var usualDay = calendar.NewDate(2020, 1, 1)

// numbersOf chooses a number for everything that a model leaves a range.
func (w *world) numbersOf(m model) (func(*number) int64, bool) {
	solved, ok := w.formula.values(m)
	return func(n *number) int64 {
		if v, ok := solved[n]; ok {
			return v
		}
		low, high := n.between(m)
		usual := int64(1)
		if n.low == int64(form.FirstDay) && n.high == int64(form.LastDay) {
			usual = int64(usualDay)
		}
		return min(max(usual, low), high)
	}, ok
}

// put writes the answer to one question as it would be typed.
func (w *world) put(filled *form.Filled, q *form.Question, v value, m model, values func(*number) int64) bool {
	place := form.Place{Question: q.Key}
	raw := ""
	switch v := v.(type) {
	case *finite:
		i := v.picked(m)
		if i < 0 {
			return false
		}
		raw = w.f.Typed(q, v.vals[i])
	case *picks:
		var keys []string
		for i, k := range v.keys {
			if m.holds(v.chosen()[i]) {
				keys = append(keys, k)
			}
		}
		for i, l := range v.extra {
			if m.holds(l) {
				keys = append(keys, v.rest[i])
			}
		}
		if q.Keeps() == form.InPieces {
			parts := w.f.Parts(q)
			for i, k := range keys {
				if i < len(parts) {
					filled.Answers[form.Place{Question: q.Key, Column: parts[i].Key}] = form.Answer{Raw: k}
				}
			}
			return true
		}
		raw = strings.Join(keys, "\n")
	case amount:
		n := values(v.x)
		switch {
		case w.f.Values(q).Vague:
			return false
		case q.Keeps() == form.InPieces: // the first piece carries all of it
			for i, p := range w.f.Parts(q) {
				share := int64(0)
				if i == 0 {
					share = n
				}
				filled.Answers[form.Place{Question: q.Key, Column: p.Key}] = form.Answer{Raw: strconv.FormatInt(share, 10)}
			}
			return true
		}
		raw = w.f.Typed(q, q.ValueOf(n))
	default:
		return false
	}
	filled.Answers[place] = form.Answer{Raw: raw}
	return true
}

// putTables writes rows so that a table's sums come to what the model says:
// one row carries all of it.
func (w *world) putTables(filled *form.Filled, m model, values func(*number) int64) {
	for _, st := range w.questions {
		q := st.q
		if q.Keeps() != form.InRows || !m.holds(st.cell.given) || !w.deciding[q.Key] {
			continue
		}
		sums := map[form.Key]int64{}
		for _, c := range w.f.Columns(q.Key) {
			if s, ok := w.cells[string(q.Key)+"/"+string(c.Key)]; ok {
				if a, ok := s.value.(amount); ok {
					sums[c.Key] = values(a.x)
				}
			}
		}
		fits := w.rowThatCounts(q)
		for _, c := range w.f.Columns(q.Key) {
			raw := w.f.Example(c, c.Limits.Else)
			if v, ok := fits[c.Key]; ok {
				raw = v
			}
			if n, ok := sums[c.Key]; ok {
				raw = w.f.Typed(c, c.ValueOf(n))
			}
			filled.Answers[form.Place{Question: q.Key, Row: form.RowKey(1), Column: c.Key}] = form.Answer{Raw: raw}
		}
	}
}

// rowThatCounts reads, from the plainest of the conditions that say which rows
// count, what a row must hold to do so.
func (w *world) rowThatCounts(q *form.Question) map[form.Key]string {
	out := map[form.Key]string{}
	for _, x := range w.figures {
		if len(x.Of) == 0 || x.Of[0].Answer != q.Key {
			continue
		}
		var read func(c condition.Cond)
		read = func(c condition.Cond) {
			for _, list := range [][]condition.Cond{c.All, c.Any} {
				for _, k := range list {
					read(k)
				}
			}
			if t := c.Test; t != nil && t.Of.Answer == q.Key && t.Value != nil {
				switch v := *t.Value; {
				case !v.Date.IsZero():
					out[t.Of.Column] = v.Date.String()
				case v.Yes != nil:
					out[t.Of.Column] = map[bool]string{true: "yes", false: "no"}[*v.Yes]
				case len(v.List) > 0:
					out[t.Of.Column] = v.List[0]
				case v.Number != nil:
					if c := w.f.Column(q.Key, t.Of.Column); c != nil {
						n, _ := over(*v.Number, c.Den())
						out[t.Of.Column] = w.f.Typed(c, c.ValueOf(n))
					}
				case v.Text != "":
					out[t.Of.Column] = v.Text
				}
			}
		}
		read(x.Where)
	}
	return out
}

// describe picks the answers that matter, in words.
func (w *world) describe(a *Applicant, matter map[form.Key]bool,
	words func(q *form.Question, filled *form.Filled, st *form.QuestionState) string) {
	stages := w.f.Applying()
	filled := a.Filled
	if len(stages) > 1 {
		filled = a.At(w.f, stages[len(stages)-1].Key)
	}
	path := w.f.Walk(filled)
	for i := range path.Questions {
		st := &path.Questions[i]
		if !matter[st.Key] || st.Presence == condition.NotAsked {
			continue
		}
		q := w.f.Question(st.Key)
		text := words(q, a.Filled, st)
		switch {
		case st.Presence == condition.Declared:
			text = string(st.Non)
		case text == "":
			text = "left empty"
		}
		a.Says = append(a.Says, Answered{st.Key, q.Label, text})
	}
	a.Says = slices.Clip(a.Says)
}
