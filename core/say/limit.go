package say

import (
	"fmt"
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/slot"
)

// Form says how an answer of this kind is written.
func Form(q *form.Question) string {
	if q == nil {
		return ""
	}
	return q.How()
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
		say("From %d to %s, counted as your word processor counts them.", l.LeastWords,
			phrase.Count(int64(l.Words), "word", "words"))
	case l.Words > 0:
		say("Up to %s, counted as your word processor counts them.", phrase.Count(int64(l.Words), "word", "words"))
	case l.LeastWords > 0:
		say("At least %s.", phrase.Count(int64(l.LeastWords), "word", "words"))
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
		say("Not older than %s on the day of closing.", phrase.Count(int64(l.MonthsOld), "month", "months"))
	}
	out = append(out, counted(l.PickLeast, l.PickMost, "Pick", "")...)
	out = append(out, counted(l.RowsLeast, l.RowsMost, "", "row")...)
	if l.MatchPercent > 0 {
		say("Others pay at least %d%% of the whole cost.", l.MatchPercent)
	}
	for _, c := range l.Caps {
		say("“%s” takes at most %d%% of %s.", form.LabelOf(q.Options, string(c.Heading)), c.Percent, Of(c.Of))
	}
	if l.Slot != nil && q.TakesFiles() {
		out = append(out, Slot(*l.Slot))
	}
	if more := q.LimitsSay(l); more != "" {
		out = append(out, more)
	}
	return out
}

// quantity writes n, counted in units of a question's own Den; sums with their
// currency. Without a question it is a sum.
func quantity(f *form.Form, q *form.Question, n int64) string {
	if q == nil {
		return money.Format(n, f.Design.Currency)
	}
	return Number(f, q, condition.Number{Num: n, Den: q.Den()})
}

// Number writes a number of a question as people read it.
func Number(f *form.Form, q *form.Question, n condition.Number) string {
	switch q.Measure() {
	case form.Sums:
		return money.Format(n.Num, f.Design.Currency)
	case form.Days:
		return calendar.Date(n.Num).Words()
	case form.Shares:
		return decimal.String(condition.Number{Num: n.Num * 100, Den: n.Den}, q.Scale) + "%"
	}
	return strings.TrimSpace(decimal.String(n, q.Scale) + " " + q.Unit)
}

func counted(least, most int, verb, noun string) []string {
	what := func(n int) string {
		if noun == "" {
			return strconv.Itoa(n)
		}
		return phrase.Count(int64(n), noun, noun+"s")
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
	return []string{phrase.Initial(s) + "."}
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
		add("up to %s", phrase.Bytes(min(l.SizeMost, slot.MostSize)))
		if l.Most() > 1 {
			s += " each"
		}
	}
	if l.SizeAll > 0 && (l.Most() > 1 || l.SizeMost == 0) {
		add("%s in all", phrase.Bytes(min(l.SizeAll, int64(l.Most())*slot.MostSize)))
	}
	if l.PagesMost > 0 {
		add("at most %s", phrase.Count(int64(l.PagesMost), "page", "pages"))
		if l.TitleApart {
			s += " and a title page"
		}
	}
	if l.Paper != "" {
		add("signed in ink")
	}
	if l.PageSize != "" {
		add("pages no larger than %s", l.PageSize)
	}
	if l.TextLeast {
		add("holding text, not scans")
	}
	if l.TypeLeast > 0 {
		add("in type of at least %s", phrase.Count(int64(l.TypeLeast), "point", "points"))
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
		add("%s to %s long", phrase.Seconds(int64(l.SecondsLeast)), phrase.Seconds(int64(l.SecondsMost)))
	case l.SecondsMost > 0:
		add("at most %s long", phrase.Seconds(int64(l.SecondsMost)))
	}
	if l.ExcerptMost > 0 {
		add("with an excerpt named of at most %s", phrase.Seconds(int64(l.ExcerptMost)))
	}
	if !l.MadeSince.IsZero() {
		add("made on %s or later", l.MadeSince.Words())
	}
	s += "."
	if l.Wish == slot.BetterNot {
		s = "Better left out. If you must: " + s
	}
	return phrase.Initial(s)
}

// File says how large a file is and what else is known of it.
func File(size int64, f slot.Facts) string {
	s := phrase.Bytes(size)
	if f.Pages > 0 {
		s += " · " + phrase.Count(int64(f.Pages), "page", "pages")
	}
	if f.Width > 0 {
		s += fmt.Sprintf(" · %d × %d pixels", f.Width, f.Height)
	}
	if f.Seconds > 0 {
		s += " · " + phrase.Seconds(int64(f.Seconds))
	}
	return s
}

// Have says what must be got ready for a question before one sits down to
// write; "" when nothing.
func Have(f *form.Form, q *form.Question) string {
	return q.Ready(Limit(f, q, q.Limits.Else, true))
}

// Needed is Have, with whom it is asked of.
func Needed(f *form.Form, q *form.Question) string {
	s := Have(f, q)
	if w := When(q.Asked, Names{f}); w != "" && s != "" {
		s += " Only if " + w + "."
	}
	return s
}
