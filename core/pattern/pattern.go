package pattern

import "ulvant/core/form"

// Pattern is one starting point.
type Pattern struct {
	Kind  string // grant, scholarship, fellowship, competition
	Label string
	About string
	Make  func(Settings) *form.Design
}

// All lists the patterns, in the order they are offered.
func All() []Pattern {
	return []Pattern{
		{"grant", "Grant", "Money towards work, with a budget and a share paid by others; a referee; checks, readers, a panel.", Grants},
		{"scholarship", "Scholarship", "One form read against many awards; results, courses, need; a teacher's reference.", Scholarships},
		{"fellowship", "Fellowship", "A person and a plan; the field of study decides materials and statements; two referees.", Fellowships},
		{"competition", "Competition", "Entries with pictures and a fee that rises by date; names hidden; a jury.", Competitions},
	}
}

// Find a pattern by its kind; the first when there is none.
func Find(kind string) Pattern {
	for _, p := range All() {
		if p.Kind == kind {
			return p
		}
	}
	return All()[0]
}
