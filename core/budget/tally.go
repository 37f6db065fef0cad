package budget

// Tally adds up the budgets of many cases: what a round is asked for, by
// heading and by what is given. A sum that leaves the range of an int64 stays at
// what it was before; Beyond counts the budgets left out for it.
type Tally struct {
	Cases              int
	All                Part
	ByHeading, ByGives map[string]Part
	With               map[string]int // cases that ask something under a heading
	Beyond             int
}

// Add the totals of one more case.
func (t *Tally) Add(x Totals) {
	if t.ByHeading == nil {
		t.ByHeading, t.ByGives, t.With = map[string]Part{}, map[string]Part{}, map[string]int{}
	}
	cost, us := t.All.Cost, t.All.FromUs
	if !add(&cost, x.Cost) || !add(&us, x.FromUs) {
		t.Beyond++
		return
	}
	t.Cases++
	t.All = Part{cost, us}
	for k, p := range x.ByHeading { // each below a sum that did not wrap
		put(t.ByHeading, k, p.Cost, p.FromUs)
		if p.Cost > 0 {
			t.With[k]++
		}
	}
	for k, p := range x.ByGives {
		put(t.ByGives, k, p.Cost, p.FromUs)
	}
}
