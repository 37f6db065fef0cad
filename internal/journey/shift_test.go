package journey_test

import (
	"testing"

	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Pages stand still while they arrive: fonts of another width and parts that
// come later push nothing about. Cumulative layout shift as Layout Instability
// (WICG) counts it; under 0.1 is good by web.dev's Core Web Vitals.
func TestPagesStandStill(t *testing.T) {
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	for _, x := range []struct{ who, path string }{
		{"", "/"}, {"", "/rounds/shore-2027"}, {"", "/rounds/shore-2027/check"}, {"", "/sign-in"},
		{"imre@corvoe.example", "/applications"}, {"imre@corvoe.example", "/applications/" + c.Ref}, {"imre@corvoe.example",
			"/applications/" + c.Ref + "/send"},
		{"neda@ostrel-trust.example", "/office"}, {"neda@ostrel-trust.example",
			"/office/rounds/shore-2027"}, {"neda@ostrel-trust.example", "/office/rounds/shore-2027/design"},
	} {
		p := webtest.In(t, webtest.Window(t, base))
		if x.who != "" {
			p.SignsIn(x.who)
		}
		p.Goes(x.path)
		p.Waits(`document.fonts.status === 'loaded' && document.readyState === 'complete'`)
		shift, err := browser.Eval[float64](p.Person, shifted)
		if err != nil || shift >= 0.1 {
			t.Errorf("%s shifts by %.3f, %v", x.path, shift, err)
		}
		if x.path == "/" { // what is measured is there to be measured
			if _, err := browser.Eval[bool](p.Person,
				`(document.body.insertAdjacentHTML('afterbegin', '<p style="height: 300px">late</p>'), true)`); err != nil {
				t.Fatal(err)
			}
			if shift, err := browser.Eval[float64](p.Person, shifted); err != nil || shift <= 0 {
				t.Errorf("a page that is pushed down shifts by %.3f, %v", shift, err)
			}
		}
	}
}

// shifted adds up all shifts of a page so far, two frames on.
const shifted = `new Promise(done => {
	let sum = 0
	new PerformanceObserver(list => { for (const e of list.getEntries()) if (!e.hadRecentInput) sum += e.value }).observe({ type: 'layout-shift', buffered: true })
	requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(() => done(sum), 50)))
})`
