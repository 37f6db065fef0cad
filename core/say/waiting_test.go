package say_test

import (
	"testing"

	"ulvant/core/fee"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/core/waiting"
)

func TestOutcomes(t *testing.T) {
	for want, n := range map[string]map[lifecycle.State]int{
		"":                                       nil,
		"9 awarded, 3 reserve and 1 not awarded": {lifecycle.NotAwarded: 1, lifecycle.Awarded: 9, lifecycle.Reserve: 3},
		"1 reserve":                              {lifecycle.Reserve: 1, lifecycle.Awarded: 0},
	} {
		if got := say.Outcomes(n, lifecycle.Outcomes(true)); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

// What waits is read after its number: “1 rule needs a person”, “3 rules need a person”.
func TestWhatWaitsReadsAfterItsNumber(t *testing.T) {
	for _, c := range []struct{ one, many, want1, want3 string }{
		{say.RulesWait(1), say.RulesWait(3), "rule needs a person", "rules need a person"},
		{say.InCommon(1), say.InCommon(3), "person in common or like text to rule on",
			"people in common or like texts to rule on"},
		{say.OffersBack(1), say.OffersBack(3), "offer came back: is there somebody in reserve?",
			"offers came back: is there somebody in reserve?"},
		{say.Enquiries(1), say.Enquiries(3), "question about the round, to answer", "questions about the round, to answer"},
		{say.LettersHeld(1), say.LettersHeld(3), "letter goes out soon and can still be stopped",
			"letters go out soon and can still be stopped"},
		{say.ToReview(1), say.ToReview(3), "application with you to review", "applications with you to review"},
		{say.Held(1, "16:00"), say.Held(3, "16:00"), "waits to be done and can be stopped until 16:00",
			"wait to be done and can be stopped until 16:00"},
		{say.Waits(nil, waiting.Reader, 1), say.Waits(nil, waiting.Reader, 3), "case lacks a reader", "cases lack a reader"},
		{say.PollWaits(waiting.Patterns, 1), say.PollWaits(waiting.Patterns, 3), "pattern among voters to rule on",
			"patterns among voters to rule on"},
		{say.FeeTask(fee.NotBack, 1), say.FeeTask(fee.NotBack, 3), "fee that the payment desk would not give back",
			"fees that the payment desk would not give back"},
		{say.FeeTask(fee.ToTransfer, 1), say.FeeTask(fee.ToTransfer, 3), "fee to be sent back by transfer",
			"fees to be sent back by transfer"},
	} {
		if c.one != c.want1 || c.many != c.want3 {
			t.Errorf("1 %s; 3 %s", c.one, c.many)
		}
	}
}
