package proof

import (
	"context"
	"slices"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/core/slot"
)

// Split tells two kinds of applicant apart: those who answer a question with a
// value, or with so much or more, and the others.
type Split struct {
	Question form.Key
	Value    string // option, text, yes or no; of a number "" with Least set
	Least    int64  // whole units of the question: minor units, its scale, days
	Number   bool
	Not      bool
	Asked    bool // of everybody: it tells people apart better than what hangs on something else
}

// Asker answers questions about kinds of applicant who may apply.
type Asker struct{ p *prover }

// NewAsker encodes a form. The context bounds all that is asked of it.
func NewAsker(ctx context.Context, f *form.Form) *Asker {
	p := &prover{ctx: ctx, f: f, report: &Report{}, names: say.Names{Form: f}}
	p.w = newWorld(newFormula(), f, map[string]lit{})
	p.w.encode()
	return &Asker{p}
}

// Splits lists all that conditions tell apart, in reading order; both halves
// of each are of people who may apply.
func (a *Asker) Splits() []Split {
	var out []Split
	w := a.p.w
	for _, st := range w.questions {
		if !w.deciding[st.q.Key] || st.stage > a.p.f.Place("") {
			continue
		}
		switch v := st.cell.value.(type) {
		case *finite:
			if len(v.vals) > 12 {
				continue
			}
			for i, has := range v.vals {
				s := Split{Question: st.q.Key, Value: has.Text, Asked: st.asked == triYes}
				if has.Yes != nil {
					if !*has.Yes {
						continue // the other half of yes
					}
					s.Value = "yes"
				}
				if has.Number != nil || len(v.vals) == 1 || i == 1 && len(v.vals) == 2 {
					continue
				}
				out = append(out, s)
			}
		case *picks:
			for _, k := range v.keys {
				out = append(out, Split{Question: st.q.Key, Value: k, Asked: st.asked == triYes})
			}
		case amount:
			for _, c := range v.x.order {
				if c > v.x.low && c <= v.x.high {
					out = append(out, Split{Question: st.q.Key, Least: c, Number: true, Asked: st.asked == triYes})
				}
			}
		}
	}
	return slices.DeleteFunc(out, func(s Split) bool {
		l := a.lit(s)
		yes, _ := a.p.ask(a.may(), l)
		no, _ := a.p.ask(a.may(), -l)
		return yes != possible || no != possible
	})
}

func (a *Asker) may() lit { return a.p.w.eligible(a.p.f.Place("")) }

func (a *Asker) lit(s Split) lit {
	w := a.p.w
	st := w.questions[w.index[s.Question]]
	is := never
	switch v := st.cell.value.(type) {
	case *finite:
		for i, has := range v.vals {
			if has.Yes != nil && *has.Yes && s.Value == "yes" || has.Yes == nil && has.Text == s.Value {
				is = v.is[i]
			}
		}
	case *picks:
		if i := slices.Index(v.keys, s.Value); i >= 0 {
			is = v.is[i]
		}
	case amount:
		is = w.reaches(v.x, s.Least)
	}
	is = w.and(st.cell.given, is)
	return signed(is, !s.Not)
}

func (a *Asker) goals(of []Split) []lit {
	out := []lit{a.may()}
	for _, s := range of {
		out = append(out, a.lit(s))
	}
	return out
}

// Asked reports whether a kind of applicant may be asked a question, and
// whether each of them is and must answer.
func (a *Asker) Asked(of []Split, key form.Key) (may, must bool) {
	w := a.p.w
	st := w.questions[w.index[key]]
	goals := a.goals(of)
	ans, _ := a.p.ask(append(goals, st.asked.yes)...)
	if ans == impossible {
		return false, false
	}
	ans, _ = a.p.ask(append(goals, -w.and(st.asked.yes, st.must))...)
	return true, ans == impossible
}

// AskedSection reports whether a kind of applicant may be asked a section, and
// whether each of them is.
func (a *Asker) AskedSection(of []Split, i int) (may, must bool) {
	st := a.p.w.sections[i]
	goals := a.goals(of)
	ans, _ := a.p.ask(append(goals, st.asked.yes)...)
	if ans == impossible {
		return false, false
	}
	ans, _ = a.p.ask(append(goals, -st.asked.yes)...)
	return true, ans == impossible
}

// Why names the parts of the design that make a kind of applicant be asked a
// question, or not be asked; nil when neither is so of all of them.
func (a *Asker) Why(of []Split, key form.Key) (asked bool, because []Reason) {
	w := a.p.w
	i, ok := w.index[key]
	if !ok {
		return false, nil
	}
	st := w.questions[i]
	goals := a.goals(of)
	if ans, _ := a.p.ask(append(goals, st.asked.yes)...); ans == impossible {
		return false, a.p.core(append(goals, st.asked.yes)...)
	}
	if ans, _ := a.p.ask(append(goals, -st.asked.yes)...); ans == impossible {
		return true, a.p.core(append(goals, -st.asked.yes)...)
	}
	return true, nil
}

// Example is somebody of a kind who may apply and can send, or at least may
// apply; nil when there is nobody.
func (a *Asker) Example(of []Split) *Applicant {
	goals := a.goals(of)
	ans, m := a.p.ask(append(goals, a.p.w.sendable(a.p.f.Place("")))...)
	if ans != possible {
		if ans, m = a.p.ask(goals...); ans != possible {
			return nil
		}
	}
	x, ok := a.p.w.applicant(m)
	if !ok {
		return nil
	}
	return x
}

// Sample is one made-up applicant: how the form is met, and which splits hold.
type Sample struct {
	Path *form.Path
	Is   []bool // as the splits
}

// Samples walks n made-up applicants who may apply, drawn at random among what
// conditions tell apart; dice gives a number from 0 to n-1. Where hardly anybody may apply, they are fewer.
func (a *Asker) Samples(n int, dice func(n int) int, splits []Split) []Sample {
	var out []Sample
	f := a.p.f
	for try := 0; try < 3*n && len(out) < n && a.p.ctx.Err() == nil; try++ {
		filled := a.draw(dice)
		path := f.Walk(filled)
		if path.Verdict() == form.Fails {
			continue
		}
		s := Sample{Path: path}
		for _, sp := range splits {
			s.Is = append(s.Is, sp.Holds(path))
		}
		out = append(out, s)
	}
	return out
}

// Holds reports the half of a split that somebody is in; who gave no value is
// in the half of the others.
func (s Split) Holds(path *form.Path) bool {
	st := path.Find(s.Question)
	if st == nil || st.Presence != condition.Given {
		return s.Not
	}
	got := false
	switch v := st.Value; {
	case s.Number && v.Number != nil:
		got = v.Number.Num >= s.Least
	case s.Number:
		got = int64(v.Date) >= s.Least
	case v.Yes != nil:
		got = *v.Yes
	case v.List != nil:
		got = slices.Contains(v.List, s.Value)
	default:
		got = v.Text == s.Value
	}
	return got != s.Not
}

// draw answers every deciding question with one of what conditions tell apart.
func (a *Asker) draw(dice func(n int) int) *form.Filled {
	w := a.p.w
	filled := &form.Filled{Answers: map[form.Place]form.Answer{}, Files: map[form.Key][]slot.File{},
		Referees: map[form.Key][]form.RefereeStanding{}, Lead: form.ExampleLead}
	if m, ok := a.p.f.Design.Moment(form.Opens); ok {
		filled.Today = m.At.Date
	}
	for _, st := range w.questions {
		q := st.q
		place := form.Place{Question: q.Key}
		if q.Blank != form.Required && dice(6) == 0 {
			continue
		}
		raw := ""
		switch v := st.cell.value.(type) {
		case *finite:
			raw = w.f.Typed(q, v.vals[dice(len(v.vals))])
		case *picks:
			for _, k := range v.keys {
				if dice(3) == 0 {
					raw += k + "\n"
				}
			}
			if raw == "" && len(v.rest) > 0 {
				raw = v.rest[0]
			} else if raw == "" {
				raw = v.keys[dice(len(v.keys))]
			}
			if q.Keeps() == form.InPieces {
				parts := a.p.f.Parts(q)
				for i, k := range form.Lines(raw) {
					if i < len(parts) {
						filled.Answers[form.Place{Question: q.Key, Column: parts[i].Key}] = form.Answer{Raw: k}
					}
				}
				continue
			}
		case amount:
			low, high := v.x.low, v.x.high
			if i := dice(len(v.x.order) + 1); i > 0 {
				low = v.x.order[i-1]
				if i < len(v.x.order) {
					high = v.x.order[i] - 1
				}
			} else if len(v.x.order) > 0 {
				high = v.x.order[0] - 1
			}
			if q.Keeps() == form.InPieces {
				continue
			}
			usual := int64(1)
			if q.Measure() == form.Days {
				usual = int64(usualDay)
			}
			raw = w.f.Typed(q, q.ValueOf(min(max(low, usual), high)))
		default:
			continue
		}
		filled.Answers[place] = form.Answer{Raw: raw}
	}
	return filled
}
