package work_test

import (
	"context"
	"errors"
	"testing"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/programtest"
)

func TestMain(m *testing.M) { programtest.Main(m) }

// Progress is seen while it goes on; what failed stays where it stopped.
func TestProgress(t *testing.T) {
	h := programtest.New(t)
	officer := h.Person("neda@ostrel-trust.example", "Neda Sparrow")
	round := h.OpenRound(officer.ID, nil)
	begin := func(total int) (id int64) {
		h.Held(officer.ID, func(ctx context.Context, tx *db.Tx) (err error) {
			id, err = h.Work.Begin(ctx, tx, work.Deciding, round, total)
			return err
		})
		return id
	}
	for _, c := range []struct {
		name           string
		total, reached int
		ends, failed   bool
		done, percent  int
	}{
		{"just begun", 200, 0, false, false, 0, 0},
		{"all but one is not yet a hundred percent", 200, 199, false, false, 199, 99},
		{"never more than there is", 200, 300, false, false, 200, 100},
		{"ended", 200, 150, true, false, 200, 100},
		{"failed", 200, 150, true, true, 150, 75},
		{"nothing to do", 0, 0, true, false, 0, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			id := begin(c.total)
			h.Work.Reached(t.Context(), id, c.reached)
			if c.ends {
				if err := h.Work.End(t.Context(), h.DB, id, h.Clock.Now(), c.failed, "says"); err != nil {
					t.Fatal(err)
				}
			}
			w, err := h.Work.Find(t.Context(), round, id)
			if err != nil || w.Done != c.done || w.Percent() != c.percent || w.Failed != c.failed ||
				(w.EndedAt != nil) != c.ends {
				t.Errorf("%+v, %v", w, err)
			}
			if l, err := h.Work.Latest(t.Context(), round, work.Deciding); err != nil || l.ID != id {
				t.Errorf("%+v, %v", l, err)
			}
		})
	}
	if l, err := h.Work.Latest(t.Context(), round, work.HandingOut); l != nil || err != nil {
		t.Errorf("%+v, %v", l, err)
	}
	if _, err := h.Work.Find(t.Context(), round+1, begin(1)); !errors.Is(err, work.ErrNone) {
		t.Errorf("another round's: %v", err)
	}
}
