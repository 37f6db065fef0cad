package fee_test

import (
	"math/rand/v2"
	"slices"
	"strconv"
	"testing"
	"time"

	"ulvant/core/fee"
	"ulvant/core/ledger"
)

// desk is a payment desk as plain as can be: what it took and gave back, by
// checkout. Refunds are asked for under a key, and one key is one refund.
type desk struct {
	checkouts []fee.Checkout
	holds     int64
	last      int
}

func (d *desk) number() string { d.last++; return strconv.Itoa(d.last) }

func (d *desk) refund(key, payment string, amount int64, at time.Time, failed bool) {
	for i := range d.checkouts {
		k := &d.checkouts[i]
		for _, r := range k.Refunds {
			if key != "" && r.Key == key {
				return
			}
		}
		if slices.ContainsFunc(k.Payments, func(p fee.Payment) bool { return p.ID == payment }) {
			left := amount
			for _, p := range k.Payments {
				if p.ID == payment {
					left = p.Amount
				}
			}
			for _, r := range k.Refunds {
				if r.Payment == payment && !r.Failed {
					left -= r.Amount
				}
			}
			failed = failed || amount > left
			if failed && key == "" {
				return
			}
			k.Refunds = append(k.Refunds, fee.Refund{ID: "r" + d.number(), Key: key, Payment: payment, Amount: amount,
				At: at, Failed: failed})
			if !failed {
				d.holds -= amount
			}
			return
		}
	}
}

// snapshot of a checkout as a notice carries it.
func (d *desk) snapshot(i int) fee.Checkout {
	k := d.checkouts[i]
	k.Payments, k.Refunds = slices.Clone(k.Payments), slices.Clone(k.Refunds)
	return k
}

func clone(c fee.Charge) fee.Charge {
	c.Payments, c.Returns = slices.Clone(c.Payments), slices.Clone(c.Returns)
	return c
}

// However the events of one fee fall, told once, twice, never, in any order, with
// kills between what the desk does and what is kept of it: every account's sum is
// right at every step, nothing enters twice, and in the end nobody's money is lost.
func TestSequences(t *testing.T) {
	for seed := range uint64(10_000) {
		play(t, rand.New(rand.NewPCG(seed, 15)))
		if t.Failed() {
			t.Fatalf("the sequence of seed %d", seed)
		}
	}
}

func play(t *testing.T, r *rand.Rand) {
	t.Helper()
	due := int64(r.IntN(4)) * 3000
	at := closes.Add(-2 * time.Hour)
	c, n := fee.New(due, at, closes, grace, r.IntN(5) == 0)
	d := &desk{}
	var told []fee.Checkout
	var entries []ledger.Entry
	entered := 0
	keep := func(next fee.Charge, n fee.News) {
		if r.IntN(8) == 0 && len(n.Entries) > 0 && next.Stand == c.Stand && len(told) > 0 {
			return // killed before it was kept; what the desk knows is told again
		}
		if n.Enters {
			entered++
		}
		for _, e := range n.Entries {
			if slices.ContainsFunc(entries, func(o ledger.Entry) bool { return o.Ref == e.Ref }) {
				t.Errorf("%q stands in the ledger twice", e.Ref)
			}
		}
		if left := c.Stand == fee.In && next.Stand != fee.In && next.Stand != fee.Gone; left {
			t.Errorf("what was in is %s", next.Stand)
		}
		c, entries = next, append(entries, n.Entries...)
		check(t, &c, entries)
	}
	keep(c, n)
	act := func(f func(x *fee.Charge) fee.News) {
		x := clone(c)
		n := f(&x)
		keep(x, n)
	}
	for range 4 + r.IntN(24) {
		at = at.Add(time.Duration(r.IntN(20)) * time.Minute)
		switch r.IntN(12) {
		case 0, 1:
			if c.MayPay(at) {
				d.checkouts = append(d.checkouts, fee.Checkout{Begun: at})
			}
		case 2, 3:
			if len(d.checkouts) > 0 {
				k := &d.checkouts[r.IntN(len(d.checkouts))]
				amount := due
				if r.IntN(6) == 0 {
					amount = int64(1 + r.IntN(12_000))
				}
				k.Payments = append(k.Payments, fee.Payment{ID: "p" + d.number(), Amount: amount, At: at})
				d.holds += amount
			}
		case 4:
			if len(d.checkouts) > 0 {
				told = append(told, d.snapshot(r.IntN(len(d.checkouts))))
			}
		case 5, 6:
			if len(told) > 0 { // not taken out: it may be told again, after a newer one
				k := told[r.IntN(len(told))]
				act(func(x *fee.Charge) fee.News { return x.Apply(k) })
			}
		case 7:
			act(func(x *fee.Charge) fee.News { n, _ := x.RunOut(at); return n })
		case 8:
			send(d, &c, at, r.IntN(5) == 0)
		case 9:
			act(func(x *fee.Charge) fee.News {
				_, n, _ := x.GiveBack(int64(r.IntN(4000)), 2000, at)
				return n
			})
		case 10:
			if r.IntN(4) == 0 {
				act(func(x *fee.Charge) fee.News { return x.WithdrawAt(at, r.IntN(101)) })
			} else if i := slices.IndexFunc(c.Returns, func(o fee.Return) bool { return o.State == fee.Proposed }); i >= 0 {
				act(func(x *fee.Charge) fee.News { n, _ := x.Agree(x.Returns[i].Key, r.IntN(2) == 0, at); return n })
			}
		case 11:
			switch r.IntN(4) {
			case 3: // the desk gives back by itself, as when a bank takes it
				if len(d.checkouts) > 0 {
					if k := d.checkouts[r.IntN(len(d.checkouts))]; len(k.Payments) > 0 {
						d.refund("", k.Payments[0].ID, int64(1+r.IntN(9000)), at, false)
					}
				}
			case 0:
				act(func(x *fee.Charge) fee.News { n, _ := x.LetItOff(at); return n })
			case 1:
				act(func(x *fee.Charge) fee.News { n, _ := x.MoreTime(at.Add(time.Hour), at); return n })
			case 2:
				act(func(x *fee.Charge) fee.News {
					return x.PaidIn(fee.Payment{ID: "b" + d.number(), Amount: due, Begun: at, At: at})
				})
			}
		}
	}
	settle(t, r, d, &c, &entries, at.Add(100*time.Hour), &entered)
}

// send asks the desk for what is wanted back; whether it is kept is another matter.
func send(d *desk, c *fee.Charge, at time.Time, failed bool) {
	for _, x := range c.Returns {
		if x.State == fee.Wanted && !x.Bank {
			d.refund(x.Key, x.Payment, x.Amount, at, failed)
		}
	}
}

// check the accounts against the charge itself.
func check(t *testing.T, c *fee.Charge, entries []ledger.Entry) {
	t.Helper()
	b := ledger.Sum(entries)
	applicants, desk, bank, earned := c.Account()
	if !b.Even() || b.Sums[ledger.Applicants] != applicants || b.Sums[ledger.Desk] != desk ||
		b.Sums[ledger.Bank] != bank ||
		b.Sums[ledger.Earned] != earned {
		t.Fatalf("the ledger has %v, the charge %d %d %d %d: %+v", b.Sums, applicants, desk, bank, earned, c)
	}
	for _, p := range c.Payments {
		back := int64(0)
		for _, r := range c.Returns {
			if r.Payment == p.ID && r.State != fee.Refused && r.State != fee.Failed && r.State != fee.Replaced {
				back += r.Amount
			}
		}
		if back > p.Amount {
			t.Fatalf("more goes back of %s than it was: %+v", p.ID, c)
		}
	}
	if c.Paid()-c.Back() < 0 || c.Due() < 0 {
		t.Fatalf("below nothing: %+v", c)
	}
}

// settle lets everything come to rest, as the sweep does: the desk is asked for
// what it knows until there is no news, and what failed is asked for again.
func settle(t *testing.T, r *rand.Rand, d *desk, c *fee.Charge, entries *[]ledger.Entry, at time.Time, entered *int) {
	t.Helper()
	take := func(n fee.News) bool {
		*entries = append(*entries, n.Entries...)
		if n.Enters {
			*entered++
		}
		check(t, c, *entries)
		return !n.Empty()
	}
	for more := true; more; {
		more = false
		for _, i := range r.Perm(len(d.checkouts)) {
			more = take(c.Apply(d.snapshot(i))) || more
		}
		n, over := c.RunOut(at)
		take(n)
		more = more || over
		for _, x := range slices.Clone(c.Returns) {
			switch {
			case x.State == fee.Failed && r.IntN(2) == 0:
				n, _ := c.Transferred(x.Key, at)
				more = take(n) || more
			case x.State == fee.Failed:
				more = c.Again(x.Key) == nil || more
			case x.State == fee.Wanted && x.Bank:
				n, _ := c.Transferred(x.Key, at)
				more = take(n) || more
			case x.State == fee.Proposed:
				n, _ := c.Agree(x.Key, false, at)
				take(n)
				more = true
			}
		}
		before := d.last
		send(d, c, at, false)
		more = more || d.last != before
	}
	applicants, desk, _, _ := c.Account()
	keeps := c.Paid() - c.Back()
	taken := int64(0) // by the desk or a bank: what is in stays in, and its fee is open
	for _, r := range c.Returns {
		if r.Why == fee.ByDesk {
			taken += r.Amount
		}
	}
	switch {
	case desk != d.holds:
		t.Errorf("the desk holds %d, the ledger says %d", d.holds, desk)
	case c.Stand == fee.Over && (keeps != 0 || applicants != 0):
		t.Errorf("it is not in, and %d of its money is kept (%d owed): %+v", keeps, applicants, c)
	case c.Stand == fee.In && !c.Invoice && taken == 0 && (keeps != c.Due() || applicants != 0),
		c.Stand == fee.In && !c.Invoice && keeps+taken < c.Due():
		t.Errorf("it is in, and paid %d of %d: %+v", keeps, c.Due(), c)
	case keeps > c.Due():
		t.Errorf("%d is kept of %d: %+v", keeps, c.Due(), c)
	case *entered > 1:
		t.Errorf("it went in %d times", *entered)
	case c.Stand == fee.Waiting:
		t.Errorf("it still waits: %+v", c)
	}
}
