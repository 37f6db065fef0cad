package journey_test

import (
	"regexp"
	"strings"
	"testing"
	"time"

	"ulvant/demo"
	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The officer’s morning: she finds the works still being written in Tarl whose
// letter has not come, keeps the view and sends it to a colleague, writes to all of
// them, and stops one before it goes out; all of it by pressing words, and part of
// it by keys.
func TestTheOfficersMorning(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	_, base := webtest.Serve(t, h)
	b := webtest.Browser(t)
	p := webtest.In(t, webtest.Another(t, b, base))
	p.Ok(p.As("Neda Sparrow", demo.Password))
	p.Goes("/office/rounds")
	p.Presses(`a.main[href*="/shore-and-peat-"]`)
	p.Presses(`nav.desks a[href$="/applications"]`)
	rows := `document.querySelectorAll('.regtable tbody tr').length`

	// f asks about something; what is to be is chosen
	ask := func(column string, values ...string) {
		t.Helper()
		p.Waits(`document.readyState === 'complete' && document.getElementById('addcond') !== null`)
		p.Ok(p.Key("f"))
		p.Waits(`document.querySelector('.addlist') !== null`)
		_, err := browser.Eval[bool](p.Person, `[...document.querySelectorAll('.addlist a')].find(a => a.textContent === '`+
			column+`').click() ?? true`)
		p.Ok(err)
		p.Waits(`document.querySelector('.regside input[name=value]') !== null`)
		for _, v := range values {
			p.Presses(`.regside input[name=value][value="` + v + `"]`)
		}
		p.Presses(`.regside form button`)
		p.Waits(`document.querySelector('.regside form') === null`)
	}
	ask("Where it is", "draft")
	ask("District", "Tarl", "Sunder Bay")
	ask("Letter", "to ask", "asked", "accepted", "uploaded", "declined")
	p.Reads("still being written")
	p.Reads("in Tarl or Sunder Bay")
	p.Reads("has not come")
	p.Waits(rows + ` === 3`)
	p.Presses(`.regtable th a[href*="sort=-asked"]`)
	p.Waits(`document.querySelector('.regtable th[aria-sort=descending]') !== null`)

	// the view is kept, and its address leads a colleague to the same rows
	p.Presses(`a.more`)
	p.Waits(`document.getElementById('f-name') !== null`)
	p.Fills(`#f-name`, "Letters to chase")
	p.Presses(`input[name=shared]`)
	p.Presses(`.regside form button`)
	p.Waits(`[...document.querySelectorAll('.regviews a')].some(a => a.textContent === 'Letters to chase' && a.getAttribute('aria-current'))`)
	p.Presses(`a.more`)
	p.Waits(`document.querySelector('.regside .breaks') !== null`)
	address, err := browser.Eval[string](p.Person, `document.querySelector('.regside .breaks').textContent`)
	p.Ok(err)
	view := regexp.MustCompile(`/office/views/\d+`).FindString(address)
	jonas := webtest.In(t, webtest.Another(t, b, base))
	jonas.Ok(jonas.As("Jonas Tarn", demo.Password))
	jonas.Goes(view)
	jonas.Waits(rows + ` === 3`)
	p.Presses(`.regside [data-close]`)

	// a case beside the list, by keys, and back to where she was
	p.Ok(p.Key("j"))
	p.Ok(p.Key("j"))
	p.Ok(p.Key("o"))
	p.Waits(`document.querySelector('#beside .kept') !== null && document.querySelector('tr.open') !== null`)
	p.Ok(p.Key("\x1b"))
	p.Waits(`document.querySelector('#beside').firstElementChild === null && document.activeElement.closest('tr')?.classList.contains('at')`)
	p.Ok(p.Key("x"))
	p.Waits(`document.getElementById('nchosen').textContent === '1'`)

	// she writes to all three, and stops one
	p.Presses(`#every`)
	p.Waits(`document.getElementById('nchosen').textContent === '3'`)
	p.Presses(`button[value=write]`)
	p.Waits(`document.getElementById('f-subject') !== null`)
	p.Fills(`#f-subject`, "Your letter, {{ref}}")
	p.Fills(`#f-text`, "Dear {{name}}, the letter has not come.")
	p.Presses(`.tell button`)
	p.Waits(`document.getElementById('mail') !== null`)
	p.Reads("1 of 3")
	p.Presses(`form[action$="/do"] button`)
	p.Reads("Nothing has happened yet")
	first, err := browser.Eval[string](p.Person, `document.querySelector('.bulk td .num').textContent`)
	p.Ok(err)
	p.Presses(`form[action$="/one"] button`)
	p.Waits(`document.querySelector('tr.off') !== null`)
	h.Clock.Set(h.Clock.Now().Add(11 * time.Minute))
	h.Drain()
	list, _ := h.Tray.List("", 0, 50)
	n := 0
	for _, m := range list {
		if strings.HasPrefix(m.Subject, "Your letter, ") {
			n++
			if strings.Contains(m.Subject, first) {
				t.Errorf("%s was stopped, and went out", first)
			}
		}
	}
	if n != 2 {
		t.Errorf("%d mails went out, want 2", n)
	}
	p.Goes(view)
	p.Waits(rows + ` === 3`)
}
