package rounds

import (
	"time"

	"ulvant/core/form"
	"ulvant/internal/web/kit/site"
)

// earlier finds the round of the same programme that closed last before this
// one, and when its applications came, as times before its closing.
func earlier(r *site.Request, f *form.Form) ([]time.Duration, string, error) {
	until := r.Round.ClosesAt
	if until.After(r.At) {
		until = r.At
	}
	other, err := r.Rounds.Before(r.Context, f.Design.Programme, until)
	if err != nil || other == nil {
		return nil, "", err
	}
	times, err := r.Desk.SentTimes(r.Context, other.ID, f.FirstStage())
	if err != nil {
		return nil, "", err
	}
	before := make([]time.Duration, len(times))
	for i, t := range times {
		before[i] = other.ClosesAt.Sub(t)
	}
	return before, other.Name, nil
}

// sameDay counts how many had come at the same distance from closing.
func sameDay(f *form.Form, r *site.Request, last []time.Duration) int {
	left := max(f.Window().Closes.Sub(r.At), 0)
	n := 0
	for _, d := range last {
		if d >= left {
			n++
		}
	}
	return n
}
