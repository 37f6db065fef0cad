// Package browser drives Debian's Chromium for tests of the real interface and for
// the pictures in docs/screenshots: the shell without a desktop that Debian builds
// beside it, which needs 40 % less of the processor. One Chromium, a context of its
// own for each person; pages say in data-state when they are done, so nothing sleeps.
package browser

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
)

// Browser is a running Chromium.
type Browser struct {
	ctx    context.Context
	cancel []context.CancelFunc
}

// Start it.
func Start() (*Browser, error) {
	opts := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath("/usr/bin/chromium-headless-shell"),
		chromedp.NoSandbox,
		chromedp.Flag("disable-gpu", true), chromedp.Flag("disable-quic",
			true), chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync",
			true), chromedp.Flag("disable-dev-shm-usage", true))
	alloc, stop := chromedp.NewExecAllocator(context.Background(), opts...)
	ctx, cancel := chromedp.NewContext(alloc)
	b := &Browser{ctx, []context.CancelFunc{cancel, stop}}
	if err := chromedp.Do(ctx); err != nil {
		b.Stop()
		return nil, err
	}
	return b, nil
}

// Stop it.
func (b *Browser) Stop() {
	for _, c := range b.cancel {
		c()
	}
}

// Person is somebody at a browser window of their own, with their own cookies.
type Person struct {
	Ctx  context.Context
	base string
	stop context.CancelFunc
}

// patience is how long a page may take to do what is waited for.
const patience = time.Minute // machines are noisy; what is waited for comes in a moment on most

// Person opens a window of a size, on a site.
func (b *Browser) Person(base string, width, height int64) (*Person, error) {
	ctx, cancel := chromedp.NewContext(b.ctx, chromedp.WithNewBrowserContext())
	p := &Person{ctx, base, cancel}
	// The first run ties the window's life to its context, so it gets no deadline.
	if err := chromedp.Do(ctx); err != nil {
		return nil, err
	}
	return p, p.Do(chromedp.EmulateViewport(width, height))
}

// Leave closes the window.
func (p *Person) Leave() { p.stop() }

// Do runs steps; an error says on which page.
func (p *Person) Do(steps ...chromedp.Action[chromedp.Void]) error {
	ctx, cancel := context.WithTimeout(p.Ctx, patience)
	defer cancel()
	if err := chromedp.Do(ctx, steps...); err != nil {
		where, text := "", ""
		if w, e := chromedp.Run(p.Ctx, chromedp.Location()); e == nil {
			where = w
		}
		if t, e := chromedp.Run(p.Ctx, chromedp.Evaluate[string](`document.body.innerText.slice(0, 900)`)); e == nil {
			text = t
		}
		return fmt.Errorf("at %s: %w\n%s", where, err, text)
	}
	return nil
}

// Open a page of the site.
func (p *Person) Open(path string) error { return p.Do(chromedp.Navigate(p.base + path)) }

// Size changes the window.
func (p *Person) Size(width, height int64) error {
	return p.Do(chromedp.EmulateViewport(width, height))
}

// Press what a selector finds. What the page draws anew between looking and
// pressing is looked for again, as a person would; nothing was pressed then.
func (p *Person) Press(sel string) error {
	var err error
	for range 5 {
		err = p.Do(chromedp.ScrollIntoView(sel), chromedp.Click(sel))
		if err == nil || !drawnAnew(err) {
			return err
		}
	}
	return err
}

// drawnAnew: the protocol's words for a node that has left the page. They have no
// code of their own (-32000 is any fault of the server).
func drawnAnew(err error) bool {
	return strings.Contains(err.Error(), "Could not find node") || strings.Contains(err.Error(), "No node with given id")
}

// Type into a field, after what is there.
func (p *Person) Type(sel, text string) error { return p.Do(chromedp.SendKeys(sel, text)) }

// Fill sets a field and tells the page so, as typing would.
func (p *Person) Fill(sel, text string) error {
	if err := p.Until(fmt.Sprintf(`document.querySelector(%q)`, sel)); err != nil {
		return err
	}
	_, err := Eval[bool](p,
		fmt.Sprintf(`(() => { const e = document.querySelector(%q); if (!e) throw new Error('no ' + %q); e.focus(); e.value = %q; e.dispatchEvent(new Event('input', {bubbles: true})); e.dispatchEvent(new Event('change', {bubbles: true})); return true })()`, sel, sel, text))
	return err
}

// Until waits for a JavaScript expression to become true.
func (p *Person) Until(expression string) error {
	ctx, cancel := context.WithTimeout(p.Ctx, patience)
	defer cancel()
	tick := time.NewTicker(25 * time.Millisecond)
	defer tick.Stop()
	for {
		// An error here is a page that is on its way to another: ask again.
		is, err := chromedp.Run(ctx, chromedp.Evaluate[bool]("!!("+expression+")"))
		if err == nil && is {
			return nil
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("waiting for %s: %w", expression, errors.Join(ctx.Err(), err))
		case <-tick.C:
		}
	}
}

// Sees waits for a text on the page.
func (p *Person) Sees(text string) error {
	err := p.Until(fmt.Sprintf(`document.readyState === 'complete' && document.body.innerText.includes(%q)`, text))
	if err != nil {
		got, _ := Eval[string](p, `document.body.innerText.slice(0, 1200)`)
		where, _ := Eval[string](p, `location.href`)
		return fmt.Errorf("%q was not seen at %s: %w\n%s", text, where, err, got)
	}
	return nil
}

// Eval evaluates JavaScript; a promise is awaited.
func Eval[T any](p *Person, expression string) (T, error) {
	ctx, cancel := context.WithTimeout(p.Ctx, patience)
	defer cancel()
	return chromedp.Run(ctx, chromedp.Evaluate[T](expression, chromedp.EvalAwaitPromise))
}

// As signs in as one of the demo's people: at one press where the page offers
// it, with the demo's password otherwise. who is a name or a mail address.
func (p *Person) As(who, password string) error {
	if err := p.Open("/sign-in"); err != nil {
		return err
	}
	if strings.Contains(who, "@") {
		if err := p.Fill("[name=email]", who); err != nil {
			return err
		}
		if err := p.Fill("[name=password]", password); err != nil {
			return err
		}
		if _, err := Eval[bool](p, `(document.querySelector('[name=password]').form.requestSubmit(), true)`); err != nil {
			return err
		}
	} else if _, err := Eval[bool](p,
		fmt.Sprintf(`(() => { const b = [...document.querySelectorAll('.demoperson')].find(b => b.innerText.startsWith(%q)); if (!b) throw new Error('nobody called ' + %q); b.click(); return true })()`, who, who)); err != nil {
		return err
	}
	return p.Until(`!location.pathname.startsWith('/sign-in') && document.readyState === 'complete'`)
}

// Shot takes a picture of the window as a PNG file.
func (p *Person) Shot(file string) error {
	if err := p.Until(`document.fonts.status === 'loaded'`); err != nil {
		return err
	}
	png, err := chromedp.Run(p.Ctx, chromedp.CaptureScreenshot())
	if err != nil {
		return err
	}
	if !strings.HasSuffix(file, ".png") {
		file += ".png"
	}
	return os.WriteFile(file, png, 0o644)
}

// Key presses keys one after another, with modifiers held.
func (p *Person) Key(keys string, held ...chromedp.Modifier) error {
	return p.Do(chromedp.KeyEvent(keys, chromedp.KeyModifiers(held...)))
}

// TabTo presses Tab until what a selector finds has the focus, as somebody
// without a mouse would.
func (p *Person) TabTo(sel string) error {
	for range 400 {
		on, err := Eval[bool](p, fmt.Sprintf(`!!document.activeElement?.matches(%q)`, sel))
		if err != nil || on {
			return err
		}
		if err := p.Key("\t"); err != nil {
			return err
		}
	}
	where, _ := Eval[string](p, `location.href + '\n' + document.body.innerText.slice(0, 1500)`)
	return fmt.Errorf("Tab never came to %s at %s", sel, where)
}

// DropCookies forgets every cookie, as a browser does that was told to.
func (p *Person) DropCookies() error {
	_, err := chromedp.Call(p.Ctx, network.ClearBrowserCookies, cdp.Empty{})
	return err
}

// Another window of the same person, with the same cookies.
func (p *Person) Another() (*Person, error) {
	ctx, cancel := chromedp.NewContext(p.Ctx)
	q := &Person{ctx, p.base, cancel}
	return q, chromedp.Do(ctx)
}
