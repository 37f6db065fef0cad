package say

import (
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/placing"
)

// Answered is what was answered to a condition, for reading beside it: of each thing
// it reads, the answer or the figure, or that there is none.
func (n Names) Answered(c condition.Cond, filled *form.Filled, path *form.Path) string {
	var out []string
	seen := map[condition.Ref]bool{}
	c.Refs(func(r condition.Ref) {
		if seen[r] {
			return
		}
		seen[r] = true
		if s := n.answered(r, filled, path); s != "" {
			out = append(out, s)
		}
	})
	return strings.Join(out, "; ")
}

func (n Names) answered(r condition.Ref, filled *form.Filled, path *form.Path) string {
	f := n.Form
	if r.Figure != "" {
		for i, x := range f.Design.Figures {
			if x.Key != r.Figure {
				continue
			}
			if cell := path.Figures[i]; cell.Presence == condition.Given {
				return n.Value(r, cell.Value)
			}
			return "not worked out"
		}
	}
	if r.Answer == "" {
		return ""
	}
	for i := range path.Questions {
		st := &path.Questions[i]
		if st.Key != r.Answer {
			continue
		}
		switch {
		case st.Asked != condition.Yes:
			return "not asked"
		case st.Presence == condition.Declared:
			return "“" + string(st.Non) + "”"
		case st.Presence != condition.Given:
			return "not answered"
		}
		return cut(strings.ReplaceAll(f.Words(f.Question(r.Answer), filled, st), "\n", ", "), mostAnswered)
	}
	return ""
}

// mostAnswered is how many characters of an answer stand beside a criterion.
const mostAnswered = 120

// Criteria are the sentences of an award’s conditions, in their order; that of the
// words last.
func Criteria(f *form.Form, award int) (out []string) {
	names := Names{Form: f}
	for _, c := range f.Conditions(award) {
		out = append(out, condition.Sentence(c, names))
	}
	if a := f.Design.Awards[award]; a.WordsIn != "" {
		label := "an answer"
		if q := f.Question(a.WordsIn); q != nil {
			label = "“" + strings.TrimSuffix(q.Label, "?") + "”"
		}
		out = append(out, label+" speaks of "+phrase.Either(quotedAll(a.Words)))
	}
	return out
}

func quotedAll(list []string) (out []string) {
	for _, w := range list {
		if w = strings.TrimSpace(w); w != "" {
			out = append(out, "“"+w+"”")
		}
	}
	return out
}

// cut leaves away what is too long to stand beside something.
func cut(s string, most int) string {
	if r := []rune(s); len(r) > most {
		return strings.TrimSpace(string(r[:most])) + "…"
	}
	return s
}

// AwardGives is what an award gives, by how many places and what it goes by.
func AwardGives(a form.Award, currency string) string {
	out := phrase.Count(int64(a.Places), "place", "places")
	switch {
	case a.Purse > 0 && a.Least > 0:
		out += " of " + money.Format(a.Least, currency) + " to " + money.Format(a.Purse, currency)
	case a.Purse > 0:
		out += " of " + money.Format(a.Purse, currency)
	}
	n := a.NeedShare()
	return out + " · need " + strconv.Itoa(n) + ", merit " + strconv.Itoa(100-n)
}

// Points of a worth, with one decimal: 81.2.
func Points(worth int64) string {
	sign := ""
	if worth < 0 {
		sign, worth = "−", -worth
	}
	tenths := (worth + 50) / 100
	return sign + strconv.FormatInt(tenths/10, 10) + "." + strconv.FormatInt(tenths%10, 10)
}

// LinesOfAwards are awards given, a line each, for letters.
func LinesOfAwards(labels []string, sums []int64, donors []string, currency string) string {
	var out []string
	for i, label := range labels {
		line := label
		if sums[i] > 0 {
			line += ", " + money.Format(sums[i], currency)
		}
		if donors[i] != "" {
			line += ", given by " + donors[i]
		}
		out = append(out, line)
	}
	return strings.Join(out, "\n")
}

// GivenAwards says in a letter which awards are given.
func GivenAwards(lines string) string { return "What you are given:\n\n" + lines }

// AwardHot is what is to be done about an award; "" for nothing. asked: somebody was
// asked what its criteria read.
func AwardHot(places, given, fits, toSay int, asked bool) string {
	switch {
	case !asked:
		return "nobody was asked about it"
	case toSay > 0:
		return phrase.Count(int64(toSay), "needs a person", "need a person")
	case fits == 0:
		return "nobody fits"
	case given < places && fits < places:
		return phrase.Count(int64(places-fits), "place nobody fits", "places nobody fits")
	case given < places:
		return phrase.Count(int64(places-given), "place open", "places open")
	}
	return ""
}

// NearlyMeet says how many miss one criterion of an award, criterion by criterion; ""
// for nobody.
func NearlyMeet(criteria []string, counts []int) string {
	var out []string
	all := 0
	for i, n := range counts {
		if n > 0 && i < len(criteria) {
			out = append(out, criteria[i]+": "+strconv.Itoa(n))
			all += n
		}
	}
	if all == 0 {
		return ""
	}
	return phrase.Count(int64(all), "person misses", "people miss") + " one thing. " +
		phrase.Initial(strings.Join(out, "; ")) + "."
}

// WhyNotPlaced says why somebody is not given an award that they meet: has are awards
// of theirs that stand in its way, others who has it.
func WhyNotPlaced(why placing.Reason, has, others []string) string {
	switch why {
	case placing.IsGiven:
		return ""
	case placing.IsBarred:
		return "It is held away from them by hand, or decided."
	case placing.NoPlace:
		return "It has no place to give."
	case placing.ApartFrom:
		return "They have " + phrase.List(has) + ", and one of the two is all that one person is given."
	case placing.TooCostly:
		return "It is more than they may be given in all."
	case placing.EnoughHas:
		return "They have " + phrase.List(has) + ", and that is as many as one person is given."
	case placing.MoneyHas:
		return "With " + phrase.List(has) + " it would be more than they may be given."
	case placing.FundEnds:
		return "The fund does not reach for it."
	}
	if len(others) == 0 {
		return "More is gained by giving other awards."
	}
	if len(others) > 3 {
		return phrase.Initial(phrase.Count(int64(len(others)), "other has it", "others have it")) + "."
	}
	verb := " has it."
	if len(others) > 1 {
		verb = " have it."
	}
	return phrase.List(others) + verb
}

// PlacingProof says whether a placing is the best there is; gap is in hundredths of a
// percent.
func PlacingProof(proved bool, gap int64) string {
	if proved {
		return "proved best: no other placing under these rules is worth more"
	}
	return "at most " + strconv.FormatInt(gap/100, 10) + "." + pad(gap%100) + "% could still be gained under these rules"
}

func pad(n int64) string {
	if n < 10 {
		return "0" + strconv.FormatInt(n, 10)
	}
	return strconv.FormatInt(n, 10)
}

// SumOfAwards is a sum with the awards it comes from; just the sum where there are
// none, and just the awards where they are of no money.
func SumOfAwards(total string, labels, sums []string) string {
	if len(labels) == 0 {
		return total
	}
	parts := make([]string, len(labels))
	for i, l := range labels {
		if parts[i] = l; sums[i] != "" && len(labels) > 1 {
			parts[i] += " (" + sums[i] + ")"
		}
	}
	if total == "" {
		return phrase.List(parts)
	}
	return total + ", from " + phrase.List(parts)
}

// ForWhom says to a donor whom an award is for, by its criteria; "" for everybody.
func ForWhom(criteria []string) string {
	if len(criteria) == 0 {
		return ""
	}
	return phrase.Initial(strings.Join(criteria, "; ")) + "."
}

// TooLittleMerit says that an award asks for more merit than somebody has; least is of
// 100, merit of 1,000.
func TooLittleMerit(least, merit int) string {
	return "It asks for a merit of " + strconv.Itoa(least) + "; theirs is " + strconv.Itoa(merit/10) + "."
}

// WhyUnfit says, to whoever asked for every award that fits, why some do not; "" where
// all do. Of many the first few are named.
func WhyUnfit(f *form.Form, list []form.Unfit) string {
	names := Names{Form: f}
	var out []string
	for _, u := range list[:min(len(list), mostUnfit)] {
		conds := f.Conditions(u.Award)
		if u.Condition >= len(conds) {
			continue
		}
		out = append(out, f.Design.Awards[u.Award].Label+" asks that "+condition.Sentence(conds[u.Condition], names))
	}
	if len(out) == 0 {
		return ""
	}
	if more := len(list) - len(out); more > 0 {
		out = append(out, phrase.Count(int64(more), "other does not fit either", "others do not fit either"))
	}
	return strings.Join(out, "; ") + "."
}

// mostUnfit are named to an applicant.
const mostUnfit = 8
