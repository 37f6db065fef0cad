package people_test

import (
	"context"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// A role is given, given again with another end, runs out, and is taken away.
func TestRoles(t *testing.T) {
	h := programtest.New(t)
	a := h.Person("piran@ostrel-trust.example", "Piran Lode")
	now := h.Clock.Now()
	at := func(d time.Duration) *time.Time { x := now.Add(d); return &x }
	give := func(held access.Held) error {
		return h.Try(0, func(ctx context.Context, tx *db.Tx) error { return h.People.GiveRole(ctx, tx, a.ID, held) })
	}
	take := func(role access.Role, scope access.Scope) error {
		return h.Try(0, func(ctx context.Context, tx *db.Tx) error { return h.People.TakeRole(ctx, tx, a.ID, role, scope) })
	}
	shore := access.Scope{Programme: "Shore"}
	for _, c := range []struct {
		name   string
		do     func() error
		says   string
		roles  int
		office bool
	}{
		{"nothing", func() error { return nil }, "", 0, false},
		{"over before it begins", func() error { return give(access.Held{Role: access.Checks, Until: at(0)}) },
			"the role would be over already; give a later date", 0, false},
		{"given", func() error { return give(access.Held{Role: access.Checks, Until: at(time.Hour)}) }, "", 1, true},
		{"given again, longer", func() error { return give(access.Held{Role: access.Checks, Until: at(3 * time.Hour)}) }, "",
			1, true},
		{"for a programme besides", func() error { return give(access.Held{Role: access.Checks, Scope: shore}) }, "", 2,
			true},
		{"taken where it is not held", func() error { return take(access.Chairs, access.Scope{}) },
			"they do not hold this role", 2, true},
		{"taken of another scope", func() error { return take(access.Checks, access.Scope{Programme: "Boats"}) },
			"they do not hold this role", 2, true},
		{"taken", func() error { return take(access.Checks, shore) }, "", 1, true},
		{"run out", func() error { h.Clock.Set(now.Add(3 * time.Hour)); return nil }, "", 1, false},
		{"given anew", func() error { return give(access.Held{Role: access.Checks}) }, "", 1, true},
		{"taken for good", func() error { return take(access.Checks, access.Scope{}) }, "", 0, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			err := c.do()
			if no, _ := refusal.Of(err); no.Error() != c.says || (err == nil) != (c.says == "") {
				t.Errorf("%v, want %q", err, c.says)
			}
			roles, err := h.People.Roles(t.Context(), h.DB, a.ID)
			if err != nil || len(roles) != c.roles {
				t.Errorf("holds %+v %v", roles, err)
			}
			office, err := h.People.AtOffice(t.Context(), h.DB, a.ID, h.Clock.Now())
			if err != nil || office != c.office {
				t.Errorf("at the office: %v %v", office, err)
			}
			all, err := h.People.Office(t.Context(), h.Clock.Now())
			if err != nil || (len(all) == 1) != c.office {
				t.Errorf("listed: %+v %v", all, err)
			}
		})
	}
	events, err := h.People.Events(t.Context(), a.ID, 20)
	if err != nil || len(events) != 6 {
		t.Errorf("%d events are kept, %v", len(events), err)
	}
}
