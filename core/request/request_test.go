package request

import (
	"testing"
	"time"

	"github.com/hbollon/go-edlib"

	"ulvant/core/form"
)

var day0 = time.Date(2027, 3, 1, 9, 0, 0, 0, time.UTC)

func at(hours float64) time.Time { return day0.Add(time.Duration(hours * float64(time.Hour))) }

func TestNext(t *testing.T) {
	due := at(30 * 24)
	for _, c := range []struct {
		name string
		r    Reminding
		want float64 // hours after day 0; -1 for never
	}{
		{"nothing heard: after six days", Reminding{State: form.Asked, Since: day0, Most: 4, Due: due}, 144},
		{"said yes: after six days", Reminding{State: form.Accepted, Since: day0, Most: 4, Due: due}, 144},
		{"reminded once: six days on", Reminding{State: form.Asked, Since: day0, Last: at(144), Had: 1, Most: 4, Due: due},
			288},
		{"two days before it is due", Reminding{State: form.Asked, Since: day0, Last: at(26 * 24), Had: 3, Most: 4, Due: due},
			28 * 24},
		{"put up: after an hour", Reminding{State: form.Uploaded, Since: day0, Most: 4, Due: due}, 1},
		{"put up an hour ago and told: after a day, but a day after the last",
			Reminding{State: form.Uploaded, Since: day0, Last: at(1), Had: 1, Most: 4, Due: due}, 25},
		{"put up and told twice: six days on", Reminding{State: form.Uploaded, Since: day0, Last: at(25), Had: 2, Most: 4,
			Due: due}, 25 + 144},
		{"put up just after a reminder: an hour all the same", Reminding{State: form.Uploaded, Since: day0, Last: at(-0.5),
			Had: 1, Most: 4, Due: due}, 1},
		{"put up in the last hour before it is due", Reminding{State: form.Uploaded, Since: at(30*24 - 0.5), Most: 4,
			Due: due},
			-1},
		{"put up in the last two days", Reminding{State: form.Uploaded, Since: at(29 * 24), Most: 4, Due: due}, 29*24 + 1},
		{"as many as there may be", Reminding{State: form.Asked, Since: day0, Last: at(144), Had: 4, Most: 4, Due: due}, -1},
		{"sent", Reminding{State: form.SentIn, Since: day0, Most: 4, Due: due}, -1},
		{"declined", Reminding{State: form.Declined, Since: day0, Most: 4, Due: due}, -1},
		{"no date: six days on", Reminding{State: form.Asked, Since: day0, Most: 4}, 144},
		{"nothing after it is due", Reminding{State: form.Asked, Since: at(29 * 24), Most: 4, Due: due}, -1},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, ok := c.r.Next()
			if !ok && c.want >= 0 || ok && (c.want < 0 || !got.Equal(at(c.want))) {
				t.Errorf("%v %v (%v h), want %v h", got, ok, got.Sub(day0).Hours(), c.want)
			}
		})
	}
}

// However somebody is reminded, it is never more often than the round says.
func TestNeverMoreThanTheRoundAllows(t *testing.T) {
	for _, most := range []int{1, 2, 4, 9} {
		r := Reminding{State: form.Uploaded, Since: day0, Most: most, Due: at(365 * 24)}
		for {
			next, ok := r.Next()
			if !ok {
				break
			}
			if !r.Last.IsZero() && next.Sub(r.Last) < ApartLeft {
				t.Fatalf("%v after %v", next, r.Last)
			}
			r.Last, r.Had = next, r.Had+1
		}
		if r.Had != most {
			t.Errorf("%d of %d", r.Had, most)
		}
		if r.Refused(r.Last.Add(48*time.Hour)) != Enough {
			t.Error("one more by hand")
		}
	}
}

func TestRefused(t *testing.T) {
	r := Reminding{State: form.Asked, Since: day0, Last: at(10), Had: 1, Most: 3, Due: at(100)}
	for _, c := range []struct {
		name  string
		hours float64
		want  Refusal
	}{
		{"within the day", 33.9, TooSoon}, {"a day later", 34, ""}, {"in the last second", 99.999, ""},
		{"when it is due", 100, Over},
	} {
		if got := r.Refused(at(c.hours)); got != c.want {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
	r.State = form.SentIn
	if r.Refused(at(50)) != NotAwaited {
		t.Error("a letter that is in")
	}
}

// Distances of check-values.md, section 11 (R stringdist agrees).
func TestDistances(t *testing.T) {
	for _, c := range []struct {
		a, b string
		osa  int
	}{{"CA", "ABC", 3}, {"kitten", "sitting", 3}, {"a cat", "an abct", 4}, {"Saturday", "Sunday", 3}, {"ab", "ba", 1}} {
		if got := edlib.OSADamerauLevenshteinDistance(c.a, c.b); got != c.osa {
			t.Errorf("%s %s: %d, want %d", c.a, c.b, got, c.osa)
		}
	}
}

func TestMeant(t *testing.T) {
	for _, c := range []struct{ typed, want string }{
		{"ada@gmial.com", "ada@gmail.com"},          // two letters swapped
		{"ada@gmai.com", "ada@gmail.com"},           // one too few
		{"ada@gmaill.com", "ada@gmail.com"},         // one too many
		{"ada@hotmial.com", "ada@hotmail.com"},      //
		{"Ada@Outlok.com", "Ada@outlook.com"},       //
		{"a@gmial.com", "a@gmail.com"},              //
		{"ada@btinternt.con", "ada@btinternet.com"}, // two slips in a long one
		{"ada@btintrnt.con", ""},                    // three
		{"ada@gmail.com", ""},                       // right
		{"ada@tarl.example", ""},                    // known here
		{"ada@tral.example", "ada@tarl.example"},
		{"ada@ulvant.example", ""}, // near to nothing
		{"ada@xy.com", ""},         // two slips in a short one
		{"ada", ""}, {"@gmail.com", ""},
	} {
		if got := Meant(c.typed, "tarl.example", "corvoe.example"); got != c.want {
			t.Errorf("%s: %q, want %q", c.typed, got, c.want)
		}
	}
	if got := Meant("x@tall.example", "tarl.example", "tail.example"); got != "" {
		t.Errorf("two as near: %q", got)
	}
}
