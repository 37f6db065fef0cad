package reader_test

import (
	"testing"

	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A reader marks words of an answer and notes something at them, finds them marked
// when the page comes again, and lays a case beside one they have marked.
func TestNotesAndComparing(t *testing.T) {
	t.Parallel()
	p := programtest.SentTo(t, map[string]string{"Ann": "9,000", "Bo": "8,000"})
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk")
	p.Person("oriel@readers.example", "Oriel Vane")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	p.MarksAs("Ann", readers[0])
	_, base := webtest.Serve(t, p.House)
	w := webtest.In(t, webtest.Window(t, base))
	w.SignsIn("oriel@readers.example")
	w.Goes("/reading/" + p.Of["Bo"].Ref)
	w.Reads("Your notes on the text")
	w.Waits(`(() => {
		const at = document.querySelector('[data-q="request"] p').firstChild
		getSelection().setBaseAndExtent(at, 0, at, at.length)
		return !document.querySelector('.noting').hidden })()`)
	w.Presses(".noting")
	w.Fills("[name=margin]", "Half of it is for fences.")
	w.Presses("[data-marginform] button")
	w.Reads("Half of it is for fences.")
	w.Waits(`CSS.highlights.get('margin').size === 1`)
	w.Waits(`document.querySelector('[data-margin]').dataset.question === 'request'`)
	w.Presses(".compare button")
	w.Reads("You gave it 3.00")
	w.Reads("Ann’s work")
	faults, err := w.Accessible()
	w.Ok(err)
	for _, f := range faults {
		t.Error(f)
	}
	w.Presses("[data-margin] button")
	w.Waits(`!document.querySelector('[data-margin]')`)
}
