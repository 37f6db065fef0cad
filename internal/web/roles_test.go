package web_test

import (
	"context"
	"strings"
	"testing"

	"ulvant/core/access"
	"ulvant/core/pattern"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Whose role is for a round, a programme or an area finds that on every page of
// the office, and nothing of what else there is.
func TestARoleForAPartOfIt(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	neda := webtest.Officer(h)
	shore := h.OpenRound(neda, nil)
	d := pattern.Grants(programtest.Settings())
	d.Key, d.Name, d.Programme, d.Prefix = "boats-2027", "Boats of 2027", "Boats", "BTS"
	h.Act(neda, func(ctx context.Context, tx *db.Tx) error {
		_, err := h.Rounds.Create(ctx, tx, d)
		return err
	})
	c := h.Ready("imre@corvoe.example")
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	h.Drain()
	const other = "Boats of 2027"
	v := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	for path, text := range map[string]string{"/office/rounds": "Make a round",
		"/office/rounds/shore-2027/reading": "Invite by mail", "/office/applications/" + c.Ref: "Ask the applicant"} {
		if _, body := v.See(path); !webtest.Contains(body, text) {
			t.Errorf("%s does not offer who runs rounds %q", path, text)
		}
	}
	for _, p := range []struct {
		email  string
		held   access.Held
		shows  map[string]bool // what its pages say or do not
		status map[string]int
	}{
		{"whole@ostrel-trust.example", access.Held{Role: access.LooksOnly},
			map[string]bool{"/office/rounds|" + other: true, "/office/rounds|Make a round": false,
				"/office/rounds/shore-2027/reading|Invite by mail":     false,
				"/office/rounds/shore-2027/design|Publish as design":   false,
				"/office/rounds/shore-2027/design|You look at it":      true,
				"/office/rounds/shore-2027/decisions|Record the panel": false,
				"/office/applications/" + c.Ref + "|Ask the applicant": false, "/office/find?q=" + c.Ref +
					"|": true, "/office/find?q=imre|imre@corvoe.example": true},
			map[string]int{"/office/rounds/boats-2027": 200, "/office/applications/" + c.Ref: 200, "/office/new-round": 409,
				"/office/security": 409}},
		{"shore@ostrel-trust.example", access.Held{Role: access.Checks, Scope: access.Scope{Round: shore}},
			map[string]bool{"/office/rounds|" + other: false, "/office/rounds|spring 2027": true, "/office|" + other: false,
				"/office|spring 2027": true, "/office/find?q=boats|" + other: false, "/office/find?q=imre|" +
					c.Ref: true, "/office/find?q=imre|has an account": false},
			map[string]int{"/office/rounds/boats-2027": 404, "/office/rounds/shore-2027/checks": 200,
				"/office/applications/" + c.Ref: 200, "/office/profiles": 404, "/office/new-round": 404}},
		{"boats@ostrel-trust.example", access.Held{Role: access.LooksAfter, Scope: access.Scope{Programme: "Boats"}},
			map[string]bool{"/office/rounds|" + other: true, "/office/rounds|spring 2027": false, "/office|" + c.Ref: false,
				"/office/find?q=imre|" + c.Ref: false},
			map[string]int{"/office/rounds/shore-2027": 404, "/office/applications/" + c.Ref: 404,
				"/office/rounds/boats-2027": 200}},
		{"corvoe@ostrel-trust.example", access.Held{Role: access.LooksAfter,
			Scope: access.Scope{Round: shore, Place: "Corvoe"}},
			map[string]bool{"/office/rounds/shore-2027/applications|" + c.Ref: true, "/office/find?q=imre|" + c.Ref: true,
				"/office/rounds/shore-2027|Rescue list": false},
			map[string]int{"/office/applications/" + c.Ref: 200, "/office/rounds/shore-2027/checks": 404,
				"/office/rounds/shore-2027": 200}},
		{"tarl@ostrel-trust.example", access.Held{Role: access.LooksAfter, Scope: access.Scope{Round: shore, Place: "Tarl"}},
			map[string]bool{"/office/rounds/shore-2027/applications|" + c.Ref: false, "/office/find?q=imre|" + c.Ref: false,
				"/office|" + c.Ref: false},
			map[string]int{"/office/applications/" + c.Ref: 404, "/office/rounds/shore-2027": 200}},
	} {
		t.Run(string(p.held.Role)+" "+p.email, func(t *testing.T) {
			give(h, h.Person(p.email, "A Colleague").ID, p.held)
			v := webtest.Visit(t, base).As(p.email)
			for what, want := range p.shows {
				path, text, _ := strings.Cut(what, "|")
				code, body := v.See(path)
				if code != 200 && !(code == 303 && text == "") || webtest.Contains(body, text) != want {
					t.Errorf("%s: %d, shows %q: %v", path, code, text, !want)
				}
			}
			for path, want := range p.status {
				if code, _ := v.See(path); code != want {
					t.Errorf("%s: %d, want %d", path, code, want)
				}
			}
		})
	}

}
