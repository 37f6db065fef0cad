package waiting_test

import (
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	. "ulvant/core/waiting"
)

// What a public vote waits for, from the closing of the applications to its result.
func TestOfPoll(t *testing.T) {
	on := func(m time.Month, d int) calendar.Wall { return calendar.At(calendar.NewDate(2027, m, d), 12, 0) }
	d := &form.Design{Key: "polled", Zone: "Europe/Dublin", Currency: "EUR", Prefix: "PP",
		Calendar: []form.Moment{{Key: form.Opens, At: on(3, 1)}, {Key: form.Closes, At: on(4, 1)},
			{Key: "from", At: on(5, 1)}, {Key: "to", At: on(5, 15)}},
		Stages: []form.Stage{{Key: "writing", Does: form.Apply, From: form.Opens, To: form.Closes},
			{Key: "public", Does: form.Votes, From: "from", To: "to"}},
		Vote: &form.Vote{Asks: "Which?", ByMail: true, Named: 1}}
	f, _ := form.Draft(d)
	at := func(m time.Month, day int) time.Time { t, _ := on(m, day).In(f.Zone); return t }
	for _, c := range []struct {
		says  string
		p     Poll
		at    time.Time
		want  PollKind
		n     int
		since time.Time
	}{
		{"applications still come", Poll{}, at(3, 20), Nothing, 0, time.Time{}},
		{"they are in", Poll{}, at(4, 2), LayPaper, 1, at(4, 1)},
		{"the vote should be open", Poll{}, at(5, 2), LayPaper, 1, at(4, 1)},
		{"it never was", Poll{}, at(5, 15), Nothing, 0, time.Time{}},
		{"it is laid out", Poll{Laid: true}, at(4, 20), Nothing, 0, time.Time{}},
		{"under way", Poll{Laid: true}, at(5, 3), Nothing, 0, time.Time{}},
		{"a pattern", Poll{Laid: true, Unruled: 2}, at(5, 3), Patterns, 2, at(5, 1)},
		{"over", Poll{Laid: true}, at(5, 15), Count, 1, at(5, 15)},
		{"counted", Poll{Laid: true, Counted: true}, at(5, 16), Publish, 1, at(5, 15)},
		{"published", Poll{Laid: true, Counted: true, Published: true}, at(5, 16), Nothing, 0, time.Time{}},
	} {
		if kind, n, since := OfPoll(f, c.p, c.at); kind != c.want || n != c.n || !since.Equal(c.since) {
			t.Errorf("%s: %d of kind %d since %s, not %d of %d since %s", c.says, n, kind, since, c.n, c.want, c.since)
		}
	}
	d.Vote = nil
	if kind, _, _ := OfPoll(f, Poll{Laid: true}, at(6, 1)); kind != Nothing {
		t.Errorf("a round without a vote waits for %d", kind)
	}
}
