package pattern

import (
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Fellowships is the pattern for a person with a plan: the field of study
// decides which materials are asked and how long the statement may be.
func Fellowships(s Settings) *form.Design {
	field := func(k string) condition.Cond { return when("field", condition.Is, k) }
	d := &form.Design{Schema: form.Schema, Kind: "fellowship", Password: true, Request: "request",
		Listed:   form.Listing{Question: "field", Heading: "Field"},
		Gives:    "A year to follow one question, with money to live on and somewhere to work.",
		Calendar: dates(), Stages: steps("Applications", "Readers"),
		Gifts: []form.Gift{{Key: "desk", Label: "A desk for a year", What: "place"}},
		Lists: []form.List{{Key: "keyword-list", Label: "Keywords",
			Items: []form.Item{{Code: "sound", Label: "Sound"}, {Code: "light", Label: "Light"},
				{Code: "migration", Label: "Migration"}, {Code: "feeding", Label: "Feeding"}}}},
		Rules: []form.Rule{{Key: "free", Label: "Free for the year", Holds: yes("free-year", true),
			Says: "A fellow gives the whole year to the fellowship.",
			Yes:  "You are free for the year.", No: "A fellow gives the whole year to it. Apply for a year in which you can.",
			Look: "Somebody at the office will talk with you about the year."}},
		Sections: []form.Section{
			{Key: "you", Label: "You", Questions: []form.Question{
				ask("names", form.Names, form.Fact, "Your names"),
				with(ask("orcid", form.Identifier, form.Fact, "ORCID iD"),
					func(q *form.Question) { q.Scheme, q.Blank, q.Seen = "orcid", form.MeansUnknown, form.ToOffice }),
				ask("free-year", form.YesNo, form.Fact, "Are you free for the whole year?"),
				with(ask("work-so-far", form.Rows, form.Fact, "Work so far"), func(q *form.Question) {
					q.Limits = limit(form.Limits{RowsMost: 10})
					q.Blank = form.MeansUnknown
					q.Columns = []form.Question{ask("title", form.Short, form.Fact, "Title"),
						ask("year", form.Number, form.Fact, "Year"), with(ask("where", form.Link, form.Fact, "Where it can be found"),
							func(q *form.Question) { q.Blank = form.MeansUnknown })}
				}),
			}},
			{Key: "plan", Label: "The plan", Questions: []form.Question{
				with(ask("field", form.Choice, form.Chosen, "Field of study"),
					func(q *form.Question) { q.Options = options("bats", "Bats", "moths", "Moths", "owls", "Owls") }),
				with(ask("keywords", form.Keywords, form.Chosen, "Keywords"), func(q *form.Question) {
					q.List, q.Proposals, q.Limits = "keyword-list", true, limit(form.Limits{PickLeast: 2, PickMost: 4})
				}),
				with(ask("statement", form.Long, form.Chosen, "What do you want to find out, and how?"), func(q *form.Question) {
					q.Limits = form.Cases[form.Limits]{When: []form.Case[form.Limits]{{If: field("bats"),
						Then: form.Limits{Words: 900}}}, Else: form.Limits{Words: 600}}
				}),
				with(ask("request", form.Money, form.Chosen, "How much do you ask for the year?"), func(q *form.Question) {
					q.Limits = limit(form.Limits{Least: &s.Least, Most: &s.Most})
				}),
			}},
			{Key: "materials", Label: "Materials", Questions: []form.Question{
				with(ask("notes", form.File, form.Fact, "Field notes"), func(q *form.Question) { q.Limits = pdf(20) }),
				with(ask("recordings", form.File, form.Fact, "Recordings"), func(q *form.Question) {
					q.Asked = field("bats")
					q.Limits = limit(form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{slot.Sound, slot.Film}, ExcerptMost: 180,
						SizeMost:   300 << 20,
						FilesLeast: 1, FilesMost: 3, Details: []string{"where and when it was recorded"}}})
				}),
				with(ask("plates", form.File, form.Fact, "Plates"), func(q *form.Question) {
					q.Asked = field("moths")
					q.Limits = limit(form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{slot.Picture}, SizeMost: 25 << 20, FilesMost: 6,
						WidthLeast: 1200, HeightLeast: 800}})
				}),
				with(ask("best-page", form.PageRef, form.Chosen, "Which page of your notes should readers open first?"),
					func(q *form.Question) { q.Slot, q.Blank = "notes", form.MeansUnknown }),
			}},
			{Key: "references", Label: "References", Questions: []form.Question{
				with(ask("scientist", form.Referee, form.Chosen, "Somebody who works in the field"), func(q *form.Question) {
					q.Limits = limit(form.Limits{Referees: 1})
					q.Ask = &form.Ask{Who: "somebody in the field",
						Wants: "Is the method sound, and can one person do it in a year?", LetterMonths: 12, YearsLeast: 2,
						Use:   "Those who judge read it beside the plan.",
						After: "You hear that it is in. Whoever asked you tells you how it ended."}
				}),
				with(ask("host", form.Signatory, form.Chosen, "Whoever lets you work on their land"), func(q *form.Question) {
					q.Limits = limit(form.Limits{Referees: 1})
					q.Ask = &form.Ask{Who: "the landowner",
						Wants: "The applicant may work on my land at night for the year of the fellowship.", Paper: true,
						Use: "The office keeps it with the application and shows it to whoever asks by what leave somebody is there at night."}
				}),
			}},
			declarations(),
		},
		Criteria: criteria("question", "The question", "method", "The method", "person", "The person"),
		Letters:  grantLetters(),
	}
	s.Apply(d)
	return d
}
