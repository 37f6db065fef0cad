package web_test

import (
	"bytes"
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/webtest"
)

// Every route against everybody: strangers, an applicant, another's
// applicant, a reader who does not read the case, the office. What
// core/access answers is what the site answers; nothing is ever a 500.
func TestEveryRouteAsksWhoMay(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	round := h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	h.Person("ysolde@tarl.example", "Ysolde Fenn")
	soon := h.Clock.Now().Add(time.Minute)
	roles := map[string][]access.Held{"neda@ostrel-trust.example": {{Role: access.RunsRounds}},
		"checks@ostrel-trust.example": {{Role: access.Checks}},
		"chairs@ostrel-trust.example": {{Role: access.Chairs,
			Scope: access.Scope{Round: round}}}, "looks@ostrel-trust.example": {{Role: access.LooksOnly,
			Scope: access.Scope{Programme: "Boats"}}},
		"looked@ostrel-trust.example": {{Role: access.LooksOnly, Until: &soon}},
		"body@peat-board.example":     {{Role: access.Reviews, Scope: access.Scope{Round: round, Body: "peat-board"}}},
		"donor@slip.example":          {{Role: access.Gives, Scope: access.Scope{Round: round, Award: "1"}}},
		"other@slip.example":          {{Role: access.Gives, Scope: access.Scope{Round: round, Award: "2"}}},
		"runs-shore@ostrel-trust.example": {{Role: access.RunsRounds,
			Scope: access.Scope{Programme: "Shore & Peat Repair Grants"}}},
		"runs-boats@ostrel-trust.example": {{Role: access.RunsRounds, Scope: access.Scope{Programme: "Boats"}}},
	}
	every := map[string]access.Role{}
	for i, role := range access.Roles {
		if role != access.Reviews && role != access.Gives {
			email := fmt.Sprintf("role-%d@ostrel-trust.example", i)
			every[email], roles[email] = role, []access.Held{{Role: role}}
		}
	}
	for email, held := range roles {
		if email != "neda@ostrel-trust.example" {
			give(h, h.Person(email, "A Colleague").ID, held...)
		}
	}
	h.Clock.Set(soon)
	who := []struct {
		name  string
		rel   access.Relations
		email string
	}{
		{"a stranger", 0, ""},
		{"the lead", access.SignedIn | access.Lead, "imre@corvoe.example"},
		{"another applicant", access.SignedIn, "ysolde@tarl.example"},
		{"the office", access.SignedIn, "neda@ostrel-trust.example"},
		{"who checks", access.SignedIn, "checks@ostrel-trust.example"},
		{"who chairs this round", access.SignedIn, "chairs@ostrel-trust.example"},
		{"who looks at another programme", access.SignedIn, "looks@ostrel-trust.example"},
		{"who looked until now", access.SignedIn, "looked@ostrel-trust.example"},
		{"a second body", access.SignedIn, "body@peat-board.example"},
		{"a donor", access.SignedIn, "donor@slip.example"},
		{"the donor of another award", access.SignedIn, "other@slip.example"},
		{"who runs this programme", access.SignedIn, "runs-shore@ostrel-trust.example"},
		{"who runs another programme", access.SignedIn, "runs-boats@ostrel-trust.example"},
	}
	for email, role := range every {
		who = append(who, struct {
			name  string
			rel   access.Relations
			email string
		}{"who " + string(role), access.SignedIn, email})
	}
	fill := strings.NewReplacer(":ref", c.Ref, ":round", "shore-2027", ":section", "work", ":slot", "site-plan", ":id",
		"1", ":question", "site-referee", ":rule", "land",
		":act", "1", ":profile", "1", ":officer", "1", ":account", "1", ":token", "not-a-token", ":mail", "000001.eml",
		":view", "1", ":bulk", "1", ":note", "1", ":award", "1", ":offer", "1", ":away", "1", ":role", "1", ":work", "1")
	for _, p := range who {
		if _, err := h.DB.Exec(`DELETE FROM attempt`); err != nil { // those before were refused often
			t.Fatal(err)
		}
		v := webtest.Visit(t, base)
		if p.email != "" {
			v.As(p.email)
		}
		token := v.Token()
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
				code, _ = v.See(path)
			} else {
				// bad input on purpose: nothing is filled in
				code, _ = v.Send(rt.Method, path, "application/x-www-form-urlencoded",
					url.Values{"form_token": {token}}.Encode(), nil)
			}
			state := c.State
			if !strings.Contains(rt.Path, ":ref") {
				state = ""
			}
			about := access.About{}
			if strings.Contains(rt.Path, ":round") || strings.Contains(rt.Path, ":ref") {
				about = access.About{Programme: "Shore & Peat Repair Grants", Round: round}
			}
			if strings.Contains(rt.Path, ":award") {
				about.Award = "1"
			}
			rel := p.rel | access.Of(roles[p.email], about, h.Clock.Now())
			if rt.Action == access.SeeTray {
				rel |= access.Demo
			}
			if rt.Action == access.VouchFor || strings.Contains(rt.Path, ":token") {
				if code != http.StatusNotFound && code != http.StatusTooManyRequests {
					t.Errorf("%s at %s with an invented link: %d", p.name, rt.Path, code)
				}
				continue
			}
			answers(t, p.name, rt, rel, state, code)
		}
	}
}

// answers fails where the site does not answer what core/access does.
func answers(t *testing.T, who string, rt site.Route, rel access.Relations, state lifecycle.State, code int) {
	t.Helper()
	at := who + " at " + rt.Method + " " + rt.Path
	if state != "" {
		at += ", " + string(state)
	}
	switch want := access.Allow(rt.Action, rel, state); {
	case code >= 500:
		t.Errorf("%s: %d", at, code)
	case want == access.NotFound && code != http.StatusNotFound:
		t.Errorf("%s: %d, want not found", at, code)
	case want == access.Refused && code != http.StatusConflict:
		t.Errorf("%s: %d, want refused", at, code)
	case want == access.SignIn && code != http.StatusSeeOther && code != http.StatusUnauthorized:
		t.Errorf("%s: %d, want sign in", at, code)
	case want == access.Allowed && (code == http.StatusForbidden || code == http.StatusUnauthorized):
		t.Errorf("%s: %d, want allowed", at, code)
	}
}

// Every address of a case against everybody who has, or had, a part in it, in
// every state that it can be in. Where somebody may not, the addresses of one action
// take turns: the answer is the action's, and no handler is reached.
func TestEveryPartInEveryState(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	round := h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	sql := func(q string, args ...any) {
		t.Helper()
		if _, err := h.DB.Exec(q, args...); err != nil {
			t.Fatal(q, err)
		}
	}
	var seal int64
	if err := h.DB.Get(&seal, `SELECT seal_id FROM entry WHERE id = $1`, c.EntryID); err != nil {
		t.Fatal(err)
	}
	lead := h.Person("imre@corvoe.example", "Imre Calloway").ID
	reads := func(account int64) {
		sql(`INSERT INTO reader (round_id, account_id, invited_at, accepted_at) VALUES ($1, $2, $3, $3) ON CONFLICT DO NOTHING`, round, account, h.Clock.Now())
	}
	given := func(account int64) {
		sql(`INSERT INTO assignment (entry_id, application_id, account_id, given_at) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`, c.EntryID, c.ID, account, h.Clock.Now())
	}
	part := func(account int64, kind string) {
		sql(`INSERT INTO relation (application_id, account_id, kind) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, c.ID,
			account, kind)
	}
	who := []struct {
		name, email string
		rel         access.Relations
		part        func(account int64)
	}{
		{"the lead", "imre@corvoe.example", access.Lead, func(int64) {}},
		{"a teammate", "tamsin@corvoe.example", access.Teammate, func(a int64) { part(a, "teammate") }},
		{"a commenter", "corin@corvoe.example", access.Commenter, func(a int64) { part(a, "commenter") }},
		{"another applicant", "ysolde@tarl.example", 0, func(int64) {}},
		{"a reader of it", "oriel@tarl.example", access.ReaderSomewhere | access.ReaderOf,
			func(a int64) { reads(a); given(a) }},
		{"a reader of others", "bran@tarl.example", access.ReaderSomewhere, reads},
		{"a reader who stepped aside", "petra@tarl.example", access.ReaderSomewhere | access.ReaderOf | access.SteppedAside,
			func(a int64) {
				reads(a)
				given(a)
				sql(`INSERT INTO recusal (application_id, account_id, reason, at) VALUES ($1, $2, '', $3) ON CONFLICT DO NOTHING`,
					c.ID, a, h.Clock.Now())
			}},
		{"the office", "neda@ostrel-trust.example", access.AtOffice | access.InRound | access.Runner, func(int64) {}},
		{"who looks after another area", "area@ostrel-trust.example", access.AtOffice | access.InRound, func(a int64) {
			give(h, a, access.Held{Role: access.LooksAfter, Scope: access.Scope{Round: round, Place: "Tarl"}})
		}},
		{"who looks after its area", "corvoe@ostrel-trust.example", access.AtOffice | access.InRound | access.Carer,
			func(a int64) {
				give(h, a, access.Held{Role: access.LooksAfter, Scope: access.Scope{Round: round, Place: "Corvoe"}})
			}},
		{"a body that it is for", "for@peat-board.example", access.AtOffice | access.InRound | access.BodyMember,
			func(a int64) {
				sql(`INSERT INTO known (entry_id, round_id, facts, bodies) VALUES ($1, $2, '{}', '{peat-board}')
			  ON CONFLICT (entry_id) DO UPDATE SET bodies = '{peat-board}'`, c.EntryID, round)
				give(h, a, access.Held{Role: access.Reviews, Scope: access.Scope{Round: round, Body: "peat-board"}})
			}},
		{"a body that it is not for", "not@isles.example", access.AtOffice | access.InRound, func(a int64) {
			give(h, a, access.Held{Role: access.Reviews, Scope: access.Scope{Round: round, Body: "isles"}})
		}},
		{"who sits on its panel", "sits@ostrel-trust.example", access.AtOffice | access.InRound | access.Sitter,
			func(a int64) { give(h, a, access.Held{Role: access.Sits, Scope: access.Scope{Round: round}}) }},
		{"who looks at it only", "looks@ostrel-trust.example", access.AtOffice | access.InRound | access.Looker,
			func(a int64) { give(h, a, access.Held{Role: access.LooksOnly, Scope: access.Scope{Round: round}}) }},
		{"who releases money", "releases@ostrel-trust.example", access.AtOffice | access.InRound | access.MoneyReleaser,
			func(a int64) { give(h, a, access.Held{Role: access.ReleasesMoney}) }},
		{"who prepares money", "prepares@ostrel-trust.example", access.AtOffice | access.InRound | access.MoneyMaker,
			func(a int64) { give(h, a, access.Held{Role: access.PreparesMoney}) }},
		{"a donor of an award", "donor@slip.example", access.DonorSomewhere, func(a int64) {
			give(h, a, access.Held{Role: access.Gives, Scope: access.Scope{Round: round, Award: "oar"}})
		}},
		{"an officer on its team", "oslo@ostrel-trust.example", access.Office | access.Teammate, func(a int64) {
			give(h, a, access.Held{Role: access.RunsRounds})
			part(a, "teammate")
		}},
		{"a teammate who was given it to read", "wick@tarl.example",
			access.Teammate | access.ReaderOf | access.ReaderSomewhere, func(a int64) {
				part(a,
					"teammate")
				reads(a)
				given(a)
			}},
	}
	tries := map[string]bool{"a body that it is for": true, "a body that it is not for": true,
		"who sits on its panel": true,
		"who looks at it only":  true, "who releases money": true, "who prepares money": true, "a donor of an award": true}
	fill := strings.NewReplacer(":ref", c.Ref, ":section", "work", ":slot", "site-plan", ":id", "1", ":question",
		"site-referee", ":rule", "land", ":act", "1", ":profile", "1", ":officer", "1", ":account", "1", ":note", "1")
	reset := func(state lifecycle.State) {
		sql(`UPDATE entry SET state = $2, told = '', seal_id = CASE WHEN $3 THEN NULL ELSE $4::bigint END WHERE id = $1`,
			c.EntryID, state, state == lifecycle.Draft || state == lifecycle.Invited, seal)
		sql(`DELETE FROM query WHERE entry_id = $1`, c.EntryID)
		if state == lifecycle.HandedBack {
			sql(`INSERT INTO query (entry_id, asked_at, by_id, text, questions, due_at, seal_id) VALUES ($1, $2, 1, 'How wide?', '{area}', $3, $4)`, c.EntryID, h.Clock.Now(), h.Clock.Now().AddDate(0, 0, 9), seal)
		}
		sql(`UPDATE relation SET account_id = $2 WHERE application_id = $1 AND kind = 'lead'`, c.ID, lead)
	}
	of := map[string]int{} // addresses of an action, by its method
	for _, rt := range web.Routes {
		if strings.Contains(rt.Path, ":ref") {
			of[rt.Method+string(rt.Action)]++
		}
	}
	for i, p := range who {
		account := h.Person(p.email, "Somebody Else").ID
		v := webtest.Visit(t, base).As(p.email)
		token := v.Token()
		for j, state := range lifecycle.With(lifecycle.Stored) {
			changed := true // from the state before
			met := map[string]int{}
			for _, rt := range web.Routes {
				if !strings.Contains(rt.Path, ":ref") {
					continue
				}
				action := rt.Method + string(rt.Action)
				met[action]++
				turn := (i+j)%of[action]+1 == met[action]
				if !turn && access.Allow(rt.Action, access.SignedIn|p.rel, state) != access.Allowed {
					continue
				}
				if tries[p.name] && !rt.Action.ByRole() { // the office and its area stand for them on other pages
					continue
				}
				if rt.Limits != nil || rt.Method != http.MethodGet {
					sql(`DELETE FROM attempt`)
				}
				if changed { // an act that went through may have changed anything: all of it is put back
					reset(state)
					p.part(account)
					changed = false
				}
				path, code := fill.Replace(rt.Path), 0
				if rt.Method == http.MethodGet {
					code, _ = v.See(path)
				} else {
					code, _ = v.Send(rt.Method, path, "application/x-www-form-urlencoded",
						url.Values{"form_token": {token}}.Encode(), nil)
				}
				changed = rt.Method != http.MethodGet && code < http.StatusBadRequest // what is refused is taken back whole
				answers(t, p.name, rt, access.SignedIn|p.rel, state, code)
			}
		}
	}
}

// A form without our token, from another site, or with another's token is refused.
func TestForeignFormsAreRefused(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	good := url.Values{"form_token": {v.Token()}, "title": {"New name"}}.Encode()
	other := url.Values{"form_token": {webtest.Visit(t, base).Token()}, "title": {"New name"}}.Encode()
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
		if code, _ := v.SendJSON("/applications/"+c.Ref+"/title", form, x.body, x.header); code != x.want {
			t.Errorf("%s: %d, want %d", x.what, code, x.want)
		}
	}
	for _, method := range []string{"POST", "PATCH", "DELETE"} { // of files that arrive in pieces too
		path := "/applications/" + c.Ref + "/arriving"
		if method != "POST" {
			path += "/NOSUCHUPLOAD"
		}
		for token, want := range map[string]int{"": 403, webtest.Visit(t, base).Token(): 403, v.Token(): 412} {
			header := map[string]string{"X-Form-Token": token, "Tus-Resumable": "0.1"}
			if code, _ := v.Send(method, path, "application/offset+octet-stream", "x", header); code != want {
				t.Errorf("%s with token %q: %d, want %d", method, token, code, want)
			}
		}
	}
}

// Bodies that are too large get 413 and nothing of them is kept.
func TestTooLargeIsRefusedWhole(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	big := `{"section":"work","edits":[{"question":"describe","version":1,"edit":"too-large","value":"` +
		strings.Repeat("reed ", 1_000_000) + `"}]}`
	req, _ := http.NewRequest("POST", base+"/applications/"+c.Ref+"/answers", bytes.NewReader([]byte(big)))
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("Accept", "application/json")
	req.Header.Set("X-Form-Token", v.Token())
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
	_, base := webtest.Serve(t, h)
	webtest.Officer(h)
	v := webtest.Visit(t, base)
	answers := map[bool]bool{}
	for _, email := range []string{"neda@ostrel-trust.example", "nobody@ostrel-trust.example"} {
		_, body := v.Submit("/sign-in", url.Values{"email": {email}, "password": {"not the password"}})
		answers[webtest.Contains(body, "do not go together")] = true
	}
	if answers[false] {
		t.Error("a wrong address and a wrong password are answered differently")
	}
	last := 0
	for range 9 {
		last, _ = v.Submit("/sign-in", url.Values{"email": {"neda@ostrel-trust.example"}, "password": {"not the password"}})
	}
	if last != http.StatusTooManyRequests {
		t.Errorf("the tenth try: %d", last)
	}
}

// give somebody roles at the office.
func give(h *programtest.House, account int64, roles ...access.Held) {
	h.T.Helper()
	h.Act(0, func(ctx context.Context, tx *db.Tx) error {
		for _, held := range roles {
			if err := h.People.GiveRole(ctx, tx, account, held); err != nil {
				return err
			}
		}
		return nil
	})
}
