package pathtable

import (
	"slices"
	"strings"
	"unicode"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/proof"
	"ulvant/core/say"
)

// Parts say what tells a kind of applicant apart; “Everybody” when nothing does.
func Parts(f *form.Form, splits []proof.Split) []string {
	var order []form.Key
	by := map[form.Key][]proof.Split{}
	for _, s := range splits {
		if by[s.Question] == nil {
			order = append(order, s.Question)
		}
		by[s.Question] = append(by[s.Question], s)
	}
	var parts []string
	for _, k := range order {
		if p := part(f, f.Question(k), by[k]); p != "" {
			parts = append(parts, phrase.Initial(p))
		}
	}
	if len(parts) == 0 {
		return []string{"Everybody"}
	}
	return parts
}

// most is how much of a question's label a name has room for.
const most = 34

// shortened cuts a label at a word.
func shortened(label string) string {
	label = strings.TrimSuffix(label, "?")
	if r := []rune(label); len(r) > most {
		cut := string(r[:most])
		if i := strings.LastIndexByte(cut, ' '); i > 0 {
			cut = cut[:i]
		}
		return cut + "…"
	}
	return label
}

func part(f *form.Form, q *form.Question, of []proof.Split) string {
	if of[0].Number {
		return span(f, q, of)
	}
	options := f.Options(q)
	label := func(v string) string {
		if l := form.LabelOf(options, v); l != "" {
			return l
		}
		return v
	}
	switch q.Type() {
	case condition.TypeYes:
		if of[len(of)-1].Not {
			return shortened(q.Label) + ": no"
		}
		return shortened(q.Label) + ": yes"
	case condition.TypeSet:
		var with, without []string
		for _, s := range of {
			if s.Not {
				without = append(without, "“"+label(s.Value)+"”")
			} else {
				with = append(with, "“"+label(s.Value)+"”")
			}
		}
		out := strings.Join(with, " and ")
		if len(without) > 0 {
			out += strings.TrimPrefix(", not "+strings.Join(without, ", "), map[bool]string{true: ", "}[out == ""])
		}
		return out
	}
	var not []string
	for _, s := range of {
		if !s.Not {
			return label(s.Value)
		}
		not = append(not, s.Value)
	}
	var left []string
	for _, o := range options {
		if !slices.Contains(not, string(o.Key)) {
			left = append(left, o.Label)
		}
	}
	if len(left) > 0 && len(left) <= 2 {
		return strings.Join(left, " or ")
	}
	for i := range not {
		not[i] = within(label(not[i]))
	}
	return "other than " + strings.Join(not, ", ")
}

// within a name a label begins small, unless it is an abbreviation.
func within(label string) string {
	r := []rune(label)
	if len(r) > 1 && unicode.IsLower(r[1]) || len(r) > 1 && r[1] == ' ' {
		r[0] = unicode.ToLower(r[0])
	}
	return string(r)
}

// span names a range of a number or date.
func span(f *form.Form, q *form.Question, of []proof.Split) string {
	var low, high *int64
	for _, s := range of {
		c := s.Least
		if s.Not {
			if high == nil || c < *high {
				high = &c
			}
		} else if low == nil || c > *low {
			low = &c
		}
	}
	names := say.Names{Form: f}
	value := func(n int64) string {
		return names.Value(condition.Ref{Answer: q.Key}, q.ValueOf(n))
	}
	if q.Measure() == form.Days {
		switch {
		case low != nil && high != nil:
			return value(*low) + " to " + value(*high-1)
		case low != nil:
			return value(*low) + " or later"
		}
		return "before " + value(*high)
	}
	// a cut just above a round number came from “more than”
	above := func(n int64) bool { return n%10 == 1 && n > 1 }
	from, to := "", ""
	if low != nil {
		from = value(*low) + " or more"
		if above(*low) {
			from = "more than " + value(*low-1)
		}
	}
	if high != nil {
		to = "less than " + value(*high)
		if above(*high) {
			to = "up to " + value(*high-1)
		}
	}
	if from != "" && to != "" {
		return from + ", " + to
	}
	return from + to
}
