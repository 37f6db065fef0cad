package form

import (
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/control"
)

var _ = register(kind{
	key: Date, means: "Date", keeps: InText, typ: condition.TypeDate, comparable: true, measure: Days, normal: true,
	members: []string{"profile"}, limits: []string{"notBefore", "notAfter", "monthsOld"},
	read: readDate, check: checkDate, how: says("Write it as 1 July 2027 or 2027-07-01."),
	words: func(_ *Form, _ *Question, _ *Filled, s *QuestionState) string { return s.Value.Date.Words() },
	// 3/4/2009 is read as the third of April: say so
	note: func(_ *Form, _ *Question, _ *Filled, s *QuestionState) string {
		if d := s.Value.Date.Words(); d != strings.TrimSpace(s.Raw) {
			return "Read as " + d
		}
		return ""
	},
	values: spanning(int64(FirstDay), int64(LastDay)),
	bounds: dayBounds,
	possible: func(f *Form, _ *Question, l Limits) bool {
		from, to := f.Day(l.NotBefore), f.Day(l.NotAfter)
		return from.IsZero() || to.IsZero() || from <= to
	},
	example: func(f *Form, _ *Question, l Limits) string { return f.dayWithin(l).String() },
	tenths:  takes(10), surveys: true, weighed: true,
	control: func(*Form, *Question, *Filled, string) Control {
		return Control{As: control.Figure, Hint: "1 July 2027"}
	},
})

// FirstDay and LastDay are those among which a proof looks: no programme asks
// for one beyond them.
var FirstDay, LastDay = calendar.NewDate(1850, 1, 1), calendar.NewDate(2150, 12, 31)

func readDate(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	d, ok := calendar.ParseDate(strings.TrimSpace(raw))
	return condition.Value{Date: d}, ok
}

func checkDate(w *walk, _ *question, s *QuestionState) {
	if d := w.form.Day(s.Limits.NotBefore); !d.IsZero() && s.Value.Date < d {
		w.obstacle(s, Obstacle{Code: CodeTooEarly, Have: int64(d - s.Value.Date), Day: d})
	}
	if d := w.form.Day(s.Limits.NotAfter); !d.IsZero() && s.Value.Date > d {
		w.obstacle(s, Obstacle{Code: CodeTooLate, Have: int64(s.Value.Date - d), Day: d})
	}
	if n := s.Limits.MonthsOld; n > 0 {
		if oldest := w.form.oldest(n); s.Value.Date < oldest {
			w.obstacle(s, Obstacle{Code: CodeTooOld, Have: int64(oldest - s.Value.Date), Limit: int64(n), Day: oldest})
		}
	}
}

// oldest day that is not older than so many months. It is read backward from
// the closing, clamped to the month's end: 6 months before 31 August is 28
// February or later.
func (f *Form) oldest(months int) calendar.Date { return f.closing().AddMonths(-months) }

// closing is the day on which the round closes.
func (f *Form) closing() calendar.Date {
	m, _ := f.Design.Moment(Closes)
	return m.At.Date
}

func dayBounds(f *Form, _ *Question, l Limits) (out []Bound) {
	if d := f.Day(l.NotBefore); !d.IsZero() {
		out = append(out, Bound{"notBefore", true, int64(d)})
	}
	if d := f.Day(l.NotAfter); !d.IsZero() {
		out = append(out, Bound{"notAfter", false, int64(d)})
	}
	if l.MonthsOld > 0 {
		out = append(out, Bound{"monthsOld", true, int64(f.oldest(l.MonthsOld))})
	}
	return out
}

func (f *Form) dayWithin(l Limits) calendar.Date {
	d := calendar.NewDate(2020, 1, 1)
	if l.MonthsOld > 0 {
		d = f.closing()
	}
	if from := f.Day(l.NotBefore); !from.IsZero() {
		d = max(d, from)
	}
	if to := f.Day(l.NotAfter); !to.IsZero() {
		d = min(d, to)
	}
	return d
}
