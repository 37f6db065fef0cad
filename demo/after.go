package demo

import (
	"context"
	"fmt"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/reference"
)

// back is a morning some days ago, on a working day.
func (r *running) back(days int) time.Time {
	day := calendar.AddWorkingDays(calendar.DateOf(r.now, r.zone).AddDays(-days+1), -1, nil)
	t, _ := calendar.At(day, 9, 40).In(r.zone)
	return t
}

// called finds an application of the round by its title.
func (r *running) called(ctx context.Context, title string) (application.Case, error) {
	var ref string
	if err := r.DB.GetContext(ctx, &ref, `SELECT ref FROM application WHERE round_id = $1 AND title = $2`, r.id,
		title); err != nil {
		return application.Case{}, fmt.Errorf("%s: %w", title, err)
	}
	return r.Cases.Find(ctx, r.DB, ref)
}

// eligible finds the n-th of the tales that is found eligible by now.
func (r *running) eligible(ctx context.Context, tales []tale, n int) (application.Case, bool, error) {
	for _, t := range tales {
		if t.plan != "eligible" {
			continue
		}
		c, err := r.called(ctx, t.title)
		if err != nil {
			return c, false, err
		}
		if c.State.Is(lifecycle.ToRead) {
			if n == 0 {
				return c, true, nil
			}
			n--
		}
	}
	return application.Case{}, false, nil
}

// between plays what goes on between the office and those who apply while a
// round is open: queries, wishes for more time, questions about the round, and
// a text taken out and brought back.
func (r *running) between(tales []tale) {
	ask := func(daysAgo, n int, text string, days int, questions ...form.Key) {
		r.on(r.back(daysAgo), func(ctx context.Context) error {
			c, ok, err := r.eligible(ctx, tales, n)
			if err != nil || !ok {
				return err
			}
			return r.act(ctx, r.officer.ID, func(ctx context.Context, tx *db.Tx) error {
				_, err := r.Cases.Ask(ctx, tx, c, text, questions, days)
				return err
			})
		})
	}
	ask(3, 0, "Your text speaks of four hectares, your answer on the area of another figure. Which is right? Please "+
		"put both in order. A day of plant stands at more than others pay: is that the price?", 8, "area", "describe",
		"budget")
	r.on(r.back(1), r.answerQuery)
	ask(1, 1, "The site plan does not show where the work begins. Please put in one that does, with a scale.", 6,
		"site-plan")

	// three at a halt go on and name a referee, two of them after a nudge
	for i, title := range []string{"Kelp wrack for the dunes", "A quarter mile of hurdles",
		"Whin and wildflowers, Barra Knowe"} {
		if i > 0 {
			r.on(r.back(12), func(ctx context.Context) error {
				c, err := r.called(ctx, title)
				if err != nil {
					return err
				}
				return r.act(ctx, r.officer.ID, func(ctx context.Context, tx *db.Tx) error {
					_, err := r.Intake.Nudge(ctx, tx, c)
					return err
				})
			})
		}
		r.on(r.back(9), func(ctx context.Context) error {
			c, err := r.called(ctx, title)
			if err != nil {
				return err
			}
			return r.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) error {
				_, err := r.Referees.Name(ctx, tx, c, "site-referee", reference.Person{Name: "Hedda Clay",
					Email: email("Hedda Clay", "referees"), Knows: "leads the bird count there"})
				return err
			})
		})
	}

	wish := func(title, reason string) {
		r.on(r.back(2), func(ctx context.Context) error {
			c, err := r.called(ctx, title)
			if err != nil {
				return err
			}
			return r.act(ctx, c.LeadID, func(ctx context.Context,
				tx *db.Tx) error {
				return r.Cases.AskTime(ctx, tx, c, reason)
			})
		})
	}
	wish("Old drove, new heather",
		"The ferry with our survey on board is held in harbour; it sails again the day after the round closes. Two days would do.")
	wish("Winkle beds, Port of Corvoe",
		"Our treasurer is in hospital and nobody else can see the accounts until the middle of the month.")
	r.on(r.back(1), func(ctx context.Context) error {
		c, err := r.called(ctx, "Old drove, new heather")
		if err != nil {
			return err
		}
		until, _ := calendar.At(calendar.AddWorkingDays(calendar.DateOf(r.dates.Closes, r.zone), 2, nil), 16, 0).In(r.zone)
		return r.act(ctx, r.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			return r.Cases.GiveTime(ctx, tx, c, until, "The ferry did not sail; the harbour's notice is with us.")
		})
	})
	r.on(r.back(2), func(ctx context.Context) error {
		c, err := r.called(ctx, "Beach nourishment by barrow")
		if err != nil {
			return err
		}
		return r.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			return r.Cases.AskSupport(ctx, tx, c,
				"I read with a magnifier, and the budget page is hard for me. Could somebody go through it with me by telephone, in the evening?")
		})
	})
	r.enquire(9, "Fergus Ó Dálaigh", "Does the time of volunteers count towards the share that others pay?",
		"Yes, at the rate that the budget page shows, and for no more than half of that share.")
	r.enquire(6, "Catrin Bewley", "May the letter come from somebody on our own committee?",
		"No. It should come from somebody who knows the site and has no part in the work.")
	r.enquire(1, "Una Gallowglass", "Our map is larger than A3. May we put it in as two sheets?", "")

	r.surveyed(tales)
	r.on(r.back(2), func(ctx context.Context) error { // Imre's text, cut down and brought back
		c, err := r.called(ctx, tales[0].title)
		if err != nil {
			return err
		}
		save := func(version int, value string) error {
			return r.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) error {
				_, _, err := r.Intake.Save(ctx, tx, c, []intake.Edit{{Place: form.Place{Question: "describe"}, Version: version,
					EditID: fmt.Sprint("demo-cut-", version), Value: value}})
				return err
			})
		}
		if err := save(1, "We will replant reed along the Corvoe shore."); err != nil {
			return err
		}
		return r.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			return r.Intake.BringBack(ctx, tx, c, form.Place{Question: "describe"}, 1)
		})
	})
}

// answerQuery answers the oldest open query of the round.
func (r *running) answerQuery(ctx context.Context) error {
	var entries []int64
	if err := r.DB.SelectContext(ctx, &entries,
		`SELECT q.entry_id FROM query q JOIN standing s ON s.entry_id = q.entry_id WHERE q.ended = '' AND s.round_id = $1 ORDER BY q.id`, r.id); err != nil || len(entries) == 0 {
		return err
	}
	c, err := r.Cases.ByEntry(ctx, r.DB, entries[0])
	if err != nil {
		return err
	}
	rows, err := r.Cases.Answers(ctx, r.DB, c.EntryID)
	if err != nil {
		return err
	}
	return r.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		for _, a := range rows {
			if a.Question != "area" {
				continue
			}
			if err := r.cheaperPlant(ctx, tx, c); err != nil {
				return err
			}
			if _, _, err := r.Intake.Save(ctx, tx, c, []intake.Edit{{Place: a.Place(), Version: a.Version, EditID: "demo-query",
				Value: "4.0"}}); err != nil {
				return err
			}
		}
		_, err := r.Intake.SendBack(ctx, tx, c,
			"Four hectares is right; the other figure took in the track. The yard comes down to €600 a "+
				"day; what is saved goes into carting.")
		return err
	})
}

// enquire plays a question about the round; no answer leaves it waiting.
func (r *running) enquire(daysAgo int, name, text, answer string) {
	r.on(r.back(daysAgo), func(ctx context.Context) error {
		var by int64
		for _, a := range r.leads {
			if a.Name == name {
				by = a.ID
			}
		}
		if by == 0 {
			return nil // not begun yet
		}
		if err := r.act(ctx, by, func(ctx context.Context, tx *db.Tx) error {
			return r.Enquiries.Ask(ctx, tx, r.rd,
				text)
		}); err != nil || answer == "" {
			return err
		}
		list, err := r.Enquiries.By(ctx, r.DB, r.id, by)
		if err != nil {
			return err
		}
		return r.act(ctx, r.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			return r.Enquiries.Answer(ctx, tx, r.rd, list[len(list)-1].ID, text, answer, true)
		})
	})
}
