package say

import (
	"strings"
	"testing"

	"ulvant/core/whatif"
)

// What stands beside a case, and what the order costs, as it is read aloud.
func TestWhatIfsAreSaid(t *testing.T) {
	for why, want := range map[whatif.Reason]string{whatif.InOrder: "", whatif.Line: "", whatif.Unmarked: "",
		whatif.ByHand: "by hand",
		whatif.Least:  "brought in for Tarl", whatif.Most: "passed over: Tarl has its most",
		whatif.InPart:  "in part: what is left",
		whatif.TooMuch: "passed over: it does not fit any more"} {
		if got := WhyGiven(why, "Tarl"); got != want {
			t.Errorf("%v: %q, want %q", why, got, want)
		}
	}
	for _, c := range []struct {
		best whatif.Best
		want string
	}{
		{whatif.Best{Proved: true}, "No set of cases keeps all the quotas with this money."},
		{whatif.Best{}, "No set that keeps all the quotas was found in time."},
		{whatif.Best{Gives: []int64{1}, Worth: 300, Proved: true}, "The order gives the best there is for this money."},
		{whatif.Best{Gives: []int64{1}, Worth: 450, Proved: true},
			"The best set for this money has scores that come to 4.50, the order’s to 3.00: 2 cases come in and 1 goes out."},
	} {
		if got := OrderCosts(300, &c.best, 2, 1); got != c.want {
			t.Errorf("%q, want %q", got, c.want)
		}
	}
	if got := OrderCosts(300, &whatif.Best{Gives: []int64{1}, Worth: 450, Proved: true}, 1, 0); !strings.HasSuffix(got,
		": 1 case comes in.") {
		t.Errorf("%q", got)
	}
	if got := OrderCosts(300, &whatif.Best{Gives: []int64{1}, Worth: 450, Bound: 460}, 1, 1); !strings.HasSuffix(got,
		"at most 4.60 can be.") {
		t.Errorf("%q", got)
	}
}

// What a quota costs, as the officer hears it.
func TestQuotaCosts(t *testing.T) {
	for _, c := range []struct {
		cost whatif.Cost
		want string
	}{
		{whatif.Cost{}, "“North” costs nothing: the order keeps it by itself."},
		{whatif.Cost{In: []int{13}, Out: []int{8}},
			"“North” brings in place 14 for place 9: 5 places down the order in all."},
		{whatif.Cost{In: []int{9, 11}, Out: []int{7, 8}},
			"“North” brings in place 10 and 12 for place 8 and 9: 5 places down the order in all."},
		{whatif.Cost{In: []int{8, 11}, Out: []int{7}}, "“North” brings in place 9 and 12 for place 8."},
		{whatif.Cost{In: []int{9}}, "“North” brings in place 10, and nobody falls out."},
		{whatif.Cost{Out: []int{9}}, "“North” takes out place 10, and nobody comes in."},
		{whatif.Cost{In: []int{3}, Out: []int{8}}, "“North” brings in place 4 for place 9."},
	} {
		if got := QuotaCosts("North", c.cost); got != c.want {
			t.Errorf("%q, not %q", got, c.want)
		}
	}
}
