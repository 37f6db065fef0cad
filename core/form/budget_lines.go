package form

import (
	"slices"
	"strings"

	"ulvant/core/budget"
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/money"
)

// BudgetLine is a line of a budget as it stands in a draft.
type BudgetLine struct {
	budget.Line
	Row      string
	Quantity condition.Number // one where none is typed
	Unit     string
	Each     int64
	Supplier string
	Quotes   []string // files, as FileRow names them
	When     calendar.Date
	// Unread are the columns in which something stands that cannot be read, or
	// that a line cannot be without.
	Unread []Key
}

// BudgetLines reads the lines of a budget, in the order of their rows. Rows
// with neither a name nor a figure are left out.
func (f *Form) BudgetLines(filled *Filled, q Key) (lines []BudgetLine) {
	def := f.Question(q)
	if def == nil {
		return nil
	}
	columns := f.Cells(def)
	for _, row := range filled.Rows(q) {
		at := func(c Key) string {
			if !slices.Contains(columns, c) {
				return ""
			}
			return strings.TrimSpace(filled.Answers[Place{q, row, c}].Raw)
		}
		if l, some := f.budgetLine(def, at); some {
			l.Row = row
			lines = append(lines, l)
		}
	}
	return lines
}

// budgetLine reads one line; some is false when it holds nothing.
func (f *Form) budgetLine(q *Question, at func(Key) string) (l BudgetLine, some bool) {
	c, cur := q.costing(), f.Design.Currency
	some = at(ColItem) != ""
	bad := func(k Key) { l.Unread = append(l.Unread, k) }
	sum := func(k Key, needed bool) int64 {
		raw := at(k)
		some = some || raw != ""
		n, ok := money.Parse(raw, cur)
		if raw == "" {
			n, ok = 0, !needed
		}
		if !ok || n < 0 {
			bad(k)
			return 0
		}
		return n
	}
	if at(ColItem) == "" {
		bad(ColItem)
	}
	l.Item, l.Heading, l.Period = at(ColItem), at(ColHeading), at(ColPeriod)
	l.Partner, l.Gives, l.Unit, l.Supplier = at(ColPartner), at(ColGives), at(ColUnit), at(ColSupplier)
	l.Quantity = condition.Number{Num: 1, Den: 1}
	if c.Quantities {
		if raw := at(ColQuantity); raw != "" {
			some = true
			n, ok := decimal.Quantity(raw)
			if !ok || n.Num < 0 {
				bad(ColQuantity)
			} else {
				l.Quantity = n
			}
		}
		if g := f.Gift(Key(l.Gives)); g != nil && g.Value > 0 && at(ColEach) == "" {
			l.Each = g.Value
		} else {
			l.Each = sum(ColEach, true)
		}
		cost, ok := LineCost(l.Quantity, l.Each)
		if !ok {
			bad(ColQuantity)
			cost = 0
		}
		l.Cost = cost
	} else {
		l.Cost = sum(ColCost, true)
	}
	l.FromUs = sum(ColUs, false)
	for i, s := range SourceColumns {
		if slices.Contains(c.Sources, s.Key) {
			l.Parts[i] = sum(s.Key, false)
		} else if !q.Divided() && at(ColPayer) == string(s.Payer) {
			l.Parts[i] = max(l.Cost-l.FromUs, 0)
		}
	}
	l.Quotes = Lines(at(ColQuotes))
	if raw := at(ColWhen); raw != "" {
		d, ok := calendar.ParseDate(raw)
		if !ok {
			bad(ColWhen)
		}
		l.When = d
	}
	return l, some
}

// LineCost is what so many cost at so much each, as a budget reckons it; ok is
// false beyond what can be kept.
func LineCost(many condition.Number, each int64) (int64, bool) {
	n, ok := budget.LineCost(many.Num, max(many.Den, 1), each)
	return n, ok && n < mostSum
}

// PayerOptions are those who may pay the rest of a line, to be chosen from.
func PayerOptions() (out []Option) {
	for _, p := range budget.Payers {
		out = append(out, Option{Key(p), string(p)})
	}
	return out
}

// mostSum is the first sum that is too large, as for sums that are typed.
const mostSum = 1e15

// Lined are the lines as they are added up.
func Lined(lines []BudgetLine) []budget.Line {
	out := make([]budget.Line, len(lines))
	for i, l := range lines {
		out[i] = l.Line
	}
	return out
}

// PayerOf is who pays the rest of a line of a budget that is not divided; "" for nobody.
func (l BudgetLine) PayerOf() budget.Payer {
	for i, p := range l.Parts {
		if p > 0 {
			return budget.Payers[i]
		}
	}
	return ""
}

// The sums of a budget that figures can read, beside ColCost, ColUs and the
// columns of its sources. The others are named for what they are the sum of.
const (
	ColMatch    Key = "match"
	ColDirect   Key = "direct"
	ColIndirect Key = "indirect"
	byHeading       = "heading-"
	byPeriod        = "period-"
	byPartner       = "partner-"
	byGift          = "asked-"
)

// HeadingSum, PeriodSum, PartnerSum and GiftSum name the sum of a heading, a
// year, a partner, and what is asked as a gift or as OfMoney.
func HeadingSum(k Key) Key { return byHeading + k }
func PeriodSum(k Key) Key  { return byPeriod + k }
func PartnerSum(k Key) Key { return byPartner + k }
func GiftSum(k Key) Key    { return byGift + k }

// InKindSum names the sum of what is given in kind.
const InKindSum Key = "in-kind"

// SourceAt is the place of a source among the parts of a line; that of own money
// for any other key.
func SourceAt(k Key) int {
	for i, s := range SourceColumns {
		if s.Key == k {
			return i
		}
	}
	return 0
}

// BudgetSums lists the sums of a budget that figures can read.
func (f *Form) BudgetSums(q *Question) []Option {
	c := q.costing()
	out := []Option{{ColCost, "the cost"}, {ColUs, "what is asked"}, {ColMatch, "what others pay"}}
	if c.Indirect != nil {
		out = append(out, Option{ColDirect, "the cost without indirect costs"}, Option{ColIndirect, "indirect costs"})
	}
	for _, s := range SourceColumns {
		if slices.Contains(c.Sources, s.Key) {
			out = append(out, Option{s.Key, "what is paid as “" + s.Label + "”"})
		}
	}
	add := func(prefix Key, list []Option, says string) {
		for _, o := range list {
			out = append(out, Option{prefix + o.Key, says + " “" + o.Label + "”"})
		}
	}
	add(byHeading, q.Options, "the cost under")
	add(byPeriod, c.Periods, "the cost in")
	add(byPartner, c.Partners, "the cost of")
	if len(c.Gives) > 0 {
		out = append(out, Option{byGift, "what is asked as money"})
		add(byGift, f.Gifts(q)[1:], "what is asked as")
	}
	return out
}

// BudgetSum is one of BudgetSums.
func BudgetSum(t *budget.Totals, column Key) int64 {
	switch column {
	case ColCost:
		return t.Cost
	case ColUs:
		return t.FromUs
	case ColMatch:
		return t.Match
	case ColDirect:
		return t.Direct
	case ColIndirect:
		return t.Indirect
	}
	for _, s := range SourceColumns {
		if s.Key == column {
			return t.ByPayer[s.Payer]
		}
	}
	text := string(column)
	for prefix, of := range map[string]map[string]budget.Part{byHeading: t.ByHeading, byPeriod: t.ByPeriod,
		byPartner: t.ByPartner} {
		if k, ok := strings.CutPrefix(text, prefix); ok {
			return of[k].Cost
		}
	}
	return t.ByGives[strings.TrimPrefix(text, byGift)].FromUs
}
