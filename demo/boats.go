package demo

import (
	"fmt"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/slot"
)

// boats designs the Wooden Boat Trades Scholarships: one form that is read
// against forty awards, some of which ask for papers of their own.
func boats(e *edits, d *form.Design) {
	e.set("about", "A year in a yard: caulking, lofting, spar making, and the office that keeps a yard alive. One "+
		"form is read against forty awards.")
	for _, a := range d.Awards {
		e.ops = append(e.ops, design.Op{Do: design.Remove, Path: "awards/" + string(a.Key)})
	}
	doc := encode(d)
	awards, faults := design.AwardsFromFile(doc, d.Currency, fortyAwards())
	if len(faults) > 0 {
		panic(faults[0])
	}
	e.ops = append(e.ops, awards...)
	e.set("awards/the-sail-loft-bequest/match", test(answer("skills"), condition.Includes, text("sails")))
	e.set("awards/hallin-bar-prize/match", all(test(answer("home-district"), condition.Is, text("hallin")),
		test(answer("grade"), condition.AtLeast, number(3))))
	e.set("awards/hardship-fund/match", test(figure("need"), condition.More, number(400_000)))
	household(e, mayNo)

	e.add("applicants", form.Option{Key: "leaver", Label: "A school leaver"})
	e.add("applicants", form.Option{Key: "changer", Label: "Somebody changing trade"})
	e.add("applicants", form.Option{Key: "yard-hand", Label: "A hand in a yard"})
	e.add("lists", form.List{Key: "isles-postcodes", Label: "Postcodes of the isles", Version: "2",
		Day: calendar.NewDate(2026, 3, 1), Prefix: true,
		Items: []form.Item{{Code: "OI1", Label: "Hallin"}, {Code: "OI4", Label: "Corvoe"}, {Code: "OI7", Label: "Brae Ness"},
			{Code: "OI9", Label: "Tarl"}, {Code: "OI6", Label: "Sunder Bay"}}})
	e.add("tables", form.Table{Key: "courses", Label: "Courses of the yard school",
		Columns: []form.Column{{Key: "credits", Label: "credits", Numbers: true},
			{Key: "site", Label: "site"}}, Rows: []form.Row{
			{Key: "lofting", Label: "Lofting", Cells: []string{"3", "Tarl slip"}}, {Key: "caulking",
				Label: "Caulking and paying", Cells: []string{"2", "Corvoe yard"}},
			{Key: "spars", Label: "Spars and oars", Cells: []string{"2.5", "Hallin shed"}}, {Key: "accounts",
				Label: "Accounts for a yard", Cells: []string{"1", "by post"}}}})
	e.add("tables", form.Table{Key: "readiness", Label: "Readiness by points",
		Columns: []form.Column{{Key: "points", Label: "points", Numbers: true}}, Rows: []form.Row{
			{Key: "begin", Label: "Beginning", Cells: []string{"0"}}, {Key: "able", Label: "Able",
				Cells: []string{"2"}}, {Key: "ready", Label: "Ready", Cells: []string{"3"}}}})

	e.add("sections/you/questions", func() form.Question {
		q := design.NewQuestion(form.ApplicantIs, "What are you now?")
		q.Key, q.Nature = "applicant", form.Fact
		return q
	}(), "names")
	e.ask("you", "mail-home", form.Mail, form.Fact, "A second mail address that will last", may, office)
	e.ask("you", "home", form.Address, form.Fact, "Where you live", office)
	e.ask("you", "lodging", form.Address, form.Fact, "Where you will lodge during the year", office, may,
		func(q *form.Question) { q.CopyOf = "home" })
	e.ask("you", "postcode", form.Short, form.Fact, "Postcode of your home",
		help("It is looked up in the list of the isles’ postcodes."), office, instead(form.NoSuchPost),
		func(q *form.Question) { q.Example = "OI4 2RT" })
	e.ask("you", "yard", form.Contact, form.Fact, "The yard you work in",
		onlyIf(test(condition.Ref{Fixed: condition.Applicant}, condition.Is,
			text("yard-hand"))), office, func(q *form.Question) { q.Shared = true })
	e.ask("learning", "course", form.Pick, form.Chosen, "First course", func(q *form.Question) { q.Table = "courses" },
		help("Credits and site are filled in from the school’s table."))
	e.ask("learning", "course-two", form.Pick, form.Chosen, "Second course",
		func(q *form.Question) { q.Table = "courses" }, mayNo)
	e.ask("learning", "yards-in-order", form.Ranked, form.Chosen, "Which yards would you go to, in order?",
		options("tarl-slip", "Tarl slip", "corvoe-yard", "Corvoe yard", "hallin-shed", "Hallin shed", "ness-boatworks",
			"Ness boatworks"), limits(form.Limits{PickLeast: 2, PickMost: 3}))
	e.ask("learning", "skills", form.Several, form.Chosen, "Which trades draw you?",
		options("planking", "Planking", "spars", "Spars", "sails", "Sails", "ironwork", "Ironwork", "engines",
			"Engines"), limits(form.Limits{PickLeast: 1, PickMost: 3}))
	e.ask("learning", "own-tools", form.YesNo, form.Fact, "Have you tools of your own?")
	e.ask("learning", "afloat", form.YesNo, form.Fact, "Have you worked afloat?")
	e.ask("learning", "swims", form.YesNo, form.Fact, "Can you swim two hundred metres?")
	e.ask("learning", "shown", form.Long, form.Chosen, "Tell us about one thing you made",
		limits(form.Limits{Words: 250, LeastWords: 30}),
		func(q *form.Question) {
			q.Media = true
			q.Limits.Else.Slot = &slot.Limits{Kinds: []slot.Kind{slot.Film, slot.Sound}, SizeMost: 200 << 20, SecondsMost: 180}
			q.Terms = []form.Term{{Word: "made", Means: "Built, mended or drawn; it need not be a boat."}}
			q.Example = "A ladder for my aunt’s loft, of larch, with treads let in."
		}, help("Write it, or put in a film or recording of three minutes instead."))
	e.ask("money", "share-from-family", form.Percent, form.Fact, "How much of it will your family carry?", may,
		instead(form.RatherNotSay, form.NotKnown))
	e.add("figures", form.Figure{Key: "credits", Label: "credits", Op: form.Sum,
		Of: []condition.Ref{{Answer: "course", Column: "credits"}, {Answer: "course-two", Column: "credits"}}})
	e.add("figures", form.Figure{Key: "points", Label: "points", Op: form.CountWhere,
		Of: []condition.Ref{answer("own-tools"), answer("afloat"), answer("swims")}})
	e.add("figures", form.Figure{Key: "class", Label: "readiness", Op: form.StepOf, Of: []condition.Ref{figure("points")},
		Table: "readiness", Rounding: form.NextDown})
	e.add("figures", form.Figure{Key: "larger-sum", Label: "the larger of costs and means", Op: form.MostOf,
		Of: []condition.Ref{answer("costs"), answer("means")}})
	e.ask("learning", "how-full", form.Short, form.Chosen, "How will you carry so full a year?",
		onlyIf(test(figure("credits"), condition.AtLeast, number(5))), limits(form.Limits{Words: 80}))
	e.ask("learning", "safety", form.Declaration, form.Chosen, "I will take the sea safety course before I go afloat.",
		onlyIf(test(figure("class"), condition.Less, number(2))), office)

	e.ask("awards-section", "in-order", form.AwardOrder, form.Chosen, "If you can have only one, which first?", mayNo,
		limits(form.Limits{PickMost: 3}), help("Nobody is given two. Leave it empty if you do not mind."))
	e.ask("papers", "sail-sample", form.File, form.Chosen, "Pictures of a sail you sewed",
		onlyIf(test(answer("awards"), condition.Includes, text("the-sail-loft-bequest"))),
		takes(slot.Limits{Kinds: []slot.Kind{slot.Picture}, SizeMost: 5 << 20, FilesLeast: 1, FilesMost: 3, WidthLeast: 800,
			Details: []string{"what it is"}}))
	e.ask("papers", "hardship", form.File, form.Fact, "A letter from whoever knows your means",
		onlyIf(test(answer("awards"), condition.IncludesAny, anyOf("hardship-fund", "second-chance-purse"))),
		func(q *form.Question) { q.Limits.Else.Slot.PagesMost = 2 })
	e.ask("papers", "photograph", form.File, form.Fact, "A photograph of yourself", mayNo, office,
		takes(slot.Limits{Wish: slot.NotAccepted, Kinds: []slot.Kind{slot.Picture}, SizeMost: 1 << 20}),
		help("Awards are given for work, not faces."))
	e.ask("papers", "workmate", form.Referee, form.Chosen, "Somebody of your choice who has worked beside you", beside)
	e.add("rules", form.Rule{Key: "one-in-programme", Label: "One a year",
		Holds: test(condition.Ref{Fixed: condition.OthersInProgramme}, condition.Less, number(1)),
		Yes:   "You have no other under way in this programme.",
		No:    "You have another under way in this programme; it must be answered or withdrawn first.",
		Look:  "Somebody will look at what else you have under way."})
	e.add("rules", form.Rule{Key: "isles", Label: "Home in the isles",
		Holds: some(test(answer("postcode"), condition.OnList, text("isles-postcodes")),
			test(answer("applicant"), condition.Is, text("yard-hand"))),
		Yes:  "Your home is in the isles, or your work is.",
		No:   "The Trust was left for people of the isles. If you work in one of our yards, say so above.",
		Look: "We look your place up for you."})
	e.add("rules", form.Rule{Key: "enough-courses", Label: "Two courses’ worth",
		When: test(answer("applicant"), condition.IsNot, text("changer")), Holds: test(figure("credits"), condition.AtLeast,
			number(3)), Person: true,
		Yes: "Your courses come to three credits or more.", No: "Pick courses of three credits or more.",
		Look: "Your courses come to less than three credits; somebody will talk with you about a third."})
}

// beside asks somebody of the applicant's choice, who rates and may write; the
// applicant says whether they want to read it.
func beside(q *form.Question) {
	q.Ask = &form.Ask{Who: "somebody of the applicant’s own choice",
		Wants: "One day you remember, and what it says about them.",
		Use:   "Those who choose read it beside the application.",
		Sight: form.SightChosen, Contact: true, Reminders: 3}
	for _, r := range []struct{ key, label string }{{"bench", "At the bench"}, {"others", "With others"},
		{"weather", "On a bad day"}, {"finish", "Will they finish?"}} {
		c := design.NewQuestion(form.Choice, r.label)
		c.Key = form.Key(r.key)
		c.Options = []form.Option{{Key: "best", Label: "Among the best I know"}, {Key: "good", Label: "Good"},
			{Key: "middling", Label: "Middling"}, {Key: "poor", Label: "Poor"}, {Key: "cannot-say", Label: "I cannot say"}}
		q.Columns = append(q.Columns, c)
	}
}

// fortyAwards are the awards as the Trust's treasurer keeps them: a CSV.
func fortyAwards() string {
	var out strings.Builder
	out.WriteString("label,purse,places,donor,led,about\n")
	rows := []string{
		`The Sail Loft Bequest,"4,000",1,Bequest of Ada Quill,merit,For somebody who sews. Pictures of a sail are asked for.`,
		`Hallin Bar Prize,"1,500",2,Hallin Bar Common,merit,For a Hallin home and good grades.`,
		`Hardship Fund,"2,500",4,The Ostrel Isles Trust,need,For those whose costs are far above their means.`,
		`Second Chance Purse,"3,000",2,Anonymous,need,For those who left school early.`,
		`Tarl Slip Apprenticeship,"6,000",1,Tarl Slip Company,merit,A year at the slip itself.`,
	}
	for _, r := range rows {
		out.WriteString(r + "\n")
	}
	boats := []string{"Kestrel", "Morning Star", "Two Brothers", "Gannet", "Provider", "Lizzie Marr", "Petrel",
		"Good Intent", "Children’s Friend", "Isabella", "Dunter", "Fulmar", "Zephyr", "Rose of Ness", "Guillemot",
		"Brothers’ Hope", "Mavis", "Whimbrel",
		"Agnes Ann", "Selkie", "True Vine", "Storm Cock", "Kittiwake", "Janet Forbes", "Spindrift", "Curlew", "Evening Star",
		"Maid of Tarl", "Sheila", "Tirrick", "Corvoe Lass", "Bonxie", "Elspeth", "Water Rail", "Venture"}
	for i, b := range boats {
		fmt.Fprintf(&out, "Owners of the %s,%d,%d,Owners of the %s,%s,For the upkeep of wooden boats like ours.\n", b,
			500+100*(i%9), 1+i%2, b, []string{"", "merit", "need"}[i%3])
	}
	return out.String()
}
