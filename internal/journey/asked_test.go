package journey_test

import (
	"context"
	"testing"

	"github.com/chromedp/chromedp"

	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/browser"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
	"ulvant/internal/web/webtest"
)

// vouched is a round with a referee who rates and writes, and an owner who confirms
// the plan itself.
func vouched(d *form.Design) {
	d.Rules, d.Figures, d.Request, d.Listed = nil, nil, "", form.Listing{}
	d.Field = ""
	one := form.Cases[form.Limits]{Else: form.Limits{Referees: 1}}
	q := func(k form.Key, kind form.Kind, label string) form.Question {
		return form.Question{Key: k, Kind: kind, Label: label, Nature: form.Chosen, Blank: form.Required,
			Seen: form.ToReaders}
	}
	well := q("well", form.Choice, "How well do they work with others?")
	well.Options = []form.Option{{Key: "well", Label: "Well"}, {Key: "badly", Label: "Badly"}}
	mate, owner := q("mate", form.Referee, "A workmate"), q("owner", form.Signatory, "The owner")
	mate.Limits, mate.Ask, mate.Columns = one, &form.Ask{Wants: "One day you remember.", Sight: form.SightChosen},
		[]form.Question{well}
	owner.Limits, owner.Ask = one, &form.Ask{Wants: "The work may be done here.", Shows: []form.Key{"plan"}}
	d.Sections = []form.Section{{Key: "all", Label: "All of it", Questions: []form.Question{q("plan", form.Long,
		"The plan"),
		mate, owner}}}
}

// A referee with two requests answers both from one page, puts one up, and cannot
// leave without being told that it is not sent; an owner confirms what stands in
// the application, and is asked again when it is changed.
func TestWhoeverAnswersByALink(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), vouched)
	c := h.Draft("imre@corvoe.example")
	other := h.Draft("una@corvoe.example")
	kept := false
	name := func(c application.Case, q form.Key, who, address string) {
		h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Referees.Name(ctx, tx, c, q, reference.Person{Name: who, Email: address, Knows: "works beside me",
				Waived: &kept})
			return err
		})
	}
	name(other, "mate", "Ada", "ada@peat.example")
	imre := webtest.In(t, webtest.Window(t, base))
	imre.SignsIn("imre@corvoe.example")
	section := "/applications/" + c.Ref + "/sections/all"
	imre.Goes(section)
	imre.Fills(`[name=plan]`, "We mend the wall.")
	imre.Kept()
	// read before it goes: named, and asked later
	imre.Fills(`#q-mate [name=name]`, "Ada")
	imre.Fills(`#q-mate [name=email]`, "ada@peat.example")
	imre.Fills(`#q-mate [name=knows]`, "works beside me")
	imre.Presses(`#q-mate button[name=when]`)
	imre.Reads("Say whether you give up the right to read it, or keep it.")
	imre.Presses(`#q-mate [name=waived][value=yes]`)
	imre.Presses(`#q-mate button[name=when]`)
	imre.Reads("Ada has not been asked yet")
	imre.Presses(`#q-mate a[href$="/mail"]`)
	imre.Reads("(their own link stands here)")
	imre.Reads("Imre Calloway has given up the right to read it")
	imre.Presses(`main form button`)
	imre.Reads("The mail that asks them is on its way.")
	if faults, err := imre.Accessible(); err != nil || len(faults) > 0 {
		t.Errorf("the board: %v %v", faults, err)
	}

	ada := webtest.In(t, webtest.Window(t, base))
	ada.Ok(ada.Size(390, 844))
	link := webtest.Link(t, h, "ada@peat.example")
	ada.Goes(link)
	ada.Presses(`button[value=yes]`)
	ada.Waits(`document.querySelector('#letter')`)
	if faults, err := ada.Accessible(); err != nil || len(faults) > 0 {
		t.Errorf("the letter: %v %v", faults, err)
	}
	ada.Fills(`[name=letter_]`, "The day the wall fell, she was there first.")
	ada.Presses(`[name=well][value=well]`)
	ada.Presses(`#letter .btn.ghost`) // keep it
	ada.Reads("It is not sent until you press Send.")
	ada.Waits(`document.querySelector('#letter[data-unsent]')`)
	// leaving is said first
	ada.Presses(`.askedlist a`)
	ada.Waits(`document.querySelector('dialog.leaving[open]')`)
	ada.Reads("It counts only once you press Send.")
	ada.Presses(`[data-stay]`)
	ada.Waits(`!document.querySelector('dialog.leaving[open]') && location.pathname === '` + link + `'`)
	ada.Presses(`.askedlist a`)
	ada.Presses(`[data-send]`)
	ada.Reads("Thank you, Ada.")
	// the other one, from the same page
	ada.Presses(`.askedlist a`)
	ada.Waits(`location.pathname !== '` + link + `' && document.querySelector('button[value=yes]')`)
	ada.Presses(`button[value=yes]`)
	ada.Waits(`document.querySelector('#letter')`)
	// her earlier letter was for another: nothing is offered to be used again
	ada.Waits(`!document.body.innerText.includes('Use a letter you wrote')`)
	ada.Goes(link + "/all")
	ada.Reads("1 thing waits for you.")
	if faults, err := ada.Accessible(); err != nil || len(faults) > 0 {
		t.Errorf("everything: %v %v", faults, err)
	}

	name(c, "owner", "Bo", "bo@peat.example")
	bo := webtest.In(t, webtest.Window(t, base))
	bo.Goes(webtest.Link(t, h, "bo@peat.example"))
	bo.Reads("The work may be done here.")
	bo.Reads("We mend the wall.")
	// it is changed while he reads
	imre.Goes(section)
	imre.Fills(`[name=plan]`, "We build a tower.")
	imre.Kept()
	bo.Presses(`button[value=yes]`)
	bo.Reads("was changed since this page was drawn")
	bo.Reads("We build a tower.")
	bo.Presses(`button[value=yes]`)
	bo.Reads("Thank you, Bo.")
	if faults, err := bo.Accessible(); err != nil || len(faults) > 0 {
		t.Errorf("what was confirmed: %v %v", faults, err)
	}
	imre.Goes(section)
	imre.Fills(`[name=plan]`, "We mend the wall after all.")
	imre.Kept()
	imre.Goes("/applications/" + c.Ref + "/people")
	imre.Reads("what was confirmed is changed since")
	imre.Presses(`form[action$="/again"] button`)
	imre.Reads("They are asked to confirm it as it is now.")
	bo.Goes(webtest.Link(t, h, "bo@peat.example"))
	bo.Reads("What you confirmed was changed since.")
	bo.Presses(`button[value=yes]`)
	bo.Reads("Thank you, Bo.")
	// closing the tab with something unsent: the browser asks
	ada.Goes(link + "/all")
	ada.Presses(`.askedlist .mine a`)
	ada.Waits(`document.querySelector('#letter')`)
	ada.Fills(`[name=letter_]`, "Half a letter")
	asks, err := browser.Eval[bool](ada.Person,
		`(() => { const e = new Event('beforeunload', { cancelable: true }); dispatchEvent(e); return e.defaultPrevented })()`)
	if err != nil || !asks {
		t.Errorf("a letter half written is left without a word: %v", err)
	}
	ada.Ok(ada.Do(chromedp.Evaluate[chromedp.Void](`localStorage.clear()`)))
}
