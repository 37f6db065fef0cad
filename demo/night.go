package demo

import (
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// night designs the Night Ecology Fellowship: the field of study changes
// materials, statements and limits.
func night(e *edits, _ *form.Design) {
	e.set("about", "A year awake: one person, one question about what lives by night on the isles, a stipend and a "+
		"desk at the field house.")
	e.set("gives", "A stipend, a desk at the field house at Tarl, and the use of its boat in settled weather.")
	e.set("lists/keyword-list/items", []form.Item{{Code: "sound", Label: "Sound"},
		{Code: "light", Label: "Artificial light"}, {Code: "migration", Label: "Migration"}, {Code: "feeding",
			Label: "Feeding"}, {Code: "roosts", Label: "Roosts"},
		{Code: "streetlamps", Label: "Street lamps"}, {Code: "shearwaters", Label: "Shearwaters"}, {Code: "pollination",
			Label: "Pollination by night"}, {Code: "owls", Label: "Owls"}})
	e.set("sections/plan/questions/statement/limits", form.Cases[form.Limits]{When: []form.Case[form.Limits]{
		{If: test(answer("field"), condition.Is, text("bats")), Then: form.Limits{Words: 900}},
		{If: test(answer("field"), condition.In, anyOf("moths")),
			Then: form.Limits{Words: 700}}}, Else: form.Limits{Words: 600}})
	e.set("sections/declarations/questions/true/initials", true)
	e.set("sections/declarations/questions/news/initials", true)
	e.set("sections/references/questions/scientist/ask/by", form.Day{Key: form.ChecksBy})
	e.set("sections/references/questions/scientist/ask/waits", true)
	e.set("sections/references/questions/host/ask/shows", []form.Key{"field"})
	e.set("control", 10) // one case in ten has a reader more, and nobody who reads knows which
	e.set("trainFirst", true)
	e.ask("you", "site-page", form.Link, form.Fact, "A page about your work", may)
	e.ask("plan", "licence", form.Date, form.Fact, "Date of your handling licence",
		onlyIf(test(answer("field"), condition.Is,
			text("bats"))), limits(form.Limits{MonthsOld: 36}), instead(form.ToFollow), office, counted,
		func(q *form.Question) { q.FollowBy = &form.Day{Key: form.ChecksBy} })
	e.ask("plan", "nights", form.Counts, form.Chosen, "How many nights in the field, by season?",
		options("spring", "Spring", "summer", "Summer", "autumn", "Autumn", "winter",
			"Winter"), limits(form.Limits{Most: ptr(366)}))
	e.ask("plan", "helpers", form.Years, form.Chosen, "Who is paid, and what, in each half-year",
		options("first", "First half", "second", "Second half"), limits(form.Limits{RowsMost: 4}), mayNo)
	e.ask("plan", "released-until", form.Date, form.Fact, "From when are you free?",
		func(q *form.Question) { q.Sure = form.Expected })
	e.ask("plan", "lamps", form.Short, form.Chosen, "Which lamps must stay off, and who agrees?",
		onlyIf(all(test(answer("keywords"), condition.IncludesAny, anyOf("light", "streetlamps")),
			test(answer("field"), condition.NotIn, anyOf("owls")))), limits(form.Limits{Words: 60}))
	e.ask("plan", "sound-gear", form.YesNo, form.Fact, "Have you recording gear of your own?",
		onlyIf(some(test(answer("keywords"), condition.Includes, text("sound")),
			test(answer("field"), condition.Is, text("bats")))))
	e.ask("plan", "no-sound", form.Short, form.Chosen, "How will you find them without sound?",
		onlyIf(all(test(answer("field"), condition.Is, text("owls")),
			test(answer("keywords"), condition.Lacks, text("sound")))), limits(form.Limits{Words: 60}))
	e.add("figures", form.Figure{Key: "paid", Label: "paid to helpers", Op: form.Sum,
		Of: []condition.Ref{{Answer: "helpers", Column: "first"}, {Answer: "helpers", Column: "second"}}})
	e.add("figures", form.Figure{Key: "paid-share", Label: "helpers’ share of the stipend", Op: form.Share,
		Of: []condition.Ref{figure("paid"), answer("request")}})
	e.add("figures", form.Figure{Key: "old-work", Label: "works before 2015", Op: form.CountWhere,
		Of: []condition.Ref{answer("work-so-far")}, Where: test(condition.Ref{Answer: "work-so-far", Column: "year"},
			condition.Less, number(2015))})
	e.add("figures", form.Figure{Key: "any-online", Label: "something can be found online", Op: form.AnyRow,
		Of: []condition.Ref{answer("work-so-far")}, Where: test(condition.Ref{Answer: "work-so-far", Column: "year"},
			condition.AtLeast, number(1990))})
	e.add("figures", form.Figure{Key: "all-recent", Label: "all of it is recent", Op: form.EveryRow,
		Of: []condition.Ref{answer("work-so-far")}, Where: test(condition.Ref{Answer: "work-so-far", Column: "year"},
			condition.AtLeast, number(2010))})
	e.add("figures", form.Figure{Key: "wait", Label: "months until you are free", Op: form.MonthsTo,
		Of: []condition.Ref{{Date: form.AnswerOn}, answer("released-until")}})
	e.ask("plan", "why-helpers", form.Short, form.Chosen, "Why so much to helpers?",
		onlyIf(test(figure("paid-share"), condition.More, share(1, 3))), limits(form.Limits{Words: 60}))
	e.set("sections/materials/questions/notes/limits", form.Cases[form.Limits]{When: []form.Case[form.Limits]{
		{If: test(answer("field"), condition.Is, text("owls")),
			Then: form.Limits{Slot: &slot.Limits{SizeMost: 6 << 20, PagesMost: 40,
				TitleApart: true}}}}, Else: form.Limits{Slot: &slot.Limits{SizeMost: 6 << 20, PagesMost: 20, TextLeast: true}}})
	e.ask("materials", "budget-sheet", form.File, form.Chosen, "Your reckoning, as a sheet", mayNo,
		takes(slot.Limits{Kinds: []slot.Kind{slot.Sheet, slot.PDF}, SizeMost: 2 << 20}))
	e.ask("materials", "score", form.File, form.Chosen, "A written account of each recording",
		onlyIf(test(answer("field"), condition.Is, text("bats"))), mayNo,
		takes(slot.Limits{Kinds: []slot.Kind{slot.Text, slot.PDF}, SizeMost: 2 << 20, Needs: "recordings"}))
	e.ask("you", "year-is", form.Choice, form.Chosen, "What will most of the year be?",
		options("field", "Work in the field", "writing", "Writing up what is there", "teaching", "Teaching"))
	e.ask("you", "schooled-here", form.YesNo, form.Fact, "Were you schooled or have you studied in English?", office)
	e.ask("you", "english", form.Number, form.Fact, "Points in your test of English",
		onlyIf(test(answer("schooled-here"), condition.Is, yesNo(false))), instead(form.ToFollow), office,
		func(q *form.Question) {
			q.Limits.Else, q.FollowBy = form.Limits{Least: ptr(0), Most: ptr(100)}, &form.Day{Key: form.ChecksBy}
		}, help("Of a hundred. Say “to follow” if you have sat it and wait for the paper."))
	e.ask("you", "know-by", form.Date, form.Fact, "Must you know by a certain day?", mayNo, office,
		help("If your employer asks for notice, say."))
	e.add("rules", form.Rule{Key: "activity", Label: "What the year is for",
		Holds: test(answer("year-is"), condition.In, anyOf("field", "writing")),
		Yes:   "The year is for the field or for writing up.",
		No:    "Teaching is not paid for; the college has money for that.", Look: "Say what most of the year will be."})
	e.add("rules", form.Rule{Key: "language", Label: "English",
		When: test(answer("schooled-here"), condition.Is, yesNo(false)), Holds: test(answer("english"), condition.AtLeast,
			number(60)),
		Yes: "Sixty points or more.", No: "The field house works in English: sixty points are needed, or schooling in it.",
		Look: "Your test is to follow; somebody will look when it has come."})
	e.add("rules", form.Rule{Key: "in-time", Label: "An answer in time",
		Holds: condition.Cond{None: []condition.Cond{against(answer("know-by"), condition.Less,
			condition.Ref{Date: form.AnswerOn})}},
		Yes: "You will know when you must.", No: "You must know before we can answer.",
		Look: "Somebody will look at when you must know."})
	e.add("rules", form.Rule{Key: "one-each", Label: "One application each",
		Holds: test(condition.Ref{Fixed: condition.OthersInRound}, condition.AtMost, number(0)),
		Yes:   "This is the only one you have sent.",
		No:    "You have sent another in this round already. Withdraw it if this one is to stand.",
		Look:  "Somebody will look at what else you have sent."})
	e.add("rules", form.Rule{Key: "soon", Label: "Free soon enough",
		Holds: test(figure("wait"), condition.AtMost, number(9)), Person: true,
		Yes: "You are free within nine months of the answer.", No: "You are free too late.",
		Look: "You are free later than nine months after the answer; somebody will look at it with you."})
}

func ptr(n int64) *int64 { return &n }
