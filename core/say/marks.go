package say

import (
	"math"
	"strconv"
	"strings"

	"ulvant/core/form"
	"ulvant/core/phrase"
)

// Mark is a score as it is written, with two decimals.
func Mark(v float64) string {
	return strings.Replace(strconv.FormatFloat(v, 'f', 2, 64), "-", "−", 1)
}

// Percent of a chance; what is all but sure is not said to be sure.
func Percent(p float64) string {
	switch n := int(math.Round(100 * p)); {
	case n >= 100 && p < 1:
		return "over 99%"
	case n <= 0 && p > 0:
		return "under 1%"
	default:
		return strconv.Itoa(n) + "%"
	}
}

// Agreement says what the agreement of readers means, and what to do.
func Agreement(alpha, single float64) string {
	if math.IsNaN(alpha) {
		return "No case has two marks yet, so nobody can say how far readers agree."
	}
	out := "Krippendorff’s alpha is " + Mark(alpha) + ", and of the spread of one reader’s marks " + Percent(single) +
		" is the cases’ own. "
	switch {
	case alpha >= 0.8:
		return out + "Readers agree well; the order can be relied on as far as its errors say."
	case alpha >= 0.6:
		return out + "Readers agree fairly; look at the cases near the line before you rely on their order."
	case alpha >= 0.3:
		return out + "Readers agree little; talk over what is far apart, and let somebody else read what is too close to call."
	}
	return out + "Readers hardly agree more than by chance; the criteria may be read in different ways. Talk them over before deciding by these marks."
}

// Controls says how far readers lie apart on the cases that one more marked as a control; ""
// where there are none.
func Controls(n int, apart float64) string {
	if n == 0 {
		return ""
	}
	return "On " + phrase.Count(int64(n), "case that one reader more marked as a control, two readers lie ",
		"cases that one reader more marked as a control, two readers lie ") +
		Mark(apart) + " apart on average."
}

// Severity says how a reader marks beside the others; "" where it cannot be told from chance.
func Severity(effect, err float64) string {
	if math.Abs(effect) < 1.96*err {
		return ""
	}
	if effect < 0 {
		return Mark(-effect) + " more severe than the others"
	}
	return Mark(effect) + " milder than the others"
}

// Drift says how a reader’s marks move over their own order of reading; "" where it
// cannot be told from chance.
func Drift(slope, z float64, n int) string {
	if math.Abs(z) < 2.6 { // one in a hundred readers by chance
		return ""
	}
	over := slope * float64(n-1)
	if over < 0 {
		return "grew more severe by " + Mark(-over) + " from the first case to the last"
	}
	return "grew milder by " + Mark(over) + " from the first case to the last"
}

// Halo says that a reader’s criteria move together; "" where they do not.
func Halo(r float64) string {
	if math.IsNaN(r) || r < 0.85 {
		return ""
	}
	return "marks all criteria much alike (correlation " + Mark(r) + "): one impression may stand behind them"
}

// TooClose says how many cases cannot be told to stand above the line or beneath it.
func TooClose(n, cases int) string {
	if n == 0 {
		return "Of every case it can be told whether it stands above the line."
	}
	return phrase.Count(int64(n), "case is", "cases are") + " too close to call of " + strconv.Itoa(cases) +
		": the marks say neither that they stand above the line nor that they do not. One more reading of these tells most."
}

// Ties says what settles equal scores, and how many places it settles here.
func Ties(d *form.Design, settled int) string {
	rule := ""
	switch d.Tie {
	case "":
		return ""
	case form.TieSent:
		rule = "whoever was sent first stands first"
	case form.TieLot:
		rule = "the lot decides, drawn from the cases’ numbers: whoever draws it again draws the same"
	default:
		for _, c := range d.Criteria {
			if c.Key == d.Tie {
				rule = "the higher mark in “" + c.Label + "” stands first"
			}
		}
	}
	out := "Of equal scores, " + rule + "."
	if settled > 0 {
		out += " " + phrase.Count(int64(settled), "place is", "places are") + " settled so here."
	}
	return out
}

// NotOneOrder says that so many juries share no reader, so that nothing compares them.
func NotOneOrder(juries int) string {
	return phrase.Count(int64(juries), "jury shares", "juries share") +
		" nobody: their marks cannot be compared, and must not be put in one order. " +
		"Have one of each read two cases of the other."
}
