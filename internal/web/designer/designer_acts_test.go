package designer_test

import (
	"net/url"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// What the buttons of the design page do, on a path that fits and on many that
// do not: a page comes back each time, and what does not fit changes nothing.
func TestActsOfTheDesignPage(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	v := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	const page = "/office/rounds/shore-2027/design"
	labels := func(section form.Key) string {
		var out []string
		for _, s := range working(t, h, "shore-2027").Sections {
			if s.Key == section {
				for _, q := range s.Questions {
					out = append(out, string(q.Key))
				}
			}
		}
		return strings.Join(out, " ")
	}
	act := func(do string, fields ...string) (int, string) {
		f := url.Values{}
		for i := 0; i+1 < len(fields); i += 2 {
			f.Set(fields[i], fields[i+1])
		}
		return v.Submit(page+"/"+do, f)
	}
	good := func(do string, fields ...string) {
		t.Helper()
		if code, body := act(do, fields...); code != 303 {
			t.Fatalf("%s %v: %d %s", do, fields, code, body)
		}
	}
	place := labels("place")
	good("add", "to", "sections/place/questions", "label", "Is there a gate?", "kind", "yesno", "before", "site")
	if got := labels("place"); got != "district is-there-a-gate site land-leave site-access" {
		t.Errorf("after it is added: %s", got)
	}
	good("copy", "path", "sections/place/questions/is-there-a-gate")
	good("move", "path", "sections/place/questions/is-there-a-gate-2", "way", "up")
	if got := labels("place"); got != "district is-there-a-gate-2 is-there-a-gate site land-leave site-access" {
		t.Errorf("after the copy is moved up: %s", got)
	}
	good("move", "path", "sections/place/questions/is-there-a-gate-2", "to", "sections/work/questions", "before", "area")
	if got := labels("work"); !strings.Contains(got, "is-there-a-gate-2 area") {
		t.Errorf("after it is dropped into another section: %s", got)
	}
	good("keep", "path", "sections/place")
	good("add", "to", "sections", "kept", "The place")
	again := working(t, h, "shore-2027").Sections
	if last := again[len(again)-1]; last.Label != "The place" || last.Key == "place" || len(last.Questions) != 5 ||
		last.Questions[0].Key == "district" {
		t.Errorf("a kept section comes with keys of its own: %s", webtest.ToJSON(last))
	}
	for range 6 { // add, copy, move, move, add: each back, then nothing more of hers
		act("undo")
	}
	if got := labels("place"); got != place || len(working(t, h, "shore-2027").Sections) != len(again)-1 {
		t.Errorf("all undone: %s", got)
	}
	if code, body := act("undo"); code != 409 || !webtest.Contains(body, "nothing of yours to undo") {
		t.Errorf("nothing is left to undo: %d", code)
	}

	before := webtest.ToJSON(working(t, h, "shore-2027"))
	for _, path := range []string{"", "/", "listed", "sections", "sections/", "sections/place/questions",
		"sections/place/questions/", "sections/nowhere", "rules/nobody", "name", "name/x", "calendar/closes/at",
		"sections/place/questions/site/limits", "../..", "schema", "retired"} {
		for _, do := range []string{"copy", "keep", "remove", "move"} {
			for _, way := range []string{"up", "sideways"} {
				if code, body := act(do, "path", path, "way", way); code >= 500 || code == 303 &&
					webtest.ToJSON(working(t, h, "shore-2027")) != before {
					t.Errorf("%s %q %s: %d %s", do, path, way, code, body)
				}
			}
		}
		if path == "sections" {
			continue // there a thing can be added
		}
		if code, body := act("add", "to", path, "label", "New", "kind", "riddle"); code >= 500 || code == 303 &&
			webtest.ToJSON(working(t, h, "shore-2027")) != before {
			t.Errorf("adding to %q: %d %s", path, code, body)
		}
		if code, body := v.See(page + "?path=" + url.QueryEscape(path)); code != 200 {
			t.Errorf("the page of %q: %d %s", path, code, body)
		}
	}
	if code, body := v.Submit(page, url.Values{"path": {"sections/place/questions/site"}, "was:label": {`"Na`},
		"label": {"Site"}}); code != 400 || !webtest.Contains(body, "did not arrive whole") {
		t.Errorf("a form that was cut: %d %s", code, body)
	}
	if code, body := act("add", "to", "sections", "label", "  "); code != 422 ||
		!webtest.Contains(body, "Give it a name first") {
		t.Errorf("without a name: %d", code)
	}
	if webtest.ToJSON(working(t, h, "shore-2027")) != before {
		t.Error("what did not fit changed the design")
	}
	if code, body := v.Submit("/office/new-round", url.Values{"kind": {"riddle"}, "name": {"A riddle"}}); code >= 500 {
		t.Errorf("a round from a pattern that is not there: %d %s", code, body)
	}
}
