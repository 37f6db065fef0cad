package fundline

import (
	"encoding/csv"
	"os"
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
	l := Draw(scores, nil, asked, 40000000)
	if l.Funded != 12 || l.Placed != 38423823 || l.Left != 40000000-38423823 {
		t.Errorf("%d funded, %d placed, want 12 and 38423823", l.Funded, l.Placed)
	}
}

func TestALineThroughATie(t *testing.T) {
	s := []mark.Score{{Num: 5, Den: 1}, {Num: 4, Den: 1}, {Num: 8, Den: 2}, {}}
	l := Draw(s, nil, []int64{10, 10, 10, 10}, 25)
	if l.Funded != 2 || !l.SplitsTie || l.Left != 5 || l.Rows[3].Within {
		t.Errorf("%+v", l)
	}
}

// A case that takes the last cent of the fund is within it; a cent more is not.
func TestAnExactFit(t *testing.T) {
	s := []mark.Score{{Num: 5, Den: 1}, {Num: 4, Den: 1}}
	if l := Draw(s, nil, []int64{10, 15}, 25); l.Funded != 2 || l.Left != 0 {
		t.Errorf("exactly the fund: %+v", l)
	}
	if l := Draw(s, nil, []int64{10, 16}, 25); l.Funded != 1 || l.Left != 15 {
		t.Errorf("a cent more: %+v", l)
	}
}
