package say_test

import (
	"testing"

	"ulvant/core/placing"
	. "ulvant/core/say"
)

func TestAwardSentences(t *testing.T) {
	for _, c := range []struct{ got, want string }{
		{Points(81_249), "81.2"}, {Points(-1_350), "−1.4"}, {Points(0), "0.0"}, {Points(999_950), "1000.0"},
		{PlacingProof(true, 0), "proved best: no other placing under these rules is worth more"},
		{PlacingProof(false, 7), "at most 0.07% could still be gained under these rules"},
		{PlacingProof(false, 120), "at most 1.20% could still be gained under these rules"},
		{AwardHot(2, 2, 5, 0, true), ""}, {AwardHot(2, 1, 5, 3, true), "3 need a person"},
		{AwardHot(1, 0, 0, 0, true), "nobody fits"},
		{AwardHot(4, 3, 3, 0, true), "1 place nobody fits"}, {AwardHot(4, 3, 9, 0, true), "1 place open"},
		{AwardHot(1, 0, 0, 0, false), "nobody was asked about it"},
		{WhyNotPlaced(placing.OthersHave, nil, []string{"Tam"}), "Tam has it."},
		{WhyNotPlaced(placing.OthersHave, nil, []string{"Tam", "Bo"}), "Tam and Bo have it."},
		{WhyNotPlaced(placing.OthersHave, nil, []string{"A", "B", "C", "D"}), "4 others have it."},
		{WhyNotPlaced(placing.OthersHave, nil, nil), "More is gained by giving other awards."},
		{WhyNotPlaced(placing.EnoughHas, []string{"Loft", "Bar Prize"}, nil),
			"They have Loft and Bar Prize, and that is as many as one person is given."},
		{WhyNotPlaced(placing.ApartFrom, []string{"Loft"}, nil),
			"They have Loft, and one of the two is all that one person is given."},
		{WhyNotPlaced(placing.MoneyHas, []string{"Loft"}, nil), "With Loft it would be more than they may be given."},
		{WhyNotPlaced(placing.IsGiven, nil, nil), ""},
		{NearlyMeet([]string{"home is Tarl", "age is at most 30"}, []int{2, 1}),
			"3 people miss one thing. Home is Tarl: 2; age is at most 30: 1."},
		{NearlyMeet([]string{"home is Tarl"}, []int{0}), ""},
		{SumOfAwards("€2,800", []string{"Loft", "Hardship"}, []string{"€2,000", "€800"}),
			"€2,800, from Loft (€2,000) and Hardship (€800)"},
		{SumOfAwards("€2,000", []string{"Loft"}, []string{"€2,000"}), "€2,000, from Loft"},
		{SumOfAwards("", []string{"A bench"}, []string{""}), "A bench"}, {SumOfAwards("€5", nil, nil), "€5"},
		{LinesOfAwards([]string{"Loft", "A bench"}, []int64{200_000, 0}, []string{"Ada Quill", ""}, "EUR"),
			"Loft, €2,000, given by Ada Quill\nA bench"},
	} {
		if c.got != c.want {
			t.Errorf("%q, not %q", c.got, c.want)
		}
	}
}
