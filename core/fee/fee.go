// Package fee follows the fee of one application from being charged to being
// settled: what is paid, what goes back, and when the application is in. It keeps
// two things apart that people take for one: sending, which seals, and paying,
// which may come by another day, another person and another road. Whatever the
// payment desk says, twice, late or out of order, is taken in as what the desk
// now knows of a checkout: what is known already changes nothing.
package fee

import (
	"slices"
	"strconv"
	"time"

	"ulvant/core/ledger"
)

// Stand of an application as its fee sees it.
type Stand string

// The stands.
const (
	Waiting Stand = "waiting" // it is in when the fee is paid
	In      Stand = "in"      // paid, let off, or on an invoice
	Over    Stand = "over"    // the time to pay is gone
	Gone    Stand = "gone"    // withdrawn
)

// Charge is the fee of one application and all that came of it.
type Charge struct {
	Total    int64     // minor units, as it was worked out when it was sent
	LetOff   int64     // what is asked no longer
	Lapsed   int64     // the part of LetOff that is asked again if a payment turns out to have been in time
	At       time.Time // it was charged
	Closes   time.Time // a payment is begun before it
	PayBy    time.Time // and through before it
	Invoice  bool      // it is paid by transfer, at any time
	Stand    Stand
	Payments []Payment
	Returns  []Return
}

// Payment that has come in.
type Payment struct {
	ID     string // the desk's, or the bank's
	Amount int64
	Begun  time.Time // when its checkout was made; of a transfer, the day it came
	At     time.Time
	Bank   bool // by transfer
}

// State of a return.
type State string

// The states of a return.
const (
	Proposed State = "proposed" // a second person must agree
	Wanted   State = "wanted"   // to be asked of the desk, or sent by transfer
	Done     State = "done"
	Refused  State = "refused" // by the second person
	Failed   State = "failed"  // the desk would not
	Replaced State = "asked again"
)

// Why money goes back.
type Why string

// The reasons.
const (
	Late      Why = "late"      // it was begun, or came through, after its time
	Twice     Why = "twice"     // it was paid already
	TooMuch   Why = "too much"  // the rest was less
	Withdrawn Why = "withdrawn" // by the round's policy
	TimeOver  Why = "time over" // a part was paid, the rest did not come
	ByOffice  Why = "by the office"
	LetOffNow Why = "let off" // what was paid of what is asked no longer
	ByDesk    Why = "by the desk"
)

// Return is money that goes back.
type Return struct {
	Key     string // ours, by which the desk knows it again
	Payment string // of which it is a part
	Amount  int64
	Why     Why
	State   State
	Desk    string // the desk's number; "" until it is done
	Bank    bool
}

// open reports a return that is done, or will be.
func (r Return) open() bool { return r.State == Proposed || r.State == Wanted || r.State == Done }

// Paid is all that came in.
func (c *Charge) Paid() (sum int64) {
	for _, p := range c.Payments {
		sum += p.Amount
	}
	return sum
}

// Back is all that goes back, or went.
func (c *Charge) Back() (sum int64) {
	for _, r := range c.Returns {
		if r.open() {
			sum += r.Amount
		}
	}
	return sum
}

// Due is what is to be paid in all.
func (c *Charge) Due() int64 { return c.Total - c.LetOff }

// Rest is what is still to be paid; below 0 what is owed to the payer. What is
// only proposed to go back is not asked for again.
func (c *Charge) Rest() int64 {
	rest := c.Due() - c.Paid()
	for _, r := range c.Returns {
		if r.open() && r.State != Proposed {
			rest += r.Amount
		}
	}
	return rest
}

// left is what of a payment can still go back.
func (c *Charge) left(p Payment) int64 {
	n := p.Amount
	for _, r := range c.Returns {
		if r.Payment == p.ID && r.open() {
			n -= r.Amount
		}
	}
	return n
}

// MayPay says whether a payment can be begun at an instant.
func (c *Charge) MayPay(at time.Time) bool {
	return c.Rest() > 0 && (c.Stand == In || c.Stand == Waiting) && (c.Invoice || at.Before(c.Closes))
}

// InTime reports a payment that counts: begun before closing and through within
// the grace.
func (c *Charge) InTime(p Payment) bool {
	return c.Invoice || p.Begun.Before(c.Closes) && p.At.Before(c.PayBy)
}

// Checkout is what the desk knows of one at some moment.
type Checkout struct {
	Begun    time.Time // when we made it
	Payments []Payment
	Refunds  []Refund
}

// Refund as the desk knows it. Key is ours; "" for one that was made at the desk.
type Refund struct {
	ID, Key, Payment string
	Amount           int64
	At               time.Time
	Failed           bool
}

// News is what changed, for the ledger, for the case and for whoever is told.
type News struct {
	Entries []ledger.Entry
	Enters  bool     // the application is in from now on
	Came    []Came   // what came of each payment that is new
	Done    []Return // what went back for good
	Failed  []Return // what the desk would not give back
}

// Came is what became of a payment: so much of it counts, the rest goes back.
type Came struct {
	Payment
	Keeps int64
	Back  int64
	Why   Why // why some goes back; "" for nothing
}

// Empty reports that there is no news.
func (n News) Empty() bool {
	return len(n.Entries) == 0 && !n.Enters && len(n.Came) == 0 && len(n.Done) == 0 && len(n.Failed) == 0
}

// Apply takes in what the desk knows of a checkout. What is known already is no
// news; the order of what is told does not matter.
func (c *Charge) Apply(k Checkout) (n News) {
	for _, p := range k.Payments {
		p.Begun = k.Begun
		c.take(p, &n)
	}
	for _, r := range k.Refunds {
		c.refunded(r, &n)
	}
	return n
}

// PaidIn takes in a transfer that the office has found at the bank.
func (c *Charge) PaidIn(p Payment) (n News) {
	p.Bank = true
	c.take(p, &n)
	return n
}

// take decides on one payment.
func (c *Charge) take(p Payment, n *News) {
	if p.Amount <= 0 || slices.ContainsFunc(c.Payments, func(o Payment) bool { return o.ID == p.ID }) {
		return
	}
	if c.Stand == Over && c.InTime(p) {
		c.askAgain(n, p.At)
		c.Stand = Waiting // until it is seen whether this is all of it
	}
	rest := max(c.Rest(), 0)
	c.Payments = append(c.Payments, p)
	kind := ledger.Paid
	if p.Bank {
		kind = ledger.PaidIn
	}
	n.Entries = append(n.Entries, ledger.Entry{Kind: kind, Ref: "paid " + p.ID, Amount: p.Amount, At: p.At})
	out := Came{Payment: p}
	switch {
	case !c.InTime(p):
		out.Back, out.Why = p.Amount, Late
	case rest == 0 && c.Stand == Gone:
		out.Back, out.Why = p.Amount, Withdrawn
	case rest == 0:
		out.Back, out.Why = p.Amount, Twice
	case p.Amount > rest:
		out.Back, out.Why = p.Amount-rest, TooMuch
	}
	out.Keeps = p.Amount - out.Back
	if out.Back > 0 {
		c.giveBack(p, out.Back, out.Why, Wanted)
	}
	n.Came = append(n.Came, out)
	c.enter(n)
}

// enter lets the application in once nothing is left to pay. A payment that was
// in time counts also where its news came after the time was over.
func (c *Charge) enter(n *News) {
	if c.Stand == Waiting && c.Due() > 0 && c.keeps() >= c.Due() {
		c.Stand, n.Enters = In, true
	}
}

// askAgain asks once more for what was let off when the time was over.
func (c *Charge) askAgain(n *News, at time.Time) {
	if c.Lapsed > 0 {
		n.Entries = append(n.Entries, ledger.Entry{Kind: ledger.Charged, Amount: c.Lapsed, At: at,
			Ref: "again " + strconv.FormatInt(c.PayBy.Unix(), 10) + "/" + strconv.Itoa(len(c.Payments))})
		c.LetOff, c.Lapsed = c.LetOff-c.Lapsed, 0
	}
}

// keeps is what of the payments stays.
func (c *Charge) keeps() int64 { return c.Paid() - c.Back() }

// giveBack adds a return of a payment.
func (c *Charge) giveBack(p Payment, amount int64, why Why, s State) Return {
	r := Return{Key: p.ID + "/" + strconv.Itoa(len(c.Returns)+1), Payment: p.ID, Amount: amount, Why: why, State: s,
		Bank: p.Bank}
	c.Returns = append(c.Returns, r)
	return r
}

// refunded takes in a refund that the desk has made, or would not make.
func (c *Charge) refunded(r Refund, n *News) {
	i := slices.IndexFunc(c.Returns, func(o Return) bool {
		return o.Desk != "" && o.Desk == r.ID || r.Key != "" && o.Key == r.Key
	})
	switch {
	case i >= 0 && c.Returns[i].State == Done, r.Amount <= 0:
		return
	case i >= 0 && r.Failed:
		c.failed(i, n)
		return
	case r.Failed:
		return
	case i < 0: // somebody gave it back at the desk
		c.Returns = append(c.Returns, Return{Key: "desk " + r.ID, Payment: r.Payment, Amount: r.Amount, Why: ByDesk,
			State: Done})
		i = len(c.Returns) - 1
	}
	c.done(i, r.ID, r.At, n)
	c.fit(r.Payment)
}

// fit makes what is still to go back of a payment no more than is left of it: the
// desk cannot have done both, so what was wanted is wanted anew, for the rest.
func (c *Charge) fit(payment string) {
	p := Payment{ID: payment, Amount: c.paid(payment)}
	for i := len(c.Returns) - 1; i >= 0 && c.left(p) < 0; i-- {
		if r := &c.Returns[i]; r.Payment == payment && r.State == Proposed { // the desk was not asked for it
			r.State = Refused
		}
	}
	for i := len(c.Returns) - 1; i >= 0 && c.left(p) < 0; i-- {
		r := &c.Returns[i]
		if r.Payment != payment || r.State != Wanted {
			continue
		}
		was := *r
		r.State = Replaced
		if left := min(c.left(p), was.Amount, -c.Rest()); left > 0 {
			c.giveBack(p, left, was.Why, Wanted)
		}
	}
}

// failed keeps that the desk would not give something back. Where nothing is left
// of the payment there is nothing to ask for again.
func (c *Charge) failed(i int, n *News) {
	if c.Returns[i].State != Wanted {
		return
	}
	c.Returns[i].State = Failed
	if c.left(Payment{ID: c.Returns[i].Payment, Amount: c.paid(c.Returns[i].Payment)}) <= 0 {
		c.Returns[i].State = Replaced
	}
	n.Failed = append(n.Failed, c.Returns[i])
}

func (c *Charge) done(i int, desk string, at time.Time, n *News) {
	x := &c.Returns[i]
	x.State, x.Desk = Done, desk
	kind := ledger.GivenBack
	if x.Bank {
		kind = ledger.SentBack
	}
	n.Entries = append(n.Entries, ledger.Entry{Kind: kind, Ref: "back " + x.Key, Amount: x.Amount, At: at})
	n.Done = append(n.Done, *x)
}
