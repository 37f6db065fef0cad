package reader_test

import (
	"context"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// An officer chooses a case of another round as the sample; a reader marks it and then sees
// how the office did. axe-core finds nothing, wide or narrow.
func TestTheSampleCaseOnItsPages(t *testing.T) {
	t.Parallel()
	p := programtest.SentTo(t, map[string]string{"Ann": "5,000"})
	p.OpenRound(p.Officer, func(d *form.Design) {
		programtest.Short(d)
		d.Key, d.Name, d.Prefix = "earlier-2027", "Earlier", "EAR"
	})
	lead := p.Person("dee@corvoe.example", "Dee Hart")
	var ref string
	p.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := p.Intake.Start(ctx, tx, "earlier-2027", "Old groynes", nil)
		if err != nil {
			return err
		}
		if _, _, err := p.Intake.Save(ctx, tx, c, programtest.WholeShort("7,000")); err != nil {
			return err
		}
		c, err = p.Intake.Send(ctx, tx, c)
		ref = c.Ref
		return err
	})
	p.Person("oriel@readers.example", "Oriel Vane")
	p.InviteReaders("Oriel Vane")
	_, base := webtest.Serve(t, p.House)
	b := webtest.Browser(t)
	window := func(email string) webtest.Play {
		w := webtest.In(t, webtest.Another(t, b, base))
		w.SignsIn(email)
		return w
	}
	officer := window("neda@ostrel-trust.example")
	officer.Goes("/office/rounds/shore-2027/reading")
	officer.Presses("a[href$='/reading/sample']")
	officer.Sound()
	officer.Fills("[name=ref]", ref)
	officer.Presses("main form .btn")
	officer.Reads("Mark it by")
	officer.Waits(`(() => { for (const f of document.querySelectorAll('.criterion')) f.querySelector('input[value="3"]').checked = true; return true })()`)
	officer.Fills(".criterion:first-of-type [name^='why:']", "It is measured.")
	officer.Presses("main form .btn")
	officer.Reads("The sample case is kept")
	officer.Reads("not yet")
	officer.Sound()
	reader := window("oriel@readers.example")
	reader.Goes("/reading")
	reader.Presses("a[href^='/reading/sample/']")
	reader.Reads("they count for nothing")
	reader.Waits(`!document.body.innerText.includes("It is measured.")`)
	reader.Sound()
	reader.Presses("main form .btn")
	reader.Reads("Mark it by")
	reader.Waits(`(() => { for (const f of document.querySelectorAll('.criterion')) f.querySelector('input[value="2"]').checked = true; return true })()`)
	reader.Presses("main form .btn")
	reader.Reads("You and the office")
	reader.Reads("It is measured.")
	reader.Sound()
	officer.Goes("/office/rounds/shore-2027/reading/sample")
	officer.Reads("0 marks are the same, the others a step apart.")
}
