package form

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/decimal"
)

// listIndex finds codes quickly; a list of prefixes by its longest.
type listIndex struct {
	def   *List
	codes map[string]int // folded code → item
	long  int            // length of the longest code
}

func indexList(l *List) *listIndex {
	x := &listIndex{def: l, codes: make(map[string]int, len(l.Items))}
	for i, it := range l.Items {
		code := fold(it.Code)
		x.codes[code] = i
		x.long = max(x.long, len(code))
	}
	return x
}

// fold makes codes comparable: no blanks, no hyphens, small letters.
func fold(s string) string {
	return strings.ToLower(strings.NewReplacer(" ", "", "-", "", "\u00a0", "").Replace(strings.TrimSpace(s)))
}

// Holds reports a text of the list; by prefix where the list is one of prefixes.
func (x *listIndex) Holds(text string) bool {
	_, ok := x.find(text)
	return ok
}

func (x *listIndex) find(text string) (Item, bool) {
	s := fold(text)
	if i, ok := x.codes[s]; ok {
		return x.def.Items[i], true
	}
	if x.def.Prefix {
		for n := min(len(s), x.long); n > 0; n-- {
			if i, ok := x.codes[s[:n]]; ok {
				return x.def.Items[i], true
			}
		}
	}
	return Item{}, false
}

// LookUp finds the item of a list that holds a text.
func (f *Form) LookUp(list Key, text string) (Item, bool) {
	x, ok := f.lists[list]
	if !ok {
		return Item{}, false
	}
	return x.find(text)
}

// Hash is the list's SHA-256 in hexadecimal, over its canonical JSON: evidence
// of what a look-up was made against.
func (l *List) Hash() string {
	raw, err := json.Marshal(l)
	if err != nil {
		panic(err) // a List always marshals
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:])
}

func (c *compiler) checkTable(t *Table) {
	keys := map[Key]bool{}
	for _, col := range t.Columns {
		c.need(!keys[col.Key] && keyForm.MatchString(string(col.Key)), "the column %q is given twice or badly named", col.Key)
		keys[col.Key] = true
	}
	rows := map[Key]bool{}
	for _, r := range t.Rows {
		c.need(!rows[r.Key], "the row %q is given twice", r.Key)
		rows[r.Key] = true
		c.need(len(r.Cells) == len(t.Columns), "the row %q has %d cells for %d columns", r.Label, len(r.Cells),
			len(t.Columns))
		for i, cell := range r.Cells {
			if i < len(t.Columns) && t.Columns[i].Numbers {
				_, ok := decimal.Parse(cell)
				c.need(ok, "“%s” in the row %q is not a number", cell, r.Label)
			}
		}
	}
}

// steps are the numbers of a table's first column of numbers, ascending.
func (t *Table) steps() []condition.Number {
	i := slices.IndexFunc(t.Columns, func(c Column) bool { return c.Numbers })
	if i < 0 {
		return nil
	}
	var out []condition.Number
	for _, r := range t.Rows {
		if i < len(r.Cells) {
			if n, ok := decimal.Parse(r.Cells[i]); ok {
				out = append(out, n)
			}
		}
	}
	slices.SortFunc(out, condition.Number.Compare)
	return out
}

// Round brings a number to a step of the table; ok is false when it lies
// beyond the last step in the direction of rounding.
func (t *Table) Round(n condition.Number, r Rounding) (condition.Number, bool) {
	steps := t.steps()
	if len(steps) == 0 {
		return n, false
	}
	up, found := slices.BinarySearchFunc(steps, n, condition.Number.Compare)
	if found {
		return steps[up], true
	}
	switch r {
	case NextUp:
		if up == len(steps) {
			return n, false
		}
		return steps[up], true
	case NextDown:
		if up == 0 {
			return n, false
		}
		return steps[up-1], true
	}
	switch {
	case up == 0:
		return steps[0], true
	case up == len(steps):
		return steps[up-1], true
	}
	below, above := steps[up-1], steps[up]
	// nearest: the middle itself goes upward
	if decimal.Add(n, n).Compare(decimal.Add(below, above)) >= 0 {
		return above, true
	}
	return below, true
}
