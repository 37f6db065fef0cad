package rehearsal

import (
	"strconv"

	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/vote"
)

// vote lets made-up voters vote on those of the troupe who are eligible and agree to it,
// and says what the rules make of them.
func (s *stage) vote() {
	st := s.f.Votes()
	if st == nil {
		return
	}
	v, w := s.f.Design.Vote, s.f.VoteWindow()
	var titles []string
	var costs []int64
	for _, a := range s.sent {
		if !a.state.Is(lifecycle.Admitted) || !v.Agrees(a.path) {
			continue
		}
		titles, costs = append(titles, a.m.Name), append(costs, s.f.ProjectCost(a.path))
	}
	s.tell(w.Opens, Round, "", "The public votes on "+phrase.Count(int64(len(titles)), "project",
		"projects")+" of "+strconv.Itoa(len(s.sent))+" that were sent: “"+v.Asks+"”")
	e := vote.Of(v, costs)
	stops := false
	for _, x := range e.Faults(titles, s.f.Design.Currency) {
		s.tell(w.Opens, Office, "", x.Says)
		stops = stops || x.Stops
	}
	s.tell(w.Closes, Round, "", "The vote closes.")
	if stops {
		return
	}
	for _, r := range e.Rehearse([]byte(s.f.Design.Key)) {
		var won []string
		for _, p := range r.Result.Won {
			won = append(won, titles[p])
		}
		says := "If there were " + r.Says + ": " + phrase.List(won) + " would be named."
		switch {
		case r.Broken != "":
			says = "The count failed for " + r.Says + ": " + r.Broken + "."
		case len(won) == 0:
			says = "If there were " + r.Says + ": nobody would be named."
		case e.By == vote.EqualShares:
			says += " " + money.Format(r.Result.Shared.Spent, s.f.Design.Currency) + " of " +
				money.Format(e.Budget, s.f.Design.Currency) + " would be given."
		}
		s.tell(w.Closes, Round, "", says)
	}
}
