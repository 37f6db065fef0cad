package guest_test

import (
	"bytes"
	"context"
	"fmt"
	"net/url"
	"os"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reference"
	"ulvant/internal/web/webtest"
)

// Somebody in a picture sees that picture before they let it be shown, and no other file of
// the case; when another takes its place, what they said counts no more and they are asked
// again.
func TestWhoeverIsInAPicture(t *testing.T) {
	t.Parallel()
	h, lead, c := programtest.Opened(t, func(d *form.Design) {
		programtest.WithSlot("pictures", "Pictures", slot.Limits{Kinds: []slot.Kind{slot.Picture}, SizeMost: 8 << 20})(d)
		q := form.Question{Key: "people-shown", Kind: form.Signatory, Label: "People in the picture", Nature: form.Chosen,
			Blank: form.MeansNo, Seen: form.ToOffice, Ask: &form.Ask{Who: "somebody in the picture",
				Wants: "I may be seen in this picture.", Shows: []form.Key{"pictures"}}}
		q.Limits.Else.Referees = 3
		for i := range d.Sections {
			if d.Sections[i].Key == "references" {
				d.Sections[i].Questions = append(d.Sections[i].Questions, q)
			}
		}
	})
	f, err := h.Rounds.Form(t.Context(), h.DB, c.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	put := func(k form.Key, path string) int64 {
		body, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		m, err := h.Materials.PutInSlot(t.Context(), db.Account(lead), h.Clock.Now(), c, f.Question(k),
			path[strings.LastIndex(path, "/")+1:],
			int64(len(body)), bytes.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		return m.ID
	}
	const fixtures = "../../../../shared/check-fixtures/"
	picture, plan := put("pictures", fixtures+"p300.png"), put("site-plan", "../../programtest/testdata/plan.pdf")
	h.Act(lead, func(ctx context.Context, tx *db.Tx) (err error) {
		_, err = h.Referees.Name(ctx, tx, c, "people-shown", reference.Person{Name: "Oona Reed", Email: "oona@corvoe.example",
			Knows: "she holds the spade"})
		return err
	})
	_, base := webtest.Serve(t, h)
	v := webtest.Visit(t, base)
	at := webtest.Link(t, h, "oona@corvoe.example")
	at = at[strings.Index(at, "/letter/"):]
	_, page := v.See(at)
	for _, want := range []string{"I may be seen in this picture.", fmt.Sprintf("/shown/%d?seen=small", picture)} {
		if !webtest.Contains(page, want) {
			t.Errorf("no %q on the page", want)
		}
	}
	for path, want := range map[string]int{fmt.Sprintf("/shown/%d?seen=large", picture): 200,
		fmt.Sprintf("/shown/%d", plan): 404,
		"/shown/99999":                 404, "/shown/x": 404} {
		if code, _ := v.See(at + path); code != want {
			t.Errorf("%s: %d, want %d", path, code, want)
		}
	}
	print := webtest.RegexpValue(t, page, `name="print_" value="([0-9a-f]{64})"`)
	if code, _ := v.Submit(at+"/answer", url.Values{"answer_": {"yes"}, "print_": {print}}); code != 303 {
		t.Fatalf("confirming: %d", code)
	}
	standing := func() (form.Code, bool) {
		filled, err := h.Cases.Filled(t.Context(), h.DB, c, f, h.Clock.Now())
		if err != nil {
			t.Fatal(err)
		}
		for _, o := range f.Walk(filled).Obstacles {
			if o.Name == "Oona Reed" {
				return o.Code, true
			}
		}
		return "", false
	}
	if code, ok := standing(); ok {
		t.Errorf("she has confirmed, and %s stands in the way", code)
	}
	put("pictures", fixtures+"p72.png")
	if code, _ := standing(); code != form.CodeConfirmedOther {
		t.Errorf("another picture: %q stands in the way", code)
	}
}
