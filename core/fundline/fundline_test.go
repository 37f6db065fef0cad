package fundline

import (
	"encoding/csv"
	"os"
	"slices"
	"strconv"
	"testing"

	"ulvant/core/mark"
)

// Source: scipy milp fixture funding_line_45.csv (check-values.md, section 4):
// ranked, stop at the first that does not fit: 12 funded, 384 238.23 spent.
func TestStopAtFirstThatDoesNotFit(t *testing.T) {
	f, err := os.Open("../../../shared/check-fixtures/funding_line_45.csv")
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	col := map[string]int{}
	for i, h := range rows[0] {
		col[h] = i
	}
	var scores []mark.Score
	var asked []int64
	for _, r := range rows[1:] {
		s, err1 := strconv.ParseInt(r[col["score_x10"]], 10, 64)
		a, err2 := strconv.ParseInt(r[col["requested_cents"]], 10, 64)
		if err1 != nil || err2 != nil {
			t.Fatal(rows[0], err1, err2)
		}
		scores, asked = append(scores, mark.Score{Num: s, Den: 10}), append(asked, a)
	}
	l := Draw(scores, nil, nil, asked, 40000000)
	if l.Funded != 12 || l.Placed != 38423823 || l.Left != 40000000-38423823 {
		t.Errorf("%d funded, %d placed, want 12 and 38423823", l.Funded, l.Placed)
	}
}

func TestALineThroughATie(t *testing.T) {
	s := []mark.Score{{Num: 5, Den: 1}, {Num: 4, Den: 1}, {Num: 8, Den: 2}, {}}
	l := Draw(s, nil, nil, []int64{10, 10, 10, 10}, 25)
	if l.Funded != 2 || !l.SplitsTie || l.Left != 5 || l.Rows[3].Within {
		t.Errorf("%+v", l)
	}
}

// A rule that settles equal scores decides who stands above the line, and leaves a tie of
// its own to the panel.
func TestATieThatARuleSettles(t *testing.T) {
	s := []mark.Score{{Num: 5, Den: 1}, {Num: 4, Den: 1}, {Num: 8, Den: 2}, {Num: 4, Den: 1}}
	for _, c := range []struct {
		says    string
		then    []mark.Score
		order   []int
		ranks   []int
		settled []bool
		splits  bool
	}{
		{"all differ", []mark.Score{{}, {Num: 1, Den: 1}, {Num: 3, Den: 1}, {Num: 2, Den: 1}}, []int{0, 2, 3, 1},
			[]int{1, 2, 3, 4}, []bool{false, true, true, true}, false},
		{"two of three are alike in it too", []mark.Score{{}, {Num: 1, Den: 1}, {Num: 3, Den: 1}, {Num: 1, Den: 1}},
			[]int{0, 2, 1, 3}, []int{1, 2, 3, 3},
			[]bool{false, true, true, false}, false},
		{"none differ", []mark.Score{{}, {}, {}, {}}, []int{0, 1, 2, 3}, []int{1, 2, 2, 2}, make([]bool, 4), true},
	} {
		l := Draw(s, nil, c.then, []int64{10, 10, 10, 10}, 25)
		var order, ranks []int
		var settled []bool
		for _, r := range l.Rows {
			order, ranks, settled = append(order, r.Index), append(ranks, r.Rank), append(settled, r.Settled)
		}
		if !slices.Equal(order, c.order) || !slices.Equal(ranks, c.ranks) || !slices.Equal(settled, c.settled) ||
			l.SplitsTie != c.splits {
			t.Errorf("%s: %v %v %v splits %v", c.says, order, ranks, settled, l.SplitsTie)
		}
	}
}

// A case that takes the last cent of the fund is within it; a cent more is not.
func TestAnExactFit(t *testing.T) {
	s := []mark.Score{{Num: 5, Den: 1}, {Num: 4, Den: 1}}
	if l := Draw(s, nil, nil, []int64{10, 15}, 25); l.Funded != 2 || l.Left != 0 {
		t.Errorf("exactly the fund: %+v", l)
	}
	if l := Draw(s, nil, nil, []int64{10, 16}, 25); l.Funded != 1 || l.Left != 15 {
		t.Errorf("a cent more: %+v", l)
	}
}

// The panel moves cases in an order; scores keep their ranks, and the line is drawn anew.
func TestMove(t *testing.T) {
	scores := []mark.Score{{Num: 9, Den: 1}, {Num: 8, Den: 1}, {Num: 7, Den: 1}, {Num: 6, Den: 1}, {}}
	l := Draw(scores, nil, nil, []int64{10, 10, 10, 10, 10}, 25)
	for _, c := range []struct {
		name   string
		moves  []Moved
		order  []int
		within int
	}{
		{"none", nil, []int{0, 1, 2, 3, 4}, 2},
		{"two up", []Moved{{3, 2}}, []int{0, 3, 1, 2, 4}, 2},
		{"down", []Moved{{0, -3}}, []int{1, 2, 3, 0, 4}, 2},
		{"past the ends", []Moved{{2, 99}, {0, -99}}, []int{2, 1, 3, 4, 0}, 2},
		{"one after another", []Moved{{3, 1}, {3, 1}, {2, 2}}, []int{0, 2, 3, 1, 4}, 2},
		{"one without a score ends it", []Moved{{4, 4}}, []int{4, 0, 1, 2, 3}, 0},
		{"one that is not there", []Moved{{7, 1}}, []int{0, 1, 2, 3, 4}, 2},
	} {
		got := l.Move(c.moves, 25)
		for i, r := range got.Rows {
			if r.Index != c.order[i] || r.Running != int64(10*(i+1)) || r.Within != (i < c.within) || r.Index < 4 &&
				r.Rank != r.Index+1 {
				t.Errorf("%s: place %d: %+v", c.name, i, r)
			}
		}
		if got.Funded != c.within || got.Placed != int64(10*c.within) || got.Left != 25-got.Placed {
			t.Errorf("%s: %+v", c.name, got)
		}
	}
	if l.Rows[0].Index != 0 || l.Funded != 2 {
		t.Error("the order itself was changed")
	}
}
