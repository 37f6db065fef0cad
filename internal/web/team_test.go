package web_test

import (
	"context"
	"net/url"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
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
	if code, page := imre.post(at+"/team", url.Values{"name": {"Wenna"}, "email": {"not an address"}}); code != 422 ||
		!contains(page, "whole mail address") || !contains(page, `value="Wenna"`) {
		t.Errorf("no address: %d", code)
	}
	if code, _ := imre.post(at+"/team", url.Values{"name": {"Wenna Astley"},
		"email": {"wenna@hallin.example"}}); code != 303 {
		t.Fatalf("asked: %d", code)
	}
	if code, page := imre.post(at+"/team", url.Values{"name": {"Wenna Astley"},
		"email": {"WENNA@hallin.example"}}); code != 422 || !contains(page, "is asked already") {
		t.Errorf("asked twice: %d", code)
	}
	wenna := visit(t, base)
	asked := mailed(h, "wenna@hallin.example", "/team/")
	if code, page := wenna.get(asked); code != 200 || !contains(page, "asks you to write") ||
		!contains(page, "wenna@hallin.example") {
		t.Fatalf("what she is asked: %d", code)
	}
	if code, page := wenna.post(asked, url.Values{"answer": {"yes"}, "name": {"Wenna Astley"},
		"password": {"1234567890"}}); code != 422 || !contains(page, "many people use") {
		t.Errorf("a password of everybody's: %d", code)
	}
	if code, _ := wenna.post(asked, url.Values{"answer": {"yes"}, "name": {"Wenna Astley"},
		"password": {programtest.Password}}); code != 303 {
		t.Fatalf("her yes: %d", code)
	}
	if code, page := imre.post(at+"/team", url.Values{"name": {"Wenna Astley"},
		"email": {"WENNA@hallin.example"}}); code != 422 || !contains(page, "has a part in it already") {
		t.Errorf("asked when she has said yes: %d", code)
	}
	if _, page := wenna.get("/applications"); !contains(page, c.Ref) {
		t.Error("she does not find it")
	}
	if code, _ := wenna.post(at+"/sections/work", url.Values{"describe": {"Reed, by both of us."}}); code != 303 {
		t.Errorf("she writes: %d", code)
	}
	for what, path := range map[string]string{"sends": "/send", "asks others": "/team", "withdraws": "/withdraw"} {
		if code, _ := wenna.post(at+path, url.Values{"name": {"X Y"}, "email": {"x@y.example"}, "sure": {"yes"},
			"password": {programtest.Password}}); code != 403 && code != 409 {
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
		t.Errorf("asked to lead: %d", code)
	}
	if now := found(t, h, c.Ref); now.LeadName != "Imre Calloway" {
		t.Error("it is handed over before she says yes")
	}
	if code, _ := wenna.post(mailed(h, "wenna@hallin.example", "/team/"), url.Values{"answer": {"yes"}}); code != 303 {
		t.Errorf("she takes the lead: %d", code)
	}
	if now, err := h.Cases.Find(t.Context(), h.DB, c.Ref); err != nil || now.LeadName != "Wenna Astley" {
		t.Errorf("it is led by %s, %v", now.LeadName, err)
	}
	if code, _ := imre.post(at+"/send", url.Values{"password": {programtest.Password}}); code != 403 && code != 409 {
		t.Errorf("who led it before sends: %d", code)
	}
	if code, page := wenna.post(at+"/send", url.Values{"password": {programtest.Password}}); code != 422 ||
		!contains(page, "name") {
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

// Naming somebody gives them nothing and takes nothing from them: an officer
// and a reader of the round are asked and can only say no, and go on seeing the
// case as they did; whoever says no or is taken back gets nothing; whoever said
// yes leaves when they like, after sending too.
func TestNamingSomebodyTakesNothing(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := serve(t, h)
	rd := h.OpenRound(officer(h), nil)
	c := ready(h, "imre@corvoe.example")
	rita := h.Person("rita@readers.example", "Rita Low")
	h.Act(rita.ID, func(ctx context.Context, tx *db.Tx) error {
		r, err := h.Rounds.ByID(ctx, tx, rd)
		if err != nil {
			return err
		}
		_, err = h.Reading.Invite(ctx, tx, r, rita.Email, rita.Name)
		return err
	})
	h.Person("ysolde@tarl.example", "Ysolde Fenn")
	imre := visit(t, base).as("imre@corvoe.example")
	at, neda := "/applications/"+c.Ref, visit(t, base).as("neda@ostrel-trust.example")
	for _, x := range []struct{ email, part string }{{"neda@ostrel-trust.example", "teammate"}, {rita.Email, "commenter"},
		{"ysolde@tarl.example", "teammate"}} {
		if code, _ := imre.post(at+"/team", url.Values{"name": {"A Friend"}, "email": {x.email},
			"part": {x.part}}); code != 303 {
			t.Fatalf("%s is asked: %d", x.email, code)
		}
		v := visit(t, base).as(x.email)
		if code, _ := v.get(at); code != 404 {
			t.Errorf("%s sees it before saying yes: %d", x.email, code)
		}
	}
	if _, page := imre.get(at + "/team"); contains(page, "Ysolde") || contains(page, "Rita") ||
		strings.Count(page, "<b>A Friend</b>") != 3 {
		t.Error("the page tells whose addresses they are")
	}
	if code, _ := neda.get("/office/applications/" + c.Ref); code != 200 {
		t.Errorf("the office, named: %d", code)
	}
	for _, email := range []string{"neda@ostrel-trust.example", rita.Email} {
		v, link := visit(t, base).as(email), mailed(h, email, "/team/")
		if code, page := v.get(link); code != 200 || contains(page, `value="yes"`) {
			t.Errorf("%s is offered a yes: %d", email, code)
		}
		if code, _ := v.post(link, url.Values{"answer": {"yes"}}); code != 422 {
			t.Errorf("%s says yes all the same: %d", email, code)
		}
		if code, _ := v.post(link, url.Values{"answer": {"no"}}); code != 303 {
			t.Errorf("%s says no: %d", email, code)
		}
		if code, page := v.get(link); code != 200 || !contains(page, "You said no") {
			t.Errorf("%s afterwards: %d", email, code)
		}
	}
	ysolde, link := visit(t, base).as("ysolde@tarl.example"), mailed(h, "ysolde@tarl.example", "/team/")
	_, page := imre.get(at + "/team")
	back := regexpValue(t, page, `action="(`+at+`/team/invitations/[0-9]+/back)"`)
	if code, _ := ysolde.post(back, url.Values{}); code != 404 {
		t.Errorf("a stranger takes it back: %d", code)
	}
	if code, _ := imre.post(back, url.Values{}); code != 303 {
		t.Errorf("taken back: %d", code)
	}
	if code, _ := ysolde.post(link, url.Values{"answer": {"yes"}}); code != 404 {
		t.Errorf("a yes after it was taken back: %d", code)
	}
	imre.post(at+"/team", url.Values{"name": {"A Friend"}, "email": {"ysolde@tarl.example"}})
	if code, _ := ysolde.post(mailed(h, "ysolde@tarl.example", "/team/"), url.Values{"answer": {"yes"}}); code != 303 {
		t.Fatalf("her yes: %d", code)
	}
	imre.post(at+"/team", url.Values{"name": {"Late"}, "email": {"late@tarl.example"}})
	late := mailed(h, "late@tarl.example", "/team/")
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	if code, page := visit(t, base).post(late, url.Values{"answer": {"yes"}, "name": {"Late One"},
		"password": {programtest.Password}}); code != 422 || !contains(page, "no longer holds") {
		t.Errorf("a yes after sending: %d", code)
	}
	if code, _ := ysolde.post(at+"/team/leave", url.Values{}); code != 303 {
		t.Errorf("leaving unmeant: %d", code)
	}
	if code, _ := ysolde.get(at + "/sent"); code != 200 {
		t.Errorf("left unmeant: %d", code)
	}
	if code, _ := ysolde.post(at+"/team/leave", url.Values{"sure": {"yes"}}); code != 303 {
		t.Errorf("leaving: %d", code)
	}
	if code, _ := ysolde.get(at + "/sent"); code != 404 {
		t.Errorf("after leaving: %d", code)
	}
	if code, _ := imre.post(at+"/team/leave", url.Values{"sure": {"yes"}}); code != 409 {
		t.Errorf("the lead leaves: %d", code)
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
	if _, page := imre.get("/rounds/shore-2027/start"); !contains(page, "Begin from an earlier application") ||
		!contains(page, c.Ref) {
		t.Error("the earlier one is not offered")
	}
	code, page := imre.post("/rounds/shore-2027/start", url.Values{"title": {"Another bed"}, "from!earlier": {c.Ref},
		"district": {"tarl"}})
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
	if f, filled, _, err := h.Cases.Walk(t.Context(), h.DB, found(t, h, ref), h.Clock.Now()); err != nil ||
		filled.Answers[form.Place{Question: "district"}].Raw != "tarl" || f == nil {
		t.Error("what was answered now did not come before")
	}
	if _, page = imre.get("/applications/" + ref + "/sections/declarations"); contains(page, "checked") ||
		contains(page, `value="Imre Calloway"`) {
		t.Error("statements were taken over")
	}
	if code, _ = visit(t, base).as("else@corvoe.example").post("/rounds/shore-2027/start",
		url.Values{"title": {"Theirs"}, "from!earlier": {c.Ref}}); code != 404 {
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
