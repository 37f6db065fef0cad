package demo

import (
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/pattern"
)

// RoundDates are the instants of one demo round, on working days.
type RoundDates struct {
	Made, Opens, Closes, ChecksBy, ReadingEnds, AnswerOn time.Time
	WorkFrom                                             calendar.Date
	zone                                                 *time.Location
	about                                                string
	fund                                                 int64 // euros
	each                                                 int
	called, prefix                                       string    // beside the programme's name; of its numbers
	ProposalsIn                                          time.Time // the closing of a second stage; zero for none
}

// Calendar of the demo's rounds of grants.
type Calendar struct{ Decided, Panel, Open, Large RoundDates }

// Dates lays the rounds out around now: one decided a year ago, one before the
// panel, one open that closes in some nine days, and one in its second stage.
func Dates(now time.Time, zone *time.Location) Calendar {
	today := calendar.DateOf(now, zone)
	on := func(days, hour int) time.Time {
		t, _ := calendar.At(calendar.AddWorkingDays(today.AddDays(days-1), 1, nil), hour, 0).In(zone)
		return t
	}
	first := func(days int) calendar.Date {
		y, m, _ := today.AddDays(days).Civil()
		return calendar.NewDate(y, m+1, 1)
	}
	return Calendar{
		Decided: RoundDates{Made: on(-440, 10), Opens: on(-430, 9), Closes: on(-385, 16), ChecksBy: on(-375, 17),
			ReadingEnds: on(-354, 17), AnswerOn: on(-340, 12),
			WorkFrom: first(-320), zone: zone, prefix: "SPR", fund: 280000, each: 3,
			about: "Repair of shores, peat and old grassland, by those who live beside them."},
		Panel: RoundDates{Made: on(-100, 10), Opens: on(-92, 9), Closes: on(-45, 16), ChecksBy: on(-36, 17),
			ReadingEnds: on(-3, 17), AnswerOn: on(12, 12),
			WorkFrom: first(40), zone: zone, prefix: "SPR", fund: 420000, each: 3,
			about: "Repair of shores, peat and old grassland. This round gives weight to work that is measured before and after."},
		Open: RoundDates{Made: on(-38, 10), Opens: on(-30, 9), Closes: on(9, 16), ChecksBy: on(20, 17),
			ReadingEnds: on(44, 17), AnswerOn: on(60, 12),
			WorkFrom: first(80), zone: zone, prefix: "SPR", fund: 450000, each: 3,
			about: "Repair of shores, peat and old grassland, small works and large. Groups that are not registered may apply when a registered body holds the money."},
		Large: RoundDates{Made: on(-84, 10), Opens: on(-78, 9), Closes: on(-46, 16), ChecksBy: on(-38, 17),
			ProposalsIn: on(8, 16), ReadingEnds: on(27, 17), AnswerOn: on(40, 12),
			WorkFrom: first(60), zone: zone, fund: 240000, each: 2, called: "large works, ", prefix: "SPL",
			about: "Works too large for one season, in two stages: an outline first, then a full plan from those who are invited on."},
	}
}

// Name of the round: the programme and the month of its closing.
func (d RoundDates) Name() string {
	return "Shore & Peat Repair Grants, " + d.called + d.Closes.In(d.zone).Format("January 2006")
}

// Design of the round, from the pattern for grants.
func (d RoundDates) Design() *form.Design {
	wall := func(t time.Time) calendar.Wall { return calendar.WallOf(t, d.zone) }
	return pattern.Grants(pattern.Settings{
		Key: form.Key("shore-and-peat-" + strings.ReplaceAll(strings.ReplaceAll(d.called, ",", ""), " ", "-") +
			strings.ToLower(d.Closes.In(d.zone).Format("January-2006"))), Name: d.Name(),
		Programme: "Shore & Peat Repair Grants", Prefix: d.prefix,
		About: d.about, Contact: "grants@ostrel-trust.example", Zone: d.zone.String(), Currency: "EUR", Fund: d.fund * 100,
		Least: 200_000, Most: 8_000_000,
		MatchPercent: 15, ReadersEach: d.each, HoldMinutes: 30, Opens: wall(d.Opens), Closes: wall(d.Closes),
		ChecksBy:    wall(d.ChecksBy),
		ReadingEnds: wall(d.ReadingEnds), AnswerOn: wall(d.AnswerOn), WorkFrom: d.WorkFrom})
}
