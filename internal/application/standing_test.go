package application_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
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

// Many are taken a step further together, all of them or none: their states, their
// standings and what their trails say.
func TestApplyAll(t *testing.T) {
	h := programtest.New(t)
	h.OpenRound(h.Person("neda@ostrel-trust.example", "Neda Sparrow").ID, nil)
	sent := []application.Case{h.Sent("imre@corvoe.example"), h.Sent("ann@corvoe.example")}
	draft := h.Draft("bo@corvoe.example")
	apply := func(list ...application.Case) func(context.Context, *db.Tx) error {
		return func(ctx context.Context, tx *db.Tx) error {
			var entries []int64
			for _, c := range list {
				entries = append(entries, c.EntryID)
			}
			locked, err := h.Cases.LockAll(ctx, tx, entries)
			if err != nil {
				return err
			}
			changes := make([]application.Change, len(locked))
			for i, c := range locked {
				changes[i] = application.Change{Case: c, Step: lifecycle.Step{Event: lifecycle.Decline,
					To: lifecycle.NotAwarded, Move: lifecycle.Nobody}}
			}
			return h.Cases.ApplyAll(ctx, tx, changes)
		}
	}
	if err := h.Try(0, apply(sent[0], draft)); err == nil || h.StateOf(sent[0]) == lifecycle.NotAwarded {
		t.Errorf("with a draft among them: %v", err)
	}
	h.Held(0, apply(sent...))
	for _, c := range sent {
		st, err := h.Cases.Standing(t.Context(), h.DB, c.EntryID)
		if err != nil || h.StateOf(c) != lifecycle.NotAwarded || st.State != lifecycle.NotAwarded ||
			st.Move != lifecycle.Nobody {
			t.Errorf("%s: %+v %v", c.Ref, st, err)
		}
	}
}

// While a case is handed back its standing is worth what it says until the answer is due,
// and not after.
func TestStandingOfWhatIsHandedBack(t *testing.T) {
	p := programtest.SentTo(t, map[string]string{"Ann": "9000"})
	p.Held(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		_, err := p.Cases.Ask(ctx, tx, p.Of["Ann"], "Is it 9,000 or 8,000?", []form.Key{"request"}, 3)
		return err
	})
	p.StateOf("Ann")
	c := p.Of["Ann"]
	until := func(at time.Time) *time.Time {
		t.Helper()
		p.Clock.Set(at)
		p.Act(0, func(ctx context.Context, tx *db.Tx) error { _, err := p.Cases.Refresh(ctx, tx, c); return err })
		var got *time.Time
		if err := p.DB.Get(&got, `SELECT valid_until FROM standing WHERE entry_id = $1`, c.EntryID); err != nil {
			t.Fatal(err)
		}
		return got
	}
	if got := until(c.QueryDue.Add(-time.Second)); got == nil || !got.Equal(*c.QueryDue) {
		t.Errorf("a second before it is due: %v", got)
	}
	if got := until(*c.QueryDue); got != nil {
		t.Errorf("when it is due: %v", got)
	}
}
