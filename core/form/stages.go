package form

import (
	"slices"
	"time"

	"ulvant/core/calendar"
)

// A round may be applied for in several stages. Each has a window of its own
// and an entry of its own; what was answered in an earlier one can be read by
// conditions but is not asked, unless its section is asked again.

// Applying lists the stages in which people write and send, in order.
func (f *Form) Applying() []*Stage {
	var out []*Stage
	for i := range f.Design.Stages {
		if s := &f.Design.Stages[i]; s.Does == Apply {
			out = append(out, s)
		}
	}
	return out
}

// FirstStage is the first in which people apply; "" when there is none.
func (f *Form) FirstStage() Key {
	if list := f.Applying(); len(list) > 0 {
		return list[0].Key
	}
	return ""
}

// WorkingDaysAfter is the end of the n-th working day after a time, in the round’s
// zone.
func (f *Form) WorkingDaysAfter(t time.Time, n int) time.Time {
	day := calendar.AddWorkingDays(calendar.DateOf(t, f.Zone), n, f.Off)
	end, _ := calendar.At(day, 24, 0).In(f.Zone)
	return end
}

// NextStage is the stage that people write in after one; nil after the last.
func (f *Form) NextStage(after Key) *Stage {
	list := f.Applying()
	i := slices.IndexFunc(list, func(s *Stage) bool { return s.Key == after })
	if i < 0 || i+1 == len(list) {
		return nil
	}
	return list[i+1]
}

// HandsOut are the stages whose applications are handed out to readers at a
// moment: those that readers mark, once they have closed and no more come in.
func (f *Form) HandsOut(at time.Time) (keys []Key) {
	for _, s := range f.Applying() {
		if f.ReadAfter(s.Key) && !at.Before(f.StageWindow(s.Key).Closes) {
			keys = append(keys, s.Key)
		}
	}
	return keys
}

// HandsOutFrom is when the first of them closes; zero when readers mark nothing.
func (f *Form) HandsOutFrom() (at time.Time) {
	for _, s := range f.Applying() {
		if closes := f.StageWindow(s.Key).Closes; f.ReadAfter(s.Key) && (at.IsZero() || closes.Before(at)) {
			at = closes
		}
	}
	return at
}

// ReadAfter reports a stage whose applications readers mark before the next
// one is written: a stage of reading comes between.
func (f *Form) ReadAfter(stage Key) bool {
	seen := false
	for _, s := range f.Design.Stages {
		switch {
		case s.Key == stage:
			seen = true
		case seen && s.Does == Apply:
			return false
		case seen && s.Does == Read:
			return true
		}
	}
	return false
}

// Interviews is the stage in which people who applied in one are met, before the
// next is written; nil where nobody is.
func (f *Form) Interviews(stage Key) *Stage {
	seen := false
	for i := range f.Design.Stages {
		switch s := &f.Design.Stages[i]; {
		case s.Key == stage:
			seen = true
		case seen && s.Does == Apply:
			return nil
		case seen && s.Does == Interview:
			return s
		}
	}
	return nil
}

// Meets reports a round in which people are met.
func (f *Form) Meets() bool {
	return slices.ContainsFunc(f.Applying(), func(s *Stage) bool { return f.Interviews(s.Key) != nil })
}

// StageWindow is when a stage may be written and sent; "" is the first.
func (f *Form) StageWindow(stage Key) calendar.Window {
	for _, s := range f.Design.Stages {
		if s.Key == stage {
			return calendar.Window{Opens: f.At(s.From), Closes: f.At(s.To)}
		}
	}
	return f.Window()
}

// Window is when applications may be begun: that of the first stage.
func (f *Form) Window() calendar.Window {
	if first := f.FirstStage(); first != "" {
		return f.StageWindow(first)
	}
	return calendar.Window{Opens: f.At(Opens), Closes: f.At(Closes)}
}

// WritingEnds is when the last stage that people write in closes.
func (f *Form) WritingEnds() time.Time {
	end := f.Window().Closes
	for _, s := range f.Applying() {
		if to := f.At(s.To); to.After(end) {
			end = to
		}
	}
	return end
}

// StageValues are what a letter can say of a stage that somebody is invited to.
func (f *Form) StageValues(s *Stage) map[string]string {
	m, _ := f.Design.Moment(s.To)
	return map[string]string{"stage": "“" + s.Label + "”", "closes": m.At.Words()}
}

// Carried lists the questions of a stage that start from what was answered in
// an earlier one. Statements, signatures, letters and fees are given anew.
func (f *Form) Carried(stage Key) []*Question {
	var out []*Question
	for i := range f.sections {
		s := &f.sections[i]
		if !slices.Contains(s.def.Again, stage) {
			continue
		}
		for j := s.first; j < s.last; j++ {
			if q := f.questions[j].def; f.CarriesOver(q) || q.Keeps() == AsFiles {
				out = append(out, q)
			}
		}
	}
	return out
}

// place of a stage among all; "" and what is not there count as the first in
// which people apply.
func (f *Form) place(stage Key) int {
	if stage == AfterSending {
		return len(f.Design.Stages)
	}
	at := func(k Key) int { return slices.IndexFunc(f.Design.Stages, func(s Stage) bool { return s.Key == k }) }
	if i := at(stage); stage != "" && i >= 0 {
		return i
	}
	return max(at(f.FirstStage()), 0)
}

// behind reports a section of an earlier stage, which is not asked again.
func (s *section) behind(now int) bool { return s.stage < now && !slices.Contains(s.again, now) }

// Settled reports a section that was asked in an earlier stage and is not
// asked again.
func (f *Form) Settled(s *Section, stage Key) bool {
	for i := range f.sections {
		if f.sections[i].def == s {
			return f.sections[i].behind(f.place(stage))
		}
	}
	return false
}

// ahead reports a section of a later stage.
func (s *section) ahead(now int) bool { return s.stage > now }

// counts reports a rule that counts in a stage: it reads something asked then,
// and nothing that is asked later.
func (r *rule) counts(f *Form, now int) bool {
	if r.stage != now {
		again := func(i int) bool { return slices.Contains(f.sections[f.questions[i].section].again, now) }
		return r.stage < now && slices.ContainsFunc(r.reads, again)
	}
	return true
}
