package say_test

import (
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/say"
)

// A role as it is said of somebody, and to whoever is asked to take it.
func TestRolesAreSaid(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	midnight, noon := time.Date(2026, 12, 5, 0, 0, 0, 0, zone), time.Date(2026, 12, 4, 12, 0, 0, 0, zone)
	for _, c := range []struct {
		h         say.HeldRole
		said, ask string
	}{
		{say.HeldRole{Role: access.RunsRounds}, "runs rounds in the whole office", "to run rounds, in the whole office"},
		{say.HeldRole{Role: access.Checks, Round: "Shore", Place: "Tarl", Until: &midnight},
			"checks in Shore, of “Tarl” alone, until the end of 4 December 2026",
			"to check, in Shore, of “Tarl” alone, until the end of 4 December 2026"},
		{say.HeldRole{Role: access.LooksOnly, Programme: "Boats", Until: &noon},
			"looks only in every round of Boats, until 4 December 2026, 12:00",
			"to look on, in every round of Boats, until 4 December 2026, 12:00"},
		{say.HeldRole{Role: access.Reviews, Round: "Shore", Body: "Peat Board"}, "reviews for a body “Peat Board” in Shore",
			"to review for “Peat Board” in Shore"},
		{say.HeldRole{Role: access.Gives, Round: "Boats", Award: "The Oar"}, "gives an award “The Oar” in Boats",
			"to follow the award that you give, “The Oar” in Boats"},
	} {
		c.h.Zone = zone
		if got := say.Role(c.h); got != c.said {
			t.Errorf("of them: %s, want %s", got, c.said)
		}
		if got := say.AskedTo(c.h); got != c.ask {
			t.Errorf("to them: %s, want %s", got, c.ask)
		}
	}
	for _, r := range access.Roles {
		c := say.HeldRole{Role: r, Zone: zone}
		if !strings.HasPrefix(say.AskedTo(c), "to ") || say.RoleMeans(r) == "" {
			t.Errorf("%s is not asked for in words: %s", r, say.AskedTo(c))
		}
		if of, to := say.MayDo(r, false), say.MayDo(r, true); !strings.HasPrefix(of, "Sees ") ||
			!strings.HasPrefix(to, "You see ") ||
			strings.Contains(of, "You ") {
			t.Errorf("%s: %s / %s", r, of, to)
		}
	}
	if got := say.MayDo(access.Gives, true); got != "You see the awards one gives and the award." {
		t.Errorf("a donor: %s", got)
	}
}
