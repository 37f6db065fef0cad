package reader_test

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"codeberg.org/go-pdf/fpdf"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
	"ulvant/internal/web/webtest"
)

// signed is a PDF whose properties name its author everywhere they can.
func signed(t *testing.T, name string) []byte {
	t.Helper()
	pdf := fpdf.New("P", "mm", "A4", "")
	pdf.SetAuthor(name, true)
	pdf.SetTitle("A plan by "+name, true)
	pdf.SetSubject(name, true)
	pdf.SetCreator(name, true)
	pdf.SetKeywords(name, true)
	pdf.SetXmpMetadata([]byte("<x:xmpmeta xmlns:x=\"adobe:ns:meta/\"><dc:creator xmlns:dc=\"http://purl.org/dc/elements/1.1/\">" +
		name + "</dc:creator></x:xmpmeta>"))
	for range 2 {
		pdf.AddPage()
		pdf.SetFont("Helvetica", "", 12)
		pdf.Text(20, 20, "The reed beds")
	}
	var out bytes.Buffer
	if err := pdf.Output(&out); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// shows a design's questions to readers, but for those that say who it is.
func shows(hidden bool) func(*form.Design) {
	return func(d *form.Design) {
		d.HideNames = hidden
		programtest.WithSlot("pictures", "Pictures", slot.Limits{Kinds: []slot.Kind{slot.PDF}, SizeMost: 8 << 20,
			FilesMost: 5,
			Details:   []string{"Title", "Who drew it"}})(d)
		for i := range d.Sections {
			for j := range d.Sections[i].Questions {
				if q := &d.Sections[i].Questions[j]; q.Seen != form.ToOffice || !q.Identifies() {
					q.Seen = form.ToReaders
				}
			}
		}
	}
}

// The name of whoever applies is planted in every text somebody can write, in a title,
// captions, file names, the properties of files, a letter, the name of its file and
// who wrote it. Where names are hidden no page, picture, file or link that a reader
// can reach has it; where they are not, the same search finds it.
func TestNamesAreHidden(t *testing.T) {
	t.Parallel()
	const name = "Quillfeather"
	for _, hidden := range []bool{true, false} {
		h := programtest.New(t)
		neda := webtest.Officer(h)
		h.OpenRound(neda, shows(hidden))
		lead := h.Person("z@corvoe.example", "Zenobia "+name)
		c := plant(t, h, lead.ID, name)
		h.Drain()
		r := &roundOf{h: h}
		reader := r.reads(t, neda, c)
		_, base := webtest.Serve(t, h)
		v := webtest.Visit(t, base).As(reader)
		found := r.search(t, v, base, c.Ref, name)
		switch {
		case hidden && len(found) > 0:
			t.Errorf("names are hidden, and %s stands in %s", name, strings.Join(found, "; "))
		case !hidden && len(found) < 2:
			t.Errorf("names are not hidden, and %s is found only in %v: the search finds nothing", name, found)
		}
	}
}

// plant writes an application with a name wherever there is room, and sends it; more are
// further pictures, the name of each and its bytes.
func plant(t *testing.T, h *programtest.House, lead int64, name string, more ...any) (c application.Case) {
	t.Helper()
	var referee int64
	h.Act(lead, func(ctx context.Context, tx *db.Tx) (err error) {
		if c, err = h.Intake.Start(ctx, tx, "shore-2027", name+"’s reed beds", nil); err != nil {
			return err
		}
		var edits []intake.Edit
		add := func(p form.Place, v string) {
			edits = append(edits, intake.Edit{Place: p, EditID: "planted", Value: v})
		}
		for k, v := range map[form.Key]string{"applicant-kind": "common", "body-name": name + " Common", "district": "corvoe",
			"site": "At " + name + "’s strand", "land-leave": "yes", "site-access": "road", "repair-kind": "shore", "area": "1",
			"describe": "I, Zenobia " + name + ", plant reed; ask zenobia@" + strings.ToLower(name) +
				".example or see https://" + strings.ToLower(name) + ".example/reed.",
			"afterwards": name + ", Zenobia, does.", "start": "2027-07-01", "request": "5000", "paid-elsewhere": "no",
			"true": "yes", "may-visit": "yes",
			"signed": "Zenobia " + name} {
			add(form.Place{Question: k}, v)
		}
		for k, v := range map[form.Key]string{"street": "1 " + name + " Row", "town": "Corvoe", "postcode": "OI4"} {
			add(form.Place{Question: "post-address", Column: k}, v)
		}
		for k, v := range map[form.Key]string{form.ColItem: name + " reed", form.ColCost: "6000", form.ColUs: "5000",
			form.ColPayer: "own money"} {
			add(form.Place{Question: "budget", Row: "r0001", Column: k}, v)
		}
		if _, _, err = h.Intake.Save(ctx, tx, c, edits); err != nil {
			return err
		}
		if referee, err = h.Referees.Name(ctx, tx, c, "site-referee", reference.Person{Name: "Dacian " + name,
			Email: "dacian@wardens.example",
			Knows: "her brother, " + name}); err != nil {
			return err
		}
		return h.Referees.Accept(ctx, tx, referee)
	})
	f, err := h.Rounds.Form(t.Context(), h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	put := func(k form.Key, file string, body []byte) {
		m, err := h.Materials.PutInSlot(t.Context(), db.Account(lead), h.Clock.Now(), c, f.Question(k), file,
			int64(len(body)), bytes.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		if k != "pictures" {
			return
		}
		h.Act(lead, func(ctx context.Context, tx *db.Tx) error {
			_, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{
				{Place: form.Place{Question: k, Row: form.FileRow(m.ID), Column: form.DetailColumn(0)}, EditID: "planted",
					Value: "A view by " + name},
				{Place: form.Place{Question: k, Row: form.FileRow(m.ID), Column: form.DetailColumn(1)}, EditID: "planted",
					Value: "Zenobia " + name}})
			return err
		})
	}
	body := signed(t, name)
	put("site-plan", name+" plan.pdf", body)
	put("pictures", "drawn by "+name+".pdf", body)
	for i := 0; i < len(more); i += 2 {
		put("pictures", more[i].(string), more[i+1].([]byte))
	}
	if _, err := h.Referees.PutPage(t.Context(), db.Actor{Kind: "link", ID: 1}, h.Clock.Now(), referee,
		"from "+name+".pdf", int64(len(body)), bytes.NewReader(body)); err != nil {
		t.Fatal(err)
	}
	h.Act(lead, func(ctx context.Context, tx *db.Tx) error {
		x, _, err := h.Referees.Load(ctx, tx, referee)
		if err != nil {
			return err
		}
		if err := h.Referees.Keep(ctx, tx, referee, reference.Draft{Version: x.Version, Text: "Zenobia " + name +
			" is sound. Dacian " + name}); err != nil {
			return err
		}
		if err := h.Referees.Send(ctx, tx, referee); err != nil {
			return err
		}
		c, err = h.Intake.Send(ctx, tx, c)
		return err
	})
	return c
}

type roundOf struct{ h *programtest.House }

// reads has the case read by somebody, whose address it returns.
func (r *roundOf) reads(t testing.TB, officer int64, c application.Case) string {
	t.Helper()
	h := r.h
	rd, err := h.Rounds.Find(t.Context(), h.DB, "shore-2027")
	if err != nil {
		t.Fatal(err)
	}
	f, err := h.Rounds.Published(t.Context(), h.DB, rd)
	if err != nil {
		t.Fatal(err)
	}
	for _, who := range []string{"Oriel Vane", "Teodora Brisk"} {
		email := strings.ToLower(strings.Fields(who)[0]) + "@readers.example"
		h.Person(email, who)
		h.Act(officer, func(ctx context.Context, tx *db.Tx) error {
			_, err := h.Reading.Invite(ctx, tx, rd, email, who)
			return err
		})
	}
	h.Clock.Set(f.HandsOutFrom())
	h.Drain()
	h.Act(officer, func(ctx context.Context, tx *db.Tx) error {
		out, err := h.Reading.HandOut(ctx, tx, rd, f, nil)
		if err == nil && out.Cases != 1 {
			t.Errorf("%d cases are given out; it is %s", out.Cases, h.StateOf(c))
		}
		return err
	})
	return "oriel@readers.example"
}

var leads = regexp.MustCompile(`(?:href|src|data-src|data-href|data-paper|action)="(/reading[^"]*)"`)

// search goes through all that a reader can reach below their desk, by its links, and
// lists where a name stands.
func (r *roundOf) search(t *testing.T, v *webtest.Visitor, base, ref, name string) (found []string) {
	t.Helper()
	seen, queue := map[string]bool{}, []string{"/reading", "/reading/" + ref, "/reading/light"}
	for len(queue) > 0 {
		path := queue[0]
		queue = queue[1:]
		if seen[path] {
			continue
		}
		seen[path] = true
		res, err := v.Get(base + path)
		if err != nil {
			t.Fatal(err)
		}
		body, err := io.ReadAll(res.Body)
		res.Body.Close()
		if err != nil {
			t.Fatal(err)
		}
		if strings.Contains(strings.ToLower(string(body)+res.Header.Get("Content-Disposition")), strings.ToLower(name)) {
			found = append(found, path)
		}
		if !strings.HasPrefix(http.DetectContentType(body), "text/html") {
			continue
		}
		for _, m := range leads.FindAllStringSubmatch(string(body), -1) {
			queue = append(queue, strings.ReplaceAll(m[1], "&amp;", "&"))
		}
	}
	if len(seen) < 6 {
		t.Errorf("only %d addresses were looked at", len(seen))
	}
	return found
}
