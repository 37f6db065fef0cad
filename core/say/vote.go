package say

import (
	"strconv"

	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
)

// VoteRules are the rules of a round's public vote, for those who vote: how many one may
// name, how it is counted, what becomes of ties and of what is left.
func VoteRules(f *form.Form) []string {
	v := f.Design.Vote
	if v == nil {
		return nil
	}
	out := []string{voteMarks(v)}
	named := phrase.Count(int64(v.Named), "project", "projects")
	if v.Named == 1 {
		named = "project"
	}
	switch v.Count {
	case form.CountShares:
		out = append(out, "The vote divides "+money.Format(v.Budget,
			f.Design.Currency)+", and every voter has an equal share of it. A project is paid for "+
			"where those who named it can pay for it out of their shares: each as much as the others, or all they have left.",
			map[form.GoodOf]string{
				form.GoodOfOne:  "Of those that can be paid for, the one that costs each of its voters least comes first; then the next.",
				form.GoodOfCost: "Of those that can be paid for, the one that costs its voters least for what it costs in all comes first; then the next.",
			}[v.Utility])
		switch v.Rest {
		case form.RestByVotes:
			out = append(out, "What is left then goes to projects that it still pays for, those with the most votes first.")
		default:
			out = append(out, "What is left then is not given.")
		}
		return append(out, "Where two stand alike, the one with the lower number comes first.")
	case form.CountRanked:
		out = append(out, "A first place among so many is worth a point less than there are projects, each place after it a point less; one without a place has none. "+
			"The "+named+" with the most points "+isAre(v.Named)+" named.")
	case form.CountPoints:
		out = append(out, "The points are added up. The "+named+" with the most "+isAre(v.Named)+" named.")
	default:
		out = append(out, "The "+named+" with the most votes "+isAre(v.Named)+" named.")
	}
	return append(out, "Whoever is tied with the last of them is named too.")
}

func isAre(n int) string {
	if n == 1 {
		return "is"
	}
	return "are"
}

// voteMarks says what one ballot may say.
func voteMarks(v *form.Vote) string {
	switch {
	case v.Count == form.CountPoints && v.Most == 0:
		return "You have ten points to give, to one project or to several."
	case v.Count == form.CountPoints:
		return "You have " + phrase.Count(int64(v.Most), "point", "points") + " to give, to one project or to several."
	case v.Count == form.CountRanked && v.Most == 0:
		return "Put as many as you like in order, the one you want most first."
	case v.Count == form.CountRanked:
		return "Put up to " + strconv.Itoa(v.Most) + " in order, the one you want most first."
	case v.Most == 0:
		return "Name as many projects as you like."
	case v.Most == 1:
		return "Name one project."
	}
	return "Name up to " + phrase.Count(int64(v.Most), "project", "projects") + "."
}
