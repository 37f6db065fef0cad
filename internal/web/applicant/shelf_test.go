package applicant_test

import (
	"net/url"
	"regexp"
	"strings"
	"testing"

	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The shelf as somebody uses it: a file is put on it, stands beside the slot it fits
// as not attached, is attached at one press, and is nobody else's.
func TestTheShelfOnItsPages(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), withPhotos)
	c := h.Draft("imre@corvoe.example")
	h.Person("bo@corvoe.example", "Bo Hart")
	imre := webtest.Visit(t, base).As("imre@corvoe.example")
	bo := webtest.Visit(t, base).As("bo@corvoe.example")
	if _, page := imre.See("/shelf"); !webtest.Contains(page, "Nothing is on it yet") {
		t.Error("an empty shelf says nothing")
	}
	plan := string(programtest.Plan)
	for _, p := range []struct{ name, until, body, says string }{
		{"plan.pdf", "some day", plan, "The day “some day” cannot be read"},
		{"plan.pdf", "", "words", "The file plan.pdf"},
	} {
		if code, page := imre.Upload("/shelf", map[string]string{"until": p.until, "holder": "0"}, p.name,
			p.body); code != 422 ||
			!webtest.Contains(page, p.says) {
			t.Errorf("%s until %q: %d", p.name, p.until, code)
		}
	}
	if code, page := imre.Upload("/shelf", map[string]string{"until": "1 February 2027", "holder": "0"}, "plan.pdf",
		plan); code != 303 {
		t.Fatal(code, page)
	}
	_, page := imre.See("/shelf")
	file := regexp.MustCompile(`/shelf/(\d+)"`).FindStringSubmatch(page)
	if len(file) != 2 || !webtest.Contains(page, "out of date") || !webtest.Contains(page, "2 pages") {
		t.Fatalf("on the shelf: %v", file)
	}
	if code, body := imre.See("/shelf/" + file[1]); code != 200 || !strings.HasPrefix(body, "%PDF") {
		t.Errorf("fetched: %d", code)
	}
	for _, path := range []string{"/shelf/" + file[1], "/shelf/999"} {
		if code, _ := bo.See(path); code != 404 {
			t.Errorf("somebody else at %s: %d", path, code)
		}
	}
	if code, _ := bo.Submit("/shelf/"+file[1]+"/off", url.Values{}); code != 404 {
		t.Errorf("somebody else takes it off: %d", code)
	}
	section := "/applications/" + c.Ref + "/sections/materials"
	_, page = imre.See(section)
	if !webtest.Contains(page, "not attached") || strings.Count(page, "/shelf/photos") != 0 ||
		strings.Count(page, "/shelf/site-plan") != 1 || !webtest.Contains(page, "No file yet: Site plan") {
		t.Error("beside the slot it fits, and no other, it is offered, and the slot stays an obstacle")
	}
	if code, _ := imre.Submit("/applications/"+c.Ref+"/shelf/site-plan", url.Values{"file": {file[1]}}); code != 303 {
		t.Fatal(code)
	}
	_, page = imre.See(section)
	if webtest.Contains(page, "not attached") || webtest.Contains(page, "No file yet: Site plan") ||
		!webtest.Contains(page, "2 pages · in") {
		t.Error("it is not attached")
	}
	if _, page = imre.See("/shelf"); !webtest.Contains(page, "Reed beds") {
		t.Error("the shelf does not say where it is attached")
	}
	if code, _ := imre.Submit("/shelf/"+file[1]+"/off", url.Values{}); code != 303 {
		t.Error(code)
	}
	if _, page = imre.See(section); !webtest.Contains(page, "plan.pdf") {
		t.Error("what is attached went with the shelf")
	}
	if code, _ := imre.Upload("/applications/"+c.Ref+"/file/site-plan", nil, "new.pdf", plan); code != 303 {
		t.Fatal(code)
	}
	_, page = imre.See(section)
	id := regexp.MustCompile(`/materials/(\d+)/shelve`).FindStringSubmatch(page)
	if len(id) != 2 {
		t.Fatal("it cannot be kept on the shelf")
	}
	if code, _ := imre.Submit("/applications/"+c.Ref+"/materials/"+id[1]+"/shelve", url.Values{}); code != 303 {
		t.Error(code)
	}
	if _, page = imre.See("/shelf"); !webtest.Contains(page, "new.pdf") {
		t.Error("it is not on the shelf")
	}
}
