package web_test

import (
	"net/url"
	"strings"
	"testing"

	"ulvant/demo"
	"ulvant/internal/programtest"
)

// In the demo's call in two stages: who is invited begins the second by one
// press, finds what is asked again as it was answered, reads the first beside
// it and cannot change that; the office goes from one stage to the other.
func TestTheSecondStageByForms(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	_, base := serve(t, h)
	signIn := func(who string) *visitor {
		v := visit(t, base)
		if code, body := v.post("/sign-in", url.Values{"email": {who}, "password": {demo.Password}}); code != 303 {
			t.Fatalf("%s cannot sign in: %d %s", who, code, body)
		}
		return v
	}
	branwen := signIn("branwen.iveagh@ness-common.example")
	_, mine := branwen.get("/applications")
	ref := regexpValue(t, mine, `href="/applications/(SPL-[^"]+)"`)
	if !contains(mine, "Full plan: invited") {
		t.Error("her list does not say what she is invited to")
	}
	if code, page := branwen.get("/applications/" + ref); code != 200 || !contains(page, "Begin “Full plan”") ||
		contains(page, "Declarations</b> <span class=\"soft\">starts") {
		t.Fatalf("the invitation: %d %s", code, page)
	}
	if code, _ := signIn("dervla.quayle@tarl-moor-society.example").post("/applications/"+ref+"/take-up",
		url.Values{}); code != 404 {
		t.Errorf("another took it up: %d", code)
	}
	if code, _ := branwen.post("/applications/"+ref+"/sections/full-plan", url.Values{}); code < 400 {
		t.Errorf("written before it was begun: %d", code)
	}
	for range 2 {
		code, _ := branwen.post("/applications/"+ref+"/take-up", url.Values{})
		if code != 303 && code != 409 {
			t.Fatalf("taking it up: %d", code)
		}
	}
	if _, page := branwen.get("/applications/" + ref + "/sections/budget-section"); !contains(page, `value="52000"`) {
		t.Error("the budget does not start from what was answered")
	}
	if _, page := branwen.get("/applications/" + ref + "/sections/declarations"); contains(page, "checked") ||
		contains(page, `value="Branwen Iveagh"`) {
		t.Error("statements and signature were carried over")
	}
	if code, _ := branwen.post("/applications/"+ref+"/sections/full-plan",
		url.Values{"programme-of-work": {"By tides."}}); code != 303 {
		t.Errorf("writing: %d", code)
	}
	code, first := branwen.get("/applications/" + ref + "/sent?stage=writing")
	if code != 200 || !contains(first, "invited on") || !contains(first, "/copy?stage=writing") {
		t.Errorf("the first stage: %d", code)
	}
	if code, _ := branwen.post("/applications/"+ref+"/sections/place?stage=writing",
		url.Values{"site": {"elsewhere"}}); code < 400 {
		t.Errorf("the first stage was written after it was sent: %d", code)
	}
	neda := signIn("neda.sparrow@ostrel-trust.example")
	if _, page := neda.get("/office/applications/" + ref); !contains(page, "Still a draft") ||
		!contains(page, "?stage=writing") || contains(page, "By tides.") {
		t.Error("the office sees the draft, or no way to the first stage")
	}
	_, page := neda.get("/office/applications/" + ref + "?stage=writing")
	file := regexpValue(t, page, `href="(/office/applications/[^"]+/materials/[^"]+)"`)
	if code, _ := neda.get(strings.ReplaceAll(file, "&amp;", "&")); code != 200 {
		t.Errorf("a file of the first stage: %d", code)
	}
}
