package costbook

import (
	"cmp"
	"fmt"
	"math"
	"math/big"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/form"
	"ulvant/core/money"
)

// Fault of a workbook or file, at a cell.
type Fault struct {
	Sheet, Cell string // "" for all of it
	Says        string
}

func (f Fault) String() string {
	switch {
	case f.Sheet != "" && f.Cell != "":
		return fmt.Sprintf("“%s”, %s: %s", f.Sheet, f.Cell, f.Says)
	case f.Cell != "":
		return f.Cell + ": " + f.Says
	case f.Sheet != "":
		return fmt.Sprintf("“%s”: %s", f.Sheet, f.Says)
	}
	return f.Says
}

// Change of one cell of a draft; an empty Value empties it.
type Change struct {
	Place form.Place
	Value string
}

// Taken is what coming back would change; nothing where it says the same.
type Taken struct {
	Changes           []Change
	New, Gone, Differ int      // lines
	Left              []string // sheets that are not read
}

// MostFaults is how many faults are told of at once.
const MostFaults = 60

// In reads a workbook against the draft it comes back to. With any fault
// nothing is taken.
func In(f *form.Form, q *form.Question, filled *form.Filled, b Book) (Taken, []Fault) {
	r := newReader(f, q, filled, columns(f, q, false))
	seen := map[string]bool{}
	for _, p := range append(periods(q), noYear) {
		i := slices.IndexFunc(
			b.Sheets,
			func(s Sheet) bool { return strings.EqualFold(strings.TrimSpace(s.Name), p.name) },
		)
		if i < 0 && p == noYear {
			continue
		}
		if i < 0 {
			r.fault("", "", fmt.Sprintf("the sheet “%s” is missing", p.name))
			continue
		}
		seen[b.Sheets[i].Name] = true
		r.sheet(b.Sheets[i], p.key)
	}
	var left []string
	for _, s := range b.Sheets {
		if !seen[s.Name] && !strings.EqualFold(s.Name, Summary) && len(s.Rows) > 0 {
			left = append(left, s.Name)
		}
	}
	t, faults := r.taken()
	t.Left = left
	return t, faults
}

type reader struct {
	f      *form.Form
	q      *form.Question
	filled *form.Filled
	cols   []column
	rows   map[string]map[form.Key]string // by row of the draft: what is to stand there
	order  []string
	fresh  []map[form.Key]string
	faults []Fault
	more   int // faults beyond MostFaults
}

func newReader(f *form.Form, q *form.Question, filled *form.Filled, cols []column) *reader {
	return &reader{f: f, q: q, filled: filled, cols: cols, rows: map[string]map[form.Key]string{}}
}

func (r *reader) fault(sheet, cell, says string) {
	if len(r.faults) >= MostFaults {
		r.more++
		return
	}
	r.faults = append(r.faults, Fault{sheet, cell, says})
}

// sheet reads the lines of one year.
func (r *reader) sheet(s Sheet, year form.Key) {
	if len(s.Rows) == 0 {
		r.fault(s.Name, "", "the sheet is empty")
		return
	}
	right := true
	for i, c := range r.cols {
		has := ""
		if i < len(s.Rows[0]) {
			has = strings.TrimSpace(s.Rows[0][i].Text)
		}
		if !strings.EqualFold(has, c.label) {
			right = false
			r.fault(s.Name, Name(i, 0), fmt.Sprintf("the heading says “%s”; it should say “%s”", has, c.label))
		}
	}
	if !right {
		return // nothing below can be told apart
	}
	if s.More {
		r.fault(
			s.Name,
			"",
			fmt.Sprintf("it has more than %d lines or %d columns; a budget takes fewer", MostLines, Columns),
		)
	}
	for n, cells := range s.Rows[1:] {
		if n == 0 && len(cells) > 1 && cells[1].Text == "All of this sheet" {
			continue
		}
		r.line(s.Name, n+1, cells, year)
	}
}

// line reads one row of a sheet.
func (r *reader) line(sheet string, n int, cells []Cell, year form.Key) {
	at := map[form.Key]string{}
	row, some := "", false
	var cost *Cell
	costAt := 0
	for i, c := range r.cols {
		if i >= len(cells) {
			break
		}
		cell := cells[i]
		switch c.as {
		case number:
			row = r.number(sheet, Name(i, n), cell)
		case worked:
			cost, costAt = &cells[i], i
		default:
			v := r.value(sheet, Name(i, n), c, cell, r.is(row, c.key))
			if at[c.key] = v; v != "" && c.key != form.ColHeading && c.key != form.ColPeriod {
				some = true
			}
		}
	}
	for i := len(r.cols); i < len(cells); i++ {
		if strings.TrimSpace(cells[i].Text) != "" {
			r.fault(sheet, Name(i, n), "this stands outside the columns of the budget")
		}
	}
	if !some {
		return
	}
	if year != "" {
		at[form.ColPeriod] = string(year)
	}
	if cost != nil {
		r.lies(sheet, Name(costAt, n), *cost, at)
	}
	switch {
	case row == "":
		r.fresh = append(r.fresh, at)
	case r.rows[row] != nil:
		r.fault(sheet, Name(0, n), "another line has this number already; empty it for a new line")
	default:
		r.rows[row] = at
		r.order = append(r.order, row)
	}
}

// number of a line; "" for a new one.
func (r *reader) number(sheet, at string, c Cell) string {
	t := strings.TrimSuffix(strings.TrimSpace(c.Text), ".0")
	if t == "" {
		return ""
	}
	n, err := strconv.Atoi(t)
	if err != nil || n < 1 || n >= form.MostRows {
		r.fault(sheet, at, fmt.Sprintf("“%s” is no number of a line; empty it for a new line", c.Text))
		return ""
	}
	return form.RowKey(n)
}

// is what stands in a cell of the draft now, blanks joined.
func (r *reader) is(row string, k form.Key) string {
	if row == "" {
		return ""
	}
	return strings.Join(strings.Fields(r.filled.Answers[form.Place{Question: r.q.Key, Row: row, Column: k}].Raw), " ")
}

// value of one cell, as it would be typed; "" for none, or for one that cannot
// be taken. What stands there already may come back as it is.
func (r *reader) value(sheet, at string, c column, cell Cell, is string) string {
	t := strings.Join(strings.Fields(cell.Text), " ")
	bad := func(format string, args ...any) string {
		r.fault(sheet, at, fmt.Sprintf(format, args...))
		return ""
	}
	if cell.Formula != "" {
		switch {
		case cell.Calc == "":
			return bad("the formula cannot be worked out here; put in what it comes to")
		case !sameNumber(cell.Calc, t):
			return bad("the formula says %s and comes to %s; put in the one that is meant", t, cell.Calc)
		}
	}
	if t == "" || t == is {
		return t
	}
	switch c.as {
	case choice:
		for _, o := range c.options {
			if strings.EqualFold(o.Label, t) || string(o.Key) == t {
				return string(o.Key)
			}
		}
		return bad("“%s” is not offered under “%s”", t, c.label)
	case sum:
		return r.sum(bad, c, cell, t)
	case quantity:
		switch {
		case cell.Date:
			return bad("this is a date; under “%s” stands a number", c.label)
		case cell.Number:
			n, ok := exact(t, 6)
			if !ok {
				return bad("“%s” has more than six decimals", t)
			}
			return decimal.String(n, 6)
		}
		if n, ok := decimal.Quantity(t); !ok || n.Num < 0 {
			return bad("“%s” cannot be read as a number", t)
		}
		return t
	case date:
		if cell.Number {
			days, ok := exact(t, 9)
			d := serial(days)
			if !ok || d.IsZero() || !cell.Date {
				return bad("“%s” cannot be read as a day; write it as 1 July 2027", t)
			}
			return d.String()
		}
		if _, ok := calendar.ParseDate(t); !ok {
			return bad("“%s” cannot be read as a day; write it as 1 July 2027", t)
		}
		return t
	}
	return t
}

func (r *reader) sum(bad func(string, ...any) string, c column, cell Cell, t string) string {
	cur := r.f.Design.Currency
	switch {
	case cell.Date:
		return bad("this is a date; under “%s” stands a sum", c.label)
	case cell.Number && cell.Sign != "" && cell.Sign != strings.TrimSpace(money.Symbol(cur)) && cell.Sign != cur:
		return bad("this is shown in %s; sums here are in %s", cell.Sign, cur)
	case cell.Number:
		n, ok := exact(t, money.Digits(cur))
		if !ok {
			return bad("“%s” has more decimals than %s has", t, cur)
		}
		if n.Num < 0 {
			return bad("a sum cannot be less than nothing")
		}
		return decimal.String(n, money.Digits(cur))
	}
	if n, ok := money.Parse(t, cur); !ok || n < 0 {
		return bad("“%s” cannot be read as a sum in %s", t, cur)
	}
	return t
}

// lies tells of a cost that is not what its line comes to: somebody would have
// added up another sum than we do.
func (r *reader) lies(sheet, at string, cost Cell, cells map[form.Key]string) {
	if cost.Text == "" || cells[form.ColEach] == "" {
		return
	}
	cur := r.f.Design.Currency
	each, ok := money.Parse(cells[form.ColEach], cur)
	many := condition.Number{Num: 1, Den: 1}
	if v := cells[form.ColQuantity]; v != "" {
		if many, ok = decimal.Quantity(v); !ok {
			return
		}
	}
	want, fits := form.LineCost(many, each)
	if !ok || !fits {
		return
	}
	is, read := exact(cost.Text, money.Digits(cur))
	minor := int64(1)
	for range money.Digits(cur) {
		minor *= 10
	}
	if !read || is.Num*minor/max(is.Den, 1) != want {
		r.fault(sheet, at, fmt.Sprintf("the cost says %s; the line comes to %s", cost.Text, money.Format(want, cur)))
	}
}

// exact reads a number as a workbook keeps it, a double, as people meant it: to
// fifteen digits, which is what a double holds. ok is false when it has more
// decimals than allowed.
func exact(text string, decimals int) (condition.Number, bool) {
	v, err := strconv.ParseFloat(text, 64)
	if err != nil {
		return condition.Number{}, false
	}
	r, ok := new(big.Rat).SetString(strconv.FormatFloat(v, 'g', 15, 64))
	if !ok {
		return condition.Number{}, false
	}
	den := int64(1)
	for range decimals {
		den *= 10
	}
	scaled := new(big.Rat).Mul(r, big.NewRat(den, 1))
	if !scaled.IsInt() || !scaled.Num().IsInt64() {
		return condition.Number{}, false
	}
	return condition.Number{Num: scaled.Num().Int64(), Den: den}, true
}

// sameNumber reports two texts that are the same, or numbers no further apart
// than a cent: programs round halves differently.
func sameNumber(a, b string) bool {
	if strings.TrimSpace(a) == strings.TrimSpace(b) {
		return true
	}
	x, errX := strconv.ParseFloat(a, 64)
	y, errY := strconv.ParseFloat(b, 64)
	return errX == nil && errY == nil && math.Abs(x-y) < 0.0100001
}

// serial is the day of a workbook's number of days (ISO/IEC 29500-1, 18.17.4.1:
// 1900 is taken for a leap year, so that days count from the end of 1899 from
// March 1900 on).
func serial(n condition.Number) calendar.Date {
	days := n.Num / max(n.Den, 1)
	if days < 61 || days > 100_000 {
		return 0
	}
	return calendar.NewDate(1899, 12, 30).AddDays(int(days))
}

// taken compares what was read with the draft.
func (r *reader) taken() (Taken, []Fault) {
	if r.more > 0 {
		r.faults = append(r.faults, Fault{"", "", fmt.Sprintf("and %d more", r.more)})
	}
	if len(r.rows)+len(r.fresh) >= form.MostRows {
		r.fault("", "", fmt.Sprintf("a budget takes %d lines", form.MostRows-1))
	}
	if len(r.faults) > 0 {
		return Taken{}, r.faults
	}
	var t Taken
	old := r.filled.Rows(r.q.Key)
	put := func(row string, at map[form.Key]string) (changed bool) {
		for _, k := range r.f.Cells(r.q) {
			v, has := at[k]
			if !has && k != form.ColQuotes {
				continue // a column that is not in the file stays
			}
			p := form.Place{Question: r.q.Key, Row: row, Column: k}
			is := r.filled.Answers[p].Raw
			if k == form.ColQuotes { // they belong to the thing that is quoted for
				if is == "" ||
					r.same(form.ColItem, at[form.ColItem], r.filled.Answers[form.Place{Question: r.q.Key, Row: row,
						Column: form.ColItem}].Raw) {
					continue
				}
				v = ""
			}
			if !r.same(k, v, is) {
				t.Changes = append(t.Changes, Change{p, v})
				changed = true
			}
		}
		return changed
	}
	held := map[string]bool{}
	for _, l := range r.f.BudgetLines(r.filled, r.q.Key) {
		held[l.Row] = true
	}
	for _, row := range old {
		switch at := r.rows[row]; {
		case at != nil && put(row, at) && held[row]:
			t.Differ++
		case at == nil && held[row]:
			empty := map[form.Key]string{}
			for _, k := range r.f.Cells(r.q) {
				empty[k] = ""
			}
			put(row, empty)
			t.Gone++
		}
	}
	slices.SortFunc(r.order, cmp.Compare)
	for _, row := range r.order {
		if !slices.Contains(old, row) {
			put(row, r.rows[row])
			t.New++
		}
	}
	all := append(slices.Clone(old), r.order...)
	for _, at := range r.fresh {
		row := form.NextRow(all)
		all = append(all, row)
		put(row, at)
		t.New++
	}
	return t, nil
}

// same reports two texts of a column that say the same.
func (r *reader) same(k form.Key, a, b string) bool {
	a, b = strings.TrimSpace(a), strings.Join(strings.Fields(b), " ")
	if a == b {
		return true
	}
	i := slices.IndexFunc(r.cols, func(c column) bool { return c.key == k })
	if i < 0 || a == "" || b == "" {
		return false
	}
	switch r.cols[i].as {
	case sum:
		x, okX := money.Parse(a, r.f.Design.Currency)
		y, okY := money.Parse(b, r.f.Design.Currency)
		return okX && okY && x == y
	case quantity:
		x, okX := decimal.Quantity(a)
		y, okY := decimal.Quantity(b)
		return okX && okY && x.Compare(y) == 0
	case date:
		x, okX := calendar.ParseDate(a)
		y, okY := calendar.ParseDate(b)
		return okX && okY && x == y
	}
	return false
}
