// Package funder is what holds for the whole office whoever's round it is: what the
// funder is called and how it is reached, its clocks, the days on which it works,
// and how its letters begin and end.
package funder

import (
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"ulvant/core/refusal"
)

// Settings of the whole office.
type Settings struct {
	Name     string    `json:"name"`   // as it stands in letters and on pages
	Postal   string    `json:"postal"` // address, line by line
	Mail     string    `json:"mail"`   // to which people write
	Phone    string    `json:"phone"`
	Help     []Channel `json:"help"`
	Zone     string    `json:"zone"`     // IANA name; promises in working days are kept by its clocks
	Workdays []int     `json:"workdays"` // of the week, Sunday 0; none is Monday to Friday
	Country  string    `json:"country"`  // whose public holidays are no working days, ISO 3166; "" for none
	Closed   string    `json:"closed"`   // further days, as 2026-12-29 or, of every year, 12-24, separated by commas
	Foot     string    `json:"foot"`     // under every letter; "" for nothing
}

// Channel is a way of being helped.
type Channel struct {
	What  string `json:"what"`  // with what: an application, the website
	Reach string `json:"reach"` // a number, an address
	Hours string `json:"hours"`
	Reply string `json:"reply"` // promised: within two working days
}

// MostChannels there can be.
const MostChannels = 8

// Blank is what holds before anybody has said anything.
func Blank() Settings { return Settings{Name: "Our office", Zone: "Europe/Dublin"} }

// Check refuses settings that cannot hold, at the field that is wrong. knows tells
// whether the holidays of a country are known, and closed whether closed days can
// be read.
func (s Settings) Check(knows func(country string) bool, closed func(string) error) error {
	switch {
	case strings.TrimSpace(s.Name) == "" || utf8.RuneCountInString(s.Name) > 80 || strings.ContainsAny(s.Name, "\r\n<>"):
		return refusal.In("name", "Give the name of the funder, up to 80 characters.")
	case len(s.Postal) > 500:
		return refusal.In("postal", "The address has up to 500 characters.")
	case s.Mail != "" && (len(s.Mail) > 200 || strings.Count(s.Mail, "@") != 1 || strings.ContainsAny(s.Mail, " \r\n,<>")):
		return refusal.In("mail", "This is not a whole mail address. Write it as name@place.example.")
	case len(s.Phone) > 60:
		return refusal.In("phone", "Give one number, up to 60 characters.")
	case len(s.Help) > MostChannels:
		return refusal.In("help", "Up to 8 ways of being helped.")
	case len(s.Closed) > 2000:
		return refusal.In("closed", "The closed days have up to 2,000 characters.")
	case len(s.Foot) > 600:
		return refusal.In("foot", "What stands under every letter has up to 600 characters.")
	case s.Country != "" && !knows(s.Country):
		return refusal.In("country", "The holidays of this country are not known. Leave it empty, and list the days.")
	case slices.ContainsFunc(s.Workdays, func(d int) bool { return d < 0 || d > 6 }):
		return refusal.In("workdays", "Choose days of the week.")
	}
	for _, c := range s.Help {
		if strings.TrimSpace(c.What) == "" || strings.TrimSpace(c.Reach) == "" {
			return refusal.In("help", "Each way of being helped says with what, and where.")
		}
		if len(c.What)+len(c.Reach)+len(c.Hours)+len(c.Reply) > 400 {
			return refusal.In("help", "Each way of being helped has up to 400 characters.")
		}
	}
	if _, err := time.LoadLocation(s.Zone); err != nil || s.Zone == "" || s.Zone == "Local" {
		return refusal.In("zone", "There is no such time zone. Write it like Europe/Dublin.")
	}
	if err := closed(s.Closed); err != nil {
		return refusal.In("closed", refusal.Sentence(err.Error()))
	}
	return nil
}

// Location is the zone, which Check has seen; UTC for one that is none.
func (s Settings) Location() *time.Location {
	zone, err := time.LoadLocation(s.Zone)
	if err != nil {
		return time.UTC
	}
	return zone
}

// Week are the days of the week that are worked.
func (s Settings) Week() []time.Weekday {
	if len(s.Workdays) == 0 {
		return []time.Weekday{time.Monday, time.Tuesday, time.Wednesday, time.Thursday, time.Friday}
	}
	out := make([]time.Weekday, len(s.Workdays))
	for i, d := range s.Workdays {
		out[i] = time.Weekday(d)
	}
	return out
}

// Under puts the foot under the text of a letter.
func (s Settings) Under(body string) string {
	if strings.TrimSpace(s.Foot) == "" {
		return body
	}
	return strings.TrimRight(body, "\n") + "\n\n" + strings.TrimSpace(s.Foot) + "\n"
}

// Says is a channel in a sentence.
func (c Channel) Says() string {
	out := fmt.Sprintf("%s: %s", c.What, c.Reach)
	if c.Hours != "" {
		out += ", " + c.Hours
	}
	if c.Reply != "" {
		out += "; answered " + c.Reply
	}
	return out
}
