package proof

import (
	"context"
	"strings"
	"testing"

	"ulvant/core/calendar"
	"ulvant/core/form"
)

// What the fees of a round say and never do is found, and a round whose fees do
// what they say has none of it.
func TestPlantedFees(t *testing.T) {
	plain := func(n int64, later ...form.Rise) form.Cases[form.Price] {
		return form.Cases[form.Price]{Else: form.Price{Amount: n, Later: later}}
	}
	for what, c := range map[string]struct {
		change func(*form.Design)
		says   string // "" for nothing
	}{
		"as it should be": {func(*form.Design) {}, ""},
		"nobody is asked": {func(d *form.Design) { d.Sections[0].Questions = d.Sections[0].Questions[:1] },
			"no question asks about them"},
		"dearer after closing": {func(d *form.Design) {
			d.Fees[0].Price = plain(6_000, form.Rise{From: form.Closes, Amount: 9_000})
		}, "when the round is closed"},
		"dearer from the start": {func(d *form.Design) {
			d.Fees[0].Price = plain(6_000, form.Rise{From: form.Opens, Amount: 9_000})
		}, "nobody ever pays the price before it"},
		"a bundle that saves nothing": {func(d *form.Design) { d.Fees[2].Price = plain(7_800) },
			"nobody is ever given the bundle"},
		"a code for nothing": {func(d *form.Design) { d.Codes[0].Percent = 0 }, "takes nothing off"},
		"a code that is over": {func(d *form.Design) { d.Codes[0].Until = calendar.NewDate(2020, 1, 1) },
			"before the round opens"},
		"an invoice without an account": {func(d *form.Design) {
			d.Payment = &form.Payment{Invoice: true, InvoiceDays: 14}
		}, "into which account"},
		"an invoice with one": {func(d *form.Design) {
			d.Payment = &form.Payment{Invoice: true, InvoiceDays: 14, Account: "IE29"}
		}, ""},
	} {
		d := asking(ask("who", form.Choice, form.Fact), ask("fees", form.Fees, form.Chosen))
		d.Calendar = append(d.Calendar, form.Moment{Key: "late", Label: "the late fee",
			At: calendar.Wall{Date: mid(d), Second: 16 * 3600}})
		d.Fees = []form.Fee{{Key: "entry", Label: "Entry", What: form.FeeEntry,
			Price: plain(
				6_000,
				form.Rise{From: "late", Amount: 9_000},
			)}, {Key: "book", Label: "Book", What: "thing", Price: plain(1_800)},
			{Key: "both", Label: "Both", What: form.FeeBundle, Of: []form.Key{"entry", "book"}, Price: plain(7_799)}}
		d.Codes = []form.FeeCode{{Key: "half", Code: "HALF", Percent: 50}}
		c.change(d)
		var found []string
		for _, x := range Run(context.Background(), compiled(t, d)).Findings {
			if x.Code == FeesAsk {
				found = append(found, x.Says)
				if x.Grade != ThinkAgain {
					t.Errorf("%s: %s", what, x.Grade)
				}
			}
		}
		if c.says == "" && found != nil || c.says != "" && (len(found) != 1 || !strings.Contains(found[0], c.says)) {
			t.Errorf("%s: %q", what, found)
		}
	}
}

// mid is the day in the middle of a round’s writing.
func mid(d *form.Design) calendar.Date {
	opens, _ := d.Moment(form.Opens)
	closes, _ := d.Moment(form.Closes)
	return opens.At.Date + (closes.At.Date-opens.At.Date)/2
}
