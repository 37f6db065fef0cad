package proof

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/say"
)

// reason says what a part of the design demands.
func (p *prover) reason(path string) Reason {
	d := p.f.Design
	s := strings.Split(path, "/")
	out := Reason{Path: path}
	when := func(c condition.Cond) string { return say.When(c, p.names) }
	switch s[0] {
	case "rules":
		out.Path = "rules/" + s[1]
		for _, r := range d.Rules {
			if string(r.Key) == s[1] {
				out.Says = "Rule “" + r.Label + "”: " + when(r.Holds)
				if !r.When.Always() {
					out.Says += ", where " + when(r.When)
				}
			}
		}
	case "awards":
		for _, a := range d.Awards {
			if string(a.Key) == s[1] {
				out.Says = "“" + a.Label + "” is for whom " + when(a.Match)
			}
		}
	case "sections":
		sec, q := p.find(s)
		switch {
		case q == nil && sec != nil:
			out.Says = "The section “" + sec.Label + "” is asked if " + when(sec.Asked)
		case q != nil:
			out.Says = p.questionReason(q, s[4:], when)
		}
	default:
		eachCond(d, func(at string, c condition.Cond) {
			if at == path {
				out.Says = "It holds if " + when(c)
			}
		})
	}
	return out
}

func (p *prover) find(s []string) (*form.Section, *form.Question) {
	for i := range p.f.Design.Sections {
		sec := &p.f.Design.Sections[i]
		if string(sec.Key) != s[1] {
			continue
		}
		if len(s) < 4 {
			return sec, nil
		}
		return sec, p.f.Question(form.Key(s[3]))
	}
	return nil, nil
}

func (p *prover) questionReason(q *form.Question, at []string, when func(condition.Cond) string) string {
	what := quoted(q.Label)
	switch at[0] {
	case "asked":
		return what + " is asked if " + when(q.Asked)
	case "must":
		return what + " must be answered if " + when(q.Must)
	}
	if len(at) > 1 && at[1] == "when" {
		for k, c := range q.Limits.When {
			if nthOf(at[2]) == k {
				return what + " has its " + nth(k) + " limit if " + when(c.If) + ": " + say.Limit(p.f, q, c.Then, true)
			}
		}
	}
	limits := []string{say.Limit(p.f, q, q.Limits.Else, true)}
	for _, c := range q.Limits.When {
		limits = append(limits, say.Limit(p.f, q, c.Then, true))
	}
	text := strings.Join(limits, " ")
	if strings.TrimSpace(text) == "" {
		return "The limits of " + what
	}
	return what + ": " + text
}

func nthOf(s string) int {
	n := 0
	for _, c := range s {
		n = n*10 + int(c-'0')
	}
	return n
}
