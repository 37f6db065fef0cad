package decision_test

import (
	"context"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// Letters wait until the hour the office chose; they say how each was marked, in the
// words of the round, and what readers wrote for those it is promised to; the odd ones
// are pointed out; one is changed before it leaves, and none after.
func TestLettersBeforeTheyLeave(t *testing.T) {
	t.Parallel()
	p := programtest.SentToRound(t, func(d *form.Design) { programtest.Short(d); d.Notes = form.NotesDeclined },
		map[string]string{"Ann": "5,000", "Bo": "6,000", "Cy": "7,000"})
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
			`UPDATE assignment SET to_applicant = 'Say who mows in ' || account_id WHERE entry_id = $1`,
			p.Of[name].EntryID); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := p.DB.ExecContext(t.Context(), `UPDATE mark SET value = 0 WHERE entry_id = $1 AND criterion = 'value'`,
		p.Of["Bo"].EntryID); err != nil {
		t.Fatal(err)
	}
	leave := p.Clock.Now().Add(50 * time.Hour)
	sit := decision.Sitting{
		Stage:     "writing",
		Choices:   p.Choices(map[string]int64{"Ann": 5_000_00, "Bo": 0, "Cy": 0}),
		Note:      "Panel",
		LettersAt: p.Clock.Now().Add(time.Minute),
	}
	record := func() (act int64, err error) {
		err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			act, err = p.Decisions.Record(ctx, tx, p.Round, p.Form, sit)
			return err
		})
		return act, err
	}
	if _, err := record(); err == nil {
		t.Error("letters leave before they could be stopped")
	}
	sit.LettersAt = leave
	act, err := record()
	if err != nil {
		t.Fatal(err)
	}
	list, err := p.Decisions.LettersOf(t.Context(), p.DB, p.Form, p.Round.ID, act)
	if err != nil || len(list) != 3 {
		t.Fatalf("%d letters, %v", len(list), err)
	}
	of := func(name string) decision.Letter {
		i := slices.IndexFunc(list, func(l decision.Letter) bool { return strings.HasPrefix(l.Name, name) })
		return list[i]
	}
	worth := p.Form.Design.Criteria[2]
	bo := of("Bo")
	if !strings.Contains(bo.Body, worth.Label+": "+worth.Steps[0]+".") || !strings.Contains(bo.Body,
		"Those who read it wrote for you:\n\nSay who mows in ") ||
		!bo.DueAt.Equal(leave) ||
		bo.Odd != nil {
		t.Errorf("Bo’s letter, due %v, odd %q:\n%s", bo.DueAt, bo.Odd, bo.Body)
	}
	if ann := of("Ann"); strings.Contains(ann.Body, "mows") || strings.Contains(ann.Body, "\n\n\n") {
		t.Errorf("notes go to whom they are not promised:\n%s", ann.Body)
	}
	reword := func(subject, body string) error {
		return p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
			return p.Decisions.Reword(ctx, tx, p.Round,
				act, bo.ID, subject, body)
		})
	}
	for _, c := range [][2]string{{"", "Dear Bo"}, {"Our answer", " "}, {"Our answer", "Dear {{name}}"}} {
		if reword(c[0], c[1]) == nil {
			t.Errorf("%q, %q is kept", c[0], c[1])
		}
	}
	if err := reword("Our answer", "Dear Bo,\n\nnot this time."); err != nil {
		t.Fatal(err)
	}
	if list, err = p.Decisions.LettersOf(t.Context(), p.DB, p.Form, p.Round.ID, act); err != nil ||
		!slices.Contains(of("Bo").Odd, "it gives no reason") {
		t.Errorf("after that: %q, %v", of("Bo").Odd, err)
	}
	p.After(49 * time.Hour)
	if p.Told("Bo") == string(lifecycle.NotAwarded) {
		t.Error("Bo is told before the hour")
	}
	p.After(2 * time.Hour)
	if got := p.Told("Bo"); got != string(lifecycle.NotAwarded) {
		t.Errorf("Bo is told %s", got)
	}
	if told, err := p.Decisions.ToldBy(t.Context(), p.DB, p.Of["Bo"].EntryID); err != nil || told == nil ||
		!strings.Contains(told.Body, "not this time") {
		t.Errorf("the page says %+v, %v", told, err)
	}
	if m, _ := p.Tray.List("bo@corvoe.example", 0, 10); len(m) == 0 || !strings.Contains(m[0].Body, "not this time") {
		t.Error("the letter left as it was before")
	}
	if reword("Our answer", "Dear Bo,\n\nafter all.") == nil {
		t.Error("a letter that has left is changed")
	}
}

// Letters leave in batches, a quarter of an hour apart, and what is left can be stopped.
func TestLettersLeaveInBatches(t *testing.T) {
	t.Parallel()
	p := programtest.ReadRound(
		t,
		map[string]string{"Ann": "10,000", "Bo": "10,000", "Cy": "10,000", "Dee": "10,000", "Eve": "10,000"},
	)
	err := p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Decisions.Record(
			ctx,
			tx,
			p.Round,
			p.Form,
			decision.Sitting{Stage: "writing", Note: "Panel", Batch: 2,
				Choices: p.Choices(map[string]int64{"Ann": 0, "Bo": 0, "Cy": 0, "Dee": 0, "Eve": 0})},
		)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	left := func() decision.Act {
		t.Helper()
		acts, err := p.Decisions.Acts(t.Context(), p.DB, p.Round.ID)
		if err != nil {
			t.Fatal(err)
		}
		return acts[0]
	}
	p.After(time.Duration(p.Form.Design.HoldMinutes) * time.Minute)
	if a := left(); a.Sent != 2 || a.Held != 3 || a.NextAt == nil || a.NextAt.Sub(p.Clock.Now()) != 15*time.Minute {
		t.Errorf("the first: %+v", a)
	}
	p.After(15 * time.Minute)
	if a := left(); a.Sent != 4 || a.Held != 1 {
		t.Errorf("the second: %+v", a)
	}
	err = p.Try(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Decisions.StopLetters(ctx, tx, p.Round.ID, left().ID)
		return err
	})
	p.After(time.Hour)
	if a := left(); err != nil || a.Sent != 4 || a.Stopped != 1 || a.NextAt != nil {
		t.Errorf("%v, %+v", err, a)
	}
	for place, want := range map[int]time.Duration{0: 0, 1: 0, 2: 15 * time.Minute, 3: 15 * time.Minute,
		4: 30 * time.Minute} {
		at := time.Date(2027, 5, 1, 9, 0, 0, 0, time.UTC)
		if got := decision.LeavesAt(at, 2, place).Sub(at); got != want || decision.LeavesAt(at, 0, place) != at {
			t.Errorf("letter %d: %s", place, got)
		}
	}
}
