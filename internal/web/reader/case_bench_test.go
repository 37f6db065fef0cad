package reader_test

import (
	"bytes"
	"context"
	"fmt"
	"net/url"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/demo"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The reader's next case on the server, with 40 files to see, names hidden, and texts
// of 3,000 words; beside reading its seal alone.
func BenchmarkCaseOf40(b *testing.B) {
	h := programtest.New(b)
	neda := webtest.Officer(h)
	h.OpenRound(neda, func(d *form.Design) {
		programtest.Short(d)
		d.HideNames = true
		d.Sections[0].Questions = append(d.Sections[0].Questions,
			form.Question{Key: "pictures", Kind: form.File, Label: "Pictures", Nature: form.Chosen, Blank: form.MeansNo, Seen: form.ToReaders,
				Limits: form.Cases[form.Limits]{Else: form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{slot.PDF},
					SizeMost: 8 << 20, FilesMost: 40,
					Details: []string{"Title"}}}}},
			form.Question{Key: "text", Kind: form.Long, Label: "What", Nature: form.Chosen, Blank: form.MeansUnknown, Seen: form.ToReaders})
	})
	lead := h.Person("ann@corvoe.example", "Ann Hart")
	r := &roundOf{h: h}
	var ref string
	h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := h.Intake.Start(ctx, tx, "shore-2027", "Forty", nil)
		ref = c.Ref
		return err
	})
	c, err := h.Cases.Find(b.Context(), h.DB, ref)
	if err != nil {
		b.Fatal(err)
	}
	f, err := h.Rounds.Form(b.Context(), h.DB, c.DesignID)
	if err != nil {
		b.Fatal(err)
	}
	edits := append(programtest.WholeShort("5,000"), programtest.Edit("text", strings.Repeat("The reed beds of Corvoe are mown by Ann and others each autumn. ", 250)))
	for i := range 40 {
		m, err := h.Materials.PutInSlot(b.Context(), db.Account(lead.ID), h.Clock.Now(), c, f.Question("pictures"), fmt.Sprintf("p%d.pdf", i),
			int64(len(programtest.Plan)), bytes.NewReader(programtest.Plan))
		if err != nil {
			b.Fatal(err)
		}
		edits = append(edits, intake.Edit{Place: form.Place{Question: "pictures", Row: form.FileRow(m.ID), Column: form.DetailColumn(0)}, EditID: "planted",
			Value: fmt.Sprintf("Sheet %d", i)})
	}
	h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
		if _, _, err := h.Intake.Save(ctx, tx, c, edits); err != nil {
			return err
		}
		c, err = h.Intake.Send(ctx, tx, c)
		return err
	})
	h.Drain()
	r.reads(b, neda, c)
	_, base := webtest.Serve(b, h)
	v := webtest.Visit(b, base)
	if code, _ := v.Submit("/sign-in", url.Values{"email": {"oriel@readers.example"}, "password": {demo.Password}}); code != 303 {
		v = webtest.Visit(b, base).As("oriel@readers.example")
	}
	b.Run("seal alone", func(b *testing.B) {
		for b.Loop() {
			if _, err := h.Cases.Sealed(b.Context(), h.DB, *c.SealID); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("page", func(b *testing.B) {
		for b.Loop() {
			if code, body := v.See("/reading/" + ref); code != 200 || !strings.Contains(body, "Sheet 39") {
				b.Fatal(code)
			}
		}
	})
}
