package people_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"

	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/programtest"
)

// A second factor: on with a code of the secret, each code works once, ten
// recovery codes work once each, and it goes off only with one of them.
func TestASecondFactorsLife(t *testing.T) {
	h := programtest.New(t)
	a := h.Person("imre@corvoe.example", "Imre Calloway")
	find := func() people.Account {
		t.Helper()
		got, err := h.People.Find(t.Context(), h.DB, a.ID)
		if err != nil {
			t.Fatal(err)
		}
		return got
	}
	var secret people.Second
	is := find()
	h.Held(a.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		secret, err = h.People.BeginSecond(ctx, tx, is)
		return err
	})
	if !strings.HasPrefix(secret.URL, "otpauth://totp/") || len(secret.Secret) != 32 {
		t.Fatalf("%+v", secret)
	}
	if again, err := h.People.PendingSecond(find()); err != nil || again != secret {
		t.Errorf("%+v, %v", again, err)
	}
	code := func() string {
		c, err := totp.GenerateCode(secret.Secret, h.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	var recovery []string
	on := func(code string) error {
		return h.Try(a.ID, func(ctx context.Context, tx *db.Tx) (err error) {
			recovery, err = h.People.TurnOnSecond(ctx, tx, find(), code)
			return err
		})
	}
	use := func(code string) error {
		return h.Try(0, func(ctx context.Context, tx *db.Tx) error { return h.People.UseSecond(ctx, tx, a.ID, code) })
	}
	if err := on("000000"); err == nil && code() != "000000" {
		t.Error("a wrong code turns it on")
	}
	if err := on(code()); err != nil {
		t.Fatal(err)
	}
	if len(recovery) != 10 || len(recovery[0]) != 14 || strings.Count(recovery[0], "-") != 2 {
		t.Errorf("%v", recovery)
	}
	codes := recovery
	if err := on(code()); err == nil {
		t.Error("it is turned on twice")
	}
	if err := use(code()); !errors.Is(err, people.ErrCode) {
		t.Errorf("the code that turned it on works again: %v", err)
	}
	h.Clock.Set(h.Clock.Now().Add(30 * time.Second))
	if err := use(code()); err != nil {
		t.Errorf("the next code: %v", err)
	}
	if err := use(code()); !errors.Is(err, people.ErrCode) {
		t.Errorf("it works twice: %v", err)
	}
	left := func() int {
		n, err := h.People.RecoveryLeft(t.Context(), a.ID)
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	if err := use(strings.ToUpper(codes[3])); err != nil || left() != 9 {
		t.Errorf("a recovery code, typed large: %v, %d left", err, left())
	}
	if err := use(codes[3]); !errors.Is(err, people.ErrCode) || left() != 9 {
		t.Errorf("a recovery code works twice: %v", err)
	}
	off := func(code string) error {
		return h.Try(a.ID, func(ctx context.Context, tx *db.Tx) error { return h.People.TurnOffSecond(ctx, tx, a.ID, code) })
	}
	if err := off("nothing"); !errors.Is(err, people.ErrCode) || find().SecondAt == nil {
		t.Errorf("it goes off with nothing: %v", err)
	}
	if err := off(codes[4]); err != nil || find().SecondAt != nil || left() != 0 {
		t.Errorf("%v, %d recovery codes left", err, left())
	}
	events, err := h.People.Events(t.Context(), a.ID, 10)
	if err != nil || len(events) < 2 {
		t.Errorf("%d events of safety, %v", len(events), err)
	}
}

// A new address counts once the link that went there was pressed, and not when
// somebody else has it by then.
func TestANewAddress(t *testing.T) {
	h := programtest.New(t)
	a := h.Person("imre@corvoe.example", "Imre Calloway")
	ask := func(email string) error {
		return h.Try(a.ID, func(ctx context.Context, tx *db.Tx) error { return h.People.AskAddress(ctx, tx, a, email) })
	}
	press := func() (people.Account, error) {
		var got people.Account
		err := h.Try(0, func(ctx context.Context, tx *db.Tx) (err error) {
			id, err := h.Links.Of(ctx, tx, link.Address, a.ID)
			if err != nil {
				return err
			}
			got, err = h.People.ChangeAddress(ctx, tx, link.Link{ID: id, Subject: a.ID})
			return err
		})
		return got, err
	}
	if err := ask("no address"); err == nil {
		t.Error("what is no address is taken")
	}
	if err := ask("imre@new.example"); err != nil {
		t.Fatal(err)
	}
	if now, _ := h.People.Find(t.Context(), h.DB, a.ID); now.Email != "imre@corvoe.example" {
		t.Errorf("it counts before it is pressed: %s", now.Email)
	}
	if got, err := press(); err != nil || got.Email != "imre@new.example" {
		t.Errorf("%s, %v", got.Email, err)
	}
	if _, err := press(); !errors.Is(err, link.ErrUsed) {
		t.Errorf("pressed twice: %v", err)
	}
	h.Drain()
	if list, _ := h.Tray.List("imre@corvoe.example", 0, 5); len(list) == 0 ||
		!strings.Contains(list[0].Body, "imre@new.example") {
		t.Error("the old address is not told")
	}
	if err := ask("ann@corvoe.example"); err != nil {
		t.Fatal(err)
	}
	h.Person("ann@corvoe.example", "Ann Hart")
	if got, err := press(); err == nil {
		t.Errorf("an address that somebody has by now: %s", got.Email)
	}
}

// Passwords are refused with what is wrong with them.
func TestPasswords(t *testing.T) {
	for _, c := range []struct {
		password string
		ok       bool
	}{
		{"short", false}, {"123456789", false}, {"1234567890", false}, {"abcdefghij", false}, {"jihgfedcba", false},
		{"aaaaaaaaaaaa", false}, {"password123", false}, {"imre@corvoe.example", false}, {"Imre Calloway", false},
		{"reed shore peat", true}, {"zwölf Gänse am Deich", true}, {strings.Repeat("ab ", 200), false},
	} {
		if err := people.CheckPassword(c.password, "imre@corvoe.example", "Imre Calloway"); (err == nil) != c.ok {
			t.Errorf("%.30q: %v", c.password, err)
		}
	}
}
