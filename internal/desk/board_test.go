package desk_test

import (
	"context"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
)

// The board of a round: who stands where, soonest due first; more time for a case
// moves what is due by the closing, and nothing that has a date of its own.
func TestTheBoard(t *testing.T) {
	t.Parallel()
	h, lead, c := programtest.Opened(t, programtest.Lettered)
	ctx := context.Background()
	var other = h.Draft("una@corvoe.example")
	ask := func(by int64, entry int64, name, email string) (id int64) {
		h.Held(by, func(ctx context.Context, tx *db.Tx) (err error) {
			who, err := h.Cases.ByEntry(ctx, tx, entry)
			if err != nil {
				return err
			}
			id, err = h.Referees.Name(
				ctx,
				tx,
				who,
				"site-referee",
				reference.Person{Name: name, Email: email, Knows: "x"},
			)
			return err
		})
		return id
	}
	ask(lead, c.EntryID, "Ada", "ada@peat.example")
	second := ask(other.LeadID, other.EntryID, "Ada", "ada@peat.example")
	h.Held(0, func(ctx context.Context, tx *db.Tx) error { return h.Referees.Accept(ctx, tx, second) })
	closes := time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC)
	f := desk.BoardFilter{Due: map[form.Key]time.Time{"site-referee": closes}, Own: map[form.Key]bool{}, Most: 10}
	var round int64
	if err := h.DB.Get(&round, `SELECT id FROM round`); err != nil {
		t.Fatal(err)
	}
	if _, err := h.DB.Exec(`UPDATE entry SET more_until = $2 WHERE id = $1`, c.EntryID,
		closes.Add(48*time.Hour)); err != nil {
		t.Fatal(err)
	}
	rows, err := h.Desk.Board(ctx, round, f)
	if err != nil || len(rows) != 2 || rows[0].ID != second || !rows[1].Due.Equal(closes.Add(48*time.Hour)) {
		t.Errorf("%+v %v", rows, err)
	}
	f.Own["site-referee"] = true
	if rows, err = h.Desk.Board(ctx, round, f); err != nil || !rows[0].Due.Equal(closes) ||
		!rows[1].Due.Equal(closes) {
		t.Errorf("a date of its own moves with more time: %+v %v", rows, err)
	}
	n, err := h.Desk.BoardCounts(ctx, round, f)
	if err != nil || n.All != 2 || n.Awaited != 2 || n.In+n.Bounced+n.Declined+n.ToAsk+n.Unsent != 0 {
		t.Errorf("%+v %v", n, err)
	}
	owing, err := h.Desk.Owing(ctx, round, f)
	if err != nil || len(owing) != 1 || owing[0].N != 2 || owing[0].Email != "ada@peat.example" {
		t.Errorf("%+v %v", owing, err)
	}
	for show, want := range map[string]int{"": 2, "awaited": 2, "unsent": 0, "bounced": 0, "declined": 0, "in": 0} {
		f.Show = show
		if rows, err := h.Desk.Board(ctx, round, f); err != nil || len(rows) != want {
			t.Errorf("%q: %d, want %d, %v", show, len(rows), want, err)
		}
	}
	f.Show, f.Email = "", "nobody@peat.example"
	if rows, err := h.Desk.Board(ctx, round, f); err != nil || len(rows) != 0 {
		t.Errorf("nobody's: %+v %v", rows, err)
	}
}
