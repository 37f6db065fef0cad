package desk_test

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/register"
	"ulvant/internal/desk"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// What lists say follows what happened: of three that were sent, one waits for
// a person, and two more are being written, one of them with nothing in it.
func TestListsFollowWhatHappens(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "60,000", "Bo": "?50,000", "Cy": "20,000"})
	ctx := context.Background()
	begin := func(name string, edits ...intake.Edit) {
		lead := p.Person(name+"@tarl.example", "Dee 100%_sure")
		p.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
			c, err := p.Intake.Start(ctx, tx, "shore-2027", "Draft of "+name, nil)
			if err == nil && len(edits) > 0 {
				_, _, err = p.Intake.Save(ctx, tx, c, edits)
			}
			p.Of[name] = c
			return err
		})
	}
	begin("dee")
	begin("eve", programtest.Edit("request", "1,000"), programtest.Edit("land-leave", "no"))
	f, err := p.Rounds.Published(ctx, p.DB, p.Round)
	if err != nil {
		t.Fatal(err)
	}
	titles := func(conditions ...string) string {
		t.Helper()
		q := desk.Sought{Round: p.Round.ID, Columns: register.Of(f), Today: calendar.NewDate(2027, 3, 20), Zone: f.Zone,
			Most: 10}
		for _, text := range conditions {
			c, err := register.ParseCondition(text, q.Columns)
			if err != nil {
				t.Fatal(err)
			}
			q.Shape.Filter = append(q.Shape.Filter, c)
		}
		rows, err := p.Desk.Register(ctx, q)
		if err != nil {
			t.Fatalf("%v: %v", conditions, err)
		}
		var out []string
		for _, x := range rows {
			out = append(out, x.Title)
		}
		slices.Sort(out)
		return strings.Join(out, ", ")
	}
	all := "Ann’s work, Bo’s work, Cy’s work, Draft of dee, Draft of eve"
	for _, c := range []struct {
		conditions []string
		want       string
	}{
		{nil, all},
		{[]string{"state~is~draft"}, "Draft of dee, Draft of eve"},
		{[]string{"state~not~draft"}, "Ann’s work, Bo’s work, Cy’s work"},
		{[]string{"state~is~complete"}, "Bo’s work"},
		{[]string{"state~is~complete,eligible", "asked~least~5000000"}, "Ann’s work, Bo’s work"},
		{[]string{"move~is~applicant"}, "Draft of dee, Draft of eve"},
		{[]string{"find~has~BO’S"}, "Bo’s work"},
		{[]string{"find~has~cy hart"}, "Cy’s work"},
		{[]string{"find~has~" + p.Of["Ann"].Ref}, "Ann’s work"},
		{[]string{"find~has~nothing like it"}, ""},
		{[]string{"title~has~%25"}, ""},
		{[]string{"lead~has~100%25_s"}, "Draft of dee, Draft of eve"},
		{[]string{"verdict~is~person"}, "Bo’s work"},
		{[]string{"tosettle~least~1"}, "Bo’s work"},
		{[]string{"sent~there~"}, "Ann’s work, Bo’s work, Cy’s work"},
		{[]string{"sent~blank~"}, "Draft of dee, Draft of eve"},
		{[]string{"q.land-leave~is~no"}, ""}, // a draft’s answers are its writer’s own
		{[]string{"lacks~is~not-eligible"}, "Draft of eve"},
		{[]string{"carer~blank~"}, all},
	} {
		if got := titles(c.conditions...); got != c.want {
			t.Errorf("%q lists %q, want %q", c.conditions, got, c.want)
		}
	}
	counts, err := p.Desk.Counts(ctx, p.Round.ID)
	if err != nil {
		t.Fatal(err)
	}
	sums := map[lifecycle.State]string{}
	for _, c := range counts {
		sums[c.State] = fmt.Sprintf("%d for %d", c.N, c.Asked/100)
	}
	if fmt.Sprint(sums) != fmt.Sprint(map[lifecycle.State]string{lifecycle.Draft: "2 for 1000",
		lifecycle.Eligible: "2 for 80000", lifecycle.Complete: "1 for 50000"}) {
		t.Errorf("counted are %v", sums)
	}
	stuck, err := p.Desk.Stuck(ctx, p.Round.ID, func(c form.Code) string { return string(c) })
	if err != nil {
		t.Fatal(err)
	}
	in := map[form.Code]int{}
	for _, s := range stuck {
		in[s.Code] = s.N
	}
	if in[form.CodeBlank] != 1 || in[form.CodeTooLittle] != 1 || in[form.CodeNotEligible] != 1 {
		t.Errorf("drafts are stuck in %v", in)
	}
	open, err := p.Desk.OpenChecks(ctx, 0, 10)
	if err != nil || len(open) != 1 || open[0].Ref != p.Of["Bo"].Ref || open[0].Rule != "land" {
		t.Errorf("a person must look at %+v: %v", open, err)
	}
	checked, err := p.Desk.Checks(ctx, p.Round.ID, 0, 10)
	if err != nil || len(checked) != 3 || checked[0].EntryID >= checked[1].EntryID {
		t.Errorf("checked are %+v: %v", checked, err)
	}
	if sent, err := p.Desk.SentTimes(ctx, p.Round.ID, "writing"); err != nil || len(sent) != 3 {
		t.Errorf("%d were sent: %v", len(sent), err)
	}
	for typed, want := range map[string]int{p.Of["Ann"].Ref: 1, strings.ToLower(p.Of["Ann"].Ref): 1, "draft of": 2,
		"dr of": 2, p.Of["Ann"].Ref[:6]: 5, "_": 0, "-\x00": 0, strings.Repeat("x", 5000): 0, strings.Repeat("x ",
			500): 0, "no such": 0} {
		if found, err := p.Desk.Find(ctx, nil, typed, 10); err != nil || len(found.Items) != want {
			t.Errorf("looking for %q finds %d, want %d: %v", typed, len(found.Items), want, err)
		}
	}
	dee := p.Person("dee@tarl.example", "Dee")
	if mine, err := p.Desk.Mine(ctx, dee.ID); err != nil || len(mine) != 1 || mine[0].Done != 0 || mine[0].Required != 2 {
		t.Errorf("Dee’s own list is %+v: %v", mine, err)
	}
	// after the closing drafts lapse, once somebody looks at the clock
	p.Clock.Set(time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC))
	if err := p.Jobs.Sweep(ctx, p.Clock.Now()); err != nil {
		t.Fatal(err)
	}
	if got := titles("state~is~lapsed"); got != "Draft of dee, Draft of eve" {
		t.Errorf("lapsed are %q", got)
	}
	letters, err := p.Desk.Post(ctx, p.Of["Ann"].ID)
	if err != nil || len(letters) != 1 || letters[0].Kind != "received" || letters[0].SentAt == nil {
		t.Errorf("Ann’s letters are %+v: %v", letters, err)
	}
}
