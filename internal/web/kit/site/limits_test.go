package site_test

import (
	"io"
	"net/http"
	"net/netip"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	"ulvant/internal/platform/config"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Wrong passwords hold out one client for one account: right ones never count,
// waiting is not prolonged by trying, somebody elsewhere gets in, and a link by
// mail lets the owner in meanwhile.
func TestWhoIsHeldOut(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.Config.Proxies, _ = proxies("127.0.0.1")
	h.Person("imre@corvoe.example", "Imre Calloway")
	h.Person("ysolde@tarl.example", "Ysolde Fenn")
	from := func(address, email, password string) int {
		v := webtest.Visit(t, base)
		code, _ := v.SendJSON("/sign-in", "application/x-www-form-urlencoded",
			url.Values{"form_token": {v.Token()}, "email": {email}, "password": {password}}.Encode(),
			map[string]string{"X-Forwarded-For": "1.1.1.1, " + address})
		return code
	}
	for i := range 20 {
		if code := from("10.0.0.1", "imre@corvoe.example", programtest.Password); code != 303 {
			t.Fatalf("right try %d: %d", i+1, code)
		}
	}
	for i := range 8 {
		if code := from("10.0.0.1", "imre@corvoe.example", "wrong"); code != 422 {
			t.Fatalf("wrong try %d: %d", i+1, code)
		}
	}
	for _, c := range []struct {
		what, address, email, password string
		later                          time.Duration
		want                           int
	}{
		{"the ninth wrong one", "10.0.0.1", "imre@corvoe.example", "wrong", 0, 429},
		{"a right one from there", "10.0.0.1", "imre@corvoe.example", programtest.Password, 0, 429},
		{"a right one from elsewhere", "10.0.0.2", "imre@corvoe.example", programtest.Password, 0, 303},
		{"another account from there", "10.0.0.1", "ysolde@tarl.example", programtest.Password, 0, 303},
		{"again, after ten minutes of trying", "10.0.0.1", "imre@corvoe.example", "wrong", 10 * time.Minute, 429},
		{"after a quarter of an hour from the last that counted", "10.0.0.1", "imre@corvoe.example", programtest.Password,
			5*time.Minute + time.Second, 303},
	} {
		h.Clock.Set(h.Clock.Now().Add(c.later))
		if code := from(c.address, c.email, c.password); code != c.want {
			t.Errorf("%s: %d, want %d", c.what, code, c.want)
		}
	}
	v := webtest.Visit(t, base)
	for range 9 {
		v.Submit("/sign-in", url.Values{"email": {"imre@corvoe.example"}, "password": {"wrong"}})
	}
	if code, page := v.Submit("/sign-in", url.Values{"email": {"imre@corvoe.example"},
		"password": {"wrong"}}); code != 429 || !webtest.Contains(page, "Send a link to sign in") {
		t.Errorf("held out: %d", code)
	}
	for _, email := range []string{"nobody@corvoe.example", "imre@corvoe.example"} {
		if code, page := v.Submit("/sign-in/mail", url.Values{"email": {email}}); code != 200 ||
			!webtest.Contains(page, "has an account here") {
			t.Errorf("a link for %s: %d", email, code)
		}
	}
	if webtest.Mailed(h, "nobody@corvoe.example", "/enter/") != "" {
		t.Error("a mail went to somebody without an account")
	}
	at := webtest.Mailed(h, "imre@corvoe.example", "/enter/")
	if code, page := v.See(at); code != 200 || !webtest.Contains(page, "Sign me in") {
		t.Errorf("the link: %d", code)
	}
	if code, _ := v.Submit(at, url.Values{}); code != 303 {
		t.Errorf("getting in by mail: %d", code)
	}
	if _, page := v.See("/account"); !webtest.Contains(page, "A wrong password was typed.") ||
		!webtest.Contains(page, "A link to sign in was pressed") || !webtest.Contains(page, "10.0.0.1") {
		t.Error("the owner is not shown what happened")
	}
	if code, _ := webtest.Visit(t, base).Submit(at, url.Values{}); code != 410 {
		t.Errorf("the link works twice: %d", code)
	}
}

// Whoever asks is told from the last hop that no proxy of ours is; what stands
// further left was written by anybody.
func TestWhoAsksBehindAProxy(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.Person("imre@corvoe.example", "Imre Calloway")
	for _, c := range []struct{ proxies, forwarded, want string }{
		{"", "9.9.9.9", "127.0.0.1"},
		{"127.0.0.1", "", "127.0.0.1"},
		{"127.0.0.1", "9.9.9.9", "9.9.9.9"},
		{"127.0.0.1", "9.9.9.9, 8.8.8.8", "8.8.8.8"},
		{"127.0.0.0/8,8.8.8.8", "9.9.9.9, 8.8.8.8", "9.9.9.9"},
		{"127.0.0.1", "9.9.9.9, not an address", "127.0.0.1"},
		{"10.0.0.0/8", "9.9.9.9", "127.0.0.1"},
	} {
		var err error
		if h.Config.Proxies, err = proxies(c.proxies); err != nil {
			t.Fatal(err)
		}
		v := webtest.Visit(t, base)
		v.SendJSON("/sign-in", "application/x-www-form-urlencoded",
			url.Values{"form_token": {v.Token()}, "email": {"imre@corvoe.example"}, "password": {programtest.Password}}.Encode(),
			map[string]string{"X-Forwarded-For": c.forwarded})
		if events, err := h.People.Events(t.Context(), 0, 1); err != nil || len(events) != 1 || events[0].Client != c.want {
			t.Errorf("behind %q with %q: %+v, want %s, %v", c.proxies, c.forwarded, events, c.want, err)
		}
	}
}

func proxies(list string) (out []netip.Prefix, err error) {
	cfg, _, err := config.Load([]string{"--proxies", list}, func(string) string { return "" })
	if err != nil {
		return nil, err
	}
	return cfg.Proxies, nil
}

// Where the settings ask for it, the office sees none of its pages without a
// second factor, and is told where to set one up.
func TestTheOfficeNeedsASecondFactor(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	id := webtest.Officer(h)
	v := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	if code, _ := v.See("/office"); code != 200 {
		t.Fatalf("where it is not asked for: %d", code)
	}
	h.Config.OfficeSecond = true
	if code, _ := v.See("/office"); code != 303 {
		t.Errorf("without one: %d", code)
	}
	if _, page := v.See("/account"); !webtest.Contains(page, "asks for a second factor of everybody") ||
		webtest.Contains(page, `href="/office"`) {
		t.Error("the account does not say what to do")
	}
	if _, err := h.DB.Exec(`UPDATE account SET second_at = now() WHERE id = $1`, id); err != nil {
		t.Fatal(err)
	}
	if code, _ := v.See("/office"); code != 200 {
		t.Errorf("with one: %d", code)
	}
}

// What has us write to others is bounded for one person, and a form of more
// fields than any page has is not read.
func TestTooMuchOfSomething(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	last := 0
	for i := range 61 {
		last, _ = v.Submit("/applications/"+c.Ref+"/team", url.Values{"name": {"A Friend"},
			"email": {"no address " + strconv.Itoa(i)}})
	}
	if last != http.StatusTooManyRequests {
		t.Errorf("the sixty-first within the hour: %d", last)
	}
	if code, _ := v.Submit("/applications/"+c.Ref+"/title", url.Values{"title": {"Reed"}}); code != 303 {
		t.Errorf("writing goes on: %d", code)
	}
	many := strings.Repeat("&x=1", 10_000)
	if code, _ := v.SendJSON("/applications/"+c.Ref+"/title", "application/x-www-form-urlencoded",
		"form_token="+v.Token()+"&title=Sedge"+many, nil); code != http.StatusRequestEntityTooLarge {
		t.Errorf("ten thousand fields: %d", code)
	}
	if now := webtest.Found(t, h, c.Ref); now.Title != "Reed" {
		t.Errorf("it is called %q", now.Title)
	}
	// only an address that takes a file takes a large body
	big := "form_token=" + v.Token() + "&title=" + strings.Repeat("r", 2<<20)
	for _, path := range []string{"/applications/" + c.Ref + "/title?x=/file", "/applications/" + c.Ref + "/title"} {
		req, _ := http.NewRequest("POST", base+path, strings.NewReader(big))
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		res, err := v.Do(req)
		if err != nil {
			continue // the connection is closed on whoever sends it
		}
		res.Body.Close()
		if res.StatusCode != http.StatusRequestEntityTooLarge {
			t.Errorf("two megabytes to %s: %d", path, res.StatusCode)
		}
	}
}

// Over TLS cookies are this host's alone, and browsers keep to TLS.
func TestHeadersAndCookies(t *testing.T) {
	t.Parallel()
	for _, secure := range []bool{false, true} {
		h := programtest.New(t)
		h.Config.SecureCookie = secure
		_, base := webtest.Serve(t, h)
		res, err := http.Get(base + "/sign-in")
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		for _, c := range res.Cookies() {
			if strings.HasPrefix(c.Name, "__Host-") != secure || c.Secure != secure || !c.HttpOnly || c.Path != "/" {
				t.Errorf("secure %v: the cookie %s", secure, c)
			}
		}
		if len(res.Cookies()) == 0 || res.Header.Get("Strict-Transport-Security") != "" != secure ||
			!strings.Contains(res.Header.Get("Permissions-Policy"), "camera=()") {
			t.Errorf("secure %v: %v", secure, res.Header)
		}
	}
}

// One person has only so many streams open, and they end with the session.
func TestStreamsAreBounded(t *testing.T) {
	t.Parallel()
	_, base, c := webtest.WithTeam(t)
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	var open []*http.Response
	refused := 0
	for i := range 14 {
		res, err := v.Get(base + "/applications/" + c.Ref + "/stream?section=work&tab=0123456789abcdef" + strconv.Itoa(i))
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		if res.StatusCode == http.StatusTooManyRequests {
			refused++
		} else {
			open = append(open, res)
		}
	}
	if refused != 2 || len(open) != 12 {
		t.Errorf("%d of 14 were refused", refused)
	}
	v.Submit("/sign-out", url.Values{})
	ended := make(chan error, len(open))
	for _, res := range open {
		go func() { _, err := io.Copy(io.Discard, res.Body); ended <- err }()
	}
	for range open {
		select {
		case <-ended:
		case <-time.After(30 * time.Second):
			t.Fatal("a stream goes on after signing out")
		}
	}
}

// An expired session in an open workspace is renewed in place: the password is
// asked for on the page, and what was typed is sent.
func TestASessionIsRenewedInPlace(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	for _, c2 := range []struct {
		how string
		do  func(p webtest.Play)
	}{
		{"its row is gone", func(webtest.Play) {
			if _, err := h.DB.Exec(`DELETE FROM session`); err != nil {
				t.Fatal(err)
			}
		}},
		{"its cookie is gone", func(p webtest.Play) { p.Ok(p.DropCookies()) }},
	} {
		p := webtest.In(t, webtest.Window(t, base))
		p.SignsIn("imre@corvoe.example")
		p.Goes("/applications/" + c.Ref + "/sections/work")
		p.Waits(`document.getElementById('workspace').dataset.state === 'ready'`)
		c2.do(p)
		p.Fills("[name=describe]", "Written when "+c2.how)
		p.Waits(`document.getElementById('again').open`)
		p.Fills("#again-form [name=email]", "imre@corvoe.example")
		p.Fills("#again-form [name=password]", programtest.Password)
		p.Presses("#again-form .btn")
		p.Waits(`!document.getElementById('again').open && document.getElementById('workspace').dataset.state === 'kept'`)
		if got := webtest.KeptText(t, h, c, "describe"); got != "Written when "+c2.how {
			t.Errorf("%s: the server has %q", c2.how, got)
		}
	}
}
