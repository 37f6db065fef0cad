package rehearsal_test

import (
	"context"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/pathtable"
	"ulvant/core/proof"
	"ulvant/core/rehearsal"
	"ulvant/demo"
)

// A round on which the public votes is rehearsed with its vote: what those of the troupe
// who are eligible would come to under three made-up electorates, or what keeps it from
// being a fair one.
func TestAVoteIsRehearsed(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	list, err := demo.Designs(time.Date(2026, 11, 25, 10, 0, 0, 0, time.UTC), zone)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		vote  form.Vote
		says  []string
		never string
	}{
		{form.Vote{Asks: "Which?", ByMail: true, Named: 1}, []string{"The public votes on ", "“Which?”",
			"If there were two camps", "The vote closes."}, "would be given"},
		{form.Vote{Asks: "Which?", ByMail: true, Count: form.CountShares, Budget: 100_000_00},
			[]string{"of €100,000 would be given"}, "No project fits"},
		{form.Vote{Asks: "Which?", ByMail: true, Count: form.CountShares, Budget: 1},
			[]string{"No project fits the budget of €0.01"}, "If there were"},
		{form.Vote{Asks: "Which?", ByMail: true, Named: 1, Agreed: "paid-elsewhere"},
			[]string{"A vote needs two projects at least"}, "If there were"},
	} {
		d := list[0]
		answer, _ := d.Moment(form.AnswerOn)
		e := *d
		e.Calendar = append(append([]form.Moment(nil), d.Calendar...), form.Moment{Key: "v-from", Label: "the vote",
			At: calendar.At(answer.At.Date.AddDays(-12), 9, 0)},
			form.Moment{Key: "v-to", Label: "its end", At: calendar.At(answer.At.Date.AddDays(-3), 9, 0)})
		e.Stages = append(append([]form.Stage(nil), d.Stages...), form.Stage{Key: "public", Label: "The public votes",
			Does: form.Votes, From: "v-from", To: "v-to"})
		e.Vote = &c.vote
		f, err := form.Compile(&e)
		if err != nil {
			t.Fatal(err)
		}
		tb := pathtable.Make(context.Background(), f, nil, rand.New(rand.NewPCG(1, 2)).IntN)
		var kinds []string
		var troupe []*proof.Applicant
		for _, c := range tb.Columns {
			kinds, troupe = append(kinds, c.Name), append(troupe, tb.Asker.Example(c.Splits))
		}
		var said []string
		for _, e := range rehearsal.Make(f, rehearsal.Troupe(kinds, troupe)).Events {
			said = append(said, e.Says)
		}
		all := strings.Join(said, "\n")
		for _, want := range c.says {
			if !strings.Contains(all, want) {
				t.Errorf("%+v: %q is not said", c.vote, want)
			}
		}
		if strings.Contains(all, c.never) {
			t.Errorf("%+v: %q is said", c.vote, c.never)
		}
	}
}
