// Package paydesk is the stand-in for a payment desk: an HTTP server on loopback
// that speaks what internal/platform/paydesk describes, takes made-up cards on a
// page of its own, and sends signed notices. What can go wrong with a real one can
// be made to happen: cards that are declined, payers who go away, sums that are
// not the ones asked for, notices that come late, twice or never, a desk that is
// down. No money moves.
package paydesk

import (
	"bytes"
	"cmp"
	"crypto/subtle"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	desk "ulvant/internal/platform/paydesk"
)

// Desk is the stand-in.
type Desk struct {
	Addr   string
	Down   atomic.Bool   // answers nothing but 503, and sends no notices
	Late   time.Duration // how late a late notice is
	clock  atomic.Pointer[func() time.Time]
	secret []byte
	notify string // where notices go; "" for nowhere
	file   string // where it keeps what it knows; "" for nowhere
	mu     sync.Mutex
	book   book
	srv    *http.Server
	told   sync.WaitGroup
	stop   chan struct{}
}

// book is all that the desk knows.
type book struct {
	Last      int
	Checkouts map[string]*kept
	Keys      map[string]made
	Payments  map[string]string // payment: checkout
}

type kept struct {
	desk.Checkout
	What, Return string
	NoBack       bool // nothing can be given back to its card
}

// made is what came of an idempotency key.
type made struct{ Body, Checkout string }

// Start listens on addr ("127.0.0.1:0" for any port). Notices go to notify; what
// it knows is kept in file, so that it outlives the program, unless that is "".
func Start(addr string, secret []byte, notify, file string) (*Desk, error) {
	host, _, err := net.SplitHostPort(addr)
	if ip := net.ParseIP(host); err != nil || ip == nil || !ip.IsLoopback() {
		return nil, fmt.Errorf("the stand-in for a payment desk listens on loopback only, not on %q", addr)
	}
	d := &Desk{Late: time.Minute, secret: secret, notify: notify, file: file, stop: make(chan struct{}),
		book: book{Checkouts: map[string]*kept{}, Keys: map[string]made{}, Payments: map[string]string{}}}
	d.By(time.Now)
	if raw, err := os.ReadFile(file); err == nil && json.Unmarshal(raw, &d.book) != nil {
		return nil, fmt.Errorf("the payment desk cannot read what it kept in %s", file)
	}
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return nil, err
	}
	d.Addr = l.Addr().String()
	mux := http.NewServeMux()
	mux.HandleFunc("POST /checkouts", d.ours(d.make))
	mux.HandleFunc("GET /checkouts/{id}", d.ours(d.get))
	mux.HandleFunc("POST /checkouts/{id}/close", d.ours(d.close))
	mux.HandleFunc("POST /payments/{id}/refunds", d.ours(d.refund))
	mux.HandleFunc("GET /statement", d.ours(d.statement))
	mux.HandleFunc("GET /pay/{id}", d.page)
	mux.HandleFunc("POST /pay/{id}", d.pay)
	d.srv = &http.Server{Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if d.Down.Load() {
			http.Error(
				w,
				"The payment desk is down. Try again in a few minutes; nothing was paid.",
				http.StatusServiceUnavailable,
			)
			return
		}
		mux.ServeHTTP(w, r)
	})}
	go d.srv.Serve(l)
	return d, nil
}

// By sets the clock it goes by, the real one at first; before is the one it had.
func (d *Desk) By(now func() time.Time) (before func() time.Time) {
	if old := d.clock.Swap(&now); old != nil {
		before = *old
	}
	return before
}

func (d *Desk) now() time.Time { return (*d.clock.Load())() }

// Stop it; notices that are on their way are left.
func (d *Desk) Stop() {
	close(d.stop)
	d.srv.Close()
	d.told.Wait()
}

// ours lets in whoever has the secret.
func (d *Desk) ours(f http.HandlerFunc) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		given := strings.TrimPrefix(r.Header.Get("Authorization"), "Bearer ")
		if subtle.ConstantTimeCompare([]byte(given), []byte(hex.EncodeToString(d.secret))) != 1 {
			http.Error(w, "who are you", http.StatusUnauthorized)
			return
		}
		f(w, r)
	}
}

// number makes the next one; the caller holds the lock.
func (d *Desk) number(letter string) string {
	d.book.Last++
	return fmt.Sprintf("%s%06d", letter, d.book.Last)
}

// keep what it knows; the caller holds the lock.
func (d *Desk) keep() {
	if d.file == "" {
		return
	}
	raw, err := json.Marshal(d.book)
	if err == nil {
		err = os.WriteFile(d.file+".new", raw, 0o600)
	}
	if err == nil {
		err = os.Rename(d.file+".new", filepath.Clean(d.file))
	}
	if err != nil {
		panic(err) // a desk that forgets is no stand-in for one
	}
}

func answer(w http.ResponseWriter, status int, c desk.Checkout) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	json.NewEncoder(w).Encode(c)
}

// once reads a request that makes something, and finds what its key made before.
func (d *Desk) once(w http.ResponseWriter, r *http.Request, in any) (key, body string, done bool) {
	var raw bytes.Buffer
	if _, err := raw.ReadFrom(http.MaxBytesReader(w, r.Body, 1<<16)); err != nil ||
		json.Unmarshal(raw.Bytes(), in) != nil {
		http.Error(w, "cannot be read", http.StatusUnprocessableEntity)
		return "", "", true
	}
	key, body = r.Header.Get(desk.KeyHeader), r.URL.Path+"\n"+raw.String()
	if key == "" {
		http.Error(w, "no idempotency key", http.StatusUnprocessableEntity)
		return "", "", true
	}
	m, ok := d.book.Keys[key]
	switch {
	case ok && m.Body != body:
		http.Error(w, "the key was used for something else", http.StatusConflict)
		return "", "", true
	case ok:
		answer(w, http.StatusOK, d.look(m.Checkout).Checkout)
		return "", "", true
	}
	return key, body, false
}

// look at a checkout as it is now: its time may be over. The caller holds the lock.
func (d *Desk) look(id string) *kept {
	c := d.book.Checkouts[id]
	if c != nil {
		c.URL = "http://" + d.Addr + "/pay/" + id
	}
	if c != nil && c.State == desk.Open && !d.now().Before(c.Until) {
		c.State = desk.Closed
	}
	return c
}

func (d *Desk) make(w http.ResponseWriter, r *http.Request) {
	d.mu.Lock()
	defer d.mu.Unlock()
	var a desk.Ask
	key, body, done := d.once(w, r, &a)
	if done {
		return
	}
	if a.Amount <= 0 || a.Currency == "" || !a.Until.After(d.now()) {
		http.Error(
			w,
			"an amount, a currency and a time that is still to come are needed",
			http.StatusUnprocessableEntity,
		)
		return
	}
	id := d.number("c")
	d.book.Checkouts[id] = &kept{What: a.What, Return: a.Return, Checkout: desk.Checkout{ID: id,
		State: desk.Open, Amount: a.Amount, Currency: a.Currency,
		Reference: a.Reference, Until: a.Until, Payments: []desk.Payment{}, Refunds: []desk.Refund{}}}
	d.book.Keys[key] = made{body, id}
	d.keep()
	answer(w, http.StatusCreated, d.look(id).Checkout)
}

func (d *Desk) get(w http.ResponseWriter, r *http.Request) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if c := d.look(r.PathValue("id")); c != nil {
		answer(w, http.StatusOK, c.Checkout)
		return
	}
	http.NotFound(w, r)
}

func (d *Desk) close(w http.ResponseWriter, r *http.Request) {
	d.mu.Lock()
	defer d.mu.Unlock()
	c := d.look(r.PathValue("id"))
	if c == nil {
		http.NotFound(w, r)
		return
	}
	if c.State == desk.Open {
		c.State = desk.Closed
		d.keep()
	}
	answer(w, http.StatusOK, c.Checkout)
}

func (d *Desk) refund(w http.ResponseWriter, r *http.Request) {
	d.mu.Lock()
	defer d.mu.Unlock()
	var in struct{ Amount int64 }
	key, body, done := d.once(w, r, &in)
	if done {
		return
	}
	c, err := d.giveBack(key, r.PathValue("id"), in.Amount)
	switch {
	case errors.Is(err, errNone):
		http.NotFound(w, r)
	case err != nil:
		http.Error(w, err.Error(), http.StatusUnprocessableEntity)
	default:
		d.book.Keys[key] = made{body, c.ID}
		d.keep()
		answer(w, http.StatusCreated, c.Checkout)
		d.tell(c, atOnce)
	}
}

var errNone = errors.New("there is no such payment")

// giveBack a part of a payment; the caller holds the lock.
func (d *Desk) giveBack(key, payment string, amount int64) (*kept, error) {
	c := d.look(d.book.Payments[payment])
	if c == nil {
		return nil, errNone
	}
	left := int64(0)
	for _, p := range c.Payments {
		if p.ID == payment {
			left = p.Amount
		}
	}
	for _, b := range c.Refunds {
		if b.Payment == payment && !b.Failed {
			left -= b.Amount
		}
	}
	if amount <= 0 || amount > left || c.NoBack {
		return nil, errors.New("no more goes back than was paid, and nothing to some cards")
	}
	c.Refunds = append(
		c.Refunds,
		desk.Refund{ID: d.number("r"), Key: key, Payment: payment, Amount: amount, At: d.now().UTC()},
	)
	return c, nil
}

// GiveBack gives a part of a payment back at the desk itself, as when a bank takes
// it back from there.
func (d *Desk) GiveBack(payment string, amount int64, telling Telling) error {
	d.mu.Lock()
	defer d.mu.Unlock()
	c, err := d.giveBack("", payment, amount)
	if err == nil {
		d.keep()
		d.tell(c, telling)
	}
	return err
}

func (d *Desk) statement(w http.ResponseWriter, r *http.Request) {
	from, err1 := time.Parse(time.RFC3339, r.URL.Query().Get("from"))
	to, err2 := time.Parse(time.RFC3339, r.URL.Query().Get("to"))
	if err1 != nil || err2 != nil {
		http.Error(w, "from and to are times", http.StatusUnprocessableEntity)
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	desk.WriteStatement(w, d.Statement(from, to))
}

// Statement of what was taken and given back from a time up to another, in order.
func (d *Desk) Statement(from, to time.Time) (out []desk.Line) {
	d.mu.Lock()
	defer d.mu.Unlock()
	add := func(l desk.Line) {
		if !l.At.Before(from) && l.At.Before(to) {
			out = append(out, l)
		}
	}
	for _, c := range d.book.Checkouts {
		for _, p := range c.Payments {
			add(
				desk.Line{
					At:        p.At,
					Kind:      "payment",
					ID:        p.ID,
					Checkout:  c.ID,
					Reference: c.Reference,
					Amount:    p.Amount,
					Currency:  c.Currency,
				},
			)
		}
		for _, b := range c.Refunds {
			if !b.Failed {
				add(
					desk.Line{
						At:        b.At,
						Kind:      "refund",
						ID:        b.ID,
						Checkout:  c.ID,
						Reference: c.Reference,
						Amount:    -b.Amount,
						Currency:  c.Currency,
					},
				)
			}
		}
	}
	slices.SortFunc(out, func(a, b desk.Line) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.ID, b.ID)) })
	return out
}
