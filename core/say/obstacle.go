// Package say makes the sentences: what stands in an application's way, what a
// condition means, what an event was. Codes and figures come in, plain English
// with the number in it goes out, and nothing else in the program writes such
// a sentence.
package say

import (
	"fmt"
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/slot"
	"ulvant/core/wordcount"
)

// Count writes a number of things: 1 word, 208 words.
func Count(n int64, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return strconv.FormatInt(n, 10) + " " + many
}

// Bytes writes a size for people: 840 kB, 6 MB.
func Bytes(n int64) string {
	switch {
	case n < 1000:
		return strconv.FormatInt(n, 10) + " bytes"
	case n < 1000*1000:
		return strconv.FormatInt((n+500)/1000, 10) + " kB"
	}
	return strings.TrimSuffix(strconv.FormatFloat(float64(n)/(1<<20), 'f', 1, 64), ".0") + " MB"
}

// Obstacle says what is in the way, shortly, for the list beside the
// application, and what would make it right.
func Obstacle(f *form.Form, o form.Obstacle) (what, remedy string) {
	cur := f.Design.Currency
	sum := func(n int64) string { return money.Format(n, cur) }
	label := string(o.Place.Question)
	q := f.Question(o.Place.Question)
	if q != nil {
		label = q.Label
	}
	head := strings.TrimSuffix(label, "?")
	amount := sum
	if q != nil && q.Kind == form.Number {
		amount = func(n int64) string { return decimal(n, q.Scale) + " " + q.Unit }
	}
	switch o.Code {
	case form.CodeBlank:
		return "Not answered: " + label, "Answer it."
	case form.CodeUnreadable:
		return fmt.Sprintf("%s: “%s” cannot be read", head, o.Name), Form(q)
	case form.CodeTooLong:
		return fmt.Sprintf("%s is %s over", head, Count(o.Have-o.Limit, "word", "words")),
			fmt.Sprintf("It has %d words; up to %d are taken. Take out %s.", o.Have, o.Limit, Count(o.Have-o.Limit, "word", "words"))
	case form.CodeTooManyChars:
		return fmt.Sprintf("%s is %s over", head, Count(o.Have-o.Limit, "character", "characters")),
			fmt.Sprintf("Up to %d characters are taken.", o.Limit)
	case form.CodeTooLittle:
		return fmt.Sprintf("%s: %s is less than the least, %s", head, amount(o.Have), amount(o.Limit)), "Make it " + amount(o.Limit) + " or more."
	case form.CodeTooMuch:
		return fmt.Sprintf("%s: %s is more than the most, %s", head, amount(o.Have), amount(o.Limit)), "Make it " + amount(o.Limit) + " or less."
	case form.CodeTooEarly:
		return fmt.Sprintf("%s: %s too early", head, Count(o.Have, "day", "days")), "Move it to " + o.Day.Words() + " or later."
	case form.CodeTooLate:
		return fmt.Sprintf("%s: %s too late", head, Count(o.Have, "day", "days")), "Move it to " + o.Day.Words() + " or earlier."
	case form.CodeBoxNumber:
		return fmt.Sprintf("%s: “%s” is a box number", head, o.Name), "Give the street or the name of the site, so that somebody could go there."
	case form.CodeAddressPart:
		return fmt.Sprintf("%s lacks: %s", head, o.Name), "Fill it in."
	case form.CodeBudgetEmpty:
		return "The budget has no lines that add up", "Add a line for each cost."
	case form.CodeBudgetLine:
		return "Budget line " + quoted(o.Name, "without a name") + " cannot be added up", "Give it a name, a cost and how much of it you ask from us, as sums of money."
	case form.CodeBudgetOver:
		return fmt.Sprintf("Budget line %s asks %s of a cost of %s", quoted(o.Name, ""), sum(o.Have), sum(o.Limit)), "Ask for no more than the line costs."
	case form.CodeBudgetPayer:
		return fmt.Sprintf("Budget line %s: who pays the other %s?", quoted(o.Name, ""), sum(o.Have)), "Choose who pays it."
	case form.CodeBudgetRequest:
		if o.Have < o.Limit {
			return fmt.Sprintf("Budget asks %s, you asked for %s", sum(o.Have), sum(o.Limit)), fmt.Sprintf("The lines fall %s short of the request. Change one or the other.", sum(o.Limit-o.Have))
		}
		return fmt.Sprintf("Budget asks %s, you asked for %s", sum(o.Have), sum(o.Limit)), fmt.Sprintf("The lines come to %s more than the request. Change one or the other.", sum(o.Have-o.Limit))
	case form.CodeBudgetMatch:
		return fmt.Sprintf("Others pay %s; at least %s is needed", sum(o.Have), sum(o.Limit)),
			fmt.Sprintf("Others must pay at least %s%% of the whole cost, not of the request: %s more.", o.Name, sum(o.Limit-o.Have))
	case form.CodeFileMissing:
		return "No file yet: " + label, "Put one in."
	case form.CodeFile:
		return FileFault(o)
	case form.CodeRefereeMissing:
		return Count(o.Limit-o.Have, "referee", "referees") + " to name", "Name somebody who can vouch for you, and ask them."
	case form.CodeRefereeToAsk:
		return o.Name + " has not been asked yet", "Check the address and ask them."
	case form.CodeRefereeAsked:
		return o.Name + " has not answered; asked on " + o.Day.Short(), "Remind them, or name somebody else."
	case form.CodeRefereeWriting:
		return o.Name + " has said yes; the letter has not come", "They have until the round closes. You may remind them."
	case form.CodeRefereeNo:
		return o.Name + " cannot do it", "Name somebody else."
	case form.CodeLetterNotSent:
		return o.Name + " has a letter uploaded but not sent", "It counts only once they press Send. We remind them; so may you."
	case form.CodeNotAgreed:
		return "To agree: " + label, "Read it and tick it."
	case form.CodeNameDiffers:
		return "The typed name is not the name on file", "Type it as on file: " + o.Name + "."
	case form.CodeNotEligible:
		return "This round cannot take it: " + o.Name, o.Detail
	}
	return string(o.Code) + ": " + label, ""
}

func quoted(s, none string) string {
	if s == "" {
		return none
	}
	return "“" + s + "”"
}

// FileFault says what is wrong with a file.
func FileFault(o form.Obstacle) (what, remedy string) {
	switch slot.Fault(o.Detail) {
	case slot.TooMany:
		return fmt.Sprintf("%s is %d pages, the limit is %d", o.Name, o.Have, o.Limit), "Shorten it and put it in again."
	case slot.TooLarge:
		return fmt.Sprintf("%s is %s, the limit is %s", o.Name, Bytes(o.Have), Bytes(o.Limit)), "Make it smaller, by saving its pictures at a lower quality, and put it in again."
	case slot.NotPDF:
		return o.Name + " is not a PDF", "Save or print it as PDF and put that in."
	case slot.Locked:
		return o.Name + " is locked with a password", "Save it without a password and put it in again."
	case slot.Empty:
		return o.Name + " is empty", "Choose the file again."
	case slot.Unfinished:
		return o.Name + " has not arrived whole", "Put it in again."
	}
	return o.Name + " could not be opened", "Print it to a new PDF and put that in."
}

// Form says how an answer of this kind is written.
func Form(q *form.Question) string {
	if q == nil {
		return ""
	}
	switch q.Kind {
	case form.Date:
		return "Write it as 1 July 2027 or 2027-07-01."
	case form.Money:
		return "Write a sum such as 64,000 or 1,250.50."
	case form.Number:
		if q.Scale == 0 {
			return "Write a whole number."
		}
		return "Write a number with at most " + Count(int64(q.Scale), "decimal", "decimals") + "."
	case form.Choice, form.YesNo:
		return "Choose one of those offered."
	}
	return "Write it again."
}

func decimal(n int64, scale int) string {
	s := strconv.FormatInt(n, 10)
	if scale == 0 {
		return s
	}
	for len(s) <= scale {
		s = "0" + s
	}
	return s[:len(s)-scale] + "." + s[len(s)-scale:]
}

// Names gives the words of a design for condition.Sentence.
type Names struct{ Form *form.Form }

// Of names what a condition reads.
func (n Names) Of(r condition.Ref) string {
	switch {
	case r.Answer != "":
		if q := n.Form.Question(r.Answer); q != nil {
			return "“" + q.Label + "”"
		}
	case r.Figure != "":
		for _, f := range n.Form.Design.Figures {
			if f.Key == r.Figure {
				return f.Label
			}
		}
	case r.Date != "":
		if m, ok := n.Form.Design.Moment(r.Date); ok {
			return m.Label
		}
	}
	return "something unknown"
}

// Value writes a value as it is shown beside what it is compared with.
func (n Names) Value(r condition.Ref, v condition.Value) string {
	q := n.Form.Question(r.Answer)
	option := func(key string) string {
		if q != nil {
			for _, o := range q.Options {
				if string(o.Key) == key {
					return o.Label
				}
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
	case v.Number != nil && q != nil && q.Kind == form.Money:
		return money.Format(v.Number.Num, n.Form.Design.Currency)
	case v.Number != nil && v.Number.Den > 1:
		return strconv.FormatFloat(float64(v.Number.Num)/float64(v.Number.Den), 'g', -1, 64)
	case v.Number != nil:
		return strconv.FormatInt(v.Number.Num, 10)
	case v.List != nil:
		s := ""
		for i, k := range v.List {
			if i > 0 {
				s += ", "
			}
			s += option(k)
		}
		return s
	}
	return option(v.Text)
}

// Limit says what may be written at a question, before anything is wrong.
func Limit(f *form.Form, q *form.Question, l form.Limits, settled bool) string {
	cur := f.Design.Currency
	s := ""
	switch q.Kind {
	case form.Short, form.Long:
		if l.Words > 0 {
			s = fmt.Sprintf("Up to %s, counted as your word processor counts them.", Count(int64(l.Words), "word", "words"))
		}
	case form.Money:
		switch {
		case l.Least != nil && l.Most != nil:
			s = fmt.Sprintf("From %s to %s.", money.Format(*l.Least, cur), money.Format(*l.Most, cur))
		case l.Most != nil:
			s = fmt.Sprintf("Up to %s.", money.Format(*l.Most, cur))
		}
	case form.Date:
		if d := f.Day(l.NotBefore); !d.IsZero() {
			s = "Not before " + d.Words() + "."
		}
		if d := f.Day(l.NotAfter); !d.IsZero() {
			s += " Not after " + d.Words() + "."
		}
	case form.Budget:
		if l.MatchPercent > 0 {
			s = fmt.Sprintf("Others pay at least %d%% of the whole cost.", l.MatchPercent)
		}
	case form.File:
		if l.Slot != nil {
			s = "PDF, up to " + Bytes(l.Slot.SizeMost)
			if l.Slot.PagesMost > 0 {
				s += ", at most " + Count(int64(l.Slot.PagesMost), "page", "pages")
			}
			s += "."
		}
	}
	if s != "" && !settled {
		s += " This may become less, by an answer that is still open."
	}
	return s
}

// Age says how long ago a day was.
func Age(day, today calendar.Date) string {
	switch n := int64(today - day); {
	case n <= 0:
		return "today"
	case n == 1:
		return "yesterday"
	default:
		return Count(n, "day", "days") + " ago"
	}
}

// TooManyWords reports a text of more than most words.
func TooManyWords(text string, most int) bool { return wordcount.Words(text) > most }

// When reads a condition back, or "" when it always holds.
func When(c condition.Cond, names Names) string {
	if c.Always() {
		return ""
	}
	return condition.Sentence(c, names)
}

// Needed says what must be got ready for a question before one sits down to
// write; "" when nothing.
func Needed(f *form.Form, q *form.Question) string {
	s := ""
	switch q.Kind {
	case form.File:
		s = q.Label + ": " + Limit(f, q, q.Limits.Else, true)
	case form.Referee:
		s = Count(int64(q.Limits.Else.Referees), "referee", "referees") + ", by name and mail address; we write to them."
	case form.Budget:
		s = "The costs line by line. " + Limit(f, q, q.Limits.Else, true)
	case form.Long:
		s = "“" + q.Label + "” in up to " + Count(int64(q.Limits.Else.Words), "word", "words") + "."
	default:
		return ""
	}
	if w := When(q.Asked, Names{f}); w != "" {
		s += " Only if " + w + "."
	}
	return s
}
