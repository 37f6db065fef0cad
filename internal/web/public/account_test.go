package public_test

import (
	"context"
	"net/url"
	"strings"
	"testing"
	"time"

	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A forgotten password: the page says the same to everybody, the link works
// once and for an hour, and every session ends.
func TestANewPassword(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.Person("imre@corvoe.example", "Imre Calloway")
	old := webtest.Visit(t, base).As("imre@corvoe.example")
	anyone := webtest.Visit(t, base)
	said := func(email string) string {
		code, page := anyone.Submit("/forgot", url.Values{"email": {email}})
		if code != 200 {
			t.Fatalf("%s: %d", email, code)
		}
		return strings.ReplaceAll(webtest.RegexpValue(t, page, `(?s)<main(.*?)</main>`), email, "X")
	}
	if said("imre@corvoe.example") != said("nobody@corvoe.example") {
		t.Error("the page tells who has an account")
	}
	if webtest.Mailed(h, "nobody@corvoe.example", "/reset/") != "" {
		t.Error("a mail went to somebody without an account")
	}
	if code, page := anyone.Submit("/forgot", url.Values{"email": {"no address"}}); code != 422 ||
		!webtest.Contains(page, "whole mail address") {
		t.Errorf("no address: %d", code)
	}
	at := webtest.Mailed(h, "imre@corvoe.example", "/reset/")
	if code, page := anyone.See(at); code != 200 || !webtest.Contains(page, "imre@corvoe.example") {
		t.Fatalf("the link %q: %d", at, code)
	}
	if code, _ := anyone.See(at + "x"); code != 404 {
		t.Errorf("an altered link: %d", code)
	}
	if code, page := anyone.Submit(at, url.Values{"password": {"short"}}); code != 422 ||
		!webtest.Contains(page, "at least 10") &&
			!webtest.Contains(page, "At least 10") {
		t.Errorf("a short one: %d", code)
	}
	if code, _ := anyone.Submit(at, url.Values{"password": {"tide table lamp"}}); code != 303 {
		t.Errorf("the new one: %d", code)
	}
	if code, _ := old.See("/account"); code != 303 {
		t.Errorf("a session from before goes on: %d", code)
	}
	if code, _ := webtest.Visit(t, base).Submit("/sign-in", url.Values{"email": {"imre@corvoe.example"},
		"password": {programtest.Password}}); code != 422 {
		t.Errorf("the old password still opens: %d", code)
	}
	if code, _ := webtest.Visit(t, base).Submit(at, url.Values{"password": {"another one still"}}); code != 410 {
		t.Errorf("the link works twice: %d", code)
	}
	h.Act(0, func(ctx context.Context, tx *db.Tx) error { return h.People.Forgot(ctx, tx, "imre@corvoe.example") })
	late := webtest.Mailed(h, "imre@corvoe.example", "/reset/")
	h.Clock.Set(h.Clock.Now().Add(61 * time.Minute))
	if code, _ := webtest.Visit(t, base).See(late); code != 410 {
		t.Errorf("after an hour: %d", code)
	}
}

// One's own account: where it is signed in, ending the others, a new password.
func TestOnesOwnAccount(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.Person("imre@corvoe.example", "Imre Calloway")
	here, there := webtest.Visit(t, base).As("imre@corvoe.example"), webtest.Visit(t, base).As("imre@corvoe.example")
	if _, page := here.See("/account"); strings.Count(page, "<li>since") != 2 || !webtest.Contains(page, "this one") {
		t.Error("not both sessions are listed")
	}
	if code, _ := here.Submit("/account/end-others", url.Values{}); code != 303 {
		t.Errorf("ending the others: %d", code)
	}
	if code, _ := there.See("/account"); code != 303 {
		t.Errorf("the other goes on: %d", code)
	}
	if code, page := here.Submit("/account/password", url.Values{"old": {"wrong"},
		"password": {"tide table lamp"}}); code != 422 || !webtest.Contains(page, "not right") {
		t.Errorf("with a wrong old one: %d", code)
	}
	if code, _ := here.Submit("/account/password", url.Values{"old": {programtest.Password},
		"password": {"tide table lamp"}}); code != 303 {
		t.Errorf("changed: %d", code)
	}
	if code, _ := here.See("/account"); code != 200 {
		t.Errorf("one's own session: %d", code)
	}
	if code, _ := webtest.Visit(t, base).Submit("/sign-in", url.Values{"email": {"imre@corvoe.example"},
		"password": {"tide table lamp"}}); code != 303 {
		t.Errorf("signing in with it: %d", code)
	}
}

// Withdrawing needs to be meant; it stays to be read, by its lead alone.
func TestWithdrawing(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	sent := h.Ready("imre@corvoe.example")
	h.Act(sent.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, sent); return err })
	var draft string
	h.Act(sent.LeadID, func(ctx context.Context, tx *db.Tx) error {
		c, err := h.Intake.Start(ctx, tx, "shore-2027", "A second one", nil)
		draft = c.Ref
		return err
	})
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	for _, ref := range []string{sent.Ref, draft} {
		if code, _ := v.Submit("/applications/"+ref+"/withdraw", url.Values{}); code != 303 {
			t.Errorf("%s unmeant: %d", ref, code)
		}
		if c, _ := h.Cases.Find(t.Context(), h.DB, ref); c.State == "withdrawn" {
			t.Errorf("%s was withdrawn without being meant", ref)
		}
		if code, _ := webtest.Visit(t, base).As("neda@ostrel-trust.example").Submit("/applications/"+ref+"/withdraw",
			url.Values{"sure": {"yes"}}); code != 404 {
			t.Errorf("%s by the office: %d", ref, code)
		}
		if code, _ := v.Submit("/applications/"+ref+"/withdraw", url.Values{"sure": {"yes"}}); code != 303 {
			t.Errorf("%s: %d", ref, code)
		}
		if c, _ := h.Cases.Find(t.Context(), h.DB, ref); c.State != "withdrawn" {
			t.Errorf("%s is %s", ref, c.State)
		}
		if code, _ := v.Submit("/applications/"+ref+"/withdraw", url.Values{"sure": {"yes"}}); code != 409 && code != 403 {
			t.Errorf("%s twice: %d", ref, code)
		}
	}
	if code, page := v.See("/applications/" + draft); code != 200 || !webtest.Contains(page, "Withdrawn") {
		t.Errorf("a withdrawn draft cannot be read: %d", code)
	}
	if code, page := v.See("/applications/" + sent.Ref + "/sent"); code != 200 || webtest.Contains(page, "Withdraw “") {
		t.Errorf("a withdrawn application: %d", code)
	}
}
