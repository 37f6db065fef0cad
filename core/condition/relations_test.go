package condition

import (
	"slices"
	"testing"

	"ulvant/core/calendar"
)

// Every relation on every type it fits, by examples an officer could check.
func TestRelations(t *testing.T) {
	text := func(s string) Value { return Value{Text: s} }
	list := func(s ...string) Value { return Value{List: s} }
	num := func(n, d int64) Value { return Value{Number: &Number{n, d}} }
	day := func(y, d int) Value { return Value{Date: calendar.NewDate(y, 7, d)} }
	yes := func(b bool) Value { return Value{Yes: &b} }
	for _, c := range []struct {
		what string
		typ  Type
		rel  Rel
		a, b Value
		want bool
	}{
		{"the kind of repair is peat", TypeText, Is, text("peat"), text("peat"), true},
		{"capitals count: keys are small", TypeText, Is, text("Peat"), text("peat"), false},
		{"is not", TypeText, IsNot, text("shore"), text("peat"), true},
		{"one of", TypeText, In, text("shore"), list("peat", "shore"), true},
		{"one of none", TypeText, In, text("shore"), list(), false},
		{"none of", TypeText, NotIn, text("grass"), list("peat", "shore"), true},
		{"20,000 is at least 20,000", TypeNumber, AtLeast, num(20_000, 1), num(20_000, 1), true},
		{"and not more", TypeNumber, More, num(20_000, 1), num(20_000, 1), false},
		{"19,999.99 is less", TypeNumber, Less, num(1_999_999, 100), num(20_000, 1), true},
		{"and at most", TypeNumber, AtMost, num(1_999_999, 100), num(20_000, 1), true},
		{"a third is a third, however it is written", TypeNumber, Is, num(1, 3), num(2, 6), true},
		{"0.33 is not a third", TypeNumber, Is, num(33, 100), num(1, 3), false},
		{"0.33 is less than a third", TypeNumber, Less, num(33, 100), num(1, 3), true},
		{"below nought", TypeNumber, Less, num(-5, 1), num(0, 1), true},
		{"the first of July is not before itself", TypeDate, Less, day(2027, 1), day(2027, 1), false},
		{"nor after", TypeDate, More, day(2027, 1), day(2027, 1), false},
		{"it is on it", TypeDate, Is, day(2027, 1), day(2027, 1), true},
		{"the day after", TypeDate, AtLeast, day(2027, 2), day(2027, 1), true},
		{"a year before", TypeDate, AtMost, day(2026, 31), day(2027, 1), true},
		{"yes is yes", TypeYes, Is, yes(true), yes(true), true},
		{"no is not yes", TypeYes, IsNot, yes(false), yes(true), true},
		{"picked among others", TypeSet, Includes, list("sails", "spars"), text("spars"), true},
		{"not picked", TypeSet, Lacks, list("sails", "spars"), text("oars"), true},
		{"picked, so not lacking", TypeSet, Lacks, list("sails"), text("sails"), false},
		{"one of several", TypeSet, IncludesAny, list("sails", "spars"), list("oars", "spars"), true},
		{"none of several", TypeSet, IncludesAny, list("sails"), list("oars", "spars"), false},
		{"nothing picked", TypeSet, Includes, list(), text("oars"), false},
	} {
		if !slices.Contains(RelsOf(c.typ), c.rel) {
			t.Errorf("%s: %q does not fit its type", c.what, c.rel)
		}
		if got := Compare(c.typ, c.rel, c.a, c.b); got != c.want {
			t.Errorf("%s: %v, want %v", c.what, got, c.want)
		}
	}
	for _, r := range Rels {
		fits := false
		for _, typ := range []Type{TypeText, TypeNumber, TypeDate, TypeYes, TypeSet} {
			fits = fits || slices.Contains(RelsOf(typ), r)
		}
		if !fits {
			t.Errorf("%q fits nothing", r)
		}
	}
}

// said names what is read by its key, and values as they stand.
type said struct{}

func (said) Day(Ref) bool    { return false }
func (said) Of(r Ref) string { return "“" + string(r.Answer) + string(r.Figure) + "”" }
func (said) Value(_ Ref, v Value) string {
	if v.Yes != nil {
		return map[bool]string{true: "yes", false: "no"}[*v.Yes]
	}
	return v.Text
}

// Conditions read back in English.
func TestSentences(t *testing.T) {
	a, b, c := is("a", true), is("b", false), is("c", true)
	against := Cond{Test: &Test{Of: Ref{Answer: "a"}, Rel: More, Other: &Ref{Figure: "limit"}}}
	for _, x := range []struct {
		c    Cond
		want string
	}{
		{Cond{}, "always"},
		{a, "“a” is yes"},
		{against, "“a” is more than “limit”"},
		{Cond{All: []Cond{a, b}}, "“a” is yes and “b” is no"},
		{Cond{Any: []Cond{a, b, c}}, "“a” is yes or “b” is no or “c” is yes"},
		{Cond{All: []Cond{a, {Any: []Cond{b, c}}}}, "“a” is yes and (“b” is no or “c” is yes)"},
		{Cond{Any: []Cond{{All: []Cond{a, b}}, c}}, "(“a” is yes and “b” is no) or “c” is yes"},
		{Cond{None: []Cond{a, b}}, "none of these holds, or is not asked: “a” is yes; “b” is no"},
		{Cond{AtLeast: &Count{2, []Cond{a, b, c}}}, "at least 2 of these hold: “a” is yes; “b” is no; “c” is yes"},
	} {
		if got := Sentence(x.c, said{}); got != x.want {
			t.Errorf("%q, want %q", got, x.want)
		}
	}
	if !(Cond{}).Always() || a.Always() || !(Ref{}).Zero() || (Ref{Answer: "a"}).Zero() {
		t.Error("what is empty, and what is not")
	}
	var read []Ref
	Cond{All: []Cond{against, {None: []Cond{b}}, {AtLeast: &Count{1, []Cond{c}}}}}.Refs(func(r Ref) {
		read = append(read,
			r)
	})
	if want := []Ref{{Answer: "a"}, {Figure: "limit"}, {Answer: "b"}, {Answer: "c"}}; !slices.Equal(read, want) {
		t.Errorf("it reads %v, want %v", read, want)
	}
}
