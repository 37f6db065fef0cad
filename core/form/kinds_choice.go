package form

import (
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/decimal"
)

// Kinds that choose. Several picked are kept on a line each, in the order of
// the options.
var _ = register(map[Kind]*kindRule{
	Choice: {means: "Pick one", typ: condition.TypeText, comparable: true, read: readOption, options: own, compile: needOptions,
		members: []string{"options"}},
	Several: {means: "Pick several", typ: condition.TypeSet, comparable: true, read: readSeveral, options: own, compile: needOptions, check: checkPicked,
		members: []string{"options"}, limits: []string{"pickLeast", "pickMost"}},
	Ranked: {means: "Preferences in order", typ: condition.TypeSet, comparable: true, parts: rankParts, options: own, compile: needOptions, check: checkRanked,
		members: []string{"options"}, limits: []string{"pickLeast", "pickMost"}},
	Keywords: {means: "Keywords from a list", typ: condition.TypeSet, comparable: true, read: readKeywords, check: checkPicked,
		members: []string{"list", "proposals"}, limits: []string{"pickLeast", "pickMost"},
		compile: func(c *compiler, q *Question) {
			c.need(c.f.lists[q.List] != nil, "choose the list that is picked from")
		}},
	Pick: {means: "Pick a row of a table the office keeps; the rest is filled in", typ: condition.TypeText, comparable: true, read: readOption, options: tableRows,
		members: []string{"table"}, compile: func(c *compiler, q *Question) {
			c.need(c.f.tables[q.Table] != nil, "choose the table that is picked from")
		}},
	Grade: {means: "Number brought to a step of a table by a stated rounding", typ: condition.TypeNumber, comparable: true, read: readGrade,
		members: []string{"table", "rounding"}, compile: func(c *compiler, q *Question) {
			t := c.f.tables[q.Table]
			c.need(t != nil && len(t.steps()) > 0, "choose a table with a column of numbers")
			c.need(slices.Contains([]Rounding{Nearest, NextUp, NextDown}, q.Rounding), "say how it is rounded")
		}},
	StreamPick: {means: "The stream of the round", typ: condition.TypeText, comparable: true, read: readOption, options: streams,
		compile: func(c *compiler, _ *Question) { c.need(len(c.f.Design.Streams) > 0, "the round has no streams") }},
	ApplicantIs: {means: "The kind of applicant", typ: condition.TypeText, comparable: true, read: readOption,
		options: func(f *Form, _ *Question) []Option { return f.Design.Applicants },
		compile: func(c *compiler, _ *Question) {
			c.need(len(c.f.Design.Applicants) > 0, "the round names no kinds of applicant")
		}},
	AwardPick: {means: "Awards applied for", typ: condition.TypeSet, comparable: true, read: readSeveral, options: awards, check: checkAwards, compile: needAwards,
		members: []string{"every"}, limits: []string{"pickLeast", "pickMost"}},
	AwardOrder: {means: "Awards applied for, in order of preference", typ: condition.TypeSet, comparable: true, parts: rankParts, options: awards, check: checkRanked, compile: needAwards,
		limits: []string{"pickLeast", "pickMost"}},
})

func own(_ *Form, q *Question) []Option { return q.Options }

func needOptions(c *compiler, q *Question) {
	c.need(len(q.Options) > 0, "give it options to choose from")
}

func streams(f *Form, _ *Question) []Option {
	var out []Option
	for _, s := range f.Design.Streams {
		out = append(out, Option{s.Key, s.Label})
	}
	return out
}

func awards(f *Form, q *Question) []Option {
	var out []Option
	if q.Every { // first, so that it is seen before forty others
		out = append(out, Option{EveryAward, "Every award that fits"})
	}
	for _, a := range f.Design.Awards {
		out = append(out, Option{a.Key, a.Label})
	}
	return out
}

// EveryAward is picked by those who want to be considered for every award
// whose criterion they meet; the awards that fit are then part of the value.
const EveryAward Key = "every-award"

func needAwards(c *compiler, q *Question) {
	c.need(len(c.f.Design.Awards) > 0, "the round has no awards")
	c.need(!q.Every || q.Nature == Chosen, "asking for every award that fits is a choice, not a fact")
}

// checkAwards adds the awards that fit to the value of those who want every
// one; an award that a person must look at counts as fitting.
func checkAwards(w *walk, q *question, s *QuestionState) {
	if !q.def.Every || !slices.Contains(s.Value.List, string(EveryAward)) {
		checkPicked(w, q, s)
		return
	}
	open := false
	for i, a := range w.form.Design.Awards {
		v := w.form.awards[i].Eval(w.frame)
		switch fits := v.Tri == condition.Yes || v.ForPerson(); {
		case slices.Contains(s.Value.List, string(a.Key)):
		case fits:
			s.Value.List = append(s.Value.List, string(a.Key))
		case v.Tri == condition.Unknown:
			open = true
		}
	}
	if len(s.Value.List) == 1 && !open {
		w.obstacle(s, Obstacle{Code: CodeNoAward})
	}
}

func tableRows(f *Form, q *Question) []Option {
	t := f.tables[q.Table]
	if t == nil {
		return nil
	}
	var out []Option
	for _, r := range t.Rows {
		out = append(out, Option{r.Key, r.Label})
	}
	return out
}

func readOption(f *Form, q *Question, raw string) (condition.Value, bool) {
	raw = strings.TrimSpace(raw)
	return condition.Value{Text: raw}, slices.ContainsFunc(f.Options(q), func(o Option) bool { return string(o.Key) == raw })
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

// Proposal marks a keyword that is not on the list but proposed for it.
const Proposal = "new: "

func readKeywords(f *Form, q *Question, raw string) (condition.Value, bool) {
	var out []string
	for _, p := range Lines(raw) {
		if text, proposed := strings.CutPrefix(p, Proposal); proposed {
			if !q.Proposals || len(text) > 80 {
				return condition.Value{}, false
			}
			out = append(out, p)
			continue
		}
		it, ok := f.LookUp(q.List, p)
		if !ok {
			return condition.Value{}, false
		}
		out = append(out, it.Code)
	}
	return condition.Value{List: out}, len(out) > 0
}

func readGrade(f *Form, q *Question, raw string) (condition.Value, bool) {
	n, ok := decimal.Parse(raw)
	t := f.tables[q.Table]
	if !ok || t == nil {
		return condition.Value{}, false
	}
	step, ok := t.Round(n, q.Rounding)
	return condition.Value{Number: &step}, ok
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
		out = append(out, Part{Key: Key("place-" + string(rune('a'+i))), Label: places[i], Kind: Choice, Options: options, May: true})
	}
	return out
}

// checkRanked gathers the places in order and finds what is ranked twice.
func checkRanked(w *walk, q *question, s *QuestionState) {
	for _, p := range s.Parts {
		if p.Presence != condition.Given {
			continue
		}
		if slices.Contains(s.Value.List, p.Value.Text) {
			w.obstacle(s, Obstacle{Code: CodePickedTwice, Place: Place{Question: q.def.Key, Column: p.Key}, Name: optionLabel(p.Options, p.Value.Text)})
			continue
		}
		if q.def.Kind == AwardOrder && !w.form.AppliedFor(w.path, p.Value.Text) {
			w.obstacle(s, Obstacle{Code: CodeNotApplied, Place: Place{Question: q.def.Key, Column: p.Key}, Name: optionLabel(p.Options, p.Value.Text)})
			continue
		}
		s.Value.List = append(s.Value.List, p.Value.Text)
	}
	checkPicked(w, q, s)
}

// AppliedFor reports an award that was picked to be applied for; every award is
// where no question asks which.
func (f *Form) AppliedFor(path *Path, award string) bool {
	asked := false
	for i := range path.Questions {
		st := &path.Questions[i]
		if q := f.Question(st.Key); q == nil || q.Kind != AwardPick || st.Asked != condition.Yes {
			continue
		}
		if slices.Contains(st.Value.List, award) {
			return true
		}
		asked = asked || st.Presence == condition.Given
	}
	return !asked
}

// Offered are those of a part's options that can be chosen as things stand: of
// the awards to be put in order, those applied for. What is chosen already stays,
// so that it is seen and can be mended.
func (f *Form) Offered(path *Path, q *Question, options []Option, chosen string) []Option {
	if q.Kind != AwardOrder {
		return options
	}
	return slices.DeleteFunc(slices.Clone(options), func(o Option) bool {
		return string(o.Key) != chosen && !f.AppliedFor(path, string(o.Key))
	})
}

func optionLabel(options []Option, key string) string {
	for _, o := range options {
		if string(o.Key) == key {
			return o.Label
		}
	}
	return key
}
