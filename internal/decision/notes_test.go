package decision_test

import (
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/internal/programtest"
)

// Where a round promises readers' notes on a day of their own, no letter of a decision has
// them; on that day they go out once to those they are promised to who know the decision,
// and to whoever is told later when they are.
func TestNotesOnADayOfTheirOwn(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, func(d *form.Design) {
		programtest.Short(d)
		d.Notes, d.NotesOn = form.NotesDeclined, "notes-day"
		answer, _ := d.Moment(form.AnswerOn)
		answer.Key, answer.Label, answer.At.Date = "notes-day", "the readers’ notes", answer.At.Date.AddDays(14)
		d.Calendar = append(d.Calendar, answer)
	}, map[string]string{"Ann": "5,000", "Bo": "6,000", "Cy": "7,000"})
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk")
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	for name := range p.Of {
		for _, a := range readers {
			p.MarksAs(name, a)
		}
		if _, err := p.DB.ExecContext(t.Context(),
			`UPDATE assignment SET to_applicant = 'Say who mows.' WHERE entry_id = $1`, p.Of[name].EntryID); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := p.Records("", p.Choices(map[string]int64{"Ann": 5_000_00, "Bo": 0})); err != nil {
		t.Fatal(err)
	}
	p.After(2 * time.Hour)
	noted := func(name string) (n int) {
		t.Helper()
		list, _ := p.Tray.List(strings.ToLower(name)+"@corvoe.example", 0, 100)
		for _, m := range list {
			if strings.Contains(m.Body, "Say who mows.") {
				if n++; !strings.Contains(m.Subject, "wrote for you") || strings.Contains(m.Body, "Oriel") {
					t.Errorf("%s is written %q", name, m.Subject)
				}
			}
		}
		return n
	}
	sweep := func(at time.Time) {
		t.Helper()
		p.Clock.Set(at)
		if err := p.Jobs.Sweep(t.Context(), at); err != nil {
			t.Fatal(err)
		}
		p.Drain()
	}
	day := p.Form.At("notes-day")
	sweep(day.Add(-time.Second))
	if noted("Ann")+noted("Bo")+noted("Cy") != 0 {
		t.Error("notes go out before their day")
	}
	sweep(day)
	sweep(day.Add(time.Hour))
	if noted("Ann") != 0 || noted("Bo") != 1 || noted("Cy") != 0 {
		t.Errorf("on their day: Ann %d, Bo %d, Cy %d", noted("Ann"), noted("Bo"), noted("Cy"))
	}
	if _, err := p.Records("", p.Choices(map[string]int64{"Cy": 0})); err != nil {
		t.Fatal(err)
	}
	sweep(day.Add(90 * time.Minute))
	if noted("Cy") != 0 {
		t.Error("notes go out before the decision is told")
	}
	p.After(time.Hour)
	sweep(day.Add(4 * time.Hour))
	if noted("Cy") != 1 || noted("Bo") != 1 {
		t.Errorf("told later: Cy %d, Bo %d", noted("Cy"), noted("Bo"))
	}
}
