package demo

import (
	"bytes"
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/decision"
	"ulvant/internal/intake"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/reference"
)

const oneDay = 24 * time.Hour

// tale plays one application from its beginning.
func (r *running) tale(t tale, begin time.Time) {
	plan, _, _ := strings.Cut(t.plan, " ")
	step, _ := strings.CutPrefix(t.plan, "draft ")
	r.on(begin, func(ctx context.Context) error {
		lead, err := r.person(ctx, email(t.lead, t.body), t.lead, "")
		if err != nil {
			return err
		}
		var c application.Case
		err = r.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) error {
			c, err = r.Intake.Start(ctx, tx, r.rd.Key, t.title,
				map[form.Place]form.Answer{{Question: "district"}: {Raw: t.district}, {Question: "applicant-kind"}: {Raw: t.kind}})
			if body := r.applies[t.body]; err == nil && t.body == graziers {
				err = r.Cases.For(ctx, tx, c.ID, body)
			}
			return err
		})
		if err != nil {
			return err
		}
		r.write(t, c, lead, begin, plan, step)
		return nil
	})
}

// parts of the writing, in the order in which people do them.
var parts = []string{"who", "place", "work", "budget-section", "declarations"}

// write plays the days of writing; a draft stops where its plan says.
func (r *running) write(t tale, c application.Case, lead people.Account, begin time.Time, plan, step string) {
	sections := len(parts)
	file, referee := "", ""
	pages := 1 + noise(4, t.title, "pages")
	if plan == "draft" || plan == "lapsed" {
		switch step {
		case "half":
			sections, file, referee = 3, "", "asked-rowe"
		case "begun", "lapsed":
			sections = 1
		case "some":
			sections, file = 3, "plan"
		case "most":
			sections, file, referee = 4, "plan", "sent"
		case "pages":
			sections, file, referee, pages = 5, "plan", "sent", 14
		case "ready":
			file, referee = "plan", "sent"
		default:
			file, referee = "plan", step
		}
	} else {
		file, referee = "plan", "sent"
	}
	at := begin
	for i := range sections {
		at = at.Add(time.Duration(2+noise(40, t.title, parts[i])) * time.Hour)
		section := parts[i]
		r.on(at, func(ctx context.Context) error {
			edits := r.answers(t, section, step == "half")
			return r.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) error {
				results, _, err := r.Intake.Save(ctx, tx, c, edits)
				for _, res := range results {
					if res.Fault != "" || res.Conflict {
						return fmt.Errorf("%s, %s: %s", t.title, res.Question, res.Fault)
					}
				}
				return err
			})
		})
	}
	if step == "half" {
		r.on(at.Add(30*time.Hour), func(ctx context.Context) error { return r.halfCosted(ctx, c, lead) })
	}
	if referee != "" {
		r.referee(t, c, lead, begin.Add(time.Duration(10+noise(30, t.title))*time.Hour), referee)
	}
	if file != "" {
		r.on(at.Add(3*time.Hour), func(ctx context.Context) error {
			b, err := sitePlan(t.title, t.site, pages)
			if err != nil {
				return err
			}
			_, err = r.Materials.PutInSlot(ctx, db.Account(lead.ID), r.at, c, r.form.Question("site-plan"),
				"site plan "+t.site+".pdf", int64(len(b)), bytes.NewReader(b))
			return err
		})
	}
	if t.title == onTemplate || t.title == onOldTemplate || t.title == inInk {
		r.on(at.Add(4*time.Hour), func(ctx context.Context) error { return r.papers(ctx, t, c, lead.ID) })
	}
	if plan == "draft" || plan == "lapsed" {
		return
	}
	// Half of all come in the last tenth of the time, as they do.
	end := r.dates.Closes
	if end.After(r.now) {
		end = r.now.Add(-time.Hour)
	}
	earliest := at.Add(4 * oneDay)
	back := end.Sub(begin) * time.Duration(noise(100, t.title, "send")) / 100
	if end.Equal(r.dates.Closes) && noise(2, t.title, "late") == 0 {
		back /= 10
	}
	sendAt := end.Add(-back)
	if sendAt.Before(earliest) {
		sendAt = earliest
	}
	if !sendAt.Before(end) {
		sendAt = end.Add(-time.Duration(1+noise(170, t.title)) * time.Minute)
	}
	r.on(sendAt, func(ctx context.Context) error {
		err := r.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) error {
			_,
				err := r.Intake.Send(ctx, tx, c)
			return err
		})
		if stopped, ok := err.(intake.Stopped); ok {
			return fmt.Errorf("%s cannot be sent: %+v", t.title, stopped.Obstacles)
		}
		return err
	})
	switch plan {
	case "refused":
		r.on(sendAt.Add(3*oneDay), func(ctx context.Context) error {
			return r.settle(ctx, c, false,
				"The land is private and closed to others; the Trust pays for ground that people can reach.")
		})
	case "withdrawn":
		r.on(sendAt.Add(2*oneDay), func(ctx context.Context) error {
			return r.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) error { return r.Intake.Withdraw(ctx, tx, c) })
		})
	}
}

func (r *running) settle(ctx context.Context, c application.Case, yes bool, note string) error {
	return r.act(ctx, r.officer.ID, func(ctx context.Context,
		tx *db.Tx) error {
		return r.Checks.Settle(ctx, tx, c, "land", yes, note)
	})
}

// referee plays the request for a letter up to a state.
func (r *running) referee(t tale, c application.Case, lead people.Account, at time.Time, upTo string) {
	names := []string{"Dacian Rowe", "Elspeth Murn", "Ivo Strachan", "Hedda Clay", "Padraig Venn", "Sunniva Lake",
		"Aldous Finch", "Tamsin Groat"}
	knows := []string{"warden of the next strand", "surveyed the site in 2019", "taught most of them",
		"vet to the common's herd", "retired from the district's drainage board", "leads the bird count there"}
	name := names[1+noise(len(names)-1, t.title, "referee")]
	address := email(name, "referees")
	if t.title == "Stone dyke round the lek" { // who reads for the Trust, and vouches here
		name, address = "Gwyn Arkwright", email("Gwyn Arkwright", "readers")
	}
	if upTo == "asked-rowe" {
		name, address, upTo = names[0], Referee, "asked"
	}
	var id int64
	act := func(after time.Duration, f func(ctx context.Context, tx *db.Tx) error) {
		r.on(at.Add(after), func(ctx context.Context) error { return r.Do(ctx, db.Actor{Kind: "link", ID: id}, r.at, f) })
	}
	r.on(at, func(ctx context.Context) error {
		return r.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) (err error) {
			id, err = r.Referees.Name(ctx, tx, c, "site-referee", reference.Person{Name: name, Email: address,
				Knows: knows[noise(len(knows), t.title)]})
			return err
		})
	})
	if upTo == "asked" {
		return
	}
	act(20*time.Hour, func(ctx context.Context, tx *db.Tx) error {
		if upTo == "declined" {
			return r.Referees.Decline(ctx, tx, id, "I know the site, but not the people well enough.",
				"Elspeth Murn, who surveyed it")
		}
		return r.Referees.Accept(ctx, tx, id)
	})
	if upTo == "declined" || upTo == "accepted" {
		return
	}
	act(44*time.Hour, func(ctx context.Context, tx *db.Tx) error {
		return r.Referees.Keep(ctx, tx, id, reference.Draft{Version: 3, Text: letterOf(t, name)})
	})
	if upTo == "sent" {
		act(47*time.Hour, func(ctx context.Context, tx *db.Tx) error { return r.Referees.Send(ctx, tx, id) })
	}
}

func letterOf(t tale, name string) string {
	openings := []string{"I have known the ground at %s for eleven years.",
		"When I first saw %s it was in far better heart than now.", "I write gladly about %s and the people who look " +
			"after it.", "%s is a place I pass every working day."}
	views := []string{"%s does what it says, and says when it has not.", "The people of %s turn up; I have counted them.",
		"%s asked me what would go wrong, and wrote it down.", "I have lent %s tools and had them back cleaned."}
	return fmt.Sprintf(openings[noise(len(openings), t.title, name)], t.site) + " " +
		fmt.Sprintf(views[noise(len(views), t.body, name)], t.body) +
		fmt.Sprintf(" As to “%s”: I would put my own money in if I had it.\n\n%s", t.title, name)
}

// answers of one section of a tale.
func (r *running) answers(t tale, section string, half bool) []intake.Edit {
	var out []intake.Edit
	add := func(p form.Place, v string) {
		out = append(out, intake.Edit{Place: p, EditID: "demo-" + section, Value: v})
	}
	q := func(k form.Key, v string) { add(form.Place{Question: k}, v) }
	switch section {
	case "who":
		q("body-name", t.body)
		if t.kind == "registered" {
			q("registered-number", fmt.Sprintf("R %05d", 10000+noise(80000, t.body)))
		}
		if t.kind == "group" || t.kind == "person" {
			q("has-sponsor", "yes")
			q("sponsor-name", "Ostrel Voluntary Service")
		}
		towns := map[string][2]string{"hallin": {"Hallin", "OI1"}, "corvoe": {"Corvoe", "OI4"},
			"brae-ness": {"Brae Ness", "OI7"}, "tarl": {"Tarl", "OI9"}, "sunder-bay": {"Sunder", "OI6"}}
		town := towns[t.district]
		streets := []string{"Quay Row", "Kirk Street", "the Old Net Loft", "Shore Road", "Mill Brae", "Peat Lane"}
		for col, v := range map[form.Key]string{"street": fmt.Sprintf("%d %s", 1+noise(60, t.lead),
			streets[noise(len(streets), t.body)]), "town": town[0], "postcode": fmt.Sprintf("%s %d%s", town[1], 1+noise(8,
			t.body), "RT")} {
			add(form.Place{Question: "post-address", Column: col}, v)
		}
	case "place":
		q("site", t.site)
		q("site-access", "road")
		if t.plan == "person" || t.plan == "refused" {
			out = append(out, intake.Edit{Place: form.Place{Question: "land-leave"}, EditID: "demo-place", Non: form.NotKnown})
		} else {
			q("land-leave", "yes")
		}
	case "work":
		q("repair-kind", t.repair)
		if !half {
			q("area", fmt.Sprintf("%d.%d", 1+noise(40, t.title), noise(10, t.site)))
		}
		if t.repair == "peat" {
			q("peat-depth", strconv.Itoa(60+noise(240, t.title)))
		}
		q("describe", t.describe)
		if half {
			q("area", "3.2") // as its text says
			q("start", r.dates.WorkFrom.AddDays(-17).Words())
			return out
		}
		q("afterwards", t.afterwards)
		q("start", r.dates.WorkFrom.AddDays(noise(60, t.title)).Words())
	case "budget-section":
		q("request", strconv.FormatInt(t.ask, 10))
		q("paid-elsewhere", "no")
		out = append(out, typed(linesOf(t))...)
		if days := noise(12, t.site); r.form.Question("digger-days") != nil && t.repair != "grassland" && days > 3 {
			q("digger-days", strconv.Itoa(days))
		}
	case "declarations":
		q("true", "yes")
		q("may-visit", "yes")
		q("signed", t.lead)
	}
	return out
}

// ends reads how good the tales' applications are to readers, and how they
// are decided, by title.
func ends(tales []tale) (quality map[string]float64, outcome map[string]lifecycle.State) {
	quality, outcome = map[string]float64{}, map[string]lifecycle.State{}
	for _, t := range tales {
		plan, figure := t.plan, ""
		if i := strings.LastIndexByte(t.plan, ' '); i > 0 {
			plan, figure = t.plan[:i], t.plan[i+1:]
		}
		quality[t.title], _ = strconv.ParseFloat(figure, 64)
		outcome[t.title] = lifecycle.State(plan)
	}
	return quality, outcome
}

// afterClosing plays checks, reading and decisions of a closed round.
func (r *running) afterClosing(tales []tale) {
	quality, outcome := ends(tales)
	for i, a := range r.readers {
		r.on(r.dates.Closes.Add(time.Duration(i)*time.Hour), func(ctx context.Context) error {
			err := r.act(ctx, r.officer.ID, func(ctx context.Context, tx *db.Tx) error {
				_, err := r.Reading.Invite(ctx, tx, r.rd, a.Email, a.Name)
				return err
			})
			if err != nil {
				return err
			}
			return r.act(ctx, a.ID, func(ctx context.Context, tx *db.Tx) error {
				if err := r.Reading.Accept(ctx, tx, a.ID); err != nil {
					return err
				}
				return r.Reading.Describe(ctx, tx, r.rd, r.form, knows(a, i))
			})
		})
	}
	r.on(r.dates.ChecksBy, func(ctx context.Context) error {
		return r.act(ctx, r.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := r.Reading.HandOut(ctx, tx, r.rd, r.form, nil)
			return err
		})
	})
	for i, a := range r.readers {
		at := r.dates.ReadingEnds.Add(-time.Duration(30+40*i) * time.Hour)
		r.on(at, func(ctx context.Context) error { return r.markAll(ctx, i, a, quality, outcome) })
	}
	r.on(r.dates.AnswerOn.Add(-3*oneDay), func(ctx context.Context) error { return r.decide(ctx, outcome) })
}

func (r *running) markAll(ctx context.Context, reader int, a people.Account, quality map[string]float64,
	outcome map[string]lifecycle.State) error {
	list, err := r.Desk.ReaderDesk(ctx, a.ID)
	if err != nil {
		return err
	}
	notes := []string{"Baseline exists; ask for it.", "Costs are usual for the work.",
		"I would like to see who holds the land after 2030.", "The strongest account of upkeep I read.", "", "",
		"A letter from the common would help."}
	for _, it := range list {
		if it.SentAt != nil || it.RoundKey != r.rd.Key {
			continue
		}
		if outcome[it.Title] == "reading" && reader == 0 {
			continue // left for the reader of the demo
		}
		r.at = r.at.Add(time.Duration(21+noise(30, it.Title, a.Name)) * time.Minute) // nobody reads a case in no time
		c, err := r.Cases.Find(ctx, r.DB, it.Ref)
		if err != nil {
			return err
		}
		marks := map[form.Key]int{}
		for _, cr := range r.form.Design.Criteria {
			m := int(quality[it.Title] + float64(noise(17, it.Title, a.Name, string(cr.Key))-8)/10 + 0.5)
			if reader == 3 && r.dates.AnswerOn.After(r.now) && m > 0 { // one of the panel's readers is severe
				m--
			}
			marks[cr.Key] = max(0, min(m, len(cr.Steps)-1))
		}
		err = r.act(ctx, a.ID, func(ctx context.Context, tx *db.Tx) error {
			if _, err := r.Reading.Keep(ctx, tx, c, 1, reading.Marking{Marks: marks, Note: notes[noise(len(notes), it.Title,
				a.Name)]}); err != nil {
				return err
			}
			return r.Reading.Send(ctx, tx, c)
		})
		if err != nil {
			return fmt.Errorf("%s by %s: %w", it.Title, a.Name, err)
		}
	}
	return nil
}

func (r *running) decide(ctx context.Context, outcome map[string]lifecycle.State) error {
	stage, err := r.Decisions.Stage(ctx, r.DB, r.rd, r.form)
	if err != nil {
		return err
	}
	t, err := r.Decisions.Order(ctx, r.DB, r.rd, r.form, stage)
	if err != nil {
		return err
	}
	var choices []decision.Choice
	for _, row := range t.Rows {
		choices = append(choices, decision.Choice{EntryID: row.EntryID, Version: row.Version, Outcome: outcome[row.Title],
			Amount: row.Asked0()})
	}
	return r.act(ctx, r.officer.ID, func(ctx context.Context, tx *db.Tx) error {
		_, err := r.Decisions.Record(ctx, tx, r.rd, r.form, decision.Sitting{Stage: stage, Choices: choices,
			Note: "Panel of " + r.at.In(r.zone).Format("2 January") + ", L. Abernathy in the chair"})
		return err
	})
}
