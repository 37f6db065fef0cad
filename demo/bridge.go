package demo

import (
	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// bridge designs the Footbridge Design Competition: fees that rise by date,
// prizes open to some, names hidden from the jury.
func bridge(e *edits, d *form.Design) {
	closes, _ := d.Moment(form.Closes)
	remindBefore(e, closes, 6)
	early := closes.At.Date.AddDays(-9)
	e.set("calendar/early-until/at", calendar.At(early, 16, 0))
	e.set("about", "A footbridge of forty metres over the burn of Tarl, for people, sheep and one post cart. The "+
		"Trust builds the winner in two summers.")
	e.add("streams", form.Stream{Key: "makers", Label: "Makers", About: "For those who would build it themselves."})
	e.add("fees", form.Fee{Key: "supper", Label: "Supper on the evening of the exhibition", What: "extra", Most: 4,
		Offered: test(condition.Ref{Fixed: condition.Stream}, condition.In,
			anyOf("open-class", "makers")), Price: form.Cases[form.Price]{Else: form.Price{Amount: 3_500}}})
	e.add("fees", form.Fee{Key: "set", Label: "Catalogue and supper for one, together", What: "bundle",
		Of: []form.Key{"catalogue", "supper"}, Price: form.Cases[form.Price]{Else: form.Price{Amount: 4_600}}})
	e.add("codes", form.FeeCode{Key: "isles-half", Code: "ISLES", Percent: 50, Until: closes.At.Date})
	e.add("codes", form.FeeCode{Key: "school-code", Code: "SCHOOL10", Off: 1_000})
	e.add("codes", form.FeeCode{Key: "college", Code: "COLLEGE", Percent: 100,
		Members: []string{"ysolde.marr@tarl-college.example"}})
	e.add("codes", form.FeeCode{Key: "one-free", Code: "FIRSTBRIDGE", Percent: 100, Uses: 1})
	e.set("payment", form.Payment{Grace: form.DefaultGrace, Second: 2_500, Invoice: true, InvoiceDays: 14,
		Account: "Ostrel Isles Trust, IE29 AIBK 9311 5212 3456 78", Back: []form.Back{
			{Until: form.Closes, Percent: 100}, {Until: form.ChecksBy, Percent: 50}}})
	e.set("awards/first-prize/purse", 800_000)
	e.add("awards", form.Award{Key: "makers-prize", Label: "Makers’ prize", Purse: 250_000, Places: 1,
		Donor: "Tarl Slip Company", Match: test(condition.Ref{Fixed: condition.Stream}, condition.Is,
			text("makers")), Public: true})
	e.ask(
		"entrant",
		"practice",
		form.Identifier,
		form.Fact,
		"VAT number of the practice, if there is one",
		office,
		may,
		func(q *form.Question) { q.Scheme = "ie-vat" },
	)
	e.ask("entrant", "reach", form.Phone, form.Fact, "Phone during the jury’s days", office,
		func(q *form.Question) { q.Region = "IE" })
	e.ask("entrant", "built-before", form.Number, form.Fact, "How many bridges have you built?",
		onlyIf(test(answer("stream"), condition.Is, text("makers"))), office, counted)
	e.add("gifts", form.Gift{Key: "oak", Label: "Oak baulks from the harbour store", What: "goods", Value: 18_000,
		About: "Seasoned three years, nine feet by ten inches. They are given beside the money, and brought.",
		Most:  ptr(360_000)})
	e.ask("the-design", "span", form.Number, form.Chosen, "Clear span", func(q *form.Question) {
		q.Unit, q.Scale = "m", 1
		q.Limits.Else = form.Limits{Least: ptr(300), Most: ptr(600)}
	})
	e.ask("the-design", "parts-of-it", form.Budget, form.Chosen, "What it would cost, part by part",
		func(q *form.Question) {
			q.Request = "cost"
			q.Options = pairsOf("timber", "Timber", "iron", "Iron", "stone", "Stone and concrete", "labour", "Labour")
			q.Limits.Else = form.Limits{Caps: []form.Cap{{Heading: "iron", Percent: 40}}}
			q.Costing = &form.Costing{Quantities: true, Gives: []form.Key{"oak"}}
		})
	e.ask("the-design", "oak-to", form.Address, form.Chosen, "Where the oak is to be brought", office,
		help("If you ask for any. The harbour’s cart brings it there within a month of the jury’s word."), may)
	e.ask("the-design", "maintain", form.Long, form.Chosen, "Who could mend it, and with what?",
		limits(form.Limits{Words: 120}),
		onlyIf(condition.Cond{AtLeast: &condition.Count{N: 2,
			Of: []condition.Cond{test(answer("cost"), condition.More, number(5_000_000)),
				test(
					answer("span"),
					condition.AtLeast,
					share(40, 1),
				), test(answer("stream"), condition.Is, text("makers"))}}}))
	e.ask("the-design", "sheep", form.Short, form.Chosen, "How do sheep cross it?",
		onlyIf(condition.Cond{None: []condition.Cond{test(answer("stream"), condition.Is, text("students")),
			test(answer("span"), condition.Less, share(35, 1))}}), limits(form.Limits{Words: 40}))
	e.ask(
		"the-design",
		"late-word",
		form.Short,
		form.Chosen,
		"You enter in the last days: may we print your name late?",
		onlyIf(test(condition.Ref{Fixed: condition.Today}, condition.AtLeast,
			day(closes.At.Date.AddDays(-2)))),
		mayNo,
		office,
		counted,
	)
	e.ask("the-design", "sketch", form.File, form.Chosen, "One sketch in grey", mayNo,
		takes(slot.Limits{Kinds: []slot.Kind{slot.Picture}, SizeMost: 4 << 20, Colour: "grey",
			MadeSince: closes.At.Date.AddMonths(-12)}))
	e.ask("entrant", "owner", form.Signatory, form.Chosen, "Whoever else holds rights in the design", mayNo, office,
		func(q *form.Question) {
			q.Ask = &form.Ask{
				Who:   "a holder of rights",
				Wants: "The design may be entered, shown and built.",
				Paper: true,
			}
		})
	e.ask("the-design", "people-shown", form.Signatory, form.Chosen, "People who can be recognised in the picture", mayNo,
		office,
		help("Each gets a mail and sees the picture before they say yes. Leave it empty when there are none."),
		func(q *form.Question) {
			q.Limits.Else.Referees = 3
			q.Ask = &form.Ask{Who: "somebody in the picture",
				Wants: "I may be seen in this picture, in the catalogue and where the designs are shown.",
				Paper: true, Shows: []form.Key{"picture"}}
		})
	e.set("criteria/buildable/passPoints", pairsOf("spans", "It spans the burn without a pier", "cart",
		"The post cart can cross"))
	e.add("bodies", form.Body{Key: "engineers", Label: "The district’s engineers",
		Sees: test(answer("cost"), condition.AtLeast, number(3_000_000)), By: form.ChecksBy})
	e.set("readersEach", 4)
}
