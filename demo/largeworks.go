package demo

import (
	"bytes"
	"context"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/turn"
	"ulvant/internal/check"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
)

// PeatBoard is the second body that large works on peat are shown to.
const PeatBoard = "peat-board"

// boardMember reviews for it.
var boardMember = struct{ email, name, note string }{"beathag.moss@isles-peat-board.example", "Beathag Moss",
	"Second body: reviews the large works on peat in its turn, and sees no others"}

// largeWorks makes a call in two stages: outlines are checked, and whoever is
// invited on writes a full plan, which readers mark.
func largeWorks(proposals calendar.Wall) func(*edits, *form.Design) {
	return func(e *edits, _ *form.Design) {
		e.add("calendar", form.Moment{Key: "proposals-in", Label: "the closing of full plans", At: proposals}, "reading-ends")
		e.add("stages", form.Stage{Key: "full-plans", Label: "Full plan", Does: form.Apply, From: form.ChecksBy,
			To: "proposals-in", Invited: true}, "reading")
		e.add("bodies", form.Body{Key: PeatBoard, Label: "Isles Peat Board",
			Sees: test(answer("repair-kind"), condIs, text("peat")), By: form.ReadingEnd, Marks: 10,
			Points: []form.Option{{Key: "water", Label: "The water stays on the site"},
				{Key: "downstream", Label: "Nobody downstream is flooded"}}})
		e.set("stages/writing/label", "Outline")
		e.set("stages/reading/from", "proposals-in")
		e.set("sections/budget-section/again", []form.Key{"full-plans"})
		e.set("sections/declarations/again", []form.Key{"full-plans"})
		e.add("sections", form.Section{Key: "full-plan", Label: "The full plan", Help: "Only for those who are invited on.",
			Stage: "full-plans", Questions: []form.Question{}}, "declarations")
		e.ask("full-plan", "programme-of-work", form.Long, form.Chosen, "The work, season by season",
			limits(form.Limits{Words: 1200}))
		e.ask("full-plan", "measured-how", form.Long, form.Chosen, "What you measure before and after, and how",
			limits(form.Limits{Words: 400}))
		e.ask("full-plan", "dam-count", form.Number, form.Chosen, "How many dams or bunds",
			onlyIf(test(answer("repair-kind"), condIs, text("peat"))))
		e.ask("full-plan", "signs", form.Signer, form.Chosen, "Who will sign the agreement, if it is granted?", office,
			help("One of those who may sign for your organisation, as your profile has it."))
		e.ask("full-plan", "quotes", form.File, form.Fact, "Quotes, as one PDF",
			onlyIf(test(answer("request"), condAtLeast, number(5_000_000))))
	}
}

// largeRows are outlines, and how far each of them went.
const largeRows = `
Ring dyke of Hallin levels|Hallin levels|hallin|shore|registered|Hallin Levels Board|Aoibheann Strake|Four kilometres of clay bank around the levels have slumped to the height of a spring tide. We rebuild the worst kilometre from the borrow pit it came from.|The board raises a rate and keeps a banksman.|76000|98000|invited on 1
The Great Moss, all of it|the Great Moss|tarl|peat|registered|Tarl Moor Society|Dervla Quayle|Nine hundred hectares of cut moss with one outfall. A single sill at the outfall, and bunds of peat behind it, would do what a thousand dams cannot.|The society's warden, who lives at the outfall.|79000|105000|invited on 2
Whin Bog, the upper drains|Whin Bog|tarl|peat|common|Whin Bog Common|Tormod Sleet|Eleven drains cut in the war years still run. We close the upper six with boards and peat, and leave the lower five for the cattle until the grass has moved.|The common meets on the bog each May and walks the boards.|38000|47000|invited on 1
Brae Ness sea meadow|the sea meadow|brae-ness|grassland|common|Ness Common|Branwen Iveagh|The wall that keeps the tide off the sea meadow is past mending. We let it go in two places and fence the new marsh from stock.|The common has voted to give up thirty acres.|52000|66000|invited on 3
Breakwater at Mew Sound|Mew Sound|sunder-bay|shore|registered|Sunder Bay Fishers' Guild|Anselm Pike|Sixty metres of rock armour off the north head.|The guild.|80000|120000|not awarded 1
Islands for terns|the Corvoe lagoon|corvoe|shore|group|Mew Sound Beachcombers|Ferdia Blount|Three rafts of shell and slate, moored.|The same people.|31000|40000|refused`

// goOn plays what those who were invited do in the second stage.
func (r *running) goOn(tales []tale) {
	for i, t := range tales {
		if !strings.HasPrefix(t.plan, "invited on") || strings.HasSuffix(t.plan, "3") { // the third has not begun
			continue
		}
		r.on(r.dates.ChecksBy.Add(time.Duration(3+4*i)*oneDay), func(ctx context.Context) error { return r.fullPlan(ctx, t) })
	}
	for i, t := range tales {
		if t.repair != "peat" {
			continue
		}
		r.on(r.dates.Closes.Add(time.Duration(20+26*i)*time.Hour), func(ctx context.Context) error {
			return r.boardSays(ctx, t.title,
				"The outfall is ours to watch; we have no objection, and will want the levels each year.")
		})
	}
}

// boardSays plays the Peat Board’s yes to an outline.
func (r *running) boardSays(ctx context.Context, title, note string) error {
	board, err := r.person(ctx, boardMember.email, boardMember.name, boardMember.note)
	if err != nil {
		return err
	}
	c, err := r.called(ctx, title)
	if err != nil {
		return err
	}
	return r.act(ctx, board.ID, func(ctx context.Context, tx *db.Tx) error {
		return r.Checks.AnswerTurn(ctx, tx, c, PeatBoard, check.Answer{State: turn.Yes, Mark: new(8), Note: note,
			Points: map[form.Key]bool{"water": true, "downstream": true}})
	})
}

// fullPlan takes an invitation up and writes the full plan; the first of them
// sends it.
func (r *running) fullPlan(ctx context.Context, t tale) error {
	lead, err := r.person(ctx, email(t.lead, t.body), t.lead, "")
	if err != nil {
		return err
	}
	mine, err := r.Desk.Mine(ctx, lead.ID)
	if err != nil {
		return err
	}
	for _, it := range mine {
		if it.Title != t.title || it.RoundKey != r.rd.Key {
			continue
		}
		c, err := r.Cases.Find(ctx, r.DB, it.Ref)
		if err != nil {
			return err
		}
		write := []intake.Edit{
			{Place: form.Place{Question: "programme-of-work"}, EditID: "demo-plan",
				Value: t.describe + "\n\nFirst season: survey, leave and the machine tracks. Second season: the work itself, " +
					"from the seaward end. Third: what the winter undid."},
		}
		if strings.HasSuffix(t.plan, "1") {
			write = append(write, r.answers(t, "declarations", false)...)
			write = append(write, intake.Edit{Place: form.Place{Question: "signs"}, EditID: "demo-plan", Value: t.lead})
			write = append(write, intake.Edit{Place: form.Place{Question: "measured-how"}, EditID: "demo-plan",
				Value: "Levels at forty pegs, twice a year, read by the banksman; a photograph from the same three posts at each equinox."})
		}
		if t.repair == "peat" {
			write = append(write, intake.Edit{Place: form.Place{Question: "dam-count"}, EditID: "demo-plan", Value: "6"})
		}
		if err := r.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) error {
			if err := r.Intake.TakeUp(ctx, tx, c); err != nil {
				return err
			}
			_, _, err := r.Intake.Save(ctx, tx, c, write)
			return err
		}); err != nil || !strings.HasSuffix(t.plan, "1") {
			return err
		}
		b, err := sitePlan(t.title, t.site, 2)
		if err != nil {
			return err
		}
		if _, err := r.Materials.PutInSlot(ctx, db.Account(lead.ID), r.at, c, r.form.Question("quotes"), "quotes.pdf",
			int64(len(b)), bytes.NewReader(b)); err != nil {
			return err
		}
		return r.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) error {
			_,
				err := r.Intake.Send(ctx, tx, c)
			return err
		})
	}
	return nil
}
