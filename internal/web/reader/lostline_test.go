package reader_test

import (
	"testing"

	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Marks that are given while there is no line outlive the page: opened again they are
// there, and are kept; what was kept elsewhere since is not written over unasked.
func TestMarksOutliveALostLine(t *testing.T) {
	t.Parallel()
	p := programtest.SentTo(t, map[string]string{"Ann": "9,000"})
	p.InviteReaders("Oriel Vane", "Teodora Brisk")
	oriel := p.Person("oriel@readers.example", "Oriel Vane")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	_, base := webtest.Serve(t, p.House)
	w := webtest.In(t, webtest.Window(t, base))
	w.SignsIn("oriel@readers.example")
	path := "/reading/" + p.Of["Ann"].Ref
	w.Goes(path)
	js := func(code string) {
		t.Helper()
		_, err := browser.Eval[bool](w.Person, `(() => { `+code+`; return true })()`)
		w.Ok(err)
	}
	kept := func() map[string]int {
		marks, err := p.Reading.Marks(t.Context(), p.DB, p.Of["Ann"].EntryID, oriel.ID)
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]int{}
		for k, v := range marks {
			out[string(k)] = v
		}
		return out
	}
	lost := `window.fetch = () => Promise.reject(new Error('no line'))`
	mark := func(criterion string, value string) {
		t.Helper()
		js(`const r = document.querySelector('[name="mark:` + criterion + `"][value="` + value +
			`"]'); r.checked = true; r.dispatchEvent(new Event('input', { bubbles: true }))`)
	}
	w.Waits(`document.getElementById('marks').dataset.state === 'live'`)
	js(lost)
	mark("gain", "4")
	w.Waits(`document.getElementById('marks').dataset.state === 'lost'`)
	w.Reads("stay on this device")
	if n := len(kept()); n != 0 {
		t.Fatalf("%d marks came without a line", n)
	}
	w.Goes(path) // the page is opened again, with a line
	w.Waits(`document.getElementById('marks').dataset.state === 'kept'`)
	if got := kept(); got["gain"] != 4 {
		t.Errorf("back on line: %v", got)
	}
	// without a line once more, while another window marks
	js(lost)
	mark("gain", "1")
	w.Waits(`document.getElementById('marks').dataset.state === 'lost'`)
	v := webtest.Visit(t, base).As("oriel@readers.example")
	_, page := v.See(path)
	version := webtest.RegexpValue(t, page, `name="version" value="(\d+)"`)
	if code, body := v.Submit(path+"/marks", map[string][]string{"version": {version}, "mark:gain": {"3"}}); code != 303 {
		t.Fatal(code, body)
	}
	w.Goes(path)
	w.Reads("others were kept since")
	if got := kept(); got["gain"] != 3 {
		t.Errorf("written over unasked: %v", got)
	}
	w.Presses("#marks-problem .btn")
	w.Waits(`document.getElementById('marks').dataset.state === 'kept'`)
	if got := kept(); got["gain"] != 1 {
		t.Errorf("put back: %v", got)
	}
}
