package say

import (
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/form"
	"ulvant/core/money"
)

// Names gives the words of a design for condition.Sentence.
type Names struct{ Form *form.Form }

// Of names what a condition reads.
func (n Names) Of(r condition.Ref) string {
	f := n.Form
	switch {
	case r.Answer != "":
		q := f.Question(r.Answer)
		if q == nil {
			return "something that is not asked any more"
		}
		if r.Column != "" {
			if c := f.Column(r.Answer, r.Column); c != nil {
				return "“" + c.Label + "” in the row"
			}
			if t := f.Table(q.Table); t != nil {
				for _, c := range t.Columns {
					if c.Key == r.Column {
						return c.Label + " of “" + q.Label + "”"
					}
				}
			}
		}
		return "“" + strings.TrimSuffix(q.Label, "?") + "”"
	case r.Figure != "":
		for _, x := range f.Design.Figures {
			if x.Key == r.Figure {
				return x.Label
			}
		}
	case r.Date != "":
		if m, ok := f.Design.Moment(r.Date); ok {
			return m.Label + ", " + calendar.DateOf(f.At(r.Date), f.Zone).Words()
		}
	case r.Stage != "":
		if label := f.Design.StageLabel(r.Stage); label != "" {
			return "the result of “" + label + "”"
		}
	case r.Fixed == condition.Today:
		return "the day of sending"
	case r.Fixed == condition.OthersInRound:
		return "how many others the applicant has sent in this round"
	case r.Fixed == condition.OthersInProgramme:
		return "how many others the applicant has under way in this programme"
	case r.Fixed == condition.Applicant:
		return "the kind of applicant"
	case r.Fixed != "":
		return "the " + string(r.Fixed)
	}
	return "something that is not there"
}

// Day reports the day of sending, a date of the round, or a question that asks for a day.
func (n Names) Day(r condition.Ref) bool {
	q := n.Question(r)
	return r.Fixed == condition.Today || r.Date != "" || q != nil && q.Measure() == form.Days
}

// Question finds what a Ref's values are shown like; nil for figures and dates.
func (n Names) Question(r condition.Ref) *form.Question {
	if q := n.Form.Supplying(r.Fixed); q != nil {
		return q
	}
	if r.Column != "" {
		if c := n.Form.Column(r.Answer, r.Column); c != nil {
			return c
		}
		return nil
	}
	return n.Form.Question(r.Answer)
}

// money reports a Ref whose numbers are sums: a money question, a budget's
// column, or a figure made of such.
func (n Names) money(r condition.Ref) bool {
	if q := n.Question(r); q != nil {
		return q.Measure() == form.Sums
	}
	for _, f := range n.Form.Design.Figures {
		if f.Key == r.Figure && r.Figure != "" {
			switch f.Op {
			case form.Sum, form.Difference, form.LeastOf, form.MostOf:
				return len(f.Of) > 0 && n.money(f.Of[0])
			}
		}
	}
	return false
}

// share reports a Ref whose numbers are shares of a whole.
func (n Names) share(r condition.Ref) bool {
	if q := n.Question(r); q != nil {
		return q.Measure() == form.Shares
	}
	for _, f := range n.Form.Design.Figures {
		if f.Key == r.Figure && r.Figure != "" {
			return f.Op == form.Share
		}
	}
	return false
}

// Value writes a value as it is shown beside what it is compared with.
func (n Names) Value(r condition.Ref, v condition.Value) string {
	q := n.Question(r)
	option := func(key string) string {
		if q != nil {
			key = form.LabelOf(n.Form.Options(q), key)
		}
		for _, l := range n.Form.Design.Lists {
			if string(l.Key) == key {
				return "“" + l.Label + "”"
			}
		}
		return key
	}
	switch {
	case v.Yes != nil && *v.Yes:
		return "yes"
	case v.Yes != nil:
		return "no"
	case !v.Date.IsZero():
		return v.Date.Words()
	case v.Number != nil && n.money(r):
		return money.Format(v.Number.Num, n.Form.Design.Currency)
	case v.Number != nil && n.share(r):
		return decimal.String(condition.Number{Num: v.Number.Num * 100, Den: v.Number.Den}, 2) + "%"
	case v.Number != nil && q != nil && q.Unit != "":
		return decimal.String(*v.Number, 4) + " " + q.Unit
	case v.Number != nil:
		return decimal.String(*v.Number, 4)
	case v.List != nil:
		parts := make([]string, len(v.List))
		for i, k := range v.List {
			parts[i] = option(k)
		}
		return strings.Join(parts, ", ")
	}
	return option(v.Text)
}
