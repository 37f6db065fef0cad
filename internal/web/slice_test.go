package web_test

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"ulvant/internal/browser"
	"ulvant/internal/programtest"
)

// play runs steps in a window and stops at the first that fails.
type play struct {
	t *testing.T
	*browser.Person
}

func (p play) ok(err error) {
	p.t.Helper()
	if err != nil {
		p.t.Fatal(err)
	}
}

func (p play) open(path string)       { p.t.Helper(); p.ok(p.Open(path)) }
func (p play) sees(text string)       { p.t.Helper(); p.ok(p.Sees(text)) }
func (p play) press(sel string)       { p.t.Helper(); p.ok(p.Press(sel)) }
func (p play) fill(sel, value string) { p.t.Helper(); p.ok(p.Fill(sel, value)) }
func (p play) until(js string)        { p.t.Helper(); p.ok(p.Until(js)) }

// choose a radio or tick a box by its name and value.
func (p play) choose(name, value string) {
	p.t.Helper()
	sel := fmt.Sprintf(`input[name=%q][value=%q]`, name, value)
	for range 3 { // what is drawn meanwhile may move it from under the pointer
		p.press(sel)
		on, err := browser.Eval[bool](p.Person, fmt.Sprintf(`document.querySelector(%q)?.checked ?? true`, sel))
		p.ok(err)
		if on {
			return
		}
	}
	p.t.Fatalf("%s cannot be chosen", sel)
}

func (p play) kept() {
	p.t.Helper()
	p.until(`document.getElementById('workspace').dataset.state === 'kept'`)
}

func (p play) signIn(email string) {
	p.t.Helper()
	p.open("/sign-in")
	p.fill("#f-email", email)
	p.fill("#f-password", programtest.Password)
	p.press("form[action='/sign-in'] .btn")
	p.until(`!location.pathname.startsWith('/sign-in') && document.readyState === 'complete'`)
}

var linkIn = regexp.MustCompile(`https?://[^/\s]+(/(?:confirm|letter|reader|reset|address|officer|team|enter)/\S+)`)

// link finds the personal link in the latest mail to an address.
func link(t *testing.T, h *programtest.House, to string) string {
	t.Helper()
	h.Drain()
	list, _ := h.Tray.List(to, 0, 1)
	if len(list) == 0 {
		t.Fatalf("no mail to %s", to)
	}
	m := linkIn.FindStringSubmatch(list[0].Body)
	if m == nil {
		t.Fatalf("no link in %q", list[0].Body)
	}
	return m[1]
}

// The nine steps in the browser, in four roles, with mails in the tray.
func TestNineStepsInTheBrowser(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := serve(t, h)
	officer(h)
	b, err := browser.Start()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(b.Stop)
	neda, imre, dacian := play{t, another(t, b, base)}, play{t, another(t, b, base)}, play{t, another(t, b, base)}

	// 1. The officer makes a round from the pattern and opens it.
	neda.signIn("neda@ostrel-trust.example")
	neda.sees("Your move")
	neda.open("/office/new-round")
	neda.choose("kind", "grant")
	for name, value := range map[string]string{"name": "Shore Repair, spring 2027",
		"programme": "Shore & Peat Repair Grants", "prefix": "SPR", "about": "For shores.", "fund": "100,000",
		"readers": "2", "hold": "30",
		"opens": "2027-03-01T09:00", "closes": "2027-04-09T16:00", "checks-by": "2027-04-20T17:00",
		"reading-ends": "2027-05-07T17:00", "answer-on": "2027-05-21T12:00", "work-from": "2027-07-01"} {
		neda.fill(fmt.Sprintf("[name=%q]", name), value)
	}
	neda.press(".designform .btn")
	neda.sees("not open to anyone yet")
	neda.press("#publish")
	neda.sees("before it opens")
	neda.press("#publish .btn")
	neda.sees("The round is published")

	// 2. The public list, the page, the check.
	imre.open("/")
	imre.sees("Shore Repair, spring 2027")
	imre.press(".publicround h3 a")
	imre.sees("What you will need")
	imre.press("a[href$='/check']")
	imre.choose("applicant-kind", "common")
	imre.until(`document.querySelector('input[name="applicant-kind"]:checked')?.value === 'common' && document.querySelector('.v-yes')`)
	imre.choose("district", "elsewhere")
	imre.sees("No, not as it stands")
	imre.choose("district", "corvoe")
	imre.until(`!document.querySelector('.v-no')`)
	imre.choose("land-leave", "not known")
	imre.until(`document.querySelector('.v-look')`)
	imre.choose("paid-elsewhere", "no")
	imre.sees("Somebody must look")
	imre.press("form[action$='/start'] .btn")

	// 3. The applicant signs up, confirms, and writes.
	imre.until(`location.pathname === '/sign-in'`)
	imre.press("a[href^='/sign-up']")
	imre.fill("#f-name", "Imre Calloway")
	imre.fill("#f-email", "imre@corvoe.example")
	imre.press(".stackform .btn")
	imre.sees("Look in your mail")
	confirm := link(t, h, "imre@corvoe.example")
	imre.open(confirm)
	imre.fill("#f-password", programtest.Password)
	imre.press("form[method=post]:not([action]) .btn")
	imre.sees("Your address is confirmed")
	imre.until(`location.pathname.endsWith('/start')`) // where they were, with what the check was answered
	imre.fill("#f-title", "Reed beds for the Corvoe shore")
	imre.press(".stackform .btn")
	imre.until(`document.getElementById('workspace')?.dataset.state === 'ready'`)
	imre.sees("Before you can send it")
	imre.fill("[name='body-name']", "Corvoe Common")
	imre.fill("[name='post-address::street']", "PO Box 4")
	imre.fill("[name='post-address::town']", "Corvoe")
	imre.fill("[name='post-address::postcode']", "OI4 2RT")
	imre.sees("is a box number")
	imre.fill("[name='post-address::street']", "4 Quay Row")
	imre.until(`!document.body.innerText.includes('is a box number')`)
	imre.kept()
	ref, err := browser.Eval[string](imre.Person, `document.getElementById('workspace').dataset.ref`)
	imre.ok(err)
	section := func(key string) { imre.open("/applications/" + ref + "/sections/" + key) }
	section("place")
	imre.fill("[name=site]", "the Corvoe strand")
	imre.choose("site-access", "road")
	imre.kept()
	section("work")
	imre.choose("repair-kind", "peat")
	imre.until(`!document.getElementById('q-peat-depth').hidden && document.querySelector('#q-describe [data-limit]').innerText.includes('320')`)
	imre.choose("repair-kind", "shore")
	imre.until(`document.getElementById('q-peat-depth').hidden && document.querySelector('#q-describe [data-limit]').innerText.includes('250')`)
	imre.ok(imre.Type("[name=describe]", "We will replant 3.2 hectares of reed — in two seasons. "))
	imre.fill("[name=area]", "3.2")
	imre.fill("[name=afterwards]", "The Common’s wardens. 🌾")
	imre.fill("[name=start]", "14 June 2027")
	imre.sees("17 days too early")
	imre.fill("[name=start]", "1 July 2027")
	imre.until(`!document.body.innerText.includes('17 days too early')`)
	imre.kept()
	section("budget-section")
	imre.fill("[name=request]", "64,000")
	imre.choose("paid-elsewhere", "no")
	for row, line := range map[string][4]string{"r0001": {"Reed stock", "50,000", "40,000", "own money"},
		"r0002": {"Groynes", "30,000", "23,000", "in kind"}} {
		for i, col := range []string{"item", "cost", "from-us", "payer"} {
			imre.fill(fmt.Sprintf("[name='budget:%s:%s']", row, col), line[i])
		}
	}
	imre.sees("Budget asks €63,000, you asked for €64,000")
	imre.fill("[name='budget:r0002:from-us']", "24,000")
	imre.until(`!document.body.innerText.includes('you asked for €64,000') && document.querySelector('[data-q=budget] tfoot').innerText.includes('20')`)
	imre.kept()
	section("materials")
	plan, err := filepath.Abs("../program/testdata/plan.pdf")
	imre.ok(err)
	note := filepath.Join(t.TempDir(), "note.pdf")
	imre.ok(os.WriteFile(note, []byte("not a PDF at all"), 0o644))
	imre.ok(imre.Do(chromedp.SetUploadFiles("input[type=file]", []string{note})))
	imre.sees("is not of a kind that is taken here")
	imre.ok(imre.Do(chromedp.SetUploadFiles("input[type=file]", []string{plan})))
	imre.sees("2 pages")

	// 4. The referee: asked, accepts, puts up, and only then sends.
	section("references")
	imre.fill(".refereeform [name=name]", "Dacian Rowe")
	imre.fill(".refereeform [name=email]", "dacian@wardens.example")
	imre.fill(".refereeform [name=knows]", "warden of the next strand")
	imre.press(".refereeform .btn")
	imre.sees("We have written to Dacian Rowe")
	dacian.open(link(t, h, "dacian@wardens.example"))
	dacian.press("button[value=yes]")
	dacian.fill("#f-letter", "I have known the strand for eleven years.")
	dacian.press("#letter .btn.ghost")
	dacian.sees("put up but not sent")
	section("references")
	imre.sees("uploaded, not sent")
	imre.sees("has a letter uploaded but not sent")
	neda.open("/office/rounds/shore-repair-spring-2027/applications")
	neda.sees("uploaded, not sent")
	h.Clock.Set(h.Clock.Now().Add(25 * time.Hour))
	imre.ok(h.Jobs.Sweep(t.Context(), h.Clock.Now()))
	h.Drain()
	if mails, _ := h.Tray.List("dacian@wardens.example", 0, 1); !strings.Contains(mails[0].Body, "NOT SENT") {
		t.Fatalf("the reminder says %q", mails[0].Body)
	}
	dacian.press("aside .btn.big")
	dacian.sees("Thank you, Dacian Rowe")

	// 5. Send: refused with reasons, then sealed.
	imre.signIn("imre@corvoe.example")
	imre.open("/applications/" + ref + "/send")
	imre.sees("3 questions unanswered")
	section("declarations")
	imre.choose("true", "yes")
	imre.choose("may-visit", "yes")
	imre.fill("[name=signed]", "I. Calloway")
	imre.sees("not the name on file")
	imre.fill("[name=signed]", "Imre Calloway")
	imre.sees("Nothing stands in the way")
	imre.kept()
	imre.open("/applications/" + ref + "/send")
	imre.fill("#f-password", "wrong password")
	imre.press(".btn.big")
	imre.sees("Nothing was sent")
	imre.fill("#f-password", programtest.Password)
	imre.press(".btn.big")
	imre.sees("is in")
	imre.sees(ref)
	h.Drain()
	if mails, _ := h.Tray.List("imre@corvoe.example", 0, 1); mails[0].Attachment != ref+".pdf" ||
		!strings.Contains(mails[0].Subject, "your application is in") {
		t.Fatalf("the confirmation: %+v", mails[0].Subject)
	}

	// 6. Checks: leave to work there is not known; the officer settles it.
	neda.signIn("neda@ostrel-trust.example")
	neda.open("/office/rounds/shore-repair-spring-2027/checks")
	neda.sees("Leave to work there")
	neda.press(".tasks a.main")
	neda.choose("outcome", "yes")
	neda.press("#rule-land .settle .btn")
	neda.sees("say in a note why")
	neda.choose("outcome", "yes")
	neda.fill("#rule-land [name=note]", "Deed seen at the estate office.")
	neda.press("#rule-land .settle .btn")
	neda.sees("Deed seen")
	neda.sees("eligible")

	// 7. Readers: invited, handed cases after closing, mark, send.
	reading := "/office/rounds/shore-repair-spring-2027/reading"
	for _, name := range []string{"Oriel Vane", "Sami Holt"} {
		neda.open(reading)
		neda.fill(".stackform [name=name]", name)
		neda.fill(".stackform [name=email]", strings.ToLower(strings.Fields(name)[0])+"@readers.example")
		neda.press(".stackform .btn")
		neda.sees("The invitation to " + name)
	}
	h.Clock.Set(time.Date(2027, 4, 12, 9, 0, 0, 0, time.UTC))
	neda.signIn("neda@ostrel-trust.example")
	neda.open(reading)
	neda.press("form[action$='/hand-out'] .btn")
	neda.sees("1 case is with 2 readers")
	for i, address := range []string{"oriel@readers.example", "sami@readers.example"} {
		reader := play{t, another(t, b, base)}
		reader.open(link(t, h, address))
		reader.fill("#f-password", programtest.Password)
		reader.press(".stackform .btn")
		reader.sees("To mark")
		reader.press(".readlist a.main")
		reader.sees("We will replant 3.2 hectares")
		reader.press("[data-send]")
		reader.sees("Give a mark under every criterion first")
		reader.until(`document.getElementById('marks').dataset.state === 'live'`)
		reader.ok(reader.Do(chromedp.KeyEvent("4"), chromedp.KeyEvent("5"), chromedp.KeyEvent(fmt.Sprint(2+i))))
		reader.until(`document.getElementById('marks').dataset.state === 'kept' && document.querySelector('[data-so-far]').innerText.startsWith('all')`)
		reader.press("[data-send]")
		reader.sees("are sent")
	}

	// 8. Decisions: the order, one act, letters after a hold that can be stopped.
	neda.open("/office/rounds/shore-repair-spring-2027/decisions")
	neda.sees("3.85") // (4·40 + 5·30 + 2·30 + 4·40 + 5·30 + 3·30) / 200
	neda.fill("[name=note]", "Panel of 14 April, in the hall")
	_, err = browser.Eval[bool](neda.Person, `(window.confirm = () => true, true)`)
	neda.ok(err)
	neda.press(".btn[form=record]")
	neda.sees("1 letter goes out")
	neda.press("form[action$='/stop'] .btn")
	neda.sees("1 letter is stopped")
	neda.press("form[action$='/release'] .btn")
	neda.sees("1 letter goes out at")
	h.Clock.Set(h.Clock.Now().Add(31 * time.Minute))
	h.Drain()
	if mails, _ := h.Tray.List("imre@corvoe.example", 0, 1); !strings.Contains(mails[0].Body, "€64,000") {
		t.Fatalf("the letter says %q", mails[0].Body)
	}

	// 9. The trail shows all of it.
	neda.open("/office/applications/" + ref)
	for _, happened := range []string{"began the application", "wrote in “The work”", "asked Dacian Rowe for a letter",
		"put a letter up, but has not sent it", "reminded Dacian Rowe",
		"sent the letter", "sent the application", "settled “Leave to work there”", "sent marks",
		"recorded: awarded €64,000", "the letter “awarded” went out"} {
		neda.sees(happened)
	}
}
