package view

import (
	"fmt"
	"html/template"
	"math"
	"strconv"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/say"
	"ulvant/core/slot"
)

func funcs(asset func(string) string) template.FuncMap {
	return template.FuncMap{
		"asset": asset,
		"money": func(n any, code string) string {
			switch v := n.(type) {
			case int64:
				return money.Format(v, code)
			case *int64:
				if v != nil {
					return money.Format(*v, code)
				}
			}
			return "–"
		},
		"plain":       money.Plain,
		"when":        When,
		"by":          By,
		"day":         func(t time.Time, z *time.Location) string { return t.In(z).Format("Mon 2 Jan 2006") },
		"movedSays":   say.MovedPlaces,
		"hour":        func(t time.Time) string { return t.Format("15:04") },
		"short":       func(t time.Time, z *time.Location) string { return t.In(z).Format("2 Jan") },
		"clock":       Clock,
		"iso":         func(t time.Time) string { return t.UTC().Format(time.RFC3339) },
		"withArticle": phrase.WithArticle,
		"count":       func(n int, one, many string) string { return phrase.Count(int64(n), one, many) },
		"bytes":       phrase.Bytes,
		"ring":        Ring,
		"moveOffice":  func() template.HTML { return Move(lifecycle.Office) },
		"ruleName":    func(names map[form.Key]string, k string) string { return names[form.Key(k)] },
		"move":        Move,
		"moveColour":  moveColour,
		"mover":       say.Mover,
		"state":       func(s lifecycle.State) string { return string(s) },
		"letter":      say.Letter,
		"letterNeeds": say.LetterNeeds,
		"letterRead":  say.ReadBy,
		"enough":      say.Enough,
		"bounced":     say.Bounced,
		"left":        Left,
		"lines":       func(s string) []string { return strings.Split(strings.TrimRight(s, "\n"), "\n") },
		"add":         func(a, b int) int { return a + b },
		"fit":         say.Share,
		"dec":         say.Mark,
		"sign":        func(v float64) string { return strings.Replace(fmt.Sprintf("%+.2f", v), "-", "−", 1) },
		"share":       func(x float64) string { return strconv.Itoa(int(math.Round(100*x))) + "%" },
		"istrue":      func(b *bool) bool { return b != nil && *b },
		"div":         func(a, b int) int { return a / max(b, 1) },
		"mulp":        func(share int) int { return share * 180 / 100 },
		"mul":         func(a, b int) int { return a * b },
		"sub":         func(a, b int) int { return a - b },
		"initial":     phrase.Initial,
		"lower":       strings.ToLower,
		"sentence":    sentence,
		"file":        say.File,
		"runs":        slot.Runs,
		"millis":      func(n int64) string { return (time.Duration(n) * time.Millisecond).String() },
		"percent": func(a, b int) int {
			if b == 0 {
				return 0
			}
			return a * 100 / b
		},
		"list": func(v ...any) []any { return v },
		"line": lineOf, "kept": keptOf, "sideof": sideOf, "progressAt": workAt, "fault": faultAt, "needed": needOf,
		"progress": workOf, "about": caseOf, "shown": seenOf,
	}
}

// When writes an instant in a zone: Fri 9 Apr 2027, 16:00.
func When(t time.Time, z *time.Location) string { return t.In(z).Format("Mon 2 Jan 2006, 15:04") }

// By is until when something is to be done: midnight is the end of the day before.
func By(t time.Time, z *time.Location) string {
	if l := t.In(z); l.Hour() == 0 && l.Minute() == 0 && l.Second() == 0 {
		return "the end of " + l.AddDate(0, 0, -1).Format("Mon 2 Jan 2006")
	}
	return When(t, z)
}

// sentence ends a text with a full stop unless it ends a sentence already.
func sentence(s string) string {
	if s == "" || strings.ContainsAny(s[len(s)-1:], ".?!") {
		return s
	}
	return s + "."
}

// Clock writes the time of day to the second, with the day unless it is today.
func Clock(t, now time.Time, z *time.Location) string {
	if t.In(z).Format(time.DateOnly) == now.In(z).Format(time.DateOnly) {
		return t.In(z).Format("15:04:05")
	}
	return t.In(z).Format("Mon 2 Jan, 15:04:05")
}

// Left says how long is left until t: 8 days 20 h 50 min.
func Left(now, t time.Time) string {
	d := t.Sub(now)
	if d <= 0 {
		return "closed"
	}
	days, h, m := int(d.Hours())/24, int(d.Hours())%24, int(d.Minutes())%60
	switch {
	case days > 1 && h == 0:
		return fmt.Sprintf("%d days left", days)
	case days > 1:
		return fmt.Sprintf("%d days %d h left", days, h)
	case days == 1 && h == 0 && m == 0:
		return "1 day left"
	case days == 1:
		return fmt.Sprintf("1 day %d h %d min left", h, m)
	case h > 0 && m == 0:
		return fmt.Sprintf("%d h left", h)
	case h > 0:
		return fmt.Sprintf("%d h %d min left", h, m)
	default:
		return fmt.Sprintf("%d min %d s left", m, int(d.Seconds())%60)
	}
}

// moveColour is the colour of a mover; it never stands without its shape or word.
func moveColour(m lifecycle.Move) string {
	switch m {
	case lifecycle.Applicant:
		return "#2B5C86"
	case lifecycle.Third:
		return "#6A3D6B"
	case lifecycle.Office:
		return "#17453F"
	case lifecycle.Reader:
		return "#8F6A08"
	}
	return "#C4BEAE"
}

// Move draws whose move it is: colour and shape, with a text for readers of
// the page who do not see it.
func Move(m lifecycle.Move) template.HTML {
	shape := `<path d="M4 7h6" stroke="#86908b" stroke-width="2"/>`
	switch m {
	case lifecycle.Applicant:
		shape = `<circle cx="7" cy="7" r="6"/>`
	case lifecycle.Third:
		shape = `<path d="M7 1l6.5 12h-13z"/>`
	case lifecycle.Office:
		shape = `<rect x="1.5" y="1.5" width="11" height="11"/>`
	case lifecycle.Reader:
		shape = `<path d="M4 1h6l3.5 6-3.5 6H4L.5 7z"/>`
	}
	return template.HTML(`<svg class="move" width="14" height="14" viewBox="0 0 14 14" fill="` + moveColour(m) +
		`" role="img" aria-label="` + say.Mover(m) + `">` + shape + `</svg>`)
}
