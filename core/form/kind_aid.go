package form

import (
	"regexp"
	"strconv"
	"time"

	"ulvant/core/aid"
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/money"
)

var _ = register(kind{
	key: Aid, means: "Public aid received: giver, date, sum, held to a ceiling", keeps: InRows,
	members: []string{"aid"}, limits: []string{"rowsLeast", "rowsMost"},
	begin: func(q *Question) { q.Aid = &AidRule{Years: 3} },
	compile: func(c *compiler, q *Question) {
		a := q.aid()
		c.need(a.Years > 0 && a.Years <= 10, "say over how many years aid counts, three as a rule")
		c.need(a.Ceiling >= 0, "a limit lies outside what is possible")
		c.need(!a.Financial || a.Begins == "" || monthDay.MatchString(a.Begins),
			"write the day on which the financial year begins as month and day, such as 04-01")
		_, ok := c.f.Design.Moment(a.grantDay())
		c.need(ok, "the calendar has no %q", a.grantDay())
		r, there := c.f.index[a.Request]
		c.need(a.Request == "" || there && r < c.walked && c.f.questions[r].def.Measure() == Sums,
			"aid counts with a money question before it")
	},
	columns: func(_ *Form, q *Question) []Question {
		one := func(k Key, kind Kind, label string) Question {
			return Question{Key: k, Kind: kind, Label: label, Nature: Fact, Blank: Required, Seen: q.Seen}
		}
		return []Question{one("giver", Short, "Who gave it"), one("given", Date, "When"), one("sum", Money, "How much")}
	},
	check: checkAid, unasked: true, words: rowWords, complete: addExampleRow, tenths: takes(60), weighed: true,
	control: piecesDrawn,
	note: func(f *Form, q *Question, filled *Filled, s *QuestionState) string {
		a := q.aid()
		counted, asked, ok := f.aidOf(q, s, filled.Answers[Place{Question: a.Request}].Raw)
		if !ok || a.Ceiling == 0 {
			return ""
		}
		sum := func(n int64) string { return money.Format(n, f.Design.Currency) }
		says := "Received " + sum(counted) + " since " + f.AidFrom(q).Words()
		if asked > 0 {
			says += ". With the " + sum(asked) + " you ask it comes to " + sum(counted+asked)
		}
		return says + ", of at most " + sum(a.Ceiling)
	},
	ready: func(q *Question, _ Limits, _ string) string {
		return "What public purses gave in the last " + strconv.Itoa(q.aid().Years) + " years: who, when, how much."
	},
})

// AidRule is how public aid is added up and held to a ceiling; see package aid.
type AidRule struct {
	Years     int    `json:"years"`
	Financial bool   `json:"financial,omitempty"` // whole financial years; else a period that rolls
	Begins    string `json:"begins,omitempty"`    // of a financial year: month and day, "01-01" when empty
	Lenient   bool   `json:"lenient,omitempty"`   // what was given on the very day so many years before counts no more
	Ceiling   int64  `json:"ceiling,omitempty"`   // minor units; 0 for none
	Day       Key    `json:"day,omitempty"`       // the moment of the grant; AnswerOn when empty
	Request   Key    `json:"request,omitempty"`   // the money question that counts with it
}

var monthDay = regexp.MustCompile(`^(0[1-9]|1[0-2])-(0[1-9]|[12][0-9]|3[01])$`)

func (q *Question) aid() AidRule {
	if q.Aid == nil {
		return AidRule{Years: 3}
	}
	return *q.Aid
}

func (a AidRule) grantDay() Key {
	if a.Day == "" {
		return AnswerOn
	}
	return a.Day
}

func (a AidRule) window() aid.Window {
	w := aid.Window{Years: a.Years, Financial: a.Financial, Month: time.January, Day: 1, Lenient: a.Lenient}
	if monthDay.MatchString(a.Begins) {
		m, _ := strconv.Atoi(a.Begins[:2])
		w.Month = time.Month(m)
		w.Day, _ = strconv.Atoi(a.Begins[3:])
	}
	return w
}

// AidFrom is the first day on which aid counts.
func (f *Form) AidFrom(q *Question) calendar.Date {
	a := q.aid()
	m, _ := f.Design.Moment(a.grantDay())
	return a.window().From(m.At.Date)
}

// aidOf is what counts of the aid in a table, and what is asked; ok is false
// while a row is not complete.
func (f *Form) aidOf(q *Question, s *QuestionState, request string) (counted, asked int64, ok bool) {
	a := q.aid()
	m, _ := f.Design.Moment(a.grantDay())
	var list []aid.Given
	for _, r := range s.Rows {
		when, sum := r.Cells[1], r.Cells[2]
		if when.Presence != condition.Given || sum.Presence != condition.Given {
			return 0, 0, false
		}
		list = append(list, aid.Given{On: when.Value.Date, Sum: sum.Value.Number.Num})
	}
	if r := f.Question(a.Request); r != nil {
		if v, read := f.Read(r, request); read {
			asked = v.Number.Num
		}
	}
	counted, ok = a.window().Counted(list, m.At.Date)
	return counted, asked, ok
}

// checkAid holds what was given and what is asked to the ceiling. It never
// takes off what is too much: what goes beyond the ceiling is not given at all.
func checkAid(w *walk, q *question, s *QuestionState) {
	if s.Presence == condition.Given {
		checkRows(w, q, s)
	}
	a := q.def.aid()
	counted, asked, ok := w.form.aidOf(q.def, s, w.filled.Answers[Place{Question: a.Request}].Raw)
	if i, there := w.form.index[a.Request]; there && w.path.Questions[i].Presence != condition.Given {
		asked = 0 // it is not asked of them
	}
	if ok && a.Ceiling > 0 && counted+asked > a.Ceiling {
		w.obstacle(s, Obstacle{Code: CodeAidCeiling, Have: counted + asked, Limit: a.Ceiling, Day: w.form.AidFrom(q.def),
			Name: money.Format(counted, w.form.Design.Currency), Detail: money.Format(asked, w.form.Design.Currency)})
	}
}
