package web_test

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
	_, base := serve(t, h)
	neda := officer(h)
	h.OpenRound(neda, joint)
	line := badLine(t, base)
	b, err := browser.Start()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(b.Stop)
	p, near := play{t, another(t, b, "http://"+line.Addr)}, play{t, another(t, b, base)}

	// the public page, an account
	p.open("/")
	p.press(".publicround h3 a")
	p.sees("What you will need")
	p.open("/sign-up")
	p.fill("#f-name", "Ann Hart")
	p.fill("#f-email", "ann@tarl.example")
	p.press(".stackform .btn")
	p.sees("Look in your mail")
	p.open(link(t, h, "ann@tarl.example"))
	p.fill("#f-password", programtest.Password)
	p.press("form[method=post]:not([action]) .btn")
	p.sees("Your address is confirmed")

	// an organisation that is new to the funder
	p.open("/profiles")
	p.fill("form[action='/profiles'] [name=name]", "Tarl Moor Society")
	p.press("form[action='/profiles'].stackform .btn")
	p.sees("Before it is known")
	at := func(s string) {
		p.until(`document.readyState === 'complete' && document.querySelector('.path .on a[href$="step=` + s + `"]')`)
	}
	step := func(s string) {
		p.open(browserPath(p) + "?step=" + s)
		at(s)
	}
	step("numbers")
	p.fill("[name=scheme]", "lei")
	p.fill("[name=value]", orgNumber)
	p.press("[name=go]")
	at("addresses")
	h.Drain()
	p.fill("[name=seat-street]", "3 Peat Lane")
	p.fill("[name=seat-town]", "Tarl")
	p.press("[name=go]")
	at("contacts")
	_, err = browser.Eval[bool](p.Person,
		`(() => { const n = document.querySelectorAll('[name=name]'), e = document.querySelectorAll('[name=email]'); n[0].value = 'Ann Hart'; e[0].value = 'ann@tarl.example'; n[1].value = 'Bo Hart'; e[1].value = 'bo@tarl.example'; return true })()`)
	p.ok(err)
	p.press("[name=go]")
	for _, who := range []string{"chair@tarl.example", "treasurer@tarl.example"} {
		at("officers")
		p.fill("form[action$='/officers'] [name=name]", "Ronan Teague")
		p.fill("form[action$='/officers'] [name=email]", who)
		p.fill("form[action$='/officers'] [name=post]", "chair")
		p.press("form[action$='/officers'] .btn")
		p.until(`document.readyState === 'complete' && [...document.querySelectorAll('.rule')].some(r => r.innerText.includes("` + who + `"))`)
		near.open(link(t, h, who))
		near.press("[value=yes]")
		near.sees("You have confirmed")
	}
	step("numbers")
	p.sees("found, under this name")
	p.press("form[action$='/hand-in'] .btn")
	p.sees("It is with the office")
	list, err := h.Profiles.Waiting(t.Context(), h.DB)
	if err != nil || len(list) != 1 {
		t.Fatalf("%d organisations wait, %v", len(list), err)
	}
	h.Act(neda, func(ctx context.Context, tx *db.Tx) error { return h.Profiles.Decide(ctx, tx, list[0].ID, true, "") })

	// the application begins with what the profile says
	p.open("/rounds/shore-2027/start")
	p.fill("#f-title", "Reed beds for the Tarl shore")
	_, err = browser.Eval[bool](p.Person,
		`(() => { const s = document.getElementById('f-for'); s.selectedIndex = 1; return true })()`)
	p.ok(err)
	p.press(".stackform .btn")
	p.until(`document.getElementById('workspace')?.dataset.state === 'ready'`)
	p.until(`document.querySelector("[name='body-name']").value === 'Tarl Moor Society' && document.querySelector("[name='post-address::street']").value === '3 Peat Lane'`)
	p.choose("applicant-kind", "common")
	p.fill("[name='post-address::postcode']", "OI9 1RT")
	p.kept()
	ref, err := browser.Eval[string](p.Person, `document.getElementById('workspace').dataset.ref`)
	p.ok(err)
	section := func(key string) {
		p.open("/applications/" + ref + "/sections/" + key)
		p.until(`document.getElementById('workspace')?.dataset.state === 'ready'`)
	}
	c, err := h.Cases.Find(t.Context(), h.DB, ref)
	if err != nil {
		t.Fatal(err)
	}

	// a teammate
	p.open("/applications/" + ref + "/team")
	p.fill("[name=name]", "Ysolde Fenn")
	p.fill("[name=email]", "ysolde@tarl.example")
	p.press(".stackform .btn")
	p.sees("is asked by mail")
	near.open(link(t, h, "ysolde@tarl.example"))
	near.fill("#f-password", programtest.Password)
	near.press(".stackform .btn[value=yes]")
	near.until(`location.pathname.startsWith('/applications/')`)
	near.open("/applications/" + ref + "/sections/place")
	near.choose("district", "tarl")
	near.fill("[name=site]", "the Tarl strand")
	near.choose("land-leave", "yes")
	near.choose("site-access", "road")
	near.kept()

	// typing, while the line is cut twice
	section("work")
	p.choose("repair-kind", "shore")
	p.fill("[name=area]", "3.2")
	p.fill("[name=afterwards]", "The Society’s wardens.")
	p.fill("[name=start]", "1 July 2027")
	typed := typedOverCuts(p, line)
	if got := keptText(t, h, c, "describe"); got != typed {
		t.Errorf("%d characters were typed, the server has %d: …%q", len(typed), len(got), got[max(0, len(got)-80):])
	}
	p.until(`!document.querySelector('.unsent')`)
	p.fill("[name=describe]", "We replant the reed bed.") // within its limit
	p.kept()

	section("budget-section")
	p.fill("[name=request]", "5000")
	p.choose("paid-elsewhere", "no")
	for col, v := range map[string]string{"item": "Reed", "cost": "6000", "from-us": "5000", "payer": "own money"} {
		p.fill("[name='budget:r0001:"+col+"']", v)
	}
	p.kept()
	section("materials")
	plan, err := filepath.Abs("../program/testdata/plan.pdf")
	p.ok(err)
	p.ok(p.Do(chromedp.SetUploadFiles("input[type=file]", []string{plan})))
	p.sees("2 pages")

	// a referee, and a co-signer by a link of their own
	section("references")
	for q, email := range map[string]string{"site-referee": "dacian@wardens.example", "partner": "partner@ness.example"} {
		f := "#q-" + q + " form.refereeform:not([enctype]) "
		p.fill(f+"[name=name]", "Dacian Rowe")
		p.fill(f+"[name=email]", email)
		p.fill(f+"[name=knows]", "works beside us")
		p.press(f + ".btn")
		p.sees("We have written to Dacian Rowe")
		section("references")
	}
	near.open(link(t, h, "dacian@wardens.example"))
	near.press("button[value=yes]")
	near.fill("#f-letter", "I have known the strand for eleven years.")
	near.press("#letter .btn.ghost")
	near.press("aside .btn.big")
	near.sees("Thank you, Dacian Rowe")
	near.open(link(t, h, "partner@ness.example"))
	near.press("button[value=yes]")
	near.sees("Your confirmation was sent")

	section("declarations")
	p.choose("true", "yes")
	p.choose("may-visit", "yes")
	p.fill("[name=signed]", "Ann Hart")
	p.kept()
	p.open("/applications/" + ref + "/send")
	p.sees("Send the application")
	p.fill("#f-password", programtest.Password)
	p.press(".btn.big")
	p.sees("is in")
	if s := state(h, c); s != "sent" && s != "complete" && s != "eligible" {
		t.Errorf("it is %s", s)
	}
	if pr, err := h.Profiles.For(t.Context(), h.DB, c.ID); err != nil || pr.State != profile.Known {
		t.Errorf("the organisation it is for: %+v %v", pr, err)
	}
}

// typedOverCuts types while the line is cut twice for half a minute, and until
// all is kept again; it gives all that was typed.
func typedOverCuts(p play, line *browser.Line) string {
	t := p.t
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
			p.ok(p.Type("[name=describe]", w))
			typed.WriteString(w)
			so, err := browser.Eval[bool](p.Person, until)
			p.ok(err)
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
func browserPath(p play) string {
	path, err := browser.Eval[string](p.Person, `location.pathname`)
	p.ok(err)
	return path
}
