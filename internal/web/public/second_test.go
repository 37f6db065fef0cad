package public_test

import (
	"context"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"

	"ulvant/core/profile"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The second factor from being set up to being lost: a code is asked for after
// the password and works once, a recovery code stands in for it once, and a
// new password by mail does not get round it.
func TestTheSecondFactor(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.Person("imre@corvoe.example", "Imre Calloway")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	if code, _ := v.Submit("/account/second/begin", url.Values{"password": {"not the password"}}); code != 422 {
		t.Errorf("begun without the password: %d", code)
	}
	v.Submit("/account/second/begin", url.Values{"password": {programtest.Password}})
	_, page := v.See("/account/second")
	secret := regexp.MustCompile(`[A-Z2-7]{32}`).FindString(page)
	if secret == "" || !webtest.Contains(page, `src="/account/second/picture"`) {
		t.Fatalf("the secret is not shown: %s", page)
	}
	if code, picture := v.See("/account/second/picture"); code != 200 || !strings.HasPrefix(picture, "\x89PNG") {
		t.Errorf("the picture: %d", code)
	}
	now := func() string {
		code, err := totp.GenerateCode(secret, h.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		return code
	}
	if code, _ := v.Submit("/account/second/on", url.Values{"code": {"000000"}}); code != 422 {
		t.Errorf("turned on by a wrong code: %d", code)
	}
	_, page = v.Submit("/account/second/on", url.Values{"code": {now()}})
	recovery := regexp.MustCompile(`[a-z2-7]{4}-[a-z2-7]{4}-[a-z2-7]{4}`).FindAllString(page, -1)
	if len(recovery) != 10 {
		t.Fatalf("%d recovery codes", len(recovery))
	}
	ticket := func(page string) string {
		m := regexp.MustCompile(`name="ticket" value="([^"]+)"`).FindStringSubmatch(page)
		if m == nil {
			t.Fatalf("no code is asked for: %s", page)
		}
		return m[1]
	}
	signIn := func(code string) int {
		w := webtest.Visit(t, base)
		status, page := w.Submit("/sign-in", url.Values{"email": {"imre@corvoe.example"}, "password": {programtest.Password}})
		if status != 200 {
			t.Fatalf("the password alone: %d", status)
		}
		status, _ = w.Submit("/sign-in/code", url.Values{"ticket": {ticket(page)}, "code": {code}})
		if got, _ := w.See("/account"); (got == 200) != (status == 303) {
			t.Errorf("answered %d, and the account %d", status, got)
		}
		return status
	}
	for _, c := range []struct {
		what, code string
		later      time.Duration
		want       int
	}{
		{"the code that turned it on, again", now(), 0, 422},
		{"the next one", "", 31 * time.Second, 303},
		{"a recovery code", strings.ToUpper(recovery[3]), 0, 303},
		{"the same again", recovery[3], 0, 422},
	} {
		h.Clock.Set(h.Clock.Now().Add(c.later))
		if c.code == "" {
			c.code = now()
		}
		if got := signIn(c.code); got != c.want {
			t.Errorf("%s: %d, want %d", c.what, got, c.want)
		}
	}
	w := webtest.Visit(t, base)
	_, page = w.Submit("/sign-in", url.Values{"email": {"imre@corvoe.example"}, "password": {programtest.Password}})
	h.Clock.Set(h.Clock.Now().Add(6 * time.Minute))
	if got, _ := w.Submit("/sign-in/code", url.Values{"ticket": {ticket(page)}, "code": {now()}}); got != 422 {
		t.Errorf("a code six minutes after the password: %d", got)
	}
	if got, _ := webtest.Visit(t, base).Submit("/sign-in/code", url.Values{"ticket": {"1-99999999999.forged"},
		"code": {now()}}); got != 422 {
		t.Errorf("a forged ticket: %d", got)
	}

	// the password alone does not turn it off
	if code, page := v.Submit("/account/second/off", url.Values{"password": {programtest.Password},
		"code": {"000000"}}); code != 422 || !webtest.Contains(page, "not right") {
		t.Errorf("turned off without a code: %d", code)
	}

	// a new password by mail does not get round it
	x := webtest.Visit(t, base)
	x.Submit("/forgot", url.Values{"email": {"imre@corvoe.example"}})
	_, page = x.Submit(webtest.Link(t, h, "imre@corvoe.example"), url.Values{"password": {"tide table lamp"}})
	ticket(page)
	if code, _ := x.See("/account"); code == 200 {
		t.Error("the new password alone signs in")
	}
	// nor does a link to sign in
	x.Submit("/sign-in/mail", url.Values{"email": {"imre@corvoe.example"}})
	_, page = x.Submit(webtest.Mailed(h, "imre@corvoe.example", "/enter/"), url.Values{})
	ticket(page)

	y := webtest.Visit(t, base)
	_, page = y.Submit("/sign-in", url.Values{"email": {"imre@corvoe.example"}, "password": {"tide table lamp"}})
	y.Submit("/sign-in/code", url.Values{"ticket": {ticket(page)}, "code": {recovery[5]}})
	if code, _ := y.Submit("/account/second/off", url.Values{"password": {"tide table lamp"},
		"code": {recovery[6]}}); code != 303 {
		t.Errorf("turned off with a recovery code: %d", code)
	}
	if a, err := h.People.ByEmail(t.Context(), h.DB, "imre@corvoe.example"); err != nil || a.SecondAt != nil {
		t.Errorf("it is still on, %v", err)
	}
}

// A change of address is confirmed at the new one, the old one is told, and
// whoever asks for a taken one learns nothing.
func TestChangeOfAddress(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.Person("imre@corvoe.example", "Imre Calloway")
	h.Person("taken@corvoe.example", "Somebody Else")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	for _, c := range []struct {
		email, password string
		want            int
	}{{"new@corvoe.example", "wrong", 422}, {"no address", programtest.Password, 422}, {"taken@corvoe.example",
		programtest.Password, 303}, {"new@corvoe.example", programtest.Password, 303}} {
		if code, _ := v.Submit("/account/address", url.Values{"email": {c.email}, "password": {c.password}}); code != c.want {
			t.Errorf("%s: %d, want %d", c.email, code, c.want)
		}
	}
	h.Drain()
	if list, _ := h.Tray.List("taken@corvoe.example", 0, 9); len(list) != 1 || webtest.Contains(list[0].Body,
		"/address/") {
		t.Errorf("to the taken address: %+v", list)
	}
	at := webtest.Link(t, h, "new@corvoe.example")
	if code, _ := v.Submit(at, url.Values{}); code != 303 {
		t.Fatalf("pressing the link: %d", code)
	}
	h.Drain()
	if list, _ := h.Tray.List("imre@corvoe.example", 0, 9); len(list) == 0 ||
		list[0].Subject != "Your address was changed" {
		t.Errorf("the old address is told %+v", list)
	}
	if code, _ := v.Submit(at, url.Values{}); code == 303 {
		t.Error("the link works twice")
	}
	webtest.Visit(t, base).As("new@corvoe.example")
	if code, _ := webtest.Visit(t, base).Submit("/sign-in", url.Values{"email": {"imre@corvoe.example"},
		"password": {programtest.Password}}); code == 303 {
		t.Error("the old address still signs in")
	}
}

// Leaving erases drafts and the account, and leaves what was sent as it is.
func TestLeaving(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	sent := h.Ready("imre@corvoe.example")
	h.Act(sent.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, sent); return err })
	draft := h.Draft("imre@corvoe.example")
	h.Act(sent.LeadID, func(ctx context.Context, tx *db.Tx) error {
		id, err := h.Profiles.Make(ctx, tx, profile.Person, "Imre Calloway")
		if err != nil {
			return err
		}
		return h.Profiles.Change(ctx, tx, id, "Imre Calloway", profile.Facts{Phone: "+353 1 555 0199"})
	})
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	for _, path := range []string{"/profiles/1", "/profiles/1?step=addresses"} {
		if code, _ := webtest.Visit(t, base).As("neda@ostrel-trust.example").See(path); code != 404 {
			t.Errorf("another's profile at %s: %d", path, code)
		}
	}
	if code, _ := webtest.Visit(t, base).As("neda@ostrel-trust.example").Submit("/profiles/1/steps/details",
		url.Values{"name": {"Mine"}}); code != 404 {
		t.Errorf("another's profile is changed: %d", code)
	}
	for _, c := range []struct {
		what string
		form url.Values
		want int
	}{
		{"unmeant", url.Values{"password": {programtest.Password}}, 422},
		{"without the password", url.Values{"sure": {"yes"}}, 422},
		{"meant", url.Values{"sure": {"yes"}, "password": {programtest.Password}}, 303},
	} {
		if code, body := v.Submit("/account/leave", c.form); code != c.want {
			t.Errorf("%s: %d %s", c.what, code, body)
		}
	}
	if code, _ := v.See("/account"); code == 200 {
		t.Error("the session goes on")
	}
	if code, _ := webtest.Visit(t, base).Submit("/sign-in", url.Values{"email": {"imre@corvoe.example"},
		"password": {programtest.Password}}); code == 303 {
		t.Error("the account is still there")
	}
	var n int
	if err := h.DB.Get(&n, `SELECT count(*) FROM answer WHERE entry_id = $1`, draft.EntryID); err != nil || n != 0 {
		t.Errorf("%d answers of the draft are left, %v", n, err)
	}
	if err := h.DB.Get(&n,
		`SELECT count(*) FROM profile WHERE name LIKE 'Imre%' OR facts::text LIKE '%555%'`); err != nil || n != 0 {
		t.Errorf("%d profiles are left, %v", n, err)
	}
	if s := h.StateOf(sent); s != "sent" && s != "complete" && s != "eligible" {
		t.Errorf("what was sent is %s", s)
	}
	if code, page := webtest.Visit(t, base).As("neda@ostrel-trust.example").See("/office/applications/" +
		sent.Ref); code != 200 || !webtest.Contains(page, "Reed beds") {
		t.Errorf("the office sees it: %d", code)
	}
	if code, _ := webtest.Visit(t, base).As("neda@ostrel-trust.example").Submit("/account/leave",
		url.Values{"sure": {"yes"}, "password": {programtest.Password}}); code != 409 {
		t.Errorf("an officer leaves by themselves: %d", code)
	}
}
