package applicant_test

import (
	"fmt"
	"net/url"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A budget without scripts: lines typed under their headings, kept, read back,
// with faults beside them; what a spare line offers is kept only with it.
func TestABudgetWithoutScripts(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), programtest.FullBudget)
	c := h.Draft("imre@corvoe.example")
	imre := webtest.Visit(t, base).As("imre@corvoe.example")
	section := "/applications/" + c.Ref + "/sections/budget-section"
	_, page := imre.See(section)
	posted := webtest.Posted(t, page, "answers")
	line := func(row string, cells map[form.Key]string) {
		for k, v := range cells {
			posted.Set("budget:"+row+":"+string(k), v)
		}
	}
	line(
		"r0001",
		map[form.Key]string{"item": "Warden", "quantity": "18", "unit": "month", "each": "1,400", "from-us": "14000",
			"own": "11,200", "period": "y1", "partner": "trust"},
	)
	line("r0002", map[form.Key]string{"item": "Excavator", "quantity": "12", "unit": "day", "each": "980",
		"from-us": "12,180", "period": "y1", "partner": "trust"})
	if code, _ := imre.Submit(section, posted); code != 303 {
		t.Fatal(code)
	}
	_, page = imre.See(section)
	for _, says := range []string{"“Excavator” asks €12,180 from us and costs €11,760.",
		"Take €420 off what you ask, or make it cost €12,180.",
		"€25,200 · 63.1%", "€3,000", `data-sum="row-r0001">25,200<`, "Others and you pay"} {
		if !webtest.Contains(page, says) {
			t.Errorf("%q is not on the page", says)
		}
	}
	kept := map[string]bool{}
	for _, a := range answersOf(t, h, c) {
		if a.Question == "budget" {
			kept[a.Row+" "+string(a.Column)+" "+a.Value] = true
		}
	}
	if !kept["r0001 heading people"] || !kept["r0002 heading plant"] || len(kept) != 17 {
		t.Errorf("kept: %v", kept)
	}
	posted = webtest.Posted(t, page, "answers")
	if code, _ := imre.Submit(section, posted); code != 303 {
		t.Fatal(code)
	}
	if again := len(answersOf(t, h, c)); again != len(answersOf(t, h, c)) {
		t.Errorf("a page that is kept as it was changes %d answers", again)
	}
}

// Out and in: what was not touched changes nothing; what was is shown before it
// is taken; a file with faults takes nothing; another's budget is not found.
func TestABudgetTakenOutAndBroughtIn(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), programtest.FullBudget)
	c := h.Draft("imre@corvoe.example")
	h.Person("bo@corvoe.example", "Bo Hart")
	imre, bo := webtest.Visit(t, base).As("imre@corvoe.example"), webtest.Visit(t, base).As("bo@corvoe.example")
	at := "/applications/" + c.Ref + "/budget/budget"
	_, book := imre.See(at + "/xlsx")
	if !strings.HasPrefix(book, "PK") {
		t.Fatalf("%.40q", book)
	}
	if code, page := imre.Upload(at, nil, "budget.xlsx", book); code != 200 ||
		!webtest.Contains(page, "says what the draft says already") {
		t.Errorf("%d\n%s", code, page)
	}
	_, raw := imre.See(at + "/csv")
	head, _, _ := strings.Cut(raw, "\r\n")
	lines := head + "\r\n" + strings.Join([]string{",1,Warden,People,Trust,18,month,\"1,400\",14000,11200,,",
		",2,Punt,Plant,Club,2,season,2670,2670,2000,,"}, "\r\n")
	for _, f := range []struct{ name, content, says string }{
		{"a.csv", strings.Replace(lines, "Each", "Price", 1), "the heading says “Price”; it should say “Each”"},
		{"a.csv", strings.Replace(lines, "2670,2670", "$2670,2670", 1), "H3: “$2670” cannot be read as a sum in EUR"},
		{"a.csv", strings.Repeat("x", 6<<20+1), "larger than 6 MB"},
		{"a.xlsx", "PK not really", "no workbook that can be read"},
	} {
		if code, page := imre.Upload(at, nil, f.name, f.content); code != 422 || !webtest.Contains(page, f.says) {
			t.Errorf("%s: %d", f.says, code)
		}
	}
	if n := len(answersOf(t, h, c)); n != 0 {
		t.Errorf("%d answers were taken from files with faults", n)
	}
	code, page := imre.Upload(at, nil, "budget.csv", lines)
	if code != 200 || !webtest.Contains(page, "2 lines are new") ||
		!webtest.Contains(page, "nobody is named for €670") ||
		len(answersOf(t, h, c)) != 0 {
		t.Fatalf("%d %s", code, page)
	}
	take := url.Values{"mark": {webtest.RegexpValue(t, page, `name="mark"\s+value="([^"]+)"`)}, "csv": {lines}}
	if code, _ := imre.Submit(at+"/take", url.Values{"mark": {"other"}, "csv": {lines}}); code != 409 {
		t.Errorf("a budget that moved meanwhile: %d", code)
	}
	if code, _ := imre.Submit(at+"/take", take); code != 303 {
		t.Fatal(code)
	}
	_, page = imre.See("/applications/" + c.Ref + "/sections/budget-section")
	for _, says := range []string{"The budget is taken in", `value="Warden"`, `value="Punt"`, "nobody is named for €670"} {
		if !webtest.Contains(page, says) {
			t.Errorf("%q is not on the page", says)
		}
	}
	_, book = imre.See(at + "/xlsx")
	if _, page := imre.Upload(at, nil, "budget.xlsx", book); !webtest.Contains(
		page,
		"says what the draft says already",
	) {
		t.Error("the budget with lines does not come back as it went")
	}
	for _, path := range []string{at, at + "/xlsx", at + "/csv", "/applications/" + c.Ref + "/budget/request"} {
		who := bo
		if strings.HasSuffix(path, "request") {
			who = imre
		}
		if code, _ := who.See(path); code != 404 {
			t.Errorf("%s: %d", path, code)
		}
	}
	if code, _ := bo.Submit(at+"/take", take); code != 404 {
		t.Errorf("somebody else takes it in: %d", code)
	}
}

// A large budget: 300 lines come in, are drawn, kept without scripts, and go out.
func TestABudgetOf300Lines(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), programtest.FullBudget)
	c := h.Draft("imre@corvoe.example")
	imre := webtest.Visit(t, base).As("imre@corvoe.example")
	at := "/applications/" + c.Ref + "/budget/budget"
	_, raw := imre.See(at + "/csv")
	var b strings.Builder
	b.WriteString(strings.TrimSpace(raw) + "\r\n")
	for n := range 300 {
		fmt.Fprintf(&b, ",%d,Line %d,Plant,Trust,%d,day,10,%d,,,\r\n", 1+n%2, n, n+1, 10*(n+1))
	}
	_, page := imre.Upload(at, nil, "budget.csv", b.String())
	take := url.Values{"mark": {webtest.RegexpValue(t, page, `name="mark"\s+value="([^"]+)"`)}, "csv": {b.String()}}
	if code, _ := imre.Submit(at+"/take", take); code != 303 {
		t.Fatal(code)
	}
	section := "/applications/" + c.Ref + "/sections/budget-section"
	_, page = imre.See(section)
	if !webtest.Contains(page, "€451,500") {
		t.Error("300 lines do not come to their sum")
	}
	posted := webtest.Posted(t, page, "answers")
	posted.Set("budget:r0300:from-us", "2,999")
	if code, _ := imre.Submit(section, posted); code != 303 {
		t.Fatal(code)
	}
	if _, page = imre.See(section); !webtest.Contains(page, "nobody is named for €1 of its €3,000") {
		t.Error("the last line was not kept")
	}
}

func answersOf(t *testing.T, h *programtest.House, c application.Case) []application.Answer {
	t.Helper()
	list, err := h.Cases.Answers(t.Context(), h.DB, c.EntryID)
	if err != nil {
		t.Fatal(err)
	}
	return list
}
