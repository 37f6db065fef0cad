package profile_test

import (
	"bytes"
	"context"
	"strings"
	"testing"
	"time"

	"ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	profiles "ulvant/internal/profile"
	"ulvant/internal/programtest"
)

// An organisation that is known renews when the terms change and when a year has gone by:
// it is written to once, reads what changed since it agreed, and says that it holds.
func TestTermsAndRenewals(t *testing.T) {
	h := programtest.New(t)
	withRegister(t, h)
	h.Profiles.Needed = 0
	officer, ann := h.Person("neda@ostrel-trust.example", "Neda Sparrow"), h.Person("ann@tarl.example", "Ann Hart")
	terms := func(text string) error {
		return h.Try(officer.ID, func(ctx context.Context, tx *db.Tx) error { return h.Profiles.ChangeTerms(ctx, tx, text) })
	}
	for what, text := range map[string]string{"nothing": " \r\n ", "too much": strings.Repeat("x", 50_001)} {
		if no, ok := refusal.Of(terms(text)); !ok || no.Field != "text" {
			t.Errorf("%s is taken for terms", what)
		}
	}
	if err := terms("Spend it on the shore.\r\n\r\nWrite to us."); err != nil {
		t.Fatal(err)
	}
	if no, ok := refusal.Of(terms("Spend it on the shore.\n\nWrite to us.\n")); !ok || no.Says != "Nothing was changed." {
		t.Errorf("the same terms once more: %+v", no)
	}

	var id int64
	h.Held(ann.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		if id, err = h.Profiles.Make(ctx, tx, profile.Body, "Tarl Moor Society"); err != nil {
			return err
		}
		return h.Profiles.Change(ctx, tx, id, "Tarl Moor Society", moor(known))
	})
	h.Drain()
	for _, paper := range profile.Public.Papers() {
		if _, err := h.Materials.Shelve(t.Context(), db.Account(ann.ID), h.Clock.Now(), id, paper.Key, paper.Key+".pdf", 0,
			int64(len(programtest.Plan)), bytes.NewReader(programtest.Plan)); err != nil {
			t.Fatal(err)
		}
	}
	h.Held(ann.ID, func(ctx context.Context, tx *db.Tx) error { return h.Profiles.SendIn(ctx, tx, id) })
	h.Held(officer.ID, func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Decide(ctx, tx, id, true, "") })

	due := func() profiles.Renewal {
		t.Helper()
		p, err := h.Profiles.ByID(t.Context(), h.DB, id)
		if err != nil {
			t.Fatal(err)
		}
		r, err := h.Profiles.Renewal(t.Context(), h.DB, p, h.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	written := func() (n int) {
		t.Helper()
		if err := h.Profiles.SweepRenewals(t.Context(), h.Clock.Now()); err != nil {
			t.Fatal(err)
		}
		h.Drain()
		list, _ := h.Tray.List("ann@tarl.example", 0, 100)
		for _, m := range list {
			if strings.HasPrefix(m.Subject, "Please renew the profile of") {
				n++
			}
		}
		return n
	}
	renew := func(version int) error {
		return h.Try(ann.ID, func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Renew(ctx, tx, id, version) })
	}
	if r := due(); r.Why != "" || written() != 0 {
		t.Fatalf("just known, it is to be renewed: %q", r.Why)
	}
	if err := terms("Spend it on the shore.\n\nWrite to us each spring."); err != nil {
		t.Fatal(err)
	}
	if r := due(); !strings.HasPrefix(r.Why, "The terms have changed") || r.Terms.Version != 2 || len(r.Changes) < 2 {
		t.Errorf("after the terms changed: %+v", r)
	}
	if n := written(); n != 1 {
		t.Errorf("%d mails", n)
	}
	if n := written(); n != 1 {
		t.Errorf("swept again, %d mails", n)
	}
	if _, ok := refusal.Of(renew(1)); !ok {
		t.Error("the terms before are agreed to")
	}
	change := func(f profile.Facts) { // the numbers stay, so it stays known
		h.Held(ann.ID, func(ctx context.Context, tx *db.Tx) error {
			return h.Profiles.Change(ctx, tx, id, "Tarl Moor Society",
				f)
		})
		h.Drain()
	}
	alone := moor(known)
	alone.Contacts = alone.Contacts[:1]
	change(alone)
	if no, ok := refusal.Of(renew(2)); !ok || !strings.HasPrefix(no.Says, "It cannot be renewed yet: ") {
		t.Errorf("with one contact alone: %+v", no)
	}
	change(moor(known))
	if r := due(); r.Why == "" {
		t.Error("what was changed beside its numbers makes it unknown")
	}
	if err := renew(2); err != nil {
		t.Fatal(err)
	}
	if r := due(); r.Why != "" {
		t.Errorf("renewed, and again: %q", r.Why)
	}
	h.Clock.Set(h.Clock.Now().Add(profile.RenewEvery))
	if r := due(); r.Why != "" {
		t.Errorf("a year to the second: %q", r.Why)
	}
	h.Clock.Set(h.Clock.Now().Add(time.Second))
	if r := due(); !strings.Contains(r.Why, "more than a year ago") || written() != 2 {
		t.Errorf("after a year: %q", r.Why)
	}
}
