package finder

import (
	"slices"

	"ulvant/core/form"
)

// AskedFirst is how many shared questions are shown before the rest is folded.
const AskedFirst = 5

// Shared is one question of the check that an answer serves in several rounds.
type Shared struct {
	Key    form.Key
	Rounds []int // which of the forms ask it, by their place in the list
}

// Share what the checks of rounds ask: what is the same in several is asked once,
// and what decides for most rounds first. Where one key stands for different
// questions the first round's is shared; own holds, for each form, the labels of
// those that only its own check can ask.
func Share(forms []*form.Form) (shared []Shared, own [][]string) {
	asked, at := map[form.Key]*form.Question{}, map[form.Key]int{}
	own = make([][]string, len(forms))
	for i, f := range forms {
		for _, q := range f.CheckQuestions() {
			switch first := asked[q.Key]; {
			case first == nil:
				asked[q.Key], at[q.Key] = q, len(shared)
				shared = append(shared, Shared{q.Key, []int{i}})
			case Same(first, q):
				shared[at[q.Key]].Rounds = append(shared[at[q.Key]].Rounds, i)
			default:
				own[i] = append(own[i], q.Label)
			}
		}
	}
	slices.SortStableFunc(shared, func(a, b Shared) int { return len(b.Rounds) - len(a.Rounds) })
	return shared, own
}
