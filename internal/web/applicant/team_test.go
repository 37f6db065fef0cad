package applicant_test

import (
	"context"
	"net/url"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Teammates: asked by mail, with a link to choose a password when they are new;
// they write, do not send, ask nobody else; the lead takes them out or hands
// over; strangers see nothing.
func TestTeammates(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	h.Person("else@corvoe.example", "Somebody Else")
	at := "/applications/" + c.Ref
	imre := webtest.Visit(t, base).As("imre@corvoe.example")
	if code, page := imre.Submit(at+"/team", url.Values{"name": {"Wenna"}, "email": {"not an address"}}); code != 422 ||
		!webtest.Contains(page, "whole mail address") || !webtest.Contains(page, `value="Wenna"`) {
		t.Errorf("no address: %d", code)
	}
	if code, _ := imre.Submit(at+"/team", url.Values{"name": {"Wenna Astley"},
		"email": {"wenna@hallin.example"}}); code != 303 {
		t.Fatalf("asked: %d", code)
	}
	if code, page := imre.Submit(at+"/team", url.Values{"name": {"Wenna Astley"},
		"email": {"WENNA@hallin.example"}}); code != 422 || !webtest.Contains(page, "is asked already") {
		t.Errorf("asked twice: %d", code)
	}
	wenna := webtest.Visit(t, base)
	asked := webtest.Mailed(h, "wenna@hallin.example", "/team/")
	if code, page := wenna.See(asked); code != 200 || !webtest.Contains(page, "asks you to write") ||
		!webtest.Contains(page, "wenna@hallin.example") {
		t.Fatalf("what she is asked: %d", code)
	}
	if code, page := wenna.Submit(asked, url.Values{"answer": {"yes"}, "name": {"Wenna Astley"},
		"password": {"1234567890"}}); code != 422 || !webtest.Contains(page, "many people use") {
		t.Errorf("a password of everybody's: %d", code)
	}
	if code, _ := wenna.Submit(asked, url.Values{"answer": {"yes"}, "name": {"Wenna Astley"},
		"password": {programtest.Password}}); code != 303 {
		t.Fatalf("her yes: %d", code)
	}
	if code, page := imre.Submit(at+"/team", url.Values{"name": {"Wenna Astley"},
		"email": {"WENNA@hallin.example"}}); code != 422 || !webtest.Contains(page, "has a part in it already") {
		t.Errorf("asked when she has said yes: %d", code)
	}
	if _, page := wenna.See("/applications"); !webtest.Contains(page, c.Ref) {
		t.Error("she does not find it")
	}
	if code, _ := wenna.Submit(at+"/sections/work", url.Values{"describe": {"Reed, by both of us."}}); code != 303 {
		t.Errorf("she writes: %d", code)
	}
	for what, path := range map[string]string{"sends": "/send", "asks others": "/team", "withdraws": "/withdraw"} {
		if code, _ := wenna.Submit(at+path, url.Values{"name": {"X Y"}, "email": {"x@y.example"}, "sure": {"yes"},
			"password": {programtest.Password}}); code != 403 && code != 409 {
			t.Errorf("she %s: %d", what, code)
		}
	}
	other := webtest.Visit(t, base).As("else@corvoe.example")
	if code, _ := other.See(at + "/team"); code != 404 {
		t.Errorf("a stranger: %d", code)
	}
	_, page := imre.See(at + "/team")
	drop := webtest.RegexpValue(t, page, `action="(`+at+`/team/[0-9]+/drop)"`)
	if code, _ := other.Submit(drop, url.Values{}); code != 404 {
		t.Errorf("a stranger takes her out: %d", code)
	}
	if code, _ := imre.Submit(strings.Replace(drop, "/drop", "/lead", 1), url.Values{}); code != 303 {
		t.Errorf("asked to lead: %d", code)
	}
	if now := webtest.Found(t, h, c.Ref); now.LeadName != "Imre Calloway" {
		t.Error("it is handed over before she says yes")
	}
	if code, _ := wenna.Submit(webtest.Mailed(h, "wenna@hallin.example", "/team/"),
		url.Values{"answer": {"yes"}}); code != 303 {
		t.Errorf("she takes the lead: %d", code)
	}
	if now, err := h.Cases.Find(t.Context(), h.DB, c.Ref); err != nil || now.LeadName != "Wenna Astley" {
		t.Errorf("it is led by %s, %v", now.LeadName, err)
	}
	if code, _ := imre.Submit(at+"/send", url.Values{"password": {programtest.Password}}); code != 403 && code != 409 {
		t.Errorf("who led it before sends: %d", code)
	}
	if code, page := wenna.Submit(at+"/send", url.Values{"password": {programtest.Password}}); code != 422 ||
		!webtest.Contains(page, "name") {
		t.Errorf("sent under another's signature: %d", code)
	}
	_, page = wenna.See(at + "/team")
	if code, _ := wenna.Submit(webtest.RegexpValue(t, page, `action="(`+at+`/team/[0-9]+/drop)"`),
		url.Values{}); code != 303 {
		t.Errorf("taken out: %d", code)
	}
	if code, _ := imre.See(at); code != 404 {
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
	_, base := webtest.Serve(t, h)
	rd := h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
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
	imre := webtest.Visit(t, base).As("imre@corvoe.example")
	at, neda := "/applications/"+c.Ref, webtest.Visit(t, base).As("neda@ostrel-trust.example")
	for _, x := range []struct{ email, part string }{{"neda@ostrel-trust.example", "teammate"}, {rita.Email, "commenter"},
		{"ysolde@tarl.example", "teammate"}} {
		if code, _ := imre.Submit(at+"/team", url.Values{"name": {"A Friend"}, "email": {x.email},
			"part": {x.part}}); code != 303 {
			t.Fatalf("%s is asked: %d", x.email, code)
		}
		v := webtest.Visit(t, base).As(x.email)
		if code, _ := v.See(at); code != 404 {
			t.Errorf("%s sees it before saying yes: %d", x.email, code)
		}
	}
	if _, page := imre.See(at + "/team"); webtest.Contains(page, "Ysolde") || webtest.Contains(page, "Rita") ||
		strings.Count(page, "<b>A Friend</b>") != 3 {
		t.Error("the page tells whose addresses they are")
	}
	if code, _ := neda.See("/office/applications/" + c.Ref); code != 200 {
		t.Errorf("the office, named: %d", code)
	}
	for _, email := range []string{"neda@ostrel-trust.example", rita.Email} {
		v, link := webtest.Visit(t, base).As(email), webtest.Mailed(h, email, "/team/")
		if code, page := v.See(link); code != 200 || webtest.Contains(page, `value="yes"`) {
			t.Errorf("%s is offered a yes: %d", email, code)
		}
		if code, _ := v.Submit(link, url.Values{"answer": {"yes"}}); code != 422 {
			t.Errorf("%s says yes all the same: %d", email, code)
		}
		if code, _ := v.Submit(link, url.Values{"answer": {"no"}}); code != 303 {
			t.Errorf("%s says no: %d", email, code)
		}
		if code, page := v.See(link); code != 200 || !webtest.Contains(page, "You said no") {
			t.Errorf("%s afterwards: %d", email, code)
		}
	}
	ysolde, link := webtest.Visit(t, base).As("ysolde@tarl.example"), webtest.Mailed(h, "ysolde@tarl.example", "/team/")
	_, page := imre.See(at + "/team")
	back := webtest.RegexpValue(t, page, `action="(`+at+`/team/invitations/[0-9]+/back)"`)
	if code, _ := ysolde.Submit(back, url.Values{}); code != 404 {
		t.Errorf("a stranger takes it back: %d", code)
	}
	if code, _ := imre.Submit(back, url.Values{}); code != 303 {
		t.Errorf("taken back: %d", code)
	}
	if code, _ := ysolde.Submit(link, url.Values{"answer": {"yes"}}); code != 404 {
		t.Errorf("a yes after it was taken back: %d", code)
	}
	imre.Submit(at+"/team", url.Values{"name": {"A Friend"}, "email": {"ysolde@tarl.example"}})
	if code, _ := ysolde.Submit(webtest.Mailed(h, "ysolde@tarl.example", "/team/"),
		url.Values{"answer": {"yes"}}); code != 303 {
		t.Fatalf("her yes: %d", code)
	}
	imre.Submit(at+"/team", url.Values{"name": {"Late"}, "email": {"late@tarl.example"}})
	late := webtest.Mailed(h, "late@tarl.example", "/team/")
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	if code, page := webtest.Visit(t, base).Submit(late, url.Values{"answer": {"yes"}, "name": {"Late One"},
		"password": {programtest.Password}}); code != 422 || !webtest.Contains(page, "no longer holds") {
		t.Errorf("a yes after sending: %d", code)
	}
	if code, _ := ysolde.Submit(at+"/team/leave", url.Values{}); code != 303 {
		t.Errorf("leaving unmeant: %d", code)
	}
	if code, _ := ysolde.See(at + "/sent"); code != 200 {
		t.Errorf("left unmeant: %d", code)
	}
	if code, _ := ysolde.Submit(at+"/team/leave", url.Values{"sure": {"yes"}}); code != 303 {
		t.Errorf("leaving: %d", code)
	}
	if code, _ := ysolde.See(at + "/sent"); code != 404 {
		t.Errorf("after leaving: %d", code)
	}
	if code, _ := imre.Submit(at+"/team/leave", url.Values{"sure": {"yes"}}); code != 409 {
		t.Errorf("the lead leaves: %d", code)
	}
}

// A new application begun from an earlier one of one's own takes over what is
// asked in the same way; not statements, not files, and nothing of another's.
func TestBeginFromAnEarlierOne(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	h.Person("else@corvoe.example", "Somebody Else")
	imre := webtest.Visit(t, base).As("imre@corvoe.example")
	if _, page := imre.See("/rounds/shore-2027/start"); !webtest.Contains(page, "Begin from an earlier application") ||
		!webtest.Contains(page, c.Ref) {
		t.Error("the earlier one is not offered")
	}
	code, page := imre.Submit("/rounds/shore-2027/start", url.Values{"title": {"Another bed"}, "from!earlier": {c.Ref},
		"district": {"tarl"}})
	if code != 303 {
		t.Fatalf("begun: %d %s", code, page)
	}
	_, mine := imre.See("/applications")
	ref := webtest.RegexpValue(t, mine, `href="/applications/([^"]+)">Another bed`)
	if _, page = imre.See("/applications/" + ref + "/sections/work"); !webtest.Contains(page, ">Reed.</textarea>") {
		t.Error("its description was not taken over")
	}
	if _, page = imre.See("/applications/" + ref + "/sections/budget-section"); !webtest.Contains(page, `value="6000"`) {
		t.Error("its budget was not taken over")
	}
	if f, filled, _, err := h.Cases.Walk(t.Context(), h.DB, webtest.Found(t, h, ref), h.Clock.Now()); err != nil ||
		filled.Answers[form.Place{Question: "district"}].Raw != "tarl" || f == nil {
		t.Error("what was answered now did not come before")
	}
	if _, page = imre.See("/applications/" + ref + "/sections/declarations"); webtest.Contains(page, "checked") ||
		webtest.Contains(page, `value="Imre Calloway"`) {
		t.Error("statements were taken over")
	}
	if code, _ = webtest.Visit(t, base).As("else@corvoe.example").Submit("/rounds/shore-2027/start",
		url.Values{"title": {"Theirs"}, "from!earlier": {c.Ref}}); code != 404 {
		t.Errorf("from another's: %d", code)
	}
}
