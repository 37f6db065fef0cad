package fundline

import (
	"reflect"
	"slices"
	"testing"

	"ulvant/core/lifecycle"
)

const (
	award, reserve, no, on = lifecycle.Awarded, lifecycle.Reserve, lifecycle.NotAwarded, lifecycle.InvitedOn
)

// What a panel reads off its order: who is above the line, who waits, who is
// not read yet.
func TestOffer(t *testing.T) {
	read := func(within ...bool) (out []Case) {
		for _, w := range within {
			out = append(out, Case{Within: w, Known: true, State: lifecycle.Read, Asked: 100})
		}
		return out
	}
	five := read(true, true, false, false, false, false)
	if got := Offer(five, true); !slices.Equal(got, []lifecycle.State{award, award, reserve, reserve, reserve, no}) {
		t.Errorf("two above the line: %v", got)
	}
	if got := Offer(five, false); got[0] != on || got[5] != no {
		t.Errorf("in a stage before the last: %v", got)
	}
	five[0].State, five[3].Known = award, false
	if got := Offer(five, true); !slices.Equal(got, []lifecycle.State{"", award, reserve, "", reserve, reserve}) {
		t.Errorf("one decided, one unread: %v", got)
	}
}

// The figures beside the order follow what is chosen and what was recorded.
func TestLook(t *testing.T) {
	for _, c := range []struct {
		what    string
		cases   []Case
		placed  int64
		left    int64
		running []int64
		ends    int
		next    int
		todo    int
	}{
		{"nothing is chosen", []Case{{Known: true, State: lifecycle.Read, Asked: 100},
			{Known: true, State: lifecycle.Read, Asked: 50}}, 0, 120, []int64{0, 0}, 0, 0, 2},
		{"the first is chosen", []Case{{Known: true, State: lifecycle.Read, Asked: 100, Chosen: award, Amount: 100},
			{Known: true, State: lifecycle.Read, Asked: 50, Chosen: reserve}}, 100, 20, []int64{100, 100}, 1, 1, 2},
		{"recorded, with one refused above", []Case{{Known: true, State: no, Asked: 100},
			{Known: true, State: award, Asked: 70, Recorded: 60}, {Known: true, State: reserve,
				Asked: 50}}, 60, 60, []int64{0, 60, 60}, 2, 2, 0},
		{"the reserve moves up", []Case{{Known: true, State: award, Asked: 100, Recorded: 70},
			{Known: true, State: reserve, Asked: 50, Chosen: award, Amount: 50}}, 120, 0, []int64{70, 120}, -1, -1, 0},
		{"an award is revised", []Case{{Known: true, State: award, Asked: 100, Recorded: 100, Chosen: award, Amount: 40}},
			40, 80, []int64{40}, -1, -1, 0},
		{"more is chosen than there is", []Case{{Known: true, State: lifecycle.Read, Asked: 200, Chosen: award,
			Amount: 200}}, 200, -80, []int64{200}, -1, -1, 1},
		{"those who go on ask", []Case{{Known: true, State: on, Asked: 90}, {Known: true, State: no, Asked: 10}}, 90, 30,
			[]int64{90, 90}, 1, -1, 0},
		{"nobody marked anything", []Case{{State: lifecycle.Eligible, Asked: 90}}, 0, 120, []int64{0}, -1, -1, 1},
		{"places without a sum", []Case{{Known: true, State: lifecycle.Read, Chosen: award},
			{Known: true, State: lifecycle.Read, Chosen: no}}, 0, 120, []int64{0, 0}, -1, -1, 2},
	} {
		o := Look(c.cases, 120)
		if o.Placed != c.placed || o.Left != c.left || !slices.Equal(o.Running, c.running) || o.Ends != c.ends ||
			o.Next != c.next || o.ToDo != c.todo {
			t.Errorf("%s: %+v", c.what, o)
		}
	}
	o := Look([]Case{{State: award, Recorded: 1, Place: "Tarl"}, {State: award, Recorded: 1, Place: "Hallin"},
		{State: award, Recorded: 1, Place: "Corvoe"}, {State: no, Place: "Tarl"}}, 9)
	if want := []Share{{"Tarl", 1, 34}, {"Hallin", 1, 33}, {"Corvoe", 1, 33}}; !reflect.DeepEqual(o.Shares, want) {
		t.Errorf("by place: %+v", o.Shares)
	}
}

// Shares add up to a hundred, whatever they are shares of.
func TestPercents(t *testing.T) {
	for _, c := range []struct {
		sums []int64
		want []int
	}{
		{nil, []int{}}, {[]int64{0, 0}, []int{0, 0}}, {[]int64{5}, []int{100}}, {[]int64{1, 1, 1},
			[]int{34, 33, 33}}, {[]int64{1, 2}, []int{33, 67}},
		{[]int64{1, 1, 1, 1, 1, 1}, []int{17, 17, 17, 17, 16, 16}}, {[]int64{995, 5}, []int{100, 0}}, {[]int64{994, 6},
			[]int{99, 1}},
	} {
		if got := Percents(c.sums); !slices.Equal(got, c.want) {
			t.Errorf("%v: %v, want %v", c.sums, got, c.want)
		}
	}
}
