// Package register is the list of all cases with columns and a filter that reads
// as a sentence: which columns there are for a round, what of a case is known in
// each, which conditions can be asked of it, and how they are carried in an
// address that can be kept and sent. What is known of a case is worked out with
// its standing, once, so that ten thousand cases are found without reading one.
//
// What an applicant writes is the applicant's own until it is sent: of a draft the
// register knows how far it is, and no answer.
package register

import (
	"slices"

	"ulvant/core/form"
)

// Type of what stands in a column; it decides which conditions can be asked.
type Type string

// The types. Money is in minor units, a Share in parts of a hundred, a Day a date
// of the calendar, a Moment an instant.
const (
	Words   Type = "words"
	Choice  Type = "choice"  // one of some
	Several Type = "several" // some of some
	Number  Type = "number"
	Share   Type = "share"
	Money   Type = "money"
	Day     Type = "day"
	Moment  Type = "moment"
)

// Counts reports a type that is a number and can be added up or averaged.
func (t Type) Counts() bool { return t == Number || t == Share || t == Money }

// Group is where a column stands among those one can choose.
type Group string

// The groups, in the order in which they are offered.
const (
	OfCase    Group = "The case"
	OfDates   Group = "Dates"
	OfChecks  Group = "Checks and reading"
	OfMoney   Group = "Money"
	OfAnswers Group = "Answers"
	OfFigures Group = "Figures"
	OfReports Group = "For reports"
)

// Groups lists them all.
var Groups = []Group{OfCase, OfDates, OfChecks, OfMoney, OfAnswers, OfFigures, OfReports}

// Option is one of the values of a choice.
type Option struct {
	Value string
	Label string // in a cell
	Says  string // in a sentence; "" for the label
}

func (o Option) says() string {
	if o.Says != "" {
		return o.Says
	}
	return o.Label
}

// Column of the register.
type Column struct {
	Key     string // as it stands in an address
	Heading string
	Type    Type
	Group   Group
	Options []Option // of Choice and Several; Open ones have more than these
	Open    bool     // its values are not all known beforehand: labels, colleagues
	Unit    string   // of a number
	Once    bool     // a sum of it says nothing: a share is averaged
	Hidden  bool     // it can be asked about and not shown
	Is      string   // what a sentence says before its words: "that are", "in"; "" for "whose … is"
	All     []Phrase // what some values are together
}

// Phrase says several values of a choice together.
type Phrase struct {
	Values []string
	Says   string
}

// Answers reports a column that stands for a question or a figure of a design;
// key is the question's.
func (c Column) Answers() (key form.Key, yes bool) {
	if len(c.Key) > 2 && (c.Key[:2] == answerMark || c.Key[:2] == figureMark || c.Key[:2] == matchMark) {
		return form.Key(c.Key[2:]), true
	}
	return "", false
}

// Fact is the name under which what is known is kept; "" when it is not an answer.
func (c Column) Fact() string {
	if _, yes := c.Answers(); yes {
		return c.Key
	}
	return ""
}

const (
	answerMark = "q."
	figureMark = "f."
	matchMark  = "m." // what others pay of a budget's cost
)

// Columns of a register.
type Columns []Column

// Find one by its key.
func (cs Columns) Find(key string) (Column, bool) {
	i := slices.IndexFunc(cs, func(c Column) bool { return c.Key == key })
	if i < 0 {
		return Column{}, false
	}
	return cs[i], true
}

// In lists those of a group.
func (cs Columns) In(g Group) (out Columns) {
	for _, c := range cs {
		if c.Group == g {
			out = append(out, c)
		}
	}
	return out
}
