package demo

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/fee"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/paydesk"
)

// entrants of the footbridge competition whose fee stands in one way each.
var entrants = []struct{ name, body, title, way string }{
	{"Halden Frew", "frew-joinery", "The post cart’s own bridge", "card"},
	{"Ysolde Marr", "tarl-college", "Reed and rope", "school"},
	{"Torquil Ames", "ames-smithy", "Nine iron hoops", "declined"},
	{"Benedikta Sund", "tarl-college", "A bridge for one sheep at a time", "part"},
	{"Rowan Pell", "pell-and-pell", "What the burn leaves standing", "invoice"},
	{"Agathe Lunn", "lunn-architects", "The crossing at the alder", "transfer"},
	{"Cosmo Wray", "wray", "Larch, laid twice", "back"},
	{"Linnea Stroud", "stroud-makers", "Held by its own weight", "twice"},
	{"Idris Coll", "coll-croft", "My grandmother’s plank", "let off"},
}

// reach is the end of an entrant’s telephone number; two of them give the same one.
func reach(i int) string {
	if i == len(entrants)-1 {
		i = len(entrants) - 4
	}
	return strconv.Itoa(210 + 7*i)
}

// pays plays how the fees of the footbridge competition are paid.
func (b *builder) pays() {
	for i, p := range entrants {
		at := b.now.Add(-time.Duration(9*24-17*i) * time.Hour)
		b.on(at, func(ctx context.Context) error {
			if err := b.begins(ctx, b.bridgeKey(), writing{p.name, p.body, p.title, "stream = students\nmembers:r0001:legal = " +
				p.name + "\nschool = Tarl College\ntied = no\nreach = 01 555 0" + reach(i) + "\nidea = " + p.title +
				": drawn at the burn, in an hour." +
				"\ncost = 30,000\ncost:sure = estimated\nspan = 32\nparts-of-it:r0001:item = Larch\nparts-of-it:r0001:heading = timber\n" +
				"parts-of-it:r0001:each = 30,000\nparts-of-it:r0001:from-us = 30,000\nboards::tick-1 = yes\ntrue = yes\nsigned = " + p.name +
				"\nfees:catalogue = 1"}); err != nil {
				return err
			}
			return b.enters(ctx, p.name, p.body, p.title)
		})
		b.on(at.Add(20*time.Minute), func(ctx context.Context) error { return b.settles(ctx, p.name, p.body, p.way) })
	}
	b.on(b.now.Add(-30*time.Hour), func(ctx context.Context) error { return b.stray(ctx) })
}

// bridgeKey is that of the round of the footbridge competition.
func (b *builder) bridgeKey() string {
	for _, p := range programmes {
		if p.kind == "competition" {
			return string(p.settings(b.now, b.zone).Key)
		}
	}
	return ""
}

// card takes a card at the desk for a case, as its payer does.
func (b *builder) card(ctx context.Context, c application.Case, payer *fee.Payer, card string) error {
	url, err := b.Fees.Begin(
		ctx,
		b.at,
		db.Account(c.LeadID),
		c,
		payer,
		b.Config.BaseURL+"/applications/"+c.Ref+"/fee/back",
	)
	if err != nil {
		return err
	}
	b.till.Take(url[strings.LastIndexByte(url, '/')+1:], card, "never")
	var id *int64
	if payer != nil {
		id = &payer.ID
	}
	return b.Fees.Back(ctx, b.at, c.EntryID, id)
}

// settles pays the fee of an entry in one way.
func (b *builder) settles(ctx context.Context, name, body, way string) error {
	c, err := b.entryOf(ctx, name, body)
	if err != nil {
		return err
	}
	as := func(f func(ctx context.Context, tx *db.Tx) error) error { return b.act(ctx, c.LeadID, f) }
	office := func(f func(ctx context.Context, tx *db.Tx) error) error { return b.act(ctx, b.officer.ID, f) }
	bill := fee.Billing{
		Name:    "Bursar of " + body,
		Email:   "bursar@" + body + ".example",
		Address: "4 Quay Street\nTarl",
		Theirs:  "F-118",
	}
	switch way {
	case "card":
		return b.card(ctx, c, nil, "pays")
	case "declined":
		return b.card(ctx, c, nil, "declined")
	case "part":
		return b.card(ctx, c, nil, "less")
	case "school":
		if err := as(func(ctx context.Context, tx *db.Tx) error {
			return b.Fees.AskPayer(ctx, tx, c, "Maud Tennant", "office@"+body+".example")
		}); err != nil {
			return err
		}
		payers, err := b.Fees.Payers(ctx, b.DB, c.EntryID)
		if err != nil {
			return err
		}
		return b.card(ctx, c, &payers[0], "pays")
	case "invoice":
		return as(func(ctx context.Context, tx *db.Tx) error { return b.Fees.AskInvoice(ctx, tx, c, bill) })
	case "transfer":
		if err := as(func(ctx context.Context, tx *db.Tx) error { return b.Fees.AskInvoice(ctx, tx, c, bill) }); err != nil {
			return err
		}
		return office(func(ctx context.Context, tx *db.Tx) error {
			return b.Fees.PaidIn(ctx, tx, c, 4_000, b.at.Add(-time.Hour), "TARL 0931 F-118")
		})
	case "back":
		if err := b.card(ctx, c, nil, "pays"); err != nil {
			return err
		}
		return office(func(ctx context.Context, tx *db.Tx) error {
			return b.Fees.GiveBack(ctx, tx, c, 3_800, "Entered twice by mistake; wrote on the same day.")
		})
	case "twice":
		if err := as(func(ctx context.Context, tx *db.Tx) error {
			return b.Fees.AskPayer(ctx, tx, c, "Edda Stroud", "edda@"+body+".example")
		}); err != nil {
			return err
		}
		payers, err := b.Fees.Payers(ctx, b.DB, c.EntryID)
		if err != nil {
			return err
		}
		url, err := b.Fees.Begin(ctx, b.at, db.Account(c.LeadID), c, &payers[0], b.Config.BaseURL)
		if err != nil {
			return err
		}
		if err := b.card(ctx, c, nil, "pays"); err != nil {
			return err
		}
		b.till.Take(url[strings.LastIndexByte(url, '/')+1:], "keeps", "never")
		return b.Fees.Back(ctx, b.at, c.EntryID, &payers[0].ID)
	case "let off":
		return office(func(ctx context.Context, tx *db.Tx) error {
			return b.Fees.Waive(ctx, tx, c, "Enters alone and without a wage; the fund for first entries bears it.")
		})
	}
	return errors.New("the demo knows no way of paying " + way)
}

// stray is a payment at the desk that nobody here began.
func (b *builder) stray(ctx context.Context) error {
	k, err := b.Fees.Desk.Make(
		ctx,
		"stray",
		paydesk.Ask{Amount: 3_800, Currency: "EUR", Reference: "FDC-0099", What: "Footbridge",
			Return: b.Config.BaseURL, Until: b.at.Add(time.Hour)},
	)
	if err != nil {
		return err
	}
	b.till.Take(k.ID, "pays", "never")
	return nil
}

// unpaid is an entry of the ferry stair competition that was sealed and not paid.
func (b *builder) unpaid(ctx context.Context, round form.Key) error {
	const name, body, title = "Viveka Strand", "strand-boats", "A ferry that stays"
	if err := b.begins(ctx, string(round), writing{name, body, title, "stream = open-class\nmembers:r0001:legal = " +
		name +
		"\ntied = no\nidea = " + title +
		"\ncost = 39,000\ncost:sure = estimated\nboards::tick-1 = yes\ntrue = yes\nsigned = " + name}); err != nil {
		return err
	}
	return b.enters(ctx, name, body, title)
}

// takenBack is a payment that a bank took back at the desk, of which nobody was told.
func (b *builder) takenBack(ctx context.Context, name, body string) error {
	c, err := b.entryOf(ctx, name, body)
	if err != nil {
		return err
	}
	x, err := b.Fees.Of(ctx, b.DB, c.EntryID)
	if err != nil {
		return err
	}
	return b.till.GiveBack(x.Payments[0].ID, x.Payments[0].Amount, "never")
}
