package applicant_test

import (
	"bytes"
	"fmt"
	"image"
	"image/png"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"

	"ulvant/core/slot"
	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// withPhotos is the round of the tests with a slot for pictures.
var withPhotos = programtest.WithSlot("photos", "Photographs",
	slot.Limits{Kinds: []slot.Kind{slot.Picture}, FilesMost: 4, SizeMost: 1 << 20})

func picture(t *testing.T, side int) string {
	t.Helper()
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewGray(image.Rect(0, 0, side, side))); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

// A picture is seen in the page; what a browser could run, or cannot show, is
// only ever sent as a download.
func TestWhatIsSeenInThePage(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), withPhotos)
	c := h.Draft("imre@corvoe.example")
	imre := webtest.Visit(t, base).As("imre@corvoe.example")
	at := "/applications/" + c.Ref
	for slot, content := range map[string]string{"photos": picture(t, 40), "site-plan": string(programtest.Plan)} {
		if code, page := imre.Upload(at+"/file/"+slot, nil, slot+".png", content); code != 303 {
			t.Fatalf("%s: %d %s", slot, code, page)
		}
	}
	_, page := imre.See(at + "/sections/materials")
	srcs := regexp.MustCompile(`<img src="([^"]+)"`).FindAllStringSubmatch(page, -1)
	if len(srcs) != 1 || !strings.HasSuffix(srcs[0][1], "?seen=small") {
		t.Fatalf("pictures on the page: %v", srcs)
	}
	links := regexp.MustCompile(`class="main" href="(`+at+`/materials/\d+)"`).FindAllStringSubmatch(page, -1)
	if len(links) != 2 {
		t.Fatalf("files on the page: %v", links)
	}
	inline := 0
	for _, l := range links {
		for _, seen := range []string{"", "?seen=yes", "?seen=no"} {
			res, err := imre.Get(base + l[1] + seen)
			if err != nil {
				t.Fatal(err)
			}
			res.Body.Close()
			how := res.Header.Get("Content-Disposition")
			policy := res.Header.Get("Content-Security-Policy")
			if res.StatusCode != http.StatusOK || res.Header.Get("X-Content-Type-Options") != "nosniff" ||
				!strings.Contains(policy, "sandbox") || !strings.Contains(policy, "default-src 'none'") {
				t.Errorf("%s%s: %d %v", l[1], seen, res.StatusCode, res.Header)
			}
			if strings.HasPrefix(how, "inline") {
				inline++
				if seen != "?seen=yes" || res.Header.Get("Content-Type") != "image/png" {
					t.Errorf("%s%s is shown as %s", l[1], seen, res.Header.Get("Content-Type"))
				}
			}
		}
	}
	if inline != 1 {
		t.Errorf("%d files are shown", inline)
	}
}

// Several pictures chosen at once all arrive, in order; the others stay chosen
// when one is not taken.
func TestSeveralAtOnce(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), withPhotos)
	c := h.Draft("imre@corvoe.example")
	dir := t.TempDir()
	var paths []string
	for i := range 3 {
		p := filepath.Join(dir, fmt.Sprintf("photo-%d.png", i+1))
		if err := os.WriteFile(p, []byte(picture(t, 40+i)), 0o600); err != nil {
			t.Fatal(err)
		}
		paths = append(paths, p)
	}
	p := webtest.In(t, webtest.Window(t, base))
	p.SignsIn("imre@corvoe.example")
	p.Goes("/applications/" + c.Ref + "/sections/materials")
	p.Waits(`document.querySelector('#q-photos [type=file]').multiple`)
	p.Ok(p.Do(chromedp.SetUploadFiles("#q-photos [type=file]", paths)))
	p.Waits(`document.querySelectorAll('#q-photos .file[data-opening]').length === 3`)
	h.Drain()
	p.Waits(`[...document.querySelectorAll('#q-photos img')].length === 3`)
	names, err := browser.Eval[string](p.Person,
		`[...document.querySelectorAll('#q-photos .file a.main')].map(a => a.textContent).join(' ')`)
	p.Ok(err)
	if names != "photo-1.png photo-2.png photo-3.png" {
		t.Errorf("%s", names)
	}
	// dragged by the keys, the order is kept
	p.Waits(`!document.querySelector('#q-photos .file:nth-of-type(1) [data-grip]').hidden`)
	_, err = browser.Eval[bool](p.Person, `(() => {
		const g = document.querySelectorAll('#q-photos [data-grip]')[2]
		for (const key of ['ArrowUp', 'ArrowUp']) g.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
		return true
	})()`)
	p.Ok(err)
	kept := func() (names string) {
		if err := h.DB.Get(&names,
			`SELECT string_agg(name, ' ' ORDER BY place, id) FROM material WHERE slot = 'photos'`); err != nil {
			t.Fatal(err)
		}
		return names
	}
	p.Waits(`!document.querySelector('#q-photos[data-ordering]')`)
	if kept() != "photo-3.png photo-1.png photo-2.png" {
		fault, _ := browser.Eval[string](p.Person, `document.querySelector('#q-photos .orderfault')?.textContent ?? ''`)
		t.Errorf("in order: %s; the page says %q", kept(), fault)
	}
	// one dropped that is no picture says so, beside the slot
	_, err = browser.Eval[bool](p.Person, `(() => {
		const d = new DataTransfer(); d.items.add(new File(['no picture'], 'words.png', { type: 'image/png' }))
		document.querySelector('#q-photos').dispatchEvent(new DragEvent('drop', { dataTransfer: d, bubbles: true, cancelable: true }))
		return true
	})()`)
	p.Ok(err)
	p.Waits(`document.querySelectorAll('#q-photos .file[data-opening]').length === 1`)
	h.Drain()
	p.Waits(`document.querySelector('#q-photos .file.faulty')?.textContent.includes('not taken')`)
}
