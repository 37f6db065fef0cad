package proof

import (
	"fmt"
	"slices"

	"ulvant/core/calendar"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
)

// fewestLooking is how few working days an officer needs at least between the closing and
// the first vote to look every project through (common practice, no source).
const fewestLooking = 2

// vote finds what of a public vote cannot be, or is not what was promised.
func (p *prover) vote() {
	d, v := p.f.Design, p.f.Design.Vote
	say := func(g Grade, path, format string, args ...any) *Finding {
		p.found(Finding{Grade: g, Code: VoteAsks, Path: path, Says: fmt.Sprintf(format, args...)})
		return &p.report.Findings[len(p.report.Findings)-1]
	}
	var stages []form.Stage
	for _, s := range d.Stages {
		if s.Does == form.Votes {
			stages = append(stages, s)
		}
	}
	switch {
	case v == nil && len(stages) == 0:
		return
	case v == nil:
		say(CannotOpen, "vote", "The public votes in “%s”, and nothing says on what and how.", stages[0].Label)
		return
	case len(stages) == 0:
		say(CannotOpen, "vote", "There is a public vote, and no stage in which it takes place: add one under Calendar.")
		return
	case len(stages) > 1:
		say(CannotOpen, "stages/"+string(stages[1].Key),
			"The public votes once in a round: “%s” and “%s” are two votes.", stages[0].Label, stages[1].Label)
	}
	if v.Asks == "" {
		say(CannotOpen, "vote", "The ballot paper has no question: say what is voted on.")
	}
	if !v.ByMail && !v.OnPaper {
		say(CannotOpen, "vote",
			"Nobody can vote: let people vote by a confirmed address, or by codes on paper.").Mends = []Mend{
			{"One ballot for each confirmed address", []design.Op{set("vote/byMail", true)}},
		}
	}
	if len(v.Shows) == 0 {
		say(ThinkAgain, "vote", "Voters see the titles of the projects and nothing else: say what is shown of each.")
	}
	if v.Agreed == "" {
		say(ThinkAgain, "vote",
			"Nobody is asked whether they agree to be shown to the public: name the question in which they do.")
	}
	p.voteDates(stages[0], say)
	for _, k := range v.Shows {
		q := p.f.Question(k)
		if q == nil || q.Seen != form.ToOffice && q.Purpose == form.ForJudging {
			continue
		}
		kept := slices.DeleteFunc(slices.Clone(v.Shows), func(x form.Key) bool { return x == k })
		say(CannotOpen, "vote", "%s is for the office alone, and the public would see it.", quoted(q.Label)).Mends = []Mend{
			{"Do not show it", []design.Op{set("vote/shows", kept)}},
		}
	}
	if v.Count != form.CountShares {
		if v.Named == 0 {
			say(CannotOpen, "vote", "The vote names nobody: say how many.")
		}
		return
	}
	cost := p.f.VoteCost()
	switch {
	case v.Budget == 0:
		say(CannotOpen, "vote", "There is nothing to divide: equal shares need a budget.")
	case v.Budget > d.Fund && d.Fund > 0:
		say(ThinkAgain, "vote", "The vote divides %s, and the round’s fund is %s.",
			money.Format(v.Budget, d.Currency), money.Format(d.Fund, d.Currency))
	}
	if cost == nil {
		say(CannotOpen, "vote", "Equal shares go by what a project costs, and no question says it.")
		return
	}
	least, _, _ := cost.Amounts()
	if v.Budget > 0 && least != nil && *least > v.Budget {
		say(CannotOpen, "vote", "No project fits the budget: %s is at least %s, and the vote divides %s.",
			quoted(cost.Label), money.Format(*least, d.Currency),
			money.Format(v.Budget, d.Currency)).Mends = []Mend{
			{"Let the budget hold one project", []design.Op{set("vote/budget", *least)}},
		}
	}
}

// voteDates compares the window of a vote with what was promised and with the stages
// about it.
func (p *prover) voteDates(s form.Stage, say func(g Grade, path, format string, args ...any) *Finding) {
	d, v, path := p.f.Design, p.f.Design.Vote, "stages/"+string(s.Key)
	w := p.f.VoteWindow()
	if n := p.f.OpenFor(); v.Days > 0 && n < v.Days && w.Closes.After(w.Opens) {
		x := say(CannotOpen, path, "Votes are taken for %s, and %d were promised.",
			phrase.Count(int64(n), "day", "days"), v.Days)
		from, _ := d.Moment(s.From)
		x.Mends = []Mend{
			{fmt.Sprintf("End it %d days after it begins", v.Days), []design.Op{set("calendar/"+string(s.To)+"/at",
				calendar.Wall{Date: from.At.Date.AddDays(v.Days), Second: from.At.Second})}},
		}
	}
	last := p.f.VotedAfter()
	if last == "" {
		say(CannotOpen, path, "The public votes before anybody applies.")
		return
	}
	closes := p.f.StageWindow(last).Closes
	shut, begins := calendar.DateOf(closes, p.f.Zone), calendar.DateOf(w.Opens, p.f.Zone)
	switch n := calendar.WorkingDaysBetween(shut, begins, p.f.Off); {
	case w.Opens.Before(closes):
		say(CannotOpen, path, "The vote begins before the applications close that it is about.")
	case n < fewestLooking:
		say(ThinkAgain, path,
			"Between the closing and the vote %s for looking every project through before the public sees it.",
			phrase.Count(int64(n), "working day is left", "working days are left"))
	}
	reads := false
	for i := range d.Stages {
		r := &d.Stages[i]
		reads = reads || r.Does == form.Read && p.f.At(r.To).After(w.Opens) && p.f.At(r.From).Before(w.Closes)
	}
	if d.HideNames && reads && slices.ContainsFunc(v.Shows, func(k form.Key) bool {
		q := p.f.Question(k)
		return q != nil && q.Identifies()
	}) {
		say(ThinkAgain, path,
			"Names are hidden from %s, and while they read the ballot paper shows them to everybody.", d.Readers())
	}
}

// voted finds what the public is to see and nobody is asked.
func (p *prover) voted() {
	v := p.f.Design.Vote
	if v == nil {
		return
	}
	for _, k := range append(slices.Clone(v.Shows), v.Agreed, v.Cost) {
		i, ok := p.w.index[k]
		if !ok {
			continue
		}
		st := p.w.questions[i]
		if ans, _ := p.ask(st.asked.yes); ans != impossible {
			continue
		}
		x := Finding{Grade: ThinkAgain, Code: VoteAsks, Path: "vote", Because: p.core(st.asked.yes),
			Says: quoted(st.q.Label) + " is to be shown to the public, and nobody is asked it."}
		switch k {
		case v.Agreed:
			x.Grade, x.Says = CannotOpen, "Nobody is asked "+quoted(
				st.q.Label)+": no project may be shown, and the ballot paper stays empty."
		case v.Cost:
			x.Grade, x.Says = CannotOpen, "Nobody is asked "+quoted(st.q.Label)+": what a project costs is not known."
		}
		p.found(x)
	}
}
