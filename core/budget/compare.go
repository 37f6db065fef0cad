package budget

import (
	"cmp"
	"slices"
	"strings"
)

// Priced is one line as it is compared across cases: by what one costs where
// it has a quantity, else by what it costs.
type Priced struct {
	Case  int64
	Row   string
	Item  string
	Kind  string // heading and unit together; lines of one kind are compared
	Price int64  // minor units
}

// Against is how a line stands among those of its kind.
type Against struct {
	Priced
	Median int64 // of its kind, minor units; of an even number the lower of the two in the middle
	Cases  int   // how many cases that rests on
	SameAs bool  // its kind are lines of the same name, not only of the same heading and unit
}

// Times is how many times the median its price is, in tenths, rounded half up;
// 0 where the median is nothing.
func (a Against) Times() int64 {
	n, ok := scaled(a.Price, 10, max(a.Median, 1), half)
	if !ok || a.Median == 0 {
		return 0
	}
	return n
}

// CasesLeast is how many cases a median must rest on before it says anything.
const CasesLeast = 5

// Compare puts every line beside the median of its kind: lines of the same
// name where so many cases have one, else lines of the same heading and unit.
// Lines whose kind is in fewer than CasesLeast cases are left out. The dearest
// against their median come first.
func Compare(lines []Priced) []Against {
	kinds, names := map[string][]Priced{}, map[string][]Priced{}
	named := func(l Priced) string {
		return l.Kind + "\x00" + strings.Join(strings.Fields(strings.ToLower(l.Item)), " ")
	}
	for _, l := range lines {
		if l.Price > 0 {
			kinds[l.Kind] = append(kinds[l.Kind], l)
			names[named(l)] = append(names[named(l)], l)
		}
	}
	byKind, byName := medians(kinds), medians(names)
	var out []Against
	for _, l := range lines {
		if l.Price <= 0 {
			continue
		}
		m, same := byName[named(l)], true
		if m.cases < CasesLeast {
			m, same = byKind[l.Kind], false
		}
		if m.cases >= CasesLeast {
			out = append(out, Against{l, m.price, m.cases, same})
		}
	}
	slices.SortStableFunc(out, func(a, b Against) int { return cmp.Compare(b.Times(), a.Times()) })
	return out
}

type middle struct {
	price int64
	cases int
}

func medians(of map[string][]Priced) map[string]middle {
	out := make(map[string]middle, len(of))
	for key, list := range of {
		prices, cases := make([]int64, len(list)), map[int64]bool{}
		for i, l := range list {
			prices[i] = l.Price
			cases[l.Case] = true
		}
		slices.Sort(prices)
		out[key] = middle{prices[(len(prices)-1)/2], len(cases)}
	}
	return out
}
