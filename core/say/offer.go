package say

import (
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/money"
	"ulvant/core/offer"
	"ulvant/core/phrase"
)

// Until names the last day of what ends with it; due is its end.
func Until(due time.Time, zone *time.Location) string {
	return calendar.DateOf(due.Add(-time.Second), zone).Words()
}

// AnswerBy says in the letter of an award by when it is accepted or declined; several
// awards each for itself.
func AnswerBy(due time.Time, zone *time.Location, awards int) string {
	what := "whether you accept this"
	if awards > 1 {
		what = "for each of them whether you accept it"
	}
	return "Please tell us " + what + ", on the page of your application, by the end of " + Until(due, zone) +
		". After that day it is free for somebody else."
}

// Offered is what an offer is of, in a few words: an award, or the sum of the round.
func Offered(award string, amount int64, currency string) string {
	switch sum := money.Format(amount, currency); {
	case award == "" && amount == 0:
		return nothingElse
	case award == "":
		return sum
	case amount == 0:
		return "“" + award + "”"
	default:
		return "“" + award + "”, " + sum
	}
}

// OfferAnswered says to whom it is offered what became of it.
func OfferAnswered(a offer.Answer, at time.Time, zone *time.Location, forThem bool) string {
	day := calendar.DateOf(at, zone).Words()
	switch by := " on " + day; {
	case a == offer.Accepted && forThem:
		return "The office has noted" + by + " that you accept it."
	case a == offer.Declined && forThem:
		return "The office has noted" + by + " that you decline it."
	case a == offer.Accepted:
		return "You accepted it" + by + "."
	case a == offer.Declined:
		return "You declined it" + by + "."
	case a == offer.Lapsed:
		return "It was not answered in time, and lapsed" + by + ". Write to us if you still want it: it may be free yet."
	}
	return ""
}

// OfferLetter is the mail about an answer to an offer: what it is of, and what follows.
// what is as Offered says it.
func OfferLetter(a offer.Answer, name, title, what string, due time.Time, zone *time.Location,
	forThem bool, why, funder string) (subject, body string) {
	said := "You have"
	if forThem {
		said = "We have noted that you have"
	}
	var lines string
	switch a {
	case offer.Accepted:
		subject, lines = "accepted", said+" accepted "+what+" for “"+title+"”. We write to you about what comes next."
	case offer.Declined:
		subject, lines = "declined",
			said+" declined "+what+" for “"+title+"”. It goes to somebody else. If that is a mistake, write to us at once."
	case offer.Lapsed:
		subject, lines = "lapsed", phrase.Initial(what)+" for “"+title+"” was not answered by the end of "+Until(due, zone)+
			", and is free for somebody else now. If you still want it, write to us: it may be free yet."
	case offer.Open:
		subject, lines = "open again",
			"You can answer again whether you accept "+what+" for “"+title+"”, on the page of your application, by the end of "+
				Until(due, zone)+"."
	}
	if why != "" {
		lines += "\n\nThe reason that stands with it: " + why
	}
	return subject, "Dear " + name + ",\n\n" + lines + "\n\n" + funder
}

// OfferReminder is the mail before the day on which offers end.
func OfferReminder(name, title string, what []string, due time.Time, zone *time.Location, funder string) string {
	return "Dear " + name + ",\n\nwe have offered you " + strings.Join(what, ", and ") + " for “" + title +
		"”, and wait for your answer. Please accept or decline on the page of your application by the end of " +
		Until(due, zone) +
		"; after that day it is free for somebody else.\n\n" + funder
}

// OfferAnswer is an answer as the office reads it in a list.
func OfferAnswer(a offer.Answer) string {
	if a == offer.Open {
		return "not answered"
	}
	return string(a)
}

// GaveBack says of an award that somebody was offered it and does not have it, beside it.
func GaveBack(a offer.Answer) string {
	if a == offer.Lapsed {
		return "It was offered to them, and they did not answer in time."
	}
	return "It was offered to them, and they declined."
}
