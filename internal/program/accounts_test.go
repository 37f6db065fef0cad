package program_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/programtest"
)

// What may be an address, a name, a password; common practice, no source.
func TestWhatAnAccountTakes(t *testing.T) {
	for _, c := range []struct {
		check func(string) error
		value string
		ok    bool
	}{
		{people.CheckEmail, "imre@corvoe.example", true}, {people.CheckEmail, "i.m+re@xn--brth-8qa.example", true}, {people.CheckEmail, "imre", false}, {people.CheckEmail, "imre@", false},
		{people.CheckEmail, "Imre <imre@corvoe.example>", false}, {people.CheckEmail, "a@b.example\nBcc: c@d.example", false}, {people.CheckEmail, strings.Repeat("a", 300) + "@b.example", false}, {people.CheckEmail, "", false},
		{people.CheckName, "Ó Dálaigh", true}, {people.CheckName, "  ", false}, {people.CheckName, strings.Repeat("n", 300), false}, {people.CheckName, "Imre\r\nX: y", false},
		{people.CheckPassword, "short", false}, {people.CheckPassword, "reed bed groyne", true},
	} {
		err := c.check(c.value)
		if (err == nil) != c.ok {
			t.Errorf("%.40q: %v", c.value, err)
		}
		var p people.Problem
		if err != nil && (!errors.As(err, &p) || p.Says == "" || p.Field == "") {
			t.Errorf("%.40q: %v says neither what nor where", c.value, err)
		}
	}
}

// Signing up: the link works once and in its time; the same address twice tells
// its owner, not the stranger; a session ends when it is told to, or runs out.
func TestAnAccountsLife(t *testing.T) {
	h := programtest.New(t)
	ctx := context.Background()
	hash, err := h.People.Hash("reed bed groyne")
	if err != nil {
		t.Fatal(err)
	}
	signUp := func(email string) {
		h.Act(0, func(ctx context.Context, tx *db.Tx) error {
			return h.People.SignUp(ctx, tx, email, "Imre Calloway", hash)
		})
		h.Drain()
	}
	confirm := func(token string) error {
		l, err := h.People.Links.Find(ctx, h.DB, link.Confirm, token, h.Clock.Now())
		if err != nil {
			return err
		}
		return h.Try(0, func(ctx context.Context, tx *db.Tx) error { _, err := h.People.Confirm(ctx, tx, l); return err })
	}
	mail := func(email string) (subject, token string) {
		list, _ := h.Tray.List(email, 0, 1)
		if len(list) == 0 {
			t.Fatalf("no mail to %s", email)
		}
		if _, after, ok := strings.Cut(list[0].Body, "/confirm/"); ok {
			token = strings.Fields(after)[0]
		}
		return list[0].Subject, token
	}
	signUp("  Imre@Corvoe.example ")
	if _, err := h.People.CheckSignIn(ctx, "imre@corvoe.example", "reed bed groyne"); !errors.Is(err, people.ErrUnconfirmed) {
		t.Errorf("before the link is used: %v", err)
	}
	_, first := mail("imre@corvoe.example")
	h.Clock.Set(h.Clock.Now().Add(48*time.Hour + time.Second))
	if err := confirm(first); err == nil {
		t.Error("a link works after its time")
	}
	signUp("imre@corvoe.example")
	_, second := mail("imre@corvoe.example")
	if second == first {
		t.Error("the new link is the old one")
	}
	if err := confirm(second); err != nil {
		t.Fatal(err)
	}
	if err := confirm(second); err == nil {
		t.Error("a link works twice")
	}
	signUp("imre@corvoe.example")
	if subject, token := mail("imre@corvoe.example"); subject != "You have an account with us already" || token != "" {
		t.Errorf("the owner is told %q", subject)
	}
	for _, c := range []struct {
		email, password string
		ok              bool
	}{{"IMRE@corvoe.example", "reed bed groyne", true}, {"imre@corvoe.example", "reed bed groyn", false}, {"nobody@corvoe.example", "reed bed groyne", false}, {"imre@corvoe.example", "", false}} {
		if _, err := h.People.CheckSignIn(ctx, c.email, c.password); (err == nil) != c.ok || err != nil && !errors.Is(err, people.ErrWrong) {
			t.Errorf("%s with %q: %v", c.email, c.password, err)
		}
	}
	a, err := h.People.ByEmail(ctx, h.DB, "imre@corvoe.example")
	if err != nil {
		t.Fatal(err)
	}
	begin := func(replaces string) (token string) {
		h.Act(a.ID, func(ctx context.Context, tx *db.Tx) (err error) {
			token, _, err = h.People.Begin(ctx, tx, a.ID, replaces, func(s string) string { return s })
			return err
		})
		return token
	}
	whose := func(token string) bool {
		got, ok, err := h.People.Session(ctx, token, h.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		return ok && got.ID == a.ID
	}
	one := begin("")
	two := begin(one)
	if whose(one) || !whose(two) || whose("") || whose(two+"x") {
		t.Error("a session that was replaced goes on, or a made-up one begins")
	}
	h.Clock.Set(h.Clock.Now().Add(h.People.SessionLife))
	if whose(two) {
		t.Error("a session has no end")
	}
	if err := h.People.Sweep(ctx, h.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	var left int
	if err := h.DB.Get(&left, `SELECT count(*) FROM session`); err != nil || left != 0 {
		t.Errorf("%d sessions are left: %v", left, err)
	}
}
