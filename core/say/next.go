package say

import (
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
)

// Next tells an applicant where what they have sent is, and what happens to it.
// sum is what they are awarded, as written; "" for none. readers mark it before
// it is decided; "" when nobody does.
func Next(s lifecycle.State, sum, readers string) string {
	then := "then the panel decides"
	if readers != "" {
		then = "then " + readers + " mark it"
	} else {
		readers = "readers"
	}
	switch s {
	case lifecycle.Owing:
		return "It is sealed and waits for its fee. It is in when the fee is paid; until then nobody looks at it."
	case lifecycle.Unpaid:
		return "Its fee was not paid in time, so it is not in. If you did pay, write to the office: the payment is looked for."
	case lifecycle.Sent:
		return "It is sent. We check it, " + then + ". You need do nothing."
	case lifecycle.HandedBack:
		return "It is handed back: the office has asked you something. What it asks about is open again; the rest stays " +
			"as you sent it."
	case lifecycle.Complete:
		return "It is complete. We work through the rules of the round, " + then + ". You need do nothing."
	case lifecycle.Eligible:
		return "It is eligible: it meets the rules of the round; " + then + ". You need do nothing."
	case lifecycle.Reading:
		return phrase.Initial(readers) + " are marking it. You need do nothing."
	case lifecycle.Read:
		return phrase.Initial(readers) + " have marked it. The panel decides next. You need do nothing."
	case lifecycle.Interview:
		return "You are invited to an interview. Its page says when and where, or lets you choose a time."
	case lifecycle.InvitedOn:
		return "You are invited on: the next stage is open to you."
	case lifecycle.NotEligible:
		return "It is not eligible: it does not meet the rules of the round; our letter says which, and why. It goes no " +
			"further."
	case lifecycle.Awarded:
		if sum != "" {
			return "It is awarded " + sum + ". Our letter says how it goes on."
		}
		return "It is awarded. Our letter says how it goes on."
	case lifecycle.OnOffer:
		return "It is awarded" + of(sum) + ". Accept or decline it here; until then it is only offered."
	case lifecycle.Accepted:
		return "You have accepted" + of(sum) + ". We write to you about what comes next."
	case lifecycle.OfferDown:
		return "It was awarded, and you declined. Nothing more is to be done."
	case lifecycle.OfferLapsed:
		return "It was awarded, and not answered in time: what was offered has lapsed. Write to us if you still want it."
	case lifecycle.Reserve:
		return "It waits in reserve: if money frees, you hear from us. You need do nothing."
	case lifecycle.NotAwarded:
		return "It is not awarded; our letter says why."
	case lifecycle.Withdrawn:
		return "You have withdrawn it. Nobody reads it any more."
	}
	return ""
}

// of a sum, where one is known.
func of(sum string) string {
	if sum == "" {
		return ""
	}
	return " " + sum
}
