package profile_test

import (
	"bytes"
	"context"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/profile"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// A society shows its statutes and an extract that has not run out before it can be
// handed in; a newer paper takes the place of the one there was, and nobody puts one
// in for an organisation they do not act for.
func TestPapersByLegalForm(t *testing.T) {
	h := programtest.New(t)
	h.Profiles.Needed = 0
	ann, di := h.Person("ann@tarl.example", "Ann Hart"), h.Person("di@else.example", "Di Else")
	var id int64
	facts := moor("0000OSTRELISLES00149")
	facts.Form = profile.Society
	h.Held(ann.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		if id, err = h.Profiles.Make(ctx, tx, profile.Body, "Tarl Moor Society"); err != nil {
			return err
		}
		return h.Profiles.Change(ctx, tx, id, "Tarl Moor Society", facts)
	})
	put := func(by int64, paper string, until calendar.Date) error {
		_, err := h.Materials.Shelve(t.Context(), db.Account(by), h.Clock.Now(), id, paper, paper+".pdf", until,
			int64(len(programtest.Plan)), bytes.NewReader(programtest.Plan))
		return err
	}
	handIn := func() string {
		err := h.Try(ann.ID, func(ctx context.Context, tx *db.Tx) error { return h.Profiles.SendIn(ctx, tx, id) })
		if err == nil {
			return ""
		}
		return err.Error()
	}
	today := calendar.DateOf(h.Clock.Now(), h.Profiles.Zone())
	for _, c := range []struct {
		paper string
		until calendar.Date
		says  string // what stands in the way afterwards; "" for nothing
	}{
		{"", 0, "Put in: Statutes"},
		{"statutes", 0, "Put in: Extract"},
		{"extract", today.AddDays(-1), "Out of date: Extract"},
		{"extract", today, ""},
	} {
		if c.paper != "" {
			if err := put(ann.ID, c.paper, c.until); err != nil {
				t.Fatal(err)
			}
		}
		if err := put(di.ID, "statutes", 0); err == nil {
			t.Error("a stranger puts a paper in")
		}
		if got := handIn(); c.says == "" && got != "" || !strings.Contains(got, c.says) {
			t.Errorf("with %q: %q, want %q", c.paper, got, c.says)
		}
	}
	p, err := h.Profiles.ByID(t.Context(), h.DB, id)
	if err != nil {
		t.Fatal(err)
	}
	papers, err := h.Profiles.Papers(t.Context(), h.DB, p, h.Clock.Now())
	if err != nil || len(papers) != 2 || !papers[1].Good {
		t.Fatalf("%+v %v", papers, err)
	}
	if x, err := h.Materials.PaperOf(t.Context(), h.DB, id, papers[1].ID); err != nil || x.Name != "extract.pdf" {
		t.Errorf("the office reads %+v %v", x, err)
	}
	if _, err := h.Materials.PaperOf(t.Context(), h.DB, id+1, papers[1].ID); err == nil {
		t.Error("it is read under another organisation")
	}
}
