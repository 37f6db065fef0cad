package journey_test

import (
	"bufio"
	"crypto/sha256"
	"fmt"
	"net"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// Source: semantics.md, "Closing". The round closes at 16:00 on Friday 9 April
// 2027 in Dublin, 15:00 UTC. What counts is when the headers arrived: a body
// that dribbles, a lock that is held and a password check that takes long, all
// across the instant, change nothing; and what arrives at the instant is out.
func TestTheClosingInstant(t *testing.T) {
	t.Parallel()
	closes := time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC)
	after := closes.Add(4 * time.Second)
	for _, c := range []struct {
		what    string
		arrives time.Time
		stall   string
		in      bool
	}{
		{"a millisecond before, nothing slow", closes.Add(-time.Millisecond), "", true},
		{"a microsecond before, the body comes after", closes.Add(-time.Microsecond), "body", true},
		{"a millisecond before, the lock is held across", closes.Add(-time.Millisecond), "lock", true},
		{"a millisecond before, the password check ends after", closes.Add(-time.Millisecond), "password", true},
		{"at the instant", closes, "", false},
		{"at the instant, and the clock is put back before the body comes", closes, "backwards", false},
	} {
		t.Run(c.what, func(t *testing.T) {
			h := programtest.New(t)
			s, base := webtest.Serve(t, h)
			h.OpenRound(webtest.Officer(h), nil)
			kase := h.Ready("imre@corvoe.example")
			h.Clock.Set(c.arrives.Add(-time.Minute))
			v := webtest.Visit(t, base).As("imre@corvoe.example")
			body := url.Values{"form_token": {v.Token()}, "password": {programtest.Password}}.Encode()

			stamped := make(chan time.Time, 8)
			s.Stamped = func(at time.Time) { stamped <- at }
			switch c.stall {
			case "lock":
				h.Intake.Locked = func() { h.Clock.Set(after) }
			case "password":
				slow := h.People.Verify
				h.People.Verify = func(password, hash string) bool { h.Clock.Set(after); return slow(password, hash) }
			}
			h.Clock.Set(c.arrives)
			code := dribble(t, v, base, "/applications/"+kase.Ref+"/send", body, func() {
				if at := <-stamped; !at.Equal(c.arrives) {
					t.Fatalf("stamped %s, arrived %s", at, c.arrives)
				}
				switch c.stall {
				case "body":
					h.Clock.Set(after)
				case "backwards":
					h.Clock.Set(closes.Add(-time.Hour))
				}
			})
			if got := h.StateOf(kase); (got == lifecycle.Sent) != c.in {
				t.Errorf("the application is %s, the answer %d", got, code)
			}
			if want := map[bool]int{true: http.StatusSeeOther, false: http.StatusConflict}[c.in]; code != want {
				t.Errorf("answered %d, want %d", code, want)
			}
			if c.in {
				sealed, err := h.Cases.Find(t.Context(), h.DB, kase.Ref)
				if err != nil {
					t.Fatal(err)
				}
				doc, err := h.Cases.Sealed(t.Context(), h.DB, *sealed.SealID)
				if err != nil || !doc.At.Equal(c.arrives.Truncate(time.Microsecond)) ||
					sha256.Sum256(doc.Document) != [32]byte(doc.SHA256) {
					t.Errorf("sealed at %s, arrived %s: %v", doc.At, c.arrives, err)
				}
			}
		})
	}
}

// dribble sends headers, waits for between, and only then the body. A forged
// receipt header goes with it; the server must throw it away.
func dribble(t *testing.T, v *webtest.Visitor, base, path, body string, between func()) int {
	t.Helper()
	u, err := url.Parse(base)
	if err != nil {
		t.Fatal(err)
	}
	conn, err := net.Dial("tcp", u.Host)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	var cookies []string
	for _, c := range v.Jar.Cookies(u) {
		cookies = append(cookies, c.Name+"="+c.Value)
	}
	fmt.Fprintf(conn, "POST %s HTTP/1.1\r\nHost: %s\r\nCookie: %s\r\nContent-Type: "+
		"application/x-www-form-urlencoded\r\nX-Ulvant-Receipt: 1\r\nContent-Length: %d\r\nConnection: close\r\n\r\n",
		path, u.Host, strings.Join(cookies, "; "), len(body))
	between()
	half := len(body) / 2
	fmt.Fprint(conn, body[:half])
	fmt.Fprint(conn, body[half:])
	res, err := http.ReadResponse(bufio.NewReader(conn), nil)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	return res.StatusCode
}

// Sending twice, by a double press or a request sent again, makes one.
func TestSendingTwiceMakesOne(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	codes := make(chan int, 2)
	for range 2 {
		go func() {
			code, _ := v.Submit("/applications/"+c.Ref+"/send", url.Values{"password": {programtest.Password}})
			codes <- code
		}()
	}
	for range 2 {
		if code := <-codes; code != http.StatusSeeOther {
			t.Errorf("answered %d", code)
		}
	}
	var seals int
	if err := h.DB.Get(&seals, `SELECT count(*) FROM seal`); err != nil || seals != 1 {
		t.Errorf("%d seals, %v", seals, err)
	}
}

// Two sends race the closing instant: one whose headers came before it and whose
// body is still on its way, and one that came after and is answered first. It is
// in, once, by the first; the later one changes nothing.
func TestTwoSendsRaceTheClosing(t *testing.T) {
	t.Parallel()
	closes := time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC)
	h := programtest.New(t)
	s, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), nil)
	c := h.Ready("imre@corvoe.example")
	h.Clock.Set(closes.Add(-time.Minute))
	v := webtest.Visit(t, base).As("imre@corvoe.example")
	at, body := "/applications/"+c.Ref+"/send", url.Values{"form_token": {v.Token()},
		"password": {programtest.Password}}.Encode()
	stamped := make(chan time.Time, 8)
	s.Stamped = func(at time.Time) { stamped <- at }
	h.Clock.Set(closes.Add(-time.Millisecond))
	first := dribble(t, v, base, at, body, func() {
		<-stamped // the first has come
		h.Clock.Set(closes.Add(time.Millisecond))
		if code, _ := v.SendJSON(at, "application/x-www-form-urlencoded", body, nil); code != http.StatusConflict {
			t.Errorf("the one that came after: %d", code)
		}
		if got := h.StateOf(c); got != lifecycle.Draft {
			t.Errorf("between the two it is %s", got)
		}
	})
	if first != http.StatusSeeOther || h.StateOf(c) != lifecycle.Sent {
		t.Errorf("the one that came before: %d, it is %s", first, h.StateOf(c))
	}
	if code, _ := v.SendJSON(at, "application/x-www-form-urlencoded", body,
		nil); code != http.StatusSeeOther { // to the same effect
		t.Errorf("once more: %d", code)
	}
	var seals []time.Time
	if err := h.DB.Select(&seals, `SELECT at FROM seal`); err != nil || len(seals) != 1 ||
		!seals[0].Equal(closes.Add(-time.Millisecond)) {
		t.Errorf("seals: %v %v", seals, err)
	}
}
