package proof

import (
	"fmt"
	"strconv"
	"strings"

	"ulvant/core/budget"
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Lead is the name of every made-up applicant.
const Lead = "Wenna Astley"

// specimens of registered numbers, each with right check digits. Source: the
// examples in shared/check-values.md.
var specimens = map[string]string{"iban": "GB29NWBK60161331926819", "lei": "213800KUD8LAJWSQ9D15", "orcid": "0000-0002-1825-0097", "gb-vat": "980780684",
	"ie-vat": "6433435F", "de-vat": "136695976", "be-vat": "0428759497", "fr-vat": "40303265045", "au-abn": "83914571673", "us-ein": "91-1144442", "gb-company": "01234567", "nl-vat": "NL002455799B11",
	"es-vat": "ESB58378431", "it-vat": "IT00743110157", "pl-vat": "PL8567346215", "at-vat": "ATU13585627", "au-acn": "004 085 616", "luhn": "4539578763621486"}

// specimen is something plain that can be typed to a question.
func specimen(q *form.Question) string {
	switch q.Kind {
	case form.Phone:
		return "+353 1 555 0142"
	case form.Mail:
		return "wenna@astley.example"
	case form.Link:
		return "https://astley.example"
	case form.Identifier:
		return specimens[q.Scheme]
	case form.Signature, form.Signer:
		return Lead
	case form.Date:
		return "2020-01-01"
	case form.Declaration:
		if q.Initials {
			return form.Initials(Lead)
		}
		return "yes"
	case form.YesNo:
		return "yes"
	case form.Number, form.Money, form.Percent:
		return "1"
	case form.PageRef:
		return "1"
	}
	return "as an example"
}

// wordsOf are n words.
func wordsOf(n int) string { return strings.TrimSpace(strings.Repeat("word ", max(n, 1))) }

// finish answers all that still stands in the way of an applicant whose
// deciding answers are given: texts long enough, files, letters, statements.
// kept are the questions that stay as they are. It answers whether nothing is
// left but the rules.
func finish(f *form.Form, filled *form.Filled, kept map[form.Key]bool) *form.Path {
	path := f.Walk(filled)
	for range 60 {
		changed := false
		for _, o := range path.Obstacles {
			if o.Code != form.CodeNotEligible && mend(f, filled, path, o, kept) {
				changed = true
			}
		}
		if !changed {
			break
		}
		path = f.Walk(filled)
	}
	return path
}

func mend(f *form.Form, filled *form.Filled, path *form.Path, o form.Obstacle, kept map[form.Key]bool) bool {
	q, st := f.Question(o.Place.Question), path.Find(o.Place.Question)
	if q == nil || st == nil {
		return false
	}
	put := func(p form.Place, raw string) bool {
		if filled.Answers[p].Raw == raw {
			return false
		}
		filled.Answers[p] = form.Answer{Raw: raw}
		return true
	}
	at := o.Place
	switch o.Code {
	case form.CodeFileMissing, form.CodeFilesFew:
		n := len(filled.Files[q.Key])
		filled.Files[q.Key] = append(filled.Files[q.Key], slot.File{ID: int64(len(filled.Files)*100 + n + 1), Name: "example.pdf", Size: 1000, State: slot.Ready})
		return n < 30
	case form.CodeFileDetail:
		if at.Column == form.ColMade {
			return put(at, "2100-01-01")
		}
		return put(at, "an example")
	case form.CodeFileTick:
		return put(at, "yes")
	case form.CodeRefereeMissing:
		n := len(filled.Referees[q.Key])
		filled.Referees[q.Key] = append(filled.Referees[q.Key], form.RefereeStanding{Name: "Referee " + strconv.Itoa(n+1), Letter: form.SentIn})
		return n < 30
	case form.CodeNotSure:
		return put(at, q.Sure.Marks()[0])
	case form.CodeNotApplied: // the awards applied for, in the order in which they are picked
		ranked := map[string]bool{}
		for _, p := range f.Parts(q) {
			ranked[filled.Answers[form.Place{Question: q.Key, Column: p.Key}].Raw] = true
		}
		for i := range path.Questions {
			of := f.Question(path.Questions[i].Key)
			if of == nil || of.Kind != form.AwardPick {
				continue
			}
			for _, key := range path.Questions[i].Value.List {
				if key != string(form.EveryAward) && !ranked[key] {
					return put(at, key)
				}
			}
		}
		return put(at, "") // fewer are applied for than could be ranked
	case form.CodeTooFewRows:
		return addRow(f, filled, q)
	case form.CodePart, form.CodePartUnreadable:
		for _, p := range f.Parts(q) {
			if p.Key == at.Column {
				return put(at, partOf(p))
			}
		}
	}
	if at.Row != "" && q.Kind != form.Budget { // a cell of a table
		for _, c := range f.Columns(q.Key) {
			if c.Key == at.Column && o.Code == form.CodeBlank {
				return put(at, plain(f, c, c.Limits.Else))
			}
		}
		return false
	}
	if kept[q.Key] {
		return false
	}
	switch q.Kind {
	case form.Budget:
		return fillBudget(f, filled, q, st)
	case form.Rows, form.Years:
		return addRow(f, filled, q)
	case form.Ranked, form.AwardOrder, form.Names, form.Contact, form.Address, form.Counts, form.Fees:
		return fillParts(f, filled, q, st)
	}
	if o.Code == form.CodeUnreadable || form.KindOf(q.Kind).Plain {
		return put(form.Place{Question: q.Key}, plain(f, q, st.Limits))
	}
	return false
}

// plain is an answer to a plain question that meets its limits.
func plain(f *form.Form, q *form.Question, l form.Limits) string {
	switch q.Kind {
	case form.Short, form.Long:
		n := max(l.LeastWords, 1)
		if l.Characters > 0 {
			return wordsOf(n)[:min(len(wordsOf(n)), l.Characters)]
		}
		return wordsOf(n)
	case form.Number, form.Money, form.Percent:
		n := int64(1)
		if l.Least != nil {
			n = max(n, *l.Least)
		}
		if l.Most != nil {
			n = min(n, *l.Most)
		}
		return typed(f, q, n)
	case form.Date:
		return dateWithin(f, l).String()
	case form.Grade:
		if s := f.Steps(q.Table); len(s) > 0 {
			return decimal.String(s[len(s)-1], 6)
		}
	case form.Several, form.AwardPick, form.Keywords:
		var keys []string
		for _, o := range f.Options(q) {
			keys = append(keys, string(o.Key))
		}
		for i := range f.Design.Lists {
			if f.Design.Lists[i].Key == q.List && q.Kind == form.Keywords {
				for _, it := range f.Design.Lists[i].Items {
					keys = append(keys, it.Code)
				}
			}
		}
		return strings.Join(keys[:min(len(keys), max(l.PickLeast, 1))], "\n")
	}
	if o := f.Options(q); len(o) > 0 {
		return string(o[0].Key)
	}
	return specimen(q)
}

// typed is a whole number at a question's scale as it is typed.
func typed(f *form.Form, q *form.Question, n int64) string {
	den, digits := int64(1), 0
	switch q.Kind {
	case form.Money:
		return moneyTyped(f, n)
	case form.Number, form.Percent:
		den, digits = tens(q.Scale), q.Scale
	}
	return decimal.String(condition.Number{Num: n, Den: den}, digits)
}

func moneyTyped(f *form.Form, n int64) string {
	for _, digits := range []int{2, 0, 3} { // the currency says how many it takes
		s := decimal.String(condition.Number{Num: n, Den: tens(digits)}, digits)
		q := &form.Question{Kind: form.Money}
		if v, ok := f.Read(q, s); ok && v.Number.Num == n {
			return s
		}
	}
	return strconv.FormatInt(n, 10)
}

func dateWithin(f *form.Form, l form.Limits) calendar.Date {
	d := calendar.NewDate(2020, 1, 1)
	closes, _ := f.Design.Moment(form.Closes)
	if l.MonthsOld > 0 {
		d = closes.At.Date
	}
	if from := f.Day(l.NotBefore); !from.IsZero() {
		d = max(d, from)
	}
	if to := f.Day(l.NotAfter); !to.IsZero() {
		d = min(d, to)
	}
	return d
}

func partOf(p form.Part) string {
	switch {
	case len(p.Options) > 0:
		return string(p.Options[0].Key)
	case p.Kind == form.Number:
		return "1"
	}
	return specimen(&form.Question{Kind: p.Kind})
}

func fillParts(f *form.Form, filled *form.Filled, q *form.Question, st *form.QuestionState) bool {
	changed := false
	n := 0
	for i, p := range f.Parts(q) {
		at := form.Place{Question: q.Key, Column: p.Key}
		v := partOf(p)
		if q.Kind == form.Ranked || q.Kind == form.AwardOrder { // as many as must be ranked, each another
			if n >= max(st.Limits.PickLeast, 1) {
				break
			}
			v = string(p.Options[min(i, len(p.Options)-1)].Key)
			n++
		} else if p.May && q.Kind != form.Contact {
			continue
		}
		if filled.Answers[at].Raw == "" {
			filled.Answers[at] = form.Answer{Raw: v}
			changed = true
		}
	}
	return changed
}

func addRow(f *form.Form, filled *form.Filled, q *form.Question) bool {
	n := len(filled.Rows(q.Key))
	if n >= 30 {
		return false
	}
	for _, c := range f.Columns(q.Key) {
		filled.Answers[form.Place{Question: q.Key, Row: form.RowKey(n + 1), Column: c.Key}] = form.Answer{Raw: plain(f, c, c.Limits.Else)}
	}
	return true
}

// fillBudget spreads what is asked over the headings as far as their caps go,
// and lets others pay their least share, rounded up.
func fillBudget(f *form.Form, filled *form.Filled, q *form.Question, st *form.QuestionState) bool {
	if len(filled.Rows(q.Key)) > 0 {
		return false
	}
	ask := int64(1000)
	if v, ok := f.Read(f.Question(q.Request), filled.Answers[form.Place{Question: q.Request}].Raw); ok {
		ask = v.Number.Num
	}
	headings := q.Options
	if len(headings) == 0 {
		headings = []form.Option{{}}
	}
	left := ask
	line := 0
	for i, h := range headings {
		us := left
		for _, c := range st.Limits.Caps {
			if c.Heading == h.Key {
				us = min(us, budget.MostShare(ask, c.Percent))
			}
		}
		left -= us
		cost := us
		if i == 0 { // the first line carries what others pay
			for p := st.Limits.MatchPercent; p > 0 && cost-us < budget.LeastMatch(cost+left, p); {
				cost += budget.LeastMatch(cost+left, p) - (cost - us)
			}
			cost = max(cost, 1)
		}
		if us == 0 && i > 0 {
			continue
		}
		line++
		row := form.RowKey(line)
		for col, v := range map[form.Key]string{form.ColItem: fmt.Sprintf("Line %d", line), form.ColCost: moneyTyped(f, cost), form.ColUs: moneyTyped(f, us), form.ColPayer: string(budget.Own), form.ColHeading: string(h.Key)} {
			if v != "" {
				filled.Answers[form.Place{Question: q.Key, Row: row, Column: col}] = form.Answer{Raw: v}
			}
		}
	}
	return true
}
