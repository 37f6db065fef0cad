package condition

import (
	"fmt"
	"math/big"
	"slices"
	"strings"
	"testing"
)

// three is a frame of three yes/no cells, indexed by the Answer keys "0", "1",
// "2", a number "3", a text "4" and several picked "5".
type three struct{}

func (three) List(k Key) List {
	if k == "isles" {
		return prefixes{"OI1", "OI4"}
	}
	return nil
}

type prefixes []string

func (p prefixes) Holds(text string) bool {
	return slices.ContainsFunc(p, func(s string) bool { return strings.HasPrefix(text, s) })
}

var resolve three

func (three) Resolve(r Ref) (int, Type, error) {
	switch r.Answer {
	case "4":
		return 4, TypeText, nil
	case "5":
		return 5, TypeSet, nil
	}
	if len(r.Answer) != 1 || r.Answer < "0" || r.Answer > "3" {
		return 0, 0, fmt.Errorf("nothing is called %q", r.Answer)
	}
	if r.Answer == "3" {
		return 3, TypeNumber, nil
	}
	return int(r.Answer[0] - '0'), TypeYes, nil
}

func is(key Key, yes bool) Cond {
	return Cond{Test: &Test{Of: Ref{Answer: key}, Rel: Is, Value: &Value{Yes: &yes}}}
}

func cell(t Tri) Cell {
	yes := t == Yes
	if t == Unknown {
		return Cell{Presence: Blank}
	}
	return Cell{Presence: Given, Value: Value{Yes: &yes}}
}

func eval(t *testing.T, c Cond, frame ...Cell) Verdict {
	t.Helper()
	p, err := Compile(c, resolve)
	if err != nil {
		t.Fatal(err)
	}
	return p.Eval(frame)
}

// Source: Kleene, Introduction to Metamathematics (1952), §64, the strong
// tables; rows and columns in the order no, unknown, yes.
func TestStrongKleeneTables(t *testing.T) {
	const n, u, y = No, Unknown, Yes
	and := [3][3]Tri{{n, n, n}, {n, u, u}, {n, u, y}}
	or := [3][3]Tri{{n, u, y}, {u, u, y}, {y, y, y}}
	not := [3]Tri{y, u, n}
	for a := n; a <= y; a++ {
		if got := eval(t, Cond{None: []Cond{is("0", true)}}, cell(a)).Tri; got != not[a] {
			t.Errorf("not %s = %s, want %s", a, got, not[a])
		}
		for b := n; b <= y; b++ {
			both := []Cond{is("0", true), is("1", true)}
			if got := eval(t, Cond{All: both}, cell(a), cell(b)).Tri; got != and[a][b] {
				t.Errorf("%s and %s = %s, want %s", a, b, got, and[a][b])
			}
			if got := eval(t, Cond{Any: both}, cell(a), cell(b)).Tri; got != or[a][b] {
				t.Errorf("%s or %s = %s, want %s", a, b, got, or[a][b])
			}
			if got := eval(t, Cond{None: both}, cell(a), cell(b)).Tri; got != or[a][b].Not() {
				t.Errorf("neither %s nor %s = %s", a, b, got)
			}
		}
	}
}

// Source: semantics.md: yes when #yes >= n, no when #yes + #unknown < n.
func TestAtLeast(t *testing.T) {
	of := []Cond{is("0", true), is("1", true), is("2", true)}
	for a := No; a <= Yes; a++ {
		for b := No; b <= Yes; b++ {
			for c := No; c <= Yes; c++ {
				yes, unknown := 0, 0
				for _, v := range []Tri{a, b, c} {
					if v == Yes {
						yes++
					}
					if v == Unknown {
						unknown++
					}
				}
				for n := 1; n <= 3; n++ {
					want := Unknown
					if yes >= n {
						want = Yes
					} else if yes+unknown < n {
						want = No
					}
					if got := eval(t, Cond{AtLeast: &Count{n, of}}, cell(a), cell(b), cell(c)).Tri; got != want {
						t.Errorf("at least %d of %s %s %s = %s, want %s", n, a, b, c, got, want)
					}
				}
			}
		}
	}
}

// Source: semantics.md, "Presence".
func TestPresences(t *testing.T) {
	yes := true
	for _, c := range []struct {
		what     string
		cell     Cell
		isYes    Tri
		isNo     Tri
		isNotYes Tri
		person   bool
	}{
		{"given yes", Cell{Presence: Given, Value: Value{Yes: &yes}}, Yes, No, No, false},
		{"blank", Cell{Presence: Blank}, Unknown, Unknown, Unknown, false},
		{"blank means no", Cell{Presence: Blank, BlankNo: true}, No, Yes, Yes, false},
		{"declared", Cell{Presence: Declared}, Unknown, Unknown, Unknown, true},
		{"not asked", Cell{Presence: NotAsked}, No, No, No, false},
		{"not settled whether asked", Cell{Presence: Unsettled}, Unknown, Unknown, Unknown, false},
	} {
		isNot := is("0", true)
		isNot.Test.Rel = IsNot
		a, b, n := eval(t, is("0", true), c.cell), eval(t, is("0", false), c.cell), eval(t, isNot, c.cell)
		if a.Tri != c.isYes || b.Tri != c.isNo || n.Tri != c.isNotYes || a.ForPerson() != c.person {
			t.Errorf("%s: is yes %s, is no %s, is not yes %s, for a person %v", c.what, a.Tri, b.Tri, n.Tri, a.ForPerson())
		}
	}
	both := eval(t, Cond{All: []Cond{is("0", true), is("1", true)}}, Cell{Presence: Declared}, Cell{Presence: Blank})
	if both.ForPerson() {
		t.Error("a blank beside a declared answer is still the applicant's to fill")
	}
}

// Source: exact rationals of math/big.
func FuzzNumberCompare(f *testing.F) {
	f.Add(int64(1), int64(3), int64(2), int64(6))
	f.Add(int64(-1<<63), int64(1<<62), int64(1<<62), int64(3))
	f.Fuzz(func(t *testing.T, a, ad, b, bd int64) {
		if ad < 1 || bd < 1 {
			return
		}
		want := big.NewRat(a, ad).Cmp(big.NewRat(b, bd))
		if got := (Number{a, ad}).Compare(Number{b, bd}); got != want {
			t.Errorf("%d/%d against %d/%d: %d, want %d", a, ad, b, bd, got, want)
		}
	})
}

func TestCompileRefuses(t *testing.T) {
	yes := true
	for _, c := range []Cond{
		is("9", true),
		{All: []Cond{is("0", true)}, Any: []Cond{is("0", true)}},
		{Test: &Test{Of: Ref{Answer: "0"}, Rel: AtLeast, Value: &Value{Yes: &yes}}},
		{Test: &Test{Of: Ref{Answer: "0"}, Rel: "resembles", Value: &Value{Yes: &yes}}},
		{Test: &Test{Of: Ref{Answer: "0"}, Rel: Is, Value: &Value{Text: "yes"}}},
		{Test: &Test{Of: Ref{Answer: "0"}, Rel: Is}},
		{Test: &Test{Of: Ref{Answer: "4"}, Rel: OnList, Value: &Value{Text: "nowhere"}}},
		{Test: &Test{Of: Ref{Answer: "5"}, Rel: Is, Value: &Value{Text: "peat"}}},
	} {
		if _, err := Compile(c, resolve); err == nil {
			t.Errorf("%+v was compiled", c)
		}
	}
}

// Several picked, and lists by prefix.
func TestSetsAndLists(t *testing.T) {
	frame := make([]Cell, 6)
	frame[4] = Cell{Presence: Given, Value: Value{Text: "OI4 2RT"}}
	frame[5] = Cell{Presence: Given, Value: Value{List: []string{"peat", "shore"}}}
	for _, c := range []struct {
		of   Key
		rel  Rel
		v    Value
		want Tri
	}{
		{"5", Includes, Value{Text: "peat"}, Yes}, {"5", Includes, Value{Text: "grass"}, No},
		{"5", Lacks, Value{Text: "grass"}, Yes}, {"5", IncludesAny, Value{List: []string{"grass", "shore"}}, Yes},
		{"5", IncludesAny, Value{List: []string{"grass"}}, No},
		{"4", OnList, Value{Text: "isles"}, Yes}, {"4", OffList, Value{Text: "isles"}, No},
	} {
		test := Cond{Test: &Test{Of: Ref{Answer: c.of}, Rel: c.rel, Value: &c.v}}
		if got := eval(t, test, frame...).Tri; got != c.want {
			t.Errorf("%s %s %+v: %s, want %s", c.of, c.rel, c.v, got, c.want)
		}
	}
	frame[5] = Cell{Presence: NotAsked}
	if got := eval(t, Cond{Test: &Test{Of: Ref{Answer: "5"}, Rel: Lacks, Value: &Value{Text: "x"}}},
		frame...).Tri; got != No {
		t.Errorf("what is not asked lacks nothing: %s", got)
	}
}

func BenchmarkTenTerms(b *testing.B) {
	var all []Cond
	for i := range 10 {
		all = append(all, Cond{Any: []Cond{is(Key(rune('0'+i%3)), i%2 == 0), is("2", true)}})
	}
	p, err := Compile(Cond{All: all}, resolve)
	if err != nil {
		b.Fatal(err)
	}
	frame := []Cell{cell(Yes), cell(No), cell(Yes)}
	b.ReportAllocs()
	for b.Loop() {
		if p.Eval(frame).Tri != Yes {
			b.Fatal("not yes")
		}
	}
}
