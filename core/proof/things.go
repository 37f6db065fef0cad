package proof

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
)

// things finds awards and streams that nobody can have, and fees and criteria
// that never come up.
func (p *prover) things() {
	d := p.f.Design
	may := p.w.eligible(p.f.Place(""))
	if a, _ := p.ask(may); a != possible {
		return
	}
	for i, t := range p.w.awards {
		if p.ctx.Err() != nil {
			return
		}
		a := &d.Awards[i]
		if a.Match.Always() {
			continue
		}
		met := p.w.or(t.yes, t.person)
		if ans, _ := p.ask(may, met); ans == impossible {
			because := p.core(may, met)
			p.found(Finding{Grade: CannotOpen, Code: NobodysAward, Path: "awards/" + string(a.Key), Because: because,
				Says: "Nobody who may apply can be given “" + a.Label + "”: its criteria are met by nobody."})
		}
	}
	p.awardsRead()
	p.refusedLater()
	unlessSome := func(path, what string, c condition.Cond) {
		if c.Always() {
			return
		}
		t := p.w.guarded(path, c)
		p.models = nil // they do not know the new literals
		if a, _ := p.ask(p.w.or(t.yes, t.person)); a == impossible {
			thing, _, _ := strings.Cut(path[strings.IndexByte(path, '/')+1:], "/")
			p.found(Finding{Grade: ThinkAgain, Code: NeverHolds, Path: path[:strings.IndexByte(path, '/')+1] + thing,
				Because: p.core(p.w.or(t.yes, t.person)), Says: what})
		}
	}
	for _, x := range d.Fees {
		unlessSome("fees/"+string(x.Key)+"/offered",
			"The fee “"+x.Label+"” is never charged or offered: nobody meets its condition.", x.Offered)
	}
	for _, c := range d.Criteria {
		unlessSome("criteria/"+string(c.Key)+"/applies",
			"The criterion “"+c.Label+"” never applies: nobody meets its condition.", c.Applies)
	}
	for _, l := range d.Letters {
		unlessSome("letters/"+string(l.Key)+"/when",
			"The letter “"+l.Subject+"” goes to nobody: nobody meets its condition.", l.When)
	}
	for _, b := range d.Bodies {
		unlessSome("bodies/"+string(b.Key)+"/sees", "“"+b.Label+"” never sees a case: nobody meets its condition.", b.Sees)
	}
	stream := p.f.Supplying(condition.Stream)
	for _, st := range p.w.questions {
		v, ok := st.cell.value.(*finite)
		if stream == nil || st.q.Key != stream.Key || !ok {
			continue
		}
		for i, val := range v.vals {
			goal := []lit{may, st.asked.yes, v.is[i], p.w.sendable(p.f.Place(""))}
			if a, _ := p.ask(goal...); a == impossible {
				because := p.core(goal...)
				p.found(Finding{Grade: CannotOpen, Code: NobodysStream, Path: "streams/" + val.Text, Because: because,
					Says: "Nobody can apply in the stream “" + form.LabelOf(p.f.Options(st.q), val.Text) + "”."})
			}
		}
	}
}
