package journey_test

import (
	"context"
	"math/rand/v2"
	"strings"
	"testing"

	"ulvant/core/access"
	"ulvant/internal/browser"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A chair calls a meeting; the room’s screen follows what is talked about; one who sits
// votes, then leaves the room and sees nothing of the case any more; a case is moved
// with a reason and the order follows; the meeting ends, and an officer who did not sit
// confirms it. Nothing that axe-core looks for is wrong on the way.
func TestThePanelMeets(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRound(t, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "40,000"})
	for name, v := range map[string]int{"Ann": 5, "Bo": 4} {
		if _, err := p.DB.ExecContext(t.Context(), `UPDATE mark SET value = $2 WHERE entry_id = $1`, p.Of[name].EntryID,
			v); err != nil {
			t.Fatal(err)
		}
	}
	for _, x := range []struct {
		name, email string
		role        access.Role
	}{{"Lucian Abernathy", "lucian@panel.example", access.Chairs}, {"Wenna Astley", "wenna@panel.example", access.Sits}} {
		a := p.Person(x.email, x.name)
		p.Act(0, func(ctx context.Context, tx *db.Tx) error {
			return p.People.GiveRole(ctx, tx, a.ID, access.Held{Role: x.role, Scope: access.Scope{Round: p.Round.ID}})
		})
	}
	_, base := webtest.Serve(t, p.House)
	b := webtest.Browser(t)
	window := func(email string) webtest.Play {
		w := webtest.In(t, webtest.Another(t, b, base))
		w.SignsIn(email)
		return w
	}
	chair := window("lucian@panel.example")
	chair.Goes("/office/rounds/shore-2027/panel")
	chair.Reads("No meeting is called yet")
	chair.Sound()
	chair.Presses("[name=votes]")
	chair.Waits(`(() => { for (const i of document.querySelectorAll('[name=member]')) i.checked = i.parentElement.innerText.trim() !== 'Neda Sparrow'; return true })()`)
	chair.Presses("main form .btn")
	chair.Reads("The meeting is called")
	chair.Reads("It has not begun")
	chair.Sound()
	chair.Presses("button[value='take']")
	chair.Reads("min left")
	chair.Sound()
	at, err := browser.Eval[string](chair.Person, `location.pathname`)
	chair.Ok(err)
	title, err := browser.Eval[string](chair.Person, `document.querySelector('.nowcase h3 a').innerText`)
	chair.Ok(err)

	wenna := window("wenna@panel.example")
	wenna.Goes(at)
	wenna.Presses("button[value='for']")
	wenna.Reads("1 for")
	wenna.Sound()
	screen := window("wenna@panel.example")
	screen.Goes(at + "/room")
	screen.Reads(title)
	screen.Reads("1 for")
	screen.Sound()
	wenna.Presses(".nowcase > details summary")
	wenna.Fills(".nowcase [name=why]", "I rent from them.")
	wenna.Presses("button[value='out']")
	wenna.Reads("you are out of the room for this case")
	screen.Reads("Out of the room: Wenna Astley") // by itself
	long := make([]byte, 30_000)                  // what does not fold when it is packed
	for i := range long {
		long[i] = "abcdefghijklmnopqrstuvwxy "[rand.N(26)]
	}
	if _, err := p.DB.ExecContext(t.Context(), `UPDATE assignment SET note = $1`, string(long)); err != nil {
		t.Fatal(err)
	}
	papers := func(email string) int {
		code, pdf := webtest.Visit(t, base).As(email).See(at + "/papers.pdf")
		if code != 200 || !strings.HasPrefix(pdf, "%PDF") {
			t.Fatalf("the papers for %s: %d", email, code)
		}
		return len(pdf)
	}
	if mine, theirs := papers("wenna@panel.example"), papers("lucian@panel.example"); mine > theirs-10_000 {
		t.Errorf("whoever is out of the room has its papers: %d and %d bytes", mine, theirs)
	}

	chair.Goes(at)
	chair.Reads("0 for")
	chair.Fills(".nowcase [name=notes]", "Agreed to look at the site.")
	chair.Presses(".nowcase details:nth-of-type(1) summary")
	chair.Presses("button[value='up']")
	chair.Reads("Say why it is moved")
	chair.Presses("button[value='next']")
	chair.Waits(`document.querySelector('.nowcase h3 a').innerText !== ` + webtest.ToJSON(title))
	chair.Presses(".nowcase details summary")
	chair.Fills(".moving [name=why]", "The site closes in June.")
	chair.Presses("button[value='down']")
	chair.Reads("Moved; the line follows.")
	chair.Reads("The site closes in June.")
	chair.Presses("button[value='end']")
	chair.Reads("The meeting is over")
	chair.Sound()
	chair.Goes("/office/rounds/shore-2027/decisions")
	chair.Reads("moved 1 place down: The site closes in June.")

	neda := window("neda@ostrel-trust.example")
	neda.Goes(at)
	neda.Presses("button[value='send back']")
	neda.Reads("Say why it is sent back")
	neda.Presses("button[value='confirm']")
	neda.Reads("The meeting is confirmed")
}
