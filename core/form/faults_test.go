package form_test

import (
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/core/slot"
)

// One change at a time to a whole design, and the one sentence an officer then
// reads beside it, with the path that leads there.
func TestWhatMakesADesignUnfit(t *testing.T) {
	n := func(i int64) *int64 { return &i }
	section := func(d *form.Design, k form.Key) *form.Section {
		for i := range d.Sections {
			if d.Sections[i].Key == k {
				return &d.Sections[i]
			}
		}
		t.Fatalf("no section %s", k)
		return nil
	}
	question := func(d *form.Design, k form.Key) *form.Question {
		for i := range d.Sections {
			for j := range d.Sections[i].Questions {
				if d.Sections[i].Questions[j].Key == k {
					return &d.Sections[i].Questions[j]
				}
			}
		}
		t.Fatalf("no question %s", k)
		return nil
	}
	add := func(q form.Question) func(*form.Design) {
		return func(d *form.Design) {
			q.Key, q.Label, q.Nature, q.Seen, q.Blank = "added", "Added", form.Fact, form.ToReaders, form.MeansUnknown
			s := section(d, "declarations")
			s.Questions = append(s.Questions, q)
		}
	}
	limited := func(k form.Kind, l form.Limits) func(*form.Design) {
		return add(form.Question{Kind: k, Limits: limits(l), Options: options("a", "b"),
			Columns: []form.Question{{Key: "who", Kind: form.Short, Label: "Who", Nature: form.Fact, Seen: form.ToReaders,
				Blank: form.Required}}})
	}
	figure := func(x form.Figure) func(*form.Design) {
		return func(d *form.Design) { x.Label = "worked out"; d.Figures = append(d.Figures, x) }
	}
	const added = "sections/declarations/questions/added"
	for _, c := range []struct {
		change func(*form.Design)
		path   string
		says   string
	}{
		{func(d *form.Design) { d.Schema = 2 }, "", "schema 2 is not one this program reads; it reads 1"},
		{func(d *form.Design) { d.Name = "" }, "", "the round needs a name"},
		{func(d *form.Design) { d.Prefix = "spr" }, "", "two to six capital letters"},
		{func(d *form.Design) { d.Currency = "EURO" }, "", `"EURO" is not a currency`},
		{func(d *form.Design) { d.Fund = 0 }, "", "the fund must be more than nothing"},
		{func(d *form.Design) { d.Zone = "Local" }, "", `"Local" is not a time zone`},
		{func(d *form.Design) { d.Calendar = d.Calendar[1:] }, "calendar", `the calendar lacks "opens"`},
		{func(d *form.Design) {
			d.Calendar[1].At = calendar.At(d.Calendar[0].At.Date.AddDays(-1), 9, 0)
		}, "calendar/closes", "must come after the date before it"},
		{func(d *form.Design) { d.ReadersEach = 0 }, "criteria", "each application has 1 to 20 readers"},
		{func(d *form.Design) { d.HoldMinutes = -1 }, "criteria", "a time that is not negative"},
		{func(d *form.Design) { d.Request = "site" }, "criteria", "said by a question about money"},
		{func(d *form.Design) { d.Listed.Question = "site" }, "criteria", "lists show a choice"},
		{func(d *form.Design) { d.Rules[0].No = "" }, "rules/who", "a rule needs a sentence for yes and one for no"},
		{func(d *form.Design) { d.Criteria[0].Weight++ }, "criteria", "the weights add up to 101, not 100"},
		{func(d *form.Design) { d.Criteria[0].Steps = []string{"one"} }, "criteria/gain", "a criterion describes 2 to"},
		{func(d *form.Design) { d.Letters[0].Subject = "" }, "letters/received", "a letter needs a subject and a text"},
		{func(d *form.Design) { d.Stages[0].To = "never" }, "stages/writing",
			"a stage runs from one moment of the calendar to another"},
		{func(d *form.Design) { d.Awards = []form.Award{{Key: "first", Label: "First"}} }, "awards/first",
			"an award has at least one place"},
		{func(d *form.Design) { section(d, "work").Label = "" }, "sections/work", "a section needs a label"},
		{func(d *form.Design) { section(d, "work").Stage = "third" }, "sections/work", `there is no stage "third"`},
		{func(d *form.Design) { question(d, "site").Label = "" }, "sections/place/questions/site",
			"a question needs a label"},
		{func(d *form.Design) { question(d, "site").Kind = "riddle" }, "sections/place/questions/site",
			`there is no kind of question "riddle"`},
		{func(d *form.Design) { question(d, "site").Blank = "" }, "sections/place/questions/site", "say what a blank means"},
		{func(d *form.Design) { question(d, "site").Nature = "" }, "sections/place/questions/site",
			"say whether it is a fact or a choice"},
		{func(d *form.Design) { question(d, "site").Seen = "" }, "sections/place/questions/site", "say who sees it"},
		{func(d *form.Design) { question(d, "site").NonAnswers = []form.NonAnswer{"perhaps"} },
			"sections/place/questions/site", `"perhaps" is not an answer the program knows`},
		{func(d *form.Design) { o := question(d, "district").Options; o[1].Key = o[0].Key },
			"sections/place/questions/district", "is given twice or badly named"},
		{func(d *form.Design) { question(d, "district").Options[0].Label = "" }, "sections/place/questions/district",
			"an option needs a label"},
		{func(d *form.Design) { question(d, "start").Limits.Else.NotBefore = &form.Day{Key: "harvest"} },
			"sections/work/questions/start", `the calendar has no "harvest"`},
		{limited(form.Money, form.Limits{Least: n(9), Most: n(8)}), added, "least is above most"},
		{limited(form.Long, form.Limits{Words: -1}), added, "a limit lies outside what is possible"},
		{limited(form.Long, form.Limits{Words: 20, LeastWords: 30}), added, "the least number of words is above the most"},
		{limited(form.Several, form.Limits{PickLeast: 3, PickMost: 2}), added,
			"the least that must be picked is above the most"},
		{limited(form.Rows, form.Limits{RowsLeast: 3, RowsMost: 2}), added, "the least number of rows is above the most"},
		{add(form.Question{Kind: form.Choice}), added, "give it options to choose from"},
		{add(form.Question{Kind: form.Keywords}), added, "choose the list that is picked from"},
		{add(form.Question{Kind: form.Pick}), added, "choose the table that is picked from"},
		{add(form.Question{Kind: form.Grade}), added, "choose a table with a column of numbers"},
		{add(form.Question{Kind: form.StreamPick}), added, "the round has no streams"},
		{add(form.Question{Kind: form.ApplicantIs}), added, "the round names no kinds of applicant"},
		{add(form.Question{Kind: form.AwardPick}), added, "the round has no awards"},
		{add(form.Question{Kind: form.Fees}), added, "the round charges no fees"},
		{add(form.Question{Kind: form.File}), added, "a file slot needs its limits"},
		{add(form.Question{Kind: form.File,
			Limits: form.Cases[form.Limits]{Else: form.Limits{Slot: &slot.Limits{Same: "nowhere"}}}}), added,
			"the same paper as in \"nowhere\" can only be in a slot before it"},
		{add(form.Question{Kind: form.PageRef}), added, "name the file slot before it"},
		{add(form.Question{Kind: form.Referee}), added, "say how many are asked"},
		{add(form.Question{Kind: form.Identifier}), added, "say which number it is"},
		{add(form.Question{Kind: form.Phone, Region: "Irland"}), added, "is not a country"},
		{add(form.Question{Kind: form.Address, CopyOf: "site"}), added, "copied only from an address before it"},
		{add(form.Question{Kind: form.Counts}), added, "name the groups that are counted"},
		{add(form.Question{Kind: form.Rows}), added, "give the table columns"},
		{add(form.Question{Kind: form.Years}), added, "name the years"},
		{add(form.Question{Kind: form.Budget, Request: "site"}), added, "the money question before it"},
		{add(form.Question{Kind: form.Rows, Columns: []form.Question{{Key: "plan", Kind: form.File, Label: "Plan",
			Limits: limits(form.Limits{Slot: &slot.Limits{SizeMost: 1}})}}}), added, "a column cannot be a file"},
		{add(form.Question{Kind: form.Short, Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "added"},
			Rel: condition.Is, Value: &condition.Value{Text: "x"}}}}), added, "asked later"},
		{add(form.Question{Kind: form.Short,
			Asked: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "request"}, Rel: condition.Includes,
				Value: &condition.Value{Text: "x"}}}}), added, "includes"},
		{figure(form.Figure{Key: "odd", Op: "guess", Of: []condition.Ref{{Answer: "request"}}}), "figures/odd",
			`a figure cannot be worked out by "guess"`},
		{figure(form.Figure{Key: "odd", Op: form.Share, Of: []condition.Ref{{Answer: "request"}}}), "figures/odd",
			"reads at least 2 things"},
		{figure(form.Figure{Key: "odd", Op: form.AgeOn, Of: []condition.Ref{{Answer: "request"}, {Date: form.Closes}}}),
			"figures/odd", "does not fit what it reads"},
		{figure(form.Figure{Key: "odd", Op: form.AgeOn, Of: []condition.Ref{{Date: form.Opens}}}), "figures/odd",
			"reads at least 2 things"},
		{figure(form.Figure{Key: "odd", Op: form.Sum}), "figures/odd", "reads at least 1 things"},
		{figure(form.Figure{Key: "odd", Op: form.StepOf, Of: []condition.Ref{{Answer: "request"}}}), "figures/odd",
			"a step needs a table with a column of numbers"},
		{figure(form.Figure{Key: "odd", Op: form.Sum, Of: []condition.Ref{{Answer: "nobody"}}}), "figures/odd", "nobody"},
		{func(d *form.Design) {
			d.Tables = []form.Table{{Key: "grades", Label: "Grades", Columns: []form.Column{{Key: "step", Numbers: true}},
				Rows: []form.Row{{Key: "a", Label: "A", Cells: []string{"three"}}}}}
		}, "tables/grades", "“three” in the row \"A\" is not a number"},
		{func(d *form.Design) {
			d.Tables = []form.Table{{Key: "grades", Label: "Grades", Columns: []form.Column{{Key: "step"}},
				Rows: []form.Row{{Key: "a", Label: "A"}}}}
		}, "tables/grades", `the row "A" has 0 cells for 1 columns`},
	} {
		d := pattern.Grants(settings())
		c.change(d)
		draft, faults := form.Draft(d) // what is being worked on has faults, and is drawn all the same
		draft.Walk(&form.Filled{Answers: map[form.Place]form.Answer{}})
		draft.Walk(filled())
		var told []string
		found := false
		for _, f := range faults {
			told = append(told, f.Path+": "+f.Says)
			found = found || f.Path == c.path && strings.Contains(f.Says, c.says)
		}
		if !found {
			t.Errorf("want %s: %s\ngot  %s", c.path, c.says, strings.Join(told, "\n     "))
		}
		if _, err := form.Compile(d); err == nil {
			t.Errorf("%s: %s: it was compiled", c.path, c.says)
		}
	}
	if _, faults := form.Draft(pattern.Grants(settings())); len(faults) > 0 {
		t.Errorf("a whole design has faults: %v", faults)
	}
}
