package form

import (
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
)

// What kinds that choose have in common. Several picked are kept on a line
// each, in the order of the options.

// LabelOf is the label of an option; its key when it is not among them.
func LabelOf(options []Option, key string) string {
	for _, o := range options {
		if string(o.Key) == key {
			return o.Label
		}
	}
	return key
}

// YesAndNo are the options of whatever is answered by yes or no.
func YesAndNo() []Option { return []Option{{Key: "yes", Label: "yes"}, {Key: "no", Label: "no"}} }

func own(_ *Form, q *Question) []Option { return q.Options }

func needOptions(c *compiler, q *Question) {
	c.need(len(q.Options) > 0, "give it options to choose from")
}

const howChoosing = "Choose from those offered."

func readOption(f *Form, q *Question, raw string) (condition.Value, bool) {
	raw = strings.TrimSpace(raw)
	return condition.Value{Text: raw}, slices.ContainsFunc(f.Options(q),
		func(o Option) bool { return string(o.Key) == raw })
}

// Lines are several picked: one a line, none twice.
func Lines(raw string) []string {
	var out []string
	for _, l := range strings.Split(raw, "\n") {
		if l = strings.TrimSpace(l); l != "" && !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	return out
}

func readSeveral(f *Form, q *Question, raw string) (condition.Value, bool) {
	picked := Lines(raw)
	options := f.Options(q)
	for _, p := range picked {
		if !slices.ContainsFunc(options, func(o Option) bool { return string(o.Key) == p }) {
			return condition.Value{}, false
		}
	}
	return condition.Value{List: picked}, len(picked) > 0
}

func checkPicked(w *walk, _ *question, s *QuestionState) {
	n := len(s.Value.List)
	if l := s.Limits.PickLeast; n < l {
		w.obstacle(s, Obstacle{Code: CodeTooFewPicked, Have: int64(n), Limit: int64(l)})
	}
	if l := s.Limits.PickMost; l > 0 && n > l {
		w.obstacle(s, Obstacle{Code: CodeTooManyPicked, Have: int64(n), Limit: int64(l)})
	}
}

// pickedLabel and pickedLabels write what was picked by the labels.
func pickedLabel(f *Form, q *Question, _ *Filled, s *QuestionState) string {
	return LabelOf(f.Options(q), s.Value.Text)
}

func pickedLabels(f *Form, q *Question, _ *Filled, s *QuestionState) string {
	var out []string
	for _, k := range s.Value.List {
		out = append(out, LabelOf(f.Options(q), k))
	}
	return strings.Join(out, ", ")
}

// oneOf are the values of a kind that picks one.
func oneOf(f *Form, q *Question) Values {
	v := Values{Of: Listed}
	for _, o := range f.Options(q) {
		v.Listed = append(v.Listed, condition.Value{Text: string(o.Key)})
	}
	return v
}

// someOf are the values of a kind that picks several of its options.
func someOf(f *Form, q *Question) Values {
	v := Values{Of: Picks}
	for _, o := range f.Options(q) {
		v.Keys = append(v.Keys, string(o.Key))
	}
	return v
}

func yesOrNo() []condition.Value {
	yes, no := true, false
	return []condition.Value{{Yes: &yes}, {Yes: &no}}
}

// picksPossible: no more need be picked than may be, or than there are.
func picksPossible(f *Form, q *Question, l Limits) bool {
	there := len(f.Values(q).Keys)
	most := there
	if l.PickMost > 0 {
		most = min(most, l.PickMost)
	}
	return l.PickLeast <= most && there > 0
}

func firstOption(f *Form, q *Question, _ Limits) string {
	if o := f.Options(q); len(o) > 0 {
		return string(o[0].Key)
	}
	return ""
}

func firstPicks(f *Form, q *Question, l Limits) string {
	keys := f.Values(q).Keys
	return strings.Join(keys[:min(len(keys), max(l.PickLeast, 1))], "\n")
}

// mostRadios is how many options are still seen at a glance.
const mostRadios = 8

func oneDrawn(f *Form, q *Question, _ *Filled, _ string) Control {
	c := Control{As: control.Radio, Options: f.Options(q)}
	if len(c.Options) > mostRadios {
		c.As = control.Select
	}
	return c
}

func someDrawn(f *Form, q *Question, _ *Filled, _ string) Control {
	return Control{As: control.Checks, Options: f.Options(q)}
}

// rankParts are the places of a ranking: as many as may be ranked.
func rankParts(f *Form, q *Question) []Part {
	options := f.Options(q)
	most := len(options)
	if l := q.Limits.Else.PickMost; l > 0 {
		most = min(most, l)
	}
	places := []string{"First", "Second", "Third", "Fourth", "Fifth", "Sixth", "Seventh", "Eighth", "Ninth", "Tenth"}
	var out []Part
	for i := range min(most, len(places)) {
		out = append(out, Part{Key: Key("place-" + string(rune('a'+i))), Label: places[i], Kind: Choice, Options: options,
			May: true, Named: true})
	}
	return out
}

// gatherRanked gathers the places in order and finds what is ranked twice;
// ranks reports what may be ranked at all, nil for everything.
func gatherRanked(w *walk, q *question, s *QuestionState, ranks func(key string) (code Code, ok bool)) {
	for _, p := range s.Parts {
		if p.Presence != condition.Given {
			continue
		}
		at := Place{Question: q.def.Key, Column: p.Key}
		if slices.Contains(s.Value.List, p.Value.Text) {
			w.obstacle(s, Obstacle{Code: CodePickedTwice, Place: at, Name: LabelOf(p.Options, p.Value.Text)})
			continue
		}
		if ranks != nil {
			if code, ok := ranks(p.Value.Text); !ok {
				w.obstacle(s, Obstacle{Code: code, Place: at, Name: LabelOf(p.Options, p.Value.Text)})
				continue
			}
		}
		s.Value.List = append(s.Value.List, p.Value.Text)
	}
	checkPicked(w, q, s)
}

// rankedLines writes a ranking, a line for each place.
func rankedLines(_ *Form, _ *Question, _ *Filled, s *QuestionState) string {
	return strings.Join(pieceWords(s), "\n")
}

// completeRanked ranks as many as must be, each another.
func completeRanked(f *Form, filled *Filled, q *Question, s *QuestionState) bool {
	return completePieces(f, filled, q, func(i int, p Part) string {
		if i >= max(s.Limits.PickLeast, 1) {
			return ""
		}
		return string(p.Options[min(i, len(p.Options)-1)].Key)
	})
}
