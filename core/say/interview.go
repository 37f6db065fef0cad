package say

import (
	"time"

	"ulvant/core/calendar"
	"ulvant/core/phrase"
)

// Mail is a subject and a text.
type Mail struct{ Subject, Body string }

// Interviewed is what letters about an interview say.
type Interviewed struct {
	Name, Title, Ref, Round, Funder string
	Home                            *time.Location // of the funder
	At                              time.Time      // zero: there was no time
	Minutes                         int
	Zone                            *time.Location // where they are
	Place, Link, Note, Why          string
	Chosen                          bool // they chose the time themselves
	Moved                           bool // they had another
}

// OnBoth is a time as somebody reads it where they are, zone; where the funder’s clock
// shows another, both stand there.
func OnBoth(at time.Time, zone, home *time.Location) string {
	theirs, ours := calendar.WallOf(at, zone), calendar.WallOf(at, home)
	if theirs == ours {
		return ours.Words() + " (" + zoneName(home) + ")"
	}
	if theirs.Date == ours.Date {
		return theirs.Words() + " in " + ZoneCity(zone.String()) + " (" + ours.Words()[len(ours.Date.Words())+2:] + " in " +
			ZoneCity(home.String()) + ")"
	}
	return theirs.Words() + " in " + ZoneCity(zone.String()) + " (" + ours.Words() + " in " + ZoneCity(home.String()) + ")"
}

// zoneName is a zone as people call it: “Tokyo time”.
func zoneName(z *time.Location) string { return ZoneCity(z.String()) + " time" }

// ZoneCity is the place in the name of a zone: Los Angeles of America/Los_Angeles.
func ZoneCity(name string) string {
	city := []rune{}
	for _, r := range name {
		switch r {
		case '/':
			city = city[:0]
		case '_':
			city = append(city, ' ')
		default:
			city = append(city, r)
		}
	}
	return string(city)
}

func (i Interviewed) where() (out string) {
	if i.Place != "" {
		out += "Where: " + i.Place + "\n"
	}
	if i.Link != "" {
		out += "Join: " + i.Link + "\n"
	}
	return out
}

func (i Interviewed) end() string {
	return "\n\nAll about it stands on the page of your application, number " + i.Ref + ".\n\n" + i.Funder + "\n"
}

// ChooseATime asks whoever is invited to choose one.
func ChooseATime(i Interviewed, by time.Time) Mail {
	return Mail{"Choose a time for your interview: " + i.Title, "Dear " + i.Name +
		",\n\nwe would like to talk with you about “" + i.Title +
		"” in " + i.Round + ".\n\nPlease choose a time on the page of your application by " +
		calendar.WallOf(by, i.Home).Words() + " (" +
		zoneName(i.Home) + "). If you choose none, we give you one. If you are in another time zone, say so there: times are then shown on your clock." + i.end()}
}

// InterviewAt tells of a time: given, chosen, or another one than before.
func InterviewAt(i Interviewed) Mail {
	when := OnBoth(i.At, i.Zone, i.Home)
	subject, first := "Your interview: "+i.Title, "we would like to talk with you about “"+i.Title+"” in "+i.Round+"."
	switch {
	case i.Moved && i.Why != "":
		subject, first = "Your interview has changed: "+i.Title,
			"your interview about “"+i.Title+"” has changed: "+i.Why+". It is now as follows."
	case i.Chosen:
		first = "you have chosen a time to talk with us about “" + i.Title + "”."
	}
	last := "Please say on the page of your application whether you come."
	if i.Chosen {
		last = "If you cannot come after all, say so on the page of your application."
	}
	note := ""
	if i.Note != "" {
		note = "\n" + i.Note + "\n"
	}
	return Mail{subject, "Dear " + i.Name + ",\n\n" + first + "\n\nWhen: " + when + "\nHow long: " +
		phrase.Count(int64(i.Minutes), "minute", "minutes") +
		"\n" + i.where() + note + "\n" + last + i.end()}
}

// InterviewOff tells that it does not take place.
func InterviewOff(i Interviewed) Mail {
	was := ""
	if !i.At.IsZero() {
		was = " on " + OnBoth(i.At, i.Zone, i.Home)
	}
	return Mail{"Your interview is called off: " + i.Title, "Dear " + i.Name + ",\n\nthe interview about “" + i.Title +
		"”" + was +
		" does not take place. The reason: " + i.Why + i.end()}
}

// InterviewMissed tells somebody who was not there that they get another time.
func InterviewMissed(i Interviewed) Mail {
	why := ""
	if i.Why != "" {
		why = " " + i.Why
	}
	return Mail{"We missed you: " + i.Title, "Dear " + i.Name + ",\n\nyou were not there for your interview about “" +
		i.Title + "” on " +
		OnBoth(i.At, i.Zone, i.Home) + "." + why + "\n\nYou get another time; we write to you when it is set." + i.end()}
}

// InterviewSoon reminds whoever comes, the day before.
func InterviewSoon(i Interviewed) Mail {
	return Mail{"Your interview is soon: " + i.Title, "Dear " + i.Name +
		",\n\nwe look forward to talking with you about “" + i.Title +
		"”.\n\nWhen: " + OnBoth(i.At, i.Zone, i.Home) + "\n" + i.where() +
		"\nIf you cannot come, say so on the page of your application." + i.end()}
}

// InterviewsWait tells a member of a panel of a day on which they meet people.
func InterviewsWait(name, round, panel, funder string, at time.Time, home *time.Location) Mail {
	day := calendar.WallOf(at, home)
	return Mail{"You meet people for " + round + " on " + day.Date.Words(), "Dear " + name +
		",\n\nyou are of the panel “" + panel + "” for " + round +
		" on " + day.Date.Words() + ", from " + day.Words()[len(day.Date.Words())+2:] + " (" + zoneName(home) +
		"). Whom you meet, and what they sent, stands on your reading desk.\n\nIf you know one of them, step out there.\n\n" +
		funder + "\n"}
}

// TimesGiven says what came of giving times to those who had none.
func TimesGiven(given, left, night int) string {
	if given+left == 0 {
		return "Everybody has a time, or may still choose one."
	}
	out := phrase.Count(int64(given), "person has", "people have") + " a time now, and the invitation is on its way."
	if given == 0 {
		out = "Nobody could be given a time."
	}
	if night > 0 {
		out += " For " + phrase.Count(int64(night), "of them", "of them") + " it is night where they are."
	}
	if left > 0 {
		out += " " + phrase.Count(int64(left), "has", "have") +
			" none: there is no free time with a panel that may meet them. Add a day."
	}
	return out
}
