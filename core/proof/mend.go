package proof

import (
	"encoding/json"
	"slices"
	"strings"

	"ulvant/core/design"
	"ulvant/core/form"
)

func encode(v any) json.RawMessage {
	raw, err := json.Marshal(v)
	if err != nil {
		panic(err) // parts of a design always marshal
	}
	return raw
}

func set(path string, v any) design.Op {
	return design.Op{Do: design.Set, Path: path, Value: encode(v)}
}

// mostMends is how many changes are offered for one finding.
const mostMends = 3

// mends offers changes for the findings the solver made, each proved: under
// the changed design the finding is gone and no new one of its grade is there.
func (p *prover) mends() {
	var document []byte
	for i := range p.report.Findings {
		x := &p.report.Findings[i]
		if x.Grade == Note || len(x.Because) == 0 || len(x.Mends) > 0 {
			continue
		}
		if document == nil {
			document = encode(p.f.Design)
		}
		for _, m := range p.candidates(x) {
			if p.ctx.Err() != nil || len(x.Mends) == mostMends {
				break
			}
			if p.ends(document, *x, m) {
				x.Mends = append(x.Mends, m)
			}
		}
	}
}

// candidates are ways to loosen each part behind a finding.
func (p *prover) candidates(x *Finding) (out []Mend) {
	for _, r := range x.Because {
		s := strings.Split(r.Path, "/")
		switch {
		case s[0] == "rules" && len(s) == 2:
			for _, rule := range p.f.Design.Rules {
				if string(rule.Key) == s[1] && !rule.Person {
					out = append(out, Mend{"Let a person look where “" + rule.Label + "” is not met",
						[]design.Op{set("rules/"+s[1]+"/person", true), look(rule, s[1])}})
				}
			}
		case s[0] == "awards":
			out = append(out, Mend{"Let everybody who may apply be given it",
				[]design.Op{set("awards/"+s[1]+"/match", struct{}{})}})
		case s[0] != "sections":
		case len(s) == 3 && s[2] == "asked":
			out = append(out, Mend{"Ask the section of everybody", []design.Op{set("sections/"+s[1]+"/asked", struct{}{})}})
		case len(s) > 4:
			q := p.f.Question(form.Key(s[3]))
			at := "sections/" + s[1] + "/questions/" + s[3]
			if q == nil {
				continue
			}
			switch {
			case s[4] == "asked":
				out = append(out, Mend{"Ask " + quoted(q.Label) + " of everybody who gets to it",
					[]design.Op{set(at+"/asked", struct{}{})}})
			case s[4] == "must":
				out = append(out, Mend{"Let " + quoted(q.Label) + " be left empty", []design.Op{set(at+"/must", struct{}{})}})
			case s[4] == "limits" && len(s) == 6:
				out = append(out, Mend{"Lift that limit of " + quoted(q.Label), p.lift(q, at, s[5])})
			case s[4] == "limits" && len(s) > 6:
				out = append(out, Mend{"Take the " + nth(nthOf(s[6])) + " limit of " + quoted(q.Label) + " away",
					[]design.Op{set(at+"/limits/when", slices.Delete(slices.Clone(q.Limits.When), nthOf(s[6]), nthOf(s[6])+1))}})
			}
		}
	}
	return out
}

func look(r form.Rule, key string) design.Op {
	says := r.Look
	if says == "" {
		says = "Somebody at the office will look at it."
	}
	return set("rules/"+key+"/look", says)
}

// lift takes one member out of all limits of a question.
func (p *prover) lift(q *form.Question, at, member string) []design.Op {
	without := func(l form.Limits) form.Limits {
		switch member {
		case "least":
			l.Least = nil
		case "most":
			l.Most = nil
		case "pickLeast":
			l.PickLeast = 0
		case "pickMost":
			l.PickMost = 0
		case "notBefore":
			l.NotBefore = nil
		case "notAfter":
			l.NotAfter = nil
		case "monthsOld":
			l.MonthsOld = 0
		case "impossible":
			l.Caps, l.Characters, l.PickLeast = nil, 0, 0
		}
		return l
	}
	cases := form.Cases[form.Limits]{Else: without(q.Limits.Else)}
	for _, c := range q.Limits.When {
		cases.When = append(cases.When, form.Case[form.Limits]{If: c.If, Then: without(c.Then)})
	}
	return []design.Op{set(at+"/limits", cases)}
}

// ends reports a change after which the finding is gone and nothing as grave
// is new.
func (p *prover) ends(document []byte, x Finding, m Mend) bool {
	changed, _, err := design.Apply(document, m.Ops)
	if err != nil {
		return false
	}
	d := new(form.Design)
	if json.Unmarshal(changed, d) != nil {
		return false
	}
	f, err := form.Compile(d)
	if err != nil {
		return false
	}
	again := &prover{ctx: p.ctx, f: f, report: &Report{}, names: p.names}
	again.names.Form = f
	again.w = newWorld(newFormula(), f, map[string]lit{})
	again.w.encode()
	for _, part := range []func(){again.rules, again.reach, again.answers, again.things, again.traps} {
		part()
	}
	p.report.Queries += again.report.Queries
	known := func(y Finding) bool {
		return y.Code == x.Code && y.Path == x.Path
	}
	for _, y := range again.report.Findings {
		if known(y) {
			return false
		}
		before := slices.ContainsFunc(p.report.Findings, func(z Finding) bool { return z.Code == y.Code && z.Path == y.Path })
		if !before && slices.Index(Grades, y.Grade) <= slices.Index(Grades, x.Grade) {
			return false
		}
	}
	return p.ctx.Err() == nil
}
