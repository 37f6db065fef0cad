package say

import (
	"strconv"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/waiting"
)

// after is what follows a number that stands by itself: of one, of none or many.
func after(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

// Waits says what n cases wait for, after their number: “3” “read, to decide”.
func Waits(f *form.Form, k waiting.Kind, n int) string {
	switch k {
	case waiting.HandOut:
		return "eligible, to hand out for reading"
	case waiting.Reader:
		return after(n, "case lacks a reader", "cases lack a reader")
	case waiting.Marks:
		return after(n, "case lacks marks", "cases lack marks") + ", and the reading ended " +
			calendar.DateOf(f.At(form.ReadingEnd), f.Zone).Words()
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
func PollWaits(k waiting.PollKind, n int) string {
	switch k {
	case waiting.LayPaper:
		return "ballot paper to lay out"
	case waiting.Patterns:
		return after(n, "pattern among voters to rule on", "patterns among voters to rule on")
	case waiting.Count:
		return "public vote to count"
	}
	return "result of a public vote to publish"
}

// What else waits for somebody at the office, after how many of it there are.

// RulesWait: rules of one case, or of an area, that no machine decides.
func RulesWait(n int) string { return after(n, "rule needs a person", "rules need a person") }

// InCommon: what cases of a round share with others.
func InCommon(n int) string {
	return after(n, "person in common or like text to rule on", "people in common or like texts to rule on")
}

// OffersBack: what was declined or lapsed.
func OffersBack(n int) string {
	return after(n, "offer", "offers") + " came back: is there somebody in reserve?"
}

// Enquiries: what was asked about a round.
func Enquiries(n int) string {
	return after(n, "question", "questions") + " about the round, to answer"
}

// LettersHeld: what leaves when its hold is over.
func LettersHeld(n int) string {
	return after(n, "letter goes", "letters go") + " out soon and can still be stopped"
}

// ToReview: cases that it is a body's turn to say something of.
func ToReview(n int) string { return after(n, "application", "applications") + " with you to review" }

// Held: cases on which an act of many waits until a time of day.
func Held(n int, until string) string {
	return after(n, "waits", "wait") + " to be done and can be stopped until " + until
}
