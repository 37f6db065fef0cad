package proof

import (
	"slices"

	"ulvant/core/form"
)

// refinements is how often a trap is looked for with one more set of choices
// that would have got somebody out of it.
const refinements = 16

// traps looks, stage by stage, for facts that let somebody in and never let
// them send.
func (p *prover) traps() {
	for _, s := range p.f.Applying() {
		if p.ctx.Err() != nil || p.trapIn(s.Key) {
			return
		}
	}
}

func (p *prover) trapIn(stage form.Key) (found bool) {
	place := p.f.Place(stage)
	before := always
	for _, s := range p.f.Applying() { // who comes here has sent what comes before
		if q := p.f.Place(s.Key); q < place {
			before = p.w.and(before, p.w.eligible(q), p.w.sendable(q))
		}
	}
	before = p.w.and(before, p.w.conceivable())
	eligible, both := p.w.eligible(place), p.w.and(p.w.eligible(place), p.w.sendable(place))
	p.models = nil
	if a, _ := p.ask(before, eligible); a != possible {
		return false // nobody may apply: said already
	}
	if a, _ := p.ask(before, both); a == impossible {
		_, m := p.ask(before, eligible)
		because := p.core(before, both)
		m = p.plainest(m, []lit{before, eligible}, because)
		p.found(Finding{Grade: CannotOpen, Code: NobodySends, Path: pathOr(because, "sections"), Because: because,
			Example: p.example(m, because), Stage: stage,
			Says: "Nobody can ever send: what is asked of everybody who may apply cannot all be answered."})
		return true
	}
	var stopped []lit
	for range refinements {
		a, m := p.ask(append([]lit{before, eligible}, stopped...)...)
		if a == impossible {
			return false
		}
		if a == undecided {
			break
		}
		facts := p.factsOf(m)
		goals := append(slices.Clone(facts), before, both)
		a, way := p.ask(goals...)
		switch a {
		case impossible:
			return p.trapped(stage, m, goals, append(slices.Clone(facts), before, eligible))
		case undecided:
			p.open("", "Whether anybody is let in and can never send could not be decided.")
			return true
		}
		other := p.w.share(p.choicesOf(way))
		stopped = append(stopped, -p.w.and(other.eligible(place), other.sendable(place)))
		p.models = nil
	}
	if p.ctx.Err() == nil {
		p.open("", "Whether anybody is let in and can never send could not be decided: too many ways out had to be tried.")
	}
	return true
}

func (p *prover) trapped(stage form.Key, m model, goals, in []lit) bool {
	because := p.core(goals...)
	m = p.plainest(m, in, because)
	x := Finding{Grade: CannotOpen, Code: Trap, Path: pathOr(because, "rules"), Because: because, Stage: stage,
		Example: p.example(m, because, p.factKeys(because)...),
		Says:    "A trap: somebody like this may apply, and can never send, whatever they choose."}
	if x.Example != nil {
		if path := p.f.Walk(x.Example.At(p.f, stage)); len(path.Obstacles) == 0 {
			p.open("", "Whether anybody is let in and can never send could not be decided.")
			return true
		}
	}
	p.found(x)
	return true
}

// plainest is a model that does everything right but what cannot be done: so
// that an example shows the finding and nothing else.
func (p *prover) plainest(m model, goals []lit, because []Reason) model {
	matter := p.matters(because)
	for _, st := range p.w.questions {
		if matter[st.q.Key] || st.ok == always {
			continue
		}
		if a, better := p.ask(append(goals, st.ok)...); a == possible {
			m, goals = better, append(goals, st.ok)
		}
	}
	return m
}

// conceivable: what a fact's own limits shut out, whatever else is answered, is
// taken to be no such fact: "from 0 to 100 points" says what points there are.
func (w *world) conceivable() lit {
	var of []lit
	for _, st := range w.questions {
		if st.q.Nature == form.Fact && len(st.q.Limits.When) == 0 {
			of = append(of, w.or(st.says(), st.fits))
		}
	}
	return w.and(of...)
}

// factKeys are the facts that a finding's parts hang on.
func (p *prover) factKeys(because []Reason) []form.Key {
	var out []form.Key
	for k := range p.matters(because) {
		if q := p.f.Question(k); q != nil && q.Nature == form.Fact {
			out = append(out, k)
		}
	}
	return out
}

// factsOf are the literals that hold somebody to their facts.
func (p *prover) factsOf(m model) []lit {
	var out []lit
	keep := func(l lit) {
		if l == always || l == never {
			return
		}
		out = append(out, signed(l, m.holds(l)))
	}
	value := func(v value) {
		switch v := v.(type) {
		case *finite:
			for _, l := range v.is {
				keep(l)
			}
		case *picks:
			for _, l := range v.all() {
				keep(l)
			}
		case amount:
			for _, c := range v.x.order {
				keep(v.x.cuts[c])
			}
		}
	}
	for _, st := range p.w.questions {
		if st.q.Nature != form.Fact {
			continue
		}
		keep(st.says())
		if st.cell.value != nil {
			value(st.cell.value)
		}
		for _, c := range p.f.Columns(st.q.Key) {
			if o := p.w.cells[string(st.q.Key)+"/"+string(c.Key)]; o != nil {
				value(o.value)
			}
		}
	}
	for key, c := range p.w.cells {
		if len(key) > 6 && key[:6] == "fixed/" {
			value(c.value)
		}
	}
	return out
}

// choicesOf are a model's choices, to be fixed in another world.
func (p *prover) choicesOf(m model) map[form.Key]choice {
	out := map[form.Key]choice{}
	values, _ := p.w.numbersOf(m)
	for _, st := range p.w.questions {
		if st.q.Nature == form.Fact {
			out[st.q.Key] = choice{blank: m.holds(st.leaves())}
			continue
		}
		c := choice{blank: m.holds(st.leaves()), declared: m.holds(st.says())}
		switch v := st.cell.value.(type) {
		case *finite:
			c.value = max(v.picked(m), 0)
		case *picks:
			for _, l := range v.chosen() {
				c.picks = append(c.picks, m.holds(l))
			}
			for _, l := range v.extra {
				if m.holds(l) {
					c.extra++
				}
			}
		case amount:
			c.number = values(v.x)
		}
		if b := p.w.budgets[st.q.Key]; b != nil {
			c.sums = map[form.Key]int64{}
			b.each(func(k form.Key, n *number) { c.sums[k] = values(n) })
		}
		out[st.q.Key] = c
	}
	return out
}
