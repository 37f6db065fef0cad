package pattern

import (
	"ulvant/core/condition"
	"ulvant/core/form"
)

// Blank patterns are the bones of a kind of round: who asks, what for, one rule,
// a declaration, the dates, the letters and criteria to rename. They carry no
// text of any programme.

// blank is what every one of them has.
func blank(s Settings, kind string, more ...form.Section) *form.Design {
	office := func(q *form.Question) { q.Seen = form.ToOffice }
	d := &form.Design{Schema: form.Schema, Kind: kind, Calendar: dates(), Stages: steps("Writing", "Reading"),
		Rules: []form.Rule{{Key: "not-tied", Label: "Not tied to the funder", Holds: yes("tied", false),
			Says: "Nobody who works for the funder or decides for it, or is close to those who do.",
			Yes:  "You are not tied to the funder.",
			No:   "Whoever works for the funder or decides for it, and whoever is close to them, cannot apply.",
			Look: "Somebody at the office will look at the tie."}},
		Sections: append(append([]form.Section{{Key: "who", Label: "Who applies", Questions: []form.Question{
			with(ask("tied", form.YesNo, form.Fact,
				"Do you, or does somebody close to you, work for the funder or decide for it?"), office),
		}}}, more...), declarations()),
		Criteria: criteria("worth", "What it is worth", "sound", "How sound it is"), Letters: blankLetters(), Password: true}
	s.Apply(d)
	return d
}

// what is the section in which somebody says what it is about.
func what(label string) form.Section {
	return form.Section{Key: "what", Label: label, Questions: []form.Question{
		with(ask("describe", form.Long, form.Chosen, "What do you want to do?"),
			func(q *form.Question) { q.Limits = limit(form.Limits{Words: 500}) }),
	}}
}

// sum is the section in which somebody asks for money.
func sum(s Settings) form.Section {
	return form.Section{Key: "money", Label: "Money", Questions: []form.Question{
		with(ask("request", form.Money, form.Chosen, "How much do you ask from us?"),
			func(q *form.Question) { q.Limits = limit(form.Limits{Least: &s.Least, Most: &s.Most}) }),
	}}
}

// BlankGrant, BlankScholarship, BlankFellowship and BlankCompetition are the
// blank patterns.
func BlankGrant(s Settings) *form.Design {
	d := blank(s, "grant", what("What for"), sum(s))
	d.Request = "request"
	return d
}

// BlankScholarship asks for nothing in money: awards have their purses.
func BlankScholarship(s Settings) *form.Design {
	d := blank(s, "scholarship", what("What you learn"))
	d.Awards = []form.Award{{Key: "award", Label: "Award", Purse: s.Most, Places: 1, Public: true,
		Match: condition.Cond{}}}
	return d
}

// BlankFellowship is for a person with a plan, and somebody who vouches.
func BlankFellowship(s Settings) *form.Design {
	d := blank(s, "fellowship", what("Your plan"), sum(s),
		form.Section{Key: "references", Label: "References", Questions: []form.Question{
			with(ask("referee", form.Referee, form.Chosen, "Somebody who knows your work"),
				func(q *form.Question) { q.Limits = limit(form.Limits{Referees: 1}) }),
		}})
	d.Request = "request"
	return d
}

// BlankCompetition is for entries that are judged without names.
func BlankCompetition(s Settings) *form.Design {
	d := blank(s, "competition", what("Your entry"), form.Section{Key: "files", Label: "Files", Questions: []form.Question{
		with(ask("entry", form.File, form.Chosen, "Your entry as a PDF"), func(q *form.Question) { q.Limits = pdf(10) }),
	}})
	d.HideNames, d.ReaderWord = true, "juror"
	d.Awards = []form.Award{{Key: "first-prize", Label: "First prize", Purse: s.Most, Places: 1, Public: true}}
	return d
}

func blankLetters() []form.Letter {
	return []form.Letter{
		{Key: "received", Subject: "{{ref}}: your application is in",
			Body: "Dear {{name}},\n\n“{{title}}” reached us for {{round}}. Its number is {{ref}}. A copy is attached; keep it.\n\nNothing in it can be changed now. You will have an answer by {{answer-on}}.\n\n{{office}}"},
		{Key: "not-eligible", Subject: "{{ref}}: we cannot take your application further",
			Body: "Dear {{name}},\n\nWe worked through the rules of {{round}} for “{{title}}” and cannot take it further, because:\n\n{{reasons}}\n\nIf we have misunderstood something, answer this mail.\n\n{{office}}"},
		{Key: "invited", Subject: "{{ref}}: we invite you to the next stage",
			Body: "Dear {{name}},\n\n“{{title}}” goes on in {{round}}: we invite you to {{stage}}. You will find it under “My applications”. It closes on {{closes}}.\n\n{{office}}"},
		{Key: "awarded", Subject: "{{ref}}: “{{title}}” is awarded",
			Body: "Dear {{name}},\n\n“{{title}}” is awarded {{amount}} in {{round}}. We will write again about what comes next.\n\n{{office}}"},
		{Key: "reserve", Subject: "{{ref}}: “{{title}}” is on the reserve list",
			Body: "Dear {{name}},\n\n“{{title}}” waits in reserve in {{round}}, at place {{place}} of the order. We will tell you either way as soon as we know.\n\n{{office}}"},
		{Key: "not-awarded", Subject: "{{ref}}: the answer on “{{title}}”",
			Body: "Dear {{name}},\n\n“{{title}}” is not awarded in {{round}}.\n\nIf you would like to talk about it, answer this mail.\n\n{{office}}"},
	}
}
