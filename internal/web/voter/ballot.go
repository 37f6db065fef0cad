package voter

import (
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/vote"
	"ulvant/internal/ballot"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

func itoa(n int) string { return strconv.Itoa(n) }

// ballotPage is what voter/ballot.html draws.
type ballotPage struct {
	Voting
	Path    string
	By      vote.By
	Rows    []ballotRow // in the order drawn for this voter
	In      bool        // it is in the box
	Receipt string
	Says    string // what the ballot in the box says
	Points  int
	Places  []int // where places are given, those there are
	Code    bool  // opened by a code on paper: the address of the page is the only way back
	Wrong   refusal.Refusal
}

// ballotRow is a project on one voter's paper.
type ballotRow struct {
	ballot.Project
	Chosen bool
	Value  string // place or points
}

// find opens the request's ballot.
func find(r *site.Request) (p polled, t ballot.Token, x ballot.Voter, err error) {
	t = ballot.Token(r.Params("ballot"))
	if x, err = r.Ballots.ByToken(r.Context, r.DB, t); err != nil {
		return p, t, x, err
	}
	if r.Round, err = r.Rounds.ByID(r.Context, r.DB, x.RoundID); err != nil {
		return p, t, x, err
	}
	p, err = poll(r)
	return p, t, x, err
}

// Ballot is one's ballot.
func Ballot(r *site.Request) error {
	p, t, x, err := find(r)
	if err != nil {
		return err
	}
	return drawBallot(r, p, t, x, nil, refusal.Refusal{}, fiber.StatusOK)
}

// drawBallot draws it; typed is what stands in its fields after a refusal, nil for what
// is in the box.
func drawBallot(r *site.Request, p polled, t ballot.Token, x ballot.Voter, typed vote.Choice, wrong refusal.Refusal,
	status int) error {
	c, in, err := r.Ballots.Chosen(r.Context, r.DB, r.Round.ID, t)
	if err != nil {
		return err
	}
	e := ballot.Election(p.Form, p.Projects)
	d := ballotPage{Voting: p.voting(r), Path: "/ballot/" + string(t), By: e.By, In: in, Receipt: t.Receipt(),
		Points: e.Points(),
		Code:   x.Sheet != nil, Wrong: wrong}
	if in {
		d.Says = says(p.Projects, e.By, c)
	}
	if typed != nil {
		c = typed
	}
	most := e.Most
	if most == 0 {
		most = len(p.Projects)
	}
	for place := range min(most, len(p.Projects)) {
		d.Places = append(d.Places, place+1)
	}
	for _, i := range t.Order(len(p.Projects)) {
		row := ballotRow{Project: p.Projects[i], Chosen: c.Names(i, e.By)}
		switch {
		case e.By == vote.GivenPoints && row.Chosen:
			row.Value = itoa(c[i])
		case e.By == vote.Places:
			for place, k := range c {
				if k == i {
					row.Value = itoa(place + 1)
				}
			}
		}
		d.Rows = append(d.Rows, row)
	}
	r.Set(fiber.HeaderReferrerPolicy, "no-referrer") // the address of the page is the ballot
	return r.Draw(status, "voter/ballot", view.Page{Title: d.Design.Asks, Nav: "votes", Data: d})
}

// says is a choice in words.
func says(projects []ballot.Project, by vote.By, c vote.Choice) string {
	var out []string
	switch by {
	case vote.GivenPoints:
		for i, n := range c {
			if n > 0 {
				out = append(out, projects[i].Title+" "+itoa(n))
			}
		}
	case vote.Places:
		for place, i := range c {
			out = append(out, itoa(place+1)+" "+projects[i].Title)
		}
	default:
		for i, x := range projects {
			if c.Names(i, by) {
				out = append(out, x.Title)
			}
		}
	}
	if len(out) == 0 {
		return "It names no project, and counts as a voter who came."
	}
	return phrase.List(out) + "."
}

// read is the choice that a posted ballot says.
func read(r *site.Request, projects []ballot.Project, by vote.By) (c vote.Choice, err error) {
	n := len(projects)
	switch by {
	case vote.GivenPoints:
		c = make(vote.Choice, n)
		for i := range projects {
			typed := strings.TrimSpace(r.FormValue("p" + itoa(i+1)))
			if typed == "" {
				continue
			}
			if c[i], err = strconv.Atoi(typed); err != nil || c[i] < 0 {
				c[i] = 0
				return c, refusal.Unfit("“" + typed + "” is no number of points").But("give whole points, such as 3")
			}
		}
		return c, nil
	case vote.Places:
		at := map[int]int{}
		for i, x := range projects {
			place, _ := strconv.Atoi(r.FormValue("p" + itoa(i+1)))
			if place == 0 {
				continue
			}
			if j, taken := at[place]; taken {
				return nil, refusal.Unfit("“" + projects[j].Title + "” and “" + x.Title +
					"” have the same place").But("give each a place of its own")
			}
			at[place] = i
		}
		c = vote.Choice{}
		for place := 1; len(c) < len(at); place++ { // a place that is left out closes up
			if i, ok := at[place]; ok {
				c = append(c, i)
			}
			if place > n*2 {
				return nil, refusal.Unfit("this ballot is of another ballot paper").But("open it again")
			}
		}
		return c, nil
	}
	c = vote.Choice{}
	for _, v := range r.Values("named") {
		i, err := strconv.Atoi(v)
		if err != nil {
			return nil, refusal.Unfit("this ballot is of another ballot paper").But("open it again")
		}
		c = append(c, i-1)
	}
	return c, nil
}

// Cast puts a ballot into the box.
func Cast(r *site.Request) error {
	p, t, x, err := find(r)
	if err != nil {
		return err
	}
	c, err := read(r, p.Projects, ballot.Election(p.Form, p.Projects).By)
	if err == nil {
		err = r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Ballots.Cast(ctx, tx, p.Form, p.Vote, t, c) })
	}
	no, err := fault(err)
	if err != nil {
		return err
	}
	if no.Says != "" {
		if e := noted(r, p, late(p, r.At)); e != nil {
			return e
		}
		return drawBallot(r, p, t, x, c, no, fiber.StatusUnprocessableEntity)
	}
	r.Tell("Your ballot is in the box.")
	return r.See("/ballot/" + string(t))
}

// late is ErrClosed where a vote is closed; nil where it is not.
func late(p polled, at time.Time) error {
	if ph := p.Vote.Phase(p.Form, at); ph == ballot.Closed || ph == ballot.Result {
		return ballot.ErrClosed
	}
	return nil
}
