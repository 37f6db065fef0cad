package pathtable

import "ulvant/core/form"

// How long people take, in tenths of a minute (common practice, no source: the
// figures are ours, to be set right by what is measured). A text takes a
// minute for every fifteen words it may hold, and two minutes at least.
const (
	wordsAMinute = 15
	leastForText = 20
)

// tenths are the minutes of each kind that has a time of its own; others take
// half a minute.
var tenths = map[form.Kind]int{
	form.Short: 10, form.Number: 10, form.Percent: 10, form.Money: 10, form.Date: 10, form.Identifier: 20, form.Phone: 5, form.Mail: 5, form.Link: 10,
	form.Several: 10, form.Ranked: 20, form.Keywords: 20, form.Grade: 10, form.Names: 10, form.Contact: 20, form.Address: 20, form.Counts: 20,
	form.Rows: 80, form.Years: 80, form.Budget: 200, form.File: 100, form.PageRef: 10, form.Referee: 50, form.Signatory: 50, form.Fees: 20,
	form.Declaration: 5, form.Signature: 5, form.AwardPick: 30, form.AwardOrder: 40, form.Signer: 10,
}

// Formula says how minutes are reckoned, for people.
const Formula = "Half a minute for a choice, one for a number, a date or a line; two for an address; eight for a table, twenty for a budget, ten for each file, five for each person who must be asked. A text takes a minute for every fifteen words it may hold."

// Tenths of a minute that a question takes, under its limits.
func Tenths(q *form.Question, l form.Limits) int {
	if q.Kind == form.Long {
		return max(leastForText, l.Words*10/wordsAMinute)
	}
	n, ok := tenths[q.Kind]
	if !ok {
		return 5
	}
	if q.Kind == form.Referee || q.Kind == form.Signatory {
		n *= max(l.Referees, 1)
	}
	return n
}
