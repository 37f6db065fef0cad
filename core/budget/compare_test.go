package budget

import (
	"math"
	"testing"
)

// A day of an excavator in six cases, and one that is dear; what few cases have
// says nothing.
func TestLinesAcrossCases(t *testing.T) {
	day := func(c, price int64, item string) Priced {
		return Priced{Case: c, Row: "r0001", Item: item, Kind: "Plant, day", Price: price}
	}
	lines := []Priced{day(1, 90, "Excavator"), day(2, 100, "excavator "), day(3, 110, "Excavator"),
		day(4, 100, "EXCAVATOR"), day(5, 340, "Excavator"), day(6, 60, "Punt"), day(7, 0, "Excavator"),
		{Case: 8, Item: "Ferry", Kind: "Travel, trip", Price: 999}}
	got := Compare(lines)
	if len(got) != 6 || got[0].Case != 5 || got[0].Times() != 34 || got[0].Cases != 5 || got[0].Median != 100 ||
		!got[0].SameAs {
		t.Fatalf("%+v", got)
	}
	punt := got[5]
	if punt.Item != "Punt" || punt.SameAs || punt.Cases != 6 || punt.Median != 100 || punt.Times() != 6 {
		t.Errorf("%+v", punt)
	}
	if got := Compare(lines[:4]); len(got) != 0 {
		t.Errorf("four cases say %+v", got)
	}
	many := []Priced{}
	for range 9 { // one case with nine lines is one case
		many = append(many, day(1, 100, "Excavator"))
	}
	if got := Compare(many); len(got) != 0 {
		t.Errorf("one case says %+v", got)
	}
	for _, c := range []struct{ price, median, times int64 }{{340, 100, 34}, {100, 100, 10}, {149, 100, 15},
		{144, 100, 14},
		{5, 0, 0}, {math.MaxInt64, 1, 0}} {
		if got := (Against{Priced: Priced{Price: c.price}, Median: c.median}).Times(); got != c.times {
			t.Errorf("%d of %d: %d tenths", c.price, c.median, got)
		}
	}
}
