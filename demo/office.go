package demo

import (
	"context"
	"fmt"
	"strings"
	"time"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/funder"
	"ulvant/internal/colleague"
	"ulvant/internal/desk"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Trust is what holds for the whole office.
var Trust = funder.Settings{
	Name:   "The Ostrel Isles Trust",
	Postal: "The Old Customs House\nHarbour Row, Hallin",
	Mail:   "grants@ostrel-trust.example", Phone: "021 555 0142",
	Help: []funder.Channel{
		{What: "About an application", Reach: "grants@ostrel-trust.example", Hours: "weekdays 9:00 to 12:30",
			Reply: "within two working days"},
		{What: "About this website", Reach: "021 555 0177", Hours: "weekdays 10:00 to 16:00", Reply: "the same day"}},
	Zone: "Europe/Dublin", Country: "IE", Closed: "12-24, 12-27, 12-28, 12-29, 12-30, 12-31",
	Foot: "The Ostrel Isles Trust · The Old Customs House, Harbour Row, Hallin · 021 555 0142",
}

// trust says what holds for the office, before anything else happens.
func (b *builder) trust(ctx context.Context) error {
	if err := b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
		return b.Funder.Set(ctx, tx, b.Funder.Version(), Trust)
	}); err != nil {
		return err
	}
	return b.Funder.Load(ctx)
}

// colleagues work at the office too, each with a part of what there is to do; and
// those of a second body and a donor, who do not.
func (b *builder) colleagues(ctx context.Context, before *running) error {
	large, err := b.roundOf(ctx, "shore-and-peat-large-works")
	if err != nil {
		return err
	}
	bridge, err := b.roundOf(ctx, "footbridge-design-competition")
	if err != nil {
		return err
	}
	shore := access.Scope{Programme: "Shore & Peat Repair Grants"}
	who := map[string]people.Account{}
	for _, c := range []struct {
		email, name, note string
		held              access.Held
	}{
		{"jonas.tarn@ostrel-trust.example", "Jonas Tarn", "Second officer: runs the rounds of one programme",
			access.Held{Role: access.RunsRounds, Scope: shore}},
		{"piran.lode@ostrel-trust.example", "Piran Lode", "Colleague at the office: settles checks, decides nothing",
			access.Held{Role: access.Checks}},
		{"signe.aldous@ostrel-trust.example", "Signe Aldous", "Finance: prepares money",
			access.Held{Role: access.PreparesMoney}},
		{"owain.petrel@ostrel-trust.example", "Owain Petrel", "Finance: releases what somebody else prepared",
			access.Held{Role: access.ReleasesMoney}},
		{"maren.tolliver@ostrel-trust.example", "Maren Tolliver", "Chairs the panel of one programme",
			access.Held{Role: access.Chairs, Scope: shore}},
		{"idris.fell@ostrel-trust.example", "Idris Fell", "Sits on the panel, and is out of the room for one case",
			access.Held{Role: access.Sits, Scope: shore}},
		{boardMember.email, boardMember.name, boardMember.note,
			access.Held{Role: access.Reviews, Scope: access.Scope{Programme: large.Programme, Round: large.ID,
				Body: PeatBoard}}},
		{"runa.slipwright@tarl-slip.example", "Runa Slipwright", "Donor of the Makers’ prize",
			access.Held{Role: access.Gives, Scope: access.Scope{Programme: bridge.Programme, Round: bridge.ID,
				Award: "makers-prize"}}},
		{"hew.garrick@ostrel-trust.example", "Hew Garrick", "", access.Held{Role: access.LooksOnly}},
	} {
		a, err := b.person(ctx, c.email, c.name, c.note)
		if err != nil {
			return err
		}
		who[c.name] = a
		if err := b.act(ctx, b.officer.ID, func(ctx context.Context,
			tx *db.Tx) error {
			return b.People.GiveRole(ctx, tx, a.ID, c.held)
		}); err != nil {
			return err
		}
	}
	if err := b.keeping(ctx, who); err != nil {
		return err
	}
	return before.calls(ctx, who)
}

// keeping is what colleagues keep for each other: labels, notes, views, who is away.
func (b *builder) keeping(ctx context.Context, who map[string]people.Account) error {
	open, err := b.roundOf(ctx, "shore-and-peat")
	if err != nil {
		return err
	}
	rows, err := b.Desk.Register(ctx, desk.Sought{Round: open.ID, Most: 6})
	if err != nil || len(rows) < 6 {
		return err
	}
	jonas, piran := who["Jonas Tarn"].ID, who["Piran Lode"].ID
	today := calendar.DateOf(b.now, b.zone)
	monday := today.AddDays((8 - int(today.Weekday())) % 7)
	day := func(d calendar.Date) time.Time {
		y, m, dd := d.Civil()
		return time.Date(y, m, dd, 0, 0, 0, 0, time.UTC)
	}
	for i, row := range rows {
		c, err := b.Cases.Find(ctx, b.DB, row.Ref)
		if err != nil {
			return err
		}
		if err := b.act(ctx, jonas, func(ctx context.Context, tx *db.Tx) error {
			if i%2 == 0 {
				if _, err := b.Colleagues.Label(ctx, tx, c, "site visit", true); err != nil {
					return err
				}
			}
			if i == 1 {
				if _, err := b.Colleagues.AddNote(ctx, tx, c, "@Neda Sparrow they rang: the referee is at sea until Friday. "+
					"Shall we give them the weekend?"); err != nil {
					return err
				}
			}
			return nil
		}); err != nil {
			return err
		}
	}
	return b.act(ctx, jonas, func(ctx context.Context, tx *db.Tx) error {
		for _, v := range [][2]string{
			{"To visit", "if=labels~is~site%2Bvisit"},
			{"Letter missing", "if=state~is~draft&if=letter~is~to%2Bask%2Casked%2Caccepted%2Cuploaded%2Cdeclined&sort=-asked"},
		} {
			view := colleague.View{Round: open.ID, Name: v[0], Shared: true, Address: v[1]}
			if _, err := b.Colleagues.KeepView(ctx, tx, view); err != nil {
				return err
			}
		}
		if err := b.Colleagues.GoAway(ctx, tx, day(monday), day(monday.AddDays(4)), piran); err != nil {
			return err
		}
		return nil
	})
}

// roundOf is the round that closes last of those whose keys begin so.
func (b *builder) roundOf(ctx context.Context, begins string) (found round.Round, err error) {
	all, err := b.Rounds.All(ctx)
	if err != nil {
		return found, err
	}
	for _, rd := range all {
		if strings.HasPrefix(rd.Key, begins) && rd.DesignID != nil && rd.ClosesAt.After(found.ClosesAt) {
			found = rd
		}
	}
	if found.ID == 0 {
		return found, fmt.Errorf("the demo has no round %s", begins)
	}
	return found, nil
}
