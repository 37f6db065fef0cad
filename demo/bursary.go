package demo

import (
	"context"
	"strconv"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/standin/declarations"
)

// household asks what a household has in two years, reckons need from it, and
// asks under which reference it was declared elsewhere.
func household(e *edits, must func(*form.Question)) {
	e.ask(
		"money",
		"household",
		form.Years,
		form.Fact,
		"What each of your parents, or of you two, earned",
		must,
		office,
		help("Before taxes, as it stands on the yearly statement."),
		options("y2024", "2024", "y2025", "2025"),
	)
	e.ask(
		"money",
		"declared",
		form.Declared,
		form.Fact,
		"Reference of your declaration to the isles’ treasury",
		must,
		office,
		func(q *form.Question) { q.Declared = &form.DeclaredRule{Of: "household", Tolerance: 1} },
	)
	cell := func(year form.Key) condition.Ref { return condition.Ref{Answer: "household", Column: year} }
	e.add(
		"figures",
		form.Figure{Key: "household-income", Label: "what the household earned in two years", Op: form.Sum,
			Of: []condition.Ref{cell("y2024"), cell("y2025")}},
	)
	e.add(
		"figures",
		form.Figure{
			Key:     "household-share",
			Label:   "what the household can give: a tenth of two years",
			Op:      form.PartOf,
			Of:      []condition.Ref{figure("household-income")},
			Percent: 10,
		},
	)
	e.add(
		"figures",
		form.Figure{Key: "reckoned-need", Label: "need: the costs without means and the household’s share",
			Op: form.Difference, Of: []condition.Ref{answer("costs"), answer("means"), figure("household-share")}},
	)
}

// bursary is a small round for households with little, checked by now: what they
// say is compared with what they declared.
func bursary(e *edits, d *form.Design) {
	e.set("about", "A year’s help for whoever learns a trade of the isles and whose household has little.")
	e.ops = append(e.ops, design.Op{Do: design.Remove, Path: "sections/papers"},
		design.Op{Do: design.Remove, Path: "sections/learning/questions/grade"})
	household(e, func(*form.Question) {})
	e.ask("learning", "entry-test", form.Number, form.Fact, "Points in the yard school’s entry test", office,
		instead(form.ToFollow), func(q *form.Question) {
			q.Limits.Else, q.FollowBy = form.Limits{Least: ptr(0), Most: ptr(100)}, &form.Day{Key: form.ChecksBy}
		}, help("Say “to follow” if you have sat it and wait for the paper."))
	e.ask("learning", "place-letter", form.Short, form.Fact, "The number on your letter of admission", office,
		instead(form.ToFollow), func(q *form.Question) { q.FollowBy = &form.Day{Key: "admission"} })
	closes, _ := d.Moment(form.Closes)
	e.add("calendar", form.Moment{Key: "admission", Label: "the school’s letters of admission",
		At: calendar.At(closes.At.Date.AddDays(3), 17, 0)}, "checks-by")
	e.add("rules", form.Rule{Key: "entry", Label: "The entry test", Holds: test(answer("entry-test"), condition.AtLeast,
		number(50)),
		Yes: "Fifty points or more.", No: "The school takes nobody under fifty points.",
		Look: "The points are to follow; somebody will look when they have come."})
	e.add(
		"rules",
		form.Rule{
			Key:   "needs-it",
			Label: "Need",
			Holds: test(figure("reckoned-need"), condition.More, number(100_000)),
			Says:  "What the year costs, without own means and a tenth of two years’ earnings, is above €1,000.",
			Yes:   "By what you say, you need it.",
			No:    "By what you say, your household can pay for the year.",
			Look:  "Somebody will reckon your need.",
		},
	)
}

// points and place are to follow where they are "?".
var bursars = []struct{ name, reference, earned, declared, points, place string }{
	{"Ailsa Corry", "HD-118-204", "21,400", "21,400", "?", "YS-2026-114"},
	{"Donal Pike", "HD-118-377", "19,000", "24,600", "71", "?"},
	{"Merete Holm", "HD-900-001", "17,250", "", "64", "YS-2026-131"},
}

// Declarations are what the stand-in of the isles' treasury knows.
func Declarations() (out []declarations.Declaration) {
	for _, b := range bursars {
		if b.declared != "" {
			out = append(out, declarations.Declaration{Reference: b.reference, State: "settled",
				Sums: map[string]string{"2024": b.declared, "2025": "18,000"}})
		}
	}
	return out
}

// bursaries plays that round up to its checks.
func (b *builder) bursaries() {
	s := laid(b.now, b.zone, "Isles Bursaries", "OIB", "", 20_000, 300, 4_000, -50, -6, 6, 20, 30)
	opens, _ := s.Opens.In(b.zone)
	b.on(opens.Add(-5*oneDay), func(ctx context.Context) error {
		_, err := b.programme(ctx, "scholarship", s, bursary)
		return err
	})
	for i, p := range bursars {
		b.on(opens.Add(time.Duration(90+131*i)*time.Hour), func(ctx context.Context) error {
			w := writing{p.name, "home", "A year at the bench", "names:legal = " + p.name + `
born = 3 March 2001
phone = 01 555 0` + strconv.Itoa(320+11*i) + `
home-district = corvoe
schools:r0001:where = Corvoe High School
schools:r0001:what = Leaving certificate
schools:r0001:until = 2019
entry-test = ` + p.points + `
place-letter = ` + p.place + `
why = I have worked the nets since school and want to build what I row.
costs = 9,800
costs:sure = estimated
means = 1,200
means:sure = estimated
request = 3,500
household:r0001:person = First parent
household:r0001:y2024 = ` + p.earned + `
household:r0001:y2025 = 10,000
household:r0002:person = Second parent
household:r0002:y2025 = 8,000
declared = ` + p.reference + `
awards = general
true = yes
signed = ` + p.name}
			if err := b.begins(ctx, string(s.Key), w); err != nil {
				return err
			}
			c, err := b.entryOf(ctx, p.name, "home")
			if err != nil {
				return err
			}
			return b.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) error { return sends(ctx, b, tx, c) })
		})
	}
}

func sends(ctx context.Context, b *builder, tx *db.Tx, c application.Case) error {
	_, err := b.Intake.Send(ctx, tx, c)
	return err
}
