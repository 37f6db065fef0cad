package guest_test

import (
	"context"
	"net/url"
	"testing"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Two others take part: a referee whose letter has a day and speaks of years,
// by link; and a holder of rights who signs on paper, which a checker looks at.
func TestOthersTakePart(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		d.Rules, d.Figures, d.Request, d.Listed = nil, nil, "", form.Listing{}
		d.Field = ""
		one := form.Cases[form.Limits]{Else: form.Limits{Referees: 1}}
		d.Sections = []form.Section{{Key: "others", Label: "Others", Questions: []form.Question{
			{Key: "teacher", Kind: form.Referee, Label: "A teacher", Nature: form.Chosen, Blank: form.Required,
				Seen: form.ToReaders, Limits: one, Ask: &form.Ask{Wants: "a letter.", LetterMonths: 6, YearsLeast: 2}},
			{Key: "owner", Kind: form.Signatory, Label: "The owner", Nature: form.Chosen, Blank: form.Required,
				Seen: form.ToOffice, Limits: one, Ask: &form.Ask{Who: "owner", Wants: "the work may be done here.", Paper: true}},
		}}}
	})
	c := h.Draft("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	mine := "/applications/" + c.Ref
	if code, body := v.Submit(mine+"/referees/teacher", url.Values{"name": {"Dacian Rowe"},
		"email": {"dacian@peat.example"}, "knows": {"taught me"}}); code != 303 {
		t.Fatal(code, body)
	}
	letter := webtest.Link(t, h, "dacian@peat.example")
	d := webtest.Visit(t, base)
	d.Submit(letter+"/answer", url.Values{"answer_": {"yes"}})
	sends := func(dated, from, to string) (int, string) {
		var version string
		if err := h.DB.Get(&version, `SELECT version::text FROM referee WHERE email = 'dacian@peat.example'`); err != nil {
			t.Fatal(err)
		}
		return d.Submit(letter+"/send", url.Values{"version_": {version}, "letter_": {"They see it through."},
			"dated_": {dated},
			"from_":  {from}, "to_": {to}})
	}
	for _, r := range []struct{ dated, from, to, says string }{ // the round closes on 9 April 2027
		{"", "2024", "2026", "Give the day on the letter"},
		{"soon", "2024", "2026", "The day “soon” cannot be read"},
		{"8 October 2026", "2024", "2026", "dated 9 October 2026 or later"},
		{"9 October 2026", "2026", "2026", "at least 2 years"},
		{"9 October 2026", "2026", "then", "The year “then” cannot be read"},
	} {
		if code, body := sends(r.dated, r.from, r.to); code != 422 || !webtest.Contains(body, r.says) ||
			!webtest.Contains(body, "They see it through.") || r.dated != "" && !webtest.Contains(body, r.dated) {
			t.Errorf("%+v: %d %s", r, code, body)
		}
	}
	if code, body := sends("9 October 2026", "2025", "2026"); code != 303 {
		t.Fatal(code, body)
	}

	if code, body := v.See(mine + "/papers/owner"); code != 200 || !webtest.Contains(body, "the work may be done here.") ||
		!webtest.Contains(body, c.Ref) {
		t.Errorf("the page to sign: %d %s", code, body)
	}
	plan := programtest.Plan
	for _, r := range []struct {
		name, file string
		code       int
		says       string
	}{
		{"", string(plan), 422, "Give the name of whoever signed."},
		{"Isaura Dent", "no scan", 422, "neither a PDF nor a picture"},
		{"Isaura Dent", string(plan), 303, ""},
		{"Jory Pascoe", string(plan), 422, "As many are named already"},
	} {
		code, body := v.Upload(mine+"/papers/owner", map[string]string{"name": r.name}, "signed.pdf", r.file)
		if code != r.code || !webtest.Contains(body, r.says) {
			t.Errorf("%s: %d %s", r.name, code, body)
		}
	}
	lead := h.Person("imre@corvoe.example", "Imre Calloway")
	h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	h.Drain()
	if got := h.StateOf(c); got != lifecycle.Complete {
		t.Errorf("sent and checked it is %s: somebody must look at the paper", got)
	}
	var reason string
	if err := h.DB.Get(&reason, `SELECT reason FROM finding WHERE rule = 'paper-owner'`); err != nil ||
		reason != "Signed on paper by Isaura Dent. Open the scan and confirm it." {
		t.Errorf("%q %v", reason, err)
	}
}
