package form

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/money"
)

// EveryAward is picked by those who want to be considered for every award
// whose criterion they meet; the awards that fit are then part of the value.
const EveryAward Key = "every-award"

var _ = register(kind{
	key: AwardPick, means: "Awards applied for", keeps: InText, typ: condition.TypeSet, comparable: true,
	members: []string{"every"}, limits: []string{"pickLeast", "pickMost"},
	compile: needAwards, read: readSeveral, options: awardOptions, check: checkAwards, how: says(howChoosing),
	words: awardLabels,
	note: func(f *Form, _ *Question, _ *Filled, s *QuestionState) string {
		if slices.Contains(s.Value.List, string(EveryAward)) {
			return fitting(f.Design.Awards, s.Value.List)
		}
		return ""
	},
	values: someOf, possible: picksPossible, example: firstPicks, tenths: takes(30),
	control: func(f *Form, q *Question, _ *Filled, _ string) Control {
		c := Control{As: control.Checks, Options: awardOptions(f, q), Notes: map[Key]string{}}
		for _, a := range f.Design.Awards {
			c.Notes[a.Key] = a.Sentence(f.Design.Currency)
		}
		c.Notes[EveryAward] = "We look which ones those are; their papers are asked for too."
		return c
	},
})

func awardOptions(f *Form, q *Question) []Option {
	var out []Option
	if q.Every { // first, so that it is seen before forty others
		out = append(out, Option{EveryAward, "Every award that fits"})
	}
	for _, a := range f.Design.Awards {
		out = append(out, Option{a.Key, a.Label})
	}
	return out
}

func needAwards(c *compiler, q *Question) {
	c.need(len(c.f.Design.Awards) > 0, "the round has no awards")
	c.need(!q.Every || q.Nature == Chosen, "asking for every award that fits is a choice, not a fact")
}

// PicksAwards reports a question that asks for which awards one applies.
func (q *Question) PicksAwards() bool { return q.Kind == AwardPick }

// wantsEvery reports a question at which one may ask for every award that fits.
func (q *Question) wantsEvery() bool { return q.Kind == AwardPick && q.Every }

// checkAwards adds the awards that fit to the value of those who want every
// one; an award that a person must look at counts as fitting.
func checkAwards(w *walk, q *question, s *QuestionState) {
	if !q.def.Every || !slices.Contains(s.Value.List, string(EveryAward)) {
		checkPicked(w, q, s)
		return
	}
	open := false
	for i, a := range w.form.Design.Awards {
		v := w.form.awards[i].match.Eval(w.frame)
		switch fits := v.Tri == condition.Yes || v.ForPerson(); {
		case slices.Contains(s.Value.List, string(a.Key)):
		case fits:
			s.Value.List = append(s.Value.List, string(a.Key))
		case v.Tri == condition.Unknown:
			open = true
		default:
			missed := slices.IndexFunc(w.form.awards[i].parts,
				func(p condition.Program) bool { return p.Eval(w.frame).Tri == condition.No })
			s.Unfit = append(s.Unfit, Unfit{i, max(0, missed)})
		}
	}
	if len(s.Value.List) == 1 && !open {
		w.obstacle(s, Obstacle{Code: CodeNoAward})
	}
}

func awardLabels(f *Form, q *Question, _ *Filled, s *QuestionState) string {
	var out []string
	every := ""
	for _, k := range s.Value.List {
		if k == string(EveryAward) {
			every = "every award that fits"
			continue
		}
		out = append(out, LabelOf(f.Options(q), k))
	}
	if every != "" && out != nil {
		every += ": "
	}
	return every + strings.Join(out, ", ")
}

// AppliedFor reports an award that was picked to be applied for; every award is
// where no question asks which.
func (f *Form) AppliedFor(path *Path, award string) bool {
	picked, asked := f.awardsPicked(path)
	return !asked || slices.Contains(picked, award)
}

// Applied reports, of one path, which awards were picked to be applied for, as
// AppliedFor does.
func (f *Form) Applied(path *Path) func(award Key) bool {
	picked, asked := f.awardsPicked(path)
	if !asked {
		return func(Key) bool { return true }
	}
	in := make(map[Key]bool, len(picked))
	for _, k := range picked {
		in[Key(k)] = true
	}
	return func(award Key) bool { return in[award] }
}

// AwardsPicked lists the awards that were picked to be applied for, or that fit
// those who want every one.
func (f *Form) AwardsPicked(path *Path) []string {
	picked, _ := f.awardsPicked(path)
	return slices.DeleteFunc(picked, func(k string) bool { return k == string(EveryAward) })
}

func (f *Form) awardsPicked(path *Path) (picked []string, asked bool) {
	for i := range path.Questions {
		st := &path.Questions[i]
		if q := f.Question(st.Key); q == nil || q.Kind != AwardPick || st.Asked != condition.Yes {
			continue
		}
		picked = append(picked, st.Value.List...)
		asked = asked || st.Presence == condition.Given
	}
	return picked, asked
}

// Sentence says what an award is worth, by what it goes and who gives it.
func (a Award) Sentence(currency string) string {
	var parts []string
	if a.Purse > 0 {
		worth := money.Format(a.Purse, currency)
		if a.Places > 1 {
			worth += " for each of " + strconv.Itoa(a.Places)
		}
		parts = append(parts, worth)
	}
	if a.Led != "" {
		parts = append(parts, a.Led+"-led")
	}
	if a.Donor != "" {
		parts = append(parts, "given by "+a.Donor)
	}
	out := strings.Join(parts, ", ")
	if out != "" && a.About != "" {
		out += ". "
	}
	return out + a.About
}

// manyNames is how many names are read rather than counted.
const manyNames = 6

// fitting says to which awards somebody comes who asked for every one that
// fits: by name when they are few, by those left out when these are few, else
// by number. considered holds the keys of the awards.
func fitting(awards []Award, considered []string) string {
	var in, out []string
	for _, a := range awards {
		if slices.Contains(considered, string(a.Key)) {
			in = append(in, a.Label)
		} else {
			out = append(out, a.Label)
		}
	}
	switch {
	case len(in) == 0:
		return "None is known to fit yet."
	case len(out) == 0:
		return fmt.Sprintf("All %d awards fit what you have answered.", len(awards))
	case len(in) <= manyNames:
		return "What you have answered fits: " + strings.Join(in, ", ") + "."
	case len(out) <= manyNames:
		return fmt.Sprintf("%d of %d awards fit what you have answered; not %s.", len(in), len(awards),
			strings.Join(out, ", "))
	}
	return fmt.Sprintf("%d of %d awards fit what you have answered.", len(in), len(awards))
}
