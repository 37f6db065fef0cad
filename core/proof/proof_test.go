package proof

import (
	"context"
	"encoding/json"
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
)

func compiled(t testing.TB, d *form.Design) *form.Form {
	t.Helper()
	f, err := form.Compile(d)
	if err != nil {
		t.Fatalf("%s: %v", d.Name, err)
	}
	return f
}

func is(q form.Key, v string) condition.Cond {
	return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: q}, Rel: condition.Is,
		Value: &condition.Value{Text: v}}}
}

func says(q form.Key, yes bool) condition.Cond {
	return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: q}, Rel: condition.Is,
		Value: &condition.Value{Yes: &yes}}}
}

func compare(q form.Key, rel condition.Rel, n int64) condition.Cond {
	return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: q}, Rel: rel,
		Value: &condition.Value{Number: &condition.Number{Num: n, Den: 1}}}}
}

func ask(key form.Key, kind form.Kind, nature form.Nature, change ...func(*form.Question)) form.Question {
	q := form.Question{Key: key, Kind: kind, Label: strings.ToUpper(string(key[:1])) + string(key[1:]), Nature: nature,
		Blank: form.Required, Seen: form.ToReaders}
	if kind == form.Choice || kind == form.Several {
		q.Options = []form.Option{{Key: "body", Label: "A body"}, {Key: "person", Label: "A person"},
			{Key: "school", Label: "A school"}}
	}
	for _, c := range change {
		c(&q)
	}
	return q
}

func least(n int64) func(*form.Question) { return func(q *form.Question) { q.Limits.Else.Least = &n } }
func most(n int64) func(*form.Question)  { return func(q *form.Question) { q.Limits.Else.Most = &n } }
func when(c condition.Cond) func(*form.Question) {
	return func(q *form.Question) { q.Asked = c }
}

func rule(key form.Key, holds condition.Cond) form.Rule {
	return form.Rule{Key: key, Label: "The " + string(key), Holds: holds, Yes: "Yes.", No: "No.", Look: "Look."}
}

// asking is a small design with questions.
func asking(qs ...form.Question) *form.Design {
	d := bare()
	d.Sections = []form.Section{{Key: "all", Label: "All", Questions: qs}}
	return d
}

// What goes wrong in rounds, planted one by one: each is found, at its place,
// with its grade, the parts behind it, and somebody it would hit who really
// cannot send.
func TestPlantedMistakes(t *testing.T) {
	for what, c := range map[string]struct {
		d       *form.Design
		code    Code
		grade   Grade
		path    string
		because int // parts; 0: not counted
	}{
		"a question for two kinds at once": {asking(ask("who", form.Choice, form.Fact), ask("papers", form.Short, form.Fact,
			when(condition.Cond{All: []condition.Cond{is("who", "body"),
				is("who", "person")}}))), NeverAsked, ThinkAgain, "sections/all/questions/papers", 1},
		"a question under one that is never asked for that answer": {asking(ask("who", form.Choice, form.Fact),
			ask("size", form.Choice, form.Fact, when(is("who", "person"))),
			ask("deep", form.Short, form.Fact, when(condition.Cond{All: []condition.Cond{is("size", "body"),
				is("who", "body")}}))), NeverAsked, ThinkAgain, "sections/all/questions/deep", 2},
		"rules that contradict": {func() *form.Design {
			d := asking(ask("sum", form.Money, form.Chosen))
			d.Rules = []form.Rule{rule("small", compare("sum", condition.AtMost, 500)),
				rule("large", compare("sum", condition.AtLeast, 501))}
			return d
		}(), Contradiction, CannotOpen, "rules/large", 2},
		"a trap by a limit": {func() *form.Design {
			d := asking(ask("who", form.Choice, form.Fact), ask("sum", form.Money, form.Chosen, least(10_000),
				func(q *form.Question) {
					cap := int64(5_000)
					q.Limits.When = []form.Case[form.Limits]{{If: is("who", "person"),
						Then: form.Limits{Least: q.Limits.Else.Least, Most: &cap}}}
					floor := int64(1)
					q.Limits.When[0].Then.Least = &floor
				}))
			d.Rules = []form.Rule{rule("enough", compare("sum", condition.AtLeast, 6_000))}
			return d
		}(), Trap, CannotOpen, "", 3},
		"a trap by a paper that cannot be given": {asking(ask("who", form.Choice, form.Fact),
			ask("deed", form.File, form.Fact, when(is("who", "school"))),
			ask("pages", form.PageRef, form.Fact, func(q *form.Question) { q.Slot = "deed" })), Trap, CannotOpen, "", 0},
		"a trap by a fact and a limit that hangs on it": {asking(ask("members", form.Number, form.Fact),
			ask("share", form.Number, form.Fact, func(q *form.Question) {
				l := int64(10)
				q.Limits.When = []form.Case[form.Limits]{{If: compare("members", condition.More, 20), Then: form.Limits{Most: &l}}}
			})), Trap, CannotOpen, "", 0},
		"no answer within the limits": {asking(ask("kinds", form.Several, form.Chosen,
			func(q *form.Question) { q.Limits.Else.PickLeast = 4 })), CannotAnswer, CannotOpen, "sections/all/questions/kinds",
			1},
		"heading caps that leave no budget": {func() *form.Design {
			d := asking(ask("sum", form.Money, form.Chosen), ask("costs", form.Budget, form.Chosen, func(q *form.Question) {
				q.Request, q.Options = "sum", []form.Option{{Key: "work", Label: "Work"}, {Key: "stuff", Label: "Stuff"}}
				q.Limits.Else.Caps = []form.Cap{{Heading: "work", Percent: 60}, {Heading: "stuff", Percent: 39}}
			}))
			return d
		}(), CannotAnswer, CannotOpen, "sections/all/questions/costs", 1},
		"an award nobody can be given": {func() *form.Design {
			d := asking(ask("who", form.Choice, form.Fact))
			d.Rules = []form.Rule{rule("kind", condition.Cond{None: []condition.Cond{is("who", "school")}})}
			d.Awards = []form.Award{{Key: "prize", Label: "Prize", Places: 1, Match: is("who", "school")}}
			return d
		}(), NobodysAward, CannotOpen, "awards/prize", 2},
		"a stream nobody can apply in": {func() *form.Design {
			d := asking(ask("stream", form.StreamPick, form.Chosen))
			d.Streams = []form.Stream{{Key: "red", Label: "Red"}, {Key: "blue", Label: "Blue"}}
			d.Rules = []form.Rule{rule("colour",
				condition.Cond{Test: &condition.Test{Of: condition.Ref{Fixed: condition.Stream}, Rel: condition.Is,
					Value: &condition.Value{Text: "red"}}})}
			return d
		}(), NobodysStream, CannotOpen, "streams/blue", 1},
		"streams nobody is asked about": {func() *form.Design {
			d := asking(ask("who", form.Choice, form.Fact))
			d.Streams = []form.Stream{{Key: "red", Label: "Red"}}
			return d
		}(), StreamsUnused, CannotOpen, "streams", 0},
		"a criterion that never applies": {func() *form.Design {
			d := asking(ask("who", form.Choice, form.Fact))
			d.Criteria[0].Applies = condition.Cond{All: []condition.Cond{is("who", "body"), is("who", "person")}}
			return d
		}(), NeverHolds, ThinkAgain, "criteria/gain", 0},
		"nothing to judge by": {asking(ask("who", form.Choice, form.Fact,
			func(q *form.Question) {
				q.Seen, q.Purpose = form.ToOffice,
					form.ForReports
			})), Unjudged, CannotOpen, "criteria", 0},
		"a blank that decides": {asking(ask("more", form.YesNo, form.Fact,
			func(q *form.Question) { q.Blank = form.MeansUnknown }), ask("what", form.Short, form.Fact, when(says("more",
			true)))), BlankDecides, CannotOpen, "sections/all/questions/more", 0},
		"asked always, by a condition": {asking(ask("more", form.YesNo, form.Fact),
			ask("what", form.Short, form.Fact, when(condition.Cond{Any: []condition.Cond{says("more", true),
				says("more", false)}}))), AlwaysAsked, Note, "sections/all/questions/what", 1},
		"only of the refused": {func() *form.Design {
			d := asking(ask("age", form.Number, form.Fact), ask("guardian", form.Short, form.Fact,
				when(compare("age", condition.Less, 18))))
			d.Rules = []form.Rule{rule("age", compare("age", condition.AtLeast, 18))}
			return d
		}(), OnlyRefused, ThinkAgain, "sections/all/questions/guardian", 2},
		"a question nobody uses": {asking(ask("who", form.Choice, form.Fact),
			ask("colour", form.Short, form.Fact,
				func(q *form.Question) { q.Seen = form.ToOffice })), Unused, Note, "sections/all/questions/colour", 0},
		"a name that readers see": {func() *form.Design {
			d := asking(ask("name", form.Names, form.Fact))
			d.HideNames = true
			return d
		}(), ShowsName, ThinkAgain, "sections/all/questions/name", 0},
		"closing at 00:00": {dated(func(d *form.Design) { d.Calendar[1].At.Second = 0 }), Dates, ThinkAgain,
			"calendar/closes", 0},
		"closing on a Saturday": {dated(func(d *form.Design) { d.Calendar[1].At.Date++ }), Dates, ThinkAgain,
			"calendar/closes", 0},
		"an hour the clocks jump over": {dated(func(d *form.Design) {
			d.Calendar = append(d.Calendar, form.Moment{Key: "talk", Label: "the talk",
				At: calendar.At(calendar.NewDate(2027, 3, 28), 1, 30)})
		}), Dates, ThinkAgain, "calendar/talk", 0},
		"two days for checks": {dated(func(d *form.Design) { d.Calendar[2].At = day(4, 13) }), Dates, ThinkAgain,
			"calendar/checks-by", 0},
		"a letter's field": {dated(func(d *form.Design) { d.Letters[2].Body = "Dear {{firstname}}" }), Letters,
			CannotOpen, "letters/awarded", 0},
		"no letter":  {dated(func(d *form.Design) { d.Letters = d.Letters[:4] }), Letters, CannotOpen, "letters", 0},
		"no address": {dated(func(d *form.Design) { d.Contact = "" }), Letters, CannotOpen, "", 0},
		"files that cross": {asking(ask("deed", form.File, form.Fact, func(q *form.Question) {
			q.Limits.Else.Slot = slotOf()
			q.Limits.Else.Slot.FilesLeast, q.Limits.Else.Slot.FilesMost = 3, 2
		})), Sizes, CannotOpen, "sections/all/questions/deed", 0},
		"let in by the check and refused at the end": {func() *form.Design {
			d := asking(ask("start", form.Date, form.Fact))
			d.Rules = []form.Rule{rule("soon", condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "start"},
				Rel: condition.More, Other: &condition.Ref{Fixed: condition.Today}}})}
			return d
		}(), LetInRefused, ThinkAgain, "rules/soon", 1},
		"an award that asks what nobody is asked": {func() *form.Design {
			d := asking(ask("who", form.Choice, form.Fact), ask("papers", form.Choice, form.Fact,
				when(condition.Cond{All: []condition.Cond{is("who", "body"), is("who", "person")}})))
			d.Awards = []form.Award{{Key: "prize", Label: "Prize", Places: 1,
				Match: condition.Cond{Any: []condition.Cond{is("who", "body"), is("papers", "body")}}}}
			return d
		}(), AskedNobody, ThinkAgain, "awards/prize", 1},
		"a letter due before anybody can be asked": {asking(ask("vouch", form.Referee, form.Fact, func(q *form.Question) {
			q.Limits.Else.Referees, q.Ask = 1, &form.Ask{Wants: "a letter", By: &form.Day{On: calendar.NewDate(2027, 2, 1)}}
		})), Dates, CannotOpen, "sections/all/questions/vouch", 0},
		"a ceiling of aid below the least request": {asking(ask("sum", form.Money, form.Chosen, func(q *form.Question) {
			q.Limits.Else.Least = new(int64(500_000))
		}), ask("aid", form.Aid, form.Fact, func(q *form.Question) {
			q.Aid = &form.AidRule{Years: 3, Ceiling: 499_999, Request: "sum"}
		})), AidOver, CannotOpen, "sections/all/questions/aid", 0},
		"a ceiling of aid below the most": {asking(ask("sum", form.Money, form.Chosen, func(q *form.Question) {
			q.Limits.Else.Least, q.Limits.Else.Most = new(int64(500_000)), new(int64(500_001))
		}), ask("aid", form.Aid, form.Fact, func(q *form.Question) {
			q.Aid = &form.AidRule{Years: 3, Ceiling: 500_000, Request: "sum"}
		})), AidOver, Note, "sections/all/questions/aid", 0},
		"a letter that nobody waits for": {asking(ask("vouch", form.Referee, form.Fact, func(q *form.Question) {
			q.Limits.Else.Referees, q.Ask = 1, &form.Ask{Wants: "a letter", By: &form.Day{Key: form.ChecksBy}}
		})), Dates, Note, "sections/all/questions/vouch", 0},
		"a letter due too late": {asking(ask("vouch", form.Referee, form.Fact, func(q *form.Question) {
			q.Limits.Else.Referees, q.Ask = 1, &form.Ask{Wants: "a letter", By: &form.Day{Key: form.AnswerOn}, Waits: true}
		})), Dates, ThinkAgain, "sections/all/questions/vouch", 0},
	} {
		for i := range c.d.Sections[0].Questions {
			if q := &c.d.Sections[0].Questions[i]; q.Kind == form.File && q.Limits.Else.Slot == nil {
				q.Limits.Else.Slot = slotOf()
			}
		}
		f := compiled(t, c.d)
		r := Run(context.Background(), f)
		i := slices.IndexFunc(r.Findings, func(x Finding) bool {
			return x.Code == c.code &&
				(c.path == "" || x.Path == c.path)
		})
		if i < 0 {
			t.Errorf("%s: not found; found %+v", what, r.Findings)
			continue
		}
		x := r.Findings[i]
		if x.Grade != c.grade || c.because > 0 && len(x.Because) != c.because {
			t.Errorf("%s: %s with %d parts: %+v", what, x.Grade, len(x.Because), x.Because)
		}
		if c.grade == CannotOpen == r.Opens() {
			t.Errorf("%s: may open: %v", what, r.Opens())
		}
		if x.Example != nil && (c.code == Trap || c.code == CannotAnswer) {
			if path := f.Walk(x.Example.At(f, x.Stage)); len(path.Obstacles) == 0 {
				t.Errorf("%s: the example %v can send", what, x.Example.Says)
			}
		}
		for _, m := range x.Mends {
			if again := mended(t, c.d, m); slices.ContainsFunc(again.Findings,
				func(y Finding) bool { return y.Code == x.Code && y.Path == x.Path }) {
				t.Errorf("%s: %q does not mend it", what, m.Says)
			}
		}
		for _, b := range x.Because {
			if b.Says == "" {
				t.Errorf("%s: nothing is said of %s", what, b.Path)
			}
		}
	}
}

func dated(change func(*form.Design)) *form.Design {
	d := asking(ask("who", form.Choice, form.Fact))
	change(d)
	return d
}

func mended(t *testing.T, d *form.Design, m Mend) *Report {
	t.Helper()
	raw, _, err := design.Apply(encode(d), m.Ops)
	if err != nil {
		t.Fatalf("%s: %v", m.Says, err)
	}
	again := new(form.Design)
	if err := json.Unmarshal(raw, again); err != nil {
		t.Fatal(err)
	}
	return Run(context.Background(), compiled(t, again))
}

// Every core is minimal: it makes the goal impossible, and no longer does when
// any part is left out.
func TestCoresAreMinimal(t *testing.T) {
	n := 0
	for seed := range uint64(300) {
		f := compiled(t, random(seed, seed%3 == 2))
		p := &prover{ctx: context.Background(), f: f, report: &Report{}}
		p.names.Form = f
		p.w = newWorld(newFormula(), f, map[string]lit{})
		p.w.encode()
		for _, st := range p.w.questions {
			if a, _ := p.ask(st.asked.yes); a != impossible {
				continue
			}
			because := p.core(st.asked.yes)
			var sels []lit
			for path, s := range p.w.sel {
				if slices.ContainsFunc(because, func(r Reason) bool { return r.Path == p.reason(path).Path }) {
					sels = append(sels, s)
				}
			}
			if a, _ := p.w.solve(p.ctx, append(slices.Clone(sels), st.asked.yes)...); a != impossible {
				t.Errorf("seed %d, %s: its core does not suffice", seed, st.path)
			}
			n++
			if len(sels) != len(because) { // a part with several literals: all of them count
				continue
			}
			for i := range sels {
				less := slices.Delete(slices.Clone(sels), i, i+1)
				if a, _ := p.w.solve(p.ctx, append(less, st.asked.yes)...); a == impossible {
					t.Errorf("seed %d, %s: its core holds %s without need", seed, st.path, because[i].Path)
				}
			}
		}
	}
	if n < 5 {
		t.Errorf("only %d cores were looked at", n)
	}
}

// The simplex against small systems that can be looked through.
func TestSumsAgainstLooking(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 400 {
		x, y, z := &number{low: -3, high: 3}, &number{low: -3, high: 3}, &number{low: 0, high: 2}
		numbers := []*number{x, y, z}
		var bounds []bound
		for _, n := range numbers {
			bounds = append(bounds, bound{[]term{{1, n}}, n.low, 0}, bound{[]term{{-1, n}}, -n.high, 0})
		}
		for range 2 + r.IntN(3) {
			var of []term
			for _, n := range numbers {
				if k := int64(r.IntN(5) - 2); k != 0 {
					of = append(of, term{k, n})
				}
			}
			if len(of) > 0 {
				bounds = append(bounds, bound{of, int64(r.IntN(9) - 4), 0})
			}
		}
		fits := func(at map[*number]int64) bool {
			for _, b := range bounds {
				sum := int64(0)
				for _, t := range b.terms {
					sum += t.k * at[t.x]
				}
				if sum < b.least {
					return false
				}
			}
			return true
		}
		want := false
		for a := int64(-3); a <= 3; a++ {
			for b := int64(-3); b <= 3; b++ {
				for c := int64(0); c <= 2; c++ {
					want = want || fits(map[*number]int64{x: a, y: b, z: c})
				}
			}
		}
		at, ok := fulfil(bounds)
		if ok != want {
			t.Fatalf("%v: possible %v, want %v", bounds, ok, want)
		}
		if ok && len(at) == 3 && !fits(at) {
			t.Fatalf("%v is no solution", at)
		}
	}
	if _, ok := corner([]bound{{[]term{{1, &number{}}}, 1, 0}}); !ok {
		t.Error("one bound alone is possible")
	}
	if new(big.Rat).SetInt64(1).Sign() != 1 {
		t.Error("rationals")
	}
}

// Wide is a design of 200 questions, 40 of which decide, and 20 rules.
func Wide() *form.Design {
	d := bare()
	for s := range 10 {
		sec := form.Section{Key: form.Key(fmt.Sprintf("s%d", s)), Label: fmt.Sprintf("Section %d", s)}
		for q := range 20 {
			key := form.Key(fmt.Sprintf("q%d-%d", s, q))
			switch {
			case q == 0:
				sec.Questions = append(sec.Questions, ask(key, form.Choice, form.Fact))
			case q == 1:
				sec.Questions = append(sec.Questions, ask(key, form.YesNo, form.Chosen))
			case q == 2:
				sec.Questions = append(sec.Questions, ask(key, form.Money, form.Chosen, least(1_000), most(90_000)))
			case q == 3:
				sec.Questions = append(sec.Questions, ask(key, form.Date, form.Chosen))
			default:
				c := is(form.Key(fmt.Sprintf("q%d-0", s)), []string{"body", "person", "school"}[q%3])
				if q%4 == 0 {
					c = condition.Cond{Any: []condition.Cond{c, compare(form.Key(fmt.Sprintf("q%d-2", s)), condition.AtLeast,
						int64(5_000*q))}}
				}
				sec.Questions = append(sec.Questions, ask(key, form.Short, form.Fact, when(c)))
			}
		}
		d.Sections = append(d.Sections, sec)
	}
	for i := range 20 {
		s := i % 10
		holds := condition.Cond{Any: []condition.Cond{is(form.Key(fmt.Sprintf("q%d-0", s)), "body"),
			says(form.Key(fmt.Sprintf("q%d-1", s)), true)}}
		if i >= 10 {
			on := calendar.NewDate(2027, 7, i)
			holds = condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: form.Key(fmt.Sprintf("q%d-3", s))},
				Rel: condition.AtLeast, Value: &condition.Value{Date: on}}}
		}
		d.Rules = append(d.Rules, rule(form.Key(fmt.Sprintf("r%d", i)), holds))
	}
	return d
}
