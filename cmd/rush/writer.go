package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"regexp"
	"time"

	"ulvant/demo"
)

// took is how long an answer took that was asked for at a time.
type took struct {
	at  time.Time
	dur time.Duration
}

// writer is an applicant at a browser: types, saves, tries again with the same
// edit when no answer comes, and sends.
type writer struct {
	*house
	who     demo.Writer
	dice    *rand.Rand
	home    int // which process
	http    *http.Client
	token   string
	version int
	lost    []string // edits without an answer
	n       int

	acked    string // the last text that was said to be kept
	unacked  []string
	saves    []took
	retries  int
	began    time.Time // the first try to send
	answered int       // status of the last try to send
	faults   []string
}

var tokenIn = regexp.MustCompile(`name="form-token" content="([^"]+)"`)

func (w *writer) base() string { return "http://" + w.apps[w.home].addr }

func (w *writer) signIn() error {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return err
	}
	w.http = &http.Client{Jar: jar, Timeout: 20 * time.Second,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	if err := w.readToken(); err != nil {
		return err
	}
	res, err := w.http.PostForm(w.base()+"/sign-in", url.Values{"form_token": {w.token}, "email": {w.who.Email},
		"password": {demo.Password}})
	if err != nil {
		return err
	}
	res.Body.Close()
	if res.StatusCode != http.StatusSeeOther {
		return fmt.Errorf("%s cannot sign in: %d", w.who.Email, res.StatusCode)
	}
	w.version = 1
	return w.readToken()
}

func (w *writer) readToken() error {
	res, err := w.http.Get(w.base() + "/sign-in")
	if err != nil {
		return err
	}
	defer res.Body.Close()
	page, err := io.ReadAll(res.Body)
	if err != nil {
		return err
	}
	m := tokenIn.FindSubmatch(page)
	if m == nil {
		return fmt.Errorf("%s is given no token", w.who.Email)
	}
	w.token = string(m[1])
	return nil
}

// play types until its time to send has come, then sends.
func (w *writer) play(sends time.Time) {
	for {
		pause := time.Duration(1500+w.dice.IntN(4000)) * time.Millisecond
		if time.Now().Add(pause).After(sends) {
			break
		}
		time.Sleep(pause)
		w.save()
	}
	time.Sleep(time.Until(sends))
	w.began = time.Now()
	for tries := 0; tries < 60; tries++ {
		res, err := w.http.PostForm(w.base()+"/applications/"+w.who.Ref+"/send",
			url.Values{"form_token": {w.token}, "password": {demo.Password}})
		if err == nil {
			res.Body.Close()
			if w.answered = res.StatusCode; res.StatusCode < 500 {
				return
			}
		}
		w.again()
	}
	w.faults = append(w.faults, "it could never be sent")
}

// again waits a moment, and turns to another process if there is one.
func (w *writer) again() {
	w.retries++
	w.home = (w.home + 1) % len(w.apps)
	time.Sleep(time.Duration(300+w.dice.IntN(700)) * time.Millisecond)
}

// save keeps one more version of the text, trying until it is answered.
func (w *writer) save() {
	w.n++
	text := fmt.Sprintf("We replant the reed bed in two seasons. %s, version %d.", w.who.Ref, w.n)
	id := fmt.Sprintf("rush-%s-%d", w.who.Ref, w.n)
	w.unacked = append(w.unacked, text)
	body := struct {
		Section string `json:"section"`
		Edits   []any  `json:"edits"`
	}{"work", []any{map[string]any{"question": "describe", "version": w.version, "edit": id, "after": w.lost,
		"value": text}}}
	raw, err := json.Marshal(body)
	if err != nil {
		panic(err)
	}
	for time.Now().Before(w.closes.Add(10 * time.Second)) {
		req, err := http.NewRequest(http.MethodPost, w.base()+"/applications/"+w.who.Ref+"/answers", bytes.NewReader(raw))
		if err != nil {
			panic(err)
		}
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("Accept", "application/json")
		req.Header.Set("X-Form-Token", w.token)
		begin := time.Now()
		res, err := w.http.Do(req)
		if err != nil {
			w.again()
			continue
		}
		var out struct {
			Results []struct {
				Version  int
				Conflict bool
				Fault    string
			}
		}
		err = json.NewDecoder(res.Body).Decode(&out)
		res.Body.Close()
		switch {
		case res.StatusCode >= 500 || err != nil:
			w.again()
			continue
		case res.StatusCode == http.StatusConflict && time.Now().After(w.closes):
			return // it has closed
		case res.StatusCode != http.StatusOK || len(out.Results) != 1:
			w.faults = append(w.faults, fmt.Sprintf("a save was answered %d", res.StatusCode))
			return
		case out.Results[0].Conflict || out.Results[0].Fault != "":
			w.faults = append(w.faults, fmt.Sprintf("a save conflicts with itself: %+v", out.Results[0]))
			return
		}
		w.version, w.acked, w.unacked = out.Results[0].Version, text, nil
		w.saves = append(w.saves, took{begin, time.Since(begin)})
		return
	}
	w.lost = append(w.lost, id)
}
