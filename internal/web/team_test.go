package web_test

import (
	"net/url"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/programtest"
)

// Teammates: asked by mail, with a link to choose a password when they are new;
// they write, do not send, ask nobody else; the lead takes them out or hands
// over; strangers see nothing.
func TestTeammates(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := serve(t, h)
	h.OpenRound(officer(h), nil)
	c := ready(h, "imre@corvoe.example")
	h.Person("else@corvoe.example", "Somebody Else")
	at := "/applications/" + c.Ref
	imre := visit(t, base).as("imre@corvoe.example")
	if code, page := imre.post(at+"/team", url.Values{"name": {"Wenna"}, "email": {"not an address"}}); code != 422 || !contains(page, "whole mail address") || !contains(page, `value="Wenna"`) {
		t.Errorf("no address: %d", code)
	}
	if code, _ := imre.post(at+"/team", url.Values{"name": {"Wenna Astley"}, "email": {"wenna@hallin.example"}}); code != 303 {
		t.Fatalf("asked: %d", code)
	}
	if code, page := imre.post(at+"/team", url.Values{"name": {"Wenna Astley"}, "email": {"WENNA@hallin.example"}}); code != 422 || !contains(page, "has a part in it already") {
		t.Errorf("asked twice: %d", code)
	}
	wenna := visit(t, base)
	if code, _ := wenna.post(mailed(h, "wenna@hallin.example", "/reset/"), url.Values{"password": {programtest.Password}}); code != 303 {
		t.Fatalf("her first password: %d", code)
	}
	if _, page := wenna.get("/applications"); !contains(page, c.Ref) {
		t.Error("she does not find it")
	}
	if code, _ := wenna.post(at+"/sections/work", url.Values{"describe": {"Reed, by both of us."}}); code != 303 {
		t.Errorf("she writes: %d", code)
	}
	for what, path := range map[string]string{"sends": "/send", "asks others": "/team", "withdraws": "/withdraw"} {
		if code, _ := wenna.post(at+path, url.Values{"name": {"X Y"}, "email": {"x@y.example"}, "sure": {"yes"}, "password": {programtest.Password}}); code != 403 && code != 409 {
			t.Errorf("she %s: %d", what, code)
		}
	}
	other := visit(t, base).as("else@corvoe.example")
	if code, _ := other.get(at + "/team"); code != 404 {
		t.Errorf("a stranger: %d", code)
	}
	_, page := imre.get(at + "/team")
	drop := regexpValue(t, page, `action="(`+at+`/team/[0-9]+/drop)"`)
	if code, _ := other.post(drop, url.Values{}); code != 404 {
		t.Errorf("a stranger takes her out: %d", code)
	}
	if code, _ := imre.post(strings.Replace(drop, "/drop", "/lead", 1), url.Values{}); code != 303 {
		t.Errorf("handed over: %d", code)
	}
	if now, err := h.Cases.Find(t.Context(), h.DB, c.Ref); err != nil || now.LeadName != "Wenna Astley" {
		t.Errorf("it is led by %s, %v", now.LeadName, err)
	}
	if code, _ := imre.post(at+"/send", url.Values{"password": {programtest.Password}}); code != 403 && code != 409 {
		t.Errorf("who led it before sends: %d", code)
	}
	if code, page := wenna.post(at+"/send", url.Values{"password": {programtest.Password}}); code != 422 || !contains(page, "name") {
		t.Errorf("sent under another's signature: %d", code)
	}
	_, page = wenna.get(at + "/team")
	if code, _ := wenna.post(regexpValue(t, page, `action="(`+at+`/team/[0-9]+/drop)"`), url.Values{}); code != 303 {
		t.Errorf("taken out: %d", code)
	}
	if code, _ := imre.get(at); code != 404 {
		t.Errorf("who was taken out still sees it: %d", code)
	}
}

// A new application begun from an earlier one of one's own takes over what is
// asked in the same way; not statements, not files, and nothing of another's.
func TestBeginFromAnEarlierOne(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := serve(t, h)
	h.OpenRound(officer(h), nil)
	c := ready(h, "imre@corvoe.example")
	h.Person("else@corvoe.example", "Somebody Else")
	imre := visit(t, base).as("imre@corvoe.example")
	if _, page := imre.get("/rounds/shore-2027/start"); !contains(page, "Begin from an earlier application") || !contains(page, c.Ref) {
		t.Error("the earlier one is not offered")
	}
	code, page := imre.post("/rounds/shore-2027/start", url.Values{"title": {"Another bed"}, "from!earlier": {c.Ref}, "district": {"tarl"}})
	if code != 303 {
		t.Fatalf("begun: %d %s", code, page)
	}
	_, mine := imre.get("/applications")
	ref := regexpValue(t, mine, `href="/applications/([^"]+)">Another bed`)
	if _, page = imre.get("/applications/" + ref + "/sections/work"); !contains(page, ">Reed.</textarea>") {
		t.Error("its description was not taken over")
	}
	if _, page = imre.get("/applications/" + ref + "/sections/budget-section"); !contains(page, `value="6000"`) {
		t.Error("its budget was not taken over")
	}
	if f, filled, _, err := h.Cases.Walk(t.Context(), h.DB, found(t, h, ref), h.Clock.Now()); err != nil || filled.Answers[form.Place{Question: "district"}].Raw != "tarl" || f == nil {
		t.Error("what was answered now did not come before")
	}
	if _, page = imre.get("/applications/" + ref + "/sections/declarations"); contains(page, "checked") || contains(page, `value="Imre Calloway"`) {
		t.Error("statements were taken over")
	}
	if code, _ = visit(t, base).as("else@corvoe.example").post("/rounds/shore-2027/start", url.Values{"title": {"Theirs"}, "from!earlier": {c.Ref}}); code != 404 {
		t.Errorf("from another's: %d", code)
	}
}

func found(t *testing.T, h *programtest.House, ref string) application.Case {
	t.Helper()
	c, err := h.Cases.Find(t.Context(), h.DB, ref)
	if err != nil {
		t.Fatal(err)
	}
	return c
}
