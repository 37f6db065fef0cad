package web_test

import (
	"encoding/csv"
	"net/url"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/demo"
	"ulvant/internal/programtest"
)

// The demo's round in design has three mistakes in it. Its proof shows them;
// it cannot be opened; whoever the trap is for really cannot send; one press
// mends it, undo brings it back; and then it opens.
func TestTheProofMendsByOnePress(t *testing.T) {
	h := programtest.Demo(t)
	_, base := serve(t, h)
	p := play{t, window(t, base)}
	p.ok(p.As("neda.sparrow@ostrel-trust.example", demo.Password))
	p.ok(p.Open("/office/rounds/small-works/design?tab=who"))
	p.until(`document.querySelector('#proof .findings')`)
	for _, what := range []string{"A trap", "at 00:00", "is never asked", "1 to mend before opening"} {
		p.ok(p.Sees(what))
	}
	p.ok(p.Press(`#publish button`))
	p.ok(p.Sees("cannot be opened yet"))

	// as the applicant of the trap
	p.until(`document.querySelector('#proof form[action$="/try"]')`)
	p.ok(p.Press(`#proof form[action$="/try"] button`))
	p.ok(p.Sees("1 left"))
	p.ok(p.Sees("is more than the most"))
	p.ok(p.Press(`input[name="applicant-kind"][value="common"]`)) // another kind can
	p.until(`document.querySelector('#trial').textContent.includes('It could be sent')`)

	p.ok(p.Open("/office/rounds/small-works/design?tab=who"))
	p.until(`document.querySelector('#proof .mend')`)
	p.ok(p.Press(`#proof .findings > li:first-child .mend button`))
	p.ok(p.Sees("Done: "))
	p.until(`document.querySelector('#proof .rulehead')?.textContent.includes('it may open')`)
	if d := working(t, h, "small-works"); !d.Rules[len(d.Rules)-1].Person {
		t.Error("the press did not change the rule")
	}
	p.ok(p.Press(`form[data-act="undo"] button`))
	p.until(`document.querySelector('#proof .rulehead')?.textContent.includes('1 to mend')`)
	p.ok(p.Press(`#proof .findings > li:first-child .mend button`))
	p.until(`document.querySelector('#proof .rulehead')?.textContent.includes('it may open')`)
	p.ok(p.Press(`#publish button`))
	p.ok(p.Sees("The round is published with this design."))
}

// The pages of the proof without scripts: the table, its cells and its CSV,
// the scratch copy, and offers that no longer fit.
func TestThePagesOfTheProof(t *testing.T) {
	h := programtest.Demo(t)
	_, base := serve(t, h)
	neda := visit(t, base)
	if code, _ := neda.post("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"}, "password": {demo.Password}}); code != 303 {
		t.Fatal(code)
	}
	at := "/office/rounds/small-works/design"
	_, page := neda.get(at + "/proof")
	for _, want := range []string{"A trap", "How much do you ask from us", "One person", "Close at 23:59 on the day before"} {
		if !contains(page, want) {
			t.Errorf("the proof does not say %q", want)
		}
	}
	_, page = neda.get(at + "/table?rows=all")
	if !contains(page, "How minutes are reckoned") || !contains(page, "Its full name") {
		t.Error("the whole table lacks questions")
	}
	why := regexpValue(t, page, `href="(/office/rounds/small-works/design/table\?why=boat-insured[^"#]*)`)
	if _, page = neda.get(strings.ReplaceAll(why, "&amp;", "&")); !contains(page, "not asked") || !contains(page, "Boats and access") {
		t.Error("a cell does not say why")
	}
	_, text := neda.get(at + "/table.csv")
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil || len(rows) < 30 || rows[len(rows)-1][1] != "minutes, about" {
		t.Errorf("the CSV has %d rows: %v", len(rows), err)
	}
	if code, page := neda.post(at+"/mend", url.Values{"code": {"trap"}, "of": {"rules/worth-it"}, "n": {"0"}, "says": {"something else"}}); code != 409 || !contains(page, "Nothing was changed") {
		t.Errorf("an offer that does not fit: %d", code)
	}
	before := toJSON(working(t, h, "small-works"))
	code, page := neda.post(at+"/try", url.Values{"typed": {"yes"}, "applicant-kind": {"person"}, "request": {"700"}, "there": {"site-plan", "site-referee"}})
	if code != 200 || !contains(page, "Large enough to be worth it") || contains(page, "No file yet") {
		t.Errorf("trying: %d", code)
	}
	var n int
	if err := h.DB.Get(&n, `SELECT count(*) FROM application a JOIN round r ON r.id = a.round_id WHERE r.key = 'small-works'`); err != nil || n != 0 || toJSON(working(t, h, "small-works")) != before {
		t.Errorf("trying left %d applications: %v", n, err)
	}
	for i := range 8 { // somebody of every kind in every programme can be tried
		for _, r := range []form.Key{"small-works"} {
			if code, page := neda.post("/office/rounds/"+string(r)+"/design/try", url.Values{"who": {string(rune('0' + i))}}); code != 200 || !contains(page, "scratch copy") {
				t.Errorf("as kind %d: %d", i, code)
			}
		}
	}
}
