package proof

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// maker makes small designs at random.
type maker struct {
	*rand.Rand
	d     *form.Design
	refs  []condition.Ref // that may be read, so far
	kinds map[condition.Ref]condition.Type
}

func day(m time.Month, d int) calendar.Wall { return calendar.At(calendar.NewDate(2027, m, d), 16, 0) }

// bare is a design that asks nothing yet.
func bare() *form.Design {
	return &form.Design{Schema: form.Schema, Key: "round", Kind: "grant", Name: "Round", Programme: "Programme",
		Prefix: "RND", Contact: "office@trust.example", Zone: "Europe/Dublin",
		Currency: "EUR", Fund: 100_000, ReadersEach: 1, Criteria: []form.Criterion{{Key: "gain", Label: "Gain", Weight: 100,
			Steps: []string{"none", "some"}}},
		Calendar: []form.Moment{{Key: form.Opens, Label: "the opening", At: day(3, 1)},
			{Key: form.Closes, Label: "the closing", At: day(4, 9)}, {Key: form.ChecksBy, Label: "the end of checks",
				At: day(4, 23)},
			{Key: form.ReadingEnd, Label: "the end of reading", At: day(5, 7)}, {Key: form.AnswerOn, Label: "the answer",
				At: day(5, 21)}},
		Stages: []form.Stage{{Key: "writing", Label: "Writing", Does: form.Apply, From: form.Opens, To: form.Closes}},
		Letters: []form.Letter{{Key: "received", Subject: "In", Body: "In."},
			{Key: "not-eligible", Subject: "No", Body: "No."}, {Key: "awarded", Subject: "Yes", Body: "Yes."},
			{Key: "reserve", Subject: "Wait", Body: "Wait."}, {Key: "not-awarded", Subject: "No", Body: "No."}}}
}

func (m *maker) number(n int) condition.Value {
	return condition.Value{Number: &condition.Number{Num: int64(n), Den: 1}}
}

// test reads something asked before.
func (m *maker) test() condition.Cond {
	r := m.refs[m.IntN(len(m.refs))]
	t := condition.Test{Of: r}
	typ := m.kinds[r]
	rels := condition.RelsOf(typ)
	t.Rel = rels[m.IntN(len(rels))]
	if typ == condition.TypeText {
		t.Rel = []condition.Rel{condition.Is, condition.IsNot, condition.In}[m.IntN(3)]
	}
	v := condition.Value{}
	option := func() string { return string('a' + byte(m.IntN(3))) }
	switch typ {
	case condition.TypeYes:
		yes := m.IntN(2) == 0
		v.Yes = &yes
	case condition.TypeNumber:
		v = m.number(m.IntN(5))
	default:
		v.Text = option()
		if t.Rel.TakesList() {
			v = condition.Value{List: []string{option(), option()}}
		}
	}
	t.Value = &v
	if typ == condition.TypeNumber && m.IntN(4) == 0 { // against another number
		share := func(r condition.Ref) bool { // a share against an answer is a product
			return slices.ContainsFunc(m.d.Figures, func(x form.Figure) bool { return x.Key == r.Figure && x.Op == form.Share })
		}
		for _, o := range m.refs {
			if o != r && m.kinds[o] == condition.TypeNumber && !share(o) && !share(r) {
				t.Value, t.Other = nil, &o
			}
		}
	}
	return condition.Cond{Test: &t}
}

func (m *maker) cond(depth int) condition.Cond {
	if depth == 0 || m.IntN(2) == 0 {
		return m.test()
	}
	kids := []condition.Cond{m.cond(depth - 1), m.cond(depth - 1)}
	switch m.IntN(4) {
	case 0:
		return condition.Cond{All: kids}
	case 1:
		return condition.Cond{Any: kids}
	case 2:
		return condition.Cond{None: kids}
	}
	return condition.Cond{AtLeast: &condition.Count{N: 2, Of: append(kids, m.test())}}
}

func (m *maker) question(i int) form.Question {
	kind := []form.Kind{form.YesNo, form.Choice, form.Number, form.Several}[m.IntN(4)]
	numbers := 0
	for _, s := range m.d.Sections {
		for _, q := range s.Questions {
			if q.Kind == form.Number {
				numbers++
			}
		}
	}
	if kind == form.Number && numbers == 2 {
		kind = form.YesNo
	}
	q := form.Question{Key: form.Key(fmt.Sprintf("q%d", i)), Kind: kind, Label: fmt.Sprintf("Question %d", i),
		Seen:   form.ToReaders,
		Nature: []form.Nature{form.Fact, form.Chosen}[m.IntN(2)], Blank: []form.Blank{form.Required, form.Required,
			form.MeansNo, form.MeansUnknown}[m.IntN(4)]}
	if kind == form.Choice || kind == form.Several {
		q.Options = []form.Option{{Key: "a", Label: "A"}, {Key: "b", Label: "B"}, {Key: "c", Label: "C"}}
	}
	if m.IntN(5) == 0 {
		q.NonAnswers = []form.NonAnswer{form.NotKnown}
	}
	if len(m.refs) > 0 {
		if m.IntN(2) == 0 {
			q.Asked = m.cond(1)
		}
		if q.Blank != form.Required && m.IntN(2) == 0 {
			q.Must = m.cond(1)
		}
	}
	limits := func() form.Limits {
		l := form.Limits{}
		switch kind {
		case form.Number:
			least, most := int64(m.IntN(3)), int64(2+m.IntN(3))
			if m.IntN(2) == 0 {
				l.Least = &least
			}
			if m.IntN(2) == 0 {
				l.Most = &most
			}
		case form.Several:
			l.PickLeast = m.IntN(5)
			if m.IntN(2) == 0 {
				l.PickMost = max(1+m.IntN(3), l.PickLeast)
			}
		}
		return l
	}
	if m.IntN(2) == 0 {
		q.Limits.Else = limits()
	}
	if len(m.refs) > 0 && m.IntN(3) == 0 {
		q.Limits.When = []form.Case[form.Limits]{{If: m.cond(1), Then: limits()}}
	}
	return q
}

// random makes a design of a few questions, figures, rules and an award; or of
// two awards, of which one may ask for every one that fits.
func random(seed uint64, every bool) *form.Design {
	m := &maker{Rand: rand.New(rand.NewPCG(seed, 7)), d: bare(), kinds: map[condition.Ref]condition.Type{}}
	m.d.Sections = []form.Section{{Key: "all", Label: "All"}}
	n := 2 + m.IntN(3)
	if every {
		n = 2
	}
	var numbers, yeses []condition.Ref
	for i := range n {
		q := m.question(i)
		s := &m.d.Sections[len(m.d.Sections)-1]
		s.Questions = append(s.Questions, q)
		r := condition.Ref{Answer: q.Key}
		m.refs = append(m.refs, r)
		m.kinds[r] = form.KindOf(q.Kind).Type
		switch q.Kind {
		case form.Number:
			numbers = append(numbers, r)
		case form.YesNo:
			yeses = append(yeses, r)
		}
		figure := func(op form.FigureOp, of []condition.Ref) {
			key := form.Key(fmt.Sprintf("f%d", i))
			m.d.Figures = append(m.d.Figures, form.Figure{Key: key, Label: string(key), Op: op, Of: slices.Clone(of)})
			r := condition.Ref{Figure: key}
			m.refs, m.kinds[r] = append(m.refs, r), condition.TypeNumber
		}
		switch {
		case len(numbers) == 2 && m.IntN(2) == 0:
			figure([]form.FigureOp{form.Sum, form.Difference, form.LeastOf, form.MostOf, form.Share}[m.IntN(5)], numbers)
		case len(yeses) >= 2 && m.IntN(2) == 0:
			figure(form.CountWhere, yeses)
		}
		if i == 1 && m.IntN(3) == 0 {
			m.d.Sections = append(m.d.Sections, form.Section{Key: "more", Label: "More", Asked: m.cond(1)})
		}
	}
	if len(m.d.Sections[len(m.d.Sections)-1].Questions) == 0 {
		m.d.Sections = m.d.Sections[:1]
	}
	if every {
		m.awards()
	}
	for i := range 1 + m.IntN(2) {
		r := form.Rule{Key: form.Key(fmt.Sprintf("r%d", i)), Label: fmt.Sprintf("Rule %d", i), Holds: m.cond(2), Yes: "Yes.",
			No: "No.", Person: m.IntN(5) == 0}
		if m.IntN(4) == 0 {
			r.When = m.cond(1)
		}
		m.d.Rules = append(m.d.Rules, r)
	}
	if !every {
		m.d.Awards = []form.Award{{Key: "prize", Label: "Prize", Places: 1, Match: m.cond(1)}}
	}
	return m.d
}

// awards makes two, a question that picks them or every one that fits, and one
// that reads it.
func (m *maker) awards() {
	m.d.Awards = []form.Award{{Key: "a", Label: "A", Places: 1, Match: m.cond(1)},
		{Key: "b", Label: "B", Places: 1, Match: m.cond(1)}}
	picks := form.Question{Key: "picks", Kind: form.AwardPick, Label: "Picks", Seen: form.ToReaders, Nature: form.Chosen,
		Every: true,
		Blank: []form.Blank{form.Required, form.Required, form.MeansNo}[m.IntN(3)]}
	switch m.IntN(3) {
	case 0:
		picks.Limits.Else.PickLeast = 2
	case 1:
		picks.Limits.Else.PickMost = 1
	}
	r := condition.Ref{Answer: "picks"}
	rel := condition.RelsOf(condition.TypeSet)[m.IntN(2)]
	value := condition.Value{Text: "a"}
	reads := form.Question{Key: "reads", Kind: form.YesNo, Label: "Reads", Seen: form.ToReaders, Nature: form.Chosen,
		Blank: form.Required,
		Asked: condition.Cond{Test: &condition.Test{Of: r, Rel: rel, Value: &value}}}
	if rel.TakesList() {
		reads.Asked.Test.Value = &condition.Value{List: []string{"a", "b"}}
	}
	s := &m.d.Sections[len(m.d.Sections)-1]
	s.Questions = append(s.Questions, picks, reads)
	m.refs = append(m.refs, r)
	m.kinds[r] = condition.TypeSet
}

// seen is what brute force finds of a design.
type seen struct {
	asked, notAsked, askedEligible, fits, mustFit map[form.Key]bool
	section                                       map[form.Key]bool
	award, eligible                               bool
	in, through                                   map[string]bool // by facts: an eligible application; one that can also be sent
	inside                                        map[string]bool // what within said, by question and value
}

// outcomes walks every applicant there is.
func outcomes(f *form.Form) seen {
	out := seen{map[form.Key]bool{}, map[form.Key]bool{}, map[form.Key]bool{}, map[form.Key]bool{}, map[form.Key]bool{},
		map[form.Key]bool{}, false, false, map[string]bool{}, map[string]bool{}, map[string]bool{}}
	var questions []*form.Question
	for i := range f.Design.Sections {
		for j := range f.Design.Sections[i].Questions {
			questions = append(questions, &f.Design.Sections[i].Questions[j])
		}
	}
	filled := &form.Filled{Answers: map[form.Place]form.Answer{}}
	truth := map[form.Key]form.Answer{}
	var try func(i int)
	try = func(i int) {
		if i == len(questions) {
			out.add(f, questions, filled, truth)
			return
		}
		q := questions[i]
		at := form.Place{Question: q.Key}
		var answers []form.Answer
		switch q.Kind {
		case form.YesNo:
			answers = []form.Answer{{Raw: "yes"}, {Raw: "no"}}
		case form.Choice:
			answers = []form.Answer{{Raw: "a"}, {Raw: "b"}, {Raw: "c"}}
		case form.Several:
			for _, s := range []string{"a", "b", "c", "a\nb", "a\nc", "b\nc", "a\nb\nc"} {
				answers = append(answers, form.Answer{Raw: s})
			}
		case form.AwardPick:
			for _, s := range []string{"a", "b", "a\nb", "every-award", "a\nevery-award", "b\nevery-award",
				"a\nb\nevery-award"} {
				answers = append(answers, form.Answer{Raw: s})
			}
		case form.Number:
			for n := -3; n <= 9; n++ {
				answers = append(answers, form.Answer{Raw: fmt.Sprint(n)})
			}
		}
		if q.Blank != form.Required && q.Nature == form.Chosen {
			answers = append(answers, form.Answer{})
		}
		for _, n := range q.NonAnswers {
			answers = append(answers, form.Answer{Non: n})
		}
		for _, a := range answers {
			filled.Answers[at], truth[q.Key] = a, a
			try(i + 1)
			if q.Blank != form.Required && q.Nature == form.Fact { // whether a fact is told is a choice
				filled.Answers[at] = form.Answer{}
				try(i + 1)
			}
		}
	}
	try(0)
	return out
}

func (s *seen) add(f *form.Form, questions []*form.Question, filled *form.Filled, truth map[form.Key]form.Answer) {
	path := f.Walk(filled)
	eligible := true
	for _, r := range path.Rules {
		eligible = eligible && (r.Outcome == form.Holds || r.Outcome == form.Person)
	}
	s.eligible = s.eligible || eligible
	faulty := map[form.Key]bool{}
	for _, o := range path.Obstacles {
		if o.Code != form.CodeNotEligible {
			faulty[o.Place.Question] = true
		}
	}
	conceivable := true
	var facts strings.Builder
	for _, q := range questions {
		st := path.Find(q.Key)
		a := truth[q.Key]
		if q.Nature == form.Fact {
			fmt.Fprintf(&facts, "%s=%q/%s;", q.Key, a.Raw, a.Non)
			if len(q.Limits.When) == 0 && a.Non == "" && a.Raw != "" && !s.within(q, a.Raw) {
				conceivable = false
			}
		}
		if st.Asked != condition.Yes {
			continue
		}
		s.asked[q.Key] = true
		s.askedEligible[q.Key] = s.askedEligible[q.Key] || eligible
		if st.Must != condition.No {
			s.mustFit[q.Key] = true
			s.fits[q.Key] = s.fits[q.Key] || !faulty[q.Key]
		}
	}
	for i, sec := range path.Sections {
		if sec.Asked == condition.Yes {
			s.section[sec.Key] = true
			for _, q := range f.Design.Sections[i].Questions {
				if path.Find(q.Key).Asked != condition.Yes {
					s.notAsked[q.Key] = true
				}
			}
		} else {
			s.notAsked[sec.Key] = true
		}
	}
	s.award = s.award || eligible && path.Awards[0] != condition.No && !unknownByBlank(f, filled)
	if conceivable && eligible {
		s.in[facts.String()] = true
		if len(path.Obstacles) == 0 {
			s.through[facts.String()] = true
		}
	}
}

// unknownByBlank reports an award whose criterion a blank leaves open.
func unknownByBlank(f *form.Form, filled *form.Filled) bool {
	return f.Walk(filled).Awards[0] == condition.Unknown && !declaredOnly(f, filled)
}

// declaredOnly reports that only declared answers can have left it open.
func declaredOnly(f *form.Form, filled *form.Filled) bool {
	blank := false
	path := f.Walk(filled)
	for i := range path.Questions {
		blank = blank || path.Questions[i].Presence == condition.Blank || path.Questions[i].Presence == condition.Unsettled
	}
	return !blank
}

// within reports a value inside its question's own limits.
func (s *seen) within(q *form.Question, raw string) bool {
	key := string(q.Key) + "=" + raw
	if is, known := s.inside[key]; known {
		return is
	}
	alone := bare()
	copied := *q
	copied.Asked, copied.Must, copied.Blank = condition.Cond{}, condition.Cond{}, form.Required
	alone.Sections = []form.Section{{Key: "all", Label: "All", Questions: []form.Question{copied}}}
	g, err := form.Compile(alone)
	if err != nil {
		panic(err)
	}
	answers := map[form.Place]form.Answer{{Question: q.Key}: {Raw: raw}}
	s.inside[key] = len(g.Walk(&form.Filled{Answers: answers}).Obstacles) == 0
	return s.inside[key]
}

// The proof against brute force through the real form, on random designs: what
// is never asked, asked always, asked only of the refused, cannot be answered,
// whom the rules leave, the award, and the traps. Nothing in these designs may
// be undecided.
func TestAgainstBruteForce(t *testing.T) {
	designs := uint64(100)
	if testing.Short() {
		designs = 40
	}
	counted := map[Code]int{}
	for seed := range designs + designs/2 {
		d := random(seed, seed >= designs) // the last third: one may ask for every award that fits
		f, err := form.Compile(d)
		if err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		brute := outcomes(f)
		ctx, stop := context.WithTimeout(context.Background(), 20*time.Second)
		r := Run(ctx, f)
		stop()
		if len(r.Open) > 0 || len(r.Unseen) > 0 {
			t.Errorf("seed %d: undecided: %v, unseen %v", seed, r.Open, r.Unseen)
		}
		has := func(c Code, path string) bool {
			return slices.ContainsFunc(r.Findings, func(x Finding) bool { return x.Code == c && (path == "" || x.Path == path) })
		}
		agree := func(what string, c Code, path string, want bool) {
			t.Helper()
			if want {
				counted[c]++
			}
			if got := has(c, path); got != want {
				t.Errorf("seed %d: %s %s: the proof says %v, brute force %v", seed, what, path, got, want)
			}
		}
		agree("contradictory rules", Contradiction, "", !brute.eligible)
		for i := range d.Sections {
			s := &d.Sections[i]
			if !s.Asked.Always() {
				agree("never asked", NeverAsked, "sections/"+string(s.Key), !brute.section[s.Key])
				agree("always asked", AlwaysAsked, "sections/"+string(s.Key),
					brute.section[s.Key] && !brute.notAsked[s.Key] && brute.eligible)
			}
			for j := range s.Questions {
				q := &s.Questions[j]
				path := pathOf(s.Key, q.Key)
				if !q.Asked.Always() && brute.section[s.Key] {
					agree("never asked", NeverAsked, path, !brute.asked[q.Key])
					if brute.asked[q.Key] {
						agree("only of the refused", OnlyRefused, path, !brute.askedEligible[q.Key])
						if brute.askedEligible[q.Key] {
							agree("always asked", AlwaysAsked, path, !brute.notAsked[q.Key])
						}
					}
				}
				agree("cannot be answered", CannotAnswer, path, brute.mustFit[q.Key] && !brute.fits[q.Key])
			}
		}
		if brute.eligible {
			agree("nobody's award", NobodysAward, "awards/"+string(d.Awards[0].Key), !brute.award && !d.Awards[0].Match.Always())
			trapped := false
			for facts := range brute.in {
				trapped = trapped || !brute.through[facts]
			}
			got := has(Trap, "") || has(NobodySends, "")
			if trapped {
				counted[Trap]++
			}
			if got != trapped {
				t.Errorf("seed %d: a trap: the proof says %v, brute force %v", seed, got, trapped)
			}
		}
	}
	for _, c := range []Code{NeverAsked, OnlyRefused, AlwaysAsked, CannotAnswer, Contradiction, NobodysAward, Trap} {
		if counted[c] < 2 && !testing.Short() {
			t.Errorf("%s came up %d times; the designs are too tame", c, counted[c])
		}
	}
	t.Logf("found: %v", counted)
}

func slotOf() *slot.Limits { return &slot.Limits{SizeMost: 1 << 20} }
