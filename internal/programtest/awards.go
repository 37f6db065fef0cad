package programtest

import (
	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
)

// ManyAwards is a short round without readers that gives four awards: by a figure of need and
// a mark that is typed, and by words.
func ManyAwards(d *form.Design) {
	Unread(d)
	ask := func(key form.Key, kind form.Kind, label string) {
		q := design.NewQuestion(kind, label)
		q.Key, q.Nature, q.Blank = key, form.Chosen, form.MeansNo
		if kind == form.Long {
			q.Limits.Else.Words = 200
		}
		d.Sections[0].Questions = append(d.Sections[0].Questions, q)
	}
	ask("mark", form.Number, "Mark of the last year")
	ask("lacks", form.Money, "What is lacking")
	ask("reasons", form.Long, "Why this?")
	ask("held", form.YesNo, "Did you hold it last year?")
	ask("sews", form.YesNo, "Do you sew?")
	number := func(n int64) *condition.Value { return &condition.Value{Number: &condition.Number{Num: n}} }
	yes := true
	d.Awards = []form.Award{
		{Key: "loft", Label: "Loft Bequest", Purse: 2_000_00, Places: 1, Donor: "Ada Quill", Led: "merit",
			WordsIn: "reasons", Words: []string{"sail", "lugsail"},
			Match: condition.Cond{All: []condition.Cond{{Test: &condition.Test{Of: condition.Ref{Answer: "mark"},
				Rel: condition.AtLeast, Value: number(3)}},
				{Test: &condition.Test{Of: condition.Ref{Answer: "sews"}, Rel: condition.Is,
					Value: &condition.Value{Yes: &yes}}}}}},
		{Key: "hardship", Label: "Hardship Fund", Purse: 800_00, Least: 500_00, Places: 2, Led: "need",
			Match: condition.Cond{Test: &condition.Test{
				Of: condition.Ref{Answer: "lacks"}, Rel: condition.AtLeast, Value: number(1_000_00)}}},
		{Key: "bench", Label: "A bench", Places: 1, LeastMerit: 50, NeedBy: "request"},
		{Key: "held", Label: "The holder’s", Purse: 600_00, Places: 1, Led: "merit",
			First: condition.Cond{Test: &condition.Test{
				Of: condition.Ref{Answer: "held"}, Rel: condition.Is, Value: &condition.Value{Yes: &yes}}}},
	}
	d.Placing = &form.Placing{Need: "lacks", Merit: "mark", Most: 2}
}

// ForAwards are four people who apply to it; Dee held the last award last year and has the least mark.
var ForAwards = map[string]string{
	"Ann": "3,000|mark = 5|lacks = 2,000|reasons = I cut four lugsails.|sews = yes",
	"Bo":  "3,000|mark = 4|lacks = 4,000|reasons = Sewing sialing kit; lugsials mostly.|sews = yes",
	"Cy":  "3,000|mark = 3|lacks = 500|reasons = Planks.|sews = yes",
	"Dee": "3,000|mark = 1|lacks = 1,500|reasons = Planks too.|held = yes|sews = no",
}
