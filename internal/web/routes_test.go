package web_test

import (
	"bytes"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"ulvant/core/access"
	"ulvant/internal/programtest"
	"ulvant/internal/web"
)

// Every route against everybody: strangers, an applicant, another's
// applicant, a reader who does not read the case, the office. What
// core/access answers is what the site answers; nothing is ever a 500.
func TestEveryRouteAsksWhoMay(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := serve(t, h)
	h.OpenRound(officer(h), nil)
	c := ready(h, "imre@corvoe.example")
	h.Person("ysolde@tarl.example", "Ysolde Fenn")
	who := []struct {
		name  string
		rel   access.Relations
		email string
	}{
		{"a stranger", 0, ""},
		{"the lead", access.SignedIn | access.Lead, "imre@corvoe.example"},
		{"another applicant", access.SignedIn, "ysolde@tarl.example"},
		{"the office", access.SignedIn | access.Office, "neda@ostrel-trust.example"},
	}
	fill := strings.NewReplacer(":ref", c.Ref, ":round", "shore-2027", ":section", "work", ":slot", "site-plan", ":id", "1", ":question", "site-referee", ":rule", "land",
		":act", "1", ":profile", "1", ":officer", "1", ":account", "1", ":token", "not-a-token", ":mail", "000001.eml")
	for _, p := range who {
		v := visit(t, base)
		if p.email != "" {
			v.as(p.email)
		}
		token := v.token()
		for _, rt := range web.Routes {
			if rt.Path == "/sign-out" {
				continue
			}
			if rt.Action == "" || rt.Handle == nil {
				t.Errorf("%s %s declares no action", rt.Method, rt.Path)
				continue
			}
			path := fill.Replace(rt.Path)
			var code int
			if rt.Method == http.MethodGet {
				code, _ = v.get(path)
			} else {
				// bad input on purpose: nothing is filled in
				code, _ = v.send(path, "application/x-www-form-urlencoded", url.Values{"form_token": {token}}.Encode(), nil)
			}
			state := c.State
			if !strings.Contains(rt.Path, ":ref") {
				state = ""
			}
			rel := p.rel
			if rt.Action == access.SeeTray {
				rel |= access.Demo
			}
			if rt.Action == access.VouchFor || strings.Contains(rt.Path, ":token") {
				if code != http.StatusNotFound && code != http.StatusTooManyRequests {
					t.Errorf("%s at %s with an invented link: %d", p.name, rt.Path, code)
				}
				continue
			}
			switch want := access.Allow(rt.Action, rel, state); {
			case code >= 500:
				t.Errorf("%s at %s %s: %d", p.name, rt.Method, rt.Path, code)
			case want == access.NotFound && code != http.StatusNotFound:
				t.Errorf("%s at %s %s: %d, want not found", p.name, rt.Method, rt.Path, code)
			case want == access.Refused && code != http.StatusConflict:
				t.Errorf("%s at %s %s: %d, want refused", p.name, rt.Method, rt.Path, code)
			case want == access.SignIn && code != http.StatusSeeOther && code != http.StatusUnauthorized:
				t.Errorf("%s at %s %s: %d, want sign in", p.name, rt.Method, rt.Path, code)
			case want == access.Allowed && (code == http.StatusForbidden || code == http.StatusUnauthorized):
				t.Errorf("%s at %s %s: %d, want allowed", p.name, rt.Method, rt.Path, code)
			}
		}
	}
}

// A form without our token, from another site, or with another's token is refused.
func TestForeignFormsAreRefused(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := serve(t, h)
	h.OpenRound(officer(h), nil)
	c := ready(h, "imre@corvoe.example")
	v := visit(t, base).as("imre@corvoe.example")
	good := url.Values{"form_token": {v.token()}, "title": {"New name"}}.Encode()
	other := url.Values{"form_token": {visit(t, base).token()}, "title": {"New name"}}.Encode()
	const form = "application/x-www-form-urlencoded"
	for _, x := range []struct {
		what, body string
		header     map[string]string
		want       int
	}{
		{"our own", good, nil, 303},
		{"no token", "title=New+name", nil, 403},
		{"another visitor's token", other, nil, 403},
		{"from another site, by the browser's word", good, map[string]string{"Sec-Fetch-Site": "cross-site"}, 403},
		{"from another origin", good, map[string]string{"Origin": "https://elsewhere.example"}, 403},
	} {
		if code, _ := v.send("/applications/"+c.Ref+"/title", form, x.body, x.header); code != x.want {
			t.Errorf("%s: %d, want %d", x.what, code, x.want)
		}
	}
}

// Bodies that are too large get 413 and nothing of them is kept.
func TestTooLargeIsRefusedWhole(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := serve(t, h)
	h.OpenRound(officer(h), nil)
	c := ready(h, "imre@corvoe.example")
	v := visit(t, base).as("imre@corvoe.example")
	big := `{"section":"work","edits":[{"question":"describe","version":1,"edit":"too-large","value":"` + strings.Repeat("reed ", 1_000_000) + `"}]}`
	req, _ := http.NewRequest("POST", base+"/applications/"+c.Ref+"/answers", bytes.NewReader([]byte(big)))
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Accept", "application/json")
	req.Header.Set("X-Form-Token", v.token())
	res, err := v.Do(req)
	if err == nil { // a client may see the connection closed instead
		defer res.Body.Close()
		if res.StatusCode != http.StatusRequestEntityTooLarge {
			t.Errorf("answered %d", res.StatusCode)
		}
	}
	var value string
	if err := h.DB.Get(&value, `SELECT value FROM answer WHERE question = 'describe'`); err != nil || value != "Reed." {
		t.Errorf("kept %d characters, %v", len(value), err)
	}
}

// The sign-in is limited, and its answer does not tell who has an account.
func TestSignInIsLimited(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := serve(t, h)
	officer(h)
	v := visit(t, base)
	answers := map[bool]bool{}
	for _, email := range []string{"neda@ostrel-trust.example", "nobody@ostrel-trust.example"} {
		_, body := v.post("/sign-in", url.Values{"email": {email}, "password": {"not the password"}})
		answers[strings.Contains(body, "do not go together")] = true
	}
	if answers[false] {
		t.Error("a wrong address and a wrong password are answered differently")
	}
	last := 0
	for range 9 {
		last, _ = v.post("/sign-in", url.Values{"email": {"neda@ostrel-trust.example"}, "password": {"not the password"}})
	}
	if last != http.StatusTooManyRequests {
		t.Errorf("the tenth try: %d", last)
	}
}
