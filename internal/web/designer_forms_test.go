package web_test

import (
	"context"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"golang.org/x/net/html"

	"ulvant/core/form"
	"ulvant/demo"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// posted is what a browser would post of the form with an id, nothing touched.
func posted(t *testing.T, body, id string) url.Values {
	t.Helper()
	doc, err := html.Parse(strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	out := url.Values{}
	attr := func(n *html.Node, name string) (string, bool) {
		for _, a := range n.Attr {
			if a.Key == name {
				return a.Val, true
			}
		}
		return "", false
	}
	text := func(n *html.Node) (s string) {
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			s += c.Data
		}
		return s
	}
	var walk func(n *html.Node, in bool)
	walk = func(n *html.Node, in bool) {
		if n.Type == html.ElementNode {
			if v, _ := attr(n, "id"); n.Data == "form" {
				in = v == id
			}
			name, named := attr(n, "name")
			value, given := attr(n, "value")
			kind, _ := attr(n, "type")
			_, checked := attr(n, "checked")
			if of, ok := attr(n, "form"); ok {
				named = named && of == id
			} else {
				named = named && in
			}
			_, off := attr(n, "disabled")
			switch {
			case !named || off:
			case n.Data == "textarea":
				out.Add(name, text(n))
			case n.Data == "select":
				picked, first := "", true
				for o := n.FirstChild; o != nil; o = o.NextSibling {
					if o.Type != html.ElementNode {
						continue
					}
					v, ok := attr(o, "value")
					if !ok {
						v = text(o)
					}
					if _, on := attr(o, "selected"); on || first {
						picked = v
					}
					first = false
				}
				out.Add(name, picked)
			case n.Data == "input" && kind != "checkbox" && kind != "radio", checked && given:
				out.Add(name, value)
			}
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c, in)
		}
	}
	walk(doc, false)
	return out
}

var pageOf = regexp.MustCompile(`href="(/office/rounds/[^"?]+/design\?(?:path|tab)=[^"]+)"`)

// Every page of every programme's design, posted as it is drawn, changes
// nothing: what is shown is what is kept, a third that reads 33.33% too.
func TestDrawnIsKept(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := serve(t, h)
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	list, err := demo.Designs(h.Clock.Now(), zone)
	if err != nil {
		t.Fatal(err)
	}
	by := officer(h)
	v := visit(t, base).as("neda@ostrel-trust.example")
	for _, d := range list {
		h.Act(by, func(ctx context.Context, tx *db.Tx) error { _, err := h.Rounds.Create(ctx, tx, d); return err })
		first := "/office/rounds/" + string(d.Key) + "/design"
		before, seen, todo := toJSON(working(t, h, string(d.Key))), map[string]bool{}, []string{first}
		for len(todo) > 0 {
			page := todo[0]
			todo = todo[1:]
			if seen[page] || strings.Contains(page, "owners-of-the-") { // five of the forty awards will do
				continue
			}
			seen[page] = true
			_, body := v.get(page)
			for _, m := range pageOf.FindAllStringSubmatch(body, -1) {
				todo = append(todo, html.UnescapeString(m[1]))
			}
			form := posted(t, body, "thing")
			if len(form) == 0 {
				continue
			}
			if code, body := v.post(first, form); code != 303 {
				t.Errorf("%s: %d %s", page, code, body)
			}
			if after := toJSON(working(t, h, string(d.Key))); after != before {
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
	_, base := serve(t, h)
	h.OpenRound(officer(h), nil)
	v := visit(t, base).as("neda@ostrel-trust.example")
	const page = "/office/rounds/shore-2027/design"
	_, body := v.get(page + "?path=calendar/closes")
	f := posted(t, body, "thing")
	f.Set("at", "2027-04-16T16:00")
	if code, body := v.post(page, f); code != 303 {
		t.Fatal(code, body)
	}
	if m, _ := working(t, h, "shore-2027").Moment(form.Closes); m.At.String() != "2027-04-16T16:00" {
		t.Errorf("it closes on %s", m.At)
	}
}
