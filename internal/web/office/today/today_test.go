package today_test

import (
	"context"
	"net/url"
	"testing"

	"ulvant/core/access"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// Today names what waits for whoever looks; a search finds cases by number, title and
// people, rounds by name, and says when it finds nothing. Whoever looks after another
// round alone finds nothing of this one.
func TestTodayAndFinding(t *testing.T) {
	t.Parallel()
	p := programtest.SentTo(t, map[string]string{"Ann": "?9,000", "Bo": "7,000"})
	_, base := webtest.Serve(t, p.House)
	elsewhere := p.Person("elsewhere@ostrel-trust.example", "Wyn Harrow").ID
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.People.GiveRole(ctx, tx, elsewhere, access.Held{Role: access.LooksOnly, Scope: access.Scope{Programme: "Nets"}})
	})
	neda, wyn := webtest.Visit(t, base).As("neda@ostrel-trust.example"), webtest.Visit(t, base).As("elsewhere@ostrel-trust.example")
	if code, page := neda.See("/office"); code != 200 || !webtest.Contains(page, "rule needs a person") ||
		!webtest.Contains(page, "Ann’s work") {
		t.Errorf("today: %d, what waits is not there", code)
	}
	ref := p.Of["Ann"].Ref
	for _, c := range []struct {
		name, q   string
		of        *webtest.Visitor
		code      int
		has, lack string
	}{
		{"a whole number leads to its case", ref, neda, 303, "", ""},
		{"the beginning of a number", ref[:8], neda, 200, ref, "Nothing by that name"},
		{"words of a title, in any case", "ANN’S wor", neda, 200, ref, p.Of["Bo"].Ref},
		{"a person", "bo@corvoe.example", neda, 200, p.Of["Bo"].Ref, ref},
		{"a round", "shore", neda, 200, "/office/rounds/shore-2027", "Nothing by that name"},
		{"nothing", "zzyzx", neda, 200, "Nothing by that name or number", ref},
		{"one letter", "a", neda, 200, "Nothing by that name or number", ref},
		{"another's whole number", ref, wyn, 200, "Nothing by that name or number", "Ann"},
	} {
		code, page := c.of.See("/office/find?q=" + url.QueryEscape(c.q))
		if code != c.code || c.has != "" && !webtest.Contains(page, c.has) || c.lack != "" && webtest.Contains(page, c.lack) {
			t.Errorf("%s: %d; want %q and not %q", c.name, code, c.has, c.lack)
		}
	}
}
