package journey_test

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"

	"ulvant/core/slot"
	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// recordings is a slot for sounds among the materials.
var recordings = programtest.WithSlot("recordings", "Recordings",
	slot.Limits{Kinds: []slot.Kind{slot.Sound}, FilesMost: 3, SizeMost: 300 << 20})

// recording writes a WAV of so many bytes of sound (RIFF, 8 kHz, 8 bits, one
// channel), and gives its path and SHA-256.
func recording(t *testing.T, name string, size int) (path, sum string) {
	t.Helper()
	b := []byte("RIFF    WAVEfmt ")
	binary.LittleEndian.PutUint32(b[4:], uint32(36+size))
	b = binary.LittleEndian.AppendUint32(b, 16)
	for _, v := range []uint16{1, 1, 8000, 0, 8000, 0, 1, 8} {
		b = binary.LittleEndian.AppendUint16(b, v)
	}
	b = append(b, "data"...)
	b = binary.LittleEndian.AppendUint32(b, uint32(size))
	for i := range size {
		b = append(b, byte(i*i>>8)^byte(i))
	}
	path = filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, b, 0o600); err != nil {
		t.Fatal(err)
	}
	whole := sha256.Sum256(b)
	return path, hex.EncodeToString(whole[:])
}

// A recording goes up over 2 Mbit/s, as somebody with other things to do lets it:
// the line is cut, the section is left, the window closed, and what is left is
// sent from another machine, where the same file is chosen once more.
func TestARecordingThatTakesItsTime(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), recordings)
	c := h.Draft("imre@corvoe.example")
	line, err := browser.NewLine(strings.TrimPrefix(base, "http://"), 2_000_000/8, 20*time.Millisecond)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(line.Close)
	path, sum := recording(t, "storm.wav", 6<<20)
	b, err := browser.Start()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(b.Stop)
	at := "/applications/" + c.Ref + "/sections/"
	arrived := func() (n int64, state string) {
		if err := h.DB.QueryRow(`SELECT arrived, state FROM material WHERE slot = 'recordings' ORDER BY id DESC LIMIT 1`).
			Scan(&n, &state); err != nil {
			t.Fatal(err)
		}
		return n, state
	}
	home := webtest.In(t, webtest.Another(t, b, "http://"+line.Addr))
	home.SignsIn("imre@corvoe.example")
	first, err := home.Another()
	home.Ok(err)
	p := webtest.In(t, first)
	p.Goes(at + "materials")
	p.Ok(p.Do(chromedp.SetUploadFiles("#q-recordings [type=file]", []string{path})))
	more := `(() => { const b = document.querySelector('#q-recordings .file progress'); return b && b.value > (window.had ?? 0) + 200000 && (window.had = b.value, true) })()`
	p.Waits(more)
	p.Reads("left")
	for range 2 {
		line.Cut()
		line.Mend()
		p.Waits(more)
	}
	p.Presses("#q-recordings .file .pair button") // pause, and go on
	p.Waits(`document.querySelector('#q-recordings .sub').textContent.startsWith('paused')`)
	p.Presses("#q-recordings .file .pair button")
	p.Waits(more)

	// another section: it goes on, and every page says so
	p.Goes(at + "work")
	p.Waits(`/storm.wav is on the way: \d+%/.test(document.getElementById('onway').textContent)`)
	before, _ := arrived()
	p.Waits(`+document.getElementById('onway').textContent.match(/(\d+)%/)[1] > ` +
		strconv.FormatInt(100*before/(6<<20), 10))

	// the window is closed, and another is opened: it goes on by itself
	p.Leave()
	before, _ = arrived()
	home.Goes(at + "materials")
	home.Waits(`document.querySelector('#q-recordings .file progress')?.value > ` + strconv.FormatInt(before+100_000, 10))
	home.Leave()

	// another machine, where nothing is kept: it says how far it is, and goes on with the same file
	near := webtest.In(t, webtest.Another(t, b, base))
	near.SignsIn("imre@corvoe.example")
	near.Goes(at + "materials")
	near.Reads("choose the same file once more and it goes on")
	before, state := arrived()
	if state != "uploading" || before == 0 {
		t.Fatalf("%d bytes are here, %s", before, state)
	}
	near.Ok(near.Do(chromedp.SetUploadFiles("#q-recordings [type=file]", []string{path})))
	near.Reads("here whole, and being opened")
	h.Drain()
	near.Waits(`/ · in$/.test(document.querySelector('#q-recordings .file .sub').textContent)`)
	var rows int
	var has string
	if err := h.DB.QueryRow(`SELECT count(*), min(sha256) FROM material WHERE slot = 'recordings'`).
		Scan(&rows, &has); err != nil ||
		rows != 1 || has != sum {
		t.Errorf("%d rows, %s, want %s, %v", rows, has, sum, err)
	}
}
