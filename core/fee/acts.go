package fee

import (
	"strconv"
	"time"

	"ulvant/core/ledger"
	"ulvant/core/refusal"
)

// New charges an application that is sent. Nothing to pay, or an invoice, lets it
// in at once.
func New(total int64, at, closes time.Time, grace time.Duration, invoice bool) (c Charge, n News) {
	c = Charge{Total: total, At: at, Closes: closes, PayBy: closes.Add(grace), Invoice: invoice, Stand: Waiting}
	if total > 0 {
		n.Entries = append(n.Entries, ledger.Entry{Kind: ledger.Charged, Ref: "charged", Amount: total, At: at})
	}
	if total == 0 || invoice {
		c.Stand, n.Enters = In, true
	}
	return c, n
}

// OnInvoice lets an application in that waits, and is paid by transfer.
func (c *Charge) OnInvoice() (n News, err error) {
	if c.Stand != Waiting {
		return n, refusal.New("an invoice is for an application that waits for its payment")
	}
	c.Invoice, c.Stand, n.Enters = true, In, true
	return n, nil
}

// RunOut ends the time to pay; what was paid in part goes back. over is false
// before its time, and where nothing waits.
func (c *Charge) RunOut(at time.Time) (n News, over bool) {
	if c.Stand != Waiting || at.Before(c.PayBy) {
		return n, false
	}
	c.drop()
	c.Stand, c.Lapsed = Over, c.Due()
	c.LetOff += c.Lapsed
	n.Entries = append(
		n.Entries,
		ledger.Entry{Kind: ledger.LetOff, Ref: "run out " + strconv.FormatInt(c.PayBy.Unix(), 10) +
			"/" + strconv.Itoa(len(c.Payments)),
			Amount: c.Lapsed, At: at},
	)
	for _, p := range c.Payments {
		if left := c.left(p); left > 0 {
			c.giveBack(p, left, TimeOver, Wanted)
		}
	}
	return n, true
}

// MoreTime lets an application be paid until another moment: one whose time is
// over, one that waits, and one that is in though its payment was taken back.
func (c *Charge) MoreTime(until, at time.Time) (n News, err error) {
	if c.Stand == Gone || c.Stand == In && c.Rest() <= 0 {
		return n, refusal.New("it waits for no payment")
	}
	if !until.After(c.PayBy) || !until.After(at) {
		return n, refusal.In("until", "The new time must be still to come, and after the one there was.")
	}
	if c.Stand == Over {
		c.askAgain(&n, at)
		c.Stand = Waiting
	}
	c.Closes, c.PayBy = until, until
	return n, nil
}

// WithdrawAt gives back the round's part of what was paid: percent of it, and all
// of it for an application that was never in, or never due.
func (c *Charge) WithdrawAt(at time.Time, percent int) (n News) {
	if c.Stand == Gone {
		return n
	}
	c.drop()
	off := c.Due()
	if c.Stand == In {
		off = off * int64(percent) / 100
	}
	if off > 0 {
		c.LetOff += off
		n.Entries = append(n.Entries, ledger.Entry{Kind: ledger.LetOff, Ref: "withdrawn", Amount: off, At: at})
	}
	c.Stand, c.Lapsed = Gone, 0
	c.spread(c.keeps()-c.Due(), Withdrawn, Wanted)
	return n
}

// drop what is only proposed: the money goes by a rule now.
func (c *Charge) drop() {
	for i := range c.Returns {
		if c.Returns[i].State == Proposed {
			c.Returns[i].State = Refused
		}
	}
}

// spread gives a sum back, of the latest payments first.
func (c *Charge) spread(sum int64, why Why, s State) (out []Return) {
	for i := len(c.Payments) - 1; i >= 0 && sum > 0; i-- {
		if part := min(c.left(c.Payments[i]), sum); part > 0 {
			out = append(out, c.giveBack(c.Payments[i], part, why, s))
			sum -= part
		}
	}
	return out
}

// LetItOff asks nothing more for an application: the office's act, which it does
// for all who stand alike. What was paid goes back.
func (c *Charge) LetItOff(at time.Time) (n News, err error) {
	off := c.Due()
	switch {
	case c.Stand == Gone:
		return n, refusal.New("it is withdrawn")
	case off+c.Lapsed <= 0:
		return n, refusal.New("nothing is asked for it")
	}
	c.drop()
	if c.Lapsed = 0; off > 0 {
		c.LetOff += off
		n.Entries = append(n.Entries, ledger.Entry{Kind: ledger.LetOff, Ref: "let off", Amount: off, At: at})
	}
	c.spread(c.keeps(), LetOffNow, Wanted)
	if c.Stand == Waiting || c.Stand == Over {
		c.Stand, n.Enters = In, true
	}
	return n, nil
}

// Counts is what is here of the payments and owed to nobody.
func (c *Charge) Counts() int64 { return c.keeps() - max(-c.Rest(), 0) }

// GiveBack is the office's own act: a sum of what was paid goes back, and is not
// asked for again. Above second it waits for a second person.
func (c *Charge) GiveBack(sum, second int64, at time.Time) (out []Return, n News, err error) {
	if sum <= 0 {
		return nil, n, refusal.In("amount", "Give a sum above nothing.")
	}
	if sum > c.Counts() {
		return nil, n, refusal.In("amount", "No more can go back than was paid and is still here.")
	}
	s := Wanted
	if sum > second {
		s = Proposed
	}
	out = c.spread(sum, ByOffice, s)
	if s == Wanted {
		n = c.unearn(out, at)
	}
	return out, n, nil
}

// unearn takes what goes back out of what was earned.
func (c *Charge) unearn(list []Return, at time.Time) (n News) {
	for _, r := range list {
		c.LetOff += r.Amount
		n.Entries = append(
			n.Entries,
			ledger.Entry{Kind: ledger.LetOff, Ref: "for " + r.Key, Amount: r.Amount, At: at},
		)
	}
	return n
}

// Agree is the second person's word on what was proposed.
func (c *Charge) Agree(key string, yes bool, at time.Time) (n News, err error) {
	for i := range c.Returns {
		r := &c.Returns[i]
		if r.Key != key || r.State != Proposed {
			continue
		}
		if !yes {
			r.State = Refused
			return n, nil
		}
		r.State = Wanted
		return c.unearn([]Return{*r}, at), nil
	}
	return n, refusal.New("nothing is proposed there any more")
}

// Transferred records that what goes back by transfer has left: money that came so,
// and what the desk would not give back.
func (c *Charge) Transferred(key string, at time.Time) (n News, err error) {
	for i := range c.Returns {
		if r := c.Returns[i]; r.Key == key && (r.Bank && r.State == Wanted || r.State == Failed) {
			c.Returns[i].Bank = true
			c.done(i, "", at, &n)
			return n, nil
		}
	}
	return n, refusal.New("nothing waits there to be transferred")
}

// Again asks the desk once more for what it would not give back.
func (c *Charge) Again(key string) error {
	for i := range c.Returns {
		r := c.Returns[i]
		if r.Key != key || r.State != Failed {
			continue
		}
		// no more than is still owed to whoever paid, of this payment if it is there
		c.Returns[i].State = Replaced
		p := Payment{ID: r.Payment, Amount: c.paid(r.Payment), Bank: r.Bank}
		owed := min(r.Amount, -c.Rest())
		if first := min(owed, c.left(p)); first > 0 {
			c.giveBack(p, first, r.Why, Wanted)
			owed -= first
		}
		c.spread(owed, r.Why, Wanted)
		return nil
	}
	return refusal.New("there is nothing to ask for again")
}

// paid is the amount of one payment.
func (c *Charge) paid(id string) int64 {
	for _, p := range c.Payments {
		if p.ID == id {
			return p.Amount
		}
	}
	return 0
}

// Account is what the entries of a charge must come to: a check, worked out apart
// from the entries.
func (c *Charge) Account() (applicants, desk, bank, earned int64) {
	earned = -(c.Total - c.LetOff)
	applicants = -earned
	for _, p := range c.Payments {
		applicants -= p.Amount
		if p.Bank {
			bank += p.Amount
		} else {
			desk += p.Amount
		}
	}
	for _, r := range c.Returns {
		if r.State != Done {
			continue
		}
		applicants += r.Amount
		if r.Bank {
			bank -= r.Amount
		} else {
			desk -= r.Amount
		}
	}
	return applicants, desk, bank, earned
}
