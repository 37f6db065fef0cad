package intake_test

import (
	"context"
	"errors"
	"fmt"
	"testing"
	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// A text that is cut down can be brought back, as often as one likes.
func TestEarlierVersions(t *testing.T) {
	h, lead, c := programtest.Opened(t, nil)
	const long = "We replant the reed bed along the whole of the Corvoe shore in two seasons."
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error {
		for i, v := range []string{long, "We replant."} {
			if _, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: "describe"}, Version: i,
				EditID: fmt.Sprint("edit-", i), Value: v}}); err != nil {
				return err
			}
		}
		return nil
	})
	ctx := context.Background()
	bring := func(version int) error {
		return h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
			return h.Intake.BringBack(ctx, tx, c, form.Place{Question: "describe"}, version)
		})
	}
	if err := bring(1); err != nil {
		t.Fatal(err)
	}
	var now string
	if err := h.DB.Get(&now, `SELECT value FROM answer WHERE question = 'describe'`); err != nil || now != long {
		t.Errorf("it reads %q %v", now, err)
	}
	list, err := h.Intake.EarlierOf(ctx, h.DB, c.EntryID, "describe")
	if err != nil || len(list) != 2 || list[0].Value != "We replant." || list[0].By != "Imre Calloway" {
		t.Errorf("earlier: %+v %v", list, err)
	}
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error { // both in one save
		_, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{
			{Place: form.Place{Question: "afterwards"}, EditID: "both-1", Value: long},
			{Place: form.Place{Question: "afterwards"}, Version: 1, EditID: "both-2", Value: "We go."}})
		return err
	})
	if list, err = h.Intake.EarlierOf(ctx, h.DB, c.EntryID, "afterwards"); err != nil || len(list) != 1 ||
		list[0].Value != long {
		t.Errorf("cut down within one save: %+v %v", list, err)
	}
	if err := bring(99); !errors.Is(err, application.ErrNotFound) {
		t.Errorf("a version that never was: %v", err)
	}
}
