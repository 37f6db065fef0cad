package reader_test

import (
	"bytes"
	"context"
	"fmt"
	"html"
	"image"
	"image/color"
	"image/jpeg"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/demo"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// The reader's next case on the server, with 40 files to see, names hidden, and texts
// of 3,000 words; beside reading its seal alone.
func BenchmarkCaseOf40(b *testing.B) {
	h, c := withFiles(b, slot.PDF, func(i int) (string, []byte) { return fmt.Sprintf("p%d.pdf", i), programtest.Plan })
	ref := c.Ref
	_, base := webtest.Serve(b, h)
	v := webtest.Visit(b, base)
	if code, _ := v.Submit("/sign-in", url.Values{"email": {"oriel@readers.example"},
		"password": {demo.Password}}); code != 303 {
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
			if code, body := v.See("/reading/" + ref); code != 200 || !webtest.Contains(body, "Sheet 39") {
				b.Fatal(code)
			}
		}
	})
}

// The light table of 40 pictures of 12 megapixels each: the bytes of its first view, which
// is the page and every picture small (browsers fetch those in sight first), against those of
// the pictures themselves; and how long the next picture takes, large, beside reading its
// file alone.
func BenchmarkLightOf40(b *testing.B) {
	originals := 0
	h, c := withFiles(b, slot.Picture, func(i int) (string, []byte) {
		img := image.NewRGBA(image.Rect(0, 0, 4000, 3000))
		for y := range 3000 {
			for x := range 4000 { // a view with detail all over
				img.SetRGBA(x, y, color.RGBA{uint8(x*y>>6 + i), uint8(x ^ y), uint8(x + y*i), 255})
			}
		}
		var out bytes.Buffer
		if err := jpeg.Encode(&out, img, &jpeg.Options{Quality: 60}); err != nil {
			b.Fatal(err)
		}
		originals += out.Len()
		return fmt.Sprintf("p%d.jpg", i), out.Bytes()
	})
	_, base := webtest.Serve(b, h)
	v := webtest.Visit(b, base).As("oriel@readers.example")
	code, page := v.See("/reading/" + c.Ref)
	if code != 200 {
		b.Fatal(code)
	}
	small := regexp.MustCompile(`/reading/[^"?]*materials/(\d+)[^"]*seen=small`).FindAllStringSubmatch(page, -1)
	if len(small) < 40 {
		b.Fatal(len(small), "pictures")
	}
	view := len(page)
	for _, m := range small {
		_, body := v.See(html.UnescapeString(m[0]))
		view += len(body)
	}
	var name string
	if err := h.DB.Get(&name, `SELECT sha256 FROM rendition WHERE made = 'large' LIMIT 1`); err != nil {
		b.Fatal(err)
	}
	n := 0
	b.Run("next picture", func(b *testing.B) {
		for b.Loop() {
			at := html.UnescapeString(strings.Replace(small[n%len(small)][0], "seen=small", "seen=large", 1))
			if code, _ := v.See(at); code != 200 {
				b.Fatal(code)
			}
			n++
		}
		b.ReportMetric(float64(view)/1024, "kB-first-view")
		b.ReportMetric(float64(originals)/float64(view), "originals-ratio")
	})
	b.Run("file alone", func(b *testing.B) {
		for b.Loop() {
			if _, err := os.ReadFile(h.Files.Path(name)); err != nil {
				b.Fatal(err)
			}
		}
	})
}

// withFiles is a case that is being read, names hidden, with 40 files and 3,000 words.
func withFiles(b *testing.B, kind slot.Kind, file func(i int) (name string, body []byte)) (*programtest.House,
	application.Case) {
	b.Helper()
	h := programtest.New(b)
	neda := webtest.Officer(h)
	h.OpenRound(neda, func(d *form.Design) {
		programtest.Short(d)
		d.HideNames = true
		d.Sections[0].Questions = append(d.Sections[0].Questions,
			form.Question{Key: "pictures", Kind: form.File, Label: "Pictures", Nature: form.Chosen, Blank: form.MeansNo,
				Seen: form.ToReaders,
				Limits: form.Cases[form.Limits]{Else: form.Limits{Slot: &slot.Limits{Kinds: []slot.Kind{kind},
					SizeMost: 8 << 20, FilesMost: 40,
					Details: []string{"Title"}}}}},
			form.Question{Key: "text", Kind: form.Long, Label: "What", Nature: form.Chosen, Blank: form.MeansUnknown,
				Seen: form.ToReaders})
	})
	lead := h.Person("ann@corvoe.example", "Ann Hart")
	r := &roundOf{h: h}
	var c application.Case
	h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		c, err = h.Intake.Start(ctx, tx, "shore-2027", "Forty", nil)
		return err
	})
	f, err := h.Rounds.Form(b.Context(), h.DB, c.DesignID)
	if err != nil {
		b.Fatal(err)
	}
	edits := append(programtest.WholeShort("5,000"),
		programtest.Edit("text", strings.Repeat("The reed beds of Corvoe are mown by Ann and others each autumn. ", 250)))
	for i := range 40 {
		name, body := file(i)
		m, err := h.Materials.PutInSlot(b.Context(), db.Account(lead.ID), h.Clock.Now(), c, f.Question("pictures"), name,
			int64(len(body)), bytes.NewReader(body))
		if err != nil {
			b.Fatal(err)
		}
		edits = append(edits, intake.Edit{Place: form.Place{Question: "pictures", Row: form.FileRow(m.ID),
			Column: form.DetailColumn(0)}, EditID: "planted",
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
	return h, c
}
