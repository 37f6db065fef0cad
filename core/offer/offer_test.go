package offer

import (
	"testing"
	"time"

	"ulvant/core/lifecycle"
)

// Who may answer what, and when, with an offer that is open until noon.
func TestMay(t *testing.T) {
	due := time.Date(2027, 3, 1, 12, 0, 0, 0, time.UTC)
	before, over := due.Add(-time.Second), due
	for _, c := range []struct {
		says     string
		from, to Answer
		by       By
		at       time.Time
		ok       bool
	}{
		{"accepted in time", Open, Accepted, Them, before, true},
		{"declined in time", Open, Declined, Them, before, true},
		{"at the very second it is over", Open, Accepted, Them, over, false},
		{"declined too late: it lapses", Open, Declined, Them, over, false},
		{"whoever accepted can still step back", Accepted, Declined, Them, over, true},
		{"twice", Accepted, Accepted, Them, before, false},
		{"whoever declined asks the office", Declined, Accepted, Them, before, false},
		{"as does whoever did not answer", Lapsed, Accepted, Them, over, false},
		{"nobody lets their own offer lapse", Open, Lapsed, Them, over, false},
		{"nor opens it", Accepted, Open, Them, before, false},
		{"by telephone", Open, Accepted, Office, before, true},
		{"by telephone, after its day", Open, Declined, Office, over, true},
		{"opened again", Declined, Open, Office, over, true},
		{"opened again after it lapsed", Lapsed, Open, Office, over, true},
		{"a slip of the office", Accepted, Open, Office, over, true},
		{"the office lets nothing lapse", Open, Lapsed, Office, over, false},
		{"nor puts in what is no answer", Open, "perhaps", Office, before, false},
		{"nor twice the same", Declined, Declined, Office, before, false},
		{"it lapses", Open, Lapsed, Clock, over, true},
		{"not before", Open, Lapsed, Clock, before, false},
		{"not what is accepted", Accepted, Lapsed, Clock, over, false},
		{"the clock accepts nothing", Open, Accepted, Clock, over, false},
	} {
		if err := May(c.from, c.to, c.by, due, c.at); (err == nil) != c.ok {
			t.Errorf("%s: %v", c.says, err)
		}
	}
}

// What a case is by the answers to its awards, and that the table of states leads there.
func TestState(t *testing.T) {
	for _, c := range []struct {
		says string
		of   []Answer
		want lifecycle.State
	}{
		{"one of two is open", []Answer{Accepted, Open}, lifecycle.OnOffer},
		{"one is taken, one is not", []Answer{Declined, Accepted}, lifecycle.Accepted},
		{"one is taken, one lapsed", []Answer{Accepted, Lapsed}, lifecycle.Accepted},
		{"nothing is taken", []Answer{Declined, Lapsed}, lifecycle.OfferDown},
		{"nobody said anything", []Answer{Lapsed, Lapsed}, lifecycle.OfferLapsed},
	} {
		if got := State(c.of); got != c.want {
			t.Errorf("%s: %s", c.says, got)
		}
	}
	states := []lifecycle.State{lifecycle.OnOffer, lifecycle.Accepted, lifecycle.OfferDown, lifecycle.OfferLapsed}
	for _, from := range states {
		for _, to := range states {
			_, err := lifecycle.Between(from, to)
			// by the clock alone an offer lapses, and only one that is open
			if can := from != to && (to != lifecycle.OfferLapsed || from == lifecycle.OnOffer); (err == nil) != can {
				t.Errorf("%s to %s: %v", from, to, err)
			}
			if from.Outcome() != lifecycle.Awarded {
				t.Errorf("%s did not come of an award", from)
			}
		}
	}
	if lifecycle.Reserve.Outcome() != lifecycle.Reserve || lifecycle.NotAwarded.Outcome() != lifecycle.NotAwarded {
		t.Error("other outcomes are their own")
	}
}

// What was accepted stays accepted where a later decision gives the same.
func TestCarried(t *testing.T) {
	before := map[Line]Answer{{"keel", 500}: Accepted, {"rope", 300}: Declined, {"", 900}: Open}
	for now, want := range map[Line]Answer{{"keel", 500}: Accepted, {"keel", 400}: Open, {"rope", 300}: Open,
		{"", 900}: Open, {"sail", 500}: Open} {
		if got := Carried(now, before); got != want {
			t.Errorf("%v: %s", now, got)
		}
	}
	if !Declined.CameBack() || !Lapsed.CameBack() || Open.CameBack() || Accepted.CameBack() {
		t.Error("what came back is what was declined, or lapsed")
	}
}
