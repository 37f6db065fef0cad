// Package webtest has the visitors, windows and cases that tests of the site begin with.
package webtest

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"

	"golang.org/x/net/html"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/browser"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web"
)

// Mailed is the personal link in the latest mail to somebody, "" for none.
func Mailed(h *programtest.House, to, part string) string {
	h.Drain()
	list, _ := h.Tray.List(to, 0, 1)
	if len(list) == 0 {
		return ""
	}
	i := strings.Index(list[0].Body, part)
	if i < 0 {
		return ""
	}
	return strings.Fields(list[0].Body[i:])[0]
}

// Posted is what a browser would post of the form with an id, nothing touched.
func Posted(t *testing.T, body, id string) url.Values {
	t.Helper()
	doc, err := html.Parse(strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	out := url.Values{}
	attr := func(n *html.Node, name string) (string, bool) {
		for _, a := range n.Attr {
			if a.Key == name {
				return a.Val, true
			}
		}
		return "", false
	}
	text := func(n *html.Node) (s string) {
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			s += c.Data
		}
		return s
	}
	var walk func(n *html.Node, in bool)
	walk = func(n *html.Node, in bool) {
		if n.Type == html.ElementNode {
			if v, _ := attr(n, "id"); n.Data == "form" {
				in = v == id
			}
			name, named := attr(n, "name")
			value, given := attr(n, "value")
			kind, _ := attr(n, "type")
			_, checked := attr(n, "checked")
			if of, ok := attr(n, "form"); ok {
				named = named && of == id
			} else {
				named = named && in
			}
			_, off := attr(n, "disabled")
			switch {
			case !named || off:
			case n.Data == "textarea":
				out.Add(name, text(n))
			case n.Data == "select":
				picked, first := "", true
				for o := n.FirstChild; o != nil; o = o.NextSibling {
					if o.Type != html.ElementNode {
						continue
					}
					v, ok := attr(o, "value")
					if !ok {
						v = text(o)
					}
					if _, on := attr(o, "selected"); on || first {
						picked = v
					}
					first = false
				}
				out.Add(name, picked)
			case n.Data == "input" && kind != "checkbox" && kind != "radio", checked && given:
				out.Add(name, value)
			}
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c, in)
		}
	}
	walk(doc, false)
	return out
}

func ToJSON(v any) string {
	b, _ := json.Marshal(v)
	return string(b)
}

// SaveOne sends one edit as the workspace's script does.
func (v *Visitor) SaveOne(ref, edit, version, value string) (int, string) {
	return v.SendJSON(
		"/applications/"+ref+"/answers",
		"application/json",
		`{"section":"work","edits":[{"question":"describe","version":`+version+`,"edit":"`+edit+`","value":"`+value+`"}]}`,
		map[string]string{"Accept": "application/json", "X-Form-Token": v.Token()},
	)
}

// Play runs steps in a window and stops at the first that fails.
type Play struct {
	T *testing.T
	*browser.Person
}

func (p Play) Ok(err error) {
	p.T.Helper()
	if err != nil {
		p.T.Fatal(err)
	}
}

func (p Play) Goes(path string) { p.T.Helper(); p.Ok(p.Open(path)) }

func (p Play) Reads(text string) { p.T.Helper(); p.Ok(p.Sees(text)) }

func (p Play) Presses(sel string) { p.T.Helper(); p.Ok(p.Press(sel)) }

func (p Play) Fills(sel, value string) { p.T.Helper(); p.Ok(p.Fill(sel, value)) }

func (p Play) Waits(js string) { p.T.Helper(); p.Ok(p.Until(js)) }

// Chooses a radio or tick a box by its name and value.
func (p Play) Chooses(name, value string) {
	p.T.Helper()
	sel := fmt.Sprintf(`input[name=%q][value=%q]`, name, value)
	// what follows a choice listens from then on
	p.Waits(`document.readyState === 'complete'`)
	for range 3 { // what is drawn meanwhile may move it from under the pointer
		p.Presses(sel)
		on, err := browser.Eval[bool](p.Person, fmt.Sprintf(`document.querySelector(%q)?.checked ?? true`, sel))
		p.Ok(err)
		if on {
			return
		}
	}
	p.T.Fatalf("%s cannot be chosen", sel)
}

func (p Play) Kept() {
	p.T.Helper()
	p.Waits(`document.getElementById('workspace').dataset.state === 'kept'`)
}

// Sound looks for whatever axe-core finds, on a phone and on a desk.
func (p Play) Sound() {
	p.T.Helper()
	for _, width := range []int64{390, 1280} {
		p.Ok(p.Size(width, 800))
		found, err := p.Accessible()
		p.Ok(err)
		for _, f := range found {
			p.T.Errorf("at %d px: %s", width, f)
		}
	}
}

func (p Play) SignsIn(email string) {
	p.T.Helper()
	p.Goes("/sign-in")
	p.Fills("#f-email", email)
	p.Fills("#f-password", programtest.Password)
	p.Presses("form[action='/sign-in'] .btn")
	p.Waits(`!location.pathname.startsWith('/sign-in') && document.readyState === 'complete'`)
}

var LinkIn = regexp.MustCompile(`https?://[^/\s]+(/(?:confirm|letter|reader|reset|address|officer|team|enter|pay|role)/\S+)`)

// Link finds the personal link in the latest mail to an address.
func Link(t *testing.T, h *programtest.House, to string) string {
	t.Helper()
	h.Drain()
	list, _ := h.Tray.List(to, 0, 1)
	if len(list) == 0 {
		t.Fatalf("no mail to %s", to)
	}
	m := LinkIn.FindStringSubmatch(list[0].Body)
	if m == nil {
		t.Fatalf("no link in %q", list[0].Body)
	}
	return m[1]
}

func Found(t *testing.T, h *programtest.House, ref string) application.Case {
	t.Helper()
	c, err := h.Cases.Find(t.Context(), h.DB, ref)
	if err != nil {
		t.Fatal(err)
	}
	return c
}

// WithTeam is a draft that could be sent, that Imre leads, Ysolde writes too and
// Tam reads.
func WithTeam(t *testing.T) (h *programtest.House, base string, c application.Case) {
	t.Helper()
	return WithTeamIn(t, nil, (*programtest.House).Ready)
}

// WithTeamIn is the same in a round of one's own, with a draft as it is made.
func WithTeamIn(t *testing.T, change func(*form.Design), draft func(*programtest.House, string) application.Case) (
	h *programtest.House, base string, c application.Case) {
	t.Helper()
	h = programtest.New(t)
	_, base = Serve(t, h)
	h.OpenRound(Officer(h), change)
	c = draft(h, "imre@corvoe.example")
	for email, part := range map[string]string{"ysolde@tarl.example": application.Teammate,
		"tam@tarl.example": application.Commenter} {
		name := map[string]string{"ysolde@tarl.example": "Ysolde Fenn", "tam@tarl.example": "Tam Reed"}[email]
		h.Person(email, name)
		h.Act(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			return h.Intake.InviteTeammate(ctx, tx, c, email, name, part)
		})
		if code, page := Visit(t, base).As(email).Submit(Mailed(h, email, "/team/"),
			url.Values{"answer": {"yes"}}); code != 303 {
			t.Fatalf("%s says yes: %d %s", email, code, page)
		}
	}
	return h, base, c
}

// chromium is the one browser of a test binary, started with its first window: starting it
// takes a second of a core, and each window has cookies and a cache of its own in any case.
var chromium = sync.OnceValues(browser.Start)

// opened reports that it was started.
var opened atomic.Bool

// Main runs the tests of a package that opens windows, and leaves no browser behind; call it
// from TestMain.
func Main(m *testing.M) {
	programtest.Main(m, func() {
		if !opened.Load() {
			return
		}
		if b, err := chromium(); err == nil {
			b.Stop()
		}
	})
}

// Browser is the one that windows are opened in.
func Browser(t *testing.T) *browser.Browser {
	t.Helper()
	opened.Store(true)
	b, err := chromium()
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// Window opens a browser window on a site.
func Window(t *testing.T, base string) *browser.Person {
	t.Helper()
	return Another(t, Browser(t), base)
}

func Another(t *testing.T, b *browser.Browser, base string) *browser.Person {
	t.Helper()
	p, err := b.Person(base, 1280, 800)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(p.Leave)
	return p
}

// Serve starts a site on a house; base is its address.
func Serve(t testing.TB, h *programtest.House) (s *web.Server, base string) {
	t.Helper()
	s, err := web.New(h.Program, h.Tray)
	if err != nil {
		t.Fatal(err)
	}
	s.Views().Strict()
	if err := s.Listen("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := s.Stop(); err != nil {
			t.Error(err)
		}
	})
	base = "http://" + s.Addr
	h.Config.BaseURL, h.Post.BaseURL = base, base
	return s, base
}

// Visitor is somebody with cookies and no scripts.
type Visitor struct {
	T    testing.TB
	Base string
	http.Client
}

func Visit(t testing.TB, base string) *Visitor {
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	return &Visitor{t, base, http.Client{Jar: jar, CheckRedirect: func(*http.Request,
		[]*http.Request) error {
		return http.ErrUseLastResponse
	}}}
}

// As signs in with a password.
func (v *Visitor) As(email string) *Visitor {
	v.T.Helper()
	if code, body := v.Submit("/sign-in", url.Values{"email": {email}, "password": {programtest.Password}}); code != 303 {
		v.T.Fatalf("signing in as %s: %d %s", email, code, body)
	}
	return v
}

func (v *Visitor) See(path string) (int, string) {
	v.T.Helper()
	res, err := v.Get(v.Base + path)
	if err != nil {
		v.T.Fatal(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		v.T.Fatal(err)
	}
	if !strings.HasPrefix(res.Header.Get("Content-Type"), "text/html") {
		return res.StatusCode, string(b)
	}
	return res.StatusCode, straight(string(b))
}

var TokenIn = regexp.MustCompile(`name="form-token" content="([^"]+)"`)

// Token of the forms that this visitor is shown.
func (v *Visitor) Token() string {
	v.T.Helper()
	_, body := v.See("/sign-in")
	m := TokenIn.FindStringSubmatch(body)
	if m == nil {
		v.T.Fatal("no form token on the page")
	}
	return m[1]
}

// Submit sends a form as the site's own pages do.
func (v *Visitor) Submit(path string, form url.Values) (int, string) {
	v.T.Helper()
	form.Set("form_token", v.Token())
	return v.SendJSON(path, "application/x-www-form-urlencoded", form.Encode(), nil)
}

// Upload sends a form with one file.
func (v *Visitor) Upload(path string, fields map[string]string, name, content string) (int, string) {
	v.T.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	w.WriteField("form_token", v.Token())
	for k, value := range fields {
		w.WriteField(k, value)
	}
	f, _ := w.CreateFormFile("file", name)
	f.Write([]byte(content))
	w.Close()
	return v.SendJSON(path, w.FormDataContentType(), b.String(), nil)
}

func (v *Visitor) SendJSON(path, kind, body string, header map[string]string) (int, string) {
	v.T.Helper()
	return v.Send("POST", path, kind, body, header)
}

// Send any method, with a body of a kind.
func (v *Visitor) Send(method, path, kind, body string, header map[string]string) (int, string) {
	v.T.Helper()
	req, err := http.NewRequest(method, v.Base+path, strings.NewReader(body))
	if err != nil {
		v.T.Fatal(err)
	}
	req.Header.Set("Content-Type", kind)
	for k, s := range header {
		req.Header.Set(k, s)
	}
	res, err := v.Do(req)
	if err != nil {
		v.T.Fatal(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		v.T.Fatal(err)
	}
	return res.StatusCode, straight(string(b))
}

// Officer makes somebody of the office.
func Officer(h *programtest.House) int64 {
	h.T.Helper()
	a := h.Person("neda@ostrel-trust.example", "Neda Sparrow")
	h.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, a.ID, access.Held{Role: access.RunsRounds})
	})
	return a.ID
}

var blanks = regexp.MustCompile(`\s+`)

// Contains reports a text on a page, read as a browser reads it: where a
// template breaks its line makes no difference.
func Contains(body, text string) bool {
	return strings.Contains(blanks.ReplaceAllString(body, " "), blanks.ReplaceAllString(text, " "))
}

// RegexpValue is what the first group of a pattern finds on a page.
func RegexpValue(t *testing.T, page, pattern string) string {
	t.Helper()
	m := regexp.MustCompile(pattern).FindStringSubmatch(page)
	if m == nil {
		t.Fatalf("nothing on the page fits %s", pattern)
	}
	return m[1]
}

func KeptText(t *testing.T, h *programtest.House, c application.Case, q string) string {
	t.Helper()
	var v string
	if err := h.DB.Get(&v, `SELECT value FROM answer WHERE entry_id = $1 AND question = $2`, c.EntryID, q); err != nil {
		t.Fatal(err)
	}
	return v
}

// In plays in a window.
func In(t *testing.T, window *browser.Person) Play { return Play{t, window} }

var inTag = regexp.MustCompile(`<[a-z][^>]*\n[^>]*>`)

// straight writes each tag of a page on one line, however its template does.
func straight(page string) string {
	return inTag.ReplaceAllStringFunc(page, func(tag string) string { return strings.Join(strings.Fields(tag), " ") })
}
