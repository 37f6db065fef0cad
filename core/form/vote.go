package form

import (
	"slices"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
)

// Vote is a public vote among the cases of a round. It runs in the stage that does
// Votes, from its beginning to its end.
type Vote struct {
	Asks     string   `json:"asks,omitempty"`     // the question on the ballot paper
	Among    Among    `json:"among,omitempty"`    // which cases stand on it
	Shows    []Key    `json:"shows,omitempty"`    // the questions whose answers are shown of each
	Agreed   Key      `json:"agreed,omitempty"`   // the yes/no or statement in which applicants agree to it; "": nobody is asked
	Count    CountBy  `json:"count,omitempty"`    // how ballots are counted
	Most     int      `json:"most,omitempty"`     // cases that one ballot may name; of points, how many it gives; 0: any number
	Named    int      `json:"named,omitempty"`    // how many the vote names, where no budget does
	Budget   int64    `json:"budget,omitempty"`   // of equal shares, minor units
	Cost     Key      `json:"cost,omitempty"`     // the sum that says what one costs; "": what is asked of the fund
	Utility  GoodOf   `json:"utility,omitempty"`  // what a project is to whoever approves of it
	Rest     RestOf   `json:"rest,omitempty"`     // what becomes of what equal shares leave
	ByMail   bool     `json:"byMail,omitempty"`   // one ballot for each confirmed mail address
	OnPaper  bool     `json:"onPaper,omitempty"`  // one for each code given out on paper
	Declares []string `json:"declares,omitempty"` // what each voter declares
	Days     int      `json:"days,omitempty"`     // that it is promised to be open for, at least
}

// Among is which cases stand on the ballot paper.
type Among string

// The cases that may stand on it.
const (
	AmongEligible Among = ""          // all that were found eligible and were not turned down since
	AmongChosen   Among = "shortlist" // those invited on, awarded or on the reserve list
)

// CountBy is how the ballots of a vote are counted.
type CountBy string

// The ways of counting.
const (
	CountVotes  CountBy = ""             // whoever has the most votes
	CountShares CountBy = "equal shares" // a budget, divided among the voters in equal shares
	CountRanked CountBy = "ranked"       // Borda's points of ranked ballots
	CountPoints CountBy = "points"       // points that each voter gives out
)

// GoodOf is what a project is to whoever approves of it, where shares are equal.
type GoodOf string

// What it may be.
const (
	GoodOfOne  GoodOf = ""     // every project alike
	GoodOfCost GoodOf = "cost" // what it costs
)

// RestOf is what becomes of the money that equal shares leave.
type RestOf string

// What may become of it.
const (
	RestKept    RestOf = ""
	RestByVotes RestOf = "most votes" // to what still fits, the most votes first
)

// MostOnBallot is how many cases can stand on one ballot paper: more than anybody reads.
const MostOnBallot = 200

// Votes is the stage in which the public votes; nil where it does not.
func (f *Form) Votes() *Stage {
	for i := range f.Design.Stages {
		if s := &f.Design.Stages[i]; s.Does == Votes && f.Design.Vote != nil {
			return s
		}
	}
	return nil
}

// VoteWindow is when votes are taken; the zero Window where the public does not vote.
func (f *Form) VoteWindow() calendar.Window {
	s := f.Votes()
	if s == nil {
		return calendar.Window{}
	}
	return calendar.Window{Opens: f.At(s.From), Closes: f.At(s.To)}
}

// VotedAfter is the stage of applications whose cases are voted on: the last in which
// people apply before the public votes.
func (f *Form) VotedAfter() (stage Key) {
	for _, s := range f.Design.Stages {
		switch s.Does {
		case Apply:
			stage = s.Key
		case Votes:
			return stage
		}
	}
	return stage
}

// VoteCost is the question that says what a project costs; nil where none does.
func (f *Form) VoteCost() *Question {
	v := f.Design.Vote
	if v == nil {
		return nil
	}
	if v.Cost != "" {
		return f.Question(v.Cost)
	}
	return f.Question(f.Design.Request)
}

// OpenFor is how many whole days votes are taken.
func (f *Form) OpenFor() int {
	w := f.VoteWindow()
	return int(w.Closes.Sub(w.Opens) / (24 * time.Hour))
}

// Agrees are the questions in which applicants can agree to be voted on.
func (q *Question) Agrees() bool { return q.Keeps() == InText && q.Type() == condition.TypeYes }

// Agrees reports that whoever sent it agrees to be voted on: where nobody is asked, all do.
func (v *Vote) Agrees(path *Path) bool {
	if v.Agreed == "" {
		return true
	}
	st := path.Find(v.Agreed)
	return st != nil && st.Asked == condition.Yes && st.Value.Yes != nil && *st.Value.Yes
}

// Undeclared is the first declaration that somebody who wants to vote has not made; "" for
// none.
func (v *Vote) Undeclared(made []string) string {
	for _, d := range v.Declares {
		if !slices.Contains(made, d) {
			return d
		}
	}
	return ""
}

// ProjectCost is what a project costs by what was sent, minor units; 0 where nothing says it.
func (f *Form) ProjectCost(path *Path) int64 {
	if q := f.VoteCost(); q != nil {
		if st := path.Find(q.Key); st != nil && st.Presence == condition.Given && st.Value.Number != nil {
			return st.Value.Number.Num
		}
	}
	return 0
}

func (c *compiler) vote() {
	v := c.f.Design.Vote
	if v == nil {
		return
	}
	c.path, c.place = "vote", "the public vote"
	c.need(slices.Contains([]Among{AmongEligible, AmongChosen}, v.Among), "a vote is among %q", v.Among)
	c.need(slices.Contains([]CountBy{CountVotes, CountShares, CountRanked, CountPoints}, v.Count),
		"ballots are counted by %q", v.Count)
	c.need(slices.Contains([]GoodOf{GoodOfOne, GoodOfCost}, v.Utility), "a project is worth %q to a voter", v.Utility)
	c.need(slices.Contains([]RestOf{RestKept, RestByVotes}, v.Rest), "what equal shares leave goes %q", v.Rest)
	c.need(v.Most >= 0 && v.Named >= 0 && v.Budget >= 0 && v.Days >= 0, "figures of a vote are not below 0")
	for _, k := range v.Shows {
		c.need(c.f.Question(k) != nil, "there is no question %q to be shown to the public", k)
	}
	if v.Agreed != "" {
		q := c.f.Question(v.Agreed)
		c.need(q != nil && q.Agrees(),
			"applicants agree to be voted on in a question with yes and no, or a statement; %q is none", v.Agreed)
	}
	if v.Cost != "" {
		q := c.f.Question(v.Cost)
		c.need(q != nil && q.Measure() == Sums, "what a project costs is told by a sum; %q is none", v.Cost)
	}
}
