package say

import (
	"strconv"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/waiting"
)

// Waits says what some cases wait for, after their number: “3” “read, to decide”.
func Waits(f *form.Form, k waiting.Kind) string {
	switch k {
	case waiting.HandOut:
		return "eligible, to hand out for reading"
	case waiting.Reader:
		return "cases lack a reader"
	case waiting.Marks:
		return "cases lack marks, and the reading ended " + calendar.DateOf(f.At(form.ReadingEnd), f.Zone).Words()
	case waiting.Meet:
		return "invited to interviews that are not over"
	case waiting.Decide:
		return "read, to decide"
	}
	return "eligible, to decide"
}

// Outcomes says how many have which outcome, in the order given: “9 awarded,
// 3 reserve and 1 not awarded”; "" for none.
func Outcomes(n map[lifecycle.State]int, order []lifecycle.State) string {
	var parts []string
	for _, s := range order {
		if n[s] > 0 {
			parts = append(parts, strconv.Itoa(n[s])+" "+string(s))
		}
	}
	return phrase.List(parts)
}

// PollWaits says what a public vote waits for, after how many there are.
func PollWaits(k waiting.PollKind) string {
	switch k {
	case waiting.LayPaper:
		return "ballot paper to lay out"
	case waiting.Patterns:
		return "patterns among voters to rule on"
	case waiting.Count:
		return "public vote to count"
	}
	return "result of a public vote to publish"
}
