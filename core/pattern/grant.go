// Package pattern holds the reusable starting points of a round. A pattern is
// an ordinary design, filled with what the officer sets on the page; nothing
// in the program knows patterns apart from this package.
package pattern

import (
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// Settings are the fields of a grant round that the officer sets on the page.
// Sums are minor units; times are local to Zone.
type Settings struct {
	Key          form.Key
	Name         string
	Programme    string
	Prefix       string
	About        string
	Contact      string
	Zone         string
	Currency     string
	Fund         int64
	Least, Most  int64 // what one application may ask
	MatchPercent int64
	ReadersEach  int
	HoldMinutes  int
	Opens        calendar.Wall
	Closes       calendar.Wall
	ChecksBy     calendar.Wall
	ReadingEnds  calendar.Wall
	AnswerOn     calendar.Wall
	WorkFrom     calendar.Date
}

// Of reads the settings back from a design made by Grants; settings that a
// changed design no longer has are zero.
func Of(d *form.Design) Settings {
	at := func(k form.Key) calendar.Wall { m, _ := d.Moment(k); return m.At }
	s := Settings{Key: d.Key, Name: d.Name, Programme: d.Programme, Prefix: d.Prefix, About: d.About, Contact: d.Contact,
		Zone: d.Zone, Currency: d.Currency, Fund: d.Fund, ReadersEach: d.ReadersEach, HoldMinutes: d.HoldMinutes,
		Opens: at(form.Opens), Closes: at(form.Closes), ChecksBy: at(form.ChecksBy), ReadingEnds: at(form.ReadingEnd),
		AnswerOn: at(form.AnswerOn), WorkFrom: at(form.WorkFrom).Date}
	each(d, func(q *form.Question) {
		l := q.Limits.Else
		if q.Key == d.Request && l.Least != nil && l.Most != nil {
			s.Least, s.Most = *l.Least, *l.Most
		}
		if q.Kind == form.Budget {
			s.MatchPercent = l.MatchPercent
		}
	})
	return s
}

// Apply sets them on a design, whatever pattern it came from.
func (s Settings) Apply(d *form.Design) {
	d.Key, d.Name, d.Programme, d.Prefix, d.About, d.Contact = s.Key, s.Name, s.Programme, s.Prefix, s.About, s.Contact
	d.Zone, d.Currency, d.Fund, d.ReadersEach, d.HoldMinutes = s.Zone, s.Currency, s.Fund, s.ReadersEach, s.HoldMinutes
	set := map[form.Key]calendar.Wall{form.Opens: s.Opens, form.Closes: s.Closes, form.ChecksBy: s.ChecksBy,
		form.ReadingEnd: s.ReadingEnds, form.AnswerOn: s.AnswerOn, form.WorkFrom: {Date: s.WorkFrom}}
	for i := range d.Calendar {
		if w, ok := set[d.Calendar[i].Key]; ok {
			d.Calendar[i].At = w
		}
	}
	each(d, func(q *form.Question) {
		if q.Key == d.Request && q.Limits.Else.Least != nil {
			q.Limits.Else.Least, q.Limits.Else.Most = &s.Least, &s.Most
		}
		if q.Kind == form.Budget {
			q.Limits.Else.MatchPercent = s.MatchPercent
		}
	})
}

func each(d *form.Design, visit func(*form.Question)) {
	for i := range d.Sections {
		for j := range d.Sections[i].Questions {
			visit(&d.Sections[i].Questions[j])
		}
	}
}

func when(answer form.Key, rel condition.Rel, values ...string) condition.Cond {
	v := condition.Value{}
	if rel == condition.In || rel == condition.NotIn {
		v.List = values
	} else {
		v.Text = values[0]
	}
	return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: answer}, Rel: rel, Value: &v}}
}

func yes(answer form.Key, is bool) condition.Cond {
	return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: answer}, Rel: condition.Is,
		Value: &condition.Value{Yes: &is}}}
}

func words(n int) form.Cases[form.Limits] {
	return form.Cases[form.Limits]{Else: form.Limits{Words: n}}
}

// Grants is the pattern for repair and building grants with match funding.
func Grants(s Settings) *form.Design {
	d := &form.Design{
		Schema: form.Schema, Kind: "grant", Password: true, Request: "request", Field: "repair-kind",
		Listed: form.Listing{Question: "district",
			Heading: "District"},
		Gives:    "Money towards repair work on the ground, with a share of the cost paid by others.",
		Calendar: append(dates(), form.Moment{Key: form.WorkFrom, Label: "the first day of paid work"}),
		Stages:   steps("Applications", "Reading"),
		Figures: []form.Figure{
			{Key: "whole-cost", Label: "the whole cost", Op: "sum",
				Of: []condition.Ref{{Answer: "budget", Column: form.ColCost}}},
			{Key: "our-share", Label: "our share of the cost", Op: "share",
				Of: []condition.Ref{{Answer: "budget", Column: form.ColUs}, {Answer: "budget", Column: form.ColCost}}},
		},
		Rules:    grantRules(),
		Sections: grantSections(s),
		Ready: []string{"The name and mail address of somebody who knows the site and can vouch for you; tell them " +
			"before you ask."},
		Criteria: []form.Criterion{
			{Key: "gain", Label: "Gain for the ground", Weight: 40,
				Steps: []string{"no gain shown", "a gain is hoped for", "some gain, not measured",
					"a clear gain, measured loosely", "a clear gain, measured, with a baseline", "a large gain, measured, with a " +
						"baseline"}},
			{Key: "lasting", Label: "Will it last", Weight: 30,
				Steps: []string{"nobody looks after it", "care is hoped for", "care is named but not agreed",
					"care is agreed for a few years", "care is agreed and named", "care is agreed, named and paid for"}},
			{Key: "value", Label: "Value for the money", Weight: 30,
				Steps: []string{"costs cannot be followed", "costs are high without a reason", "costs are high, with a reason",
					"costs are usual for work like this", "costs are low for work like this", "costs are low and others pay much"}},
		},
		Letters: grantLetters(),
	}
	s.Apply(d)
	return d
}

func grantRules() []form.Rule {
	return []form.Rule{
		{Key: "who", Label: "Kind of applicant", Holds: condition.Cond{Any: []condition.Cond{
			when("applicant-kind", condition.In, "registered", "common", "school"), yes("has-sponsor", true)}},
			Says: "Registered bodies, commons and schools; others with a registered body that holds the money for them.",
			Yes:  "Bodies like yours may apply.",
			No:   "A group that is not registered, or one person, needs a registered body to hold the money for it. Find one, and answer yes there.",
			Look: "Somebody at the office will look at who is applying."},
		{Key: "where", Label: "Where the work is", Holds: when("district", condition.IsNot, "elsewhere"),
			Says: "The site lies in one of the five districts of the Ostrel Isles.",
			Yes:  "The site lies in one of the five districts.",
			No:   "The Trust can only pay for work inside the five districts of the Ostrel Isles.",
			Look: "Somebody at the office will look at where the site lies."},
		{Key: "land", Label: "Leave to work there", Holds: yes("land-leave", true),
			Says: "There is leave, from whoever owns the land, to work on it.",
			Yes:  "You have leave to work on the land.",
			No:   "Get leave from whoever owns the land before you apply; a letter or a mail is enough.",
			Look: "You do not know yet whether you have leave. Somebody at the office will look at it with you."},
		{Key: "once", Label: "Not paid for twice", Holds: yes("paid-elsewhere", false),
			Says: "Nobody else has agreed to pay for the same work in full.",
			Yes:  "Nobody else has agreed to pay for the same work.",
			No:   "The Trust cannot pay for work that somebody else has agreed to pay for in full.",
			Look: "Somebody at the office will look at who else pays."},
	}
}

func grantSections(s Settings) []form.Section {
	const (
		fact, chosen = form.Fact, form.Chosen
		must, blank  = form.Required, form.MeansUnknown
		readers      = form.ToReaders
	)
	byWater := when("site-access", condition.Is, "water")
	peat := when("repair-kind", condition.Is, "peat")
	scaleMost := int64(1200)
	zero := int64(0)
	return []form.Section{
		{Key: "who", Label: "Who is applying",
			Help: "Who you are and where post reaches you. Readers see the name of the body, not your address.",
			Questions: []form.Question{
				{Key: "applicant-kind", Kind: form.Choice, Label: "Who is applying?", Nature: fact, Blank: must, Seen: readers,
					Options: []form.Option{
						{Key: "registered", Label: "A registered body"}, {Key: "common", Label: "A crofters’ common"}, {Key: "school",
							Label: "A school or college"},
						{Key: "group", Label: "A group that is not registered"}, {Key: "person", Label: "One person"}}},
				{Key: "body-name", Kind: form.Short, Label: "Its full name",
					Help: "As it signs its letters; your own name if you apply alone.", Nature: fact, Blank: must, Seen: readers,
					Profile: form.ProfileName,
					Limits:  form.Cases[form.Limits]{Else: form.Limits{Characters: 160}}},
				{Key: "registered-number", Kind: form.Short, Label: "Its registered number", Nature: fact, Blank: must,
					Seen: form.ToOffice, Purpose: form.ForReports,
					Asked: when("applicant-kind", condition.Is,
						"registered"), Example: "R 20417", Profile: form.ProfileNumber,
					Limits: form.Cases[form.Limits]{Else: form.Limits{Characters: 40}}},
				{Key: "has-sponsor", Kind: form.YesNo, Label: "Has a registered body agreed to hold the money for you?",
					Nature: fact, Blank: must, Seen: readers,
					Asked: when("applicant-kind", condition.In, "group",
						"person"), Help: "It receives the grant, pays the bills and answers for it.", Profile: form.ProfileHolder},
				{Key: "sponsor-name", Kind: form.Short, Label: "Name of the body that holds the money", Nature: fact, Blank: must,
					Seen: readers, Asked: yes("has-sponsor", true), Profile: form.ProfileHolder},
				{Key: "post-address", Kind: form.Address, Label: "Where post reaches you",
					Help: "A street address; a box number cannot be visited.", Nature: fact, Blank: must, Seen: form.ToOffice,
					Profile: form.ProfilePost},
			}},
		{Key: "place", Label: "The place", Help: "Where the work happens.", Questions: []form.Question{
			{Key: "district", Kind: form.Choice, Label: "Which district is the site in?", Nature: fact, Blank: must,
				Seen: readers, Options: []form.Option{
					{Key: "hallin", Label: "Hallin"}, {Key: "corvoe", Label: "Corvoe"}, {Key: "brae-ness",
						Label: "Brae Ness"}, {Key: "tarl", Label: "Tarl"},
					{Key: "sunder-bay", Label: "Sunder Bay"}, {Key: "elsewhere", Label: "Somewhere else"}}},
			{Key: "site", Kind: form.Short, Label: "Name of the site", Help: "As local people call it.", Nature: chosen,
				Blank: must, Seen: readers, Limits: words(20)},
			{Key: "land-leave", Kind: form.YesNo, Label: "Do you own the land, or have leave to work on it?", Nature: fact,
				Blank: must, NonAnswers: []form.NonAnswer{form.NotKnown}, Seen: readers,
				Help: "Say “not known” if nobody is sure who owns it; we will look at it with you."},
			{Key: "site-access", Kind: form.Choice, Label: "How is the site reached?",
				Help: "By water asks a few things about boats.", Nature: fact, Blank: must, Seen: readers, Options: []form.Option{
					{Key: "road", Label: "By road or on foot"}, {Key: "water", Label: "By water"}}},
		}},
		{Key: "work", Label: "The work", Help: "What you will do, where and when. Readers read this section first.",
			Questions: []form.Question{
				{Key: "repair-kind", Kind: form.Choice, Label: "What kind of repair is it?",
					Help: "Your choice decides what is asked about the ground, and how long your description may be.", Nature: chosen,
					Blank: must, Seen: readers,
					Options: []form.Option{{Key: "shore", Label: "Shore"}, {Key: "peat", Label: "Peat"},
						{Key: "grassland", Label: "Grassland"}}},
				{Key: "area", Kind: form.Number, Label: "How much ground is repaired?", Unit: "ha", Scale: 1, Nature: chosen,
					Blank: must, Seen: readers,
					Limits: form.Cases[form.Limits]{Else: form.Limits{Least: &zero}}},
				{Key: "peat-depth", Kind: form.Number, Label: "How deep is the peat, on average?", Unit: "cm", Nature: fact,
					Blank: must, Seen: readers, NonAnswers: []form.NonAnswer{form.NotKnown}, Asked: peat,
					Help: "From probing at ten points or more.", Limits: form.Cases[form.Limits]{Else: form.Limits{Least: &zero,
						Most: &scaleMost}}},
				{Key: "describe", Kind: form.Long, Label: "Describe the work and how you will know it held", Nature: chosen,
					Blank: must, Seen: readers,
					Limits: form.Cases[form.Limits]{When: []form.Case[form.Limits]{{If: peat, Then: form.Limits{Words: 320}}},
						Else: form.Limits{Words: 250}}},
				{Key: "afterwards", Kind: form.Long, Label: "Who looks after it afterwards?", Nature: chosen, Blank: must,
					Seen: readers, Limits: words(150)},
				{Key: "start", Kind: form.Date, Label: "When does work on the ground start?",
					Help: "Costs before that day cannot be paid.", Nature: chosen, Blank: must, Seen: readers,
					Limits: form.Cases[form.Limits]{Else: form.Limits{NotBefore: &form.Day{Key: form.WorkFrom}}}},
				{Key: "public-words", Kind: form.Short, Label: "In one sentence, for the public list if it is funded",
					Nature: chosen, Blank: blank, Seen: form.ToPublic, Limits: words(40)},
			}},
		{Key: "boats", Label: "Boats and access", Help: "Only for sites that are reached by water.", Asked: byWater,
			Questions: []form.Question{
				{Key: "landing", Kind: form.Short, Label: "Where do you land?", Nature: fact, Blank: must, Seen: readers,
					Limits: words(30)},
				{Key: "boat-insured", Kind: form.YesNo, Label: "Is the boat insured for carrying people and materials?",
					Nature: fact, Blank: must, Seen: form.ToOffice, Purpose: form.ForReports},
			}},
		{Key: "budget-section", Label: "Budget", Help: "What it costs, how much you ask from us, and who pays the rest.",
			Questions: []form.Question{
				{Key: "request", Kind: form.Money, Label: "How much do you ask from us?", Nature: chosen, Blank: must,
					Seen:   readers,
					Limits: form.Cases[form.Limits]{Else: form.Limits{Least: &s.Least, Most: &s.Most}}},
				{Key: "paid-elsewhere", Kind: form.YesNo, Label: "Has anyone else agreed to pay for all of this work?",
					Nature: fact, Blank: must, Seen: readers,
					Help: "A part paid by others is welcome; say so in the table."},
				{Key: "budget", Kind: form.Budget, Label: "Costs, line by line", Nature: chosen, Blank: must, Seen: readers,
					Request: "request",
					Limits:  form.Cases[form.Limits]{Else: form.Limits{MatchPercent: s.MatchPercent}}},
			}},
		{Key: "materials", Label: "Materials", Help: "Files are opened here to see that they can be read.",
			Questions: []form.Question{
				{Key: "site-plan", Kind: form.File, Label: "Site plan", Help: "A map or drawing that shows where the work happens.",
					Nature: chosen, Blank: must, Seen: readers,
					Limits: form.Cases[form.Limits]{Else: form.Limits{Slot: &slot.Limits{SizeMost: 6 << 20, PagesMost: 10}}}},
			}},
		{Key: "references", Label: "References",
			Help: "Somebody who knows the site and your work. They get a mail from us with a link of their own.",
			Questions: []form.Question{
				{Key: "site-referee", Kind: form.Referee, Label: "One referee", Nature: chosen, Blank: must, Seen: readers,
					Limits: form.Cases[form.Limits]{Else: form.Limits{Referees: 1}}},
			}},
		{Key: "declarations", Label: "Declarations", Help: "Read them one by one.", Questions: []form.Question{
			{Key: "true", Kind: form.Declaration, Label: "What is written here is true and complete as far as I know.",
				Nature: chosen, Blank: must, Seen: form.ToOffice},
			{Key: "may-visit", Kind: form.Declaration,
				Label: "The Trust may visit the site before it decides and while the work goes on.", Nature: chosen, Blank: must,
				Seen: form.ToOffice},
			{Key: "signed", Kind: form.Signature, Label: "Type your name as it stands on file", Nature: chosen, Blank: must,
				Seen: form.ToOffice},
		}},
	}
}

func grantLetters() []form.Letter {
	return []form.Letter{
		{Key: "received", Subject: "{{ref}}: your application is in",
			Body: "Dear {{name}},\n\n“{{title}}” reached us for {{round}}. Its number is {{ref}}. A copy is attached; keep it.\n\nNothing in it can be changed now. We check it next, then readers mark it. You will have an answer by {{answer-on}}.\n\n{{office}}"},
		{Key: "not-eligible", Subject: "{{ref}}: we cannot take your application further",
			Body: "Dear {{name}},\n\nWe worked through the rules of {{round}} for “{{title}}” and cannot take it further, because:\n\n{{reasons}}\n\nIf we have misunderstood something, answer this mail.\n\n{{office}}"},
		{Key: "invited", Subject: "{{ref}}: we invite you to the next stage",
			Body: "Dear {{name}},\n\n“{{title}}” goes on in {{round}}: we invite you to {{stage}}. You will find it under “My applications”, with what you have written so far. It closes on {{closes}}.\n\n{{office}}"},
		{Key: "awarded", Subject: "{{ref}}: the Trust will fund “{{title}}”",
			Body: "Dear {{name}},\n\nThe panel has awarded {{amount}} to “{{title}}” in {{round}}. You asked for {{asked}}.\n\nWe will write again with the agreement. Please do not begin the work before it is signed.\n\n{{office}}"},
		{Key: "reserve", Subject: "{{ref}}: “{{title}}” is on the reserve list",
			Body: "Dear {{name}},\n\nThe panel would fund “{{title}}” if money frees in {{round}}. It stands at place {{place}} of the order. We will tell you either way as soon as we know.\n\n{{office}}"},
		{Key: "not-awarded", Subject: "{{ref}}: the answer on “{{title}}”",
			Body: "Dear {{name}},\n\nThe panel read “{{title}}” with care and will not fund it in {{round}}. There was more good work than money.\n\n{{reasons}}\n\nIf you would like to talk about it, answer this mail.\n\n{{office}}"},
	}
}
