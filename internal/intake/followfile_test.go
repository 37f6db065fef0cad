package intake_test

import (
	"bytes"
	"context"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/slot"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// permitted is a round that asks for a permit, which may follow.
func permitted(d *form.Design) {
	closes, _ := d.Moment(form.Closes)
	q := form.Question{Key: "permit", Kind: form.File, Label: "The permit", Nature: form.Fact, Blank: form.Required,
		Seen: form.ToReaders, NonAnswers: []form.NonAnswer{form.ToFollow}, FollowBy: &form.Day{On: closes.At.Date.AddDays(7)}}
	q.Limits.Else.Slot = &slot.Limits{Kinds: []slot.Kind{slot.PDF}, FilesLeast: 1, FilesMost: 1, PagesMost: 2,
		Details: []string{"Its number"}, Ticks: []string{"It is signed."}}
	d.Sections = []form.Section{{Key: "all", Label: "All", Questions: []form.Question{q}}}
	d.Figures, d.Request, d.Listed, d.Rules = nil, "", form.Listing{}, nil
	d.Field = ""
}

// A paper that was promised is taken with what is said beside it, judged as in the
// draft, and read as part of the case; one that is refused stands nowhere.
func TestAPaperToFollow(t *testing.T) {
	t.Parallel()
	h, lead, c := programtest.Opened(t, permitted)
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error {
		if _, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: "permit"}, EditID: "to-follow",
			Non: form.ToFollow}}); err != nil {
			return err
		}
		_, err := h.Intake.Send(ctx, tx, c)
		return err
	})
	h.Drain()
	f, err := h.Rounds.Form(t.Context(), h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	give := func(number, signed string, body []byte) string {
		err := h.Intake.FollowFile(t.Context(), db.Account(lead), h.Clock.Now(), c, f.Question("permit"),
			map[form.Key]string{form.DetailColumn(0): number, form.TickColumn(0): signed}, "permit.pdf", int64(len(body)),
			bytes.NewReader(body))
		if err == nil {
			return ""
		}
		return err.Error()
	}
	standing := func() (n int) {
		if err := h.DB.Get(&n, `SELECT count(*) FROM material WHERE entry_id = $1 AND removed_at IS NULL`,
			c.EntryID); err != nil {
			t.Fatal(err)
		}
		return n
	}
	for _, bad := range []struct {
		number, signed string
		body           []byte
		says           string
	}{{"", "yes", programtest.Plan, "Its number"}, {"P 1", "", programtest.Plan, "It is signed"},
		{"P 1", "yes", []byte("no PDF"), "not of a kind that is taken"}} {
		if got := give(bad.number, bad.signed, bad.body); !strings.Contains(got, bad.says) || standing() != 0 {
			t.Errorf("%q, %q: %q, and %d stand there", bad.number, bad.signed, got, standing())
		}
	}
	if got := give("P 1", "yes", programtest.Plan); got != "" {
		t.Fatal(got)
	}
	h.Drain()
	now, _ := h.Cases.ByEntry(t.Context(), h.DB, c.EntryID)
	s, err := h.Cases.Now(t.Context(), h.DB, *now.SealID)
	if err != nil || len(s.Decoded.Files) != 1 || s.Decoded.Files[0].Name != "permit.pdf" {
		t.Fatalf("%+v %v", s.Decoded.Files, err)
	}
	path := f.Walk(s.Decoded.Filled("x"))
	if len(path.Obstacles) != 0 || now.State.Is(lifecycle.TurnedDown) {
		t.Errorf("%+v, %s", path.Obstacles, now.State)
	}
	if sealed, _ := h.Cases.Sealed(t.Context(), h.DB, *now.SealID); len(sealed.Decoded.Files) != 0 {
		t.Error("the seal itself was changed")
	}
	if got := give("P 2", "yes", programtest.Plan); got == "" || standing() != 1 {
		t.Errorf("given twice: %q, %d stand there", got, standing())
	}
}
