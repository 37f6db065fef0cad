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
		if _, err := p.DB.ExecContext(t.Context(), `UPDATE assignment SET to_applicant = 'Say who mows in ' || account_id WHERE entry_id = $1`, p.Of[name].EntryID); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := p.DB.ExecContext(t.Context(), `UPDATE mark SET value = 0 WHERE entry_id = $1 AND criterion = 'value'`, p.Of["Bo"].EntryID); err != nil {
		t.Fatal(err)
	}
	leave := p.Clock.Now().Add(50 * time.Hour)
	sit := decision.Sitting{Stage: "writing", Choices: p.Choices(map[string]int64{"Ann": 5_000_00, "Bo": 0, "Cy": 0}), Note: "Panel", LettersAt: p.Clock.Now().Add(time.Minute)}
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
	if !strings.Contains(bo.Body, worth.Label+": "+worth.Steps[0]+".") || !strings.Contains(bo.Body, "Those who read it wrote for you:\n\nSay who mows in ") ||
		!bo.DueAt.Equal(leave) || bo.Odd != nil {
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
	if list, err = p.Decisions.LettersOf(t.Context(), p.DB, p.Form, p.Round.ID, act); err != nil || !slices.Contains(of("Bo").Odd, "it gives no reason") {
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
	if told, err := p.Decisions.ToldBy(t.Context(), p.DB, p.Of["Bo"].EntryID); err != nil || told == nil || !strings.Contains(told.Body, "not this time") {
		t.Errorf("the page says %+v, %v", told, err)
	}
	if m, _ := p.Tray.List("bo@corvoe.example", 0, 10); len(m) == 0 || !strings.Contains(m[0].Body, "not this time") {
		t.Error("the letter left as it was before")
	}
	if reword("Our answer", "Dear Bo,\n\nafter all.") == nil {
		t.Error("a letter that has left is changed")
	}
}
