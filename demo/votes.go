package demo

import (
	"context"
	"fmt"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/pattern"
	"ulvant/core/vote"
	"ulvant/internal/ballot"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/program"
	"ulvant/internal/round"
)

// favourite lets the public vote on the ferry stair while its jury reads: some days of a
// fortnight are over.
func favourite(e *edits, d *form.Design) {
	read, _ := d.Moment(form.ReadingEnd)
	from := read.At.Date.AddDays(-4)
	e.add("calendar", form.Moment{Key: "vote-from", Label: "the public vote", At: calendar.At(from, 9, 0)})
	e.add("calendar",
		form.Moment{Key: "vote-to", Label: "the end of the public vote", At: calendar.At(from.AddDays(14), 20, 0)})
	e.add("stages",
		form.Stage{Key: "public", Label: "Public favourite", Does: form.Votes, From: "vote-from", To: "vote-to"},
		"deciding")
	e.set(
		"vote",
		form.Vote{Asks: "Which of these would you cross?", Shows: []form.Key{"picture", "idea"},
			Agreed: "in-public", Most: 2, Named: 1, ByMail: true, OnPaper: true,
			Declares: []string{"I am 10 or older."}, Days: 14},
	)
}

// paperOf looks every project through and lays the ballot paper out.
func (b *builder) paperOf(ctx context.Context, id int64) (r round.Round, f *form.Form, err error) {
	if r, f, err = b.roundNow(ctx, id); err != nil {
		return r, f, err
	}
	return r, f, b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
		if _, err := b.Ballots.Gather(ctx, tx, r, f, nil); err != nil {
			return err
		}
		list, err := b.Ballots.Projects(ctx, tx, id, 0, ballot.PerList)
		if err != nil {
			return err
		}
		for _, x := range list {
			if err := b.Ballots.Look(ctx, tx, r, f, x.ID, "shown", ""); err != nil {
				return err
			}
		}
		return b.Ballots.LayOut(ctx, tx, r, f)
	})
}

// codes of a sheet that was given to somebody.
func (b *builder) codes(ctx context.Context, r round.Round, f *form.Form, label string,
	n int) (codes []string, err error) {
	err = b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) (err error) {
		_, codes, err = b.Ballots.Print(ctx, tx, r, f, label, n)
		return err
	})
	return codes, err
}

// byCode votes with a code on paper.
func (b *builder) byCode(ctx context.Context, f *form.Form, v ballot.Vote, code string, c vote.Choice) error {
	return b.act(ctx, 0, func(ctx context.Context, tx *db.Tx) error {
		t, err := b.Ballots.Enter(ctx, tx, f, v, code, fmt.Sprintf("198.51.%d.9", noise(200, code)))
		if err != nil {
			return err
		}
		return b.Ballots.Cast(ctx, tx, f, v, t, c)
	})
}

// byMail asks for a ballot and votes by the link in the mail.
func (b *builder) byMail(ctx context.Context, r round.Round, f *form.Form, v ballot.Vote, address string,
	c vote.Choice) error {
	token := ballot.Token("demo-" + address)
	b.Ballots.Draw = func() ballot.Token { return token }
	defer func() { b.Ballots.Draw = nil }()
	return b.act(ctx, 0, func(ctx context.Context, tx *db.Tx) error {
		if err := b.Ballots.Ask(ctx, tx, r, f, v, address, fmt.Sprintf("203.0.%d.5", noise(200, address))); err != nil {
			return err
		}
		return b.Ballots.Cast(ctx, tx, f, v, token, c)
	})
}

// favourites plays the vote on the ferry stair: 400 ballots so far, most with codes
// that the ferry offices give out, and in one minute of the fourth day thirty by mail from
// one domain, on which somebody has to rule.
func (b *builder) favourites(id *int64) {
	from := b.voteFrom()
	b.on(from.Add(-20*time.Hour), func(ctx context.Context) error {
		_, _, err := b.paperOf(ctx, *id)
		return err
	})
	b.on(from.Add(time.Hour), func(ctx context.Context) error {
		r, f, err := b.roundNow(ctx, *id)
		if err != nil {
			return err
		}
		v, err := b.Ballots.Of(ctx, b.DB, *id)
		if err != nil {
			return err
		}
		projects, err := b.Ballots.OnPaper(ctx, b.DB, *id)
		if err != nil {
			return err
		}
		var codes []string
		for _, x := range []struct {
			label string
			n     int
		}{{"Ferry office at Corvoe", 160}, {"Ferry office at Tarl", 160}, {"Library at Skerra", 80}} {
			more, err := b.codes(ctx, r, f, x.label, x.n)
			if err != nil {
				return err
			}
			codes = append(codes, more...)
		}
		n := len(projects)
		likes := func(who string) vote.Choice {
			a, c := noise(n, who, "one")*noise(n, who, "or")/max(n-1, 1), noise(n, who, "two")
			if a == c || noise(3, who) == 0 {
				return vote.Choice{a}
			}
			return vote.Choice{a, c}
		}
		for i := range 340 {
			at := from.Add(
				2*time.Hour + b.now.Sub(from.Add(4*time.Hour))*time.Duration(
					i)/340 + time.Duration(noise(40, fmt.Sprint(i)))*time.Minute,
			)
			b.on(at,
				func(ctx context.Context) error { return b.byCode(ctx, f, v, codes[i], likes(fmt.Sprint("code", i))) })
		}
		for i := range 7 { // what becomes no ballot: codes that were used, and one that nobody gave out
			code := codes[i]
			if i == 6 {
				code = "AAAA-BBBB-CCCC"
			}
			b.on(from.Add(2*oneDay+time.Duration(i)*5*time.Hour), func(ctx context.Context) error {
				return b.act(ctx, 0, func(ctx context.Context, tx *db.Tx) error {
					_, err := b.Ballots.Enter(ctx, tx, f, v, code, "198.51.100.9")
					return b.Ballots.NoteTry(ctx, tx, f, v, err)
				})
			})
		}
		places := []string{"corvoe", "tarl", "skerra", "hallin", "brae-ness", "port-ailsa"}
		for i := range 30 {
			address := fmt.Sprintf("voter%d@%s.example", i+1, places[noise(len(places), fmt.Sprint("home", i))])
			b.on(from.Add(5*time.Hour+time.Duration(i)*3*time.Hour), func(ctx context.Context) error {
				return b.byMail(ctx, r, f, v, address, likes(address))
			})
		}
		for i := range 30 {
			b.on(
				from.Add(3*oneDay+4*time.Hour+time.Duration(i)*1500*time.Millisecond),
				func(ctx context.Context) error {
					return b.byMail(ctx, r, f, v, fmt.Sprintf("friend%d@rook-and-daughter.example", i+1),
						vote.Choice{n - 1})
				},
			)
		}
		return nil
	})
}

// voteFrom is when the favourite begins: as favourite lays it.
func (b *builder) voteFrom() time.Time {
	s := laid(b.now, b.zone, "Ferry Stair Competition", "FSC", "", 6_000, 500, 4_000, -64, -22, -16, -2, 10)
	from, _ := calendar.At(s.ReadingEnds.Date.AddDays(-4), 9, 0).In(b.zone)
	return from
}

// villagers are what was to be done in Skerra for 12,000 last year, and by whom it was
// liked: h of the harbour, where three in five live, u of the upper village.
var villagers = []struct{ name, title, idea, cost, by string }{
	{"Aila Strand", "A slipway that is not slippery", "Grooves and a rail on the lower forty steps.", "4,200", "h"},
	{"Corin Pell", "Lamps along the mole", "Six lamps, so that nobody steps off the end of it again.", "3,600", "h"},
	{"Effie Lorne", "A winch for small boats", "The old one, with a new drum and a cover.", "2,900", "h"},
	{"Gale Morrow", "Benches at the harbour", "Four benches out of the wreck of the Selkie.", "1,100", "hu"},
	{"Hesper Dunn", "The school’s bread oven", "It stands; it needs a roof and a chimney.", "2,400", "u"},
	{"Ivo Starling", "A path over the bog to the school", "Planks and gravel, 300 yards.", "3,300", "u"},
	{
		"Jory Finch",
		"Books for the long evenings",
		"A shelf in the ferry waiting room, changed each month.",
		"600",
		"hu",
	},
	{"Kitta Vane", "A roof for the well", "Slate, as it was before the storm.", "1,500", "u"},
	{"Lowen Hay", "Nets for the football field", "So that the ball does not go into the sea.", "700", "hu"},
}

// villageDesign asks for little, is read by nobody, and lets the village divide the money.
func villageDesign(s pattern.Settings) *form.Design {
	d := pattern.Grants(s)
	q := func(key form.Key, kind form.Kind, nature form.Nature, label string) form.Question {
		out := design.NewQuestion(kind, label)
		out.Key, out.Nature, out.Blank, out.Seen = key, nature, form.Required, form.ToPublic
		return out
	}
	idea := q("idea", form.Long, form.Chosen, "What would you do?")
	idea.Limits.Else.Words = 60
	cost := q("request", form.Money, form.Chosen, "What does it cost?")
	cost.Limits.Else = form.Limits{Least: ptr(100_00), Most: ptr(5_000_00)}
	agree := q("in-public", form.YesNo, form.Chosen, "May the village see it and vote?")
	agree.Blank = form.MeansNo
	d.Sections = []form.Section{
		{
			Key:       "all",
			Label:     "Your idea",
			Questions: []form.Question{q("in-skerra", form.YesNo, form.Fact, "Is it in Skerra?"), idea, cost, agree},
		},
	}
	d.Rules = []form.Rule{
		{
			Key:   "skerra",
			Label: "In Skerra",
			Holds: test(answer("in-skerra"), condIs, yesNo(true)),
			Says:  "It is in Skerra.",
			Yes:   "It is in Skerra.",
			No:    "This money is for Skerra alone.",
			Look:  "Somebody looks where it is.",
		},
	}
	d.Figures, d.Listed, d.Field, d.Useful, d.Awards, d.Ready = nil, form.Listing{}, "", "", nil, nil
	answerOn, _ := d.Moment(form.AnswerOn)
	d.Calendar = append(
		d.Calendar,
		form.Moment{Key: "vote-from", Label: "the vote", At: calendar.At(answerOn.At.Date.AddDays(-24), 9, 0)},
		form.Moment{Key: "vote-to", Label: "the end of the vote",
			At: calendar.At(answerOn.At.Date.AddDays(-10), 20, 0)},
	)
	d.Stages = []form.Stage{d.Stages[0], d.Stages[1],
		{Key: "public", Label: "The village votes", Does: form.Votes, From: "vote-from", To: "vote-to"},
		{Key: "deciding", Label: "Decide", Does: form.Decide, From: "vote-to", To: form.AnswerOn}}
	d.Vote = &form.Vote{Asks: "What shall Skerra do with its 12,000?", Shows: []form.Key{"idea"},
		Agreed: "in-public", Count: form.CountShares, Budget: 12_000_00, Rest: form.RestByVotes,
		ByMail: true, OnPaper: true, Declares: []string{"I live in Skerra and am 12 or older."}, Days: 14}
	return d
}

// village plays last year’s vote on a budget to its result, and the decisions that
// followed it.
func (b *builder) village() {
	s := laid(b.now, b.zone, "Skerra Village Budget", "SVB", "Small works that the village chooses itself.", 12_000,
		100, 5_000, -330, -300, -290, -285, -255)
	s.Name, s.Key = "Skerra Village Budget, last year", "skerra-village-budget"
	opens, _ := s.Opens.In(b.zone)
	d := villageDesign(s)
	at := func(k form.Key) time.Time {
		m, _ := d.Moment(k)
		t, _ := m.At.In(b.zone)
		return t
	}
	var id int64
	b.on(opens.Add(-3*oneDay), func(ctx context.Context) error {
		if err := b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) (err error) {
			id, err = b.Rounds.Create(ctx, tx, d)
			return err
		}); err != nil {
			return err
		}
		return program.Open(ctx, b.Program, db.Account(b.officer.ID), b.at, id, "", true)
	})
	for i, x := range villagers {
		b.on(opens.Add(time.Duration(20+31*i)*time.Hour), func(ctx context.Context) error {
			if err := b.begins(ctx, string(s.Key), writing{x.name, "skerra", x.title, "in-skerra = yes\nidea = " + x.idea +
				"\nrequest = " + x.cost +
				"\nin-public = yes"}); err != nil {
				return err
			}
			c, err := b.entryOf(ctx, x.name, "skerra")
			if err != nil {
				return err
			}
			return b.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) error {
				_, err := b.Intake.Send(ctx, tx, c)
				return err
			})
		})
	}
	b.on(at("vote-from").Add(-oneDay), func(ctx context.Context) error {
		_, _, err := b.paperOf(ctx, id)
		return err
	})
	b.on(at("vote-from").Add(30*time.Hour), func(ctx context.Context) error { return b.villageVotes(ctx, id) })
	b.on(at("vote-to").Add(14*time.Hour), func(ctx context.Context) error { return b.villageResult(ctx, id) })
}

// villageVotes puts 260 ballots into the box.
func (b *builder) villageVotes(ctx context.Context, id int64) error {
	r, f, err := b.roundNow(ctx, id)
	if err != nil {
		return err
	}
	v, err := b.Ballots.Of(ctx, b.DB, id)
	if err != nil {
		return err
	}
	projects, err := b.Ballots.OnPaper(ctx, b.DB, id)
	if err != nil {
		return err
	}
	codes, err := b.codes(ctx, r, f, "The shop at Skerra", 260)
	if err != nil {
		return err
	}
	for i, code := range codes {
		home := "h"
		if i%5 > 2 {
			home = "u"
		}
		c := vote.Choice{}
		for p, x := range projects {
			for _, y := range villagers {
				liked := y.by == home || y.by == "hu"
				if y.title == x.Title &&
					(liked && noise(10, code, x.Title) < 7 || !liked && noise(20, code, x.Title) == 0) {
					c = append(c, p)
				}
			}
		}
		b.at = b.at.Add(57 * time.Minute)
		if err := b.byCode(ctx, f, v, code, c); err != nil {
			return err
		}
	}
	return nil
}

// villageResult counts, publishes, and gives the money to what the village chose.
func (b *builder) villageResult(ctx context.Context, id int64) error {
	r, f, err := b.roundNow(ctx, id)
	if err != nil {
		return err
	}
	if err := b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
		if _, err := b.Ballots.Count(ctx, tx, r, f); err != nil {
			return err
		}
		return b.Ballots.Publish(ctx, tx, r, f, "The works begin in spring.")
	}); err != nil {
		return err
	}
	sum, err := b.Ballots.Summary(ctx, b.DB, id)
	if err != nil {
		return err
	}
	won := map[string]bool{}
	for _, n := range sum.Result.Won {
		won[sum.Projects[n-1].Title] = true
	}
	stage, err := b.Decisions.Stage(ctx, b.DB, r, f)
	if err != nil {
		return err
	}
	order, err := b.Decisions.Order(ctx, b.DB, r, f, stage)
	if err != nil {
		return err
	}
	sit := decision.Sitting{Stage: stage, Note: "As the village voted"}
	for _, row := range order.Rows {
		c := decision.Choice{EntryID: row.EntryID, Version: row.Version, Outcome: lifecycle.NotAwarded}
		if won[row.Title] {
			c.Outcome, c.Amount = lifecycle.Awarded, row.Asked0()
		}
		sit.Choices = append(sit.Choices, c)
	}
	return b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
		_, err := b.Decisions.Record(ctx, tx, r, f, sit)
		return err
	})
}
