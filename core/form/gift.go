package form

import (
	"slices"

	"ulvant/core/condition"
)

// Gifts are given in units: pieces where one is worth a Value, such as days of a machine, of
// places and admissions too, else minor units of money. What is asked, what is given and what there is are counted
// in them.

// Unit is what one unit of a gift is worth, in minor units of the round's money.
func (g Gift) Unit() int64 {
	if g.Value > 0 {
		return g.Value
	}
	return 1
}

// Has is how many units of a gift there are in the round; 0: nothing bounds it.
func (g Gift) Has() int64 {
	if g.InPieces() {
		return g.Stock
	}
	return g.Fund
}

// InPieces reports a gift that is counted and not paid: what has a worth each; a place or an
// admission that a question asks for. One without a worth that a budget alone asks for is
// what it costs.
func (g Gift) InPieces() bool {
	return g.Value > 0 || g.Request != "" && (g.What == GiftPlace || g.What == GiftAdmission)
}

// What a gift may be, besides money and goods.
const (
	GiftPlace     = "place"
	GiftAdmission = "admission"
)

// Deciding are the gifts that can be asked for, and so decided, in the order of the design.
func (f *Form) Deciding() (out []Gift) {
	for _, g := range f.Design.Gifts {
		if g.Request != "" || f.Design.AsksFor(g.Key) {
			out = append(out, g)
		}
	}
	return out
}

// AsksFor reports a budget in which a gift can be asked for.
func (d *Design) AsksFor(gift Key) bool {
	for _, s := range d.Sections {
		for _, q := range s.Questions {
			if q.Costing != nil && slices.Contains(q.Costing.Gives, gift) {
				return true
			}
		}
	}
	return false
}

// GiftsAsked is how much an application asks of each gift, in units; what is not asked is
// left out. A question of its own says so, else the budgets.
func (f *Form) GiftsAsked(path *Path) map[Key]int64 {
	out := map[Key]int64{}
	for _, g := range f.Deciding() {
		n := int64(0)
		for i := range path.Questions {
			st := &path.Questions[i]
			q := f.Question(st.Key)
			switch {
			case q == nil || st.Asked != condition.Yes:
			case st.Key == g.Request && st.Presence == condition.Given && st.Value.Number != nil:
				if n = st.Value.Number.Num; q.Measure() == Sums { // in minor units
					n /= g.Unit()
				} else if d := st.Value.Number.Den; d > 1 {
					n /= d
				}
			case g.Request == "" && st.Totals != nil:
				n += st.Totals.ByGives[string(g.Key)].FromUs / g.Unit()
			}
		}
		if n > 0 {
			out[g.Key] = n
		}
	}
	return out
}

// gifts checks what is given besides the money of the request.
func (c *compiler) gifts() {
	for _, g := range c.f.Design.Gifts {
		c.path, c.place = "gifts/"+string(g.Key), "“"+g.Label+"”"
		c.need(g.Stock >= 0 && g.Fund >= 0, "there is no less than none of it")
		q := c.f.Question(g.Request)
		if g.Request == "" {
			continue
		}
		sum := q != nil && q.Keeps() == InText && q.Measure() == Sums
		fits := sum || q != nil && q.Keeps() == InText && q.Type() == condition.TypeNumber && g.InPieces()
		c.need(fits, "how much is asked says a money question, or a number where one has a worth; %q is neither", g.Request)
		c.need(!fits || sum || !c.f.Design.AsksFor(g.Key),
			"a budget adds up to money; ask for it in the budget, or by a number")
	}
}
