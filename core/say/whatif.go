package say

import (
	"strconv"
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
	says := "The best set for this money has scores that come to " + Mark(float64(best.Worth)/100) + ", the order’s to " +
		Mark(float64(order)/100) +
		": " + phrase.Count(int64(in), "case comes", "cases come") + " in" + goesOut(out)
	if !best.Proved {
		says += " It is not proved to be the best; at most " + Mark(float64(best.Bound)/100) + " can be."
	}
	return says
}

// QuotaCosts says what a quota costs in rank: who comes in by it and who falls out,
// places from 0, and how far down the order that is.
func QuotaCosts(name string, c whatif.Cost) string {
	places := func(list []int) string {
		var out []string
		for _, i := range list {
			out = append(out, strconv.Itoa(i+1))
		}
		return phrase.List(out)
	}
	switch in, out := len(c.In), len(c.Out); {
	case in == 0 && out == 0:
		return "“" + name + "” costs nothing: the order keeps it by itself."
	case in == 0:
		return "“" + name + "” takes out place " + places(c.Out) + ", and nobody comes in."
	case out == 0:
		return "“" + name + "” brings in place " + places(c.In) + ", and nobody falls out."
	}
	says := "“" + name + "” brings in place " + places(c.In) + " for place " + places(c.Out)
	if n := c.Ranks(); n > 0 && len(c.In) == len(c.Out) {
		return says + ": " + phrase.Count(int64(n), "place", "places") + " down the order in all."
	}
	return says + "."
}

func goesOut(n int) string {
	if n == 0 {
		return "."
	}
	return " and " + phrase.Count(int64(n), "goes", "go") + " out."
}
