package designer_test

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"net/url"
	"strings"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/demo"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The demo's round in design has three mistakes in it. Its proof shows them;
// it cannot be opened; whoever the trap is for really cannot send; one press
// mends it, undo brings it back; and then it opens.
func TestTheProofMendsByOnePress(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	_, base := webtest.Serve(t, h)
	p := webtest.In(t, webtest.Window(t, base))
	p.Ok(p.As("neda.sparrow@ostrel-trust.example", demo.Password))
	p.Ok(p.Open("/office/rounds/small-works/design?tab=who"))
	p.Waits(`document.querySelector('#proof .findings')`)
	for _, what := range []string{"A trap", "at 00:00", "is never asked", "1 to mend before opening"} {
		p.Ok(p.Sees(what))
	}
	p.Ok(p.Press(`#publish`))
	p.Ok(p.Sees("It cannot open with this"))
	p.Ok(p.Open("/office/rounds/small-works/design?tab=who"))

	// as the applicant of the trap
	p.Waits(`document.querySelector('#proof form[action$="/try"]')`)
	p.Ok(p.Press(`#proof form[action$="/try"] button`))
	p.Ok(p.Sees("1 left"))
	p.Ok(p.Sees("is more than the most"))
	p.Ok(p.Press(`input[name="applicant-kind"][value="common"]`)) // another kind can
	p.Waits(`document.querySelector('#trial').textContent.includes('It could be sent')`)

	p.Ok(p.Open("/office/rounds/small-works/design?tab=who"))
	p.Waits(`document.querySelector('#proof .mend')`)
	p.Ok(p.Press(`#proof .findings > li:first-child .mend button`))
	p.Ok(p.Sees("Done: "))
	p.Waits(`document.querySelector('#proof .rulehead')?.textContent.includes('it may open')`)
	if d := working(t, h, "small-works"); !d.Rules[len(d.Rules)-1].Person {
		t.Error("the press did not change the rule")
	}
	p.Ok(p.Press(`form[data-act="undo"] button`))
	p.Waits(`document.querySelector('#proof .rulehead')?.textContent.includes('1 to mend')`)
	p.Ok(p.Press(`#proof .findings > li:first-child .mend button`))
	p.Waits(`document.querySelector('#proof .rulehead')?.textContent.includes('it may open')`)
	p.Ok(p.Press(`#publish`))
	p.Ok(p.Sees("before it opens"))
	p.Ok(p.Press(`#publish button`))
	p.Ok(p.Sees("The round is published with this design."))
}

// The pages of the proof without scripts: the table, its cells and its CSV,
// the scratch copy, and offers that no longer fit.
func TestThePagesOfTheProof(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	_, base := webtest.Serve(t, h)
	neda := webtest.Visit(t, base)
	if code, _ := neda.Submit("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"},
		"password": {demo.Password}}); code != 303 {
		t.Fatal(code)
	}
	at := "/office/rounds/small-works/design"
	_, page := neda.See(at + "/proof")
	for _, want := range []string{"A trap", "How much do you ask from us", "One person",
		"Close at 23:59 on the day before"} {
		if !webtest.Contains(page, want) {
			t.Errorf("the proof does not say %q", want)
		}
	}
	_, page = neda.See(at + "/table?rows=all")
	if !webtest.Contains(page, "How minutes are reckoned") || !webtest.Contains(page, "Its full name") {
		t.Error("the whole table lacks questions")
	}
	why := webtest.RegexpValue(t, page, `href="(/office/rounds/small-works/design/table\?why=boat-insured[^"#]*)`)
	if _, page = neda.See(strings.ReplaceAll(why, "&amp;", "&")); !webtest.Contains(page, "not asked") ||
		!webtest.Contains(page, "Boats and access") {
		t.Error("a cell does not say why")
	}
	var list []map[string]any
	if _, text := neda.See(at + "/table.json"); json.Unmarshal([]byte(text), &list) != nil || len(list) < 20 ||
		list[len(list)-1]["question"] != "minutes, about" {
		t.Errorf("as JSON: %d rows", len(list))
	} else if minutes, is := list[len(list)-1]["path 1"].(float64); !is || minutes < 5 {
		t.Errorf("minutes are no number: %v", list[len(list)-1])
	}
	_, text := neda.See(at + "/table.csv")
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil || len(rows) < 30 || rows[len(rows)-1][1] != "minutes, about" {
		t.Errorf("the CSV has %d rows: %v", len(rows), err)
	}
	if code, page := neda.Submit(at+"/mend", url.Values{"code": {"trap"}, "of": {"rules/worth-it"}, "n": {"0"},
		"says": {"something else"}}); code != 409 || !webtest.Contains(page, "Nothing was changed") {
		t.Errorf("an offer that does not fit: %d", code)
	}
	before := webtest.ToJSON(working(t, h, "small-works"))
	code, page := neda.Submit(at+"/try", url.Values{"typed": {"yes"}, "applicant-kind": {"person"}, "request": {"700"},
		"there": {"site-plan", "site-referee"}})
	if code != 200 || !webtest.Contains(page, "Large enough to be worth it") || webtest.Contains(page, "No file yet") {
		t.Errorf("trying: %d", code)
	}
	var n int
	if err := h.DB.Get(&n,
		`SELECT count(*) FROM application a JOIN round r ON r.id = a.round_id WHERE r.key = 'small-works'`); err != nil ||
		n != 0 || webtest.ToJSON(working(t, h, "small-works")) != before {
		t.Errorf("trying left %d applications: %v", n, err)
	}
	for i := range 8 { // somebody of every kind in every programme can be tried
		for _, r := range []form.Key{"small-works"} {
			if code, page := neda.Submit("/office/rounds/"+string(r)+"/design/try",
				url.Values{"who": {string(rune('0' + i))}}); code != 200 || !webtest.Contains(page, "scratch copy") {
				t.Errorf("as kind %d: %d", i, code)
			}
		}
	}
}

// What stands on the proof: the rehearsal, the replay, what a visitor will
// need, and the nearest way to yes, in the check and in the workspace.
func TestWhatStandsOnTheProof(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	_, base := webtest.Serve(t, h)
	rounds, err := h.Rounds.All(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	var shore, decided, bridge string
	for _, r := range rounds {
		switch {
		case r.Programme == "Footbridge Design Competition":
			bridge = r.Key
		case r.Programme != "Shore & Peat Repair Grants" || strings.Contains(r.Name, "large") || r.DesignID == nil:
		case r.ClosesAt.After(h.Clock.Now()):
			shore = r.Key
		default:
			decided = r.Key // the last of them is the oldest
		}
	}
	neda := webtest.Visit(t, base)
	if code, _ := neda.Submit("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"},
		"password": {demo.Password}}); code != 303 {
		t.Fatal(code)
	}
	for _, key := range []string{shore, bridge, "small-works"} {
		if code, page := neda.See("/office/rounds/" + key + "/design/rehearse"); code != 200 ||
			!webtest.Contains(page, "made-up applicants walk") || !webtest.Contains(page, "The round closes.") ||
			!webtest.Contains(page, "sends it; both are thanked") && key != bridge {
			t.Errorf("the rehearsal of %s: %d", key, code)
		}
		if code, _ := neda.Submit("/office/rounds/"+key+"/design/try", url.Values{"who": {"0"}}); code != 200 {
			t.Errorf("trying %s: %d", key, code)
		}
	}
	code, page := neda.See("/office/rounds/small-works/design/replay?over=" + decided)
	if code != 200 || !webtest.Contains(page, "of <b class=\"num\">12</b> applications") ||
		!webtest.Contains(page, "of them awarded") ||
		!webtest.Contains(page, "From €500 to €10,000.") {
		t.Errorf("the replay over %s: %d %s", decided, code, webtest.RegexpValue(t, page, `(?s)<p class="lead">(.*?)</p>`))
	}

	anyone := webtest.Visit(t, base)
	_, page = anyone.See("/rounds/" + shore)
	if !webtest.Contains(page, "What you will need") || !webtest.Contains(page, "By water") {
		t.Error("the public page does not offer kinds of applicant")
	}
	if _, page = anyone.See("/rounds/" + shore + "?kind=0"); !webtest.Contains(page, "questions that must be answered") ||
		!webtest.Contains(page, "not asked of you") {
		t.Error("one's own kind is not told what it will need")
	}
	check := url.Values{"applicant-kind": {"common"}, "district": {"corvoe"}, "land-leave": {"yes"},
		"paid-elsewhere": {"yes"}}
	if _, page = anyone.Submit("/rounds/"+shore+"/check", check); webtest.Contains(page, "The nearest way to yes") {
		t.Error("a way is offered that would change a fact")
	}
	check.Set("paid-elsewhere", "no")
	if _, page = anyone.Submit("/rounds/"+shore+"/check", check); !webtest.Contains(page, "What you will need") ||
		!webtest.Contains(page, "minutes for") {
		t.Error("the check does not say what will be needed")
	}
}

// An applicant whom a rule refuses is shown what to choose otherwise; nobody
// else is.
func TestNearestWayInTheWorkspace(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	n := condition.Number{Num: 600_000, Den: 1}
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		d.Rules = append(d.Rules, form.Rule{Key: "worth-it", Label: "Worth it", Yes: "Yes.", No: "Ask for more.",
			Look: "Look.",
			Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "request"}, Rel: condition.AtLeast,
				Value: &condition.Value{Number: &n}}}})
	})
	imre := h.Person("imre@corvoe.example", "Imre Calloway")
	h.Person("other@corvoe.example", "Somebody Else")
	var ref string
	write := func(q, v string) {
		h.Act(imre.ID, func(ctx context.Context, tx *db.Tx) error {
			c, err := h.Cases.Find(ctx, tx, ref)
			if err != nil {
				return err
			}
			_, _, err = h.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: form.Key(q)},
				EditID: "edit-" + q + v, Value: v}})
			return err
		})
	}
	h.Act(imre.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := h.Intake.Start(ctx, tx, "shore-2027", "Reed beds", nil)
		ref = c.Ref
		return err
	})
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	if _, page := v.See("/applications/" + ref); webtest.Contains(page, "nearest way") {
		t.Error("a way is offered to somebody whom nothing refuses")
	}
	write("request", "2500")
	if _, page := v.See("/applications/" + ref); !webtest.Contains(page, "The nearest way to yes") {
		t.Error("no way is offered to somebody who is refused")
	}
	if code, page := v.See("/applications/" + ref + "/nearest"); code != 200 ||
		!webtest.Contains(page, "How much do you ask from us?</b> at least €6,000") {
		t.Errorf("the way: %d %s", code, page)
	}
	if code, _ := webtest.Visit(t, base).As("other@corvoe.example").See("/applications/" + ref + "/nearest"); code != 404 {
		t.Errorf("another's: %d", code)
	}
}
