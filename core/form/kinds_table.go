package form

import (
	"strconv"
	"strings"

	"ulvant/core/address"
	"ulvant/core/budget"
	"ulvant/core/condition"
	"ulvant/core/money"
)

// Kinds kept piece by piece, and tables whose rows the applicant adds.
var _ = register(map[Kind]*kindRule{
	Address: {means: "Address; box numbers are told from streets", parts: addressParts, check: checkAddress, members: []string{"copyOf", "profile"},
		compile: func(c *compiler, q *Question) {
			if q.CopyOf != "" {
				from := c.f.Question(q.CopyOf)
				c.need(from != nil && from.Kind == Address && c.f.index[q.CopyOf] < c.walked, "it can be copied only from an address before it")
			}
		}},
	Contact: {means: "Person to write to, or a shared mailbox", parts: contactParts, check: checkContact, members: []string{"shared", "region"}},
	Names:   {means: "A person's names: legal, working, short", parts: namesParts},
	Counts: {means: "Counts by group", typ: condition.TypeNumber, comparable: true, parts: countParts, check: addParts, members: []string{"options"}, limits: []string{"least", "most"},
		compile: func(c *compiler, q *Question) { c.need(len(q.Options) > 0, "name the groups that are counted") }},
	Rows: {means: "Table with columns of your own; applicants add rows", check: checkRows, members: []string{"columns"}, limits: []string{"rowsLeast", "rowsMost"},
		columns: func(_ *Form, q *Question) []Question { return q.Columns },
		compile: func(c *compiler, q *Question) { c.need(len(q.Columns) > 0, "give the table columns") }},
	Years: {means: "People × years: a name and a sum for each year", check: checkRows, members: []string{"options"}, limits: []string{"rowsLeast", "rowsMost"}, columns: yearColumns,
		compile: func(c *compiler, q *Question) { c.need(len(q.Options) > 0, "name the years") }},
	Budget: {means: "Budget: costs line by line, and who pays", check: checkBudget, members: []string{"request", "options"}, limits: []string{"matchPercent", "caps"},
		compile: func(c *compiler, q *Question) {
			r, ok := c.f.index[q.Request]
			c.need(ok && r < c.walked && c.f.questions[r].def.Kind == Money, "a budget names the money question before it that it must add up to")
		}},
})

// addressParts are the parts of an address; all but the second line are needed.
func addressParts(*Form, *Question) []Part {
	return []Part{{Key: "street", Label: "Street and number, or the name of the site", Kind: Short}, {Key: "more", Label: "More of it (may be left)", Kind: Short, May: true},
		{Key: "town", Label: "Town or village", Kind: Short}, {Key: "postcode", Label: "Postcode", Kind: Short}}
}

func checkAddress(w *walk, q *question, s *QuestionState) {
	for _, p := range s.Parts {
		if address.IsBox(p.Raw) {
			w.obstacle(s, Obstacle{Code: CodeBoxNumber, Place: Place{Question: q.def.Key, Column: p.Key}, Name: strings.TrimSpace(p.Raw)})
		}
	}
}

func contactParts(_ *Form, q *Question) []Part {
	return []Part{{Key: "name", Label: "Name", Kind: Short, May: q.Shared}, {Key: "role", Label: "What they do there", Kind: Short, May: true},
		{Key: "mail", Label: "Mail address", Kind: Mail}, {Key: "phone", Label: "Phone", Kind: Phone, May: true}}
}

// checkContact: a shared mailbox will do only where the question says so; it is
// a contact without a name.
func checkContact(w *walk, q *question, s *QuestionState) {
	if s.Parts[2].Presence == condition.Given {
		s.Value.Text = s.Parts[2].Value.Text
	}
}

func namesParts(*Form, *Question) []Part {
	return []Part{{Key: "legal", Label: "Legal name", Kind: Short}, {Key: "working", Label: "Working name, where it differs", Kind: Short, May: true},
		{Key: "short", Label: "Short name for lists, where it differs", Kind: Short, May: true}}
}

func countParts(_ *Form, q *Question) []Part {
	var out []Part
	for _, o := range q.Options {
		out = append(out, Part{Key: o.Key, Label: o.Label, Kind: Number})
	}
	return out
}

// addParts makes the sum of the groups the answer.
func addParts(w *walk, q *question, s *QuestionState) {
	sum := condition.Number{Den: 1}
	for _, p := range s.Parts {
		if p.Presence != condition.Given {
			return
		}
		if p.Value.Number.Num < 0 {
			w.obstacle(s, Obstacle{Code: CodePartUnreadable, Place: Place{Question: q.def.Key, Column: p.Key}, Name: p.Label, Detail: p.Raw})
			return
		}
		sum.Num += p.Value.Number.Num
	}
	s.Value.Number = &sum
	checkRange(w, q, s)
}

func yearColumns(_ *Form, q *Question) []Question {
	out := []Question{{Key: "person", Kind: Short, Label: "Who", Nature: Chosen, Blank: Required, Seen: q.Seen}}
	for _, o := range q.Options {
		out = append(out, Question{Key: o.Key, Kind: Money, Label: o.Label, Nature: Chosen, Blank: MeansNo, Seen: q.Seen})
	}
	return out
}

func checkRows(w *walk, _ *question, s *QuestionState) {
	n := len(s.Rows)
	if l := s.Limits.RowsLeast; n < l {
		w.obstacle(s, Obstacle{Code: CodeTooFewRows, Have: int64(n), Limit: int64(l)})
	}
	if l := s.Limits.RowsMost; l > 0 && n > l {
		w.obstacle(s, Obstacle{Code: CodeTooManyRows, Have: int64(n), Limit: int64(l)})
	}
}

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
	out := []Option{{ColItem, "What"}, {ColHeading, "Heading"}, {ColCost, "Cost"}, {ColUs, "Asked from us"}, {ColPayer, "Who pays the rest"}}
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
		lines = append(lines, budget.Line{Item: strings.TrimSpace(at(ColItem).Raw), Heading: at(ColHeading).Raw, Cost: cost, FromUs: us, Payer: payer})
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
		if len(q.def.Options) > 0 && optionLabel(q.def.Options, l.Heading) == l.Heading {
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
		w.obstacle(s, Obstacle{Code: CodeBudgetMatch, Have: totals.Match, Limit: least, Name: strconv.FormatInt(s.Limits.MatchPercent, 10)})
	}
	for _, c := range s.Limits.Caps {
		most := budget.MostShare(totals.FromUs, c.Percent)
		if have := totals.ByHeading[string(c.Heading)]; have > most {
			w.obstacle(s, Obstacle{Code: CodeBudgetCap, Have: have, Limit: most, Name: optionLabel(q.def.Options, string(c.Heading)), Detail: strconv.FormatInt(c.Percent, 10)})
		}
	}
}
