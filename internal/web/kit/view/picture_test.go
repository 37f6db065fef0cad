package view

import (
	"regexp"
	"strconv"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
)

// The days beneath a round's stages never stand in each other's way, however short a stage
// is; the closing has its own.
func TestDaysBeneathAStrand(t *testing.T) {
	day := func(n int) calendar.Wall { return calendar.At(calendar.NewDate(2027, 1, 1).AddDays(n), 12, 0) }
	for _, ends := range [][]int{{0, 30, 40, 60, 80, 100}, {0, 50, 51, 52, 98, 100}, {0, 30, 60, 95, 96, 100},
		{0, 1, 2, 3, 4, 100}} {
		f := &form.Form{Zone: time.UTC, Design: &form.Design{Zone: "UTC"}}
		for i, n := range ends {
			f.Design.Calendar = append(f.Design.Calendar, form.Moment{Key: form.Key("m" + strconv.Itoa(i)), At: day(n)})
			if i > 0 {
				f.Design.Stages = append(f.Design.Stages, form.Stage{Key: form.Key("s" + strconv.Itoa(i)), Label: "Stage",
					From: form.Key("m" + strconv.Itoa(i-1)), To: form.Key("m" + strconv.Itoa(i))})
			}
		}
		f.Design.Calendar = append(f.Design.Calendar, form.Moment{Key: form.Closes, At: day(20)})
		f, err := form.Draft(f.Design)
		if f == nil {
			t.Fatal(err)
		}
		drawn := Strand(f, time.Date(2027, 1, 20, 0, 0, 0, 0, time.UTC), nil, false)
		last := -100.0
		for _, m := range regexp.MustCompile(`<text x="([\d.]+)" y="[\d.]+" text-anchor="(start|end)" class="t12"[^>]*>(\d+ \w{3})<`).
			FindAllStringSubmatch(string(drawn), -1) {
			x, err := strconv.ParseFloat(m[1], 64)
			if err != nil {
				t.Fatal(err)
			}
			if m[2] == "end" {
				x -= dayWide
			}
			if x < last+dayWide {
				t.Errorf("%v: %s stands at %.0f, on the one before at %.0f", ends, m[3], x, last)
			}
			last = x
		}
		if last < 0 {
			t.Errorf("%v: no day is drawn", ends)
		}
	}
}
