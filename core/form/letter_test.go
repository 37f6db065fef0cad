package form_test

import (
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/say"
)

// A letter is at most six months old at the closing and speaks of three years
// or more; common practice, no source. Six months before 31 August is the last
// of February.
func TestLetterDayAndYears(t *testing.T) {
	ask := &form.Ask{LetterMonths: 6, YearsLeast: 3}
	closing, today := calendar.NewDate(2027, 8, 31), calendar.NewDate(2027, 8, 1)
	for _, c := range []struct {
		y, m, d, from, to int
		says              string
	}{
		{2027, 7, 1, 2021, 2024, ""},
		{2027, 8, 1, 2025, 2027, ""},
		{2027, 2, 28, 2021, 2023, ""},
		{2027, 2, 27, 2021, 2023, "The letter must be dated 28 February 2027 or later; put a newer one in its place."},
		{2027, 8, 2, 2021, 2023, "The day on the letter lies ahead; give the day it was signed."},
		{0, 0, 0, 2021, 2023, "Give the day on the letter."},
		{2027, 7, 1, 2022, 2023, "The letter must speak of at least 3 years."},
		{2027, 7, 1, 2024, 2021, "The last year stands before the first."},
		{2027, 7, 1, 2024, 2028, "The last year lies ahead."},
		{2027, 7, 1, 2024, 0, "Say from which year to which you can speak of them."},
	} {
		d := form.Dating{From: c.from, To: c.to}
		if c.y > 0 {
			d.Dated = calendar.NewDate(c.y, time.Month(c.m), c.d)
		}
		got := ""
		if f := ask.Fault(d, today, closing); f != "" {
			got = say.LetterFault(ask, f, closing)
		}
		if got != c.says {
			t.Errorf("%+v: %q, want %q", d, got, c.says)
		}
	}
	var none *form.Ask
	if f := none.Fault(form.Dating{}, today, closing); f != "" {
		t.Errorf("nothing is asked, and yet %q", f)
	}
	if got, want := say.LetterNeeds(ask), "The letter is at most 6 months old at the closing. It speaks of at least 3 "+
		"years."; got != want {
		t.Errorf("%q", got)
	}
}
