package pattern

import (
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Scholarships is the pattern for one form that is read against many awards.
func Scholarships(s Settings) *form.Design {
	d := &form.Design{Schema: form.Schema, Kind: "scholarship", Password: true, Request: "request",
		Listed:   form.Listing{Question: "home-district", Heading: "District"},
		Gives:    "Money for a year of learning, from one or more awards.",
		Calendar: dates(), Stages: steps("Applications", "Reading"),
		Awards: []form.Award{{Key: "general", Label: "General award", Purse: s.Most, Places: 4, Led: "merit", Public: true}},
		Tables: []form.Table{{Key: "grade-steps", Label: "Grade steps",
			Columns: []form.Column{{Key: "step", Label: "step", Numbers: true}},
			Rows: []form.Row{{Key: "pass", Label: "Pass", Cells: []string{"2"}},
				{Key: "good", Label: "Good", Cells: []string{"3"}}, {Key: "high", Label: "High", Cells: []string{"4"}}}}},
		Figures: []form.Figure{{Key: "age-at-start", Label: "age on the day of the answer", Op: form.AgeOn,
			Of: []condition.Ref{{Answer: "born"}, {Date: form.AnswerOn}}},
			{Key: "need", Label: "need", Op: form.Difference, Of: []condition.Ref{{Answer: "costs"}, {Answer: "means"}}}},
		Rules: []form.Rule{{Key: "age", Label: "Age",
			Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Figure: "age-at-start"}, Rel: condition.AtLeast,
				Value: &condition.Value{Number: &condition.Number{Num: 16}}}},
			Says: "Those who are 16 or older on the day of the answer.",
			Yes:  "You are old enough.", No: "You must be 16 on the day of the answer. Apply next year.",
			Look: "Somebody at the office will look at your age."}},
		Sections: []form.Section{
			{Key: "you", Label: "You", Questions: []form.Question{
				ask("names", form.Names, form.Fact, "Your names"),
				with(ask("born", form.Date, form.Fact, "Date of birth"),
					func(q *form.Question) { q.Seen, q.Profile = form.ToOffice, form.ProfileBorn }),
				with(ask("phone", form.Phone, form.Fact, "Phone"),
					func(q *form.Question) { q.Seen, q.Region, q.Profile = form.ToOffice, "IE", form.ProfilePhone }),
				with(ask("home-district", form.Choice, form.Fact, "Which district is your home in?"), func(q *form.Question) {
					q.Options = options("hallin", "Hallin", "corvoe", "Corvoe", "brae-ness", "Brae Ness", "tarl", "Tarl",
						"sunder-bay", "Sunder Bay")
				}),
				with(ask("guardian", form.Contact, form.Fact, "Parent or guardian"), func(q *form.Question) {
					q.Asked = condition.Cond{Test: &condition.Test{Of: condition.Ref{Figure: "age-at-start"}, Rel: condition.Less,
						Value: &condition.Value{Number: &condition.Number{Num: 18}}}}
					q.Seen, q.Help = form.ToOffice, "Because you are under 18 on the day of the answer."
				}),
			}},
			{Key: "learning", Label: "What you have learnt", Questions: []form.Question{
				with(ask("schools", form.Rows, form.Fact, "Schools, courses and jobs so far"), func(q *form.Question) {
					q.Limits = limit(form.Limits{RowsLeast: 1, RowsMost: 8})
					q.Columns = []form.Question{ask("where", form.Short, form.Fact, "Where"),
						ask("what", form.Short, form.Fact, "What"), ask("until", form.Number, form.Fact, "Until the year")}
				}),
				with(ask("grade", form.Grade, form.Fact, "Mean grade of the last year"), func(q *form.Question) {
					q.Table, q.Rounding, q.Example, q.NonAnswers = "grade-steps", form.Nearest, "3.5", []form.NonAnswer{form.ToFollow,
						form.NotApply}
					q.FollowBy = &form.Day{Key: form.ChecksBy}
				}),
				with(ask("why", form.Long, form.Chosen, "Why this, and why now?"),
					func(q *form.Question) { q.Limits = words(400) }),
			}},
			{Key: "money", Label: "Costs and means", Questions: []form.Question{
				with(ask("costs", form.Money, form.Fact, "What will the year cost?"),
					func(q *form.Question) { q.Sure = form.Estimated }),
				with(ask("means", form.Money, form.Fact, "What will you have for it, from all sources?"),
					func(q *form.Question) { q.Sure = form.Estimated }),
				with(ask("request", form.Money, form.Chosen, "How much do you ask from us?"), func(q *form.Question) {
					q.Limits = limit(form.Limits{Least: &s.Least, Most: &s.Most})
				}),
			}},
			{Key: "awards-section", Label: "Awards",
				Help: "Pick those you want to be considered for, or let us find every one that fits what you have answered.",
				Questions: []form.Question{
					with(ask("awards", form.AwardPick, form.Chosen, "Which awards do you apply for?"),
						func(q *form.Question) { q.Every = true }),
				}},
			{Key: "papers", Label: "Papers", Questions: []form.Question{
				with(ask("report", form.File, form.Fact, "Your last report, with its grades"), func(q *form.Question) {
					q.Limits = limit(form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{slot.PDF, slot.Picture}, SizeMost: 6 << 20,
						PagesMost: 6, Ticks: []string{"It is in English, or a certified translation stands in the same file."}}})
				}),
				with(ask("teacher", form.Referee, form.Chosen, "A teacher or master who knows your work"), func(q *form.Question) {
					q.Limits = limit(form.Limits{Referees: 1})
					q.Ask = &form.Ask{Who: "a teacher or master",
						Wants:        "What they can do, what they are like to work beside, and whether they will finish.",
						Use:          "Those who choose read it beside the application, and nobody else does.",
						LetterMonths: 6}
				}),
			}},
			declarations(),
		},
		Criteria: criteria("promise", "Promise", "reason", "Reason to learn it", "need-mark", "Need"),
		Letters:  awardLetters(),
	}
	s.Apply(d)
	return d
}

// awardLetters are the letters of a round whose awards stand in the letter one by one.
func awardLetters() []form.Letter {
	out := grantLetters()
	for i := range out {
		if out[i].Key == "awarded" {
			out[i].Subject = "{{ref}}: what you are given for “{{title}}”"
			out[i].Body = "Dear {{name}},\n\nWe are glad to tell you that in {{round}} you are given, for “{{title}}”:\n\n{{awards}}\n\n" +
				"We will write again with the agreement.\n\n{{office}}"
		}
	}
	return out
}
