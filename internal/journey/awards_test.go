package journey_test

import (
	"context"
	"testing"
	"time"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/internal/browser"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// An officer places many awards: reads everybody against every award, rules where a
// person must say, looks why somebody has none of one, holds one by hand, compares, and
// records; an applicant reads of theirs once the letter has left, and so does who gives
// it. Nothing that axe-core looks for is wrong on the way.
func TestAwardsArePlaced(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, func(d *form.Design) {
		programtest.ManyAwards(d)
		d.Offer = &form.Offer{Days: 10, Promises: []string{"I send a report."}}
	}, programtest.ForAwards)
	p.Clock.Set(p.Form.At(form.Closes).Add(time.Hour))
	p.Drain()
	donor := p.Person("ada@quill.example", "Ada Quill")
	p.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return p.People.GiveRole(ctx, tx, donor.ID, access.Held{Role: access.Gives,
			Scope: access.Scope{Round: p.Round.ID, Award: "loft"}})
	})
	_, base := webtest.Serve(t, p.House)
	b := webtest.Browser(t)
	window := func(email string) webtest.Play {
		w := webtest.In(t, webtest.Another(t, b, base))
		w.SignsIn(email)
		return w
	}
	officer := window("neda@ostrel-trust.example")
	officer.Goes("/office/rounds/shore-2027/placing")
	officer.Reads("Nothing is decided and nobody is told by it")
	officer.Sound()
	officer.Presses("main form .btn")
	officer.Reads("4 people are read against every award")
	officer.Reads("proved best")
	officer.Reads("1 pair needs a person")
	officer.Sound()
	officer.Presses(".asked-say button[value='does not']")
	officer.Reads("it does not count for “Loft Bequest”")
	officer.Presses(".placed a.main")
	officer.Reads("Meets 4 awards")
	officer.Reads("take Ann Hart out of this award")
	officer.Sound()
	at, err := browser.Eval[string](officer.Person,
		`location.pathname + location.search.replace(/award=[^&]*/, 'award=bench')`)
	officer.Ok(err)
	officer.Goes(at)
	officer.Reads("Why not A bench?")
	officer.Presses("button[value='bar']")
	officer.Reads("Say why") // and what is open stays open
	officer.Fills("[name=why]", "She has a bench at home.")
	officer.Presses("button[value='bar']")
	officer.Reads("is held away from them")
	officer.Reads("She has a bench at home.")
	officer.Goes("/office/rounds/shore-2027/placing/compare")
	officer.Reads("people have something else")
	officer.Sound()
	officer.Goes("/office/rounds/shore-2027/placing")
	officer.Presses("details:has([name=note]) summary")
	officer.Presses("details:has([name=note]) .btn")
	officer.Reads("who decided and when, such as")
	officer.Fills("[name=note]", "Committee of 14 May")
	officer.Presses("details:has([name=note]) .btn")
	officer.Reads("decisions are recorded")

	gives := window("ada@quill.example")
	gives.Goes("/gifts")
	gives.Reads("Nobody has been told yet")
	ann := window("ann@corvoe.example")
	ann.Goes("/applications/" + p.Of["Ann"].Ref)
	ann.Waits(`!document.body.innerText.includes("Loft Bequest")`)
	p.After(2 * time.Hour)
	ann, gives = window("ann@corvoe.example"), window("ada@quill.example") // signed out meanwhile
	ann.Goes("/applications/" + p.Of["Ann"].Ref)
	ann.Reads("€2,800, from Loft Bequest (€2,000) and Hardship Fund (€800)")
	ann.Sound()
	gives.Goes("/gifts")
	gives.Reads("Ann Hart, €2,000")
	gives.Waits(`!document.body.innerText.includes("Bo Hart")`)
	gives.Sound()

	// each award is answered for itself
	ann.Presses(".onoffer:has(h3 .soft) button[value=accept]")
	ann.Reads("“I send a report.” is not ticked")
	ann.Presses(".onoffer:not(:has(h3 .soft)) [name=promise]")
	ann.Presses(".onoffer:not(:has(h3 .soft)) button[value=accept]")
	ann.Reads("You have accepted.")
	ann.Presses(".onoffer:has(h3 .soft) summary")
	ann.Fills(".onoffer:has(h3 .soft) [name=why]", "I have a bench elsewhere.")
	ann.Presses(".onoffer button[value=decline]")
	ann.Reads("You have declined.")
	ann.Reads("You declined it on")
	ann.Sound()
	gives.Goes("/gifts")
	gives.Waits(`!document.body.innerText.includes("Ann Hart")`)
	officer = window("neda@ostrel-trust.example")
	officer.Goes("/office/rounds/shore-2027/decisions")
	officer.Presses("a[href$='/offers']")
	officer.Reads("I have a bench elsewhere.")
	officer.Sound()
	officer.Presses(".offers tr:has(b.hot) summary")
	officer.Presses(".offers tr:has(b.hot) button[value=open]")
	officer.Reads("Say why, such as")
	officer.Fills(".offers tr:has(b.hot) [name=why]", "She pressed the wrong button.")
	officer.Presses(".offers tr:has(b.hot) button[value=open]")
	officer.Reads("they have a mail that says so")
	gives.Goes("/gifts")
	gives.Reads("Ann Hart, €2,000")
}
