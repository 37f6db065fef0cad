package reader_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"codeberg.org/go-pdf/fpdf"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/check"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// pages is a PDF with a text on each page; "" for a page that is a scan.
func pages(t *testing.T, texts ...string) []byte {
	t.Helper()
	pdf := fpdf.New("P", "mm", "A4", "")
	for _, s := range texts {
		pdf.AddPage()
		if s != "" {
			pdf.SetFont("Helvetica", "", 12)
			pdf.Text(20, 20, s)
		}
	}
	var out bytes.Buffer
	if err := pdf.Output(&out); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// Where names are hidden and one stands inside a file: the case waits until somebody has
// looked; until they say that readers may have the file, whoever reads it has its words
// without the name, and of what nobody can read, nothing.
func TestANameInsideAFile(t *testing.T) {
	t.Parallel()
	const name = "Quillfeather"
	h := programtest.New(t)
	neda := webtest.Officer(h)
	h.OpenRound(neda, shows(true))
	lead := h.Person("z@corvoe.example", "Zenobia "+name)
	c := plant(t, h, lead.ID, name, "beds.pdf", pages(t, "The reed beds", "Drawn by Zenobia "+name+" in May"),
		"clean.pdf", pages(t, "The reed beds from the sea"), "scan.pdf", pages(t, ""))
	f, err := h.Rounds.Form(t.Context(), h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	ids := map[string]int64{}
	_, sealed := sealOf(t, h, c)
	for _, x := range sealed.Decoded.Files {
		ids[x.Name] = x.ID
	}
	h.Drain()
	list, err := h.Checks.Of(t.Context(), h.DB, c.EntryID)
	if err != nil {
		t.Fatal(err)
	}
	var said string
	for _, x := range list {
		if x.Rule == form.NamesRule("pictures") {
			said = x.Reason
		} else if strings.HasPrefix(string(x.Rule), "names-") {
			t.Errorf("%s: %s", x.Rule, x.Reason)
		}
	}
	if want := "Names are hidden in this round. beds.pdf says “Zenobia " + name +
		"”, first on page 2. scan.pdf is a scan"; !strings.HasPrefix(said, want) ||
		strings.Contains(said, "clean.pdf") || h.StateOf(c) != lifecycle.Complete {
		t.Fatalf("%q, and the case is %s", said, h.StateOf(c))
	}
	shown := func(file string) (check.Shown, string) {
		t.Helper()
		c, s := sealOf(t, h, c)
		how, text, err := h.Checks.ShownTo(t.Context(), h.Clock.Now(), c, f, &s.Decoded, ids[file])
		if err != nil {
			t.Fatal(err)
		}
		return how, text
	}
	if how, text := shown("beds.pdf"); how != check.ItsWords || strings.Contains(text, name) ||
		!strings.Contains(text, "The reed beds") || !strings.Contains(text, "Drawn by ▮▮▮ in May") {
		t.Errorf("before anybody has looked: %s %q", how, text)
	}
	if how, _ := shown("scan.pdf"); how != check.NotShown {
		t.Errorf("the scan before anybody has looked: %s", how)
	}
	if how, _ := shown("clean.pdf"); how != check.AsItIs {
		t.Errorf("the file without a name: %s", how)
	}
	h.Act(neda, func(ctx context.Context, tx *db.Tx) error {
		return h.Checks.Settle(ctx, tx, c, form.NamesRule("pictures"), true,
			"She is the draughtswoman of the island, not the applicant.")
	})
	for _, file := range []string{"beds.pdf", "clean.pdf", "scan.pdf"} {
		if how, _ := shown(file); how != check.AsItIs {
			t.Errorf("%s when somebody has looked: %s", file, how)
		}
	}
	// what comes under the same question afterwards was seen by nobody
	if _, err := h.DB.ExecContext(t.Context(), `UPDATE material SET at = $2 WHERE id = $1`, ids["beds.pdf"],
		h.Clock.Now().Add(time.Minute)); err != nil {
		t.Fatal(err)
	}
	if how, _ := shown("beds.pdf"); how != check.ItsWords {
		t.Errorf("one that came after somebody had looked: %s", how)
	}
}

func sealOf(t *testing.T, h *programtest.House, c application.Case) (application.Case, application.Seal) {
	t.Helper()
	c, err := h.Cases.ByEntry(t.Context(), h.DB, c.EntryID)
	if err != nil {
		t.Fatal(err)
	}
	s, err := h.Cases.Now(t.Context(), h.DB, *c.SealID)
	if err != nil {
		t.Fatal(err)
	}
	return c, s
}

// A letter's file that comes when the case is read already: whoever reads it has its words.
func TestANameInsideALetterThatComesLate(t *testing.T) {
	t.Parallel()
	const name = "Quillfeather"
	h := programtest.New(t)
	neda := webtest.Officer(h)
	h.OpenRound(neda, shows(true))
	lead := h.Person("z@corvoe.example", "Zenobia "+name)
	c := plant(t, h, lead.ID, name)
	h.Drain()
	r := &roundOf{h: h}
	reader := r.reads(t, neda, c)
	var letter int64
	if err := h.DB.GetContext(t.Context(), &letter, `SELECT id FROM material WHERE referee_id IS NOT NULL`); err != nil {
		t.Fatal(err)
	}
	// its words change, as if the letter had come now: the page is the same, what it says is not
	words := fmt.Sprintf(`{"pages":["I have known Zenobia %s for years."]}`, name)
	sum, _, err := h.Files.Put(strings.NewReader(words))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := h.DB.ExecContext(t.Context(), `UPDATE rendition SET sha256 = $1
		WHERE made = 'words' AND made_of = (SELECT sha256 FROM material WHERE id = $2)`, sum, letter); err != nil {
		t.Fatal(err)
	}
	_, base := webtest.Serve(t, h)
	v := webtest.Visit(t, base).As(reader)
	res, err := v.Get(fmt.Sprintf("%s/reading/%s/materials/%d", base, c.Ref, letter))
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	if err != nil {
		t.Fatal(err)
	}
	if res.StatusCode != http.StatusOK || string(body) != "I have known ▮▮▮ for years." ||
		!strings.HasPrefix(res.Header.Get("Content-Type"), "text/plain") {
		t.Errorf("%d %s %q", res.StatusCode, res.Header.Get("Content-Type"), body)
	}
}
