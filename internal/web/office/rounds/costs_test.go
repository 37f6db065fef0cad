package rounds_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// What a round is asked for, and its lines across cases: six budgets that are in
// and a draft that is nobody's business. One excavator costs more than three
// times what the others pay.
func TestCostsOfARound(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	h.OpenRound(webtest.Officer(h), func(d *form.Design) {
		programtest.Short(d)
		for i := range d.Sections {
			for j := range d.Sections[i].Questions {
				if q := &d.Sections[i].Questions[j]; q.Keeps() == form.InLines {
					t.Fatal("the short round has a budget")
				}
			}
		}
		d.Sections[0].Questions = append(
			d.Sections[0].Questions,
			form.Question{Key: "costs", Kind: form.Budget, Label: "Costs",
				Nature: form.Chosen, Blank: form.Required, Seen: form.ToReaders, Request: "request",
				Options: []form.Option{{Key: "plant", Label: "Plant"}, {Key: "people", Label: "People"}},
				Costing: &form.Costing{Quantities: true, Sources: []form.Key{"own"}}},
		)
	})
	write := func(name, each string, sends bool) {
		lead := h.Person(name+"@corvoe.example", name)
		h.Act(lead.ID, func(ctx context.Context, tx *db.Tx) error {
			c, err := h.Intake.Start(ctx, tx, "shore-2027", name+"’s work", nil)
			if err != nil {
				return err
			}
			edits := []intake.Edit{programtest.Edit("request", "6000"), programtest.Edit("land-leave", "yes")}
			for row, cells := range map[string]map[form.Key]string{
				"r0001": {"item": "Excavator", "heading": "plant", "quantity": "2", "unit": "day", "each": each, "own": "=" + each},
				"r0002": {"item": "Wages", "heading": "people", "quantity": "1", "unit": "lot", "each": "6000",
					"from-us": "6000"}} {
				for col, v := range cells {
					if strings.HasPrefix(v, "=") {
						var n int
						fmt.Sscan(v[1:], &n)
						v = fmt.Sprint(2 * n)
					}
					edits = append(
						edits,
						intake.Edit{
							Place:  form.Place{Question: "costs", Row: row, Column: col},
							EditID: "costs-of",
							Value:  v,
						},
					)
				}
			}
			if _, _, err := h.Intake.Save(ctx, tx, c, edits); err != nil || !sends {
				return err
			}
			_, err = h.Intake.Send(ctx, tx, c)
			return err
		})
	}
	for i, each := range []string{"100", "100", "110", "90", "100", "340"} {
		write(fmt.Sprint("lead", i), each, true)
	}
	write("draft", "9000", false)
	h.Drain()
	neda := webtest.Visit(t, base).As("neda@ostrel-trust.example")
	code, page := neda.See("/office/rounds/shore-2027/costs")
	for _, says := range []string{"6 budgets that are in", "€1,680", "€36,000", "3.4 ×", "6 cases, of the same name",
		"12 of 12 lines can be compared"} {
		if code != 200 || !webtest.Contains(page, says) {
			t.Errorf("%d: %q is not on the page", code, says)
		}
	}
	if webtest.Contains(page, "9,000") || webtest.Contains(page, "draft’s work") {
		t.Error("a draft is read")
	}
	if _, raw := neda.See("/office/rounds/shore-2027/costs.csv"); strings.Count(raw, "\n") != 13 ||
		!strings.Contains(raw, "3.4,6") {
		t.Errorf("%s", raw)
	}
	if code, _ := webtest.Visit(t, base).As("lead0@corvoe.example").See("/office/rounds/shore-2027/costs"); code != 404 &&
		code != 403 {
		t.Errorf("an applicant sees it: %d", code)
	}
}
