package decision_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// lent has a machine by the day, asked for by a number, of which there are twelve days; and
// money for travel, asked for as the request is, of which there is any amount.
func lent(d *form.Design) {
	programtest.Short(d)
	d.Gifts = []form.Gift{
		{Key: "digger", Label: "Days of the digger", What: "goods", Value: 450_00, Stock: 12, Request: "days"},
		{Key: "travel", Label: "Travel", What: "money", Request: "request"},
	}
	d.Sections[0].Questions = append(
		d.Sections[0].Questions,
		form.Question{Key: "days", Kind: form.Number, Label: "Days",
			Nature: form.Chosen, Blank: form.MeansNo, Seen: form.ToReaders},
	)
}

// A case is given money and what is lent beside it: never more than it asked, all together
// never more than there is; its letter says so, and what it gave back is free.
func TestGiftsAreDecidedBesideTheMoney(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRoundIn(
		t,
		lent,
		map[string]string{"Ann": "40,000|days = 8", "Bo": "30,000|days = 6", "Cy": "20,000"},
	)
	inOrder(p, "Ann", "Bo", "Cy")
	order := func() decision.Table {
		t.Helper()
		table, err := p.Decisions.Order(t.Context(), p.DB, p.Round, p.Form, "writing")
		if err != nil {
			t.Fatal(err)
		}
		return table
	}
	g := order().Gifts()
	if len(g) != 2 || g[0].Sum != 8 || g[0].Left != 4 || g[0].Ends != 1 ||
		!slices.Equal(g[0].Handed.Given, []int64{8, 0, 0}) {
		t.Fatalf("%+v", g)
	}
	if g[1].Sum != 90_000_00 { // the question that says the request says it too
		t.Errorf("%+v", g[1])
	}
	gives := func(name string, sum, days int64) decision.Choice {
		c := p.Choices(map[string]int64{name: sum})[0]
		c.Gifts = []decision.GivenGift{{Gift: "digger", Units: days}}
		return c
	}
	for says, list := range map[string][]decision.Choice{
		"asked for 6": {gives("Bo", 30_000_00, 7)}, "asked for 0": {gives("Cy", 20_000_00, 1)},
		"14 of “Days of the digger” would be given, 2 more": {gives("Ann", 40_000_00, 8), gives("Bo", 30_000_00, 6)},
	} {
		if _, err := p.Records("", list); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", says, err)
		}
	}
	if _, err := p.Records("", []decision.Choice{gives("Ann", 40_000_00, 8), gives("Bo", 30_000_00, 4)}); err != nil {
		t.Fatal(err)
	}
	nothing := gives("Cy", 0, 0)
	nothing.Outcome = lifecycle.Awarded
	if _, err := p.Records("", []decision.Choice{nothing}); err == nil {
		t.Error("nothing at all is awarded")
	}
	table := order()
	if table.Rows[0].Given["digger"] != 8 || table.Rows[1].Given["digger"] != 4 || table.Gifts()[0].Left != 0 {
		t.Errorf("%+v", table.Gifts())
	}
	p.After(2 * time.Hour)
	mails, _ := p.Tray.List("ann@corvoe.example", 0, 1)
	if len(mails) == 0 || !strings.Contains(mails[0].Body, "Besides, you are given:\n\nDays of the digger: 8") {
		t.Errorf("%+v", mails)
	}
	// a sum that two change between meetings leaves them their days
	chair := p.Person("lucian@panel.example", "Lucian Abernathy").ID
	if err := p.Try(chair, func(ctx context.Context, tx *db.Tx) error {
		return p.Decisions.Propose(ctx, tx, p.Round, p.Form, "writing", p.Of["Ann"].Ref, lifecycle.Awarded, 35_000_00,
			"she needs less")
	}); err != nil {
		t.Fatal(err)
	}
	list, err := p.Decisions.Betweens(t.Context(), p.DB, p.Round.ID)
	if err != nil || len(list) != 1 {
		t.Fatalf("%d, %v", len(list), err)
	}
	if err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		return p.Decisions.Settle(ctx, tx, p.Round, p.Form, list[0].ID, true)
	}); err != nil {
		t.Fatal(err)
	}
	if row := order().Rows[0]; row.Given["digger"] != 8 || *row.Amount != 35_000_00 {
		t.Errorf("%+v, %d", row.Given, *row.Amount)
	}
	// less for Ann, and Bo has all of it
	if _, err := p.Records("She needs five", []decision.Choice{gives("Ann", 40_000_00, 5),
		gives("Bo", 30_000_00, 6)}); err != nil {
		t.Error(err)
	}
	if table := order(); table.Gifts()[0].Sum != 11 {
		t.Errorf("%+v", table.Gifts())
	}
}
