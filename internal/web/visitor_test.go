package web_test

import (
	"bytes"
	"context"
	"io"
	"mime/multipart"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"ulvant/core/access"
	"ulvant/internal/browser"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// window opens a browser window on a site.
func window(t *testing.T, base string) *browser.Person {
	t.Helper()
	b, err := browser.Start()
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(b.Stop)
	return another(t, b, base)
}

func another(t *testing.T, b *browser.Browser, base string) *browser.Person {
	t.Helper()
	p, err := b.Person(base, 1280, 800)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(p.Leave)
	return p
}

// serve starts a site on a house; base is its address.
func serve(t testing.TB, h *programtest.House) (s *web.Server, base string) {
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

// visitor is somebody with cookies and no scripts.
type visitor struct {
	t    testing.TB
	base string
	http.Client
}

func visit(t testing.TB, base string) *visitor {
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	return &visitor{t, base, http.Client{Jar: jar, CheckRedirect: func(*http.Request,
		[]*http.Request) error {
		return http.ErrUseLastResponse
	}}}
}

// as signs in with a password.
func (v *visitor) as(email string) *visitor {
	v.t.Helper()
	if code, body := v.post("/sign-in", url.Values{"email": {email}, "password": {programtest.Password}}); code != 303 {
		v.t.Fatalf("signing in as %s: %d %s", email, code, body)
	}
	return v
}

func (v *visitor) get(path string) (int, string) {
	v.t.Helper()
	res, err := v.Get(v.base + path)
	if err != nil {
		v.t.Fatal(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		v.t.Fatal(err)
	}
	return res.StatusCode, string(b)
}

var tokenIn = regexp.MustCompile(`name="form-token" content="([^"]+)"`)

// token of the forms that this visitor is shown.
func (v *visitor) token() string {
	v.t.Helper()
	_, body := v.get("/sign-in")
	m := tokenIn.FindStringSubmatch(body)
	if m == nil {
		v.t.Fatal("no form token on the page")
	}
	return m[1]
}

// post sends a form as the site's own pages do.
func (v *visitor) post(path string, form url.Values) (int, string) {
	v.t.Helper()
	form.Set("form_token", v.token())
	return v.send(path, "application/x-www-form-urlencoded", form.Encode(), nil)
}

// upload sends a form with one file.
func (v *visitor) upload(path string, fields map[string]string, name, content string) (int, string) {
	v.t.Helper()
	var b bytes.Buffer
	w := multipart.NewWriter(&b)
	w.WriteField("form_token", v.token())
	for k, value := range fields {
		w.WriteField(k, value)
	}
	f, _ := w.CreateFormFile("file", name)
	f.Write([]byte(content))
	w.Close()
	return v.send(path, w.FormDataContentType(), b.String(), nil)
}

func (v *visitor) send(path, kind, body string, header map[string]string) (int, string) {
	v.t.Helper()
	req, err := http.NewRequest("POST", v.base+path, strings.NewReader(body))
	if err != nil {
		v.t.Fatal(err)
	}
	req.Header.Set("Content-Type", kind)
	for k, s := range header {
		req.Header.Set(k, s)
	}
	res, err := v.Do(req)
	if err != nil {
		v.t.Fatal(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		v.t.Fatal(err)
	}
	return res.StatusCode, string(b)
}

// officer makes somebody of the office.
func officer(h *programtest.House) int64 {
	h.T.Helper()
	a := h.Person("neda@ostrel-trust.example", "Neda Sparrow")
	h.Act(0, func(ctx context.Context, tx *db.Tx) error {
		return h.People.GiveRole(ctx, tx, a.ID, access.Held{Role: access.RunsRounds})
	})
	return a.ID
}

func contains(body, text string) bool { return strings.Contains(body, text) }

// regexpValue is what the first group of a pattern finds on a page.
func regexpValue(t *testing.T, page, pattern string) string {
	t.Helper()
	m := regexp.MustCompile(pattern).FindStringSubmatch(page)
	if m == nil {
		t.Fatalf("nothing on the page fits %s", pattern)
	}
	return m[1]
}
