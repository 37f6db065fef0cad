package people_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/programtest"
)

// What may be an address, a name, a password; common practice, no source.
func TestWhatAnAccountTakes(t *testing.T) {
	password := func(s string) error { return people.CheckPassword(s, "imre@corvoe.example", "Imre Calloway") }
	for _, c := range []struct {
		check func(string) error
		value string
		ok    bool
	}{
		{people.CheckEmail, "imre@corvoe.example", true}, {people.CheckEmail, "i.m+re@xn--brth-8qa.example",
			true}, {people.CheckEmail, "imre", false}, {people.CheckEmail, "imre@", false},
		{people.CheckEmail, "Imre <imre@corvoe.example>", false}, {people.CheckEmail, "a@b.example\nBcc: c@d.example",
			false}, {people.CheckEmail, strings.Repeat("a", 300) + "@b.example", false}, {people.CheckEmail, "", false},
		{people.CheckName, "Ó Dálaigh", true}, {people.CheckName, "  ", false}, {people.CheckName, strings.Repeat("n", 300),
			false}, {people.CheckName, "Imre\r\nX: y", false},
		{password, "short", false}, {password, "reed bed groyne", true}, {password, "correct horse battery staple", false},
		{password, "tidlatidlatidla", true}, {password, "tidltidltidl", false},
		{password, "1234567890", false}, {password, "qwertyuiop", false}, {password, "aaaaaaaaaaaa", false}, {password,
			"abababababab", false}, {password, "abcabcabcabc", false}, {password, "poiuytrewq", false},
		{password, "Password123", false}, {password, "imre@corvoe.example", false}, {password, "Imre Calloway",
			false}, {password, "imrecalloway", false},
		{password, "imre mends peat", true}, {password, "Łódź has bridges", true}, {password, strings.Repeat("long ", 50),
			false},
	} {
		err := c.check(c.value)
		if (err == nil) != c.ok {
			t.Errorf("%.40q: %v", c.value, err)
		}
		var p refusal.Refusal
		if err != nil && (!refusal.AsUnfit(err, &p) || p.Says == "" || p.Field == "") {
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
		h.Held(0, func(ctx context.Context, tx *db.Tx) error {
			return h.People.SignUp(ctx, tx, email, "Imre Calloway", "/rounds/shore-2027/start?place=tarl")
		})
		h.Drain()
	}
	confirm := func(token string) error {
		l, err := h.People.Links.Find(ctx, h.DB, link.Confirm, token, h.Clock.Now())
		if err != nil {
			return err
		}
		return h.Try(0, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.People.Confirm(ctx, tx, l, "Imre Calloway", hash)
			return err
		})
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
	if _, err := h.People.CheckSignIn(ctx, "imre@corvoe.example", "reed bed groyne"); !errors.Is(err, people.ErrWrong) {
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
	}{{"IMRE@corvoe.example", "reed bed groyne", true}, {"imre@corvoe.example", "reed bed groyn",
		false}, {"nobody@corvoe.example", "reed bed groyne", false}, {"imre@corvoe.example", "", false}} {
		if _, err := h.People.CheckSignIn(ctx, c.email, c.password); (err == nil) != c.ok || err != nil &&
			!errors.Is(err, people.ErrWrong) {
			t.Errorf("%s with %q: %v", c.email, c.password, err)
		}
	}
	a, err := h.People.ByEmail(ctx, h.DB, "imre@corvoe.example")
	if err != nil {
		t.Fatal(err)
	}
	begin := func(replaces string) (token string) {
		h.Held(a.ID, func(ctx context.Context, tx *db.Tx) (err error) {
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
	for range 5 { // used now and then, it goes on
		h.Clock.Set(h.Clock.Now().Add(h.People.SessionIdle - time.Minute))
		if !whose(two) {
			t.Fatal("a session that is used ends")
		}
	}
	if goes, err := h.People.Goes(ctx, two, h.Clock.Now().Add(h.People.SessionIdle)); err != nil || goes {
		t.Errorf("a session that nobody used for %s goes on: %v", h.People.SessionIdle, err)
	}
	three := begin(two)
	until := h.Clock.Now().Add(h.People.SessionLife)
	for ; h.Clock.Now().Before(until); h.Clock.Set(h.Clock.Now().Add(h.People.SessionIdle / 2)) {
		if !whose(three) {
			t.Fatal("a session that is used ends before its life does")
		}
	}
	if whose(three) {
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

// A stranger cannot choose the name or the password of an account that waits
// for its link: both are chosen by whoever presses it.
func TestAnotherSignsUpWithMyAddress(t *testing.T) {
	h := programtest.New(t)
	ctx := context.Background()
	for _, name := range []string{"Imre Calloway", "Somebody Else"} {
		h.Held(0, func(ctx context.Context, tx *db.Tx) error {
			return h.People.SignUp(ctx, tx, "imre@corvoe.example", name, "")
		})
	}
	a, err := h.People.ByEmail(ctx, h.DB, "imre@corvoe.example")
	if err != nil || a.Name != "Imre Calloway" || a.PasswordHash != "" {
		t.Errorf("it is called %q with a password %q, %v", a.Name, a.PasswordHash, err)
	}
}

// Whatever somebody who knew the old password or held the old address may have
// begun ends with the change of either.
func TestAChangeEndsWhatWasBegun(t *testing.T) {
	h := programtest.New(t)
	ctx := context.Background()
	a := h.Person("imre@corvoe.example", "Imre Calloway")
	hash, err := h.People.Hash("tide table lamp")
	if err != nil {
		t.Fatal(err)
	}
	issue := func() {
		h.Held(a.ID, func(ctx context.Context, tx *db.Tx) error {
			for _, p := range []link.Purpose{link.Confirm, link.Enter} {
				if _, err := h.Links.Issue(ctx, tx, p, a.ID, time.Hour); err != nil {
					return err
				}
			}
			if err := h.People.Forgot(ctx, tx, a.Email); err != nil {
				return err
			}
			is, err := h.People.Find(ctx, tx, a.ID)
			if err != nil {
				return err
			}
			a = is
			return h.People.AskAddress(ctx, tx, a, "new@corvoe.example")
		})
	}
	open := func() (out []string) {
		if err := h.DB.Select(&out,
			`SELECT purpose FROM link WHERE subject = $1 AND used_at IS NULL AND purpose IN ('confirm', 'reset', 'address', 'enter') ORDER BY purpose`, a.ID); err != nil {
			t.Fatal(err)
		}
		return out
	}
	use := func(tx *db.Tx, p link.Purpose) (l link.Link, err error) {
		id, err := h.Links.Of(ctx, tx, p, a.ID)
		if err == nil && id == 0 {
			err = fmt.Errorf("no link to %s", p)
		}
		return link.Link{ID: id, Purpose: p, Subject: a.ID}, err
	}
	for _, c := range []struct {
		what string
		do   func(context.Context, *db.Tx) error
	}{
		{"the password is changed", func(ctx context.Context,
			tx *db.Tx) error {
			return h.People.ChangePassword(ctx, tx, a.ID, hash, "")
		}},
		{"the password is reset", func(ctx context.Context, tx *db.Tx) error {
			l, err := use(tx, link.Reset)
			if err == nil {
				_, err = h.People.Reset(ctx, tx, l, hash)
			}
			return err
		}},
		{"the address is changed", func(ctx context.Context, tx *db.Tx) error {
			l, err := use(tx, link.Address)
			if err == nil {
				_, err = h.People.ChangeAddress(ctx, tx, l)
			}
			return err
		}},
	} {
		issue()
		if got := open(); len(got) != 4 {
			t.Fatalf("begun: %v", got)
		}
		h.Held(a.ID, c.do)
		if got := open(); len(got) != 0 {
			t.Errorf("after %s still open: %v", c.what, got)
		}
		now, err := h.People.Find(ctx, h.DB, a.ID)
		if err != nil || now.NewEmail != "" {
			t.Errorf("after %s the address %q still waits, %v", c.what, now.NewEmail, err)
		}
	}
	events, err := h.People.Events(ctx, a.ID, 9)
	if err != nil || len(events) != 6 || events[0].What != say.AddressChanged || events[1].What != say.AddressAsked ||
		events[2].What != say.PasswordReset {
		t.Errorf("kept: %+v, %v", events, err)
	}
	for _, what := range say.Securities() {
		if what.Sentence() == string(what) {
			t.Errorf("%s has no sentence", what)
		}
	}
}
