// Package kindtest puts a question of any kind into a design that holds all it
// may hang on, without knowing which kind it is: for tests that go through
// every kind there is.
package kindtest

import (
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/core/slot"
)

// Key of the question of a kind.
func Key(k form.Kind) form.Key { return form.Key("k-" + string(k)) }

// Question of a kind, with every member set that some kind needs.
func Question(k form.Kind) form.Question {
	q := form.Question{Key: Key(k), Kind: k, Label: "About " + string(k), Nature: form.Fact, Blank: form.Required,
		Seen: form.ToReaders}
	q.Begin()
	q.Options = []form.Option{{Key: "a", Label: "Apples"}, {Key: "b", Label: "Bread"}}
	q.List, q.Proposals, q.Table, q.Scheme, q.Request, q.Slot = "fields", true, "grades", "iban", "sum", "paper"
	q.Columns = []form.Question{{Key: "one", Kind: form.Money, Label: "One", Nature: form.Fact, Blank: form.Required,
		Seen: form.ToReaders},
		{Key: "two", Kind: form.Date, Label: "Two", Nature: form.Fact, Blank: form.Required, Seen: form.ToReaders}}
	q.Costing = &form.Costing{Quantities: true, Units: []form.Option{{Key: "day", Label: "day"}},
		Sources: []form.Key{"own", "promised", "applied", "in-kind"}, Dated: true, Gives: []form.Key{"boat"},
		Periods:  []form.Option{{Key: "y1", Label: "Year 1"}, {Key: "y2", Label: "Year 2"}},
		Partners: []form.Option{{Key: "trust", Label: "The trust"}, {Key: "club", Label: "The club"}},
		Quotes:   &form.Quotes{Above: 1, Count: 1, Slot: "paper"},
		Indirect: &form.Indirect{Rate: 10_00, Bases: []form.Base{{Heading: "a"}}}}
	q.Aid = &form.AidRule{Years: 3}
	if k == form.Declared {
		q.Declared = &form.DeclaredRule{Of: "household"}
	}
	q.Limits.Else.Referees = 1
	if q.Limits.Else.Slot == nil {
		q.Limits.Else.Slot = &slot.Limits{SizeMost: 1000}
	}
	return q
}

// Section is where the questions under test stand, after a sum and a slot.
const Section form.Key = "under-test"

// Design asks one question of each kind given; all of them when none is.
func Design(kinds ...form.Kind) *form.Design {
	day := func(month int) calendar.Wall {
		return calendar.At(calendar.NewDate(2027, 1, 1).AddMonths(month-1), 9, 0)
	}
	d := pattern.Grants(pattern.Settings{Key: "test-2027", Name: "The test", Programme: "The test", Prefix: "TST",
		Contact: "a@b.example",
		Zone:    "Europe/Dublin", Currency: "EUR", Fund: 20_000_000, Least: 200_000, Most: 8_000_000, ReadersEach: 2,
		HoldMinutes: 30,
		Opens:       day(3), Closes: day(4), ChecksBy: day(5), ReadingEnds: day(6), AnswerOn: day(7),
		WorkFrom: calendar.NewDate(2027, 9, 1)})
	if kinds == nil {
		for _, k := range form.Kinds() {
			kinds = append(kinds, k.Kind)
		}
	}
	first := Question(form.Money)
	first.Key, first.Label = "sum", "The sum"
	paper := Question(form.File)
	paper.Key, paper.Label = "paper", "The paper"
	household := Question(form.Years)
	household.Key, household.Label = "household", "The household"
	questions := []form.Question{first, paper}
	for _, k := range kinds {
		if k == form.Declared {
			questions = append(questions, household)
		}
		questions = append(questions, Question(k))
	}
	d.Sections = append(d.Sections, form.Section{Key: Section, Label: "Under test", Questions: questions})
	d.Gifts = append(d.Gifts, form.Gift{Key: "boat", Label: "A boat", What: "goods", Value: 5_000})
	d.Lists = append(d.Lists, form.List{Key: "fields", Label: "Fields",
		Items: []form.Item{{Code: "bats", Label: "Bats"}, {Code: "moss", Label: "Moss"}}})
	d.Tables = append(d.Tables, form.Table{Key: "grades", Label: "Grades",
		Columns: []form.Column{{Key: "step", Label: "Step", Numbers: true}},
		Rows: []form.Row{{Key: "low", Label: "Low", Cells: []string{"1"}},
			{Key: "high", Label: "High", Cells: []string{"2"}}}})
	d.Streams = []form.Stream{{Key: "one", Label: "One"}, {Key: "two", Label: "Two"}}
	d.Applicants = []form.Option{{Key: "person", Label: "A person"}, {Key: "body", Label: "A body"}}
	d.Awards = []form.Award{{Key: "cup", Label: "The cup", Places: 1}, {Key: "cap", Label: "The cap", Places: 1}}
	d.Fees = []form.Fee{{Key: "supper", Label: "Supper", What: "extra",
		Price: form.Cases[form.Price]{Else: form.Price{Amount: 100}}}}
	return d
}

// Answer gives a question an answer that meets its limits, however it is kept.
func Answer(f *form.Form, filled *form.Filled, q *form.Question) {
	switch q.Keeps() {
	case form.InText:
		filled.Answers[form.Place{Question: q.Key}] = form.Answer{Raw: f.Example(q, q.Limits.Else)}
	case form.AsFiles:
		filled.Files[q.Key] = []slot.File{{ID: 1, Name: "paper.pdf", Size: 10, State: slot.Ready,
			Facts: slot.Facts{Kind: slot.PDF, Pages: 3}}}
	case form.AsPeople:
		filled.Referees[q.Key] = []form.RefereeStanding{{Name: "Ada Quill", Letter: form.SentIn}}
	default:
		f.Complete(filled, q, f.Walk(filled).Find(q.Key))
	}
}

// Filled answers the sum, the paper and the questions given.
func Filled(f *form.Form, questions ...*form.Question) *form.Filled {
	x := &form.Filled{Answers: map[form.Place]form.Answer{}, Files: map[form.Key][]slot.File{},
		Referees: map[form.Key][]form.RefereeStanding{}, Lead: form.ExampleLead, Signers: []string{form.ExampleLead}}
	for _, q := range append([]*form.Question{f.Question("sum"), f.Question("paper")}, questions...) {
		Answer(f, x, q)
	}
	return x
}
