package pattern

import "ulvant/core/form"

// Pattern is one starting point.
type Pattern struct {
	Key     string // in forms
	Kind    string // grant, scholarship, fellowship, competition
	Example bool   // a whole one, with texts of a programme that must be gone through
	Label   string
	About   string
	Make    func(Settings) *form.Design
}

// All lists the patterns, in the order they are offered.
func All() []Pattern {
	return []Pattern{
		{"blank-grant", "grant", false, "A blank grant",
			"Who applies, what for, how much, a declaration; dates, letters, two criteria to rename.", BlankGrant},
		{"blank-scholarship", "scholarship", false, "A blank scholarship",
			"The same without a sum: awards have their purses.", BlankScholarship},
		{"blank-fellowship", "fellowship", false, "A blank fellowship", "A person, a plan, a sum, somebody who vouches.",
			BlankFellowship},
		{"blank-competition", "competition", false, "A blank competition",
			"An entry as text and file, a first prize, names hidden from the jury.", BlankCompetition},
		{"grant", "grant", true, "A grant, as an example",
			"Money towards work, with a budget and a share paid by others; a referee; checks, readers, a panel.", Grants},
		{"scholarship", "scholarship", true, "A scholarship, as an example",
			"One form read against many awards; results, courses, need; a teacher's reference.", Scholarships},
		{"fellowship", "fellowship", true, "A fellowship, as an example",
			"A person and a plan; the field of study decides materials and statements; two referees.", Fellowships},
		{"competition", "competition", true, "A competition, as an example",
			"Entries with pictures and a fee that rises by date; names hidden; a jury.", Competitions},
	}
}

// Find a pattern by its key; the first when there is none.
func Find(key string) Pattern {
	for _, p := range All() {
		if p.Key == key {
			return p
		}
	}
	return All()[0]
}
