package material_test

import (
	"bytes"
	"context"
	"errors"
	"os"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/refusal"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// A file on the shelf is part of nothing until it is attached; it is then judged by
// the slot, stays where it is attached when it goes off the shelf, and nobody else's
// shelf is anybody's business.
func TestTheShelf(t *testing.T) {
	s := open(t)
	ctx := context.Background()
	lead := s.c.LeadID
	other := s.Draft("bo@corvoe.example")
	shelve := func(who int64, name string, body []byte) (int64, error) {
		return s.Materials.Shelve(ctx, db.Account(who), s.Clock.Now(), 0, "", name, calendar.NewDate(2027, time.May, 31),
			int64(len(body)), bytes.NewReader(body))
	}
	attach := func(who int64, c application.Case, id int64) error {
		return s.Try(who, func(ctx context.Context, tx *db.Tx) error {
			return s.Materials.Attach(ctx, tx, c, s.f.Question("site-plan"), id)
		})
	}
	onShelf := func(who int64) (out []material.Shelved) {
		out, err := s.Materials.Shelf(ctx, s.DB, who)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	for name, body := range map[string][]byte{"words.pdf": []byte("words"), "none.pdf": nil,
		"huge.pdf": make([]byte, slot.MostPlain+1)} {
		if _, err := shelve(lead, name, body); err == nil {
			t.Errorf("%s is on the shelf", name)
		} else if no, ok := refusal.Of(err); !ok || !strings.Contains(no.Sentence(), name) {
			t.Errorf("%s: %v", name, err)
		}
	}
	id, err := shelve(lead, "plan.pdf", programtest.Plan)
	if err != nil {
		t.Fatal(err)
	}
	list := onShelf(lead)
	if len(list) != 1 || list[0].Facts.Pages != 2 || list[0].MIME != "application/pdf" || len(list[0].Uses) != 0 ||
		list[0].OutOfDate(
			calendar.NewDate(2027, time.May, 31),
		) || !list[0].OutOfDate(calendar.NewDate(2027, time.June, 1)) {
		t.Fatalf("on the shelf: %+v", list)
	}
	if s.names(t) != "" {
		t.Errorf("on the shelf is attached: %s", s.names(t))
	}
	if len(onShelf(other.LeadID)) != 0 {
		t.Error("it is on everybody's shelf")
	}
	if err := attach(other.LeadID, other, id); !errors.Is(err, material.ErrNotShelved) {
		t.Errorf("somebody else attaches it: %v", err)
	}
	if _, err := s.put("site-plan", "old.pdf", programtest.Plan); err != nil {
		t.Fatal(err)
	}
	if err := attach(lead, s.c, id); err != nil || s.names(t) != "plan.pdf" {
		t.Fatalf("attached in place of the old one: %s %v", s.names(t), err)
	}
	if uses := onShelf(lead)[0].Uses; len(uses) != 1 || uses[0].Ref != s.c.Ref || uses[0].Title != "Reed beds" {
		t.Errorf("where it is used: %+v", uses)
	}
	if err := s.Try(other.LeadID, func(ctx context.Context, tx *db.Tx) error {
		return s.Materials.TakeOff(ctx, tx, id)
	}); !errors.Is(err, material.ErrNotShelved) {
		t.Errorf("somebody else takes it off: %v", err)
	}
	s.Held(lead, func(ctx context.Context, tx *db.Tx) error { return s.Materials.TakeOff(ctx, tx, id) })
	if len(onShelf(lead)) != 0 || s.names(t) != "plan.pdf" {
		t.Errorf("off the shelf: %d, attached: %s", len(onShelf(lead)), s.names(t))
	}
	if err := attach(lead, s.c, id); !errors.Is(err, material.ErrNotShelved) {
		t.Errorf("attached from nowhere: %v", err)
	}
	files, err := s.Materials.Of(ctx, s.DB, s.c.EntryID)
	if err != nil || len(files) != 1 {
		t.Fatal(files, err)
	}
	sweeps := func(at time.Time) bool { // reports whether the bytes are still there
		t.Helper()
		if err := s.Materials.Sweep(ctx, at); err != nil {
			t.Fatal(err)
		}
		_, err := os.Stat(s.Files.Path(files[0].SHA256))
		return err == nil
	}
	if !sweeps(s.Clock.Now().Add(48 * time.Hour)) {
		t.Error("what is attached was swept")
	}
	// kept on the shelf from the slot, it outlives the application's own copy
	s.Held(lead, func(ctx context.Context, tx *db.Tx) error {
		return s.Materials.ShelveAttached(ctx, tx, s.c, files[0].ID)
	})
	s.Act(lead, func(ctx context.Context, tx *db.Tx) error {
		return s.Materials.ShelveAttached(ctx, tx, s.c, files[0].ID) // twice is once
	})
	if list := onShelf(lead); len(list) != 1 || list[0].GoodUntil != nil || len(list[0].Uses) != 1 {
		t.Fatalf("kept from the slot: %+v", list)
	}
	s.Act(0, func(ctx context.Context, tx *db.Tx) error { return s.Materials.Erase(ctx, tx, s.c.EntryID) })
	if !sweeps(s.Clock.Now().Add(96 * time.Hour)) {
		t.Error("what is on a shelf was swept with the application")
	}
	s.Held(lead, func(ctx context.Context, tx *db.Tx) error { // as who leaves does
		return s.Materials.EmptyShelf(ctx, tx, lead)
	})
	if len(onShelf(lead)) != 0 {
		t.Error("the shelf is not empty")
	}
	if !sweeps(s.Clock.Now().Add(23 * time.Hour)) {
		t.Error("it went before its day was over")
	}
	if sweeps(s.Clock.Now().Add(25 * time.Hour)) {
		t.Error("nobody holds it, and it stays")
	}
}

// At the closing nothing can be attached any more.
func TestAttachingTooLate(t *testing.T) {
	s := open(t)
	id, err := s.Materials.Shelve(context.Background(), db.Account(s.c.LeadID), s.Clock.Now(), 0, "", "plan.pdf", 0,
		int64(len(programtest.Plan)), bytes.NewReader(programtest.Plan))
	if err != nil {
		t.Fatal(err)
	}
	s.Clock.Set(time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC))
	if err := s.Try(s.c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		return s.Materials.Attach(ctx, tx, s.c, s.f.Question("site-plan"), id)
	}); !errors.Is(err, material.ErrClosed) {
		t.Error(err)
	}
}

// An organisation's shelf is filled and used by those who act for it, and by nobody else.
func TestTheShelfOfAnOrganisation(t *testing.T) {
	s := open(t)
	ctx := context.Background()
	other := s.Draft("bo@corvoe.example")
	var body int64
	if err := s.DB.Get(
		&body,
		`INSERT INTO profile (kind, name, state, made_at, facts_at) VALUES ('organisation', 'Corvoe Common', '', $1, $1) RETURNING id`,
		s.Clock.Now(),
	); err != nil {
		t.Fatal(err)
	}
	if _, err := s.DB.Exec(
		`INSERT INTO profile_member (profile_id, account_id, kind, since) VALUES ($1, $2, 'authorised', $3)`,
		body,
		s.c.LeadID,
		s.Clock.Now(),
	); err != nil {
		t.Fatal(err)
	}
	for who, want := range map[int64]error{s.c.LeadID: nil, other.LeadID: material.ErrNotShelved} {
		if _, err := s.Materials.Shelve(ctx, db.Account(who), s.Clock.Now(), body, "", "accounts.pdf", 0,
			int64(len(programtest.Plan)), bytes.NewReader(programtest.Plan)); !errors.Is(err, want) {
			t.Errorf("account %d fills it: %v, want %v", who, err, want)
		}
	}
	for who, want := range map[int64]string{s.c.LeadID: "Corvoe Common", other.LeadID: ""} {
		list, err := s.Materials.Shelf(ctx, s.DB, who)
		if err != nil || len(list) > 1 || (len(list) == 1) != (want != "") || want != "" && list[0].Holder != want {
			t.Errorf("account %d sees %+v, %v", who, list, err)
		}
	}
}
