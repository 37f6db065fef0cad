package register

import (
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/money"
	"ulvant/core/phrase"
)

// Said is one condition of a sentence: what stands before, and the words that are
// pressed to change it.
type Said struct {
	Before, Words string
}

// Sentence reads a filter back: Applications that are …, in …, asking …
func (f Filter) Sentence(cs Columns, currency string) (out []Said) {
	for _, c := range f {
		col, ok := cs.Find(c.Column)
		if !ok {
			continue
		}
		out = append(out, col.say(c, currency))
	}
	return out
}

// Text is the whole sentence without anything to press.
func (f Filter) Text(cs Columns, currency string) string {
	said := f.Sentence(cs, currency)
	if len(said) == 0 {
		return "All applications"
	}
	var parts []string
	for _, s := range said {
		parts = append(parts, s.Before+" "+s.Words)
	}
	return "Applications " + strings.Join(parts, ", ")
}

func (c Column) say(cond Condition, currency string) Said {
	if c.Key == KeyFind {
		return Said{"with", "“" + strings.Join(cond.Values, "") + "” in title, lead or number"}
	}
	switch cond.Op {
	case Blank:
		return Said{"without", c.thing()}
	case There:
		return Said{"with", c.thing()}
	}
	before := c.Is
	if before == "" {
		before = "whose " + c.within() + " is"
	}
	switch cond.Op {
	case Is:
		return Said{before, c.either(cond.Values)}
	case Not:
		if c.Is == "" || strings.HasSuffix(c.Is, " are") || strings.HasSuffix(c.Is, " is") {
			return Said{before + " not", c.either(cond.Values)}
		}
		return Said{"not " + before, c.either(cond.Values)}
	case Has:
		return Said{"whose " + c.within() + " has", "“" + cond.Values[0] + "”"}
	case Least:
		return Said{before, c.amount(cond.Values[0], currency) + " or more"}
	case Most:
		return Said{before, c.amount(cond.Values[0], currency) + " or less"}
	case From:
		return Said{before, "on " + day(cond.Values[0]) + " or later"}
	case Until:
		return Said{before, "on " + day(cond.Values[0]) + " or earlier"}
	case Within:
		return Said{before, "in the last " + days(cond.Values[0])}
	case Older:
		return Said{before, "more than " + days(cond.Values[0]) + " ago"}
	case Coming:
		return Said{before, "in the next " + days(cond.Values[0])}
	}
	return Said{}
}

// thing is the column as something one has.
func (c Column) thing() string {
	return map[Type]string{Words: "an answer to ", Choice: "an answer to ", Several: "any of "}[c.Type] + c.within()
}

func (c Column) either(values []string) string {
	for _, p := range c.All {
		if sameSet(p.Values, values) {
			return p.Says
		}
	}
	said := make([]string, len(values))
	for i, v := range values {
		said[i] = c.Says(v)
	}
	return phrase.Either(said)
}

func sameSet(a, b []string) bool {
	if len(a) != len(b) {
		return false
	}
	in := map[string]bool{}
	for _, x := range a {
		in[x] = true
	}
	for _, x := range b {
		if !in[x] {
			return false
		}
	}
	return true
}

// Says is a value of a choice in a sentence; one that is not known stands as it is.
func (c Column) Says(value string) string {
	for _, o := range c.Options {
		if o.Value == value {
			return o.says()
		}
	}
	return value
}

// Label of a value of a choice, in a cell.
func (c Column) Label(value string) string {
	for _, o := range c.Options {
		if o.Value == value {
			return o.Label
		}
	}
	return value
}

func (c Column) amount(v, currency string) string {
	switch c.Type {
	case Money:
		if n, err := strconv.ParseInt(v, 10, 64); err == nil {
			return money.Format(n, currency)
		}
	case Share:
		return v + "%"
	}
	if c.Unit != "" {
		return v + " " + c.Unit
	}
	return v
}

func day(v string) string {
	d, ok := calendar.ParseDate(v)
	if !ok {
		return v
	}
	return d.Words()
}

func days(v string) string {
	n, _ := strconv.ParseInt(v, 10, 64)
	return phrase.Count(n, "day", "days")
}
