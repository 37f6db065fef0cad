package form

import (
	"slices"

	"ulvant/core/condition"
)

var _ = register(kind{
	key: AwardOrder, means: "Awards applied for, in order of preference", keeps: InPieces, typ: condition.TypeSet,
	comparable: true,
	limits: []string{"pickLeast",
		"pickMost"}, compile: needAwards, parts: rankParts, options: awardOptions, words: rankedLines,
	check: func(w *walk, q *question, s *QuestionState) {
		gatherRanked(w, q, s, func(key string) (Code, bool) { return CodeNotApplied, w.form.AppliedFor(w.path, key) })
	},
	// of the awards to be put in order, those applied for
	offered: func(f *Form, path *Path, options []Option, chosen string) []Option {
		return slices.DeleteFunc(slices.Clone(options), func(o Option) bool {
			return string(o.Key) != chosen && !f.AppliedFor(path, string(o.Key))
		})
	},
	values: someOf, possible: picksPossible, complete: completeRanked, tenths: takes(40), control: piecesDrawn,
})

// Wishes are the awards that somebody put in order: 1 for the first.
func (f *Form) Wishes(path *Path) map[Key]int {
	out := map[Key]int{}
	for i := range path.Questions {
		st := &path.Questions[i]
		if q := f.Question(st.Key); q == nil || q.Kind != AwardOrder || st.Asked != condition.Yes {
			continue
		}
		for n, k := range st.Value.List {
			out[Key(k)] = n + 1
		}
	}
	return out
}
