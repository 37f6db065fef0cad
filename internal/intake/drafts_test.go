package intake_test

import (
	"bytes"
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// Saving: the same edit twice is one, an equal text is no conflict, an older
// one is; what can never be kept says why, and the rest of its save is kept.
func TestWhatASaveKeeps(t *testing.T) {
	h, lead, c := programtest.Opened(t, nil)
	save := func(edits ...intake.Edit) []intake.Result {
		var out []intake.Result
		h.Held(lead, func(ctx context.Context, tx *db.Tx) (err error) {
			out, _, err = h.Intake.Save(ctx, tx, c, edits)
			return err
		})
		return out
	}
	site := func(version int, id, value string) intake.Edit {
		return intake.Edit{Place: form.Place{Question: "site"}, Version: version, EditID: id, Value: value}
	}
	after := func(e intake.Edit, lost ...string) intake.Edit { e.After = lost; return e }
	for _, s := range []struct {
		what    string
		edit    intake.Edit
		version int
		theirs  string
	}{
		{"the first", site(0, "edit-one", "the strand"), 1, ""},
		{"the same again, after a lost reply", site(0, "edit-one", "the strand"), 1, ""},
		{"typed on after a lost reply", after(site(0, "edit-on-1", "the strand at"), "edit-one"), 2, ""},
		{"and on, after two", after(site(0, "edit-on-2", "the strand"), "edit-one", "edit-on-1"), 3, ""},
		{"the next", site(3, "edit-two", "the west strand"), 4, ""},
		{"an older one, late", site(0, "edit-late", "a strand"), 4, "the west strand"},
		{"one that follows another's", after(site(3, "edit-late", "a strand"), "edit-on-2"), 4, "the west strand"},
		{"an older one that says the same", site(3, "edit-same", "the west strand"), 4, ""},
		{"emptied", site(4, "edit-none", ""), 5, ""},
	} {
		r := save(s.edit)[0]
		if r.Fault != "" || r.Version != s.version || r.Conflict != (s.theirs != "") || r.Theirs != s.theirs {
			t.Errorf("%s: %+v", s.what, r)
		}
	}
	column := func(q, row, col form.Key, value string) intake.Edit {
		return intake.Edit{Place: form.Place{Question: q, Row: string(row), Column: col}, EditID: "edit-column", Value: value}
	}
	faulty := []intake.Edit{
		{Place: form.Place{Question: "nobody"}, EditID: "edit-bad", Value: "x"},
		{Place: form.Place{Question: "site"}, EditID: "no", Value: "x"},
		site(3, "edit-nul", "a\x00b"), site(3, "edit-utf", "a\xffb"), site(3, "edit-long",
			strings.Repeat("x", intake.MostBytes+1)),
		{Place: form.Place{Question: "site"}, EditID: "edit-non", Non: form.NotKnown},
		column("post-address", "", "planet", "x"), column("budget", "row", "cost", "x"), column("budget", "r9999",
			form.ColCost, "1"), column("site", "r0001", "x", "y"),
	}
	for i, r := range save(append(faulty, intake.Edit{Place: form.Place{Question: "area"}, EditID: "edit-good",
		Value: "3.2"})...) {
		if bad := i < len(faulty); (r.Fault != "") != bad {
			t.Errorf("edit %d: %+v", i, r)
		}
	}
	rows, err := h.Cases.Answers(context.Background(), h.DB, c.EntryID)
	if err != nil {
		t.Fatal(err)
	}
	kept := map[form.Key]string{}
	for _, a := range rows {
		kept[a.Question] += a.Value
	}
	if len(kept) != 2 || kept["area"] != "3.2" || kept["site"] != "" {
		t.Errorf("kept is %v", kept)
	}
	many := make([]intake.Edit, intake.MostEdits+1)
	if err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
		_, _,
			err := h.Intake.Save(ctx, tx, c, many)
		return err
	}); err == nil {
		t.Error("a save of too many answers is taken")
	}
	h.Clock.Set(time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC))
	if err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
		_, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{site(3, "edit-after", "x")})
		return err
	}); !errors.Is(err, intake.ErrClosed) {
		t.Errorf("at the closing instant: %v", err)
	}
}

// Names of applications.
func TestTitles(t *testing.T) {
	for title, ok := range map[string]bool{"Reed beds": true, "芦苇床": true, "ab": false, "   ": false, "two\nlines": false,
		strings.Repeat("x", 120): true, strings.Repeat("x", 121): false, "nul\x00": false, "bad\xff utf": false} {
		if says := intake.CheckTitle(title); (says == "") != ok {
			t.Errorf("%.20q: %q", title, says)
		}
	}
}

// Files: one takes the place of another, several keep the order they are put
// in by hand, what cannot be opened is refused and says so, and nothing changes
// after the closing.
func TestFilesOfADraft(t *testing.T) {
	plan := programtest.Plan
	h, lead, c := programtest.Opened(t, func(d *form.Design) {
		for i := range d.Sections {
			for j := range d.Sections[i].Questions {
				if q := &d.Sections[i].Questions[j]; q.Key == "site-plan" {
					more := *q
					more.Key, more.Label = "more-plans", "More plans"
					more.Limits.Else.Slot = &slot.Limits{SizeMost: 1 << 20, FilesMost: 3}
					d.Sections[i].Questions = append(d.Sections[i].Questions, more)
					return
				}
			}
		}
	})
	ctx := context.Background()
	f, err := h.Rounds.Form(ctx, h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	put := func(q form.Key, name string, body []byte) material.File {
		t.Helper()
		m, err := h.Materials.PutInSlot(ctx, db.Account(lead), h.Clock.Now(), c, f.Question(q), name, int64(len(body)),
			bytes.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		return m
	}
	names := func() string {
		list, err := h.Materials.Of(ctx, h.DB, c.EntryID)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, m := range list {
			out = append(out, string(m.Slot)+"/"+m.Name)
		}
		return strings.Join(out, " ")
	}
	other := append(bytes.Clone(plan), '\n')
	put("site-plan", "old.pdf", plan)
	put("site-plan", `C:\maps\..\new.pdf`, other)
	a := put("more-plans", "a.pdf", plan)
	b := put("more-plans", "b.pdf", other)
	if got, want := names(), "site-plan/new.pdf more-plans/a.pdf more-plans/b.pdf"; got != want {
		t.Errorf("%s, want %s", got, want)
	}
	move := func(id int64, forward bool) {
		h.Held(lead, func(ctx context.Context, tx *db.Tx) error { return h.Materials.Move(ctx, tx, c, id, forward) })
	}
	move(b.ID, true)
	move(b.ID, true) // the first stays the first
	if got := names(); !strings.HasSuffix(got, "more-plans/b.pdf more-plans/a.pdf") &&
		!strings.HasPrefix(got, "more-plans/b.pdf") {
		t.Errorf("after b is brought forward: %s", got)
	}
	for _, bad := range []struct {
		name  string
		body  []byte
		fault slot.Fault
	}{{"empty.pdf", nil, slot.Empty}, {"words.pdf", []byte("only words"), ""}, {"cut.pdf", plan[:200], ""}} {
		m := put("more-plans", bad.name, bad.body)
		if m.State != slot.Refused && m.Facts.Kind == slot.PDF || bad.fault != "" && m.Finding != bad.fault {
			t.Errorf("%s: %s, %s", bad.name, m.State, m.Finding)
		}
		h.Held(lead, func(ctx context.Context, tx *db.Tx) error { return h.Materials.Remove(ctx, tx, c, m.ID) })
	}
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error { return h.Materials.Remove(ctx, tx, c, a.ID) })
	if err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
		return h.Materials.Remove(ctx, tx, c,
			a.ID)
	}); !errors.Is(err, material.ErrNotFound) {
		t.Errorf("taken out twice: %v", err)
	}
	if got := names(); strings.Contains(got, "a.pdf") || !strings.Contains(got, "b.pdf") {
		t.Errorf("after a is taken out: %s", got)
	}
	// another's file is not found from here
	_, foreign := begunBy(t, h, "sol@tarl.example")
	if _, err := h.Materials.Find(ctx, h.DB, b.ID, foreign.EntryID); !errors.Is(err, material.ErrNotFound) {
		t.Errorf("from another's application: %v", err)
	}
	h.Clock.Set(time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC))
	before := names()
	if _, err := h.Materials.PutInSlot(ctx, db.Account(lead), h.Clock.Now(), c, f.Question("site-plan"), "late.pdf",
		int64(len(plan)), bytes.NewReader(plan)); !errors.Is(err, material.ErrClosed) {
		t.Errorf("after the closing: %v", err)
	}
	if err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
		return h.Materials.Remove(ctx, tx, c,
			b.ID)
	}); !errors.Is(err, material.ErrClosed) {
		t.Errorf("taking out after the closing: %v", err)
	}
	if names() != before {
		t.Errorf("after the closing: %s, before %s", names(), before)
	}
}

func begunBy(t *testing.T, h *programtest.House, email string) (lead int64, c application.Case) {
	t.Helper()
	p := h.Person(email, "Sol Hart")
	h.Held(p.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		c, err = h.Intake.Start(ctx, tx, "shore-2027", "Peat dams", nil)
		return err
	})
	return p.ID, c
}

// Withdrawn before it is decided, it stays as it was sent, and cannot be sent
// or changed again.
func TestWithdrawn(t *testing.T) {
	h, lead, c := programtest.Opened(t, nil)
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error {
		_, _, err := h.Intake.Save(ctx, tx, c, programtest.Whole("Imre Calloway"))
		return err
	})
	h.Held(lead, func(ctx context.Context, tx *db.Tx) error { return h.Intake.Withdraw(ctx, tx, c) })
	if err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
		_,
			err := h.Intake.Send(ctx, tx, c)
		return err
	}); !errors.Is(err, intake.ErrNotDraft) {
		t.Errorf("sending it: %v", err)
	}
	if err := h.Try(lead, func(ctx context.Context, tx *db.Tx) error {
		return h.Intake.Withdraw(ctx, tx,
			c)
	}); err == nil {
		t.Error("it is withdrawn twice")
	}
	if got, err := h.Cases.Find(context.Background(), h.DB, c.Ref); err != nil || got.State != lifecycle.Withdrawn {
		t.Errorf("it is %s: %v", got.State, err)
	}
}
