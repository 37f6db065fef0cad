package fundline

import (
	"slices"
	"testing"
)

// Twenty days of a digger go down an order of five.
func TestHandDown(t *testing.T) {
	ask := func(n int64) Taking { return Taking{Takes: true, Asked: n, Chosen: Open} }
	not := func(n int64) Taking { return Taking{Asked: n, Chosen: Open} }
	chose := func(n, m int64) Taking { return Taking{Takes: true, Asked: n, Chosen: m} }
	for _, c := range []struct {
		says  string
		of    []Taking
		stock int64
		given []int64
		left  int64
		ends  int
	}{
		{"all have what they ask", []Taking{ask(8), ask(0), ask(12)}, 20, []int64{8, 0, 12}, 0, -1},
		{"who is not awarded takes none", []Taking{ask(8), not(8), ask(12)}, 20, []int64{8, 0, 12}, 0, -1},
		{"it ends at the first that does not fit, and is not filled up behind", []Taking{ask(8), ask(13), ask(2)}, 20,
			[]int64{8, 0, 0}, 12, 1},
		{"it ends at the very first", []Taking{ask(25), ask(2)}, 20, []int64{0, 0}, 20, 0},
		{"what was chosen stands, and is counted first", []Taking{ask(8), ask(4), chose(12, 10)}, 20, []int64{8, 0, 10}, 2,
			1},
		{"chosen to have none", []Taking{chose(8, 0), ask(20)}, 20, []int64{0, 20}, 0, -1},
		{"more is chosen than there is", []Taking{chose(15, 15), chose(15, 15)}, 20, []int64{15, 15}, -10, -1},
		{"no bound", []Taking{ask(500), ask(700)}, 0, []int64{500, 700}, Unbounded, -1},
		{"nobody", nil, 20, []int64{}, 20, -1},
	} {
		h := HandDown(c.of, c.stock)
		if !slices.Equal(h.Given, c.given) || h.Left != c.left || h.Ends != c.ends {
			t.Errorf("%s: %+v", c.says, h)
		}
	}
}
