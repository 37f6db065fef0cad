package funder

import (
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/refusal"
)

// What cannot hold is refused at its field.
func TestCheck(t *testing.T) {
	good := func() Settings {
		return Settings{Name: "The Ostrel Isles Trust", Mail: "grants@ostrel-trust.example", Zone: "Europe/Dublin",
			Country: "IE",
			Closed:  "12-24", Help: []Channel{{What: "the website", Reach: "021 555 0177"}}}
	}
	for _, c := range []struct {
		what, field string
		change      func(*Settings)
	}{
		{"all of it", "", func(*Settings) {}},
		{"no name", "name", func(s *Settings) { s.Name = " " }},
		{"a name of two lines", "name", func(s *Settings) { s.Name = "a\nBcc: b@c" }},
		{"a long name", "name", func(s *Settings) { s.Name = strings.Repeat("é", 81) }},
		{"a name as long as may be", "", func(s *Settings) { s.Name = strings.Repeat("é", 80) }},
		{"no address for mails", "", func(s *Settings) { s.Mail = "" }},
		{"half an address", "mail", func(s *Settings) { s.Mail = "grants" }},
		{"two addresses", "mail", func(s *Settings) { s.Mail = "a@b.example,c@d.example" }},
		{"a long postal address", "postal", func(s *Settings) { s.Postal = strings.Repeat("x", 501) }},
		{"a long number", "phone", func(s *Settings) { s.Phone = strings.Repeat("1", 61) }},
		{"no zone", "zone", func(s *Settings) { s.Zone = "" }},
		{"the machine’s zone", "zone", func(s *Settings) { s.Zone = "Local" }},
		{"no such zone", "zone", func(s *Settings) { s.Zone = "Isles/Hallin" }},
		{"a country without holidays", "country", func(s *Settings) { s.Country = "ZZ" }},
		{"no country", "", func(s *Settings) { s.Country = "" }},
		{"a day that is none", "closed", func(s *Settings) { s.Closed = "bad" }},
		{"an eighth day", "workdays", func(s *Settings) { s.Workdays = []int{7} }},
		{"an eighth day among seven", "workdays", func(s *Settings) { s.Workdays = []int{0, 1, 2, 3, 4, 5, 9} }},
		{"every day", "", func(s *Settings) { s.Workdays = []int{0, 1, 2, 3, 4, 5, 6} }},
		{"very many closed days", "closed", func(s *Settings) { s.Closed = strings.Repeat("12-24,", 334) }},
		{"Sunday to Thursday", "", func(s *Settings) { s.Workdays = []int{0, 1, 2, 3, 4} }},
		{"help with nothing", "help", func(s *Settings) { s.Help[0].What = "" }},
		{"help nowhere", "help", func(s *Settings) { s.Help[0].Reach = "" }},
		{"much help", "help", func(s *Settings) { s.Help = make([]Channel, 9) }},
		{"a number as long as may be", "", func(s *Settings) { s.Phone = strings.Repeat("1", 60) }},
		{"a foot as long as may be", "", func(s *Settings) { s.Foot = strings.Repeat("x", 600) }},
		{"help of 401 characters", "help", func(s *Settings) {
			s.Help[0] = Channel{strings.Repeat("x", 200),
				strings.Repeat("y", 200), "z", ""}
		}},
		{"help of 400 characters", "", func(s *Settings) {
			s.Help[0] = Channel{strings.Repeat("x", 200),
				strings.Repeat("y", 200), "", ""}
		}},
		{"a long foot", "foot", func(s *Settings) { s.Foot = strings.Repeat("x", 601) }},
	} {
		s := good()
		c.change(&s)
		err := s.Check(func(country string) bool { return country == "IE" }, func(days string) error {
			if days == "bad" {
				return errors.New("bad is no day")
			}
			return nil
		})
		no, said := refusal.Of(err)
		if no.Field != c.field || said != (c.field != "") {
			t.Errorf("%s: %v at %q, want %q", c.what, err, no.Field, c.field)
		}
	}
}

// What holds before anybody has said anything can hold.
func TestBlank(t *testing.T) {
	if err := Blank().Check(func(string) bool { return false }, func(string) error { return nil }); err != nil {
		t.Error(err)
	}
	if w := Blank().Week(); len(w) != 5 || w[0] != time.Monday || w[4] != time.Friday {
		t.Errorf("the week is %v", w)
	}
	if w := (Settings{Workdays: []int{0, 6}}).Week(); len(w) != 2 || w[0] != time.Sunday || w[1] != time.Saturday {
		t.Errorf("the week is %v", w)
	}
	if z := (Settings{Zone: "nowhere"}).Location(); z != time.UTC {
		t.Errorf("a zone that is none is %v", z)
	}
}

func TestUnder(t *testing.T) {
	for _, c := range []struct{ foot, body, want string }{
		{"", "Dear Ann\n", "Dear Ann\n"}, {" \n", "Dear Ann\n", "Dear Ann\n"},
		{"Harbour Row\n", "Dear Ann\n\n", "Dear Ann\n\nHarbour Row\n"},
	} {
		if got := (Settings{Foot: c.foot}).Under(c.body); got != c.want {
			t.Errorf("%q under %q: %q", c.foot, c.body, got)
		}
	}
}

func TestChannelSays(t *testing.T) {
	for _, c := range []struct {
		c    Channel
		want string
	}{
		{Channel{What: "The website", Reach: "021 555 0177"}, "The website: 021 555 0177"},
		{Channel{"The website", "021 555 0177", "weekdays 9 to 12", "the same day"},
			"The website: 021 555 0177, weekdays 9 to 12; answered the same day"},
	} {
		if got := c.c.Says(); got != c.want {
			t.Errorf("%q, want %q", got, c.want)
		}
	}
}
