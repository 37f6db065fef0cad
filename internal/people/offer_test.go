package people_test

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// runs is a house with somebody who runs rounds, and a round of theirs.
func runs(t *testing.T) (h *programtest.House, neda int64, round int64) {
	h = programtest.New(t)
	neda = h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID
	h.Held(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, neda, access.Held{Role: access.RunsRounds})
	})
	return h, neda, h.OpenRound(neda, nil)
}

// A role is asked for by mail, and holds when whoever is asked says yes.
func TestARoleHoldsWhenItIsAgreedTo(t *testing.T) {
	h, neda, round := runs(t)
	shore := access.Scope{Programme: "Shore & Peat Repair Grants", Round: round}
	friday := h.Clock.Now().AddDate(0, 0, 5)
	held := access.Held{Role: access.Checks, Scope: access.Scope{Programme: shore.Programme, Round: round, Place: "Tarl"},
		Until: &friday}
	offer := func(by int64, email, name string, x access.Held) error {
		return h.Try(by, func(ctx context.Context, tx *db.Tx) error {
			return h.People.OfferRole(ctx, tx, email, name, x, say.HeldRole{Role: x.Role, Round: "Shore", Place: x.Place,
				Until: x.Until, Zone: time.UTC}, time.Hour*24*30)
		})
	}
	if err := offer(neda, "piran@tarl.example", "Piran Lode", held); err != nil {
		t.Fatal(err)
	}
	h.Drain()
	list, _ := h.Tray.List("piran@tarl.example", 0, 10)
	if len(list) != 1 || !strings.Contains(list[0].Body, "asks you to check, in Shore, of “Tarl” alone, until ") ||
		!strings.Contains(list[0].Body, "settle a check") || !strings.Contains(list[0].Body, "/role/") {
		t.Fatalf("the mail: %+v", list)
	}
	offers, err := h.People.Offers(t.Context(), h.DB, "piran@tarl.example")
	if err != nil || len(offers) != 1 || offers[0].By != "Neda Sparrow" {
		t.Fatal(offers, err)
	}
	if office, _ := h.People.Office(t.Context(), h.Clock.Now()); len(office) != 1 {
		t.Errorf("%d work at the office before they said yes", len(office))
	}
	var piran int64
	accept := func() error {
		return h.Do(t.Context(), db.Actor{Kind: "link", ID: 1}, h.Clock.Now(), func(ctx context.Context,
			tx *db.Tx) (err error) {
			by := tx.By
			piran, err = h.People.AcceptOffer(ctx, tx, offers[0], "hash")
			if err == nil && tx.By != by {
				err = fmt.Errorf("%+v acts after it, not %+v", tx.By, by)
			}
			return err
		})
	}
	if err := accept(); err != nil {
		t.Fatal(err)
	}
	rows, err := h.People.HeldBy(t.Context(), h.DB, piran, h.Clock.Now())
	if err != nil || len(rows) != 1 || rows[0].Access().Scope != held.Scope || rows[0].By != "Neda Sparrow" ||
		!rows[0].Until.Equal(friday) {
		t.Fatalf("%+v %v", rows, err)
	}
	if accept() == nil {
		t.Error("an offer is accepted twice")
	}
	if rows, _ := h.People.HeldBy(t.Context(), h.DB, piran, friday); len(rows) != 0 {
		t.Error("the role holds after its last day")
	}
	// what cannot be given
	area := access.Held{Role: access.Checks, Scope: access.Scope{Programme: "Boats"}}
	jonas := h.Person("jonas@ostrel-trust.example", "Jonas Tarn").ID
	h.Held(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, jonas, access.Held{Role: access.RunsRounds,
			Scope: access.Scope{Programme: shore.Programme}})
	})
	past := h.Clock.Now()
	for what, c := range map[string]struct {
		by          int64
		email, name string
		held        access.Held
		field       string
	}{
		"by who checks": {piran, "a@b.example", "Ann Hart",
			access.Held{Role: access.Checks, Scope: shore}, "where"},
		"where one does not run rounds": {jonas, "a@b.example", "Ann Hart", area, "where"},
		"for the whole office by who runs a programme": {jonas, "a@b.example", "Ann Hart", access.Held{Role: access.Checks},
			"where"},
		"to oneself": {neda, "Neda@ostrel-trust.example", "Neda",
			access.Held{Role: access.ReleasesMoney}, "email"},
		"what they hold":     {neda, "piran@tarl.example", "", held, "email"},
		"without an address": {neda, "piran", "Piran", held, "email"},
		"to nobody": {neda, "new@b.example", " ", access.Held{Role: access.Checks},
			"name"},
		"with an end in the past": {neda, "new@b.example", "Ann Hart",
			access.Held{Role: access.Checks, Until: &past}, "until"},
	} {
		no, said := refusal.Of(offer(c.by, c.email, c.name, c.held))
		if !said || no.Field != c.field {
			t.Errorf("%s: %q at %q, want %q", what, no.Says, no.Field, c.field)
		}
	}
	if err := offer(jonas, "a@b.example", "Ann Hart", access.Held{Role: access.Checks, Scope: shore}); err != nil {
		t.Errorf("by who runs the programme: %v", err)
	}
}

// An offer is declined, taken back, and worth nothing when whoever made it may not
// give the role any more.
func TestOffersThatComeToNothing(t *testing.T) {
	h, neda, _ := runs(t)
	jonas := h.Person("jonas@ostrel-trust.example", "Jonas Tarn").ID
	h.Held(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, jonas, access.Held{Role: access.RunsRounds})
	})
	ask := func(by int64, email string) {
		h.Held(by, func(ctx context.Context, tx *db.Tx) error {
			return h.People.OfferRole(ctx, tx, email, "Ann Hart", access.Held{Role: access.Checks},
				say.HeldRole{Role: access.Checks, Zone: time.UTC}, time.Hour)
		})
	}
	for _, declined := range []bool{true, false} {
		ask(neda, "a@b.example")
		offers, _ := h.People.Offers(t.Context(), h.DB, "a@b.example")
		h.Held(neda, func(ctx context.Context, tx *db.Tx) error { return h.People.EndOffer(ctx, tx, offers[0], declined) })
		if _, err := h.People.Offer(t.Context(), h.DB, offers[0].ID); err == nil {
			t.Errorf("declined %v, it is still open", declined)
		}
	}
	ask(jonas, "b@b.example")
	offers, _ := h.People.Offers(t.Context(), h.DB, "b@b.example")
	h.Held(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.TakeRole(ctx, tx, jonas, access.RunsRounds, access.Scope{})
	})
	err := h.Try(0, func(ctx context.Context, tx *db.Tx) error {
		_, err := h.People.AcceptOffer(ctx, tx, offers[0], "hash")
		return err
	})
	if _, said := refusal.Of(err); !said {
		t.Errorf("who may not give it any more: %v", err)
	}
}

// A role is taken away with a reason that is told, and never the last that runs
// the whole office; its end is set by who may give it.
func TestTakingRolesAway(t *testing.T) {
	h, neda, _ := runs(t)
	jonas := h.Person("jonas@ostrel-trust.example", "Jonas Tarn").ID
	give := func(account int64, x access.Held) {
		h.Held(0, func(ctx context.Context, tx *db.Tx) error { return h.People.GiveRole(ctx, tx, account, x) })
	}
	end := func(by, account int64, why string) error {
		rows, err := h.People.HeldBy(t.Context(), h.DB, account, h.Clock.Now())
		if err != nil || len(rows) == 0 {
			t.Fatal(rows, err)
		}
		return h.Try(by, func(ctx context.Context, tx *db.Tx) error {
			return h.People.EndRole(ctx, tx, account, rows[0].HeldRole, say.HeldRole{Role: rows[0].Role, Zone: time.UTC}, why)
		})
	}
	give(jonas, access.Held{Role: access.Checks})
	if end(jonas, neda, "I want it") == nil {
		t.Error("who checks takes a role away")
	}
	if end(neda, jonas, " ") == nil {
		t.Error("a role is taken away without a reason")
	}
	if err := end(neda, jonas, "The season is over."); err != nil {
		t.Fatal(err)
	}
	h.Drain()
	if list, _ := h.Tray.List("jonas@ostrel-trust.example", 0, 10); len(list) != 1 ||
		!strings.Contains(list[0].Body, "The season is over.") {
		t.Errorf("what Jonas is told: %+v", list)
	}
	soon := h.Clock.Now().Add(time.Hour)
	give(jonas, access.Held{Role: access.RunsRounds, Until: &soon})
	if end(jonas, neda, "I run it now") == nil {
		t.Error("the last who runs the office without an end is taken away")
	}
	rows, _ := h.People.HeldBy(t.Context(), h.DB, jonas, h.Clock.Now())
	until := func(by int64) error {
		return h.Try(by, func(ctx context.Context, tx *db.Tx) error {
			return h.People.UntilWhen(ctx, tx, jonas, rows[0].HeldRole, nil)
		})
	}
	if until(jonas) == nil {
		t.Error("Jonas sets his own end")
	}
	if err := until(neda); err != nil {
		t.Fatal(err)
	}
	if err := end(jonas, neda, "I run it now"); err != nil {
		t.Errorf("with another who runs it: %v", err)
	}
}

// Donors work nowhere: nothing is handed to them, and no note names them.
func TestDonorsAreNotOfTheOffice(t *testing.T) {
	h, _, round := runs(t)
	donor := h.Person("runa@slip.example", "Runa Slipwright").ID
	h.Held(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, donor, access.Held{Role: access.Gives, Scope: access.Scope{Round: round,
			Award: "oar"}})
	})
	var office, donors []people.Account
	h.Answers(func(ctx context.Context) (err error) {
		office, err = h.People.Office(ctx, h.Clock.Now())
		return err
	})
	h.Answers(func(ctx context.Context) (err error) {
		donors, err = h.People.Donors(ctx, h.Clock.Now())
		return err
	})
	if len(office) != 1 || len(donors) != 1 || donors[0].ID != donor {
		t.Errorf("%d at the office, donors %+v", len(office), donors)
	}
	if works, err := h.People.AtOffice(t.Context(), h.DB, donor, h.Clock.Now()); err != nil || works {
		t.Errorf("the donor works there: %v %v", works, err)
	}
}
