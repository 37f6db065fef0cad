package casefile_test

import (
	"strings"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/internal/fee"
	"ulvant/internal/interview"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/web/casefile"
)

// A day of interviews as clocks show it: whose clock differs, who would sleep, what has
// begun.
func TestADayAsClocksShowIt(t *testing.T) {
	dublin, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	at := time.Date(2027, 3, 9, 9, 0, 0, 0, time.UTC) // Dublin's clock is UTC's in March
	slot := func(after time.Duration, zone string) interview.Slot {
		return interview.Slot{Starts: at.Add(after), Minutes: 30, Meeting: &interview.Meeting{Zone: zone}}
	}
	d := casefile.Meetings(interview.Day{Slots: []interview.Slot{slot(0, "Europe/London"), slot(time.Hour, "Asia/Tokyo"),
		slot(9*time.Hour, "Asia/Tokyo"), {Starts: at.Add(2 * time.Hour), Minutes: 30}}}, &form.Form{Zone: dublin}, at)
	for i, want := range []struct {
		theirs       string
		asleep, over bool
	}{
		{"", false, true}, // the same clock; it begins at this moment
		{"Tue 19:00 in Tokyo", false, false},
		{"Wed 03:00 in Tokyo", true, false},
		{"", false, false}, // free
	} {
		if got := d.Slots[i]; got.Theirs != want.theirs || got.Asleep != want.asleep || got.Over != want.over {
			t.Errorf("%d: %q, asleep %t, over %t", i, got.Theirs, got.Asleep, got.Over)
		}
	}
	if d.Met != 3 {
		t.Errorf("%d people have a time", d.Met)
	}
}

// What came of a try at the payment desk is told of the try that was made.
func TestTriesAtTheDesk(t *testing.T) {
	begun, answered := time.Date(2027, 3, 2, 12, 0, 0, 0, time.UTC), "https://desk.example/1"
	for _, c := range []struct {
		name  string
		try   *fee.Checkout
		begin string
	}{
		{"none", nil, ""},
		{"paid", &fee.Checkout{BegunAt: begun, State: paydesk.Paid}, ""},
		{"closed", &fee.Checkout{BegunAt: begun, State: paydesk.Closed}, "Your try of 12:00 on 2 March is closed"},
		{"away", &fee.Checkout{BegunAt: begun}, "The payment desk did not answer at 12:00"},
		{"open", &fee.Checkout{BegunAt: begun, Desk: &answered}, "You went to the payment desk at 12:00"},
		{"declined", &fee.Checkout{BegunAt: begun, Desk: &answered, Declined: 1}, "The card was declined"},
	} {
		if got := casefile.LastTry(c.try, time.UTC); !strings.HasPrefix(got, c.begin) || (got == "") != (c.begin == "") {
			t.Errorf("%s: %q", c.name, got)
		}
	}
}
