package web_test

import (
	"net/url"
	"strings"
	"testing"

	"ulvant/internal/programtest"
)

// Teammates: asked by mail, with a link to choose a password when they are new;
// they write, do not send, ask nobody else; the lead takes them out or hands
// over; strangers see nothing.
func TestTeammates(t *testing.T) {
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
	if code, page := imre.post(at+"/team", url.Values{"name": {"Wenna Astley"}, "email": {"WENNA@hallin.example"}}); code != 422 || !contains(page, "writes it already") {
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
