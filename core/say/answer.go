package say

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/form"
	"ulvant/core/money"
)

// Answer writes one answer for reading: choices by their labels, sums with
// their currency, tables line by line. "" when nothing was given.
func Answer(f *form.Form, q *form.Question, filled *form.Filled, st *form.QuestionState) string {
	if st.Presence == condition.Declared {
		if st.Non == form.ToFollow && q.FollowBy != nil {
			return "to follow, by " + f.Day(q.FollowBy).Words()
		}
		return string(st.Non)
	}
	var text string
	switch {
	case q.Kind == form.Budget:
		text = budgetLines(f, q, filled, st)
	case len(st.Rows) > 0:
		text = rows(f, q, st)
	case st.Parts != nil:
		text = parts(f, q, st)
	case st.Presence != condition.Given:
		return strings.TrimSpace(st.Raw)
	default:
		text = plain(f, q, st)
	}
	if mark := filled.Answers[form.Place{Question: q.Key, Column: form.ColSure}].Raw; q.Sure != "" && mark != "" && text != "" {
		text += " (" + mark + ")"
	}
	return text
}

// plain writes a value that was given in one piece.
func plain(f *form.Form, q *form.Question, st *form.QuestionState) string {
	v := st.Value
	switch q.Kind {
	case form.Declaration:
		if q.Initials {
			return "agreed: " + strings.TrimSpace(st.Raw)
		}
		if *v.Yes {
			return "agreed"
		}
		return "not agreed"
	case form.YesNo:
		if *v.Yes {
			return "yes"
		}
		return "no"
	case form.Money:
		return money.Format(v.Number.Num, f.Design.Currency)
	case form.Date:
		return v.Date.Words()
	case form.Percent:
		return decimal.String(condition.Number{Num: v.Number.Num * 100, Den: v.Number.Den}, q.Scale) + "%"
	case form.Number:
		return strings.TrimSpace(decimal.String(*v.Number, q.Scale) + " " + q.Unit)
	case form.Grade:
		return strings.TrimSpace(st.Raw) + ", which counts as " + decimal.String(*v.Number, 4)
	case form.Pick:
		return picked(f, q, v.Text)
	case form.Keywords:
		var out []string
		for _, k := range v.List {
			if text, proposed := strings.CutPrefix(k, form.Proposal); proposed {
				out = append(out, text+" (proposed)")
			} else if it, ok := f.LookUp(q.List, k); ok {
				out = append(out, it.Label)
			}
		}
		return strings.Join(out, ", ")
	case form.Phone, form.Identifier, form.Link, form.Mail:
		return v.Text
	}
	if options := f.Options(q); options != nil {
		if v.List == nil {
			return Option(options, v.Text)
		}
		var out []string
		every := ""
		for _, k := range v.List {
			if k == string(form.EveryAward) {
				every = "every award that fits: "
				continue
			}
			out = append(out, Option(options, k))
		}
		if every != "" && out == nil {
			return "every award that fits"
		}
		return every + strings.Join(out, ", ")
	}
	return strings.TrimSpace(st.Raw)
}

// picked writes a row of a table the office keeps, with what it fills in.
func picked(f *form.Form, q *form.Question, key string) string {
	t := f.Table(q.Table)
	for _, r := range t.Rows {
		if string(r.Key) != key {
			continue
		}
		out := r.Label
		for i, c := range t.Columns {
			out += "; " + c.Label + " " + r.Cells[i]
		}
		return out
	}
	return key
}

// Option is the label of an option; its key when it has none.
func Option(options []form.Option, key string) string {
	for _, o := range options {
		if string(o.Key) == key {
			return o.Label
		}
	}
	return key
}

func parts(f *form.Form, q *form.Question, st *form.QuestionState) string {
	var out []string
	for _, p := range st.Parts {
		raw := strings.TrimSpace(p.Raw)
		switch {
		case raw == "":
			continue
		case p.Options != nil:
			raw = Option(p.Options, raw)
		case p.Presence == condition.Given && p.Kind == form.Phone:
			raw = p.Value.Text
		}
		if q.Kind == form.Counts || q.Kind == form.Ranked || q.Kind == form.AwardOrder || q.Kind == form.Fees {
			raw = p.Label + ": " + raw
		}
		out = append(out, raw)
	}
	switch q.Kind {
	case form.Counts:
		if st.Value.Number != nil {
			out = append(out, "all: "+decimal.String(*st.Value.Number, 0))
		}
	case form.Fees:
		if st.Value.Number != nil {
			out = append(out, "to pay: "+money.Format(st.Value.Number.Num, f.Design.Currency))
		}
	case form.Ranked, form.AwardOrder:
		return strings.Join(out, "\n")
	}
	return strings.Join(out, ", ")
}

// rows writes a table line by line, and the sum of each column of money.
func rows(f *form.Form, q *form.Question, st *form.QuestionState) string {
	columns := f.Columns(q.Key)
	sums := make([]int64, len(columns))
	var out []string
	for _, r := range st.Rows {
		var cells []string
		for i, c := range columns {
			cell := &r.Cells[i]
			switch {
			case cell.Presence == condition.Declared:
				cells = append(cells, c.Label+": "+string(cell.Non))
			case cell.Presence == condition.Given:
				cells = append(cells, c.Label+": "+plain(f, c, cell))
				if c.Kind == form.Money {
					sums[i] += cell.Value.Number.Num
				}
			}
		}
		out = append(out, strings.Join(cells, "; "))
	}
	for i, c := range columns {
		if c.Kind == form.Money && len(st.Rows) > 1 {
			out = append(out, "All of “"+c.Label+"”: "+money.Format(sums[i], f.Design.Currency))
		}
	}
	return strings.Join(out, "\n")
}

func budgetLines(f *form.Form, q *form.Question, filled *form.Filled, st *form.QuestionState) string {
	lines, _, _ := f.BudgetLines(filled, q.Key)
	var out []string
	for _, l := range lines {
		s := l.Item + ": " + money.Format(l.Cost, f.Design.Currency) + ", of which from us " + money.Format(l.FromUs, f.Design.Currency)
		if l.Heading != "" {
			s = Option(q.Options, l.Heading) + " – " + s
		}
		if l.Payer != "" {
			s += "; the rest: " + string(l.Payer)
		}
		out = append(out, s)
	}
	if st.Totals != nil {
		out = append(out, "All: "+money.Format(st.Totals.Cost, f.Design.Currency)+", from us "+money.Format(st.Totals.FromUs, f.Design.Currency)+
			", from others "+money.Format(st.Totals.Match, f.Design.Currency))
	}
	return strings.Join(out, "\n")
}
