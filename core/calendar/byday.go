package calendar

import "time"

// The hours by which a phone may be disturbed, on the clock of a zone: from
// DayBegins up to, and no longer at, DayEnds.
const (
	DayBegins = 8
	DayEnds   = 20
)

// ByDay is the first moment from at on, at itself included, at which a phone in
// zone may be disturbed.
func ByDay(at time.Time, zone *time.Location) time.Time {
	w := WallOf(at, zone)
	switch hour := int(w.Second) / 3600; {
	case hour < DayBegins:
		at, _ = At(w.Date, DayBegins, 0).In(zone)
	case hour >= DayEnds:
		at, _ = At(w.Date.AddDays(1), DayBegins, 0).In(zone)
	}
	return at
}
