package fundline

// Taking is a case as one kind of gift is given out.
type Taking struct {
	Takes  bool  // something is awarded to it
	Asked  int64 // units of the gift
	Chosen int64 // somebody chose so many, or it was recorded; Open: nobody did
}

// Open: nobody has chosen how much of a gift a case is given.
const Open = -1

// Handed is how one kind of gift goes down an order.
type Handed struct {
	Given []int64 // units, by case
	Sum   int64
	Left  int64 // of the stock; less than nothing when more is chosen than there is; Unbounded where nothing bounds it
	Ends  int   // the first case that takes it and that it does not reach; -1: none
}

// Unbounded is left of a gift of which there is any amount.
const Unbounded = int64(1) << 62

// HandDown gives one kind of gift out: what was chosen stands, then everybody who takes it
// is given what they ask, down the order, until the next does not fit; there it ends, as
// money does. stock is in units, 0 for no bound.
func HandDown(cases []Taking, stock int64) Handed {
	out := Handed{Given: make([]int64, len(cases)), Ends: -1, Left: Unbounded}
	left := Unbounded
	if stock > 0 {
		left = stock
	}
	for i, c := range cases {
		if c.Takes && c.Chosen > 0 {
			out.Given[i] = c.Chosen
			left -= c.Chosen
		}
	}
	for i, c := range cases {
		if !c.Takes || c.Chosen != Open || c.Asked <= 0 || out.Ends >= 0 {
			continue
		}
		if c.Asked > left {
			out.Ends = i
			continue
		}
		out.Given[i] = c.Asked
		left -= c.Asked
	}
	for _, g := range out.Given {
		out.Sum += g
	}
	if stock > 0 {
		out.Left = stock - out.Sum
	}
	return out
}
