package say

import (
	"strconv"
	"strings"

	"ulvant/core/fit"
	"ulvant/core/phrase"
)

// Share is a fit in hundredths, as it is written: "0.81".
func Share(hundredths int) string {
	return strconv.FormatFloat(float64(hundredths)/100, 'f', 2, 64)
}

// Loads says how many cases everybody has: "everybody 8 or 9", "from 3 to 9 each";
// "" for nobody.
func Loads(loads []int) string {
	least, most := -1, 0
	for _, n := range loads {
		if n == 0 {
			continue
		}
		if least < 0 || n < least {
			least = n
		}
		most = max(most, n)
	}
	switch {
	case least < 0:
		return ""
	case least == most:
		return "everybody " + strconv.Itoa(most)
	case least+1 == most:
		return "everybody " + strconv.Itoa(least) + " or " + strconv.Itoa(most)
	}
	return "from " + strconv.Itoa(least) + " to " + strconv.Itoa(most) + " each"
}

// Fit says what a fit is made of; "nothing is known of it" where nothing is. field is
// the name of the case’s field.
func Fit(f fit.Fit, field string) string {
	var parts []string
	switch {
	case f.Field == 1:
		parts = append(parts, "knows "+field)
	case f.Field == 0:
		parts = append(parts, "another field than "+field)
	}
	if len(f.Both) > 0 {
		parts = append(parts, phrase.List(f.Both)+" in common")
	}
	if len(f.Shared) > 0 {
		quoted := make([]string, len(f.Shared))
		for i, w := range f.Shared {
			quoted[i] = "“" + w + "”"
		}
		parts = append(parts, phrase.List(quoted)+" in their own words")
	} else if f.Words == 0 {
		parts = append(parts, "no word in common")
	}
	if parts == nil {
		return "nothing is known of it"
	}
	return strings.Join(parts, "; ")
}

// Costs says what a change by hand costs in fit over all, in hundredths.
func Costs(hundredths int64) string {
	switch {
	case hundredths > 0:
		return "the fit in all is " + Share(int(hundredths)) + " less"
	case hundredths < 0:
		return "the fit in all is " + Share(int(-hundredths)) + " more"
	}
	return "the fit in all stays as it is"
}

// TooFewPlaces says that cases hang on readers who have fewer places than are needed.
func TooFewPlaces(cases []string, readers []string, needed, places int) string {
	if len(readers) == 0 {
		return "Nobody else may read " + few(cases) + "."
	}
	who := phrase.Count(int64(len(readers)), "reader", "readers")
	if len(readers) <= 4 {
		who = phrase.List(readers)
	}
	have := "has"
	if len(readers) > 1 {
		have = "have"
	}
	return few(cases) + " may be read by " + who + " alone, who " + have + " " +
		phrase.Count(int64(places), "place", "places") + "; " +
		strconv.Itoa(needed) + " are needed. Invite another, rule on what stands in the way, or let them take more."
}

func few(cases []string) string {
	if len(cases) > 5 {
		return "These " + strconv.Itoa(len(cases)) + " cases"
	}
	return phrase.List(cases)
}

// TooFewKnow says that a field has too few readers.
func TooFewKnow(field string, cases, places int) string {
	if places == 0 {
		return "Nobody who may read it knows " + field + ". Invite somebody who does, or ask for no field."
	}
	return phrase.Count(int64(cases), "case is", "cases are") + " of the field " + field + "; those who know it have " +
		phrase.Count(int64(places), "place", "places") + ". Invite another who does, or let them take more."
}

// OneOrganisation says of a case that those who may read it are colleagues.
func OneOrganisation(title string) string {
	return title +
		" could only be read by several of one organisation. Invite somebody from another, or let colleagues read together."
}

// JuriesApart says that so many juries of a plan share nobody; apart are readers of one.
func JuriesApart(juries int, apart []string) string {
	return phrase.Count(int64(juries), "jury", "juries") + " share nobody, so their marks cannot be compared: " +
		phrase.List(apart[:min(4, len(apart))]) + " read nothing that the others do. Two shared cases would do."
}

// WhyNotReader says why a case is not given to somebody whom it suits.
func WhyNotReader(name string) string {
	return "Why not " + name + ", who suits it? They vouch for it, belong to it, stepped aside from it, share something " +
		"with somebody in it, or read for another jury."
}

// ReaderMoved says what a change by hand costs, how many cases the new reader would have,
// and what goes from whom to whom because of it.
func ReaderMoved(from, to string, costs int64, load int, after []Passed) string {
	out := from + " → " + to + ": " + Costs(costs) + ". " + to + " would read " + strconv.Itoa(load) + "."
	for _, x := range after {
		out += " “" + x.Title + "” goes from " + x.From + " to " + x.To + "."
	}
	if len(after) == 0 {
		out += " Nothing else moves."
	}
	return out
}

// Passed is a case that goes from one reader to another.
type Passed struct{ Title, From, To string }
