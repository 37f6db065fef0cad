package say

import (
	"ulvant/core/phrase"
	"ulvant/core/whatif"
)

// WhyGiven says why a case gets what it gets in a what-if; "" where the order alone
// says it. quota is how the quota behind it is called.
func WhyGiven(why whatif.Reason, quota string) string {
	switch why {
	case whatif.ByHand:
		return "by hand"
	case whatif.Least:
		return "brought in for " + quota
	case whatif.Most:
		return "passed over: " + quota + " has its most"
	case whatif.TooMuch:
		return "passed over: it does not fit any more"
	case whatif.InPart:
		return "in part: what is left"
	}
	return ""
}

// OrderCosts says what going by the order costs beside the best set: how much more the
// best set is worth, of the scores of those who are given something added up.
func OrderCosts(order int64, best *whatif.Best, in, out int) string {
	if best.Gives == nil {
		if best.Proved {
			return "No set of cases keeps all the quotas with this money."
		}
		return "No set that keeps all the quotas was found in time."
	}
	if best.Worth <= order {
		return "The order gives the best there is for this money."
	}
	says := "The best set for this money has scores that come to " + Mark(float64(best.Worth)/100) + ", the order’s to " + Mark(float64(order)/100) +
		": " + phrase.Count(int64(in), "case comes", "cases come") + " in" + goesOut(out)
	if !best.Proved {
		says += " It is not proved to be the best; at most " + Mark(float64(best.Bound)/100) + " can be."
	}
	return says
}

func goesOut(n int) string {
	if n == 0 {
		return "."
	}
	return " and " + phrase.Count(int64(n), "goes", "go") + " out."
}
