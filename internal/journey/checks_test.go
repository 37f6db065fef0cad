package journey_test

import (
	"context"
	"fmt"
	"testing"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/internal/browser"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A checker clears twenty cases and touches no mouse: met and not met, a sentence
// kept and used again by its number, one left for later; nothing is settled without
// a reason.
func TestTwentyCasesByKeyboard(t *testing.T) {
	t.Parallel()
	asks := map[string]string{}
	names := []string{"Ada", "Bo", "Cy", "Dee", "Eve", "Fay", "Gus", "Hal", "Ida", "Jo", "Kit", "Lou", "Mo", "Nan", "Oz",
		"Pat",
		"Quin", "Ria", "Sal", "Tove"}
	for _, n := range names {
		asks[n] = "?4,000"
	}
	p := programtest.SentTo(t, asks)
	checker := p.Person("piran@ostrel-trust.example", "Piran Lode")
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.People.GiveRole(ctx, tx, checker.ID, access.Held{Role: access.Checks})
	})
	_, base := webtest.Serve(t, p.House)
	w := webtest.In(t, webtest.Window(t, base))
	w.SignsIn("piran@ostrel-trust.example")
	key := func(k string) { t.Helper(); w.Ok(w.Key(k)) }
	w.Goes("/office/rounds/" + p.Round.Key + "/checks")
	w.Reads("the answers this hangs on")
	title := func() string {
		s, err := browser.Eval[string](w.Person, `document.querySelector('.handhead h2').innerText`)
		w.Ok(err)
		return s
	}
	shown := func(js string) { // once the page and its script are there
		t.Helper()
		w.Waits(`document.readyState === 'complete' && ` + js)
	}
	const at = `document.querySelector('.handhead h2')?.innerText `
	first := title()
	key("n") // later
	shown(at + fmt.Sprintf(`!== %q`, first))
	second := title()
	key("p") // and back
	shown(at + fmt.Sprintf(`=== %q`, first))
	key("m")
	w.Waits(`document.activeElement?.id === 'f-note'`)
	key("\r") // no reason: refused, and what was chosen stays
	w.Reads("Say in a note why")
	shown(`document.querySelector('[name=outcome]:checked')?.value === 'yes'`)
	w.Fills("#f-note", "Deed seen at the estate office.")
	w.Chooses("keep", "yes")
	w.Presses("#settle .btn")
	shown(at + fmt.Sprintf(`=== %q && document.querySelector('[data-sentence]')`, second))
	for i := 1; i < len(names); i++ {
		now := title()
		outcome := "m"
		if i == 3 {
			outcome = "x"
		}
		key(outcome)
		w.Waits(`document.activeElement?.id === 'f-note'`)
		key("\x1b") // out of the note, for the sentence by its number
		w.Waits(`document.activeElement?.id !== 'f-note'`)
		key("1")
		w.Waits(`document.getElementById('f-note').value === 'Deed seen at the estate office.'`)
		key("\r")
		shown(at + fmt.Sprintf(`!== %q`, now))
	}
	w.Reads("Nothing waits for a person")
	met, not := 0, 0
	for _, n := range names {
		switch p.StateOf(n) {
		case lifecycle.Eligible:
			met++
		case lifecycle.NotEligible:
			not++
		}
	}
	if met != 19 || not != 1 {
		t.Errorf("%d eligible, %d not", met, not)
	}
}
