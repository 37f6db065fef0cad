package form

import "ulvant/core/condition"

// IsCoded reports a question of the first stage whose answer is a code of a short
// list, by which people can be counted.
func (f *Form) IsCoded(q *Question) bool {
	n := len(f.CodesOf(q))
	return n >= 2 && n <= mostCodes && q.Purpose != ForSurvey && q.rule().read != nil && f.askedFirst(q.Key)
}

// askedFirst reports a question of a section of the first stage.
func (f *Form) askedFirst(k Key) bool {
	for i := range f.Design.Sections {
		s := &f.Design.Sections[i]
		for j := range s.Questions {
			if s.Questions[j].Key == k {
				return s.Stage == "" || s.Stage == f.FirstStage()
			}
		}
	}
	return false
}

// mostCodes are as many as a table shows.
const mostCodes = 24

// CodesOf are the codes of an answer, with their labels; nil for one that has none.
func (f *Form) CodesOf(q *Question) []Option {
	if q.Type() == condition.TypeYes {
		return YesAndNo()
	}
	return f.Options(q)
}

// Coded lists the questions by which people can be counted: those that lists show
// beside each application first.
func (f *Form) Coded() (out []Option) {
	for i := range f.questions {
		if q := f.questions[i].def; f.IsCoded(q) {
			o := Option{q.Key, q.Label}
			if q.Key == f.Design.Listed.Question {
				out = append([]Option{o}, out...)
			} else {
				out = append(out, o)
			}
		}
	}
	return out
}
