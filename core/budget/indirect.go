package budget

import "strconv"

// Indirect says how indirect costs are worked out. They are never typed.
type Indirect struct {
	Rate  int64  // in hundredths of a percent: 1500 is 15%
	Bases []Base // what they are reckoned on
	// OfAsked reckons on what is asked from this fund, not on what lines cost.
	OfAsked bool
	ByOwn   bool   // the applicant bears them; else they are asked from this fund
	Gives   string // as which kind of money they are asked for
}

// Base is one heading that belongs to the base.
type Base struct {
	Heading     string
	LineMost    int64 // a line counts up to this; 0: all of it
	PartnerMost int64 // so does all of one partner over all periods; a line without a partner is one of its own
}

// rateOne is a rate of 100%, in hundredths of a percent.
const rateOne = 100_00

// on works out the base, and what indirect costs come to: rounded half up once
// for each period.
func (x *Indirect) on(lines []Line, periods []string) (base, sum int64, ok bool) {
	ok = true
	used := map[string]int64{} // of a partner's cap, by heading and partner
	one := func(in func(*Line) bool) {
		within := int64(0)
		for i := range lines {
			l := &lines[i]
			b := x.base(l.Heading)
			if b == nil || !in(l) {
				continue
			}
			n := l.Cost
			if x.OfAsked {
				n = l.FromUs
			}
			if b.LineMost > 0 {
				n = min(n, b.LineMost)
			}
			if b.PartnerMost > 0 {
				who := l.Heading + "\x00" + l.Partner
				if l.Partner == "" {
					who += strconv.Itoa(i)
				}
				n = min(n, b.PartnerMost-used[who])
				used[who] += n
			}
			ok = ok && add(&within, n)
		}
		part, fits := scaled(max(within, 0), x.Rate, rateOne, half)
		ok = ok && fits && add(&base, within) && add(&sum, part)
	}
	known := map[string]bool{}
	for _, p := range periods {
		known[p] = true
		one(func(l *Line) bool { return l.Period == p })
	}
	one(func(l *Line) bool { return !known[l.Period] })
	return base, sum, ok
}

func (x *Indirect) base(heading string) *Base {
	for i := range x.Bases {
		if x.Bases[i].Heading == heading {
			return &x.Bases[i]
		}
	}
	return nil
}
