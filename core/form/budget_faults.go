package form

import (
	"slices"
	"strconv"

	"ulvant/core/budget"
	"ulvant/core/condition"
	"ulvant/core/money"
	"ulvant/core/slot"
)

// checkBudget finds what keeps a budget from adding up, each beside its cell.
func checkBudget(w *walk, q *question, s *QuestionState) {
	lines := w.form.BudgetLines(w.filled, q.def.Key)
	if len(lines) == 0 {
		w.blank(s)
		return
	}
	s.Presence = condition.Given
	readable := true
	for i := range lines {
		if w.budgetLine(q.def, s, &lines[i]) {
			readable = false
		}
	}
	if !readable {
		return
	}
	totals, ok := budget.Sum(Lined(lines), budgetRules(q.def, s.Limits))
	if !ok {
		w.obstacle(s, Obstacle{Code: CodeBudgetHuge})
		return
	}
	s.Totals = &totals
	w.budgetShares(q.def, s)
}

// budgetLine checks one line; unread reports one that cannot be added up.
func (w *walk) budgetLine(q *Question, s *QuestionState, l *BudgetLine) (unread bool) {
	c := q.costing()
	fault := func(column Key, o Obstacle) {
		o.Place, o.Name = Place{q.Key, l.Row, column}, l.Item
		w.obstacle(s, o)
	}
	raw := func(k Key) string { return w.filled.Answers[Place{q.Key, l.Row, k}].Raw }
	for _, column := range l.Unread {
		fault(column, Obstacle{Code: CodeBudgetLine, Detail: raw(column)})
		unread = unread || column != ColWhen
	}
	chosen := func(has []Option, column Key, value string) {
		if len(has) > 0 && !slices.ContainsFunc(has, func(o Option) bool { return string(o.Key) == value }) {
			fault(column, Obstacle{Code: CodeBudgetChoice})
		}
	}
	chosen(q.Options, ColHeading, l.Heading)
	chosen(c.Periods, ColPeriod, l.Period)
	chosen(c.Partners, ColPartner, l.Partner)
	if len(c.Gives) > 0 {
		chosen(w.form.Gifts(q), ColGives, l.Gives)
	}
	if c.Quantities && l.Unit == "" && raw(ColQuantity) != "" {
		fault(ColUnit, Obstacle{Code: CodeBudgetChoice})
	} else if c.Quantities && l.Unit != "" {
		chosen(c.Units, ColUnit, l.Unit)
	}
	if c.Dated {
		start := w.form.Day(s.Limits.NotBefore)
		switch {
		case slices.Contains(l.Unread, ColWhen):
		case l.When.IsZero():
			fault(ColWhen, Obstacle{Code: CodeBudgetChoice})
		case !start.IsZero() && l.When < start:
			fault(ColWhen, Obstacle{Code: CodeBudgetEarly, Day: start})
		}
	}
	if unread {
		return true
	}
	if g := w.form.Gift(Key(l.Gives)); g != nil && g.Value > 0 && c.Quantities && l.Each != g.Value {
		fault(ColEach, Obstacle{Code: CodeBudgetValue, Have: l.Each, Limit: g.Value, Detail: g.Label})
	}
	named, ok := l.Named()
	switch {
	case l.FromUs > l.Cost:
		fault(ColUs, Obstacle{Code: CodeBudgetOver, Have: l.FromUs, Limit: l.Cost})
	case !q.Divided() && l.Match() > 0 && l.PayerOf() == "":
		fault(ColPayer, Obstacle{Code: CodeBudgetPayer, Have: l.Match()})
	case q.Divided() && (!ok || named != l.Cost):
		fault(w.dearest(q, l), Obstacle{Code: CodeBudgetDivide, Have: named, Limit: l.Cost})
	}
	if x := c.Quotes; x != nil && x.wanted(l) {
		if l.Supplier == "" {
			fault(ColSupplier, Obstacle{Code: CodeBudgetSupplier, Have: l.Cost, Limit: x.Above})
		}
		if have := w.quotes(x.Slot, l.Quotes); have < x.Count {
			fault(ColQuotes, Obstacle{Code: CodeBudgetQuotes, Have: int64(have), Limit: int64(x.Count),
				Detail: money.Format(x.Above, w.form.Design.Currency)})
		}
	}
	return false
}

// wanted reports a line that must name its supplier and have quotes; nobody
// quotes for what is given in kind.
func (x *Quotes) wanted(l *BudgetLine) bool {
	under := len(x.Headings) == 0 || slices.Contains(x.Headings, Key(l.Heading))
	return under && l.Cost > 0 && l.Cost >= x.Above && l.Parts[payerInKind] < l.Cost
}

// payerInKind is the place of what is given in kind among the parts of a line.
var payerInKind = slices.Index(budget.Payers, budget.InKind)

// quotes counts those named that are in the slot.
func (w *walk) quotes(at Key, named []string) (n int) {
	for _, file := range w.filled.Files[at] {
		if file.State != slot.Uploading && slices.Contains(named, FileRow(file.ID)) {
			n++
		}
	}
	return n
}

// dearest is the column in which a line's division is mended first: the largest
// part of one that is over, else what is asked from this fund.
func (w *walk) dearest(q *Question, l *BudgetLine) Key {
	at, most := ColUs, l.FromUs
	for i, s := range SourceColumns {
		if slices.Contains(q.costing().Sources, s.Key) && l.Parts[i] > most {
			at, most = s.Key, l.Parts[i]
		}
	}
	return at
}

// budgetShares checks what holds of the whole budget.
func (w *walk) budgetShares(q *Question, s *QuestionState) {
	t, cur := s.Totals, w.form.Design.Currency
	unit := int64(1)
	for range money.Digits(cur) {
		unit *= 10
	}
	rate := int64(0)
	if x := q.costing().Indirect; x != nil {
		rate = x.Rate
	}
	w.budgetRequests(q, s)
	if least := budget.LeastMatch(t.Cost, s.Limits.MatchPercent); s.Limits.MatchPercent > 0 && t.Counted < least {
		w.obstacle(s, Obstacle{Code: CodeBudgetMatch, Have: t.Counted, Limit: least,
			Name: strconv.FormatInt(s.Limits.MatchPercent, 10), Mend: budget.MatchMend(*t, s.Limits.MatchPercent, rate, unit)})
	}
	if least := budget.LeastMatch(t.FromUs, s.Limits.MatchOfAsked); s.Limits.MatchOfAsked > 0 && t.Counted < least {
		w.obstacle(s, Obstacle{Code: CodeBudgetMatchAsked, Have: t.Counted, Limit: least,
			Name: strconv.FormatInt(s.Limits.MatchOfAsked, 10), Mend: budget.RequestMend(*t, s.Limits.MatchOfAsked, unit)})
	}
	for _, c := range s.Limits.Caps {
		part := t.ByHeading[string(c.Heading)]
		have, of, grows := part.FromUs, t.FromUs, rate
		switch c.Of {
		case OfCost:
			have, of = part.Cost, t.Cost
		case OfDirect:
			have, of, grows = part.Cost, t.Direct, 0
		}
		if most := budget.MostShare(of, c.Percent); have > most {
			w.obstacle(s, Obstacle{Code: CodeBudgetCap, Have: have, Limit: most,
				Name: LabelOf(q.Options, string(c.Heading)), Detail: strconv.FormatInt(c.Percent, 10) + " " + string(c.Of),
				Mend: budget.CapMend(have, of, c.Percent, grows, unit)})
		}
	}
}

// budgetRequests checks what is asked against the questions that say so, and
// each kind of money and goods against its least and most.
func (w *walk) budgetRequests(q *Question, s *QuestionState) {
	t := s.Totals
	one := func(request Key, have int64, name string) {
		i, ok := w.form.index[request]
		if !ok {
			return
		}
		r := w.path.Questions[i]
		if r.Presence == condition.Given && r.Value.Number.Num != have {
			w.obstacle(s, Obstacle{Code: CodeBudgetRequest, Have: have, Limit: r.Value.Number.Num, Name: name})
		}
	}
	if len(q.costing().Gives) == 0 {
		one(q.Request, t.FromUs, "")
		return
	}
	one(q.Request, t.ByGives[string(OfMoney)].FromUs, "")
	for _, k := range q.costing().Gives {
		g := w.form.Gift(k)
		if g == nil {
			continue
		}
		have := t.ByGives[string(k)].FromUs
		one(g.Request, have, g.Label)
		if have > 0 && g.Least != nil && have < *g.Least {
			w.obstacle(s, Obstacle{Code: CodeBudgetLeast, Have: have, Limit: *g.Least, Name: g.Label})
		}
		if g.Most != nil && have > *g.Most {
			w.obstacle(s, Obstacle{Code: CodeBudgetMost, Have: have, Limit: *g.Most, Name: g.Label})
		}
	}
}
