package web_test

import (
	"strings"
	"testing"
	"time"

	"ulvant/internal/browser"
	"ulvant/internal/programtest"
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

// Somebody types on a bad line that is cut twice for half a minute. They are
// told within seconds, see beside the answer that it is not on the server, go
// on typing, and not a character is lost.
func TestTypingOnABadLine(t *testing.T) {
	h := programtest.New(t)
	_, base := serve(t, h)
	h.OpenRound(officer(h), nil)
	c := ready(h, "imre@corvoe.example")
	line := badLine(t, base)
	p := play{t, window(t, "http://"+line.Addr)}
	p.signIn("imre@corvoe.example")
	p.open("/applications/" + c.Ref + "/sections/work")
	p.until(`document.getElementById('workspace').dataset.state === 'ready'`)
	p.fill("[name=describe]", "")

	words := strings.Fields("We replant the reed bed along the shore in two seasons with stock from the nursery and rebuild the groynes lost in the storms ")
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
		s, _ := browser.Eval[string](p.Person, `document.getElementById('workspace').dataset.state + ': ' + document.getElementById('kept').textContent`)
		t.Fatalf("%v, at the end it is %s", err, s)
	}
	if got := keptText(t, h, c, "describe"); got != typed.String() {
		t.Errorf("%d characters were typed, the server has %d: …%q", typed.Len(), len(got), got[max(0, len(got)-80):])
	}
	p.until(`!document.querySelector('.unsent')`)
}
