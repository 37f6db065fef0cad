package fee

import "time"

// Need is what somebody at the office must do about a fee.
type Need string

// The needs, the most pressing first. A fee stands under the first that it has.
const (
	ToAgree    Need = "to agree"
	NotBack    Need = "not given back"
	ToTransfer Need = "to transfer"
	PaidNotIn  Need = "paid and not in"
	InNotPaid  Need = "in and not paid"
	Awaited    Need = "awaited"
	NotPaid    Need = "not paid"
	Settled    Need = "settled"
)

// Needs lists them in order.
var Needs = []Need{ToAgree, NotBack, ToTransfer, PaidNotIn, InNotPaid, Awaited, NotPaid, Settled}

// Facts of a charge, summed up: what a list of many knows of each. Sums are in
// minor units.
type Facts struct {
	Stand      Stand
	Rest       int64
	Paid       int64
	Back       int64 // given back, or to be
	Proposed   int64
	Failed     int64
	Wanted     int64 // to go back, and not gone yet
	ToTransfer int64
	Trying     bool // a checkout is open
	Invoice    bool
	DueOn      *time.Time // of the invoice
}

// Need of a charge.
func (f Facts) Need() Need {
	switch {
	case f.Proposed > 0:
		return ToAgree
	case f.Failed > 0:
		return NotBack
	case f.ToTransfer > 0:
		return ToTransfer
	case (f.Stand == Waiting || f.Stand == Over) && f.Paid > f.Back:
		return PaidNotIn
	case (f.Stand == In || f.Stand == Gone) && f.Rest > 0:
		return InNotPaid
	case f.Stand == Waiting:
		return Awaited
	case f.Stand == Over:
		return NotPaid
	}
	return Settled
}

// Held is a movement as one side has it: a payment, or a refund below 0.
type Held struct {
	ID        string
	Checkout  string
	Reference string
	Amount    int64
	At        time.Time
}

// Difference between what is kept here and the desk’s statement; one side is nil
// where it has nothing.
type Difference struct{ Here, There *Held }

// Reconcile compares both, by the desk’s numbers; the differences stand in the
// order of the statement, then those it lacks.
func Reconcile(here, there []Held) (out []Difference, same int) {
	by := make(map[string]*Held, len(here))
	for i := range here {
		by[here[i].ID] = &here[i]
	}
	for i := range there {
		t := &there[i]
		h := by[t.ID]
		delete(by, t.ID)
		if h != nil && h.Amount == t.Amount {
			same++
			continue
		}
		out = append(out, Difference{h, t})
	}
	for i := range here {
		if by[here[i].ID] == &here[i] {
			out = append(out, Difference{&here[i], nil})
		}
	}
	return out, same
}
