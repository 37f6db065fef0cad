package journey_test

import (
	"context"
	"net/url"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A letter comes after the closing. The referee is told so and keeps the text;
// the office sees it beside more time, with whoever else stood there; once time
// is given it is taken. Of what was sent already the office can open the letters
// again by a query, and the letter stands among what changed.
func TestALateLetter(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		d.Rules, d.Figures, d.Request, d.Listed = nil, nil, "", form.Listing{}
		d.Field = ""
		d.Sections = []form.Section{{Key: "others", Label: "Others", Questions: []form.Question{
			{Key: "why", Kind: form.Short, Label: "Why?", Nature: form.Chosen, Blank: form.Required, Seen: form.ToReaders},
			{Key: "teacher", Kind: form.Referee, Label: "A teacher", Nature: form.Chosen, Blank: form.MeansNo,
				Seen: form.ToReaders, Limits: form.Cases[form.Limits]{Else: form.Limits{Referees: 1}},
				Ask: &form.Ask{Wants: "a letter."}},
		}}}
	})
	draft := h.Draft("imre@corvoe.example")
	imre, at := webtest.Visit(t, base).As("imre@corvoe.example"), "/applications/"+draft.Ref
	name := func(to string) (letter string) {
		t.Helper()
		if code, body := imre.Submit(at+"/referees/teacher", url.Values{"name": {"Dacian Rowe"}, "email": {to},
			"knows": {"taught me"}}); code != 303 {
			t.Fatal(code, body)
		}
		return webtest.Link(t, h, to)
	}
	d := webtest.Visit(t, base)
	send := func(letter, to string) (int, string) {
		var version string
		if err := h.DB.Get(&version, `SELECT version::text FROM referee WHERE email = $1`, to); err != nil {
			t.Fatal(err)
		}
		return d.Submit(letter+"/send", url.Values{"version_": {version}, "letter_": {"They see it through."}})
	}
	letter := name("dacian@peat.example")
	d.Submit(letter+"/answer", url.Values{"answer_": {"yes"}})
	h.Clock.Set(time.Date(2027, 4, 9, 16, 30, 0, 0, time.UTC)) // it closed at 16:00 in Dublin, summer time
	imre.As("imre@corvoe.example")
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example") // weeks later
	if code, page := send(letter, "dacian@peat.example"); code != 409 || !webtest.Contains(page, "They see it through.") ||
		!webtest.Contains(page, "has closed") {
		t.Errorf("after the closing: %d", code)
	}
	office := "/office/applications/" + draft.Ref
	if _, page := neda.See(office); !webtest.Contains(page, "Dacian Rowe, ") || !webtest.Contains(page, "not taken") ||
		!webtest.Contains(page, "1 h 30 min") && !webtest.Contains(page, "1h30m") {
		t.Error("the office does not see the late letter")
	}
	if code, _ := neda.Submit(office+"/more-time", url.Values{"give": {"yes"}, "until": {"2027-04-13T16:00"},
		"why": {"The letter lay with a ferry."}}); code != 303 {
		t.Errorf("time given: %d", code)
	}
	if code, _ := send(letter, "dacian@peat.example"); code != 303 {
		t.Errorf("with more time: %d", code)
	}
	if _, page := neda.See(office); !webtest.Contains(page, "taken in the end") {
		t.Error("the letter does not stand as taken")
	}

	// it is sent; another letter is wanted after all
	save := `{"section":"others","edits":[{"question":"why","version":0,"edit":"why-1234","value":"Reed."}]}`
	if code, body := imre.SendJSON(at+"/answers", "application/json", save,
		map[string]string{"Accept": "application/json", "X-Form-Token": imre.Token()}); code != 200 {
		t.Fatal(code, body)
	}
	h.Act(draft.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, draft); return err })
	h.Drain()
	if code, body := neda.Submit(office+"/query", url.Values{"text": {"Somebody else should write, please."},
		"question": {"teacher"}, "days": {"3"}}); code != 303 {
		t.Fatal(code, body)
	}
	if _, page := imre.See(at + "/sections/others"); !webtest.Contains(page, "Somebody else should write") ||
		!webtest.Contains(page, "Dacian Rowe") {
		t.Error("the letters are not open again")
	}
	var id string
	if err := h.DB.Get(&id, `SELECT id::text FROM referee`); err != nil {
		t.Fatal(err)
	}
	h.Act(draft.LeadID, func(ctx context.Context, tx *db.Tx) error {
		c, err := h.Cases.Find(ctx, tx, draft.Ref)
		if err != nil {
			return err
		}
		list, err := h.Referees.Of(ctx, tx, c.EntryID)
		if err != nil {
			return err
		}
		return h.Referees.Replace(ctx, tx, c, list[0].ID)
	})
	second := name("ysolde@tarl.example")
	d.Submit(second+"/answer", url.Values{"answer_": {"yes"}})
	if code, body := send(second, "ysolde@tarl.example"); code != 303 {
		t.Fatalf("the second letter: %d %s", code, body)
	}
	if code, body := imre.Submit(at+"/send", url.Values{"reply": {"Here it is."}}); code != 303 {
		t.Fatal(code, body)
	}
	if _, page := neda.See(office); !webtest.Contains(page, "What changed") || !webtest.Contains(page, "Here it is.") ||
		webtest.Contains(page, "Nothing: the answers stand") {
		t.Error("the new letter does not stand among what changed")
	}
}
