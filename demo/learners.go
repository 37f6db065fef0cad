package demo

import (
	"context"
	"fmt"
	"time"

	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/award"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// learnersAwards are the awards of the Yard Learners’ Year as the treasurer keeps them.
const learnersAwards = `label,purse,places,donor,led,about
The Sail Loft Bequest,"2,500",2,Bequest of Ada Quill,need,For somebody learning to make or mend sails.
Hallin Bar Prize,"1,200",1,Hallin Bar Common,merit,For a Hallin home and good grades.
Hardship Fund,800,12,The Ostrel Isles Trust,need,For those whose costs are far above their means.
Widow’s Fund,"1,000",4,Relief of Brae Ness,need,For those with somebody to keep.
Caulkers’ Gift,900,2,Guild of Caulkers,,For whoever keeps the old way of keeping water out.
Spar and Oar,"2,000",1,Ness boatworks,merit,For a maker of spars.
Port Ailsa Yard Place,0,1,Port Ailsa Yard,merit,A bench and a year at it.
Blacksmith’s Iron,900,1,Anvil House,,For somebody at the forge.
First Year Afloat,"1,200",6,The Ostrel Isles Trust,need,For a first year.
Office and Ledger,"1,200",2,Marl & Daughters,,"For the office, without which no yard lives."
The Kestrel Fund,"1,500",1,Owners of the Kestrel,merit,For work in canvas of any kind; somebody looks whether it is.
Tarl Ferry Gift,700,1,Tarl Ferry,,For a Tarl home.
Owners of the Gannet,600,1,Owners of the Gannet,merit,Whoever held it last year comes first.
Owners of the Two Brothers,900,2,Owners of the Two Brothers,need,
Owners of the Provider,"1,100",1,Owners of the Provider,merit,
Owners of the Petrel,500,2,Owners of the Petrel,need,
Owners of the Selkie,700,1,Owners of the Selkie,,
Owners of the Tirrick,800,2,Owners of the Tirrick,need,
Owners of the Rose of Ness,"1,000",1,Owners of the Rose of Ness,merit,
Owners of the Venture,600,2,Owners of the Venture,,
`

// learners designs a year for learners that is read against twenty awards: short, and
// with criteria of every kind.
func learners(e *edits, d *form.Design) {
	e.set("about", "A year at a bench, a loft or a desk of a boatyard. One form is read against twenty awards.")
	for _, path := range []string{"sections/papers", "sections/learning/questions/schools",
		"sections/you/questions/guardian"} {
		e.ops = append(e.ops, design.Op{Do: design.Remove, Path: path})
	}
	for _, a := range d.Awards {
		e.ops = append(e.ops, design.Op{Do: design.Remove, Path: "awards/" + string(a.Key)})
	}
	e.set("readersEach", 1)
	e.ask("money", "dependants", form.YesNo, form.Fact, "Have you somebody to keep?", office)
	e.ask("learning", "forge", form.Short, form.Fact, "At which forge do you work?", mayNo,
		onlyIf(all(test(answer("home-district"), condition.Is, text("tarl")), test(answer("grade"), condition.AtLeast,
			number(5)))))
	e.ask("awards-section", "held", form.YesNo, form.Fact, "Did you hold the Gannet’s gift last year?", office)
	e.ask("awards-section", "in-order", form.AwardOrder, form.Chosen, "If you can have only one, which first?", mayNo,
		limits(form.Limits{PickMost: 3}))
	awards, faults := design.AwardsFromFile(encode(d), d.Currency, learnersAwards)
	if len(faults) > 0 {
		panic(faults[0])
	}
	e.ops = append(e.ops, awards...)
	on := func(key, member string, v any) { e.set("awards/"+key+"/"+member, v) }
	home := func(list ...string) condition.Cond {
		return test(answer("home-district"), condition.In, anyOf(list...))
	}
	needs := func(euros int64) condition.Cond { return test(figure("need"), condition.AtLeast, number(100*euros)) }
	words := func(key string, list ...string) {
		on(key, "wordsIn", "why")
		on(key, "words", list)
	}
	on("the-sail-loft-bequest", "match", all(home("hallin", "brae-ness"), test(figure("age-at-start"), condition.AtMost,
		number(30))))
	on("the-sail-loft-bequest", "byNeed", 60)
	words("the-sail-loft-bequest", "sail", "sailmaking", "sail loft", "lugsail")
	on("hallin-bar-prize", "match", all(home("hallin"), test(answer("grade"), condition.AtLeast, number(3))))
	on("hallin-bar-prize", "apart", "merit prize")
	on("hardship-fund", "match", needs(4_000))
	on("hardship-fund", "least", 50_000)
	on("widows-fund", "match", test(answer("dependants"), condition.Is, yesNo(true)))
	words("caulkers-gift", "caulk", "oakum", "pitch")
	words("spar-and-oar", "spar", "oar", "mast")
	on("spar-and-oar", "apart", "merit prize")
	on("port-ailsa-yard-place", "leastMerit", 60)
	on("blacksmiths-iron", "match", test(answer("forge"), condition.IsNot, text("none")))
	on("first-year-afloat", "match", all(needs(2_000), test(figure("age-at-start"), condition.AtMost, number(22))))
	words("office-and-ledger", "ledger", "accounts", "bookkeeping")
	words("the-kestrel-fund", "canvas", "tarpaulin")
	on("the-kestrel-fund", "look", true)
	on("tarl-ferry-gift", "match", home("tarl"))
	on("owners-of-the-gannet", "first", test(answer("held"), condition.Is, yesNo(true)))
	on("owners-of-the-provider", "match", test(answer("grade"), condition.AtLeast, number(3)))
	on("owners-of-the-petrel", "match", needs(3_000))
	on("owners-of-the-selkie", "match", home("sunder-bay", "corvoe"))
	on("owners-of-the-rose-of-ness", "match", home("brae-ness"))
	e.set("offer", form.Offer{Days: 10, Promises: []string{"I take up the year and write once in it how it goes."}})
	e.set("placing", form.Placing{Need: "need", Most: 2, Cap: form.UpToNeed, Wish: 4})
}

// A learner’s reasons are put together of these.
var (
	learnersFirst = []string{"Ness", "Donal", "Catrin", "Wren", "Iseult", "Tam", "Morwenna", "Alban", "Sorcha", "Piers",
		"Élodie", "Tavish", "Brisa",
		"Corin", "Hesper", "Jarl", "Linnet", "Osric", "Quilla", "Rauri"}
	learnersLast = []string{"Gallowglass", "Frome", "Aird", "Petrie", "Barra", "Ferrier", "Ó Ruanaidh", "Saltmarsh",
		"Tregarrick", "Vane", "Holm-Eriksen",
		"Quayside"}
	learnersWhy = []string{
		"I have cut and roped four lugsails under Mr Odell and would like to learn why the fifth should not leak wind.",
		"A year in the sail loft at Ness, two days a week, taught me to sew; the other five I would spend there too.",
		"I want to learn sailmaking after my joinery, because a hull without a sail is a shed.",
		"I mend sails for the club each winter and have never been shown how.",
		"I sew tarpaulin covers for the yard and would go on to whatever needle comes next.",
		"Oakum, mallet, pitch: my uncle caulked the whole of Tarl and nobody has the mallet now.",
		"I have caulked one dinghy, badly, and would caulk the next one well.",
		"I shaped a mast from a drifted larch and it has stood two gales.",
		"Oars are what I make; I would like them to be a pair.",
		"Somebody must keep the ledger of a yard, and I like figures that come out.",
		"I did the accounts of our harbour for three years without being asked to stop.",
		"I left school early and came back late; the yard was the place that did not mind.",
		"My hands are good and my lines are not, and lofting is lines.",
		"I would plank. I have watched planking since I could stand on a trestle.",
		"The ferry broke down with me on it, twice, and both times I was the one who held the lamp.",
		"There were nine boats in our bay when I was six. I would like there to be two.",
		"I can weld, and would like to do something that floats in spite of it.",
		"My grandmother drew boats. I would build one of hers.",
	}
	learnersTrades = []string{"Planking", "Sailmaking", "Caulking", "Spars and oars", "The office", "Lofting", "Joinery",
		"Rigging", "Engines, by hand", "Paint and pitch",
		"Ropework", "Clinker"}
	learnersYards = []string{"Tarl slip", "the Ness boatworks", "Corvoe yard", "Hallin shed", "Port Ailsa",
		"Marl & Daughters", "the ferry slip", "Sunder Bay",
		"the sail loft", "Anvil House"}
	learnersHomes = []string{"hallin", "corvoe", "brae-ness", "tarl", "sunder-bay"}
)

// learner is one of them, by number.
func learner(i int) (name, title, answers string) {
	name = learnersFirst[i%len(learnersFirst)] + " " + learnersLast[(i/len(learnersFirst)*5+i)%len(learnersLast)]
	why := learnersWhy[noise(len(learnersWhy), name, "why")]
	title = learnersTrades[i%len(learnersTrades)] + " at " + learnersYards[(i/len(learnersTrades)+i)%len(learnersYards)]
	year := 1994 + noise(15, name, "born")
	yes := func(in int, of string) string {
		if noise(in, name, of) == 0 {
			return "yes"
		}
		return "no"
	}
	costs := 4_000 + 100*noise(80, name, "costs")
	means := 500 + 100*noise(40, name, "means")
	home := learnersHomes[noise(len(learnersHomes), name, "home")]
	answers = fmt.Sprintf(`names:legal = %s
born = %d %s %d
phone = 01 555 %04d
home-district = %s
grade = %d.%d
why = %s
costs = %d
costs:sure = estimated
means = %d
means:sure = estimated
request = %d
dependants = %s
awards = every-award
held = %s
true = yes
signed = %s`, name, 1+noise(28, name, "day"), []string{"January", "March", "May", "July", "September"}[noise(5, name, "month")], year, noise(9000, name)+1000,
		home, 2+noise(3, name, "grade"), noise(10, name, "tenth"), why, costs, means, min(4_000, max(300, costs-means)),
		yes(7, "keep"), yes(60, "held"), name)
	return name, title, answers
}

// manyLearners is how many apply.
const manyLearners = 120

// years plays the Yard Learners’ Year: closed, marked, read against every award, ready to be placed.
func (b *builder) years() {
	s := laid(b.now, b.zone, "Yard Learners’ Year", "YLY", "", 45_000, 300, 4_000, -70, -40, -33, -6, 12)
	opens, _ := s.Opens.In(b.zone)
	closes, _ := s.Closes.In(b.zone)
	checks, _ := s.ChecksBy.In(b.zone)
	read, _ := s.ReadingEnds.In(b.zone)
	var id int64
	cases := map[int]application.Case{}
	b.on(opens.Add(-6*oneDay), func(ctx context.Context) (err error) {
		id, err = b.programme(ctx, "scholarship", s, learners)
		return err
	})
	span := closes.Sub(opens) - 30*time.Hour
	for i := range manyLearners {
		b.on(opens.Add(20*time.Hour+span*time.Duration(i)/manyLearners), func(ctx context.Context) (err error) {
			cases[i], err = b.learns(ctx, string(s.Key), i)
			return err
		})
	}
	b.on(closes.Add(40*time.Hour), func(ctx context.Context) error { return b.readersOf(ctx, id, b.readers[1:4]) })
	b.on(checks.Add(2*time.Hour), func(ctx context.Context) error {
		r, f, err := b.roundNow(ctx, id)
		if err != nil {
			return err
		}
		return b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := b.Reading.HandOut(ctx, tx, r, f, nil)
			return err
		})
	})
	for i := 1; i < 4; i++ {
		b.on(read.Add(-time.Duration(70+20*i)*time.Hour), func(ctx context.Context) error {
			return b.judges(ctx,
				string(s.Key), i)
		})
	}
	b.on(read.Add(26*time.Hour), func(ctx context.Context) error { return b.places(ctx, id) })
}

// learns writes and sends one application.
func (b *builder) learns(ctx context.Context, key string, i int) (c application.Case, err error) {
	name, title, answers := learner(i)
	if err := b.begins(ctx, key, writing{name, "learners", title, answers}); err != nil {
		return c, err
	}
	lead := b.leads[email(name, "learners")]
	mine, err := b.Desk.Mine(ctx, lead.ID)
	if err != nil || len(mine) != 1 {
		return c, fmt.Errorf("%d applications of %s: %w", len(mine), name, err)
	}
	err = b.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) error {
		if c, err = b.Cases.Find(ctx, tx, mine[0].Ref); err == nil {
			c, err = b.Intake.Send(ctx, tx, c)
		}
		return err
	})
	return c, err
}

// places reads everybody against every award, and holds two by hand.
func (b *builder) places(ctx context.Context, id int64) error {
	r, f, err := b.roundNow(ctx, id)
	if err != nil {
		return err
	}
	return b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
		if _, err := b.Awards.WorkOut(ctx, tx, r, f, nil); err != nil {
			return err
		}
		list, err := b.Awards.Placings(ctx, tx, id)
		if err != nil {
			return err
		}
		for _, h := range []struct {
			award form.Key
			nth   int
			hand  award.Hand
			why   string
		}{{"hardship-fund", 3, award.Give, "Promised last year, when the fund had closed."},
			{"office-and-ledger", 0, award.Give, "The donor asked for her by name, and she is the best of them anyhow."},
			{"spar-and-oar", 0, award.Bar,
				"She has the boatworks’ own place already."}} {
			pairs, _, err := b.Awards.OfAward(ctx, tx, r, f, list[0], h.award, h.nth, 1)
			if err != nil || len(pairs) == 0 {
				return fmt.Errorf("nobody meets %s: %w", h.award, err)
			}
			if err := b.Awards.Lay(ctx, tx, r, f, pairs[0].Entry, h.award, h.hand, h.why); err != nil {
				return err
			}
		}
		return b.Awards.SolveAll(ctx, tx, r, f)
	})
}

// roundNow is a round with its published form.
func (b *builder) roundNow(ctx context.Context, id int64) (r round.Round, f *form.Form, err error) {
	if r, err = b.Rounds.ByID(ctx, b.DB, id); err != nil {
		return r, nil, err
	}
	f, err = b.Rounds.Published(ctx, b.DB, r)
	return r, f, err
}
