package proof

import (
	"context"
	"maps"
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/say"
)

// Step is one change of a choice on the nearest way to yes.
type Step struct {
	Question form.Key
	Label    string
	Says     string // “ask at most €40,000”, in the words of the question
}

// mostSteps is how many choices somebody is asked to change at once.
const mostSteps = 4

// Nearest finds the fewest changes of choices, never of facts, after which an
// applicant who is refused by a rule, or whose answers lie outside their
// limits, is neither; numbers and dates move as little as they can. Where several
// ways are equally short, up to three of them. nil when there is no such way,
// when nothing stands in it, or when it cannot be decided.
func Nearest(ctx context.Context, f *form.Form, filled *form.Filled) [][]Step {
	path := f.Walk(filled)
	if !stopped(path) {
		return nil
	}
	p := &prover{ctx: ctx, f: f, report: &Report{}, names: say.Names{Form: f}}
	p.w = newWorld(newFormula(), f, map[string]lit{})
	p.w.encode()
	n := &nearest{p: p, path: path, filled: filled}
	return n.ways(f.Place(filled.Stage))
}

// mostWays is how many equally short ways are shown.
const mostWays = 3

// stopped reports a rule that refuses, or an answer that is there and wrong.
func stopped(path *form.Path) bool {
	return slices.ContainsFunc(path.Obstacles, func(o form.Obstacle) bool {
		return o.Code == form.CodeNotEligible ||
			outside(o.Code)
	})
}

// outside are the obstacles of an answer that lies outside its limits.
func outside(c form.Code) bool {
	return slices.Contains([]form.Code{form.CodeTooLittle, form.CodeTooMuch, form.CodeTooEarly, form.CodeTooLate,
		form.CodeTooOld, form.CodeTooFewPicked, form.CodeTooManyPicked}, c)
}

type nearest struct {
	p      *prover
	path   *form.Path
	filled *form.Filled
	goals  []lit
	choice []*asked // given choices, with whether each stays
	same   []lit
}

func (n *nearest) ways(stage int) (out [][]Step) {
	w := n.p.w
	n.goals = []lit{w.eligible(stage)}
	for _, st := range w.questions {
		if st.stage > stage {
			continue
		}
		s := n.path.Find(st.q.Key)
		if s.Presence == condition.Given || s.Presence == condition.Declared {
			n.goals = append(n.goals, w.or(-st.asked.yes, w.or(st.says(), w.or(st.leaves(), st.fits))))
		}
		is, given := n.as(st, s)
		switch {
		case !given:
		case st.q.Nature == form.Fact:
			n.goals = append(n.goals, is)
		default:
			n.choice, n.same = append(n.choice, st), append(n.same, is)
		}
	}
	n.fixed()
	changed := make([]lit, len(n.same))
	for i, l := range n.same {
		changed[i] = -l
	}
	for k := 1; k <= min(mostSteps, len(changed)); k++ {
		goals := append(slices.Clone(n.goals), -w.atLeast(k+1, changed))
		for range mostWays {
			a, m := n.p.ask(goals...)
			if a != possible {
				break
			}
			if steps := n.told(m); steps != nil {
				out = append(out, steps)
			}
			var again []lit // another way changes something else
			for i, l := range n.same {
				if !m.holds(l) {
					again = append(again, n.same[i])
				}
			}
			goals = append(goals, w.or(again...))
		}
		if len(out) > 0 {
			return out
		}
	}
	return nil
}

// fixed holds the day and the count of others to what they are.
func (n *nearest) fixed() {
	w := n.p.w
	for key, c := range w.cells {
		name, is := strings.CutPrefix(key, "fixed/")
		v, ok := c.value.(amount)
		if !is || !ok {
			continue
		}
		at := map[condition.Fixed]int64{condition.Today: int64(n.filled.Today),
			condition.OthersInRound:     int64(n.filled.Others.Round),
			condition.OthersInProgramme: int64(n.filled.Others.Programme)}[condition.Fixed(name)]
		if condition.Fixed(name) == condition.Today {
			at = min(max(at, v.x.low), v.x.high)
		}
		n.goals = append(n.goals, w.equals(v.x, at))
	}
}

// as is the literal "it is answered as it is"; false when nothing is given.
func (n *nearest) as(st *asked, s *form.QuestionState) (lit, bool) {
	w := n.p.w
	if s.Presence == condition.Declared {
		return w.and(st.says(), -st.leaves()), true
	}
	if s.Presence != condition.Given || st.cell.value == nil {
		return never, false
	}
	here := w.and(-st.says(), -st.leaves())
	switch v := st.cell.value.(type) {
	case *finite:
		i := n.find(v, s.Value)
		if i < 0 {
			return never, false
		}
		return w.and(here, v.is[i]), true
	case *picks:
		of := []lit{here}
		others := 0
		for i, k := range v.keys {
			of = append(of, signed(v.is[i], slices.Contains(s.Value.List, k)))
		}
		for _, k := range s.Value.List {
			if !slices.Contains(v.keys, k) {
				others++
			}
		}
		for i, l := range v.extra {
			of = append(of, signed(l, i < others))
		}
		return w.and(of...), true
	case amount:
		at, ok := n.number(s)
		if !ok {
			return never, false
		}
		return w.and(here, w.equals(v.x, at)), true
	}
	return never, false
}

func (n *nearest) number(s *form.QuestionState) (int64, bool) {
	switch {
	case s.Value.Number != nil:
		return s.Value.Number.Num, true
	case !s.Value.Date.IsZero():
		return int64(s.Value.Date), true
	}
	return 0, false
}

// find is the value that conditions cannot tell from one that was given.
func (n *nearest) find(v *finite, has condition.Value) int {
	for i, o := range v.vals {
		switch {
		case has.Yes != nil && o.Yes != nil && *has.Yes == *o.Yes, has.Number != nil && o.Number != nil &&
			has.Number.Compare(*o.Number) == 0:
			return i
		case has.Yes == nil && has.Number == nil && o.Text == has.Text:
			return i
		}
	}
	if has.Text == "" {
		return -1
	}
	member := func(text string) string {
		out := ""
		for i := range n.p.f.Design.Lists {
			if n.p.f.List(n.p.f.Design.Lists[i].Key).Holds(text) {
				out += "1"
			} else {
				out += "0"
			}
		}
		return out
	}
	for i := len(v.vals) - 1; i >= 0; i-- { // the last is one that no condition names
		if member(v.vals[i].Text) == member(has.Text) {
			return i
		}
	}
	return -1
}

// told puts the changes into words, having walked them.
func (n *nearest) told(m model) []Step {
	w, f := n.p.w, n.p.f
	goals := slices.Clone(n.goals)
	var moved []*asked
	for i, st := range n.choice {
		if m.holds(n.same[i]) {
			goals = append(goals, n.same[i])
		} else {
			moved = append(moved, st)
		}
	}
	after := *n.filled
	after.Answers = maps.Clone(n.filled.Answers)
	var out []Step
	for _, st := range moved {
		s := n.path.Find(st.q.Key)
		says := ""
		switch v := st.cell.value.(type) {
		case amount:
			to, up, hold, ok := n.nearby(goals, st, s, v)
			if !ok {
				return nil
			}
			goals = append(goals, hold)
			says = n.span(st.q, to, up)
			raw := f.Typed(st.q, st.q.ValueOf(to))
			after.Answers[form.Place{Question: st.q.Key}] = form.Answer{Raw: raw}
		default:
			if m.holds(st.leaves()) {
				says = "leave it empty"
				delete(after.Answers, form.Place{Question: st.q.Key})
				break
			}
			for k := range after.Answers {
				if k.Question == st.q.Key {
					delete(after.Answers, k)
				}
			}
			values, ok := w.numbersOf(m)
			if !ok || !w.put(&after, st.q, st.cell.value, m, values) {
				return nil
			}
			if says = n.picked(st.q, v, s, m); says == "" {
				return nil
			}
		}
		out = append(out, Step{st.q.Key, st.q.Label, says})
	}
	if !n.walked(&after) {
		return nil
	}
	return out
}

// walked reports that the real form agrees: nothing refuses any more.
func (n *nearest) walked(after *form.Filled) bool {
	path := n.p.f.Walk(after)
	for _, o := range path.Obstacles {
		if o.Code == form.CodeNotEligible || outside(o.Code) {
			return false
		}
	}
	return true
}

// nearby is the value nearest to the one given at which the goals hold; up says
// that it may be more as well.
func (n *nearest) nearby(goals []lit, st *asked, s *form.QuestionState, v amount) (to int64, up bool, hold lit,
	ok bool) {
	w := n.p.w
	now, _ := n.number(s)
	type region struct {
		low, high int64
		is        lit
	}
	var regions []region
	bounds := append([]int64{v.x.low}, v.x.order...)
	for i, low := range bounds {
		high := v.x.high
		if i+1 < len(bounds) {
			high = bounds[i+1] - 1
		}
		if low <= high {
			regions = append(regions, region{low, high, w.and(w.reaches(v.x, low), -w.reaches(v.x, high+1))})
		}
	}
	distance := func(r region) int64 {
		switch {
		case now < r.low:
			return r.low - now
		case now > r.high:
			return now - r.high
		}
		return 0
	}
	slices.SortStableFunc(regions, func(a, b region) int {
		switch d := distance(a) - distance(b); {
		case d < 0:
			return -1
		case d > 0:
			return 1
		}
		return 0
	})
	for _, r := range regions {
		if a, _ := n.p.ask(append(slices.Clone(goals), r.is, w.and(-st.says(), -st.leaves()))...); a != possible {
			continue
		}
		if now < r.low {
			return r.low, true, r.is, true
		}
		return r.high, false, r.is, true
	}
	return 0, false, never, false
}

// span says where a number or date must go.
func (n *nearest) span(q *form.Question, to int64, up bool) string {
	text := n.p.names.Value(condition.Ref{Answer: q.Key}, q.ValueOf(to))
	switch day := q.Measure() == form.Days; {
	case day && up:
		return text + " or later"
	case day:
		return text + " or earlier"
	case up:
		return "at least " + text
	}
	return "at most " + text
}

// picked says which option to take instead.
func (n *nearest) picked(q *form.Question, v value, s *form.QuestionState, m model) string {
	options := n.p.f.Options(q)
	label := func(k string) string {
		if l := form.LabelOf(options, k); l != "" {
			return "“" + l + "”"
		}
		return "“" + k + "”"
	}
	switch v := v.(type) {
	case *finite:
		i := v.picked(m)
		if i < 0 {
			return ""
		}
		if has := v.vals[i]; has.Yes != nil {
			return map[bool]string{true: "yes", false: "no"}[*has.Yes]
		} else if has.Number == nil {
			return label(has.Text)
		}
	case *picks:
		var parts []string
		for i, k := range v.keys {
			switch was := slices.Contains(s.Value.List, k); {
			case was && !m.holds(v.is[i]):
				parts = append(parts, "without "+label(k))
			case !was && m.holds(v.is[i]):
				parts = append(parts, "with "+label(k))
			}
		}
		if len(parts) == 0 {
			return "fewer, or more"
		}
		return strings.Join(parts, " and ")
	}
	return ""
}
