// Package holidays says on which days the funder's office is off: the days of the
// week that it does not work, the public
// holidays of a country (github.com/rickar/cal/v2) and closed days of its own.
// They count in every promise in working days.
package holidays

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/rickar/cal/v2"
	"github.com/rickar/cal/v2/at"
	"github.com/rickar/cal/v2/be"
	"github.com/rickar/cal/v2/ca"
	"github.com/rickar/cal/v2/ch"
	"github.com/rickar/cal/v2/de"
	"github.com/rickar/cal/v2/dk"
	"github.com/rickar/cal/v2/es"
	"github.com/rickar/cal/v2/fr"
	"github.com/rickar/cal/v2/gb"
	"github.com/rickar/cal/v2/ie"
	"github.com/rickar/cal/v2/it"
	"github.com/rickar/cal/v2/nl"
	"github.com/rickar/cal/v2/no"
	"github.com/rickar/cal/v2/nz"
	"github.com/rickar/cal/v2/pl"
	"github.com/rickar/cal/v2/se"
	"github.com/rickar/cal/v2/us"

	"ulvant/core/calendar"
)

// countries by their two letters (ISO 3166-1); of GB the days of England and
// Wales. Days that only a region keeps are the office's own closed days.
var countries = map[string][]*cal.Holiday{
	"AT": at.Holidays, "BE": be.Holidays, "CA": ca.Holidays, "CH": ch.Holidays, "DE": de.Holidays, "DK": dk.Holidays,
	"ES": es.Holidays, "FR": fr.Holidays, "GB": gb.Holidays,
	"IE": ie.Holidays, "IT": it.Holidays, "NL": nl.Holidays, "NO": no.Holidays, "NZ": nz.Holidays, "PL": pl.Holidays,
	"SE": se.Holidays, "US": us.Holidays,
}

// Countries lists the two letters of those that are known.
func Countries() []string {
	out := make([]string, 0, len(countries))
	for c := range countries {
		out = append(out, c)
	}
	slices.Sort(out)
	return out
}

// Day is a closed day of the office's own: of one year, or of every year.
type Day struct {
	On    calendar.Date // zero for a day of every year
	Month time.Month
	Day   int
}

// ParseDays reads closed days, as 2026-12-24 or, of every year, 12-24,
// separated by commas.
func ParseDays(s string) (out []Day, err error) {
	for _, word := range strings.FieldsFunc(s, func(r rune) bool { return r == ',' || r == ' ' }) {
		if t, err := time.Parse("01-02", word); err == nil {
			out = append(out, Day{Month: t.Month(), Day: t.Day()})
			continue
		}
		d, ok := calendar.ParseDate(word)
		if !ok {
			return nil, fmt.Errorf("%s is no day; write it like 2026-12-24, or 12-24 for every year", word)
		}
		out = append(out, Day{On: d})
	}
	return out, nil
}

// Known reports a country whose holidays are known.
func Known(country string) bool { return countries[country] != nil }

// Off reports the days on which the office is off: those of the week that are not
// worked, the holidays of a country ("" for none) and days of its own. A holiday counts on the day it
// falls and on the day it is observed, where the country moves it.
func Off(country string, own []Day, week []time.Weekday) (func(calendar.Date) bool, error) {
	list, known := countries[country]
	if country != "" && !known {
		return nil, fmt.Errorf("the holidays of %q are not known; known are %s", country, strings.Join(Countries(), ", "))
	}
	c := cal.NewBusinessCalendar()
	c.Cacheable = true
	c.AddHoliday(list...)
	return func(d calendar.Date) bool {
		if !slices.Contains(week, d.Weekday()) {
			return true
		}
		y, m, day := d.Civil()
		if slices.ContainsFunc(own, func(o Day) bool {
			return o.On == d && !o.On.IsZero() || o.On.IsZero() && o.Month == m &&
				o.Day == day
		}) {
			return true
		}
		actual, observed, _ := c.IsHoliday(time.Date(y, m, day, 12, 0, 0, 0, time.UTC))
		return actual || observed
	}, nil
}
