package rounds_test

import (
	"net/url"
	"os"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The office puts up a file, a template and its second version; everybody reads them on
// the round's page, whoever writes sees them beside the question and what is new since they
// began; what is put up wrongly is said, keeps what was typed and changes nothing.
func TestFilesBesideARound(t *testing.T) {
	t.Parallel()
	h, _, draft := programtest.Opened(t, nil)
	_, base := webtest.Serve(t, h)
	plan, err := os.ReadFile("../../../programtest/testdata/plan.pdf")
	if err != nil {
		t.Fatal(err)
	}
	const at = "/office/rounds/shore-2027/guidance"
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	if code, page := neda.See(at); code != 200 || !webtest.Contains(page, "Nothing stands beside this round yet") {
		t.Fatalf("%d %s", code, page)
	}
	h.Clock.Set(h.Clock.Now().Add(1e9))
	for _, c := range []struct {
		says   string
		fields map[string]string
		file   string
		body   string
		code   int
		want   string
	}{
		{"no file", map[string]string{"title": "Typed already"}, "", "", 422, "Choose a file first."},
		{"no name", map[string]string{"title": " "}, "a.pdf", string(plan), 422, "what the file is called"},
		{"kept", map[string]string{"title": "Typed already"}, "a.exe", "MZ", 422, `value="Typed already"`},
		{"no question", map[string]string{"title": "A", "slot": "none"}, "a.pdf", string(plan), 422, "takes files"},
		{"no number", map[string]string{"title": "A", "paper": "x"}, "a.pdf", string(plan), 404, ""},
		{"no such file", map[string]string{"changed": "A", "paper": "99"}, "a.pdf", string(plan), 404, ""},
		{"to read", map[string]string{"title": "Notes for applicants"}, "notes.pdf", string(plan), 200,
			"Notes for applicants"},
		{"a template", map[string]string{"title": "Plan of the site", "slot": "site-plan"}, "plan.pdf", string(plan), 200,
			"A template for"},
		{"a version that says nothing", map[string]string{"paper": "2", "changed": ""}, "plan.pdf", string(plan) + "\n", 422,
			"what is different"},
		{"a version", map[string]string{"paper": "2", "changed": "a scale bar", "tell": "yes"}, "plan.pdf", string(plan) +
			"\n", 200, "version 2"},
	} {
		code, page := neda.Upload(at, c.fields, c.file, c.body)
		if code == 303 {
			code, page = neda.See(at)
		}
		if code != c.code || !webtest.Contains(page, c.want) {
			t.Errorf("%s: %d, without %q", c.says, code, c.want)
		}
	}
	anybody := webtest.Visit(t, base)
	if _, page := anybody.See("/rounds/shore-2027"); !webtest.Contains(page, "Plan of the site") ||
		!webtest.Contains(page, "a scale bar") {
		t.Error("the round's page does not name them")
	}
	for path, want := range map[string]int{"/rounds/shore-2027/files/1": 200, "/rounds/shore-2027/files/2": 200,
		"/rounds/shore-2027/files/3": 404, "/rounds/shore-2027/files/x": 404, at + "/2/1": 303} {
		if code, _ := anybody.See(path); code != want {
			t.Errorf("%s: %d, want %d", path, code, want)
		}
	}
	for path, want := range map[string]int{at + "/2/1": 200, at + "/2/3": 404, at + "/2/x": 404, at + "/9/1": 404} {
		if code, _ := neda.See(path); code != want {
			t.Errorf("%s: %d, want %d", path, code, want)
		}
	}
	writer := webtest.Visit(t, base).As("imre@corvoe.example")
	section := "/applications/" + draft.Ref + "/sections/" + sectionOf(t, h, draft.DesignID, "site-plan")
	_, page := writer.See(section)
	for _, want := range []string{"2 files</a>", "new since you began", "Plan of the site</a>, version 2", "(a scale bar)",
		"Fetch “Plan of the site”"} {
		if !webtest.Contains(page, want) && !webtest.Contains(page, strings.ReplaceAll(want, "</a>", "")) {
			t.Errorf("beside the question: no %q", want)
		}
	}
	for _, c := range []struct {
		path, why string
		code      int
	}{{at + "/2/remove", " ", 422}, {at + "/9/remove", "old", 404}, {at + "/x/remove", "old", 404},
		{at + "/2/remove", "It asked too much.", 303}} {
		if code, _ := neda.Submit(c.path, url.Values{"why": {c.why}}); code != c.code {
			t.Errorf("%s because %q: %d, want %d", c.path, c.why, code, c.code)
		}
	}
	if code, _ := anybody.See("/rounds/shore-2027/files/2"); code != 404 {
		t.Errorf("taken away, and still there: %d", code)
	}
}

func sectionOf(t *testing.T, h *programtest.House, design int64, q form.Key) string {
	t.Helper()
	f, err := h.Rounds.Form(t.Context(), h.DB, design)
	if err != nil {
		t.Fatal(err)
	}
	return string(f.SectionOf(q))
}
