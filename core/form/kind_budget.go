package form

import (
	"fmt"
	"strconv"
	"strings"

	"ulvant/core/budget"
	"ulvant/core/condition"
	"ulvant/core/money"
)

var _ = register(kind{
	key: Budget, means: "Budget: costs line by line, and who pays", keeps: InLines, measure: Sums,
	members: []string{"request", "options"}, limits: []string{"matchPercent", "caps"},
	compile: func(c *compiler, q *Question) {
		r, ok := c.f.index[q.Request]
		c.need(ok && r < c.walked && c.f.questions[r].def.Kind == Money,
			"a budget names the money question before it that it must add up to")
	},
	cells: func(q *Question) (out []Key) {
		for _, c := range BudgetColumns(q) {
			out = append(out, c.Key)
		}
		return out
	},
	check: checkBudget, words: budgetWords,
	ready:    func(_ *Question, _ Limits, limit string) string { return "The costs line by line. " + limit },
	possible: budgetPossible, complete: exampleBudget, tenths: takes(200), control: piecesDrawn,
})

// The columns of a budget table. The heading is there when the question has
// options: they are its headings.
const (
	ColItem    Key = "item"
	ColHeading Key = "heading"
	ColCost    Key = "cost"
	ColUs      Key = "from-us"
	ColPayer   Key = "payer"
)

// BudgetColumns lists the columns of a budget, in order.
func BudgetColumns(q *Question) []Option {
	out := []Option{{ColItem, "What"}, {ColHeading, "Heading"}, {ColCost, "Cost"}, {ColUs, "Asked from us"},
		{ColPayer, "Who pays the rest"}}
	if len(q.Options) == 0 {
		out = append(out[:1], out[2:]...)
	}
	return out
}

// BudgetLines reads the lines of a budget; bad holds the rows that cannot be
// read. Rows with nothing in them are left out.
func (f *Form) BudgetLines(filled *Filled, q Key) (lines []budget.Line, rows []string, bad []string) {
	for _, row := range filled.Rows(q) {
		at := func(c Key) Answer { return filled.Answers[Place{q, row, c}] }
		if at(ColItem).Empty() && at(ColCost).Empty() && at(ColUs).Empty() {
			continue
		}
		cost, ok := money.Parse(at(ColCost).Raw, f.Design.Currency)
		us, okUs := money.Parse(at(ColUs).Raw, f.Design.Currency)
		okUs = okUs || at(ColUs).Empty()
		if !ok || !okUs || cost < 0 || us < 0 || at(ColItem).Empty() {
			bad = append(bad, row)
		}
		payer := budget.Payer(at(ColPayer).Raw)
		lines = append(lines, budget.Line{Item: strings.TrimSpace(at(ColItem).Raw), Heading: at(ColHeading).Raw, Cost: cost,
			FromUs: us, Payer: payer})
		rows = append(rows, row)
	}
	return lines, rows, bad
}

func checkBudget(w *walk, q *question, s *QuestionState) {
	lines, rows, bad := w.form.BudgetLines(w.filled, q.def.Key)
	for _, row := range bad {
		w.obstacle(s, Obstacle{Code: CodeBudgetLine, Place: Place{Question: q.def.Key, Row: row},
			Name: strings.TrimSpace(w.filled.Answers[Place{q.def.Key, row, ColItem}].Raw)})
	}
	if len(lines) > 0 {
		s.Presence = condition.Given
	} else if len(bad) == 0 {
		w.blank(s)
		return
	}
	if len(bad) > 0 {
		return
	}
	for i, l := range lines {
		at := Place{Question: q.def.Key, Row: rows[i]}
		switch {
		case l.FromUs > l.Cost:
			w.obstacle(s, Obstacle{Code: CodeBudgetOver, Place: at, Name: l.Item, Have: l.FromUs, Limit: l.Cost})
		case l.Match() > 0 && l.Payer == "":
			w.obstacle(s, Obstacle{Code: CodeBudgetPayer, Place: at, Name: l.Item, Have: l.Match()})
		}
		if len(q.def.Options) > 0 && LabelOf(q.def.Options, l.Heading) == l.Heading {
			w.obstacle(s, Obstacle{Code: CodeBudgetHeading, Place: at, Name: l.Item})
		}
	}
	totals, ok := budget.Sum(lines)
	if !ok || len(lines) == 0 {
		w.obstacle(s, Obstacle{Code: CodeBudgetEmpty})
		return
	}
	s.Totals = &totals
	request := w.path.Questions[w.form.index[q.def.Request]]
	if request.Presence == condition.Given && request.Value.Number.Num != totals.FromUs {
		w.obstacle(s, Obstacle{Code: CodeBudgetRequest, Have: totals.FromUs, Limit: request.Value.Number.Num})
	}
	if least := budget.LeastMatch(totals.Cost, s.Limits.MatchPercent); totals.Match < least {
		w.obstacle(s, Obstacle{Code: CodeBudgetMatch, Have: totals.Match, Limit: least,
			Name: strconv.FormatInt(s.Limits.MatchPercent, 10)})
	}
	for _, c := range s.Limits.Caps {
		most := budget.MostShare(totals.FromUs, c.Percent)
		if have := totals.ByHeading[string(c.Heading)]; have > most {
			w.obstacle(s, Obstacle{Code: CodeBudgetCap, Have: have, Limit: most,
				Name: LabelOf(q.def.Options, string(c.Heading)), Detail: strconv.FormatInt(c.Percent, 10)})
		}
	}
}

func budgetWords(f *Form, q *Question, filled *Filled, s *QuestionState) string {
	sum := func(n int64) string { return money.Format(n, f.Design.Currency) }
	lines, _, _ := f.BudgetLines(filled, q.Key)
	var out []string
	for _, l := range lines {
		text := l.Item + ": " + sum(l.Cost) + ", of which from us " + sum(l.FromUs)
		if l.Heading != "" {
			text = LabelOf(q.Options, l.Heading) + " – " + text
		}
		if l.Payer != "" {
			text += "; the rest: " + string(l.Payer)
		}
		out = append(out, text)
	}
	if t := s.Totals; t != nil {
		out = append(out, "All: "+sum(t.Cost)+", from us "+sum(t.FromUs)+", from others "+sum(t.Match))
	}
	return strings.Join(out, "\n")
}

// budgetPossible: with every heading capped, the caps must leave room for all
// that is asked; and others cannot pay everything of what is asked from us.
func budgetPossible(_ *Form, q *Question, l Limits) bool {
	if l.MatchPercent >= 100 {
		return false
	}
	if len(q.Options) == 0 {
		return true
	}
	room := int64(0)
	for _, o := range q.Options {
		share := int64(100)
		for _, c := range l.Caps {
			if c.Heading == o.Key {
				share = min(share, c.Percent)
			}
		}
		room += share
	}
	return room >= 100
}

// exampleBudget spreads what is asked over the headings as far as their caps
// go, and lets others pay their least share, rounded up.
func exampleBudget(f *Form, filled *Filled, q *Question, s *QuestionState) bool {
	if len(filled.Rows(q.Key)) > 0 {
		return false
	}
	ask := int64(1000)
	if v, ok := f.Read(f.Question(q.Request), filled.Answers[Place{Question: q.Request}].Raw); ok {
		ask = v.Number.Num
	}
	headings := q.Options
	if len(headings) == 0 {
		headings = []Option{{}}
	}
	left := ask
	line := 0
	for i, h := range headings {
		us := left
		for _, c := range s.Limits.Caps {
			if c.Heading == h.Key {
				us = min(us, budget.MostShare(ask, c.Percent))
			}
		}
		left -= us
		cost := us
		if i == 0 { // the first line carries what others pay
			for p := s.Limits.MatchPercent; p > 0 && cost-us < budget.LeastMatch(cost+left, p); {
				cost += budget.LeastMatch(cost+left, p) - (cost - us)
			}
			cost = max(cost, 1)
		}
		if us == 0 && i > 0 {
			continue
		}
		line++
		cells := map[Key]string{ColItem: fmt.Sprintf("Line %d", line), ColCost: f.sumTyped(cost), ColUs: f.sumTyped(us),
			ColPayer: string(budget.Own), ColHeading: string(h.Key)}
		for column, v := range cells {
			if v != "" {
				filled.Answers[Place{q.Key, RowKey(line), column}] = Answer{Raw: v}
			}
		}
	}
	return true
}
