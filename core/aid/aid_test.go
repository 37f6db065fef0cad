package aid

import (
	"math"
	"testing"
	"time"

	"ulvant/core/calendar"
)

// Readings of three statutes, with constructed figures (check-values.md section
// 7): Regulation (EU) 2023/2831 article 3(2); Regulation (EU) No 1407/2013
// article 3(2); Subsidy Control Act 2022 section 36.
func TestPublicAidOverThreeYears(t *testing.T) {
	day := func(y int, m time.Month, d int) calendar.Date { return calendar.NewDate(y, m, d) }
	rolling, lenient := Window{Years: 3}, Window{Years: 3, Lenient: true}
	calendarYears := Window{Years: 3, Financial: true, Month: time.January, Day: 1}
	april := Window{Years: 3, Financial: true, Month: time.April, Day: 1}
	eu := []Given{{day(2024, 5, 20), 120_000}, {day(2025, 11, 3), 90_000}, {day(2026, 6, 30), 70_000}}
	old := []Given{{day(2020, 12, 20), 100_000}, {day(2022, 6, 1), 60_000}}
	uk := []Given{{day(2024, 3, 31), 150_000}, {day(2024, 4, 1), 120_000}, {day(2025, 9, 1), 80_000}}
	for _, c := range []struct {
		name  string
		w     Window
		list  []Given
		grant calendar.Date
		from  calendar.Date
		prior int64
	}{
		{"a day before the first falls out", rolling, eu, day(2027, 5, 19), day(2024, 5, 19), 280_000},
		{"on the very day it still counts", rolling, eu, day(2027, 5, 20), day(2024, 5, 20), 280_000},
		{"unless a round reads it otherwise", lenient, eu, day(2027, 5, 20), day(2024, 5, 21), 160_000},
		{"a day later it is out", rolling, eu, day(2027, 5, 21), day(2024, 5, 21), 160_000},
		{"financial years that are those of the calendar", calendarYears, old, day(2023, 6, 1), day(2021, 1, 1), 60_000},
		{"a rolling reading of the same", rolling, old, day(2023, 6, 1), day(2020, 6, 1), 160_000},
		{"years from 1 April, in February", april, uk, day(2027, 2, 10), day(2024, 4, 1), 200_000},
		{"and on 1 April", april, uk, day(2027, 4, 1), day(2025, 4, 1), 80_000},
		{"what comes after the grant does not count", rolling, eu, day(2026, 6, 29), day(2023, 6, 29), 210_000},
		{"on the day of the grant it does", rolling, eu, day(2026, 6, 30), day(2023, 6, 30), 280_000},
		{"29 February", rolling, eu, day(2028, 2, 29), day(2025, 2, 28), 160_000},
		{"none", rolling, nil, day(2027, 1, 1), day(2024, 1, 1), 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			sum, ok := c.w.Counted(c.list, c.grant)
			if from := c.w.From(c.grant); !ok || sum != c.prior || from != c.from {
				t.Errorf("%d from %s, want %d from %s", sum, from, c.prior, c.from)
			}
		})
	}
	if _, ok := rolling.Counted([]Given{{day(2026, 1, 1), math.MaxInt64}, {day(2026, 1, 2), 1}}, day(2026, 2, 1)); ok {
		t.Error("a sum beyond the range was added")
	}
}
