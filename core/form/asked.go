package form

import (
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/decimal"
)

// What the rest of the program asks a kind.

// rule is the kind of a question; one without anything when it is not there.
func (q *Question) rule() *kind {
	if k := kinds[q.Kind]; k != nil {
		return k
	}
	return &kind{}
}

// Keeps says how its answer is kept.
func (q *Question) Keeps() Keeping { return q.rule().keeps }

// TakesFiles reports a question that files are put in at.
func (q *Question) TakesFiles() bool { return q.Keeps() == AsFiles || q.Media }

// Written reports a question that is answered in writing: not by files, and not
// by others.
func (q *Question) Written() bool { return q.Keeps() != AsFiles && q.Keeps() != AsPeople }

// AsksPeople reports a question that others answer by a link of their own;
// Confirms those of them where they confirm one thing and write no letter.
func (q *Question) AsksPeople() bool { return q.Keeps() == AsPeople }

// Confirms reports a question at which somebody confirms one thing.
func (q *Question) Confirms() bool { return q.rule().confirms }

// InTable reports a question answered in rows or lines.
func (q *Question) InTable() bool { return q.Keeps() == InRows || q.Keeps() == InLines }

// PicksOne reports a question at which one of its options is picked.
func (q *Question) PicksOne() bool {
	k := q.rule()
	return k.options != nil && k.typ == condition.TypeText
}

// Type is what conditions compare its answer by.
func (q *Question) Type() condition.Type { return q.rule().typ }

// Measure is what its numbers count.
func (q *Question) Measure() Measure { return q.rule().measure }

// Limited reports a limit that counts for its kind, by its name in the document.
func (q *Question) Limited(by string) bool { return slices.Contains(q.rule().limits, by) }

// Identifies reports a question whose answer says who applies.
func (q *Question) Identifies() bool { k := q.rule(); return k.identifies != nil && k.identifies(q) }

// Needs is another question that must be asked where this one is; "" for none.
func (q *Question) Needs() Key {
	if k := q.rule(); k.needs != nil {
		return k.needs(q)
	}
	return ""
}

// Den is what its whole numbers are divided by: 100 for two decimals.
func (q *Question) Den() int64 {
	den := int64(1)
	switch m := q.Measure(); m {
	case Scaled, Shares:
		for range q.Scale {
			den *= 10
		}
		if m == Shares {
			den *= 100
		}
	}
	return den
}

// ValueOf is the value of n, counted in units of Den; of dates, a day.
func (q *Question) ValueOf(n int64) condition.Value {
	if q.Measure() == Days {
		return dayValue(n)
	}
	return condition.Value{Number: &condition.Number{Num: n, Den: q.Den()}}
}

// Begin sets what a new question of its kind cannot be without.
func (q *Question) Begin() {
	if k := q.rule(); k.begin != nil {
		k.begin(q)
	}
}

// How says how an answer is written.
func (q *Question) How() string {
	if k := q.rule(); k.how != nil {
		return k.how(q)
	}
	return "Write it again."
}

// LimitsSay is what is said of limits beyond what each of them says for itself; "" for nothing.
func (q *Question) LimitsSay(l Limits) string {
	if k := q.rule(); k.limitsSay != nil {
		return k.limitsSay(q, l)
	}
	return ""
}

// Unanswered says that it is not answered, and what to do.
func (q *Question) Unanswered() (what, remedy string) {
	if k := q.rule(); k.blank != nil {
		return k.blank(q)
	}
	return "Not answered: " + q.Label, "Answer it."
}

// Ready says what must be got ready for it before one sits down to write; ""
// when nothing. limit is what is said of its limits.
func (q *Question) Ready(limit string) string {
	if k := q.rule(); k.ready != nil {
		return k.ready(q, q.Limits.Else, limit)
	}
	return ""
}

// Tenths of a minute that answering takes, under its limits.
func (q *Question) Tenths(l Limits) int {
	if k := q.rule(); k.tenths != nil {
		return k.tenths(q, l)
	}
	return 0
}

// Note is what the program makes of an answer, said beside it; "" for nothing.
func (f *Form) Note(q *Question, filled *Filled, s *QuestionState) string {
	k := q.rule()
	if k.standing != nil {
		if says := k.standing(filled); says != "" {
			return says
		}
	}
	if k.note != nil && s.Presence == condition.Given {
		return k.note(f, q, filled, s)
	}
	return ""
}

// Words writes an answer that was given, for reading; what was typed when the
// kind has no words for it.
func (f *Form) Words(q *Question, filled *Filled, s *QuestionState) string {
	if k := q.rule(); k.words != nil {
		return k.words(f, q, filled, s)
	}
	return strings.TrimSpace(s.Raw)
}

// Control is how one input of a question is drawn; value is what is typed there.
func (f *Form) Control(q *Question, filled *Filled, value string) Control {
	c := Control{As: control.Line}
	if k := q.rule(); k.control != nil {
		c = k.control(f, q, filled, value)
	}
	if c.Hint == "" {
		c.Hint = q.Example
	}
	return c
}

// Values are what answers of a question there can be.
func (f *Form) Values(q *Question) Values {
	if k := q.rule(); k.values != nil {
		return k.values(f, q)
	}
	return Values{}
}

// Bounds are where limits cut the numbers of an answer.
func (f *Form) Bounds(q *Question, l Limits) []Bound {
	if k := q.rule(); k.bounds != nil {
		return k.bounds(f, q, l)
	}
	return nil
}

// Possible reports limits that some answer of a question can meet.
func (f *Form) Possible(q *Question, l Limits) bool {
	k := q.rule()
	return k.possible == nil || k.possible(f, q, l)
}

// Example is an answer in text that meets limits, as it is typed; "" for kinds
// not kept so.
func (f *Form) Example(q *Question, l Limits) string {
	if k := q.rule(); k.example != nil {
		return k.example(f, q, l)
	}
	return ""
}

// ExampleOf is an example of a piece of an answer.
func (f *Form) ExampleOf(p Part) string {
	if len(p.Options) > 0 {
		return string(p.Options[0].Key)
	}
	return f.Example(&Question{Key: p.Key, Kind: p.Kind}, Limits{})
}

// Typed is a value as it is typed at a question.
func (f *Form) Typed(q *Question, v condition.Value) string {
	switch k := q.rule(); {
	case k.typed != nil:
		return k.typed(f, q, v)
	case v.Yes != nil:
		return map[bool]string{true: "yes", false: "no"}[*v.Yes]
	case v.Number != nil && q.Measure() == Scaled:
		return decimal.String(*v.Number, q.Scale)
	case v.Number != nil:
		return decimal.String(*v.Number, 6)
	case !v.Date.IsZero():
		return v.Date.String()
	}
	return v.Text
}

// Complete answers what is missing of an answer that is not kept in text, with
// examples; false when it can do nothing.
func (f *Form) Complete(filled *Filled, q *Question, s *QuestionState) bool {
	k := q.rule()
	return k.complete != nil && k.complete(f, filled, q, s)
}

// Options are what a question chooses from: its own, the streams, the kinds of
// applicant, the awards, or the rows of its table. nil for other kinds.
func (f *Form) Options(q *Question) []Option {
	if k := q.rule(); k.options != nil {
		return k.options(f, q)
	}
	return nil
}

// Offered are those of a piece's options that can be chosen as things stand.
// What is chosen already stays, so that it is seen and can be mended.
func (f *Form) Offered(path *Path, q *Question, options []Option, chosen string) []Option {
	if k := q.rule(); k.offered != nil {
		return k.offered(f, path, options, chosen)
	}
	return options
}

// Parts are the fixed pieces of a question's answer; nil when it has none.
func (f *Form) Parts(q *Question) []Part {
	if k := q.rule(); k.parts != nil {
		return k.parts(f, q)
	}
	return nil
}

// Cells are the keys under which each row of a table is kept; nil for others.
func (f *Form) Cells(q *Question) []Key {
	if k := q.rule(); k.cells != nil {
		return k.cells(q)
	}
	var out []Key
	for _, c := range f.Columns(q.Key) {
		out = append(out, c.Key)
	}
	return out
}

// Fills is the table whose other columns an answer fills in; nil for none.
func (f *Form) Fills(q *Question) *Table {
	if !q.rule().fills {
		return nil
	}
	return f.Table(q.Table)
}

// Supplying finds the question that says a fixed thing of the applicant; nil
// when none does.
func (f *Form) Supplying(x condition.Fixed) *Question {
	for i := range f.Design.Sections {
		for j := range f.Design.Sections[i].Questions {
			if q := &f.Design.Sections[i].Questions[j]; x != "" && q.rule().supplies == x {
				return q
			}
		}
	}
	return nil
}

// CarriesOver reports a question whose answer can be taken from an earlier
// stage or application; statements, signatures, files, letters and fees are
// given anew there.
func (f *Form) CarriesOver(q *Question) bool { return !q.rule().anew }
