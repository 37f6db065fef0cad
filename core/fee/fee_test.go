package fee_test

import (
	"testing"
	"time"

	"ulvant/core/fee"
	"ulvant/core/ledger"
)

var (
	closes = time.Date(2027, 3, 28, 15, 0, 0, 0, time.UTC)
	grace  = time.Hour
)

func waiting(t *testing.T, total int64) fee.Charge {
	t.Helper()
	c, n := fee.New(total, closes.Add(-time.Hour), closes, grace, false)
	if c.Stand != fee.Waiting || n.Enters || len(n.Entries) != 1 {
		t.Fatalf("%+v, %+v", c, n)
	}
	return c
}

func paid(id string, amount int64, begun, at time.Duration) fee.Checkout {
	return fee.Checkout{
		Begun:    closes.Add(begun),
		Payments: []fee.Payment{{ID: id, Amount: amount, At: closes.Add(at)}},
	}
}

// Each thing that can happen to a payment has one outcome.
func TestOutcomes(t *testing.T) {
	const early, second = -30 * time.Minute, time.Second
	for _, c := range []struct {
		name  string
		come  []fee.Checkout
		stand fee.Stand
		keeps int64
		back  int64
		why   fee.Why
	}{
		{"paid", []fee.Checkout{paid("a", 9000, early, early)}, fee.In, 9000, 0, ""},
		{"told twice", []fee.Checkout{paid("a", 9000, early, early), paid("a", 9000, early, early)}, fee.In, 9000, 0, ""},
		{"begun 2 s before closing, through within the hour", []fee.Checkout{paid("a", 9000, -2*second, grace-second)},
			fee.In, 9000, 0, ""},
		{"through at the very end of the grace", []fee.Checkout{paid("a", 9000, -2*second, grace)},
			fee.Waiting, 0, 9000, fee.Late},
		{"begun at closing", []fee.Checkout{paid("a", 9000, 0, second)}, fee.Waiting, 0, 9000, fee.Late},
		{"two at once", []fee.Checkout{paid("a", 9000, early, early), paid("b", 9000, early, early)},
			fee.In, 9000, 9000, fee.Twice},
		{"too little", []fee.Checkout{paid("a", 8000, early, early)}, fee.Waiting, 8000, 0, ""},
		{"too little, then the rest", []fee.Checkout{paid("a", 8000, early, early), paid("b", 1000, early, early)},
			fee.In, 9000, 0, ""},
		{"too little, then all of it", []fee.Checkout{paid("a", 8000, early, early), paid("b", 9000, early, early)},
			fee.In, 9000, 8000, fee.TooMuch},
		{"too much", []fee.Checkout{paid("a", 9500, early, early)}, fee.In, 9000, 500, fee.TooMuch},
		{"nothing", []fee.Checkout{paid("a", 0, early, early)}, fee.Waiting, 0, 0, ""},
	} {
		x := waiting(t, 9000)
		var why fee.Why
		for _, k := range c.come {
			for _, came := range x.Apply(k).Came {
				if came.Keeps+came.Back != came.Amount {
					t.Errorf("%s: of %d it keeps %d and gives back %d", c.name, came.Amount, came.Keeps, came.Back)
				}
				if came.Why != "" {
					why = came.Why
				}
			}
		}
		if keeps := x.Paid() - x.Back(); x.Stand != c.stand || keeps != c.keeps || x.Back() != c.back ||
			why != c.why {
			t.Errorf("%s: %s, keeps %d, gives back %d for %q", c.name, x.Stand, keeps, x.Back(), why)
		}
	}
}

// The news of a payment that was in time may come days after it: it is in all the
// same, and the fee is asked once.
func TestLateNews(t *testing.T) {
	c := waiting(t, 9000)
	if _, over := c.RunOut(closes.Add(grace - time.Nanosecond)); over {
		t.Error("it runs out before its time")
	}
	n, over := c.RunOut(closes.Add(grace))
	if !over || c.Stand != fee.Over || c.Rest() != 0 || len(n.Entries) != 1 {
		t.Fatalf("%v %+v", over, c)
	}
	if _, again := c.RunOut(closes.Add(2 * grace)); again {
		t.Error("it runs out twice")
	}
	if n := c.Apply(paid("late", 9000, time.Second, 2*time.Second)); n.Enters || c.Back() != 9000 {
		t.Errorf("one begun after closing: %+v", c)
	}
	if n := c.Apply(paid("lost", 9000, -time.Minute, -time.Second)); !n.Enters || c.Stand != fee.In ||
		c.Rest() != 0 ||
		c.Due() != 9000 {
		t.Errorf("one whose news was lost: %+v %+v", n, c)
	}
	part := waiting(t, 9000)
	part.Apply(paid("a", 4000, -time.Minute, -time.Minute))
	if part.RunOut(closes.Add(grace)); part.Back() != 4000 || part.Returns[0].Why != fee.TimeOver {
		t.Errorf("a part that was paid: %+v", part)
	}
	until := closes.Add(48 * time.Hour)
	if _, err := part.MoreTime(until, closes.Add(72*time.Hour)); err == nil {
		t.Error("more time that is over")
	}
	if _, err := part.MoreTime(until, closes.Add(2*time.Hour)); err != nil || part.Stand != fee.Waiting ||
		part.Rest() != 9000 || !part.MayPay(until.Add(-time.Second)) || part.MayPay(until) {
		t.Errorf("more time: %v %+v", err, part)
	}
}

// What the office does: let off, give back with a second person, an invoice.
func TestActs(t *testing.T) {
	c := waiting(t, 9000)
	if n, err := c.LetItOff(closes); err != nil || !n.Enters || c.Due() != 0 {
		t.Errorf("let off: %v %+v", err, c)
	}
	if c.Apply(paid("a", 9000, -time.Minute, -time.Minute)); c.Back() != 9000 {
		t.Errorf("paid after it was let off: %+v", c)
	}
	c = waiting(t, 9000)
	c.Apply(paid("a", 9000, -time.Minute, -time.Minute))
	if list, _, err := c.GiveBack(3000, 5000, closes); err != nil || list[0].State != fee.Wanted || c.Due() != 6000 ||
		c.Rest() != 0 {
		t.Errorf("a small sum: %v %+v", err, c)
	}
	list, n, err := c.GiveBack(6000, 5000, closes)
	if err != nil || list[0].State != fee.Proposed || c.Rest() != 0 || c.Due() != 6000 || len(n.Entries) != 0 {
		t.Fatalf("a large sum: %v %+v", err, c)
	}
	if _, _, err := c.GiveBack(1, 0, closes); err == nil {
		t.Error("more is given back than is there")
	}
	if _, _, err := c.GiveBack(0, 0, closes); err == nil {
		t.Error("nothing is given back")
	}
	if n, err := c.Agree(list[0].Key, true, closes); err != nil || len(n.Entries) != 1 || c.Due() != 0 ||
		c.Rest() != 0 {
		t.Errorf("agreed: %v %+v", err, c)
	}
	if _, err := c.Agree(list[0].Key, true, closes); err == nil {
		t.Error("agreed twice")
	}
	c.Apply(fee.Checkout{Refunds: []fee.Refund{{ID: "r1", Key: list[0].Key, Amount: 6000, Failed: true}}})
	if c.Rest() != -6000 {
		t.Errorf("what the desk would not give back is owed: %d", c.Rest())
	}
	byHand := c
	byHand.Returns = append([]fee.Return{}, c.Returns...)
	if n, err := byHand.Transferred(list[0].Key, closes); err != nil || len(n.Done) != 1 || byHand.Rest() != 0 ||
		n.Entries[0].Kind != ledger.SentBack {
		t.Errorf("sent by transfer instead: %v %+v", err, n)
	}
	if err := c.Again(list[0].Key); err != nil || c.Rest() != 0 || c.Again(list[0].Key) == nil {
		t.Errorf("asked again: %v %+v", err, c)
	}
	// an invoice lets it in; a transfer is taken whenever it comes
	c = waiting(t, 9000)
	if n, err := c.OnInvoice(); err != nil || !n.Enters || c.Rest() != 9000 || !c.MayPay(closes.Add(999*time.Hour)) {
		t.Errorf("on invoice: %v %+v", err, c)
	}
	at := closes.Add(500 * time.Hour)
	if c.PaidIn(fee.Payment{ID: "bank 1", Amount: 9100, Begun: at, At: at}); c.Rest() != 0 || c.Back() != 100 {
		t.Errorf("by transfer: %+v", c)
	}
	if n, err := c.Transferred(c.Returns[0].Key, at); err != nil || len(n.Done) != 1 {
		t.Errorf("sent back by transfer: %v", err)
	}
	if _, err := c.Transferred(c.Returns[0].Key, at); err == nil {
		t.Error("sent back twice")
	}
	if _, err := c.OnInvoice(); err == nil {
		t.Error("an invoice for what is in")
	}
}

// Whoever withdraws gets the round's part; before it was in, all of it.
func TestWithdrawing(t *testing.T) {
	for _, c := range []struct {
		name       string
		amount     int64
		percent    int
		back, owed int64
	}{
		{"all", 9000, 100, 9000, 0}, {"half", 9000, 50, 4500, 0}, {"nothing", 9000, 0, 0, 0},
		{"a part was paid", 4000, 0, 4000, 0}, {"nothing was paid", 0, 50, 0, 0},
	} {
		x := waiting(t, 9000)
		x.Apply(paid("a", c.amount, -time.Minute, -time.Minute))
		x.WithdrawAt(closes, c.percent)
		if x.Back() != c.back || x.Rest() != c.owed || x.Stand != fee.Gone {
			t.Errorf("%s: %+v", c.name, x)
		}
		before := x.LetOff
		if x.WithdrawAt(closes, 100); x.LetOff != before {
			t.Errorf("%s: withdrawn twice", c.name)
		}
		if x.Apply(paid("b", 9000, -time.Minute, -time.Minute)); x.Rest() != 0 ||
			x.Returns[len(x.Returns)-1].Amount != 9000 {
			t.Errorf("%s: a payment that comes after it: %+v", c.name, x)
		}
	}
	// on an invoice that is not paid, what the policy keeps is still owed
	x, _ := fee.New(9000, closes, closes, grace, true)
	if x.WithdrawAt(closes, 50); x.Rest() != 4500 {
		t.Errorf("on an invoice: %d is owed", x.Rest())
	}
}
