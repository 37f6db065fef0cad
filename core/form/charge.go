package form

import (
	"strings"
	"time"

	"ulvant/core/condition"
)

// Charge is what is to be paid for one application: its lines as they add up,
// and what it becomes if nothing but the time changes.
type Charge struct {
	Lines   []ChargeLine
	Total   int64 // minor units; at the most, where it is not settled
	Settled bool
	Code    Key // of the code that takes something off; "" for none
	Next    *ChargeChange
}

// ChargeLine is a fee, or what is taken off; lines add up to the total.
type ChargeLine struct {
	What  string // entry, extra, thing; bundle, code, waived for what is taken off
	Key   Key    // of the fee or the code
	Count int
	Each  int64
	Sum   int64     // Count × Each; below 0 for what is taken off
	When  int       // of a fee, the case of its price that holds; -1 for the price otherwise
	Since time.Time // from when that price holds; zero: from the start
}

// What a line is, besides a fee.
const (
	LineCode   = "code"
	LineWaived = "waived"
)

// ChargeChange is the next instant at which the total is another one.
type ChargeChange struct {
	At    time.Time
	Total int64
}

// codeFault says why a code does not work.
type codeFault int8

const (
	codeWorks codeFault = iota
	codeUnknown
	codeOver
	codeUsed
	codeNotTheirs
)

// Paid is how the fees of the round are paid; never nil.
func (f *Form) Paid() Payment {
	if f.Design.Payment == nil {
		return Payment{Grace: DefaultGrace}
	}
	return *f.Design.Payment
}

// Charge is what an application is to pay as its path stands; nil where no fees
// are asked about.
func (p *Path) Charge() *Charge {
	for i := range p.Questions {
		if p.Questions[i].Charge != nil && p.Questions[i].Asked == condition.Yes {
			return p.Questions[i].Charge
		}
	}
	return nil
}

// charge adds up: category and date are in each fee's price; then come the
// extras, the bundles and the code, in that order.
func (w *walk) charge(list []FeeState, code string, at time.Time) (*Charge, codeFault) {
	out := &Charge{Settled: true}
	add := func(l ChargeLine) {
		out.Lines = append(out.Lines, l)
		out.Total += l.Sum
	}
	for i := range list {
		st, def := &list[i], w.form.fees[i].def
		if def.What == FeeBundle || st.Offered == condition.No || st.Taken <= 0 {
			continue
		}
		out.Settled = out.Settled && st.Settled && st.Offered == condition.Yes
		add(ChargeLine{What: def.What, Key: st.Key, Count: st.Taken, Each: st.Most, Sum: int64(st.Taken) * st.Most,
			When: st.When, Since: st.Since})
	}
	for i := range list {
		if st := &list[i]; st.Saves > 0 {
			add(ChargeLine{What: FeeBundle, Key: st.Key, Count: st.Taken, Sum: -st.Saves, When: -1})
		}
	}
	c, fault := w.code(code, at)
	if c != nil && out.Total > 0 {
		off := min(out.Total*int64(c.Percent)/100+c.Off, out.Total)
		out.Code = c.Key
		add(ChargeLine{What: LineCode, Key: c.Key, Count: 1, Each: -off, Sum: -off, When: -1})
	}
	if w.filled.Paying.Waived && out.Total > 0 {
		add(ChargeLine{What: LineWaived, Count: 1, Each: -out.Total, Sum: -out.Total, When: -1})
	}
	return out, fault
}

// code finds the code that was typed, and why it does not work; nil when none
// was typed or it does not.
func (w *walk) code(typed string, at time.Time) (*FeeCode, codeFault) {
	if typed == "" {
		return nil, codeWorks
	}
	for i := range w.form.Design.Codes {
		c := &w.form.Design.Codes[i]
		if !strings.EqualFold(c.Code, typed) {
			continue
		}
		p := w.filled.Paying
		switch {
		case !c.Until.IsZero() && !at.IsZero() && !at.Before(w.form.over(*c)):
			return nil, codeOver
		case c.Uses > 0 && p.Used[c.Key] >= c.Uses:
			return nil, codeUsed
		case len(c.Members) > 0 && p.Mail != "" && !c.isFor(p.Mail):
			return nil, codeNotTheirs
		}
		return c, codeWorks
	}
	return nil, codeUnknown
}

// isFor reports a code that works for somebody's address.
func (c *FeeCode) isFor(mail string) bool {
	for _, m := range c.Members {
		if strings.EqualFold(strings.TrimSpace(m), mail) {
			return true
		}
	}
	return false
}

// next is the first later instant at which the same answers cost something else.
func (w *walk) next(total int64, taken func(Key) int, code string, at time.Time) *ChargeChange {
	if at.IsZero() {
		return nil
	}
	closes := w.form.Window().Closes
	for _, t := range w.form.rises {
		if !t.After(at) || !t.Before(closes) {
			continue
		}
		if c, _ := w.charge(w.fees(taken, t), code, t); c.Total != total {
			return &ChargeChange{t, c.Total}
		}
	}
	return nil
}

// GivesBack is the percent of what was paid that whoever withdraws at an instant
// gets back.
func (f *Form) GivesBack(at time.Time) int {
	for _, b := range f.Paid().Back {
		if at.Before(f.At(b.Until)) {
			return b.Percent
		}
	}
	return 0
}
