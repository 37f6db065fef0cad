package voter

import (
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/phrase"
	"ulvant/core/vote"
	"ulvant/internal/ballot"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// resultPage is what voter/result.html draws.
type resultPage struct {
	Voting
	Sum       *ballot.Summary
	Rows      []resultRow // those that came to most first
	Won       []resultRow // in the order in which they are named, or bought
	Most      int64
	Points    bool
	Published time.Time
	Note      string
	Other     bool // with what is left out it would have come out otherwise
	OtherSays string
	Typed     string // a receipt that is looked for
	Found     bool
	FoundSays string
}

// Voters who paid for it, in words.
func (w resultRow) Voters() string { return phrase.Count(w.Paid.Payers, "voter", "voters") }

// resultRow is what a project came to.
type resultRow struct {
	vote.OnPaper
	Came, All int64
	Won       bool
	Paid      vote.Paid
}

func result(r *site.Request, p polled) error {
	sum, err := r.Ballots.Summary(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	d := resultPage{Voting: p.voting(r), Sum: sum, Published: *p.Vote.Published, Note: p.Vote.Note,
		Points: sum.By == vote.GivenPoints || sum.By == vote.Places, Typed: strings.TrimSpace(r.Query("receipt"))}
	order, _ := vote.InOrder(sum.Result.Came)
	rows := map[int]resultRow{}
	for _, i := range order {
		row := resultRow{OnPaper: sum.Projects[i], Came: sum.Result.Came[i], All: sum.All.Came[i]}
		for _, n := range sum.Result.Won {
			row.Won = row.Won || n == row.Number
		}
		for _, b := range sum.Result.Bought {
			if b.Number == row.Number {
				row.Paid = b
			}
		}
		d.Rows = append(d.Rows, row)
		d.Most = max(d.Most, row.Came)
		rows[row.Number] = row
	}
	for _, n := range sum.Result.Won {
		d.Won = append(d.Won, rows[n])
	}
	d.Other, d.OtherSays = ballot.Otherwise(sum)
	if d.Typed != "" {
		receipt, c, ok, err := r.Ballots.Find(r.Context, r.DB, p.Vote, d.Typed)
		if err != nil {
			return err
		}
		if d.Found = ok; ok {
			d.Typed, d.FoundSays = receipt, says(p.Projects, sum.By, c)
		}
	}
	return r.Draw(fiber.StatusOK, "voter/result", view.Page{Title: d.Design.Asks, Nav: "votes", Data: d})
}

// Ballots gives every ballot without a name, once the result is published.
func Ballots(r *site.Request) error {
	p, err := poll(r)
	if err != nil {
		return err
	}
	if p.Vote.Published == nil {
		return fiber.ErrNotFound
	}
	raw, err := r.Ballots.Document(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	name := "ballots-" + r.Round.Key
	if strings.HasSuffix(r.Path(), ".json") {
		return r.Download(name+".json", "application/json", raw)
	}
	doc, err := vote.ReadPublished(raw)
	if err != nil {
		return err
	}
	return r.Give(name, doc.Sheet())
}
