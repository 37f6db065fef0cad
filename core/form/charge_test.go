package form_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/say"
)

// entries is a round with each kind of fee: the entry rises on 20 March at 16:00,
// supper is for students, a catalogue and a supper make a set, and three codes.
func entries(t testing.TB) *form.Form {
	young := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "student"}, Rel: condition.Is,
		Value: &condition.Value{Yes: new(true)}}}
	fixed := func(n int64) form.Cases[form.Price] { return form.Cases[form.Price]{Else: form.Price{Amount: n}} }
	return asking(t, func(d *form.Design) {
		d.Calendar = append(d.Calendar, form.Moment{Key: "early-until", Label: "the end of the early fee",
			At: calendar.At(calendar.NewDate(2027, 3, 20), 16, 0)})
		d.Fees = []form.Fee{
			{Key: "entry", Label: "Entry", What: form.FeeEntry, Price: form.Cases[form.Price]{
				When: []form.Case[form.Price]{{If: young, Then: form.Price{Amount: 2_000}}},
				Else: form.Price{Amount: 6_000, Later: []form.Rise{{From: "early-until", Amount: 9_000}}}}},
			{Key: "supper", Label: "Supper", What: "extra", Offered: young, Most: 2, Price: fixed(1_500)},
			{Key: "book", Label: "Catalogue", What: "thing", Most: 3, Price: fixed(1_800)},
			{Key: "set", Label: "Both", What: form.FeeBundle, Of: []form.Key{"supper", "book"}, Price: fixed(3_000)},
			{Key: "dear", Label: "Dear", What: form.FeeBundle, Of: []form.Key{"entry", "book"}, Price: fixed(99_000)}}
		d.Codes = []form.FeeCode{{Key: "half", Code: "ISLE", Percent: 50, Until: calendar.NewDate(2027, 3, 18)},
			{Key: "once", Code: "ONCE", Off: 1_000, Uses: 1},
			{Key: "club", Code: "CLUB", Percent: 100, Members: []string{"Ann@isles.example"}}}
	}, form.Question{Key: "student", Kind: form.YesNo}, form.Question{Key: "fees", Kind: form.Fees})
}

// A charge is category and date, extras, bundle and code, in that order; its lines
// add up to it. The 16:00 price is that of whoever sends at 16:00:00.
func TestCharges(t *testing.T) {
	f := entries(t)
	rise := time.Date(2027, 3, 20, 16, 0, 0, 0, f.Zone)
	before := rise.Add(-time.Nanosecond)
	early := time.Date(2027, 3, 1, 9, 0, 0, 0, f.Zone)
	for _, c := range []struct {
		at                          time.Time
		student, supper, book, code string
		mail                        string
		used                        int
		waived                      bool
		want                        int64
		lines, next, faults         string
	}{
		{at: early, student: "no", want: 6000, lines: "entry 6000", next: "€90 from Sat 20 Mar, 16:00"},
		{at: before, student: "no", want: 6000, lines: "entry 6000", next: "€90 from Sat 20 Mar, 16:00"},
		{at: rise, student: "no", want: 9000, lines: "entry 9000"},
		{at: rise, student: "yes", want: 2000, lines: "entry 2000"},
		{at: early, student: "yes", supper: "2", want: 5000, lines: "entry 2000, supper 3000"},
		{at: early, student: "no", supper: "1", want: 6000, lines: "entry 6000", next: "€90 from Sat 20 Mar, 16:00",
			faults: "fee-not-offered at fees"},
		{at: early, student: "yes", supper: "-1", want: 2000, lines: "entry 2000", faults: "less-than-none at fees"},
		{at: early, student: "yes", supper: "3", want: 6500, lines: "entry 2000, supper 4500",
			faults: "fee-too-many at fees"},
		// one set saves 3 of the 18 and 15; the second supper stays by itself
		{at: early, student: "yes", supper: "2", book: "1", want: 6500,
			lines: "entry 2000, supper 3000, book 1800, set -300"},
		{at: early, student: "yes", supper: "2", book: "3", want: 9800,
			lines: "entry 2000, supper 3000, book 5400, set -600"},
		// a bundle that is dearer than its parts is nobody's
		{at: early, student: "no", book: "1", want: 7800, lines: "entry 6000, book 1800",
			next: "€108 from Sat 20 Mar, 16:00"},
		// half of the rest after the set; it ends with the 18th
		{at: early, student: "yes", supper: "1", book: "1", code: "isle", want: 2500,
			lines: "entry 2000, supper 1500, book 1800, set -300, half -2500", next: "€50 from Fri 19 Mar, 00:00"},
		{at: time.Date(2027, 3, 18, 23, 59, 59, 0, f.Zone), student: "yes", code: "ISLE", want: 1000,
			lines: "entry 2000, half -1000", next: "€20 from Fri 19 Mar, 00:00"},
		{at: time.Date(2027, 3, 19, 0, 0, 0, 0, f.Zone), student: "yes", code: "ISLE", want: 2000, lines: "entry 2000",
			faults: "fee-code-over at fees"},
		{at: rise, student: "no", code: "ONCE", want: 8000, lines: "entry 9000, once -1000"},
		{at: rise, student: "no", code: "ONCE", used: 1, want: 9000, lines: "entry 9000", faults: "fee-code-used at fees"},
		{at: rise, student: "no", code: "CLUB", mail: "ann@isles.example", want: 0, lines: "entry 9000, club -9000"},
		{at: rise, student: "no", code: "CLUB", mail: "bob@isles.example", want: 9000, lines: "entry 9000",
			faults: "fee-code-theirs at fees"},
		{at: rise, student: "no", code: "CLUB", want: 0, lines: "entry 9000, club -9000"}, // read without knowing whose
		{at: rise, student: "no", code: "what", want: 9000, lines: "entry 9000", faults: "fee-code at fees"},
		{at: rise, student: "no", waived: true, want: 0, lines: "entry 9000, waived -9000"},
		{at: time.Time{}, student: "no", want: 9000, lines: "entry 9000"},
	} {
		x := filled()
		x.Today, x.Paying = calendar.DateOf(c.at, f.Zone), form.Paying{At: c.at, Mail: c.mail, Waived: c.waived,
			Used: map[form.Key]int{"once": c.used}}
		set(x, "student", "", "", c.student)
		for k, v := range map[form.Key]string{"supper": c.supper, "book": c.book, form.ColCode: c.code} {
			set(x, "fees", "", k, v)
		}
		p := f.Walk(x)
		got := p.Charge()
		if got == nil {
			t.Fatalf("%+v: no charge", c)
		}
		var lines []string
		sum := int64(0)
		for _, l := range got.Lines {
			key := string(l.Key)
			if key == "" {
				key = l.What
			}
			lines = append(lines, fmt.Sprintf("%s %d", key, l.Sum))
			sum += l.Sum
		}
		if got.Total != c.want || strings.Join(lines, ", ") != c.lines || sum != got.Total ||
			say.ChargeNext(
				f,
				got,
			) != c.next || codes(p) != c.faults || got.Settled == c.at.IsZero() && c.student == "no" {
			t.Errorf("%+v: %d %s, then %q, %q, settled %v", c, got.Total, strings.Join(lines, ", "),
				say.ChargeNext(f, got), codes(p), got.Settled)
		}
		if said := say.Charge(f, got); len(said) != len(got.Lines) {
			t.Errorf("%d lines are said of %d", len(said), len(got.Lines))
		}
	}
}

// What is given back to whoever withdraws ends with its moment.
func TestGivenBack(t *testing.T) {
	f := asking(t, func(d *form.Design) {
		d.Payment = &form.Payment{Back: []form.Back{{Until: form.Closes, Percent: 100},
			{Until: form.ChecksBy, Percent: 50}}}
	})
	closes, checks := f.At(form.Closes), f.At(form.ChecksBy)
	for _, c := range []struct {
		at   time.Time
		want int
	}{{closes.Add(-time.Second), 100}, {closes, 50}, {checks.Add(-time.Second), 50}, {checks, 0}} {
		if got := f.GivesBack(c.at); got != c.want {
			t.Errorf("at %s %d%% is given back, want %d", c.at, got, c.want)
		}
	}
	if s := say.GivenBack(f); !strings.Contains(s, "all that was paid until ") ||
		!strings.Contains(s, "50% of what was paid until ") {
		t.Error(s)
	}
	if g := asking(t, nil).Paid(); g.Grace != form.DefaultGrace {
		t.Errorf("a round that says nothing has a grace of %d minutes", g.Grace)
	}
}

// BenchmarkCharges works the charges of 10,000 entries out, against walking the
// same entries without a fee.
func BenchmarkCharges(b *testing.B) {
	with := entries(b)
	without := asking(b, nil, form.Question{Key: "student", Kind: form.YesNo})
	x := filled()
	x.Paying.At = time.Date(2027, 3, 1, 9, 0, 0, 0, with.Zone)
	set(x, "student", "", "", "yes")
	set(x, "fees", "", "supper", "2")
	set(x, "fees", "", "book", "2")
	set(x, "fees", "", form.ColCode, "isle")
	for name, f := range map[string]*form.Form{"10,000 charges": with, "the same without fees": without} {
		b.Run(name, func(b *testing.B) {
			for range b.N {
				for range 10_000 {
					f.Walk(x)
				}
			}
		})
	}
}

// Currencies without cents and with three decimals (ISO 4217): a part of a yen or of
// a fils is never taken off.
func TestChargesInOtherCurrencies(t *testing.T) {
	for _, c := range []struct {
		currency    string
		price, want int64
		off         string
	}{{"JPY", 9_001, 4_501, "−JP¥4,500"}, {"BHD", 30_501, 15_251, "−BHD 15.250"}, {"EUR", 6_001, 3_001, "−€30"}} {
		f := asking(t, func(d *form.Design) {
			d.Currency = c.currency
			d.Fees = []form.Fee{{Key: "entry", Label: "Entry", What: form.FeeEntry,
				Price: form.Cases[form.Price]{Else: form.Price{Amount: c.price}}}}
			d.Codes = []form.FeeCode{{Key: "half", Code: "HALF", Percent: 50}}
		}, form.Question{Key: "fees", Kind: form.Fees})
		x := filled()
		set(x, "fees", "", form.ColCode, "HALF")
		got := f.Walk(x).Charge()
		if said := say.Charge(f, got); got.Total != c.want || said[1].Sum != c.off {
			t.Errorf("%s: %d, %q; want %d, %q", c.currency, got.Total, said[1].Sum, c.want, c.off)
		}
	}
}

// What a code takes off is said with what it hangs on.
func TestCodesAsTheyAreRead(t *testing.T) {
	f := entries(t)
	early := time.Date(2027, 3, 1, 9, 0, 0, 0, f.Zone)
	for code, want := range map[string]string{"isle": "50% less, until the end of 18 March 2027",
		"once": "€10 less, for 1 application", "club": "100% less, for those on its list"} {
		x := filled()
		x.Paying = form.Paying{At: early, Mail: "ann@isles.example"}
		set(x, "student", "", "", "no")
		set(x, "fees", "", form.ColCode, code)
		said := say.Charge(f, f.Walk(x).Charge())
		if got := said[len(said)-1].Why; got != want {
			t.Errorf("%s: %q, want %q", code, got, want)
		}
	}
}
