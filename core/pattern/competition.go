package pattern

import (
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Competitions is the pattern for entries that are judged without names, with
// a fee that rises by date and prizes open to some.
func Competitions(s Settings) *form.Design {
	d := &form.Design{Schema: form.Schema, Kind: "competition", HideNames: true, ReaderWord: "juror",
		Listed: form.Listing{Question: "stream", Heading: "Category"},
		Gives:  "Prizes, and for the winner the chance to see it built.",
		Calendar: append(dates(), form.Moment{Key: "early-until", Label: "the end of the early fee",
			At: calendar.At(s.Closes.Date.AddDays(-14), 16, 0)}),
		Stages:  steps("Entries", "Jury"),
		Streams: []form.Stream{{Key: "open-class", Label: "Open"}, {Key: "students", Label: "Students"}},
		Awards: []form.Award{{Key: "first-prize", Label: "First prize", Purse: s.Most, Places: 1, Public: true},
			{Key: "student-prize", Label: "Student prize", Purse: s.Least, Places: 1,
				Match: when("stream", condition.Is, "students"), Public: true}},
		Gifts: []form.Gift{{Key: "show", Label: "A place in the exhibition", What: "place"}},
		Fees: []form.Fee{
			{Key: "entry", Label: "Entry", What: "entry", Price: form.Cases[form.Price]{When: []form.Case[form.Price]{
				{If: when("stream", condition.Is, "students"), Then: form.Price{Amount: 2_000}}}, Else: form.Price{Amount: 6_000,
				Later: []form.Rise{{From: "early-until", Amount: 9_000}}}}},
			{Key: "catalogue", Label: "Catalogue, printed", What: "thing", Most: 5,
				Price: form.Cases[form.Price]{Else: form.Price{Amount: 1_800}}}},
		Payment: &form.Payment{Grace: form.DefaultGrace, Second: 10_000, Back: []form.Back{
			{Until: form.Closes, Percent: 100}}},
		Rules: []form.Rule{{Key: "ties", Label: "Not tied to the jury", Holds: yes("tied", false),
			Says: "Nobody who works with, or is family of, somebody on the jury.",
			Yes:  "You are not tied to the jury.",
			No:   "Whoever works with, or is family of, somebody on the jury cannot enter.",
			Look: "Somebody at the office will look at who you know."}},
		Sections: []form.Section{
			{Key: "entrant", Label: "Who enters", Help: "The jury sees nothing of this section.", Questions: []form.Question{
				with(ask("stream", form.StreamPick, form.Chosen, "Category"), func(q *form.Question) { q.Seen = form.ToOffice }),
				with(ask("members", form.Rows, form.Fact, "Everybody who drew it"), func(q *form.Question) {
					q.Seen, q.Purpose, q.Limits = form.ToOffice, form.ForReports, limit(form.Limits{RowsLeast: 1, RowsMost: 6})
					q.Columns = []form.Question{ask("legal", form.Short, form.Fact, "Name"),
						with(ask("credit", form.Short, form.Fact, "As it should be printed"),
							func(q *form.Question) { q.Blank = form.MeansNo })}
				}),
				with(ask("school", form.Short, form.Fact, "School or college"), func(q *form.Question) {
					q.Asked, q.Seen, q.Purpose = when("stream", condition.Is, "students"), form.ToOffice, form.ForReports
				}),
				with(ask("tied", form.YesNo, form.Fact,
					"Does anybody who drew it work with, or belong to the family of, a juror?"),
					func(q *form.Question) { q.Seen = form.ToOffice }),
			}},
			{Key: "the-design", Label: "The design", Questions: []form.Question{
				with(ask("idea", form.Long, form.Chosen, "The idea"), func(q *form.Question) { q.Limits = words(200) }),
				with(ask("cost", form.Money, form.Chosen, "What would it cost to build?"),
					func(q *form.Question) { q.Sure = form.Estimated }),
				with(ask("boards", form.File, form.Chosen, "Boards"), func(q *form.Question) {
					q.Limits = limit(form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{slot.PDF}, SizeMost: 7 << 20, FilesLeast: 1,
						FilesMost: 2, PagesMost: 2, Ticks: []string{"No name stands on the boards or in the files’ own properties."}}})
				}),
				with(ask("picture", form.File, form.Chosen, "One picture for the catalogue"), func(q *form.Question) {
					q.Seen, q.Limits = form.ToPublic, limit(form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{slot.Picture},
						SizeMost: 25 << 20, WidthLeast: 1200, HeightLeast: 900, DPILeast: 150}})
				}),
				with(ask("film", form.File, form.Chosen, "A film of the model"), func(q *form.Question) {
					q.Blank, q.Limits = form.MeansUnknown, limit(form.Limits{Slot: &slot.Limits{Wish: slot.BetterNot,
						Kinds: []slot.Kind{slot.Film}, SizeMost: 200 << 20, SecondsMost: 90}})
				}),
			}},
			{Key: "fee-section", Label: "Fee", Questions: []form.Question{with(ask("fees", form.Fees, form.Chosen, "Your fee"),
				func(q *form.Question) { q.Seen = form.ToOffice })}},
			declarations(),
		},
		Criteria: criteria("beauty", "Beauty", "sense", "Sense on the site", "buildable", "Can it be built"),
		Overall:  []string{"not to be built", "perhaps", "to be built"},
		Letters:  grantLetters(),
	}
	s.Apply(d)
	return d
}
