package form

import "testing"

// Of many cases about as many are controls as the design says, the same whenever it is
// asked, and others in another round.
func TestControlled(t *testing.T) {
	d, other, none := &Design{Key: "shore", Control: 10}, &Design{Key: "peat", Control: 10}, &Design{Key: "shore"}
	n, same := 0, 0
	for id := range int64(10_000) {
		if d.Controlled(id) {
			n++
			if other.Controlled(id) {
				same++
			}
		}
		if d.Controlled(id) != d.Controlled(id) || none.Controlled(id) {
			t.Fatal("it is drawn anew, or where the round wants none")
		}
	}
	// four standard deviations of a binomial of 10,000 at a tenth are 120, and of one of 1,000 are 38
	if n < 880 || n > 1120 || same < 60 || same > 140 {
		t.Errorf("%d controls, %d of them of both rounds", n, same)
	}
	all := &Design{Key: "shore", Control: 100}
	for id := range int64(1000) {
		if !all.Controlled(id) {
			t.Fatal("of all, one is left out")
		}
	}
}
