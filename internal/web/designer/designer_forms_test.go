package designer_test

import (
	"context"
	"regexp"
	"testing"
	"time"

	"golang.org/x/net/html"

	"ulvant/core/form"
	"ulvant/demo"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

var pageOf = regexp.MustCompile(`href="(/office/rounds/[^"?]+/design\?(?:path|tab)=[^"]+)"`)

// Every page of every programme's design, posted as it is drawn, changes
// nothing: what is shown is what is kept, a third that reads 33.33% too.
func TestDrawnIsKept(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	list, err := demo.Designs(h.Clock.Now(), zone)
	if err != nil {
		t.Fatal(err)
	}
	by := webtest.Officer(h)
	v := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	for _, d := range list {
		h.Act(by, func(ctx context.Context, tx *db.Tx) error { _, err := h.Rounds.Create(ctx, tx, d); return err })
		first := "/office/rounds/" + string(d.Key) + "/design"
		before, seen, todo := webtest.ToJSON(working(t, h, string(d.Key))), map[string]bool{}, []string{first}
		for len(todo) > 0 {
			page := todo[0]
			todo = todo[1:]
			if seen[page] || webtest.Contains(page, "owners-of-the-") { // five of the forty awards will do
				continue
			}
			seen[page] = true
			_, body := v.See(page)
			for _, m := range pageOf.FindAllStringSubmatch(body, -1) {
				todo = append(todo, html.UnescapeString(m[1]))
			}
			form := webtest.Posted(t, body, "thing")
			if len(form) == 0 {
				continue
			}
			if code, body := v.Submit(first, form); code != 303 {
				t.Errorf("%s: %d %s", page, code, body)
			}
			if after := webtest.ToJSON(working(t, h, string(d.Key))); after != before {
				t.Errorf("%s changed the design", page)
				before = after
			}
		}
		if len(seen) < 40 {
			t.Errorf("%s: only %d pages were looked at", d.Name, len(seen))
		}
	}
}

// The closing is moved on the page of the calendar.
func TestAClosingIsMoved(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	v := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	const page = "/office/rounds/shore-2027/design"
	_, body := v.See(page + "?path=calendar/closes")
	f := webtest.Posted(t, body, "thing")
	f.Set("at", "2027-04-16T16:00")
	if code, body := v.Submit(page, f); code != 303 {
		t.Fatal(code, body)
	}
	if m, _ := working(t, h, "shore-2027").Moment(form.Closes); m.At.String() != "2027-04-16T16:00" {
		t.Errorf("it closes on %s", m.At)
	}
}
