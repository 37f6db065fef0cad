package proof

import (
	"ulvant/core/condition"
	"ulvant/core/form"
)

// refusedLater finds somebody whom every rule lets in when the round opens, and
// one refuses on its last day though nothing was answered otherwise: the check
// said yes to them.
func (p *prover) refusedLater() {
	day, ok := p.w.cells["fixed/"+string(condition.Today)]
	if !ok {
		return // nothing reads the day
	}
	place := p.f.Place("")
	first := day.value.(amount).x
	o := p.w.later()
	then, ok := o.cells["fixed/"+string(condition.Today)]
	if !ok {
		return
	}
	last := then.value.(amount).x
	for i, r := range o.rules {
		d := p.f.Design.Rules[i]
		if r.stage > place || r.fails == never {
			continue
		}
		goals := []lit{p.w.equals(first, first.low), p.w.eligible(place), p.w.equals(last, last.high), r.fails}
		a, m := p.ask(goals...)
		if a != possible {
			continue
		}
		x := Finding{Grade: ThinkAgain, Code: LetInRefused, Path: "rules/" + string(d.Key),
			Because: []Reason{p.reason("rules/" + string(d.Key))},
			Says: "Somebody whom the check lets in when the round opens is refused by “" + d.Label +
				"” at its end, with the same answers."}
		x.Example, x.Stage = p.example(m, x.Because), p.f.FirstStage()
		if x.Example == nil || !p.turns(x.Example, d.Key) {
			p.open(x.Path, "Whether “"+d.Label+"” refuses later whom it let in could not be decided.")
			continue
		}
		p.found(x)
	}
}

// turns walks somebody on the first and on the last day.
func (p *prover) turns(a *Applicant, rule form.Key) bool {
	opens, _ := p.f.Design.Moment(form.Opens)
	closes, _ := p.f.Design.Moment(form.Closes)
	early, late := *a.Filled, *a.Filled
	early.Today, late.Today = opens.At.Date, closes.At.Date
	if p.f.Walk(&early).Verdict() == form.Fails {
		return false
	}
	for _, r := range p.f.Walk(&late).Rules {
		if r.Key == rule {
			return r.Outcome == form.Fails
		}
	}
	return false
}

// awardsRead finds awards whose criteria read a question that nobody is asked.
func (p *prover) awardsRead() {
	for _, a := range p.f.Design.Awards {
		told := map[form.Key]bool{}
		a.Match.Refs(func(r condition.Ref) {
			i, ok := p.w.index[r.Answer]
			if !ok || told[r.Answer] {
				return
			}
			told[r.Answer] = true
			st := p.w.questions[i]
			if ans, _ := p.ask(st.asked.yes); ans == impossible {
				p.found(Finding{Grade: ThinkAgain, Code: AskedNobody, Path: "awards/" + string(a.Key),
					Because: p.core(st.asked.yes),
					Says:    "The criteria of “" + a.Label + "” read " + quoted(st.q.Label) + ", which nobody is asked."})
			}
		})
	}
}
