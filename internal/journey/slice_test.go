package journey_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The nine steps in the browser, in four roles, with mails in the tray.
func TestNineStepsInTheBrowser(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	webtest.Officer(h)
	b := webtest.Browser(t)
	neda, imre, dacian := webtest.In(t, webtest.Another(t, b, base)), webtest.In(t, webtest.Another(t, b, base)),
		webtest.In(t, webtest.Another(t, b, base))

	// 1. The officer makes a round from the pattern and opens it.
	neda.SignsIn("neda@ostrel-trust.example")
	neda.Reads("Your move")
	neda.Goes("/office/new-round")
	neda.Chooses("kind", "grant")
	for name, value := range map[string]string{"name": "Shore Repair, spring 2027",
		"programme": "Shore & Peat Repair Grants", "prefix": "SPR", "about": "For shores.", "fund": "100,000",
		"readers": "2", "hold": "30",
		"opens": "2027-03-01T09:00", "closes": "2027-04-09T16:00", "checks-by": "2027-04-20T17:00",
		"reading-ends": "2027-05-07T17:00", "answer-on": "2027-05-21T12:00", "work-from": "2027-07-01"} {
		neda.Fills(fmt.Sprintf("[name=%q]", name), value)
	}
	neda.Presses(".designform .btn")
	neda.Reads("not open to anyone yet")
	neda.Presses("#publish")
	neda.Reads("before it opens")
	neda.Presses("#publish .btn")
	neda.Reads("The round is published")

	// 2. The public list, the page, the check.
	imre.Goes("/")
	imre.Reads("Shore Repair, spring 2027")
	imre.Presses(".publicround h3 a")
	imre.Reads("What you will need")
	imre.Presses("a[href$='/check']")
	imre.Chooses("applicant-kind", "common")
	imre.Waits(
		`document.querySelector('input[name="applicant-kind"]:checked')?.value === 'common' && document.querySelector('.v-yes')`,
	)
	imre.Chooses("district", "elsewhere")
	imre.Reads("No, not as it stands")
	imre.Chooses("district", "corvoe")
	imre.Waits(`!document.querySelector('.v-no')`)
	imre.Chooses("land-leave", "not known")
	imre.Waits(`document.querySelector('.v-look')`)
	imre.Chooses("paid-elsewhere", "no")
	imre.Reads("Somebody must look")
	imre.Presses("form[action$='/start'] .btn")

	// 3. The applicant signs up, confirms, and writes.
	imre.Waits(`location.pathname === '/sign-in'`)
	imre.Presses("a[href^='/sign-up']")
	imre.Fills("#f-name", "Imre Calloway")
	imre.Fills("#f-email", "imre@corvoe.example")
	imre.Presses(".stackform .btn")
	imre.Reads("Look in your mail")
	confirm := webtest.Link(t, h, "imre@corvoe.example")
	imre.Goes(confirm)
	imre.Fills("#f-password", programtest.Password)
	imre.Presses("form[method=post]:not([action]) .btn")
	imre.Reads("Your address is confirmed")
	imre.Waits(`location.pathname.endsWith('/start')`) // where they were, with what the check was answered
	imre.Fills("#f-title", "Reed beds for the Corvoe shore")
	imre.Presses(".stackform .btn")
	imre.Waits(`document.getElementById('workspace')?.dataset.state === 'ready'`)
	imre.Reads("Before you can send it")
	imre.Fills("[name='body-name']", "Corvoe Common")
	imre.Fills("[name='post-address::street']", "PO Box 4")
	imre.Fills("[name='post-address::town']", "Corvoe")
	imre.Fills("[name='post-address::postcode']", "OI4 2RT")
	imre.Reads("is a box number")
	imre.Fills("[name='post-address::street']", "4 Quay Row")
	imre.Waits(`!document.body.innerText.includes('is a box number')`)
	imre.Kept()
	ref, err := browser.Eval[string](imre.Person, `document.getElementById('workspace').dataset.ref`)
	imre.Ok(err)
	section := func(key string) { imre.Goes("/applications/" + ref + "/sections/" + key) }
	section("place")
	imre.Fills("[name=site]", "the Corvoe strand")
	imre.Chooses("site-access", "road")
	imre.Kept()
	section("work")
	imre.Chooses("repair-kind", "peat")
	imre.Waits(
		`!document.getElementById('q-peat-depth').hidden && document.querySelector('#q-describe [data-limit]').innerText.includes('320')`,
	)
	imre.Chooses("repair-kind", "shore")
	imre.Waits(
		`document.getElementById('q-peat-depth').hidden && document.querySelector('#q-describe [data-limit]').innerText.includes('250')`,
	)
	imre.Ok(imre.Type("[name=describe]", "We will replant 3.2 hectares of reed — in two seasons. "))
	imre.Fills("[name=area]", "3.2")
	imre.Fills("[name=afterwards]", "The Common’s wardens. 🌾")
	imre.Fills("[name=start]", "14 June 2027")
	imre.Reads("17 days too early")
	imre.Fills("[name=start]", "1 July 2027")
	imre.Waits(`!document.body.innerText.includes('17 days too early')`)
	imre.Kept()
	section("budget-section")
	imre.Fills("[name=request]", "64,000")
	imre.Chooses("paid-elsewhere", "no")
	for row, line := range map[string][4]string{"r0001": {"Reed stock", "50,000", "40,000", "own money"},
		"r0002": {"Groynes", "30,000", "23,000", "in kind"}} {
		for i, col := range []string{"item", "cost", "from-us", "payer"} {
			imre.Fills(fmt.Sprintf("[name='budget:%s:%s']", row, col), line[i])
		}
	}
	imre.Reads("Budget asks €63,000, you asked for €64,000")
	imre.Fills("[name='budget:r0002:from-us']", "24,000")
	imre.Waits(
		`!document.body.innerText.includes('you asked for €64,000') && document.querySelector('[data-q=budget] [data-both]').innerText.includes('20% of the cost')`,
	)
	imre.Kept()
	section("materials")
	plan, err := filepath.Abs("../programtest/testdata/plan.pdf")
	imre.Ok(err)
	note := filepath.Join(t.TempDir(), "note.pdf")
	imre.Ok(os.WriteFile(note, []byte("not a PDF at all"), 0o644))
	imre.Ok(imre.Do(chromedp.SetUploadFiles("input[type=file]", []string{note})))
	imre.Reads("here whole, and being opened")
	h.Drain()
	imre.Reads("is not of a kind that is taken here")
	imre.Ok(imre.Do(chromedp.SetUploadFiles("input[type=file]", []string{plan})))
	imre.Waits(
		`document.querySelectorAll('#q-site-plan .file').length === 1 && document.querySelector('#q-site-plan [data-opening]')`,
	)
	h.Drain()
	imre.Reads("2 pages")

	// 4. The referee: asked, accepts, puts up, and only then sends.
	section("references")
	imre.Fills(".refereeform [name=name]", "Dacian Rowe")
	imre.Fills(".refereeform [name=email]", "dacian@wardens.example")
	imre.Fills(".refereeform [name=knows]", "warden of the next strand")
	imre.Presses(".refereeform .btn")
	imre.Reads("We have written to Dacian Rowe")
	dacian.Goes(webtest.Link(t, h, "dacian@wardens.example"))
	dacian.Presses("button[value=yes]")
	dacian.Fills("#f-letter", "I have known the strand for eleven years.")
	dacian.Presses("#letter .btn.ghost")
	dacian.Reads("put up but not sent")
	section("references")
	imre.Reads("uploaded, not sent")
	imre.Reads("has a letter uploaded but not sent")
	neda.Goes("/office/rounds/shore-repair-spring-2027/applications")
	neda.Reads("uploaded, not sent")
	h.Clock.Set(h.Clock.Now().Add(25 * time.Hour))
	imre.Ok(h.Jobs.Sweep(t.Context(), h.Clock.Now()))
	h.Drain()
	if mails, _ := h.Tray.List("dacian@wardens.example", 0, 1); !strings.Contains(mails[0].Body, "NOT SENT") {
		t.Fatalf("the reminder says %q", mails[0].Body)
	}
	dacian.Presses("aside .btn.big")
	dacian.Reads("Thank you, Dacian Rowe")

	// 5. Send: refused with reasons, then sealed.
	imre.SignsIn("imre@corvoe.example")
	imre.Goes("/applications/" + ref + "/send")
	imre.Reads("3 questions unanswered")
	section("declarations")
	imre.Chooses("true", "yes")
	imre.Chooses("may-visit", "yes")
	imre.Fills("[name=signed]", "I. Calloway")
	imre.Reads("not the name on file")
	imre.Fills("[name=signed]", "Imre Calloway")
	imre.Reads("Nothing stands in the way")
	imre.Kept()
	imre.Goes("/applications/" + ref + "/send")
	imre.Fills("#f-password", "wrong password")
	imre.Presses(".btn.big")
	imre.Reads("Nothing was sent")
	imre.Fills("#f-password", programtest.Password)
	imre.Presses(".btn.big")
	imre.Reads("is in")
	imre.Reads(ref)
	h.Drain()
	if mails, _ := h.Tray.List("imre@corvoe.example", 0, 1); mails[0].Attachment != ref+".pdf" ||
		!strings.Contains(mails[0].Subject, "your application is in") {
		t.Fatalf("the confirmation: %+v", mails[0].Subject)
	}

	// 6. Checks: leave to work there is not known; the officer settles it.
	neda.SignsIn("neda@ostrel-trust.example")
	neda.Goes("/office/rounds/shore-repair-spring-2027/checks")
	neda.Reads("Leave to work there")
	neda.Reads("not known")
	neda.Chooses("outcome", "yes")
	neda.Presses("#settle .btn")
	neda.Reads("Say in a note why")
	neda.Fills("#f-note", "Deed seen at the estate office.")
	neda.Presses("#settle .btn")
	neda.Reads("it is eligible now")
	neda.Goes("/office/applications/" + ref)
	neda.Reads("Deed seen")

	// 7. Readers: invited, handed cases after closing, mark, send.
	reading := "/office/rounds/shore-repair-spring-2027/reading"
	for _, name := range []string{"Oriel Vane", "Sami Holt"} {
		neda.Goes(reading)
		neda.Fills("form[action$='/readers'] [name=name]", name)
		neda.Fills("form[action$='/readers'] [name=email]", strings.ToLower(strings.Fields(name)[0])+"@readers.example")
		neda.Presses("form[action$='/readers'] .btn")
		neda.Reads("The invitation to " + name)
	}
	h.Clock.Set(time.Date(2027, 4, 12, 9, 0, 0, 0, time.UTC))
	neda.SignsIn("neda@ostrel-trust.example")
	neda.Goes(reading)
	neda.Presses("form[action$='/hand-out'] .btn")
	neda.Reads("1 case is with 2 readers")
	for i, address := range []string{"oriel@readers.example", "sami@readers.example"} {
		reader := webtest.In(t, webtest.Another(t, b, base))
		reader.Goes(webtest.Link(t, h, address))
		reader.Fills("#f-password", programtest.Password)
		reader.Presses(".stackform .btn")
		reader.Reads("To mark")
		reader.Presses(".readlist a.main")
		reader.Reads("We will replant 3.2 hectares")
		reader.Presses("[data-send]")
		reader.Reads("Something is not marked yet")
		reader.Waits(`document.getElementById('marks').dataset.state === 'live'`)
		reader.Ok(reader.Do(chromedp.KeyEvent("4"), chromedp.KeyEvent("5"), chromedp.KeyEvent(fmt.Sprint(2+i))))
		reader.Waits(
			`document.getElementById('marks').dataset.state === 'kept' && document.querySelector('[data-so-far]').innerText.startsWith('all')`,
		)
		reader.Presses("[data-send]")
		reader.Reads("are sent")
	}

	// 8. Decisions: the order, one act, letters after a hold that can be stopped.
	neda.Goes("/office/rounds/shore-repair-spring-2027/decisions")
	neda.Reads("3.85") // (4·40 + 5·30 + 2·30 + 4·40 + 5·30 + 3·30) / 200
	neda.Fills("[name=note]", "Panel of 14 April, in the hall")
	_, err = browser.Eval[bool](neda.Person, `(window.confirm = () => true, true)`)
	neda.Ok(err)
	neda.Presses(".btn[form=record]")
	neda.Reads("1 letter goes out")
	neda.Presses("form[action$='/stop'] .btn")
	neda.Reads("1 letter is stopped")
	neda.Presses("form[action$='/release'] .btn")
	neda.Reads("1 letter goes out ")
	h.Clock.Set(h.Clock.Now().Add(31 * time.Minute))
	h.Drain()
	if mails, _ := h.Tray.List("imre@corvoe.example", 0, 1); !strings.Contains(mails[0].Body, "€64,000") {
		t.Fatalf("the letter says %q", mails[0].Body)
	}

	// 9. The trail shows all of it.
	neda.Goes("/office/applications/" + ref)
	for _, happened := range []string{"began the application", "wrote in “The work”", "asked Dacian Rowe for a letter",
		"put a letter up, but has not sent it", "reminded Dacian Rowe",
		"sent the letter", "sent the application", "settled “Leave to work there”", "sent marks",
		"recorded: awarded €64,000", "the letter “awarded” went out"} {
		neda.Reads(happened)
	}
}
