package proof

import (
	"context"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
)

// What a public vote cannot be, or is not what was promised, is found; one that is in
// order has no finding, and what is offered to mend mends.
func TestPlantedVotes(t *testing.T) {
	yes, no := true, false
	is := func(v *bool) condition.Cond {
		return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "agree"}, Rel: condition.Is,
			Value: &condition.Value{Yes: v}}}
	}
	never := condition.Cond{All: []condition.Cond{is(&yes), is(&no)}}
	for what, c := range map[string]struct {
		change func(*form.Design)
		says   string // "" for nothing
	}{
		"as it should be": {func(*form.Design) {}, ""},
		"a stage alone":   {func(d *form.Design) { d.Vote = nil }, "nothing says on what and how"},
		"no stage": {func(d *form.Design) { d.Stages = d.Stages[:len(d.Stages)-1] },
			"no stage in which it takes place"},
		"two votes": {func(d *form.Design) {
			d.Stages = append(d.Stages, form.Stage{Key: "v2", Label: "Again", Does: form.Votes, From: "v-from", To: "v-to"})
		}, "are two votes"},
		"no question":       {func(d *form.Design) { d.Vote.Asks = "" }, "has no question"},
		"nobody can vote":   {func(d *form.Design) { d.Vote.ByMail = false }, "Nobody can vote"},
		"nothing is shown":  {func(d *form.Design) { d.Vote.Shows = nil }, "the titles of the projects and nothing else"},
		"nobody agreed":     {func(d *form.Design) { d.Vote.Agreed = "" }, "Nobody is asked whether they agree"},
		"shorter than said": {func(d *form.Design) { d.Vote.Days = 9 }, "Votes are taken for 8 days, and 9 were promised"},
		"as long as said":   {func(d *form.Design) { d.Vote.Days = 8 }, ""},
		"the office’s alone": {func(d *form.Design) { d.Sections[0].Questions[1].Seen = form.ToOffice },
			"is for the office alone"},
		"matched with alone": {func(d *form.Design) { d.Sections[0].Questions[1].Purpose = form.ForMatching },
			"is for the office alone"},
		"names nobody":       {func(d *form.Design) { d.Vote.Count = form.CountRanked }, "names nobody"},
		"nothing to divide":  {func(d *form.Design) { d.Vote.Budget = 0 }, "need a budget"},
		"more than the fund": {func(d *form.Design) { d.Fund = d.Vote.Budget - 1 }, "and the round’s fund is"},
		"a cost nobody says": {func(d *form.Design) { d.Vote.Cost = "" }, "no question says it"},
		"no project fits": {func(d *form.Design) {
			least := d.Vote.Budget + 1
			d.Sections[0].Questions[2].Limits.Else.Least = &least
		}, "No project fits the budget"},
		"one project fits": {func(d *form.Design) {
			least := d.Vote.Budget
			d.Sections[0].Questions[2].Limits.Else.Least = &least
		}, ""},
		"nobody may be shown": {func(d *form.Design) { d.Sections[0].Questions[1].Asked = never },
			"shown to the public, and nobody is asked it"},
		"before it closes": {func(d *form.Design) {
			m := moment(d, "v-from")
			m.At = calendar.Wall{Date: mid(d)}
		}, "begins before the applications close"},
		"no time to look": {func(d *form.Design) {
			closes, _ := d.Moment(form.Closes)
			moment(d, "v-from").At = calendar.Wall{Date: closes.At.Date.AddDays(1), Second: 12 * 3600}
		}, "for looking every project through"},
	} {
		d := asking(ask("agree", form.YesNo, form.Chosen), ask("about", form.Short, form.Chosen),
			ask("cost", form.Money, form.Chosen))
		closes, _ := d.Moment(form.Closes)
		d.Calendar = append(d.Calendar, form.Moment{Key: "v-from", Label: "the vote",
			At: calendar.Wall{Date: closes.At.Date.AddDays(30), Second: 8 * 3600}},
			form.Moment{Key: "v-to", Label: "the end of the vote", At: calendar.Wall{Date: closes.At.Date.AddDays(38),
				Second: 20 * 3600}})
		d.Stages = append(d.Stages, form.Stage{Key: "public", Label: "The public votes", Does: form.Votes, From: "v-from",
			To: "v-to"})
		d.Fund = 1_000_000
		d.Vote = &form.Vote{Asks: "Which?", Shows: []form.Key{"about"}, Agreed: "agree", Count: form.CountShares,
			Budget: 500_000, Cost: "cost", ByMail: true}
		c.change(d)
		f, faults := form.Draft(d)
		if len(faults) > 0 {
			t.Fatalf("%s: %v", what, faults)
		}
		var said []string
		for _, x := range Run(context.Background(), f).Findings {
			if x.Code == VoteAsks {
				said = append(said, x.Says)
			}
		}
		all := strings.Join(said, " ")
		if c.says == "" && all != "" || !strings.Contains(all, c.says) {
			t.Errorf("%s: %q, not %q", what, all, c.says)
		}
	}
}

func moment(d *form.Design, k form.Key) *form.Moment {
	for i := range d.Calendar {
		if d.Calendar[i].Key == k {
			return &d.Calendar[i]
		}
	}
	return nil
}

// Readers' notes with a day of their own: that somebody is promised them, and not before
// the answer; a letter that goes out in the place of another reaches somebody.
func TestPlantedNotes(t *testing.T) {
	yes, no := true, false
	is := func(v *bool) condition.Cond {
		return condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "agree"}, Rel: condition.Is,
			Value: &condition.Value{Yes: v}}}
	}
	for what, c := range map[string]struct {
		change func(*form.Design)
		says   string
	}{
		"as it should be":   {func(*form.Design) {}, ""},
		"to nobody":         {func(d *form.Design) { d.Notes = "" }, "go to nobody"},
		"before the answer": {func(d *form.Design) { d.NotesOn = form.Closes }, "before the answer is promised"},
		"a letter to nobody": {func(d *form.Design) {
			d.Letters = append(d.Letters, form.Letter{Key: "x", Subject: "Ours", Body: "b", Of: "awarded",
				When: condition.Cond{All: []condition.Cond{is(&yes), is(&no)}}})
		}, "The letter “Ours” goes to nobody"},
		"a letter to some": {func(d *form.Design) {
			d.Letters = append(d.Letters, form.Letter{Key: "x", Subject: "Ours", Body: "b", Of: "awarded", When: is(&yes)})
		}, ""},
	} {
		d := asking(ask("agree", form.YesNo, form.Chosen))
		d.Letters = append(d.Letters, form.Letter{Key: "awarded", Subject: "s", Body: "b"})
		d.Notes, d.NotesOn = form.NotesAll, form.AnswerOn
		c.change(d)
		f, faults := form.Draft(d)
		if len(faults) > 0 {
			t.Fatalf("%s: %v", what, faults)
		}
		var said []string
		for _, x := range Run(context.Background(), f).Findings {
			if strings.Contains(x.Says, "otes") || strings.Contains(x.Says, "Ours") {
				said = append(said, x.Says)
			}
		}
		if all := strings.Join(said, " "); c.says == "" && all != "" || !strings.Contains(all, c.says) {
			t.Errorf("%s: %q, not %q", what, all, c.says)
		}
	}
}
