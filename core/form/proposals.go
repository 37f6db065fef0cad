package form

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/personname"
)

// Proposed is what an application proposes for a list.
type Proposed struct {
	Question, List Key
	Text           string
}

// ProposedIn lists what an application proposes for lists, in reading order. What
// the list has by now is no proposal any more.
func (f *Form) ProposedIn(path *Path) (out []Proposed) {
	for i := range path.Questions {
		s := &path.Questions[i]
		if s.Asked != condition.Yes {
			continue
		}
		for _, v := range s.Value.List {
			if text, ok := strings.CutPrefix(v, Proposal); ok {
				out = append(out, Proposed{s.Key, f.Question(s.Key).List, text})
			}
		}
	}
	return out
}

// Called finds the item of a list by its label, however it is spelt with capitals,
// accents and hyphens.
func (f *Form) Called(list Key, text string) (Item, bool) {
	x, ok := f.lists[list]
	if !ok {
		return Item{}, false
	}
	want := personname.Fold(text)
	for _, it := range x.def.Items {
		if personname.Fold(it.Label) == want {
			return it, true
		}
	}
	return Item{}, false
}

// NearItem is the label of an item that is called much the same as a text: a slip
// apart, or heard alike; "" for none.
func (f *Form) NearItem(list Key, text string) string {
	x, ok := f.lists[list]
	if !ok {
		return ""
	}
	want := personname.Fold(text)
	for _, it := range x.def.Items {
		if got := personname.Fold(it.Label); got != want && personname.Compare(got, want) >= personname.Sounds {
			return it.Label
		}
	}
	return ""
}

// TakesProposals reports that a question of the design takes proposals for its list.
func (f *Form) TakesProposals() bool {
	for i := range f.questions {
		if f.questions[i].def.Proposals {
			return true
		}
	}
	return false
}

// ListLabel is how a list is called; its key when there is none.
func (f *Form) ListLabel(k Key) string {
	if x, ok := f.lists[k]; ok {
		return x.def.Label
	}
	return string(k)
}
