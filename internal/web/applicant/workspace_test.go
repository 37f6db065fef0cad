package applicant_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/wordcount"
	"ulvant/internal/browser"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"

	"github.com/chromedp/chromedp"
)

// A lost line, a tab that was closed, and a session that ran out lose nothing.
func TestNothingTypedIsLost(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	p := webtest.In(t, webtest.Window(t, base))
	p.SignsIn("imre@corvoe.example")
	page := "/applications/" + c.Ref + "/sections/work"
	cut := func() {
		_, err := browser.Eval[bool](p.Person,
			`(window.line = window.fetch, window.fetch = () => Promise.reject(new TypeError('the line is cut')), true)`)
		p.Ok(err)
	}

	p.Goes(page)
	cut()
	p.Fills("[name=describe]", "Typed while the line was cut.")
	p.Waits(`document.getElementById('workspace').dataset.state === 'lost'`)
	p.Reads("Go on writing")
	if got := webtest.KeptText(t, h, c, "describe"); got != "Reed." {
		t.Fatalf("the server has %q", got)
	}
	_, err := browser.Eval[bool](p.Person, `(window.fetch = window.line, true)`)
	p.Ok(err)
	p.Kept()
	if got := webtest.KeptText(t, h, c, "describe"); got != "Typed while the line was cut." {
		t.Errorf("after the line came back the server has %q", got)
	}

	// the tab is closed on a dead line; another one takes the text up again
	cut()
	p.Fills("[name=afterwards]", "Typed before the tab was closed.")
	p.Waits(`document.getElementById('workspace').dataset.state === 'lost'`)
	p.Goes("/applications")
	p.Goes(page)
	p.Kept()
	if got := webtest.KeptText(t, h, c, "afterwards"); got != "Typed before the tab was closed." {
		t.Errorf("after the tab was opened again the server has %q", got)
	}

	// the session runs out; signing in again in place sends the text
	if _, err := h.DB.Exec(`DELETE FROM session`); err != nil {
		t.Fatal(err)
	}
	p.Fills("[name=describe]", "Typed after the session ran out.")
	p.Waits(`document.getElementById('again').open`)
	p.Fills("#again-email", "imre@corvoe.example")
	p.Fills("#again-password", programtest.Password)
	p.Presses("#again-form .btn")
	p.Kept()
	if got := webtest.KeptText(t, h, c, "describe"); got != "Typed after the session ran out." {
		t.Errorf("after signing in again the server has %q", got)
	}
	if value, err := browser.Eval[string](p.Person, `document.querySelector('[name=describe]').value`); err != nil ||
		value != "Typed after the session ran out." {
		t.Errorf("the page has %q, %v", value, err)
	}
}

// The same answer edited in two windows shows both texts; nobody overwrites.
func TestTwoWindowsOneAnswer(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	p := webtest.In(t, webtest.Window(t, base))
	p.SignsIn("imre@corvoe.example")
	p.Goes("/applications/" + c.Ref + "/sections/work")
	h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		_, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: "describe"}, Version: 1,
			EditID: "elsewhere", Value: "From the other window."}})
		return err
	})
	p.Fills("[name=describe]", "From this window.")
	p.Reads("From the other window.")
	if got := webtest.KeptText(t, h, c, "describe"); got != "From the other window." {
		t.Errorf("the server has %q", got)
	}
	p.Ok(p.Do()) // the choice is the person's
	_, err := browser.Eval[bool](p.Person,
		`([...document.querySelectorAll('.theirs button')].find(b => b.textContent === 'Join both').click(), true)`)
	p.Ok(err)
	p.Kept()
	if got := webtest.KeptText(t, h, c, "describe"); got != "From the other window.\n\nFrom this window." {
		t.Errorf("joined: %q", got)
	}
}

// Without scripts the same section is one plain form.
func TestASectionWithoutScripts(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	path := "/applications/" + c.Ref + "/sections/work"
	if code, body := v.Submit(path, url.Values{"describe": {"By a plain form."}, "describe!version": {"1"}}); code != 303 {
		t.Fatalf("%d %s", code, body)
	}
	if got := webtest.KeptText(t, h, c, "describe"); got != "By a plain form." {
		t.Errorf("the server has %q", got)
	}
	code, body := v.Submit(path, url.Values{"describe": {"From a page drawn before that."}, "describe!version": {"1"}})
	if code != 409 || webtest.KeptText(t, h, c, "describe") != "By a plain form." {
		t.Errorf("an old page: %d, and the server has %q", code, webtest.KeptText(t, h, c, "describe"))
	}
	for _, text := range []string{"By a plain form.", "From a page drawn before that."} {
		if !webtest.Contains(body, text) {
			t.Errorf("the page lost %q", text)
		}
	}
}

// Source: check-values.md, section 8. The browser counts as the server does.
func TestLiveWordCountAgrees(t *testing.T) {
	t.Parallel()
	raw, err := os.ReadFile("../../../../shared/check-fixtures/wordcount.json")
	if err != nil {
		t.Fatal(err)
	}
	var rows []struct{ Name, Text string }
	if err := json.Unmarshal(raw, &rows); err != nil {
		t.Fatal(err)
	}
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	p := webtest.In(t, webtest.Window(t, base))
	p.SignsIn("imre@corvoe.example")
	p.Goes("/applications/" + c.Ref)
	p.Waits(`globalThis.ulvantWords`)
	for _, r := range rows {
		quoted, _ := json.Marshal(r.Text)
		n, err := browser.Eval[int](p.Person, fmt.Sprintf(`ulvantWords(%s)`, quoted))
		if err != nil || n != wordcount.Words(r.Text) {
			t.Errorf("%s: the browser counts %d, the server %d, %v", r.Name, n, wordcount.Words(r.Text), err)
		}
	}
}

// A rule that hangs on a table can be answered before there is an account, and
// the lines go into the application, one that was left empty between them too.
func TestATableInTheCheck(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		sum := form.Question{Key: "sum", Kind: form.Money, Label: "How much", Nature: form.Fact, Blank: form.Required,
			Seen: form.ToOffice}
		d.Sections[0].Questions = append(d.Sections[0].Questions,
			form.Question{Key: "aid", Kind: form.Rows, Label: "Public aid", Nature: form.Fact, Blank: form.MeansNo,
				Seen: form.ToOffice, Columns: []form.Question{sum}})
		d.Figures = append(d.Figures, form.Figure{Key: "all-aid", Label: "all aid", Op: form.Sum,
			Of: []condition.Ref{{Answer: "aid", Column: "sum"}}})
		d.Rules = append(d.Rules, form.Rule{Key: "ceiling", Label: "Public aid", Yes: "Below the ceiling.",
			No: "Over the ceiling.", Look: "Somebody will look.",
			Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Figure: "all-aid"}, Rel: condition.Less,
				Value: &condition.Value{Number: &condition.Number{Num: 100_00, Den: 1}}}}})
	})
	v := webtest.Visit(t, base)
	const check, waits = "/rounds/shore-2027/check", "begins as soon as you are signed in"
	for next, says := range map[string]bool{"/rounds/shore-2027/start?aid=98": true, "/rounds/shore-2027/start": true,
		"/applications": false, "/rounds/shore-2027": false} {
		if _, body := v.See("/sign-in?next=" + url.QueryEscape(next)); webtest.Contains(body, waits) != says {
			t.Errorf("on the way to %s it is said that the application waits: %v", next, !says)
		}
	}
	if _, body := v.See(check); !webtest.Contains(body, `name="aid:r0002:sum"`) {
		t.Error("the check shows no lines to fill in")
	}
	for _, c := range []struct{ one, three, says string }{{"99", "", "Below the ceiling."},
		{"99", "1", "Over the ceiling."}, {"", "100", "Over the ceiling."}} {
		if _, body := v.Submit(check, url.Values{"aid:r0001:sum": {c.one}, "aid:r0002:sum": {""},
			"aid:r0003:sum": {c.three}}); !webtest.Contains(body, c.says) {
			t.Errorf("%q and %q: want to be told %q", c.one, c.three, c.says)
		}
	}
	h.Person("imre@corvoe.example", "Imre Calloway")
	v.As("imre@corvoe.example")
	if code, body := v.Submit("/rounds/shore-2027/start", url.Values{"title": {"Reed beds"},
		"aid:r0003:sum": {"98"}}); code != 303 {
		t.Fatal(code, body)
	}
	var kept string
	if err := h.DB.Get(&kept, `SELECT value FROM answer WHERE question = 'aid' AND row_key = 'r0003'`); err != nil ||
		kept != "98" {
		t.Errorf("kept is %q %v", kept, err)
	}
}

// A file that is chosen is put in at once; on a lost line it says so, and goes in
// when the line is back; what the server does not take is said beside it.
func TestAFileOnALostLine(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	p := webtest.In(t, webtest.Window(t, base))
	p.SignsIn("imre@corvoe.example")
	p.Goes("/applications/" + c.Ref + "/sections/materials")
	plan, err := filepath.Abs("../../programtest/testdata/plan.pdf")
	p.Ok(err)
	choose := func(path string) {
		t.Helper()
		p.Ok(p.Do(chromedp.SetUploadFiles("input[type=file]", []string{path})))
	}
	_, err = browser.Eval[bool](p.Person,
		`(window.send = XMLHttpRequest.prototype.send, XMLHttpRequest.prototype.send = function () { this.onerror() }, true)`)
	p.Ok(err)
	choose(plan)
	p.Reads("The line is lost. ")
	p.Reads("it goes on by itself when it is back")
	_, err = browser.Eval[bool](p.Person, `(XMLHttpRequest.prototype.send = window.send, true)`)
	p.Ok(err)
	p.Waits(`document.querySelectorAll('#q-site-plan .file').length === 1 && document.querySelector('#q-site-plan [data-opening]')`)
	h.Drain()
	p.Waits(`document.querySelector('#q-site-plan .file .sub').textContent.endsWith('· in')`)
	list, err := h.Materials.Of(t.Context(), h.DB, c.EntryID)
	if err != nil || len(list) != 1 || list[0].Name != "plan.pdf" || list[0].State != "ready" {
		t.Errorf("in the slot: %+v %v", list, err)
	}
	empty := filepath.Join(t.TempDir(), "empty.pdf")
	p.Ok(os.WriteFile(empty, nil, 0o644))
	choose(empty)
	p.Reads("empty.pdf is empty")
}
