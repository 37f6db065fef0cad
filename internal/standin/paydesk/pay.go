package paydesk

import (
	"bytes"
	_ "embed"
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"time"

	"ulvant/core/money"
	desk "ulvant/internal/platform/paydesk"
)

// Telling is when a notice leaves.
type Telling string

// The ways of telling.
const (
	atOnce Telling = "now"
	twice  Telling = "twice"
	late   Telling = "late"
	never  Telling = "never"
)

// Cards are the made-up ones that the page offers.
var cards = []struct{ Key, Says string }{
	{"pays", "A card that pays"},
	{"declined", "A card that is declined"},
	{"less", "A card that pays 10 less than is asked"},
	{"more", "A card that pays 5 more than is asked"},
	{"keeps", "A card that pays, to which nothing can be given back"},
}

var tellings = []struct {
	Key  Telling
	Says string
}{{atOnce, "The desk tells of it at once"}, {twice, "It tells of it twice"}, {late, "It tells of it a minute later"},
	{never, "It never tells of it"}}

//go:embed pay.html
var source string

var pageOf = template.Must(template.New("pay").Parse(source))

func (d *Desk) page(w http.ResponseWriter, r *http.Request) {
	d.mu.Lock()
	c := d.look(r.PathValue("id"))
	d.mu.Unlock()
	if c == nil {
		http.NotFound(w, r)
		return
	}
	d.draw(w, c, "")
}

func (d *Desk) draw(w http.ResponseWriter, c *kept, problem string) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	d.mu.Lock()
	defer d.mu.Unlock()
	pageOf.Execute(
		w,
		map[string]any{"Sum": money.Format(c.Amount, c.Currency), "What": c.What, "Reference": c.Reference,
			"State": string(c.State), "Back": c.Return, "Problem": problem, "Cards": cards, "Tellings": tellings},
	)
}

// pay takes a card.
func (d *Desk) pay(w http.ResponseWriter, r *http.Request) {
	r.ParseForm()
	id := r.PathValue("id")
	switch d.Take(id, r.Form.Get("card"), Telling(r.Form.Get("telling"))) {
	case Declined:
		d.mu.Lock()
		c := d.book.Checkouts[id]
		d.mu.Unlock()
		d.draw(w, c, "The card was declined. Nothing was paid; try another card, or go back.")
	case NoSuch:
		http.NotFound(w, r)
	default: // taken, or it was paid or closed before: the shop says so
		d.mu.Lock()
		back := d.book.Checkouts[id].Return
		d.mu.Unlock()
		http.Redirect(w, r, back, http.StatusSeeOther)
	}
}

// What came of a card.
type Taken string

// What can come of one.
const (
	Took     Taken = "taken"
	Declined Taken = "declined"
	TooLate  Taken = "closed"
	NoSuch   Taken = "no such checkout"
)

// Take a card for a checkout, as its page does.
func (d *Desk) Take(id, card string, telling Telling) Taken {
	d.mu.Lock()
	defer d.mu.Unlock()
	c := d.look(id)
	switch {
	case c == nil:
		return NoSuch
	case c.State != desk.Open:
		return TooLate
	case card == "declined":
		c.Declined++
		d.keep()
		d.tell(c, telling)
		return Declined
	}
	amount := c.Amount
	unit := int64(1)
	for range money.Digits(c.Currency) {
		unit *= 10
	}
	switch card {
	case "less":
		amount = max(amount-10*unit, 1)
	case "more":
		amount += 5 * unit
	case "keeps":
		c.NoBack = true
	}
	p := desk.Payment{ID: d.number("p"), Amount: amount, At: d.now().UTC()}
	c.Payments, c.State = append(c.Payments, p), desk.Paid
	d.book.Payments[p.ID] = c.ID
	d.keep()
	d.tell(c, telling)
	return Took
}

// tell of a checkout; the caller holds the lock. A notice that is not taken is
// sent again, a while later each time.
func (d *Desk) tell(c *kept, how Telling) {
	if d.notify == "" || how == never {
		return
	}
	body, err := json.Marshal(desk.Notice{ID: d.number("n"), Checkout: c.Checkout})
	if err != nil {
		panic(err)
	}
	times := 1
	if how == twice {
		times = 2
	}
	wait := time.Duration(0)
	if how == late {
		wait = d.Late
	}
	for range times {
		d.told.Go(func() { d.deliver(body, wait) })
	}
}

func (d *Desk) deliver(body []byte, wait time.Duration) {
	for try := range 8 {
		select {
		case <-d.stop:
			return
		case <-time.After(wait):
		}
		if d.post(body) {
			return
		}
		wait = time.Second << try
	}
}

// post a notice once, signed with the time at which it leaves.
func (d *Desk) post(body []byte) bool {
	if d.Down.Load() {
		return false
	}
	at := d.now().UTC().Format(time.RFC3339Nano)
	req, err := http.NewRequest(http.MethodPost, d.notify, bytes.NewReader(body))
	if err != nil {
		return false
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set(desk.TimeHeader, at)
	req.Header.Set(desk.MACHeader, desk.MAC(d.secret, at, body))
	res, err := (&http.Client{Timeout: 10 * time.Second}).Do(req)
	if err != nil {
		return false
	}
	res.Body.Close()
	return res.StatusCode/100 == 2
}

// Checkouts lists what the desk has for a reference, the oldest first.
func (d *Desk) Checkouts(reference string) (out []desk.Checkout) {
	d.mu.Lock()
	defer d.mu.Unlock()
	for n := range d.book.Last + 1 {
		if c := d.look(fmt.Sprintf("c%06d", n)); c != nil && c.Reference == reference {
			out = append(out, c.Checkout)
		}
	}
	return out
}
