package form

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/budget"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/slot"
)

func number(n int64) condition.Number { return condition.Number{Num: n, Den: 1} }

// rateWords writes a rate kept in hundredths of a percent.
func rateWords(rate int64) string {
	return decimal.String(condition.Number{Num: rate, Den: 100}, 2) + "%"
}

// budgetPossible: with every heading capped, the caps must leave room for all
// that they are a share of; and others cannot pay everything of what is asked
// from us.
func budgetPossible(_ *Form, q *Question, l Limits) bool {
	if l.MatchPercent >= 100 {
		return false
	}
	if len(q.Options) == 0 {
		return true
	}
	for _, of := range []CapOf{OfAsked, OfCost, OfDirect} {
		room := int64(0)
		for _, o := range q.Options {
			share := int64(100)
			for _, c := range l.Caps {
				if c.Heading == o.Key && c.Of == of {
					share = min(share, c.Percent)
				}
			}
			room += share
		}
		// indirect costs are a share of their own, under no heading
		whole := int64(100) * 100_00
		if x := q.costing().Indirect; x != nil && (of == OfCost || of == OfAsked && !x.ByOwn) {
			room *= 100_00 + x.Rate
		} else {
			room *= 100_00
		}
		if room < whole {
			return false
		}
	}
	return true
}

// exampleBudget spreads what is asked over the headings as far as their caps
// go, and lets others pay their least share, rounded up. What indirect costs
// take of the request is taken off the lines until both come out.
func exampleBudget(f *Form, filled *Filled, q *Question, s *QuestionState) bool {
	if len(filled.Rows(q.Key)) > 0 {
		return false
	}
	ask := int64(1000)
	if v, ok := f.Read(f.Question(q.Request), filled.Answers[Place{Question: q.Request}].Raw); ok {
		ask = v.Number.Num
	}
	rules, rate := budgetRules(q, s.Limits), int64(0)
	if rules.Indirect != nil {
		rate = rules.Indirect.Rate
	}
	grows := rate // of what others add
	if rules.Indirect != nil && !inBase(q, apart(q, s.Limits)) {
		grows = 0
	}
	direct, lift, extra := ask, int64(0), int64(0)
	lines := spread(q, s.Limits, ask, direct, lift, extra)
	for range 200 {
		t, ok := budget.Sum(lines, rules)
		if !ok {
			return false
		}
		off := ask - t.FromUs
		step := off * 100_00 / (100_00 + rate)
		short := budget.MatchMend(t, s.Limits.MatchPercent, grows, 1)
		asked := budget.RequestMend(t, s.Limits.MatchOfAsked, 1)
		switch {
		case off < 0:
			direct -= max(1, -step)
		case step > 0:
			direct += step
		case off > 0 && rate > 0:
			lift += max(1, off*100_00/rate/2)
		case short.More > 0:
			extra += short.More
		case asked.More > 0:
			extra += asked.More
		default:
			f.PutLines(filled, q, s.Limits, lines)
			return true
		}
		lines = spread(q, s.Limits, ask, direct, lift, extra)
	}
	f.PutLines(filled, q, s.Limits, lines)
	return true
}

// spread makes lines that ask direct from this fund, each heading as far as its
// cap of ask goes. Others bear lift of the first line, which raises what
// indirect costs come to, and extra where it does not, if there is such a heading.
func spread(q *Question, l Limits, ask, direct, lift, extra int64) (lines []budget.Line) {
	headings, c := q.Options, q.costing()
	if len(headings) == 0 {
		headings = []Option{{}}
	}
	for i, h := range headings {
		us := direct
		for _, c := range l.Caps {
			if c.Heading == h.Key {
				us = min(us, budget.MostShare(ask, c.Percent))
			}
		}
		direct -= us
		others := int64(0)
		if i == 0 {
			others += lift
		}
		if h.Key == apart(q, l) {
			others += extra
		}
		if i == 0 && us+others == 0 {
			others = 1
		}
		if us+others == 0 {
			continue
		}
		line := budget.Line{
			Item:    fmt.Sprintf("Line %d", len(lines)+1),
			Heading: string(h.Key),
			Cost:    us + others,
			FromUs:  us,
		}
		if len(c.Sources) > 0 {
			line.Parts[SourceAt(c.Sources[0])] = others
		} else {
			line.Parts[0] = others
		}
		lines = append(lines, line)
	}
	return lines
}

// apart is a heading for what others add: one that no indirect costs are
// reckoned on and that no cap of the cost holds, as far as there is one.
func apart(q *Question, l Limits) (best Key) {
	least := 3
	for _, o := range q.Options {
		n := 0
		if inBase(q, o.Key) {
			n = 2
		}
		if slices.ContainsFunc(l.Caps, func(c Cap) bool { return c.Heading == o.Key && c.Of != OfAsked }) {
			n++
		}
		if n < least {
			best, least = o.Key, n
		}
	}
	return best
}

func inBase(q *Question, heading Key) bool {
	x := q.costing().Indirect
	return x != nil && slices.ContainsFunc(x.Bases, func(b Base) bool { return b.Heading == heading })
}

// PutLines types lines into a draft without any, with examples of all else that
// the budget asks of each.
func (f *Form) PutLines(filled *Filled, q *Question, l Limits, lines []budget.Line) {
	c := q.costing()
	first := func(list []Option) string {
		if len(list) == 0 {
			return ""
		}
		return string(list[0].Key)
	}
	quotes := ""
	if x := c.Quotes; x != nil && x.Count > 0 {
		for n := len(filled.Files[x.Slot]); n < x.Count; n++ {
			filled.Files[x.Slot] = append(
				filled.Files[x.Slot],
				slot.File{ID: int64(900 + n), Name: "quote.pdf", Size: 1000,
					State: slot.Ready, Facts: slot.Facts{Kind: slot.PDF, Pages: 1}},
			)
		}
		for _, file := range filled.Files[x.Slot][:x.Count] {
			quotes = strings.TrimSpace(quotes + "\n" + FileRow(file.ID))
		}
	}
	when := ""
	if d := f.Day(l.NotBefore); c.Dated {
		if when = "2100-01-01"; !d.IsZero() {
			when = d.String()
		}
	}
	unit := first(c.Units)
	if unit == "" {
		unit = "piece"
	}
	or := func(given, otherwise string) string {
		if given == "" {
			return otherwise
		}
		return given
	}
	for i, l := range lines {
		cells := map[Key]string{ColItem: l.Item, ColHeading: l.Heading, ColQuantity: "1", ColUnit: unit,
			ColEach: f.sumTyped(l.Cost), ColCost: f.sumTyped(l.Cost), ColUs: f.sumTyped(l.FromUs),
			ColPayer: string(
				budget.Own,
			), ColPeriod: or(l.Period, first(c.Periods)), ColPartner: or(l.Partner, first(c.Partners)), ColGives: l.Gives,
			ColSupplier: "A supplier", ColQuotes: quotes, ColWhen: when}
		if g := f.Gift(Key(l.Gives)); g != nil && g.Value > 0 && l.Cost%g.Value == 0 { // at the price they have
			cells[ColQuantity], cells[ColEach] = strconv.FormatInt(l.Cost/g.Value, 10), ""
		}
		for n, x := range SourceColumns {
			if l.Parts[n] > 0 {
				cells[x.Key] = f.sumTyped(l.Parts[n])
			}
		}
		for _, column := range f.Cells(q) {
			if v := cells[column]; v != "" {
				filled.Answers[Place{q.Key, RowKey(i + 1), column}] = Answer{Raw: v}
			}
		}
	}
}
