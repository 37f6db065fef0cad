package costbook

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/decimal"
	"ulvant/core/form"
	"ulvant/core/money"
)

// spareLines are how many empty lines a sheet has, to be filled in elsewhere.
const spareLines = 30

// Out writes the budget of a draft as a workbook.
func Out(f *form.Form, q *form.Question, filled *form.Filled) Book {
	w := &writer{f: f, q: q, filled: filled, cols: columns(f, q, false), cur: f.Design.Currency}
	byYear := map[form.Key][]string{}
	known := map[form.Key]bool{}
	list := periods(q)
	for _, p := range list {
		known[p.key] = true
	}
	for _, row := range filled.Rows(q.Key) {
		if !w.holds(row) {
			continue
		}
		year := form.Key(filled.Answers[form.Place{Question: q.Key, Row: row, Column: form.ColPeriod}].Raw)
		if !known[year] {
			year = ""
		}
		byYear[year] = append(byYear[year], row)
	}
	if !known[""] && len(byYear[""]) > 0 {
		list = append(list, noYear)
	}
	var b Book
	for _, p := range list {
		b.Sheets = append(b.Sheets, w.sheet(p, byYear[p.key]))
	}
	b.Sheets = append(b.Sheets, w.summary(list))
	return b
}

type writer struct {
	f      *form.Form
	q      *form.Question
	filled *form.Filled
	cols   []column
	cur    string
	last   int // row of each sheet with a line, counted from 1
}

// holds reports a row with something in it beside its heading and its year.
func (w *writer) holds(row string) bool {
	for _, c := range w.cols {
		at := form.Place{Question: w.q.Key, Row: row, Column: c.key}
		if c.key != form.ColHeading && !w.filled.Answers[at].Empty() {
			return true
		}
	}
	return false
}

// letter of a column; "" when the budget has none of it.
func (w *writer) letter(k form.Key) string {
	for i, c := range w.cols {
		if c.key == k {
			name := Name(i, 0)
			return name[:len(name)-1]
		}
	}
	return ""
}

func (w *writer) sheet(p period, rows []string) Sheet {
	s := Sheet{Name: p.name}
	head, all := make([]Cell, len(w.cols)), make([]Cell, len(w.cols))
	end := heads + len(rows) + spareLines
	w.last = max(w.last, end)
	for i, c := range w.cols {
		head[i] = Cell{Text: c.label, Look: Heading}
		if c.as == sum && c.key != form.ColEach || c.as == worked {
			l := strings.TrimRight(Name(i, 0), "1")
			all[i] = Cell{Formula: fmt.Sprintf("SUM(%s%d:%s%d)", l, heads+1, l, end), Number: true, Look: Sum}
		} else {
			all[i] = Cell{Look: Fixed}
		}
	}
	all[1] = Cell{Text: "All of this sheet", Look: Fixed}
	s.Rows = append(s.Rows, head, all)
	for n := range len(rows) + spareLines {
		row := ""
		if n < len(rows) {
			row = rows[n]
		}
		line := make([]Cell, len(w.cols))
		for i, c := range w.cols {
			line[i] = w.cell(c, row, heads+n+1)
		}
		s.Rows = append(s.Rows, line)
	}
	return s
}

// cell of a line: at is its row, counted from 1.
func (w *writer) cell(c column, row string, at int) Cell {
	raw := strings.TrimSpace(w.filled.Answers[form.Place{Question: w.q.Key, Row: row, Column: c.key}].Raw)
	if row == "" {
		raw = ""
	}
	switch c.as {
	case number:
		if row == "" {
			return Cell{Look: Fixed}
		}
		return Cell{Text: strings.TrimLeft(row[1:], "0"), Number: true, Look: Fixed}
	case worked:
		each, many := fmt.Sprintf(
			"%s%d",
			w.letter(form.ColEach),
			at,
		), fmt.Sprintf(
			"%s%d",
			w.letter(form.ColQuantity),
			at,
		)
		worth := each
		if as := w.letter(form.ColGives); as != "" && w.worths() != "" {
			worth = fmt.Sprintf("IF(%s<>\"\",%s,%s)", each, each, w.worth(fmt.Sprintf("%s%d", as, at)))
			each += fmt.Sprintf("&%s%d", as, at)
		}
		return Cell{Formula: fmt.Sprintf("IF(%s=\"\",0,ROUND(IF(%s=\"\",1,%s)*%s,%d))", each, many, many, worth,
			money.Digits(w.cur)), Number: true, Look: Sum}
	case sum:
		if n, ok := money.Parse(raw, w.cur); ok {
			return Cell{Text: strings.ReplaceAll(money.Plain(n, w.cur), ",", ""), Number: true, Look: OpenSum}
		}
		return Cell{Text: raw, Look: OpenSum}
	case quantity:
		if n, ok := decimal.Quantity(raw); ok {
			return Cell{Text: decimal.String(n, 17), Number: true}
		}
	case choice:
		return Cell{Text: form.LabelOf(c.options, raw)}
	}
	return Cell{Text: raw}
}

// worths names the gifts that have a value; "" for none.
func (w *writer) worths() string {
	var out []string
	for _, o := range w.f.Gifts(w.q)[1:] {
		if g := w.f.Gift(o.Key); g != nil && g.Value > 0 {
			out = append(out, string(o.Key))
		}
	}
	return strings.Join(out, " ")
}

// worth is a formula for what one of what a cell names is worth.
func (w *writer) worth(as string) string {
	out := "0"
	for _, o := range slices.Backward(w.f.Gifts(w.q)[1:]) {
		if g := w.f.Gift(o.Key); g != nil && g.Value > 0 {
			out = fmt.Sprintf(
				"IF(%s=%s,%s,%s)",
				as,
				quoted(o.Label),
				strings.ReplaceAll(money.Plain(g.Value, w.cur), ",", ""),
				out,
			)
		}
	}
	return out
}

func quoted(s string) string { return `"` + strings.ReplaceAll(s, `"`, `""`) + `"` }

// ranged is a column of a sheet's lines, for a formula on another sheet.
func (w *writer) ranged(p period, k form.Key) string {
	l := w.letter(k)
	return fmt.Sprintf("'%s'!$%s$%d:$%s$%d", strings.ReplaceAll(p.name, "'", "''"), l, heads+1, l, w.last)
}

// summary adds the sheets up, as the program does.
func (w *writer) summary(list []period) Sheet {
	s := Sheet{Name: Summary}
	add := func(label, formula string) int {
		s.Rows = append(s.Rows, []Cell{{Text: label, Look: Fixed}, {Formula: formula, Number: true, Look: Sum}})
		return len(s.Rows)
	}
	s.Rows = append(
		s.Rows,
		[]Cell{{Text: "Worked out from the other sheets; nothing here is read back in.", Look: Note}},
		nil,
	)
	over := func(k form.Key) string {
		var parts []string
		for _, p := range list {
			parts = append(parts, "SUM("+w.ranged(p, k)+")")
		}
		return strings.Join(parts, "+")
	}
	direct := add("All lines", over(form.ColCost))
	for _, h := range w.q.Options {
		var parts []string
		for _, p := range list {
			parts = append(parts, fmt.Sprintf("SUMIF(%s,%s,%s)", w.ranged(p, form.ColHeading), quoted(h.Label),
				w.ranged(p, form.ColCost)))
		}
		add("under “"+h.Label+"”", strings.Join(parts, "+"))
	}
	x := w.q.Costing
	indirect := 0
	if x != nil && x.Indirect != nil {
		var parts []string
		for n, p := range list {
			at := add("Base of indirect costs, "+p.name, w.base(list[:n+1]))
			parts = append(parts, fmt.Sprintf("ROUND(B%d*%s/10000,%d)", at, strconv.FormatInt(x.Indirect.Rate, 10),
				money.Digits(w.cur)))
		}
		indirect = add("Indirect costs", strings.Join(parts, "+"))
	}
	cost, us := fmt.Sprintf("B%d", direct), over(form.ColUs)
	if indirect > 0 {
		cost += fmt.Sprintf("+B%d", indirect)
		if !x.Indirect.ByOwn {
			us += fmt.Sprintf("+B%d", indirect)
		}
	}
	all := add("Cost of it all", cost)
	asked := add("Asked from us", us)
	add("Others and you", fmt.Sprintf("B%d-B%d", all, asked))
	return s
}

// base is the formula for the base of indirect costs in the last of some years;
// a cap on a partner is filled in the order of the years.
func (w *writer) base(years []period) string {
	x := w.q.Costing.Indirect
	of := form.ColCost
	if x.OfAsked {
		of = form.ColUs
	}
	p := years[len(years)-1]
	var parts []string
	for _, b := range x.Bases {
		label := quoted(form.LabelOf(w.q.Options, string(b.Heading)))
		plain := func(n int64) string { return strings.ReplaceAll(money.Plain(n, w.cur), ",", "") }
		line := func(p period) string { // what each line counts
			amount := w.ranged(p, of)
			if b.LineMost > 0 {
				amount = fmt.Sprintf(
					"(%s+%s-ABS(%s-%s))/2",
					amount,
					plain(b.LineMost),
					amount,
					plain(b.LineMost),
				) // the lesser
			}
			return fmt.Sprintf("(%s=%s)*(%s)", w.ranged(p, form.ColHeading), label, amount)
		}
		switch {
		case b.PartnerMost == 0:
			parts = append(parts, "SUMPRODUCT("+line(p)+")")
		default:
			for _, o := range w.q.Costing.Partners {
				upTo := func(years []period) string {
					if len(years) == 0 {
						return "0"
					}
					var sums []string
					for _, y := range years {
						sums = append(
							sums,
							fmt.Sprintf(
								"SUMPRODUCT((%s=%s)*%s)",
								w.ranged(y, form.ColPartner),
								quoted(o.Label),
								line(y),
							),
						)
					}
					return fmt.Sprintf("MIN(%s,%s)", plain(b.PartnerMost), strings.Join(sums, "+"))
				}
				parts = append(parts, upTo(years)+"-"+upTo(years[:len(years)-1]))
			}
			// a line without a partner is one of its own
			partner := ""
			if w.letter(form.ColPartner) != "" {
				partner = fmt.Sprintf("(%s=\"\")*", w.ranged(p, form.ColPartner))
			}
			l := "(" + w.ranged(p, of) + ")"
			if b.LineMost > 0 && b.LineMost < b.PartnerMost {
				b.PartnerMost = b.LineMost
			}
			parts = append(parts, fmt.Sprintf("SUMPRODUCT(%s(%s=%s)*(%s+%s-ABS(%s-%s))/2)", partner,
				w.ranged(p, form.ColHeading), label, l, plain(b.PartnerMost), l, plain(b.PartnerMost)))
		}
	}
	return strings.Join(parts, "+")
}
