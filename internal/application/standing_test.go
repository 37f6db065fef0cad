package application_test

import (
	"context"
	"errors"
	"testing"

	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// Many standings are worked out as one is; an entry that is not there is an
// error, so that what is swept is never swept for ever.
func TestRefreshAll(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	ready, draft := h.Ready("imre@corvoe.example"), h.Draft("ann@corvoe.example")
	refresh := func(entries ...int64) (n int, err error) {
		err = h.Try(0, func(ctx context.Context, tx *db.Tx) error {
			cases, err := h.Cases.RefreshAll(ctx, tx, entries)
			n = len(cases)
			return err
		})
		return n, err
	}
	of := func(c application.Case) application.Standing {
		t.Helper()
		st, err := h.Cases.Standing(t.Context(), h.DB, c.EntryID)
		if err != nil {
			t.Fatal(err)
		}
		return st
	}
	was := of(ready)
	if _, err := h.DB.Exec(`UPDATE standing SET done = 0, required = 0, obstacles = '{x}'`); err != nil {
		t.Fatal(err)
	}
	if n, err := refresh(draft.EntryID, ready.EntryID); n != 2 || err != nil {
		t.Fatal(n, err)
	}
	if is := of(ready); is.Done != was.Done || is.Required != was.Required || len(is.Obstacles) != 0 || is.Asked == nil ||
		*is.Asked != *was.Asked {
		t.Errorf("%+v, was %+v", is, was)
	}
	if is := of(draft); len(is.Obstacles) < 5 {
		t.Errorf("%+v", is)
	}
	if _, err := refresh(ready.EntryID, ready.EntryID+1000); !errors.Is(err, application.ErrNotFound) {
		t.Errorf("one that is not there: %v", err)
	}
	if n, err := refresh(); n != 0 || err != nil {
		t.Error(n, err)
	}
}
