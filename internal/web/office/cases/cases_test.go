package cases_test

import (
	"context"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The office's side of what goes on after sending, on its screens: a query
// with what is wrong with it kept as typed, its answer, more time with a
// reason, and a question about the round answered for all.
func TestWhatTheOfficeDoesAfterSending(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	sent, draft := h.Ready("imre@corvoe.example"), h.Ready("ysolde@tarl.example")
	h.Act(sent.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, sent); return err })
	h.Drain()
	neda, imre, ysolde := webtest.Visit(t, base).As("neda@ostrel-trust.example"), webtest.Visit(t,
		base).As("imre@corvoe.example"), webtest.Visit(t, base).As("ysolde@tarl.example")
	at := "/office/applications/" + sent.Ref
	for _, c := range []struct {
		what string
		form url.Values
		code int
		says string
	}{
		{"no question ticked", url.Values{"text": {"Which area is right?"}, "days": {"5"}}, 422,
			"Which area is right?</textarea>"},
		{"no days", url.Values{"text": {"Which area is right?"}, "question": {"area"}, "days": {"soon"}}, 422,
			`value="area" checked`},
		{"as it should be", url.Values{"text": {"Which area is right?"}, "question": {"area"}, "days": {"5"}}, 303, ""},
		{"a second one", url.Values{"text": {"And?"}, "question": {"area"}, "days": {"5"}}, 422, "A query is open already"},
	} {
		if code, page := neda.Submit(at+"/query", c.form); code != c.code || !webtest.Contains(page, c.says) {
			t.Errorf("%s: %d", c.what, code)
		}
	}
	if _, page := imre.See("/applications/" + sent.Ref); !webtest.Contains(page, "Which area is right?") ||
		!webtest.Contains(page, "Answer by") || !webtest.Contains(page, "Send it back") &&
		!webtest.Contains(page, "send it back") {
		t.Error("the applicant does not see the query")
	}
	if code, _ := imre.SendJSON("/applications/"+sent.Ref+"/answers", "application/json",
		`{"section":"work","edits":[{"question":"area","version":1,"edit":"answer-1","value":"4"}]}`,
		map[string]string{"Accept": "application/json", "X-Form-Token": imre.Token()}); code != 200 {
		t.Errorf("answering: %d", code)
	}
	if code, _ := imre.Submit("/applications/"+sent.Ref+"/send", url.Values{"reply": {"Four is right."}}); code != 303 {
		t.Errorf("sending back: %d", code)
	}
	if _, page := neda.See(at); !webtest.Contains(page, "Four is right.") || !webtest.Contains(page, "What changed") ||
		!webtest.Contains(page, "1 ha") || !webtest.Contains(page, "4 ha") {
		t.Error("what changed does not stand beside the query")
	}
	if _, page := neda.See("/office"); !webtest.Contains(page, "answered your query") {
		t.Error("Today does not say that the query was answered")
	}
	_, page := neda.See(at)
	id := regexp.MustCompile(`name="query" value="(\d+)"`).FindStringSubmatch(page)
	if id == nil {
		t.Fatal("the answer cannot be put aside")
	}
	neda.Submit(at+"/query/seen", url.Values{"query": {id[1]}})
	if _, page := neda.See("/office"); webtest.Contains(page, "answered your query") {
		t.Error("an answer that was read is still to be read")
	}

	// more time
	if code, page := ysolde.Submit("/applications/"+draft.Ref+"/more-time", url.Values{"reason": {" "}}); code != 422 ||
		!webtest.Contains(page, "Say in a few sentences why") {
		t.Errorf("more time without a reason: %d", code)
	}
	ysolde.Submit("/applications/"+draft.Ref+"/more-time", url.Values{"reason": {"The ferry does not sail."}})
	at = "/office/applications/" + draft.Ref
	if _, page := neda.See(at); !webtest.Contains(page, "The ferry does not sail.") ||
		!webtest.Contains(page, "Same for all") {
		t.Error("the office does not see the wish")
	}
	for _, c := range []struct {
		until, why string
		code       int
	}{{"tomorrow", "The harbour says so.", 422}, {"2027-04-13T16:00", "", 422}, {"2027-04-01T16:00",
		"Earlier than it closes.", 422}, {"2027-04-13T16:00", "The harbour says so.", 303}} {
		if code, _ := neda.Submit(at+"/more-time", url.Values{"give": {"yes"}, "until": {c.until},
			"why": {c.why}}); code != c.code {
			t.Errorf("until %q because %q: %d, want %d", c.until, c.why, code, c.code)
		}
	}
	if _, page := ysolde.See("/applications/" + draft.Ref); !webtest.Contains(page, "Closes Tue 13 Apr 2027, 16:00") {
		t.Error("the applicant does not see the new closing")
	}
	if code, _ := imre.Submit(at+"/more-time", url.Values{"until": {"2027-04-13T16:00"},
		"why": {"I would like it."}}); code != 404 {
		t.Errorf("an applicant gives more time: %d", code)
	}

	// a question about the round
	if code, _ := webtest.Visit(t, base).Submit("/rounds/shore-2027/questions",
		url.Values{"text": {"May two apply?"}}); code != 401 && code != 303 {
		t.Errorf("a stranger asks: %d", code)
	}
	if code, _ := imre.Submit("/rounds/shore-2027/questions",
		url.Values{"text": {"What\x00 is \xff this?"}}); code != 303 {
		t.Errorf("a question with what nobody types: %d", code)
	}
	imre.Submit("/rounds/shore-2027/questions",
		url.Values{"text": {"May two commons apply together? We are from Corvoe."}})
	_, page = neda.See("/office/rounds/shore-2027/questions")
	if !webtest.Contains(page, "What is \ufffd this?") {
		t.Error("the words of it are lost")
	}
	id = regexp.MustCompile(`action="/office/rounds/shore-2027/questions/(\d+)"`).FindStringSubmatch(page)
	if id == nil {
		t.Fatal("the question does not wait for an answer")
	}
	if code, page := neda.Submit("/office/rounds/shore-2027/questions/"+id[1],
		url.Values{"question": {"May two commons apply together?"}, "answer": {""}}); code != 422 ||
		!webtest.Contains(page, "May two commons apply together?</textarea>") {
		t.Errorf("without an answer: %d", code)
	}
	neda.Submit("/office/rounds/shore-2027/questions/"+id[1],
		url.Values{"question": {"May two commons apply together?"}, "answer": {"They may; one leads."}, "public": {"yes"}})
	if _, page := webtest.Visit(t, base).See("/rounds/shore-2027/questions"); !webtest.Contains(page,
		"They may; one leads.") ||
		webtest.Contains(page, "We are from Corvoe") || webtest.Contains(page, "Imre") {
		t.Error("what all may read is not as the office wrote it")
	}
}

// A query offers first what the checks hang on.
func TestAQueryOffersWhatIsInDoubt(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		_, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: "land-leave"}, Version: 1,
			EditID: "in-doubt", Non: form.NotKnown}})
		if err == nil {
			_, err = h.Intake.Send(ctx, tx, c)
		}
		return err
	})
	h.Drain()
	_, body := webtest.Visit(t, base).As("neda@ostrel-trust.example").See("/office/applications/" + c.Ref)
	first, rest, ok := strings.Cut(body, "What the checks hang on")
	if _, first, _ = strings.Cut(first, "They may answer again"); !ok || strings.Contains(first, `name="question"`) {
		t.Fatal("what the checks hang on is not offered first")
	}
	if offered, _, _ := strings.Cut(rest, "</details>"); !webtest.Contains(offered, `value="land-leave"`) ||
		strings.Count(offered, `name="question"`) != 1 {
		t.Errorf("offered first: %s", offered)
	}
}
