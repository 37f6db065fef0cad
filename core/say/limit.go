package say

import (
	"fmt"
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/form"
	"ulvant/core/identifier"
	"ulvant/core/money"
	"ulvant/core/slot"
)

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
	case form.Number, form.Percent:
		if q.Scale == 0 {
			return "Write a whole number."
		}
		return "Write a number with at most " + Count(int64(q.Scale), "decimal", "decimals") + "."
	case form.Grade:
		return "Write the number as it stands on the paper, such as 3.5."
	case form.Choice, form.YesNo, form.Several, form.Pick, form.StreamPick, form.ApplicantIs, form.AwardPick:
		return "Choose from those offered."
	case form.Keywords:
		return "Choose from the list."
	case form.Phone:
		return "Write the whole number; from another country begin with + and its code."
	case form.Mail:
		return "Write it as name@place.example."
	case form.Link:
		return "Write the whole address, such as https://place.example/page."
	case form.PageRef:
		return "Write a page such as 12, or pages such as 12–15."
	case form.Identifier:
		if s, ok := identifier.Find(q.Scheme); ok {
			return "Check it against the paper: it is not a whole " + lowerInitial(s.Label) + ", or a sign is wrong."
		}
	}
	return "Write it again."
}

// Limit says what may be written at a question, before anything is wrong.
func Limit(f *form.Form, q *form.Question, l form.Limits, settled bool) string {
	s := strings.Join(limits(f, q, l), " ")
	if s != "" && !settled {
		s += " This may become less, by an answer that is still open."
	}
	return s
}

func limits(f *form.Form, q *form.Question, l form.Limits) (out []string) {
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	amount := func(n int64) string { return quantity(f, q, n) }
	switch {
	case l.Words > 0 && l.LeastWords > 0:
		say("From %d to %s, counted as your word processor counts them.", l.LeastWords, Count(int64(l.Words), "word", "words"))
	case l.Words > 0:
		say("Up to %s, counted as your word processor counts them.", Count(int64(l.Words), "word", "words"))
	case l.LeastWords > 0:
		say("At least %s.", Count(int64(l.LeastWords), "word", "words"))
	}
	if l.Characters > 0 && q.Kind == form.Long {
		say("Up to %s.", Count(int64(l.Characters), "character", "characters"))
	}
	switch {
	case l.Least != nil && l.Most != nil:
		say("From %s to %s.", amount(*l.Least), amount(*l.Most))
	case l.Most != nil:
		say("Up to %s.", amount(*l.Most))
	case l.Least != nil && *l.Least > 0:
		say("%s or more.", amount(*l.Least))
	}
	if d := f.Day(l.NotBefore); !d.IsZero() {
		say("Not before %s.", d.Words())
	}
	if d := f.Day(l.NotAfter); !d.IsZero() {
		say("Not after %s.", d.Words())
	}
	if l.MonthsOld > 0 {
		say("Not older than %s on the day of closing.", Count(int64(l.MonthsOld), "month", "months"))
	}
	out = append(out, counted(l.PickLeast, l.PickMost, "Pick", "")...)
	out = append(out, counted(l.RowsLeast, l.RowsMost, "", "row")...)
	if l.MatchPercent > 0 {
		say("Others pay at least %d%% of the whole cost.", l.MatchPercent)
	}
	for _, c := range l.Caps {
		say("“%s” takes at most %d%% of what you ask.", Option(q.Options, string(c.Heading)), c.Percent)
	}
	if l.Slot != nil && (q.Kind == form.File || q.Media) {
		out = append(out, Slot(*l.Slot))
	}
	if q.Kind == form.Grade {
		say("It is brought %s.", q.Rounding)
	}
	return out
}

// quantity writes a number of a question's own unit and scale; sums with their
// currency.
func quantity(f *form.Form, q *form.Question, n int64) string {
	switch {
	case q == nil || q.Kind == form.Money:
		return money.Format(n, f.Design.Currency)
	case q.Kind == form.Percent:
		return decimal.String(condition.Number{Num: n, Den: pow10(q.Scale)}, q.Scale) + "%"
	}
	return strings.TrimSpace(decimal.String(condition.Number{Num: n, Den: pow10(q.Scale)}, q.Scale) + " " + q.Unit)
}

func counted(least, most int, verb, noun string) []string {
	what := func(n int) string {
		if noun == "" {
			return strconv.Itoa(n)
		}
		return Count(int64(n), noun, noun+"s")
	}
	var s string
	switch {
	case least > 0 && least == most:
		s = "exactly " + what(most)
	case least > 0 && most > 0:
		s = "from " + strconv.Itoa(least) + " to " + what(most)
	case most > 0:
		s = "at most " + what(most)
	case least > 0:
		s = "at least " + what(least)
	default:
		return nil
	}
	s = strings.TrimSpace(verb + " " + s)
	return []string{Initial(s) + "."}
}

func pow10(n int) int64 {
	out := int64(1)
	for range n {
		out *= 10
	}
	return out
}

// Slot says what a slot accepts.
func Slot(l slot.Limits) string {
	if l.Wish == slot.NotAccepted {
		return "Nothing is accepted here; please send none."
	}
	var kinds []string
	for _, k := range l.Accepts() {
		kinds = append(kinds, string(k))
	}
	s := strings.Join(kinds, " or ")
	add := func(format string, args ...any) { s += ", " + fmt.Sprintf(format, args...) }
	switch {
	case l.FilesLeast > 0 && l.FilesLeast == l.Most() && l.Most() > 1:
		add("exactly %d files", l.Most())
	case l.FilesLeast > 1:
		add("%d to %d files", l.FilesLeast, l.Most())
	case l.Most() > 1:
		add("up to %d files", l.Most())
	}
	if l.SizeMost > 0 {
		add("up to %s", Bytes(min(l.SizeMost, slot.MostSize)))
		if l.Most() > 1 {
			s += " each"
		}
	}
	if l.SizeAll > 0 && (l.Most() > 1 || l.SizeMost == 0) {
		add("%s in all", Bytes(min(l.SizeAll, int64(l.Most())*slot.MostSize)))
	}
	if l.PagesMost > 0 {
		add("at most %s", Count(int64(l.PagesMost), "page", "pages"))
		if l.TitleApart {
			s += " and a title page"
		}
	}
	if l.TextLeast {
		add("holding text, not scans")
	}
	switch {
	case l.WidthLeast > 0 && l.HeightLeast > 0:
		add("at least %d × %d pixels", l.WidthLeast, l.HeightLeast)
	case l.WidthLeast > 0:
		add("at least %d pixels wide", l.WidthLeast)
	case l.HeightLeast > 0:
		add("at least %d pixels high", l.HeightLeast)
	}
	if l.DPILeast > 0 {
		add("at least %d dots per inch", l.DPILeast)
	}
	if l.Colour != "" {
		add("in %s", l.Colour)
	}
	switch {
	case l.SecondsLeast > 0 && l.SecondsMost > 0:
		add("%s to %s long", Seconds(int64(l.SecondsLeast)), Seconds(int64(l.SecondsMost)))
	case l.SecondsMost > 0:
		add("at most %s long", Seconds(int64(l.SecondsMost)))
	}
	if !l.MadeSince.IsZero() {
		add("made on %s or later", l.MadeSince.Words())
	}
	s += "."
	if l.Wish == slot.BetterNot {
		s = "Better left out. If you must: " + s
	}
	return Initial(s)
}

// File says how large a file is and what else is known of it.
func File(size int64, f slot.Facts) string {
	s := Bytes(size)
	if f.Pages > 0 {
		s += " · " + Count(int64(f.Pages), "page", "pages")
	}
	if f.Width > 0 {
		s += fmt.Sprintf(" · %d × %d pixels", f.Width, f.Height)
	}
	if f.Seconds > 0 {
		s += " · " + Seconds(int64(f.Seconds))
	}
	return s
}

// Seconds writes a running time: 40 s, 2 min, 2 min 30 s.
func Seconds(n int64) string {
	switch {
	case n < 60:
		return strconv.FormatInt(n, 10) + " s"
	case n%60 == 0:
		return strconv.FormatInt(n/60, 10) + " min"
	}
	return fmt.Sprintf("%d min %d s", n/60, n%60)
}

// Needed says what must be got ready for a question before one sits down to
// write; "" when nothing.
func Have(f *form.Form, q *form.Question) string {
	s := ""
	l := q.Limits.Else
	switch q.Kind {
	case form.File:
		if l.Slot != nil && l.Slot.Wish == slot.NotAccepted {
			return ""
		}
		s = q.Label + ": " + Limit(f, q, l, true)
	case form.Referee:
		s = Count(int64(l.Referees), "referee", "referees") + ", by name and mail address; we write to them."
	case form.Signatory:
		s = q.Label + ": " + Count(int64(l.Referees), "person", "people") + " to confirm it, by name and mail address."
	case form.Budget:
		s = "The costs line by line. " + Limit(f, q, l, true)
	case form.Identifier:
		s = q.Label + "."
	case form.Long:
		s = "“" + q.Label + "”"
		if l.Words > 0 {
			s += " in up to " + Count(int64(l.Words), "word", "words")
		}
		s += "."
	default:
		return ""
	}
	return s
}

// Needed is Have, with whom it is asked of.
func Needed(f *form.Form, q *form.Question) string {
	s := Have(f, q)
	if w := When(q.Asked, Names{f}); w != "" && s != "" {
		s += " Only if " + w + "."
	}
	return s
}
