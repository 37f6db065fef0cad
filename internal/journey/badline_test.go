package journey_test

import (
	"context"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"ulvant/core/form"
	"ulvant/core/profile"
	"ulvant/internal/browser"
	"ulvant/internal/platform/db"
	profiles "ulvant/internal/profile"
	"ulvant/internal/programtest"
	"ulvant/internal/standin/register"
	"ulvant/internal/web/webtest"
)

// badLine is a line of 400 kbit/s with 400 ms there and back to a site.
func badLine(t *testing.T, base string) *browser.Line {
	t.Helper()
	line, err := browser.NewLine(strings.TrimPrefix(base, "http://"), 400_000/8, 200*time.Millisecond)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(line.Close)
	return line
}

// joint asks for a partner's officer who confirms, by a link of their own.
func joint(d *form.Design) {
	for i := range d.Sections {
		if d.Sections[i].Key == "references" {
			d.Sections[i].Questions = append(d.Sections[i].Questions,
				form.Question{Key: "partner", Kind: form.Signatory, Label: "Who signs for the partner?", Nature: form.Chosen,
					Blank: form.Required, Seen: form.ToReaders,
					Limits: form.Cases[form.Limits]{Else: form.Limits{Referees: 1}}, Ask: &form.Ask{Who: "officer of the partner",
						Wants: "That the partner does its part of the work."}})
		}
	}
}

const orgNumber = "0000OSTRELISLES00149"

// Somebody for an organisation that is new to the funder, on a slow line that
// is cut twice for half a minute, gets from the public page to a sent joint
// application, with a teammate and a co-signer. They are told of the cuts within seconds, see
// beside the answer that it is not on the server, go on typing, and not a
// character is lost.
func TestAJointApplicationOnABadLine(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	reg, err := register.Start("127.0.0.1:0", []register.Entry{{Scheme: "lei", Number: orgNumber,
		Name: "Tarl Moor Society"}})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(reg.Stop)
	asks := h.Profiles.Asks.(profiles.HTTPRegister)
	asks.Base = "http://" + reg.Addr
	h.Profiles.Asks = asks
	_, base := webtest.Serve(t, h)
	neda := webtest.Officer(h)
	h.OpenRound(neda, joint)
	line := badLine(t, base)
	b, err := browser.Start()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(b.Stop)
	p, near := webtest.In(t, webtest.Another(t, b, "http://"+line.Addr)), webtest.In(t, webtest.Another(t, b, base))

	// the public page, an account
	p.Goes("/")
	p.Presses(".publicround h3 a")
	p.Reads("What you will need")
	p.Goes("/sign-up")
	p.Fills("#f-name", "Ann Hart")
	p.Fills("#f-email", "ann@tarl.example")
	p.Presses(".stackform .btn")
	p.Reads("Look in your mail")
	p.Goes(webtest.Link(t, h, "ann@tarl.example"))
	p.Fills("#f-password", programtest.Password)
	p.Presses("form[method=post]:not([action]) .btn")
	p.Reads("Your address is confirmed")

	// an organisation that is new to the funder
	p.Goes("/profiles")
	p.Fills("form[action='/profiles'] [name=name]", "Tarl Moor Society")
	p.Presses("form[action='/profiles'].stackform .btn")
	p.Reads("Before it is known")
	at := func(s string) {
		p.Waits(`document.readyState === 'complete' && document.querySelector('.path .on a[href$="step=` + s + `"]')`)
	}
	step := func(s string) {
		p.Goes(browserPath(p) + "?step=" + s)
		at(s)
	}
	step("numbers")
	p.Fills("[name=scheme]", "lei")
	p.Fills("[name=value]", orgNumber)
	p.Presses("[name=go]")
	at("papers")
	p.Fills("[name=form]", "society") // which shows its statutes; but it is a church’s
	p.Presses("form[action$='/steps/papers'] .btn.ghost")
	p.Reads("Put in: Statutes or governing document.")
	p.Fills("[name=form]", "public")
	p.Presses("[name=go]")
	at("addresses")
	h.Drain()
	p.Fills("[name=seat-street]", "3 Peat Lane")
	p.Fills("[name=seat-town]", "Tarl")
	p.Presses("[name=go]")
	at("contacts")
	_, err = browser.Eval[bool](p.Person,
		`(() => { const n = document.querySelectorAll('[name=name]'), e = document.querySelectorAll('[name=email]'); n[0].value = 'Ann Hart'; e[0].value = 'ann@tarl.example'; n[1].value = 'Bo Hart'; e[1].value = 'bo@tarl.example'; return true })()`)
	p.Ok(err)
	p.Presses("[name=go]")
	for _, who := range []string{"chair@tarl.example", "treasurer@tarl.example"} {
		at("officers")
		p.Fills("form[action$='/officers'] [name=name]", "Ronan Teague")
		p.Fills("form[action$='/officers'] [name=email]", who)
		p.Fills("form[action$='/officers'] [name=post]", "chair")
		p.Presses("form[action$='/officers'] .btn")
		p.Waits(`document.readyState === 'complete' && [...document.querySelectorAll('.rule')].some(r => r.innerText.includes("` + who + `"))`)
		near.Goes(webtest.Link(t, h, who))
		near.Presses("[value=yes]")
		near.Reads("You have confirmed")
	}
	step("numbers")
	p.Reads("found, under this name")
	p.Presses("form[action$='/hand-in'] .btn")
	p.Reads("It is with the office")
	list, err := h.Profiles.Waiting(t.Context(), h.DB)
	if err != nil || len(list) != 1 {
		t.Fatalf("%d organisations wait, %v", len(list), err)
	}
	h.Act(neda, func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Decide(ctx, tx, list[0].ID, true, "") })

	// the application begins with what the profile says
	p.Goes("/rounds/shore-2027/start")
	p.Fills("#f-title", "Reed beds for the Tarl shore")
	_, err = browser.Eval[bool](p.Person,
		`(() => { const s = document.getElementById('f-for'); s.selectedIndex = 1; return true })()`)
	p.Ok(err)
	p.Presses(".stackform .btn")
	p.Waits(`document.getElementById('workspace')?.dataset.state === 'ready'`)
	p.Waits(`document.querySelector("[name='body-name']").value === 'Tarl Moor Society' && document.querySelector("[name='post-address::street']").value === '3 Peat Lane'`)
	p.Chooses("applicant-kind", "common")
	p.Fills("[name='post-address::postcode']", "OI9 1RT")
	p.Kept()
	ref, err := browser.Eval[string](p.Person, `document.getElementById('workspace').dataset.ref`)
	p.Ok(err)
	section := func(key string) {
		p.Goes("/applications/" + ref + "/sections/" + key)
		p.Waits(`document.getElementById('workspace')?.dataset.state === 'ready'`)
	}
	c, err := h.Cases.Find(t.Context(), h.DB, ref)
	if err != nil {
		t.Fatal(err)
	}

	// a teammate
	p.Goes("/applications/" + ref + "/team")
	p.Fills("[name=name]", "Ysolde Fenn")
	p.Fills("[name=email]", "ysolde@tarl.example")
	p.Presses(".stackform .btn")
	p.Reads("is asked by mail")
	near.Goes(webtest.Link(t, h, "ysolde@tarl.example"))
	near.Fills("#f-password", programtest.Password)
	near.Presses(".stackform .btn[value=yes]")
	near.Waits(`location.pathname.startsWith('/applications/')`)
	near.Goes("/applications/" + ref + "/sections/place")
	near.Chooses("district", "tarl")
	near.Fills("[name=site]", "the Tarl strand")
	near.Chooses("land-leave", "yes")
	near.Chooses("site-access", "road")
	near.Kept()

	// typing, while the line is cut twice
	section("work")
	p.Chooses("repair-kind", "shore")
	p.Fills("[name=area]", "3.2")
	p.Fills("[name=afterwards]", "The Society’s wardens.")
	p.Fills("[name=start]", "1 July 2027")
	typed := typedOverCuts(p, line)
	if got := webtest.KeptText(t, h, c, "describe"); got != typed {
		t.Errorf("%d characters were typed, the server has %d: …%q", len(typed), len(got), got[max(0, len(got)-80):])
	}
	p.Waits(`!document.querySelector('.unsent')`)
	p.Fills("[name=describe]", "We replant the reed bed.") // within its limit
	p.Kept()

	section("budget-section")
	p.Fills("[name=request]", "5000")
	p.Chooses("paid-elsewhere", "no")
	for col, v := range map[string]string{"item": "Reed", "cost": "6000", "from-us": "5000", "payer": "own money"} {
		p.Fills("[name='budget:r0001:"+col+"']", v)
	}
	p.Kept()
	section("materials")
	plan, err := filepath.Abs("../programtest/testdata/plan.pdf")
	p.Ok(err)
	p.Ok(p.Do(chromedp.SetUploadFiles("input[type=file]", []string{plan})))
	p.Reads("here whole, and being opened")
	h.Drain()
	p.Reads("2 pages")

	// a referee, and a co-signer by a link of their own
	section("references")
	for q, email := range map[string]string{"site-referee": "dacian@wardens.example", "partner": "partner@ness.example"} {
		f := "#q-" + q + " form.refereeform:not([enctype]) "
		p.Fills(f+"[name=name]", "Dacian Rowe")
		p.Fills(f+"[name=email]", email)
		p.Fills(f+"[name=knows]", "works beside us")
		p.Presses(f + ".btn")
		p.Reads("We have written to Dacian Rowe")
		section("references")
	}
	near.Goes(webtest.Link(t, h, "dacian@wardens.example"))
	near.Presses("button[value=yes]")
	near.Fills("#f-letter", "I have known the strand for eleven years.")
	near.Presses("#letter .btn.ghost")
	near.Presses("aside .btn.big")
	near.Reads("Thank you, Dacian Rowe")
	near.Goes(webtest.Link(t, h, "partner@ness.example"))
	near.Presses("button[value=yes]")
	near.Reads("Your confirmation was sent")

	section("declarations")
	p.Chooses("true", "yes")
	p.Chooses("may-visit", "yes")
	p.Fills("[name=signed]", "Ann Hart")
	p.Kept()
	p.Goes("/applications/" + ref + "/send")
	p.Reads("Send the application")
	p.Fills("#f-password", programtest.Password)
	p.Presses(".btn.big")
	p.Reads("is in")
	if s := h.StateOf(c); s != "sent" && s != "complete" && s != "eligible" {
		t.Errorf("it is %s", s)
	}
	if pr, err := h.Profiles.For(t.Context(), h.DB, c.ID); err != nil || pr.State != profile.Known {
		t.Errorf("the organisation it is for: %+v %v", pr, err)
	}
}

// typedOverCuts types while the line is cut twice for half a minute, and until
// all is kept again; it gives all that was typed.
func typedOverCuts(p webtest.Play, line *browser.Line) string {
	t := p.T
	t.Helper()
	words := strings.Fields("We replant the reed bed along the shore in two seasons with stock from the nursery and " +
		"rebuild the groynes lost in the storms ")
	var typed strings.Builder
	n := 0
	// typing goes on for a time, and until something is so on the page
	typing := func(atLeast time.Duration, until string) (took time.Duration) {
		t.Helper()
		for begin := time.Now(); ; n++ {
			w := words[n%len(words)] + " "
			p.Ok(p.Type("[name=describe]", w))
			typed.WriteString(w)
			so, err := browser.Eval[bool](p.Person, until)
			p.Ok(err)
			if so && took == 0 {
				took = time.Since(begin)
			}
			if took > 0 && time.Since(begin) >= atLeast {
				return took
			}
			if time.Since(begin) > atLeast+20*time.Second {
				t.Fatalf("it never came to %s", until)
			}
		}
	}
	const told = `['slow', 'lost'].includes(document.getElementById('workspace').dataset.state) && getComputedStyle(document.querySelector('[data-q=describe] .unsent')).display !== 'none'`
	for i := range 2 {
		typing(2*time.Second, `true`)
		line.Cut()
		if took := typing(30*time.Second, told); took > 12*time.Second {
			t.Errorf("cut %d was noticed after %s", i+1, took)
		}
		line.Mend()
	}
	typing(time.Second, `true`)
	if err := p.Until(`document.getElementById('workspace').dataset.state === 'kept'`); err != nil {
		s, _ := browser.Eval[string](p.Person,
			`document.getElementById('workspace').dataset.state + ': ' + document.getElementById('kept').textContent`)
		t.Fatalf("%v, at the end it is %s", err, s)
	}
	return typed.String()
}

// browserPath is the path of the page somebody is at.
func browserPath(p webtest.Play) string {
	path, err := browser.Eval[string](p.Person, `location.pathname`)
	p.Ok(err)
	return path
}
