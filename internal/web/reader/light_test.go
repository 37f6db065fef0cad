package reader_test

import (
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"ulvant/demo"
	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// A juror goes through the sheets of an entry: one after another by the keys, two
// beside each other, all at one scale; reads the boards in the page; and nowhere
// learns whose they are.
func TestTheLightTable(t *testing.T) {
	t.Parallel()
	h := programtest.Demo(t)
	_, base := webtest.Serve(t, h)
	p := webtest.In(t, webtest.Window(t, base))
	p.Ok(p.As("teodora.brisk@readers.example", demo.Password))
	p.Goes("/reading")
	p.Presses(`main a[href^="/reading/FSC-"]`)
	p.Reads("From the ford")
	says := func(sel string) string {
		t.Helper()
		s, err := browser.Eval[string](p.Person, `document.querySelector('`+sel+`').textContent`)
		p.Ok(err)
		return s
	}
	key := func(k string) {
		t.Helper()
		_, err := browser.Eval[bool](p.Person,
			`(document.body.dispatchEvent(new KeyboardEvent('keydown', { key: '`+k+`', bubbles: true, cancelable: true })), true)`)
		p.Ok(err)
	}
	p.Waits(`!document.querySelector('.light .stage').hidden`)
	if at := says(".light [data-place]"); !strings.HasPrefix(at, "1 of 7 ") {
		t.Errorf("it begins with %q", at)
	}
	key("ArrowRight")
	if at := says(".light [data-place]"); at != "2 of 7 · From the ford" {
		t.Errorf("the next is %q", at)
	}
	if of := says(".light [data-said]"); of != "Medium: ink and wash, 126 mm wide" { // 744 pixels at 150 to the inch
		t.Errorf("said of it: %q", of)
	}
	key("ArrowLeft")
	key("ArrowLeft")
	if at := says(".light [data-place]"); !strings.HasPrefix(at, "7 of 7 ") {
		t.Errorf("before the first is %q", at)
	}
	key("b")
	p.Waits(`document.querySelectorAll('.light .panes a:not([hidden]) img').length === 2`)
	key("r")
	if of := says(".light [data-scale]"); of != "all at one scale" {
		t.Errorf("the ruler says %q", of)
	}
	p.Presses("[data-paper] button")
	p.Waits(`document.querySelector('[data-paper] canvas[data-drawn]')`)
	p.Waits(`document.querySelectorAll('[data-paper] canvas').length === 2`)
	faults, err := p.Accessible()
	p.Ok(err)
	if len(faults) > 0 {
		t.Errorf("not for everybody: %v", faults)
	}
	page, err := browser.Eval[string](p.Person, `document.documentElement.outerHTML`)
	p.Ok(err)
	for _, name := range []string{"Lockyer", "Rook", "Tallow"} {
		if webtest.Contains(page, name) {
			t.Errorf("the page names %s", name)
		}
	}
	v := webtest.Visit(t, base)
	if code, _ := v.Submit("/sign-in", url.Values{"email": {"teodora.brisk@readers.example"},
		"password": {demo.Password}}); code != 303 {
		t.Fatal(code)
	}
	src := regexp.MustCompile(`/reading/FSC[^"]*seen=small`).FindString(page)
	src = strings.ReplaceAll(src, "&amp;", "&")
	for seen, kind := range map[string]string{"small": "image/jpeg", "large": "image/jpeg"} {
		res, err := v.Get(base + strings.Replace(src, "seen=small", "seen="+seen, 1))
		if err != nil {
			t.Fatal(err)
		}
		b, err := io.ReadAll(res.Body)
		res.Body.Close()
		if err != nil || res.StatusCode != http.StatusOK || res.Header.Get("Content-Type") != kind ||
			!strings.Contains(res.Header.Get("Cache-Control"), "immutable") || len(b) < 1000 ||
			!strings.Contains(res.Header.Get("Content-Security-Policy"), "sandbox") {
			t.Errorf("%s: %d %v, %d bytes, %v", seen, res.StatusCode, res.Header, len(b), err)
		}
	}
}
