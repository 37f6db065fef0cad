// Package whatif tries out what an order of cases comes to under rules of one's own:
// sums of several funds, parts of what is asked, quotas, a hand laid on single cases.
// Nothing is decided by it. Beside what the order gives stands the best set there is
// under the same money and quotas (best.go), so that it can be said what the order
// costs.
package whatif

import "slices"

// Case of an order.
type Case struct {
	Known  bool  // somebody has marked it; one that is not known is given nothing
	Worth  int64 // its score in hundredths, 0 or more
	Asked  int64 // minor units
	Useful int64 // the least sum that is of use to it; Asked when nothing less is
	Fund   int   // which of the funds it is given from
	Groups []int // its value of each field that quotas go by, numbered; None for none
}

// None is no value of a field.
const None = -1

// Rules of a what-if.
type Rules struct {
	Funds    []int64 // money of each, minor units
	Past     bool    // the line goes on past a case that does not fit; else it ends there
	Part     bool    // the first that does not fit gets what is left, where that is of use to it
	Cut      int     // taken off every sum, in thousandths; nobody gets less than is of use to them
	Quotas   []Quota
	Held     map[int]Held // by hand, by place in the order
	Reserves int          // how many stand in reserve after those who are given something
}

// Quota bounds what the cases of one value of a field get together.
type Quota struct {
	Field, Value int
	Money        bool // Least and Most are sums in minor units; else numbers of cases
	Least        int64
	Most         int64 // -1: no bound
}

// Held is a hand laid on a case.
type Held struct {
	Give    bool
	Sum     int64 // what it is given; 0 gives it what it asks, after the cut
	Reserve bool  // in reserve, before all others
}

// Reason why a case gets nothing, or something though it stands lower.
type Reason int

// The reasons.
const (
	InOrder  Reason = iota // by the order alone
	ByHand                 // held
	Least                  // brought in by a quota’s least
	Most                   // passed over, since a quota’s most is reached
	Line                   // below where the fund ends
	TooMuch                // passed over, since it does not fit any more
	InPart                 // what was left
	Unmarked               // nobody has marked it
)

// Result of a what-if, case by case.
type Result struct {
	Gives   []int64 // sums, minor units; 0 for nothing
	Reserve []int   // places in reserve, from 1; 0: none
	Why     []Reason
	By      []int   // the quota behind Least and Most; -1: none
	Placed  []int64 // money of each fund
	Worth   int64   // of those given something
	Short   []int   // quotas whose least is not reached
}

// Funded counts those who are given something.
func (r *Result) Funded() (n int) {
	for _, g := range r.Gives {
		if g > 0 {
			n++
		}
	}
	return n
}

// Sum that a case is given where it is given all: what it asks less the cut.
func (r *Rules) Sum(c Case) int64 {
	return max(c.Asked-c.Asked*int64(r.Cut)/1000, min(c.Useful, c.Asked))
}

// counts is what a sum counts towards a quota.
func (q Quota) counts(sum int64) int64 {
	if q.Money {
		return sum
	}
	return 1
}

// of reports a case that a quota bounds.
func (q Quota) of(c Case) bool {
	return q.Field < len(c.Groups) && c.Groups[q.Field] == q.Value && q.Value != None
}

// working is a result under way.
type working struct {
	*Rules
	cases []Case
	out   *Result
	left  []int64 // of each fund
	count []int64 // of each quota
}

// give a case a sum, and count it.
func (w *working) give(i int, sum int64, why Reason, by int) {
	c := w.cases[i]
	w.out.Gives[i], w.out.Why[i], w.out.By[i] = sum, why, by
	w.left[c.Fund] -= sum
	w.out.Placed[c.Fund] += sum
	w.out.Worth += c.Worth
	for q, quota := range w.Quotas {
		if quota.of(c) {
			w.count[q] += quota.counts(sum)
		}
	}
}

// over is the quota whose most a sum for a case would pass; -1: none.
func (w *working) over(i int, sum int64) int {
	for q, quota := range w.Quotas {
		if quota.Most >= 0 && quota.of(w.cases[i]) && w.count[q]+quota.counts(sum) > quota.Most {
			return q
		}
	}
	return -1
}

// open reports a case that nothing is said of yet.
func (w *working) open(i int) bool {
	return w.cases[i].Known && w.out.Gives[i] == 0 && w.out.Why[i] == InOrder && !w.held(i)
}

func (w *working) held(i int) bool { _, ok := w.Held[i]; return ok }

// Work out what an order comes to. What is held by hand is given first, then each
// quota’s least is filled with the best of its own, then the order is gone down.
func Work(cases []Case, rules Rules) *Result {
	n := len(cases)
	w := &working{Rules: &rules, cases: cases, left: slices.Clone(rules.Funds), count: make([]int64, len(rules.Quotas)),
		out: &Result{Gives: make([]int64, n), Reserve: make([]int, n), Why: make([]Reason, n), By: slices.Repeat([]int{-1},
			n),
			Placed: make([]int64, len(rules.Funds))}}
	for i, c := range cases {
		h, ok := rules.Held[i]
		switch {
		case !ok && !c.Known:
			w.out.Why[i] = Unmarked
		case ok && h.Give && h.Sum > 0:
			w.give(i, h.Sum, ByHand, -1)
		case ok && h.Give:
			w.give(i, rules.Sum(c), ByHand, -1)
		case ok:
			w.out.Why[i] = ByHand
		}
	}
	w.leasts()
	w.down()
	w.reserves()
	for q, quota := range rules.Quotas {
		if w.count[q] < quota.Least {
			w.out.Short = append(w.out.Short, q)
		}
	}
	return w.out
}

// leasts fills each quota’s least with the best of its own that fit.
func (w *working) leasts() {
	for q, quota := range w.Quotas {
		for i, c := range w.cases {
			if w.count[q] >= quota.Least {
				break
			}
			if sum := w.Sum(c); quota.of(c) && w.open(i) && sum > 0 && sum <= w.left[c.Fund] && w.over(i, sum) < 0 {
				w.give(i, sum, Least, q)
			}
		}
	}
	// who would have been given it by the order is not brought in by a quota
	for i := range w.cases {
		if w.out.Why[i] == Least && w.aboveLine(i) {
			w.out.Why[i], w.out.By[i] = InOrder, -1
		}
	}
}

// aboveLine reports a case that the order alone, without quotas, would reach.
func (w *working) aboveLine(at int) bool {
	left := slices.Clone(w.Funds)
	for i, c := range w.cases[:at+1] {
		h, held := w.Held[i]
		if !c.Known || held && !h.Give || c.Fund != w.cases[at].Fund {
			continue
		}
		sum := w.Sum(c)
		if held && h.Sum > 0 {
			sum = h.Sum
		}
		if sum > left[c.Fund] {
			if w.Past && i != at {
				continue
			}
			return false
		}
		left[c.Fund] -= sum
	}
	return true
}

// down goes down the order; each fund ends for itself.
func (w *working) down() {
	ended := make([]bool, len(w.Funds))
	parted := make([]bool, len(w.Funds))
	for i, c := range w.cases {
		if !w.open(i) {
			continue
		}
		sum := w.Sum(c)
		if ended[c.Fund] {
			w.out.Why[i] = Line
			continue
		}
		if q := w.over(i, sum); q >= 0 {
			w.out.Why[i], w.out.By[i] = Most, q
			continue
		}
		switch left := w.left[c.Fund]; {
		case sum == 0:
			w.out.Why[i] = Line
		case sum <= left:
			w.give(i, sum, InOrder, -1)
		case w.Part && !parted[c.Fund] && left > 0 && left >= min(c.Useful, c.Asked) && w.over(i, left) < 0:
			w.give(i, left, InPart, -1)
			parted[c.Fund] = true
			ended[c.Fund] = !w.Past
		case w.Past:
			w.out.Why[i] = TooMuch
		default:
			w.out.Why[i] = Line
			ended[c.Fund] = true
		}
	}
}

// reserves are those held there, then the first of the order who get nothing.
func (w *working) reserves() {
	n := 0
	for i := range w.cases {
		if h := w.Held[i]; h.Reserve && !h.Give {
			n++
			w.out.Reserve[i] = n
		}
	}
	for i, c := range w.cases {
		if n >= w.Reserves {
			return
		}
		if c.Known && w.out.Gives[i] == 0 && !w.held(i) {
			n++
			w.out.Reserve[i] = n
		}
	}
}

// Differs is a case that two what-ifs treat in different ways.
type Differs struct {
	Case int
	A, B int64 // what each gives it
}

// Compare lists the cases to which two results of one order give different sums, in
// the order.
func Compare(a, b *Result) (out []Differs) {
	for i := range a.Gives {
		if a.Gives[i] != b.Gives[i] {
			out = append(out, Differs{i, a.Gives[i], b.Gives[i]})
		}
	}
	return out
}

// Without is the result without one of the quotas, to be compared.
func Without(cases []Case, rules Rules, quota int) *Result {
	rules.Quotas = slices.Delete(slices.Clone(rules.Quotas), quota, quota+1)
	return Work(cases, rules)
}

// Cost of a quota: who is given something because of it, and who is not, by their places
// in the order from 0.
type Cost struct{ In, Out []int }

// CostOf one of the quotas.
func CostOf(cases []Case, rules Rules, quota int, with *Result) (c Cost) {
	for _, d := range Compare(with, Without(cases, rules, quota)) {
		switch {
		case d.B == 0:
			c.In = append(c.In, d.Case)
		case d.A == 0:
			c.Out = append(c.Out, d.Case)
		}
	}
	return c
}

// Ranks is how many places further down the order those lie who come in than those who
// fall out, added up pair by pair as long as there are pairs.
func (c Cost) Ranks() (sum int) {
	for k := range min(len(c.In), len(c.Out)) {
		sum += c.In[k] - c.Out[k]
	}
	return sum
}
