package vote

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/export"
)

// Format names the published document.
const Format = "ulvant-ballots/1"

// Published is a vote as everybody may have it: its rules, the projects, every ballot
// without a name, and the result, so that anybody can count it again.
type Published struct {
	Format   string     `json:"format"`
	Round    string     `json:"round"`
	Asks     string     `json:"asks"`
	Closed   string     `json:"closed"` // RFC 3339
	Currency string     `json:"currency"`
	By       By         `json:"countedBy"`
	Most     int        `json:"most"`
	Named    int        `json:"named"`
	Budget   int64      `json:"budget"` // minor units
	Utility  Utility    `json:"utility"`
	Rest     Completion `json:"rest"`
	Projects []OnPaper  `json:"projects"`
	LeftOut  []LeftOut  `json:"leftOut"`
	Ballots  []Slip     `json:"ballots"`
	Result   Outcome    `json:"result"` // without what is left out
}

// OnPaper is a project on the ballot paper.
type OnPaper struct {
	Number int    `json:"number"` // from 1, in the order in which ties are settled
	Title  string `json:"title"`
	Cost   int64  `json:"cost"` // minor units; 0 where nothing goes by it
	Off    string `json:"off"`  // why it was taken off; "": it stands
}

// LeftOut is ballots that the office ruled out, and why.
type LeftOut struct {
	Mark    int    `json:"mark"` // as at the ballots
	Why     string `json:"why"`
	Ballots int    `json:"ballots"`
}

// Slip is one ballot. It is written as an array: receipt, choice, and the mark of what it
// is left out with, 0 for none. A choice has numbers of projects, from 1; where points are
// given, a figure for each project.
type Slip struct {
	Receipt string
	Choice  Choice // places on the paper, from 0
	Mark    int
	Points  bool // the choice is figures
}

// MarshalJSON writes the array.
func (s Slip) MarshalJSON() ([]byte, error) {
	return json.Marshal([]any{s.Receipt, s.numbers(), s.Mark})
}

func (s Slip) numbers() []int {
	out := make([]int, len(s.Choice))
	for i, p := range s.Choice {
		out[i] = p
		if !s.Points {
			out[i]++
		}
	}
	return out
}

// Outcome is a result by the numbers of the projects.
type Outcome struct {
	Ballots int     `json:"ballots"`
	Blank   int     `json:"blank"`
	Came    []int64 `json:"came"`   // of each project: votes, or points
	Won     []int   `json:"won"`    // in the order in which they are named, or bought
	Bought  []Paid  `json:"bought"` // of equal shares
	Spent   int64   `json:"spent"`  // minor units
}

// Paid is how a project was bought.
type Paid struct {
	Number int    `json:"number"`
	Rate   string `json:"rate"` // what its payers pay for each unit of what it is to them, a fraction of minor units; "": by the rule for what is left
	Most   string `json:"most"` // that one of them pays
	Payers int64  `json:"payers"`
}

// OutcomeOf is a result as it is published.
func OutcomeOf(r Result) Outcome {
	o := Outcome{Ballots: r.Ballots, Blank: r.Blank, Came: r.Came, Spent: r.Shared.Spent, Won: []int{}, Bought: []Paid{}}
	for _, p := range r.Won {
		o.Won = append(o.Won, p+1)
	}
	for _, b := range r.Shared.Bought {
		x := Paid{Number: b.Project + 1, Payers: b.Payers}
		if b.Rate != nil {
			x.Rate, x.Most = b.Rate.RatString(), b.Most.RatString()
		}
		o.Bought = append(o.Bought, x)
	}
	return o
}

// Election of what is published.
func (p *Published) Election() Election {
	e := Election{By: p.By, Most: p.Most, Named: p.Named, Budget: p.Budget, Utility: p.Utility, Rest: p.Rest}
	for _, x := range p.Projects {
		e.Projects = append(e.Projects, Project{Cost: x.Cost})
	}
	return e
}

// Count what is published, with the ballots that were left out or without them.
func (p *Published) Count(with bool) Result {
	var ballots []Choice
	for _, s := range p.Ballots {
		if s.Mark == 0 || with {
			ballots = append(ballots, s.Choice)
		}
	}
	var off []bool
	for _, x := range p.Projects {
		off = append(off, x.Off != "")
	}
	e := p.Election()
	return e.Count(ballots, off)
}

// Sheet is the ballots as a table.
func (p *Published) Sheet() *export.Sheet {
	out := export.New(export.Named("receipt", "ballot", "left out")...)
	for _, s := range p.Ballots {
		var words []string
		for _, n := range s.numbers() {
			words = append(words, strconv.Itoa(n))
		}
		mark := ""
		if i := slices.IndexFunc(p.LeftOut, func(l LeftOut) bool { return l.Mark == s.Mark }); i >= 0 && s.Mark != 0 {
			mark = p.LeftOut[i].Why
		}
		out.Add(export.Text(s.Receipt), export.Text(strings.Join(words, " ")), export.Text(mark))
	}
	return out
}

// ReadPublished reads the document back.
func ReadPublished(document []byte) (*Published, error) {
	var raw struct {
		Published
		Ballots []json.RawMessage `json:"ballots"`
	}
	if err := json.Unmarshal(document, &raw); err != nil {
		return nil, err
	}
	p := raw.Published
	if p.Format != Format {
		return nil, fmt.Errorf("these are not ballots of a vote: the format is %q", p.Format)
	}
	for _, m := range raw.Ballots {
		s := Slip{Points: p.By == GivenPoints}
		var numbers []int
		if err := json.Unmarshal(m, &[]any{&s.Receipt, &numbers, &s.Mark}); err != nil {
			return nil, err
		}
		for _, n := range numbers {
			if !s.Points {
				n--
			}
			s.Choice = append(s.Choice, n)
		}
		p.Ballots = append(p.Ballots, s)
	}
	return &p, nil
}
