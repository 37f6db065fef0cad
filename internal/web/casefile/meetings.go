package casefile

import (
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	cutting "ulvant/core/interview"
	"ulvant/core/say"
	"ulvant/internal/interview"
)

// MeetingDay is a day of interviews as it is drawn.
type MeetingDay struct {
	interview.Day
	Slots []MeetingSlot
	Met   int // people who have a time on it
}

// MeetingSlot is a time as it is drawn.
type MeetingSlot struct {
	interview.Slot
	Theirs string // their clock, where it differs; "" where it does not
	Asleep bool
	Over   bool // it has begun
}

// Meetings draws a day as clocks show it at a moment.
func Meetings(x interview.Day, f *form.Form, at time.Time) MeetingDay {
	d := MeetingDay{Day: x}
	for _, s := range x.Slots {
		o := MeetingSlot{Slot: s, Over: !s.Starts.After(at)}
		if s.Meeting != nil {
			d.Met++
			zone := s.In(f.Zone)
			if calendar.WallOf(s.Starts, zone) != calendar.WallOf(s.Starts, f.Zone) {
				o.Theirs = s.Starts.In(zone).Format("Mon 15:04") + " in " + say.ZoneCity(zone.String())
				o.Asleep = cutting.Asleep(s.Starts, s.Minutes, zone)
			}
		}
		d.Slots = append(d.Slots, o)
	}
	return d
}
