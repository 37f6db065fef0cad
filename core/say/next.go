package say

import "ulvant/core/lifecycle"

// Next tells an applicant what happens to what they have sent. readers mark it
// before it is decided; "" when nobody does.
func Next(s lifecycle.State, readers string) string {
	then := "then the panel decides"
	if readers != "" {
		then = "then " + readers + " mark it"
	} else {
		readers = "readers"
	}
	switch s {
	case lifecycle.Sent:
		return "We check it, " + then + ". You need do nothing."
	case lifecycle.HandedBack:
		return "The office has asked you something. What it asks about is open again; the rest stays as you sent it."
	case lifecycle.Complete:
		return "Nothing is missing. We work through the rules of the round, " + then + ". You need do nothing."
	case lifecycle.Eligible:
		return "It meets the rules of the round; " + then + ". You need do nothing."
	case lifecycle.Reading:
		return Initial(readers) + " are marking it. You need do nothing."
	case lifecycle.Read:
		return Initial(readers) + " have marked it. The panel decides next. You need do nothing."
	case lifecycle.InvitedOn:
		return "The next stage is open to you."
	case lifecycle.NotEligible:
		return "It does not meet the rules of the round; our letter says which, and why. It goes no further."
	case lifecycle.Awarded:
		return "It is awarded. Our letter says how it goes on."
	case lifecycle.Reserve:
		return "It waits in reserve: if money frees, you hear from us. You need do nothing."
	case lifecycle.NotAwarded:
		return "It is not awarded; our letter says why."
	case lifecycle.Withdrawn:
		return "You have withdrawn it. Nobody reads it any more."
	}
	return ""
}
