package guest_test

import (
	"context"
	"net/url"
	"strconv"
	"testing"

	"ulvant/core/profile"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A sponsoring body on its screens: named by number with what is wrong kept as
// typed, agreed to by the link, seen by the office with the body and the case.
func TestSponsoringBodyOnItsScreens(t *testing.T) {
	t.Parallel()
	const number = "0000OSTRELISLES00149" // its check digits fit by ISO 17442
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	ann, imre := h.Person("ann@tarl.example", "Ann Hart"), h.Person("imre@corvoe.example", "Imre Calloway")
	var body, own int64
	h.Act(ann.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		if body, err = h.Profiles.Make(ctx, tx, profile.Body, "Tarl Moor Society"); err != nil {
			return err
		}
		if err := h.Profiles.Change(ctx, tx, body, "Tarl Moor Society",
			profile.Facts{Numbers: []profile.Number{{Scheme: "lei", Value: number}},
				Contacts: []profile.Contact{{Name: "Ann Hart", Email: "ann@tarl.example"}}}); err != nil {
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE profile SET state = 'known' WHERE id = $1`, body)
		return err
	})
	h.Act(imre.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		own, err = h.Profiles.Make(ctx, tx, profile.Person, "Imre Calloway")
		return err
	})
	v, neda := webtest.Visit(t, base).As("imre@corvoe.example"), webtest.Visit(t, base).As("neda@ostrel-trust.example")
	at := "/profiles/" + strconv.FormatInt(own, 10)
	if code, page := v.See(at + "?step=sponsor"); code != 200 || !webtest.Contains(page, "Its registered number") {
		t.Fatalf("the step: %d", code)
	}
	if code, page := v.Submit(at+"/sponsor", url.Values{"scheme": {"lei"},
		"value": {"0000OSTRELISLES00148"}}); code != 422 || !webtest.Contains(page, `value="0000OSTRELISLES00148"`) ||
		!webtest.Contains(page, "check digits do not fit") {
		t.Errorf("a number that does not fit: %d", code)
	}
	if code, _ := v.Submit(at+"/sponsor", url.Values{"scheme": {"lei"}, "value": {number}}); code != 303 {
		t.Fatalf("asked: %d", code)
	}
	if _, page := v.See(at + "?step=sponsor"); !webtest.Contains(page, "If a body is known to us under this number") ||
		webtest.Contains(page, "Tarl Moor Society") {
		t.Error("the page tells whose number it is")
	}
	if code, _ := neda.See(at); code != 404 {
		t.Errorf("another's profile: %d", code)
	}
	letter := webtest.Mailed(h, "ann@tarl.example", "/sponsor/")
	anyone := webtest.Visit(t, base)
	if code, page := anyone.See(letter); code != 200 || !webtest.Contains(page,
		"Will “Tarl Moor Society” hold money for Imre Calloway?") {
		t.Fatalf("the link: %d", code)
	}
	if code, _ := anyone.See(letter + "x"); code != 404 {
		t.Errorf("an altered link: %d", code)
	}
	if code, _ := anyone.Submit(letter, url.Values{"answer": {"yes"}}); code != 303 {
		t.Errorf("agreed: %d", code)
	}
	if _, page := v.See(at + "?step=sponsor"); !webtest.Contains(page, "Tarl Moor Society") ||
		!webtest.Contains(page, "confirmed") {
		t.Error("the page does not say that it agreed")
	}
	if code, _ := v.Submit("/rounds/shore-2027/start", url.Values{"title": {"Reed beds"},
		"for!profile": {strconv.FormatInt(own, 10)}}); code != 303 {
		t.Fatalf("begun: %d", code)
	}
	var ref, held string
	if err := h.DB.Get(&ref, `SELECT ref FROM application`); err != nil {
		t.Fatal(err)
	}
	if err := h.DB.Get(&held,
		`SELECT string_agg(value, ' ' ORDER BY question) FROM answer WHERE question IN ('has-sponsor', 'sponsor-name')`); err != nil || held != "yes Tarl Moor Society" {
		t.Errorf("the application begins with %q, %v", held, err)
	}
	if _, page := neda.See("/office/applications/" + ref); !webtest.Contains(page,
		"“Tarl Moor Society” has agreed to hold the money") {
		t.Error("the case does not say who holds the money")
	}
	if _, page := neda.See("/office/profiles/" + strconv.FormatInt(body, 10)); !webtest.Contains(page,
		"Holds money for") ||
		!webtest.Contains(page, "Imre Calloway") {
		t.Error("the body's page does not say for whom it holds money")
	}
	if _, page := webtest.Visit(t, base).As("ann@tarl.example").See("/profiles/" +
		strconv.FormatInt(body, 10)); !webtest.Contains(page,
		"Holds money for") || !webtest.Contains(page, "No longer") {
		t.Error("the body's own page does not say for whom it holds money")
	}
}
