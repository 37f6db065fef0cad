package register_test

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// see opens a page, and goes on to where it leads.
func see(v *webtest.Visitor, path string) (int, string) {
	v.T.Helper()
	for range 3 {
		res, err := v.Get(v.Base + path)
		if err != nil {
			v.T.Fatal(err)
		}
		res.Body.Close()
		if res.StatusCode != 303 {
			break
		}
		path = res.Header.Get("Location")
	}
	return v.See(path)
}

// registered is a house with three cases and two who work there.
func registered(t *testing.T) (p *programtest.Panel, base string, neda, jonas *webtest.Visitor) {
	p = programtest.SentTo(t, map[string]string{"Ann": "9,000", "Bo": "?7,000", "Cy": "?5,000"})
	_, base = webtest.Serve(t, p.House)
	id := p.Person("jonas@ostrel-trust.example", "Jonas Tarn").ID
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.People.GiveRole(ctx, tx, id, access.Held{Role: access.RunsRounds})
	})
	return p, base, webtest.Visit(t, base).As("neda@ostrel-trust.example"), webtest.Visit(t,
		base).As("jonas@ostrel-trust.example")
}

// A register is asked, ordered, shaped, kept and sent to a colleague.
func TestTheRegister(t *testing.T) {
	t.Parallel()
	p, _, neda, jonas := registered(t)
	at := "/office/rounds/shore-2027/applications"
	for _, c := range []struct{ query, rows, says string }{
		{"?sort=lead", "Ann Bo Cy", "All\n  applications"},
		{"?sort=-asked", "Ann Bo Cy", "€21,000"},
		{"?sort=asked", "Cy Bo Ann", ""},
		{"?sort=asked&if=asked~least~700000", "Bo Ann", "asking"},
		{"?if=verdict~is~person&sort=lead", "Bo Cy", "2 of 3"},
		{"?if=q.land-leave~there~&cols=lead,q.land-leave&sort=lead", "Ann Bo Cy", "not known"},
		{"?if=q.land-leave~is~yes", "Ann", "Have you leave"},
		{"?if=gone~is~a&sort=lead", "Ann Bo Cy", "Left away: a condition asked about a column"},
		{"?if=state~is~draft", "", "No application fits"},
		{"?from=1&sort=lead", "Bo Cy", "2 to 3 of 3"},
	} {
		code, page := see(neda, at+c.query)
		if got := webtest.Listed(page); code != 200 || got != c.rows || !webtest.Contains(page, c.says) {
			t.Errorf("%s: %d, lists %q, want %q and %q", c.query, code, got, c.rows, c.says)
		}
	}
	// a condition is typed; one that cannot be read keeps what was typed
	if code, page := see(neda, at+"/condition?col=asked&op=least&value=a+lot"); code != 422 ||
		!webtest.Contains(page, "“a lot” cannot be read as a number") {
		t.Errorf("a sum that is none: %d", code)
	}
	if code, page := see(neda, at+"/condition?col=asked&op=least&value=7,000&sort=lead"); code != 200 ||
		webtest.Listed(page) != "Ann Bo" {
		t.Errorf("7,000 or more: %d %q", code, webtest.Listed(page))
	}
	if _, page := see(neda,
		at+"/condition?col=asked&op=most&value=7,000&if=asked~least~700000&at=0&sort=lead"); webtest.Listed(page) != "Bo Cy" {
		t.Errorf("changed to 7,000 or less: %q", webtest.Listed(page))
	}
	// columns in the order of their places
	if _, page := see(neda, at+"/columns?col=lead&col=asked&col=sent&place.asked=1&place.lead=2"); !regexp.MustCompile(
		`(?s)Asked.*Lead.*Sent`).MatchString(page[strings.Index(page, "<thead>"):strings.Index(page, "</thead>")]) {
		t.Error("the columns are not in their places")
	}
	// a view is kept, is the keeper’s own, and shared it is a colleague’s too
	if code, page := neda.Submit("/office/rounds/shore-2027/views", url.Values{"name": {" "},
		"shape": {"if=asked~least~700000"}}); code != 422 ||
		!webtest.Contains(page, "Give the view a name") {
		t.Errorf("a view without a name: %d", code)
	}
	keep := func(shared string) string {
		neda.Submit("/office/rounds/shore-2027/views", url.Values{"name": {"Large"},
			"shape":  {"if=asked~least~700000&sort=lead"},
			"shared": {shared}})
		_, page := see(neda, at+"?beside=keep")
		return regexp.MustCompile(`/office/views/\d+`).FindString(page[strings.Index(page, "Those you keep"):])
	}
	mine := keep("")
	if code, page := see(jonas, mine); code != 404 || !webtest.Contains(page, "not shared with colleagues") {
		t.Errorf("a view of her own, for Jonas: %d", code)
	}
	if again := keep("yes"); again != mine {
		t.Errorf("kept again it is at %s and not at %s", again, mine)
	}
	if code, page := see(jonas, mine); code != 200 || webtest.Listed(page) != "Ann Bo" ||
		!webtest.Contains(page, `aria-current="true"`) {
		t.Errorf("shared, for Jonas: %d %q", code, webtest.Listed(page))
	}
	if code, _ := jonas.Submit(mine+"/drop", url.Values{}); code != 404 {
		t.Errorf("Jonas takes it away: %d", code)
	}
	if code, _ := neda.Submit(mine+"/drop", url.Values{}); code != 303 {
		t.Errorf("Neda takes it away: %d", code)
	}
	// over all rounds
	if code, page := see(neda, "/office/applications?sort=lead"); code != 200 || webtest.Listed(page) != "Ann Bo Cy" {
		t.Errorf("all rounds: %d %q", code, webtest.Listed(page))
	}
	// a case beside the list, with what stands in the way of it
	if code, page := see(neda, at+"?beside=case."+p.Of["Bo"].Ref); code != 200 ||
		!webtest.Contains(page, "Rules not met, or to be looked at") {
		t.Errorf("beside: %d", code)
	}
}

// Out as a file: what is seen, in three formats.
func TestTheRegisterAsAFile(t *testing.T) {
	t.Parallel()
	p, _, neda, _ := registered(t)
	at := "/office/rounds/shore-2027/register."
	_, text := see(neda, at+"csv?cols=lead,asked,sent&sort=lead&if=asked~least~700000")
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	if err != nil || len(rows) != 3 || strings.Join(rows[0], "|") != "Number|Title|Lead|Asked|Sent" ||
		rows[1][3] != "9000.00" {
		t.Errorf("%q %v", rows, err)
	}
	_, text = see(neda, at+"json?cols=lead,asked&sort=lead")
	var doc struct {
		Schema struct{ Fields []struct{ Name, Type string } }
		Data   []map[string]any
	}
	if err := json.Unmarshal([]byte(text), &doc); err != nil || len(doc.Data) != 3 || doc.Data[0]["asked"] != 9000.0 ||
		doc.Schema.Fields[3].Type != "number" {
		t.Errorf("%+v %v", doc, err)
	}
	ann := strconv.FormatInt(p.Of["Ann"].EntryID, 10)
	if _, text = see(neda, at+"csv?cols=lead&case="+ann); strings.Count(text, "\n") != 2 ||
		!strings.Contains(text, "Ann Hart") {
		t.Errorf("those chosen: %q", text)
	}
	if _, text = see(neda, at+"xlsx"); !strings.HasPrefix(text, "PK") {
		t.Error("the workbook is none")
	}
}

// Colleagues: labels, notes that name each other, who has a case in hand.
func TestWhatColleaguesKeep(t *testing.T) {
	t.Parallel()
	p, _, neda, jonas := registered(t)
	at := "/office/applications/" + p.Of["Ann"].Ref
	jonas.Submit(at+"/labels", url.Values{"label": {"site visit"}})
	if code, page := jonas.Submit(at+"/notes", url.Values{"note": {"@Maren look at this"}}); code != 422 ||
		!webtest.Contains(page, "@Maren look at this</textarea>") || !webtest.Contains(page,
		"Nobody at the office is called") {
		t.Errorf("a note that names nobody: %d", code)
	}
	if code, _ := jonas.Submit(at+"/notes", url.Values{"note": {"@Neda look at this"},
		"back": {"//evil.example/"}}); code != 303 {
		t.Errorf("a note: %d", code)
	}
	if _, page := see(neda, "/office"); !webtest.Contains(page, "Jonas Tarn names you in a note") {
		t.Error("Neda’s day does not name the note")
	}
	if _, page := see(neda, at); !webtest.Contains(page, "one names you") || !webtest.Contains(page, "site visit") {
		t.Error("the case has no label or no note")
	}
	neda.Submit(at+"/notes/seen", url.Values{})
	if _, page := see(neda, "/office"); webtest.Contains(page, "names you in a note") {
		t.Error("what was read is still to be read")
	}
	id := strconv.FormatInt(p.Person("jonas@ostrel-trust.example", "Jonas Tarn").ID, 10)
	neda.Submit(at+"/hand", url.Values{"account": {id}})
	if _, page := see(jonas, "/office/applications?if=carer~is~"+id); webtest.Listed(page) != "Ann" {
		t.Errorf("those Jonas looks after: %q", webtest.Listed(page))
	}
	// the applicant sees nothing of it
	ann := webtest.Visit(t, neda.Base).As("ann@corvoe.example")
	if _, page := ann.See("/applications/" + p.Of["Ann"].Ref); webtest.Contains(page, "site visit") ||
		webtest.Contains(page, "look at this") {
		t.Error("the applicant sees what colleagues keep")
	}
}

// Many at once, on the pages: chosen, told, drawn, one left out, held, stopped;
// and what was done undone.
func TestManyAtOnce(t *testing.T) {
	t.Parallel()
	p, _, neda, jonas := registered(t)
	entry := func(name string) string { return strconv.FormatInt(p.Of[name].EntryID, 10) }
	begin := func(act string, more url.Values) string {
		more.Set("act", act)
		code, location := neda.Sent("/office/rounds/shore-2027/bulk", more)
		if code != 303 {
			t.Fatalf("%s: %d", act, code)
		}
		return location
	}
	if at := begin("write", url.Values{}); !strings.Contains(at, "/applications") {
		t.Errorf("with nothing chosen it leads to %s", at)
	}
	at := begin("write", url.Values{"case": {entry("Ann"), entry("Bo"), "999999"}})
	if _, page := see(neda, at); !webtest.Contains(page, "Ann’s work") || webtest.Contains(page, "Cy’s work") {
		t.Error("those chosen are not shown")
	}
	if code, _ := see(jonas, at); code != 404 {
		t.Errorf("another’s act: %d", code)
	}
	if code, page := neda.Submit(at, url.Values{"subject": {"A word"}, "text": {"Dear {{nobody}}"}}); code != 422 ||
		!webtest.Contains(page, "Dear {{nobody}}</textarea>") {
		t.Errorf("a field that is none: %d", code)
	}
	neda.Submit(at, url.Values{"subject": {"A word about {{title}}"}, "text": {"Dear {{name}}"}})
	if _, page := see(neda, at); !regexp.MustCompile(`A word about (Ann|Bo)’s work`).MatchString(page) ||
		!webtest.Contains(page, "1 of 2") {
		t.Error("the mail is not drawn")
	}
	neda.Submit(at+"/one", url.Values{"case": {entry("Bo")}})
	neda.Submit(at+"/do", url.Values{"when": {"10"}})
	if _, page := see(neda, "/office"); !webtest.Contains(page, "can be stopped until") {
		t.Error("Today does not say what is held")
	}
	p.Clock.Set(p.Clock.Now().Add(11 * time.Minute))
	p.Drain()
	if p.Mails("A word about Ann") != 1 || p.Mails("A word about Bo") != 0 {
		t.Errorf("%d to Ann, %d to Bo", p.Mails("A word about Ann"), p.Mails("A word about Bo"))
	}
	if _, page := see(neda, at); !webtest.Contains(page, "left out by you") || !webtest.Contains(page, "Done ") {
		t.Error("the report does not say what came of it")
	}
	if code, text := see(neda, at+"/report.csv"); code != 200 || !strings.Contains(text, "did") {
		t.Errorf("the report: %d", code)
	}
	if _, page := see(neda, "/office/bulk"); !webtest.Contains(page, at) || !webtest.Contains(page, "chosen by hand") {
		t.Error("what she did to many is not listed")
	}
	at = begin("settle", url.Values{"all": {"yes"}, "shape": {"if=tosettle~least~1"}})
	neda.Submit(at, url.Values{"rule": {"land"}, "outcome": {"yes"}, "note": {"Seen."}})
	neda.Submit(at+"/do", url.Values{"when": {"0"}})
	if p.StateOf("Bo") != lifecycle.Eligible || p.StateOf("Cy") != lifecycle.Eligible {
		t.Errorf("Bo is %s, Cy %s", p.StateOf("Bo"), p.StateOf("Cy"))
	}
	at = begin("label", url.Values{"all": {"yes"}})
	neda.Submit(at, url.Values{"label": {"large"}})
	neda.Submit(at+"/do", url.Values{})
	neda.Submit(at+"/undo", url.Values{})
	if _, page := see(neda, at); !webtest.Contains(page, "Undone for 3 applications") {
		t.Error("it is not undone")
	}
	at = begin("write", url.Values{"case": {entry("Cy")}})
	neda.Submit(at, url.Values{"subject": {"Never"}, "text": {"Never"}})
	neda.Submit(at+"/do", url.Values{"when": {"60"}})
	neda.Submit(at+"/stop", url.Values{})
	p.Clock.Set(p.Clock.Now().Add(2 * time.Hour))
	p.Drain()
	if p.Mails("Never") != 0 {
		t.Error("what was stopped went out")
	}
}
