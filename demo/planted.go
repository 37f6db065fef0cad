package demo

import (
	"context"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/pattern"
	"ulvant/internal/platform/db"
)

// planted are the settings of a round that is still being designed, and has
// three mistakes in it which its proof shows.
func (d RoundDates) planted(now calendar.Date) pattern.Settings {
	on := func(days, hour int) calendar.Wall {
		return calendar.At(calendar.AddWorkingDays(now.AddDays(days-1), 1, nil), hour, 0)
	}
	return pattern.Settings{Key: "small-works", Name: "Small Works on the Shore", Programme: "Shore & Peat Repair Grants",
		Prefix: "SWS",
		About:  "Repairs that a few people can do in a season.", Contact: "grants@ostrel-trust.example",
		Zone: "Europe/Dublin", Currency: "EUR", Fund: 6_000_000, Least: 50_000, Most: 1_000_000,
		MatchPercent: 10, ReadersEach: 2, HoldMinutes: 30, Opens: on(20, 9), Closes: on(60, 0), ChecksBy: on(72,
			17), ReadingEnds: on(90, 17), AnswerOn: on(105, 12), WorkFrom: now.AddDays(130)}
}

// mistakes makes the three: people on their own may ask for less than a rule
// wants everybody to ask for (a trap), the boat's insurance is asked of those
// who come by road (never), and the round closes at midnight.
func mistakes(e *edits, d *form.Design) {
	least, few, some := int64(50_000), int64(90_000), int64(1_000_000)
	e.set("sections/budget-section/questions/request/limits", form.Cases[form.Limits]{
		When: []form.Case[form.Limits]{{If: test(answer("applicant-kind"), condition.Is, text("person")),
			Then: form.Limits{Least: &least, Most: &few}}}, Else: form.Limits{Least: &least, Most: &some}})
	e.add("rules", form.Rule{Key: "worth-it", Label: "Large enough to be worth it",
		Holds: test(answer("request"), condition.AtLeast, number(100_000)),
		Yes:   "You ask for enough to be worth a reader’s time.", No: "Ask for €1,000 or more.",
		Look: "Somebody will look at the sum."})
	e.set("sections/boats/questions/boat-insured/asked", test(answer("site-access"), condition.Is, text("road")))
}

// inDesign makes the round that is not opened yet.
func (b *builder) inDesign(d RoundDates) {
	b.on(b.now.AddDate(0, 0, -4), func(ctx context.Context) error {
		design := pattern.Grants(d.planted(calendar.DateOf(b.now, b.zone)))
		var e edits
		mistakes(&e, design)
		return b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			id, err := b.Rounds.Create(ctx, tx, design)
			if err == nil {
				_, err = b.Rounds.Edit(ctx, tx, id, "", e.ops)
			}
			return err
		})
	})
}
