package people_test

import (
	"context"
	"strings"
	"testing"

	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/programtest"
	"ulvant/internal/standin/tray"
)

// A second address counts once its link is pressed: it is a way to a new
// password, takes the mails that come back from the first, and nobody signs in
// with it. Shared by two accounts, it opens neither.
func TestASecondAddressThatLasts(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	ctx := context.Background()
	ann := h.Person("ann@school.example", "Ann Hart")
	ask := func(a people.Account, email string) error {
		return h.Try(
			a.ID,
			func(ctx context.Context, tx *db.Tx) error { return h.People.AskLasting(ctx, tx, a, email) },
		)
	}
	mails := func(to string) (subjects []string) {
		h.Drain()
		list, _ := h.Tray.List(to, 0, 20)
		for _, m := range list {
			subjects = append(subjects, m.Subject)
		}
		return subjects
	}
	forgot := func(email string) {
		h.Held(0, func(ctx context.Context, tx *db.Tx) error { return h.People.Forgot(ctx, tx, email) })
	}
	if ask(ann, "ann@school.example") == nil || ask(ann, "no address") == nil {
		t.Error("the first one, or none at all")
	}
	if err := ask(ann, "Ann@home.example"); err != nil {
		t.Fatal(err)
	}
	forgot("ann@home.example")
	if got := mails("ann@home.example"); len(got) != 1 || got[0] != "Confirm your second address" {
		t.Errorf("before it is confirmed: %q", got)
	}
	press := func(a people.Account) error {
		return h.Try(0, func(ctx context.Context, tx *db.Tx) error {
			id, err := h.Links.Of(ctx, tx, link.Lasting, a.ID)
			if err != nil {
				return err
			}
			_, err = h.People.ConfirmLasting(ctx, tx, link.Link{ID: id, Subject: a.ID})
			return err
		})
	}
	if err := press(ann); err != nil {
		t.Fatal(err)
	}
	if press(ann) == nil {
		t.Error("a link that works twice")
	}
	forgot("ann@home.example")
	if got := mails("ann@home.example"); len(got) != 2 || got[0] != "A new password" {
		t.Errorf("confirmed: %q", got)
	}
	if got := mails("ann@school.example"); len(got) == 0 || got[0] != "You have a second address with us" {
		t.Errorf("the first is told: %q", got)
	}
	if _, err := h.People.CheckSignIn(ctx, "ann@home.example", "shore and peat"); err == nil {
		t.Error("signed in with the second address")
	}
	// a mail that comes back from the first goes on to the second
	forgot("ann@school.example")
	h.Drain()
	var token string
	if err := h.DB.Get(&token,
		`SELECT bounce_token FROM post WHERE to_address = 'ann@school.example' ORDER BY id DESC LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	if err := h.Post.Bounced(ctx, h.Clock.Now(), token, tray.Report("bounce+"+token+"@trust.example", "ann@school.example",
		"5.1.1", "550 no such mailbox", nil)); err != nil {
		t.Fatal(err)
	}
	if got := mails("ann@home.example"); len(got) != 3 || got[0] != "A new password" {
		t.Errorf("sent on: %q", got)
	}
	if list, _ := h.Tray.List("ann@home.example", 0, 1); !strings.Contains(list[0].Body, "/reset/") ||
		!strings.HasPrefix(list[0].Body, "This came back from your first address") {
		t.Errorf("%s", list[0].Body)
	}
	// two share one: it opens neither
	bo := h.Person("bo@school.example", "Bo Hart")
	if err := ask(bo, "ann@home.example"); err != nil {
		t.Fatal(err)
	}
	if err := press(bo); err != nil {
		t.Fatal(err)
	}
	before := len(mails("ann@home.example"))
	forgot("ann@home.example")
	if got := mails("ann@home.example"); len(got) != before {
		t.Errorf("one of two was opened: %q", got)
	}
	if err := ask(bo, ""); err != nil {
		t.Fatal(err)
	}
	if a, err := h.People.Find(ctx, h.DB, bo.ID); err != nil || a.Lasts() || a.Lasting != "" {
		t.Errorf("taken away: %+v %v", a, err)
	}
	forgot("ann@home.example")
	if got := mails("ann@home.example"); len(got) != before+1 {
		t.Errorf("one again: %q", got)
	}
}

// Mails say how long their link works, as one reads it.
func TestMailsSayHowLong(t *testing.T) {
	h := programtest.New(t)
	h.Person("imre@corvoe.example", "Imre Calloway")
	for _, c := range []struct {
		name string
		does func(context.Context, *db.Tx) error
		says string
	}{
		{"signing up", func(ctx context.Context, tx *db.Tx) error {
			return h.People.SignUp(ctx, tx, "ann@corvoe.example", "Ann Rae", "")
		}, "within 48 hours."},
		{"a new password", func(ctx context.Context, tx *db.Tx) error {
			return h.People.Forgot(ctx, tx, "imre@corvoe.example")
		}, "within 1 hour."},
		{"held out", func(ctx context.Context, tx *db.Tx) error {
			return h.People.SendEnter(ctx, tx, "imre@corvoe.example")
		}, "within 30 minutes."},
	} {
		h.Held(0, c.does)
		h.Drain()
		list, _ := h.Tray.List("", 0, 1)
		if len(list) != 1 || !strings.Contains(list[0].Body, "It works once, "+c.says) {
			t.Errorf("%s: %+v", c.name, list)
		}
	}
}
