package journey_test

import (
	"net/url"
	"strings"
	"testing"

	"ulvant/demo"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// In the demo's call in two stages: who is invited begins the second by one
// press, finds what is asked again as it was answered, reads the first beside
// it and cannot change that; the office goes from one stage to the other.
func TestTheSecondStageByForms(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	_, base := webtest.Serve(t, h)
	signIn := func(who string) *webtest.Visitor {
		v := webtest.Visit(t, base)
		if code, body := v.Submit("/sign-in", url.Values{"email": {who}, "password": {demo.Password}}); code != 303 {
			t.Fatalf("%s cannot sign in: %d %s", who, code, body)
		}
		return v
	}
	branwen := signIn("branwen.iveagh@ness-common.example")
	_, mine := branwen.See("/applications")
	ref := webtest.RegexpValue(t, mine, `href="/applications/(SPL-[^"]+)"`)
	if !webtest.Contains(mine, "Full plan: invited") {
		t.Error("her list does not say what she is invited to")
	}
	if code, page := branwen.See("/applications/" + ref); code != 200 || !webtest.Contains(page, "Begin “Full plan”") ||
		webtest.Contains(page, "Declarations</b> <span class=\"soft\">starts") {
		t.Fatalf("the invitation: %d %s", code, page)
	}
	if code, _ := signIn("dervla.quayle@tarl-moor-society.example").Submit("/applications/"+ref+"/take-up",
		url.Values{}); code != 404 {
		t.Errorf("another took it up: %d", code)
	}
	if code, _ := branwen.Submit("/applications/"+ref+"/sections/full-plan", url.Values{}); code < 400 {
		t.Errorf("written before it was begun: %d", code)
	}
	for range 2 {
		code, _ := branwen.Submit("/applications/"+ref+"/take-up", url.Values{})
		if code != 303 && code != 409 {
			t.Fatalf("taking it up: %d", code)
		}
	}
	if _, page := branwen.See("/applications/" + ref + "/sections/budget-section"); !webtest.Contains(page,
		`value="52000"`) {
		t.Error("the budget does not start from what was answered")
	}
	if _, page := branwen.See("/applications/" + ref + "/sections/declarations"); webtest.Contains(page, "checked") ||
		webtest.Contains(page, `value="Branwen Iveagh"`) {
		t.Error("statements and signature were carried over")
	}
	if code, _ := branwen.Submit("/applications/"+ref+"/sections/full-plan",
		url.Values{"programme-of-work": {"By tides."}}); code != 303 {
		t.Errorf("writing: %d", code)
	}
	code, first := branwen.See("/applications/" + ref + "/sent?stage=writing")
	if code != 200 || !webtest.Contains(first, "invited on") || !webtest.Contains(first, "/copy?stage=writing") {
		t.Errorf("the first stage: %d", code)
	}
	if code, _ := branwen.Submit("/applications/"+ref+"/sections/place?stage=writing",
		url.Values{"site": {"elsewhere"}}); code < 400 {
		t.Errorf("the first stage was written after it was sent: %d", code)
	}
	neda := signIn("neda.sparrow@ostrel-trust.example")
	if _, page := neda.See("/office/applications/" + ref); !webtest.Contains(page, "Still a draft") ||
		!webtest.Contains(page, "?stage=writing") || webtest.Contains(page, "By tides.") {
		t.Error("the office sees the draft, or no way to the first stage")
	}
	_, page := neda.See("/office/applications/" + ref + "?stage=writing")
	file := webtest.RegexpValue(t, page, `href="(/office/applications/[^"]+/materials/[^"]+)"`)
	if code, _ := neda.See(strings.ReplaceAll(file, "&amp;", "&")); code != 200 {
		t.Errorf("a file of the first stage: %d", code)
	}
}
