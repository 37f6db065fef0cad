package reference_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// Those with drafts are reminded at the times the round sets, once each, with
// what is missing in their own case; who has sent or withdrawn is left alone.
func TestRemindersBeforeClosing(t *testing.T) {
	p := programtest.SentToRound(t, func(d *form.Design) {
		programtest.Short(d)
		closes, _ := d.Moment(form.Closes)
		for i, days := range []int{7, 1} {
			d.Calendar = append(
				d.Calendar,
				form.Moment{Key: form.Key([]string{"week", "day"}[i]), Label: "a reminder",
					At: calendar.At(closes.At.Date.AddDays(-days), 9, 0), Reminds: true},
			)
		}
	}, map[string]string{"Ann": "9000"})
	ctx := context.Background()
	begin := func(name string, edits ...intake.Edit) {
		lead := p.Person(strings.ToLower(name)+"@corvoe.example", name+" Hart")
		p.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
			c, err := p.Intake.Start(ctx, tx, "shore-2027", name+"’s work", nil)
			if err == nil && len(edits) > 0 {
				_, _, err = p.Intake.Save(ctx, tx, c, edits)
			}
			return err
		})
	}
	begin("Bo", programtest.Edit("land-leave", "yes"))
	begin("Cy", programtest.Edit("request", "7000"), programtest.Edit("land-leave", "yes"))
	begin("Di")
	mine, err := p.Desk.Mine(ctx, mustFind(t, p, "di@corvoe.example"))
	if err != nil || len(mine) != 1 {
		t.Fatal(err)
	}
	p.Act(mustFind(t, p, "di@corvoe.example"), func(ctx context.Context, tx *db.Tx) error {
		c, err := p.Cases.Find(ctx, tx, mine[0].Ref)
		if err == nil {
			err = p.Intake.Withdraw(ctx, tx, c)
		}
		return err
	})
	got := func(name string) (n int, last string) {
		list, _ := p.Tray.List(strings.ToLower(name)+"@corvoe.example", 0, 100)
		for _, m := range list {
			if strings.HasPrefix(m.Subject, "Not sent yet") {
				if n == 0 {
					last = m.Body
				}
				n++
			}
		}
		return n, last
	}
	sweep := func(at time.Time) {
		p.Clock.Set(at)
		for range 2 { // twice is once
			if err := p.Intake.SweepReminders(ctx, at); err != nil {
				t.Fatal(err)
			}
		}
		p.Drain()
	}
	want := func(when string, of map[string]int) {
		t.Helper()
		for name, w := range of {
			if n, _ := got(name); n != w {
				t.Errorf("%s, %s was reminded %d times, want %d", when, name, n, w)
			}
		}
	}
	sweep(p.Form.At("week").Add(-time.Minute))
	want("before its time", map[string]int{"Ann": 0, "Bo": 0, "Cy": 0})
	sweep(p.Form.At("week"))
	want("a week before", map[string]int{"Ann": 0, "Bo": 1, "Cy": 1, "Di": 0})
	if _, body := got("Bo"); !strings.Contains(body, "How much do you ask from us") ||
		!strings.Contains(body, "9 April 2027, 16:00") {
		t.Errorf("what is missing is not said: %s", body)
	}
	if _, body := got("Cy"); !strings.Contains(body, "Nothing stands in the way") {
		t.Errorf("ready, and told: %s", body)
	}
	sweep(p.Form.At("day").Add(time.Hour))
	want("the day before", map[string]int{"Ann": 0, "Bo": 2, "Cy": 2, "Di": 0})
	begin("Ed")
	sweep(p.Form.At(form.Closes))
	want("at the closing", map[string]int{"Bo": 2, "Ed": 0})
}

func mustFind(t *testing.T, p *programtest.Panel, email string) int64 {
	t.Helper()
	a, err := p.People.ByEmail(context.Background(), p.DB, email)
	if err != nil {
		t.Fatal(err)
	}
	return a.ID
}
