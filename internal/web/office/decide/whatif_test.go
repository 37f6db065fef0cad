package decide_test

import (
	"testing"

	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// An officer tries rules and sees at once what they come to, keeps them, lays them
// beside the order, and takes them over; nothing is recorded by it. axe-core finds
// nothing, wide or narrow.
func TestTryingWhatIfs(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRound(t, map[string]string{"Ann": "60,000", "Bo": "50,000", "Cy": "40,000"})
	for name, v := range map[string]int{"Ann": 5, "Bo": 4} { // in this order
		if _, err := p.DB.ExecContext(t.Context(), `UPDATE mark SET value = $2 WHERE entry_id = $1`, p.Of[name].EntryID,
			v); err != nil {
			t.Fatal(err)
		}
	}
	_, base := webtest.Serve(t, p.House)
	w := webtest.In(t, webtest.Window(t, base))
	w.SignsIn("neda@ostrel-trust.example")
	w.Goes("/office/rounds/shore-2027/decisions")
	w.Presses("a[href*='/what-ifs']")
	w.Reads("1 case is given something")
	w.Reads("1 case comes in.") // the 40,000 that still fit beside 60,000 of 100,000
	w.Sound()
	w.Waits(`(() => { const s = document.querySelector('[name^="held:"]'); s.value = 'no'; s.dispatchEvent(new Event('change', { bubbles: true })); return true })()`)
	w.Reads("2 cases are given something")
	w.Reads("by hand")
	w.Fills("[name=cut]", "91")
	w.Waits(`(() => { document.querySelector('[name=cut]').dispatchEvent(new Event('change', { bubbles: true })); return true })()`)
	w.Reads("Take off 0 to 90 percent.")
	w.Fills("[name=cut]", "10")
	w.Presses("button[value='new']")
	w.Reads("Give the what-if a name")
	w.Fills("[name=name]", "Without the first")
	w.Presses("button[value='new']")
	w.Reads("Kept.")
	w.Reads("Keep the changes")
	w.Sound()
	w.Presses("a[href*='/compare']")
	w.Reads("3 cases differ")
	w.Sound()
	w.Goes("/office/rounds/shore-2027/what-ifs")
	w.Presses(".whatifs a:last-child")
	w.Presses("button[value='adopt']")
	w.Reads("3 outcomes are chosen as the what-if has them")
	w.Reads("To be recorded: 2 awarded")
	for name := range p.Of {
		if s := p.StateOf(name); s.Decided() {
			t.Errorf("%s is %s", name, s)
		}
	}
}
