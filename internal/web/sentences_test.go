package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Sentences as their readers meet them: rules are said of anybody before they
// are anybody's; what was typed is echoed as it was read; what has not closed
// closes.
func TestSentencesAsTheyAreRead(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) { d.Password = true })
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")

	_, page := webtest.Visit(t, base).See("/rounds/shore-2027")
	rules, _, _ := strings.Cut(page[strings.Index(page, "Who may apply"):], "</ul>")
	if !webtest.Contains(rules, "The site lies in one of the five districts of the Ostrel Isles.") ||
		webtest.Contains(rules, "can only pay") || webtest.Contains(rules, "before you apply") {
		t.Errorf("who may apply: %s", rules)
	}
	if begin := strings.Index(page, "Begin an application"); begin < 0 || begin > strings.Index(page, "Who may apply") {
		t.Error("the way in stands below the rules")
	}

	header := map[string]string{"Accept": "application/json", "X-Form-Token": v.Token()}
	for q, x := range map[string]struct{ section, typed, note string }{
		"start":   {"work", "1/7/2027", "Read as 1 July 2027"},
		"request": {"budget-section", "€ 5.000,00", "Read as €5,000"},
	} {
		_, body := v.SendJSON("/applications/"+c.Ref+"/answers", "application/json",
			fmt.Sprintf(`{"section":%q,"edits":[{"question":%q,"version":1,"edit":"echo-%s","value":%q}]}`, x.section, q, q,
				x.typed), header)
		var out struct {
			Questions []struct{ Key, Note string }
		}
		if err := json.Unmarshal([]byte(body), &out); err != nil {
			t.Fatal(err, body)
		}
		found := false
		for _, k := range out.Questions {
			found = found || k.Key == q && k.Note == x.note
		}
		if !found {
			t.Errorf("%s typed as %q is not said to be read as %q: %s", q, x.typed, x.note, body)
		}
	}

	// a wrong password: the field has the focus again, and nobody new is told the demo's
	code, page := v.Submit("/applications/"+c.Ref+"/send", url.Values{"password": {"not mine at all"}})
	if !webtest.Contains(page, "f-password") {
		t.Fatal(code, page)
	}
	field := webtest.RegexpValue(t, page, `(<input class="in" id="f-password"[^>]*>)`)
	if code != 422 || !webtest.Contains(field, "autofocus") || webtest.Contains(page, "In the demo it is") {
		t.Errorf("%d: %s", code, field)
	}

	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	if _, page = v.See("/applications"); !webtest.Contains(page, "closes Fri 9 Apr") ||
		webtest.Contains(page, "closed Fri 9 Apr") {
		t.Error("what was sent is said to have closed before it does")
	}
}

// Before a round opens nothing is begun in it, and that is said.
func TestBeginningBeforeItOpens(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		for i, m := range d.Calendar {
			if m.Key == form.Opens {
				d.Calendar[i].At = calendar.At(calendar.NewDate(2027, 3, 20), 9, 0)
			}
		}
	})
	h.Person("imre@corvoe.example", "Imre Calloway")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	if code, page := v.Submit("/rounds/shore-2027/start", url.Values{"title": {"Reed beds"}}); code != 409 ||
		!webtest.Contains(page, "open") {
		t.Errorf("%d: %s", code, page)
	}
}

// What cannot be a reference number or a stage is not found, and no fault of ours.
func TestAddressesThatAreNoText(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	for _, path := range []string{"/applications/%00", "/applications/%ff%fe", "/applications/" + c.Ref + "?stage=%ff",
		"/rounds/%00", "/rounds/%ff"} {
		if code, _ := v.See(path); code != 404 {
			t.Errorf("%s: %d", path, code)
		}
	}
}
