package people_test

import (
	"context"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// withParts is a round with places, a second body and an award.
func withParts(d *form.Design) {
	d.Bodies = []form.Body{{Key: "peat-board", Label: "Isles Peat Board"}}
	d.Awards = append(d.Awards, form.Award{Key: "oar", Label: "The Silver Oar", Places: 1, Purse: 50_000,
		Donor: "Tarl Slip"})
}

// A colleague is asked to check one area until Friday, says yes by the link in the
// mail, sees that and nothing else, and loses it with a reason.
func TestARoleFromTheFirstMailToTheLast(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), withParts)
	c := h.Ready("imre@corvoe.example")
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	h.Drain()
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	friday := h.Clock.Now().AddDate(0, 0, 4)
	give := url.Values{"email": {"piran@tarl.example"}, "name": {"Piran Lode"}, "role": {"checks"},
		"where": {"round:shore-2027"},
		"until": {friday.Format("2 January 2006")}}
	code, page := neda.Submit("/office/people", give)
	if code != 200 || !webtest.Contains(page, "Which part of it") || !webtest.Contains(page, `value="place:Tarl"`) ||
		!webtest.Contains(page, `value="piran@tarl.example"`) {
		t.Fatalf("the parts of the round: %d", code)
	}
	give.Set("part", "place:Corvoe")
	if code, _ := neda.Submit("/office/people", give); code != 303 {
		t.Fatalf("asking: %d", code)
	}
	h.Drain()
	link := webtest.Mailed(h, "piran@tarl.example", "/role/")
	if link == "" {
		t.Fatal("the mail has no link")
	}
	piran := webtest.Visit(t, base)
	if code, page := piran.See(link); code != 200 || !webtest.Contains(page, "of “Corvoe” alone") ||
		!webtest.Contains(page, "settle a check") || !webtest.Contains(page, "Choose a password") {
		t.Errorf("what he is asked: %d", code)
	}
	if code, page := piran.Submit(link, url.Values{"answer": {"yes"}, "password": {"short"}}); code != 422 ||
		!webtest.Contains(page, "problem") {
		t.Errorf("a short password: %d", code)
	}
	if code, to := piran.Sent(link, url.Values{"answer": {"yes"}, "password": {"peat and heather"}}); code != 303 ||
		to != "/office" {
		t.Fatalf("yes: %d to %s", code, to)
	}
	if code, page := piran.See("/office"); code != 200 || !webtest.Contains(page, "Corvoe: 1 application for you to see") {
		t.Errorf("his day: %d", code)
	}
	if code, page := piran.See("/office/applications/" + c.Ref); code != 200 || webtest.Contains(page, "Write…") {
		t.Errorf("the case of his area: %d", code)
	}
	for _, gone := range []string{"/office/rounds/shore-2027/checks", "/office/rounds/shore-2027/decisions",
		"/office/settings"} {
		if code, _ := piran.See(gone); code != 404 {
			t.Errorf("%s: %d", gone, code)
		}
	}
	if _, page := neda.See("/office/people"); !webtest.Contains(page,
		"Checks in Shore &amp; Peat Repair Grants, spring 2027, of “Corvoe” alone") {
		t.Error("who works there does not name him")
	}
	id := strconv.FormatInt(h.Person("piran@tarl.example", "").ID, 10)
	if _, page := piran.See("/office/people/" + id); !webtest.Contains(page, "Because Neda Sparrow gave this role") {
		t.Error("his own page does not say why")
	}
	rows, err := h.People.HeldBy(t.Context(), h.DB, h.Person("piran@tarl.example", "").ID, h.Clock.Now())
	if err != nil || len(rows) != 1 {
		t.Fatal(rows, err)
	}
	role := "/office/people/" + id + "/roles/" + strconv.FormatInt(rows[0].ID, 10)
	if code, page := neda.Submit(role+"/take", url.Values{"why": {""}}); code != 422 ||
		!webtest.Contains(page, "Give the reason") {
		t.Errorf("taken without a reason: %d", code)
	}
	if code, page := neda.Submit(role+"/until", url.Values{"until": {"soon"}}); code != 422 ||
		!webtest.Contains(page, `value="soon"`) {
		t.Errorf("an end that is none: %d", code)
	}
	if code, _ := piran.Submit(role+"/take", url.Values{"why": {"I am tired"}}); code != 404 {
		t.Errorf("by himself: %d", code)
	}
	h.Clock.Set(friday.AddDate(0, 0, 1))
	if code, _ := webtest.Visit(t, base).See("/office"); code != 303 {
		t.Errorf("a stranger: %d", code)
	}
	if rows, _ := h.People.HeldBy(t.Context(), h.DB, h.Person("piran@tarl.example", "").ID,
		h.Clock.Now()); len(rows) != 0 {
		t.Error("after Friday he still holds it")
	}
}

// What is chosen wrongly is said at its place, and nothing is sent.
func TestGivingRolesWrongly(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), withParts)
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	for _, c := range []struct{ role, where, part, says string }{
		{"", "office", "", "Choose the role."}, {"checks", "", "", "Choose where the role holds."},
		{"checks", "round:none", "", "Choose where the role holds."},
		{"reviews for a body", "office", "", "A second body is one of a round’s"},
		{"gives an award", "programme:Shore & Peat Repair Grants", "", "A donor gives an award of a round"},
		{"checks", "programme:None of ours", "", "Choose where the role holds."},
		{"checks", "round:shore-2027", "place:Nowhere", "Which part of it"},
		{"checks", "round:shore-2027", "body:peat-board", "Which part of it"},
		{"gives an award", "round:shore-2027", "place:Tarl", "Which part of it"},
		{"reviews for a body", "round:shore-2027", "", "Isles Peat Board"},
		{"gives an award", "round:shore-2027", "", "The Silver Oar"},
	} {
		_, page := neda.Submit("/office/people", url.Values{"email": {"a@b.example"}, "name": {"Ann Hart"}, "role": {c.role},
			"where": {c.where}, "part": {c.part}})
		if !webtest.Contains(page, c.says) {
			t.Errorf("%+v is not answered so", c)
		}
	}
	h.Drain()
	if list, _ := h.Tray.List("a@b.example", 0, 10); len(list) != 0 {
		t.Error("a mail went out")
	}
}

// A donor and a second body, each with their own and nothing else.
func TestADonorAndASecondBody(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	round := h.OpenRound(webtest.Officer(h), withParts)
	c := h.Ready("imre@corvoe.example")
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err })
	h.Drain()
	as := func(email, name string, held access.Held) *webtest.Visitor {
		id := h.Person(email, name).ID
		h.Act(0, func(ctx context.Context, tx *db.Tx) error { return h.People.GiveRole(ctx, tx, id, held) })
		return webtest.Visit(t, base).As(email)
	}
	runa := as("runa@slip.example", "Runa Slipwright", access.Held{Role: access.Gives,
		Scope: access.Scope{Round: round, Award: "oar"}})
	if code, page := runa.See("/gifts"); code != 200 || !webtest.Contains(page, "The Silver Oar") ||
		!webtest.Contains(page, "fewer than five have applied so far") || webtest.Contains(page, c.Title) {
		t.Errorf("the donor’s page: %d", code)
	}
	for _, gone := range []string{"/office", "/office/applications", "/office/people", "/office/applications/" + c.Ref,
		"/office/rounds/shore-2027/awards/cup"} {
		if code, _ := runa.See(gone); code != 404 {
			t.Errorf("the donor at %s: %d", gone, code)
		}
	}
	moss := as("moss@peat-board.example", "Beathag Moss", access.Held{Role: access.Reviews,
		Scope: access.Scope{Round: round, Body: "peat-board"}})
	if _, page := moss.See("/office/rounds/shore-2027/applications"); webtest.Listed(page) != c.Title {
		t.Errorf("the body sees %q", webtest.Listed(page))
	}
	if code, _ := moss.Submit("/office/applications/"+c.Ref+"/notes",
		url.Values{"note": {"The peat is deep here."}}); code != 303 {
		t.Errorf("the body’s note: %d", code)
	}
	if code, _ := moss.Submit("/office/applications/"+c.Ref+"/checks/land", url.Values{"outcome": {"yes"},
		"note": {"a"}}); code != 409 {
		t.Errorf("the body settles a rule: %d", code)
	}
	// what colleagues say to each other is not for another body, but for what names it
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	for _, note := range []string{"They rang twice.", "@Beathag what of the drains?"} {
		neda.Submit("/office/applications/"+c.Ref+"/notes", url.Values{"note": {note}})
	}
	if _, page := moss.See("/office/applications/" + c.Ref); !webtest.Contains(page, "The peat is deep here.") ||
		!webtest.Contains(page, "what of the drains?") || webtest.Contains(page, "They rang twice.") {
		t.Error("the body sees other notes than its own and those that name it")
	}
	if _, page := neda.See("/office/applications/" + c.Ref); !webtest.Contains(page, "The peat is deep here.") {
		t.Error("the office does not see the body’s note")
	}
	other := as("other@isles.example", "Another Body", access.Held{Role: access.Reviews,
		Scope: access.Scope{Round: round, Body: "isles"}})
	if _, page := other.See("/office/rounds/shore-2027/applications"); webtest.Listed(page) != "" {
		t.Errorf("another body sees %q", webtest.Listed(page))
	}
	if code, _ := other.See("/office/applications/" + c.Ref); code != 404 {
		t.Errorf("another body at the case: %d", code)
	}
}

// What holds for the office is said on a page, counts at once, and is kept as typed
// when it cannot hold.
func TestSettings(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	webtest.Officer(h)
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	say := url.Values{"name": {"The Moss Fund"}, "mail": {"grants@moss.example"}, "zone": {"Europe/Helsinki"},
		"country": {"DE"},
		"closed":  {"12-24"}, "workday": {"1", "2", "3", "4"}, "what0": {"The website"}, "reach0": {"021 555 0177"},
		"version": {strconv.Itoa(h.Funder.Version())}, "foot": {"Harbour Row"}}
	wrong := url.Values{}
	for k, v := range say {
		wrong[k] = v
	}
	wrong.Set("zone", "Isles/Hallin")
	if code, page := neda.Submit("/office/settings", wrong); code != 422 || !webtest.Contains(page,
		"There is no such time zone") ||
		!webtest.Contains(page, `value="The Moss Fund"`) || !webtest.Contains(page, "Harbour Row</textarea>") {
		t.Errorf("a zone that is none: %d", code)
	}
	if code, _ := neda.Submit("/office/settings", say); code != 303 {
		t.Fatalf("kept: %d", code)
	}
	if _, page := webtest.Visit(t, base).See("/"); !webtest.Contains(page, "What The Moss Fund funds") ||
		!webtest.Contains(page, "The website: 021 555 0177") {
		t.Error("the first page does not say who they are")
	}
	friday := time.Date(2027, 3, 26, 12, 0, 0, 0, time.UTC)
	if h.Funder.Zone().String() != "Europe/Helsinki" || !strings.Contains(friday.Weekday().String(), "Friday") {
		t.Errorf("the zone is %s", h.Funder.Zone())
	}
	if code, page := neda.Submit("/office/settings", say); code != 422 || !webtest.Contains(page,
		"Somebody else changed this meanwhile") {
		t.Errorf("the version that was changed before: %d", code)
	}
}

// A new trust, from an empty database: the one who was made first on the command
// line says who they are, makes a round and asks a colleague, all of it on pages.
func TestANewTrust(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	if _, err := h.DB.Exec(`DELETE FROM funder`); err != nil {
		t.Fatal(err)
	}
	if err := h.Funder.Load(t.Context()); err != nil || h.Funder.Version() != 0 {
		t.Fatal(h.Funder.Version(), err)
	}
	_, base := webtest.Serve(t, h)
	webtest.Officer(h)
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	if code, page := neda.See("/office"); code != 200 || !webtest.Contains(page, "Nobody has said yet who you are") ||
		!webtest.Contains(page, "No round is under way") {
		t.Fatalf("the first day: %d", code)
	}
	for _, empty := range []string{"/office/applications", "/office/rounds", "/office/people", "/office/profiles"} {
		if code, _ := neda.See(empty); code != 200 {
			t.Errorf("%s: %d", empty, code)
		}
	}
	if code, page := neda.Submit("/office/settings", url.Values{"name": {"The Moss Fund"}, "mail": {"grants@moss.example"},
		"zone": {"Europe/Berlin"}, "workday": {"1", "2", "3", "4", "5"}, "version": {"0"}}); code != 303 {
		t.Fatalf("who they are: %d %s", code, page)
	}
	if _, page := neda.See("/office"); webtest.Contains(page, "Nobody has said yet") {
		t.Error("it is said, and the day asks still")
	}
	if code, page := neda.See("/office/new-round"); code != 200 || !webtest.Contains(page, "grants@moss.example") {
		t.Errorf("a new round is not answered for by them: %d", code)
	}
	if code, _ := neda.Submit("/office/people", url.Values{"email": {"jonas@moss.example"}, "name": {"Jonas Tarn"},
		"role": {"runs rounds"}, "where": {"office"}}); code != 303 {
		t.Errorf("asking a colleague: %d", code)
	}
	link := webtest.Mailed(h, "jonas@moss.example", "/role/")
	jonas := webtest.Visit(t, base)
	if code, _ := jonas.Submit(link, url.Values{"answer": {"yes"}, "password": {"moss on every stone"}}); code != 303 {
		t.Errorf("yes: %d", code)
	}
	if _, page := jonas.See("/office/people"); !webtest.Contains(page, "Runs rounds in the whole office") {
		t.Error("the colleague does not run rounds")
	}
}
