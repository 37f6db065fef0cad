package demo

import (
	"bytes"
	"context"
	"fmt"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
)

// sheets are what an entry of the ferry stair competition shows, in their order.
var sheets = []struct{ title, of string }{{"From the ford", "ink and wash"}, {"Long section", "ink and wash"},
	{"Plan", "ink"}, {"Joint, full size", "pencil"}, {"Piers", "ink and wash"}, {"Ridge seen from Tarl", "ink and rust"}}

// ferry designs a smaller competition that is before its jury: six sheets in order,
// names hidden.
func ferry(e *edits, d *form.Design) {
	closes, _ := d.Moment(form.Closes)
	e.set("calendar/early-until/at", calendar.Wall{Date: closes.At.Date.AddDays(-9), Second: 86399})
	e.set("about", "A crossing at the old ferry stair, for people and one handcart. Six sheets, looked at side by side.")
	e.ask("the-design", "sheets", form.File, form.Chosen, "Six sheets, in the order in which they should be seen",
		takes(slot.Limits{Kinds: []slot.Kind{slot.Picture}, SizeMost: 12 << 20, FilesLeast: 6, FilesMost: 6,
			WidthLeast: 700, HeightLeast: 500, DPILeast: 150, Details: []string{"Title", "Medium"}}))
	e.ask("the-design", "in-public", form.YesNo, form.Chosen, "May the public see the picture and the idea, and vote?",
		mayNo)
	e.set("readersEach", 2)
	favourite(e, d)
	for _, a := range []form.Award{{Key: "second-prize", Label: "Second prize", Purse: 1_500_00, Places: 1},
		{Key: "third-prize",
			Label: "Third prize", Purse: 800_00, Places: 1}} {
		a.Led, a.Public = "merit", true
		e.add("awards", a, "student-prize")
	}
	e.add("awards", form.Award{Key: "mention", Label: "A mention", Places: 2, Led: "merit", Public: true})
	e.set("awards/student-prize/purse", 700_00)
	e.set("awards/student-prize/led", "merit")
	e.set("awards/student-prize/donor", "Tarl College")
	e.set("awards/first-prize/purse", 2_500_00)
	e.set("awards/first-prize/led", "merit")
	e.set("placing", form.Placing{Most: 1, Order: true})
}

// ferryPeople enter in one of two categories, each with a jury of its own.
var ferryPeople = []struct{ name, body, title, idea, cost, stream string }{
	{"Perrin Lockyer", "lockyer-drawing", "The long plank", "One beam, cut from one tree, laid by forty people.",
		"38,000", "open-class"},
	{"Sunniva Rook", "rook-and-daughter", "A hammock for the handcart",
		"It hangs, so that a spate can pass below it and take nothing along.", "44,500", "open-class"},
	{"Ozias Tallow", "tallow", "Two steps and a leap", "Stone to stand on, larch to walk on, and a rail for the wind.",
		"52,000", "open-class"},
	{"Bettina Sorrel", "tarl-college", "A stair that floats",
		"Four pontoons and a rope: it rises with whatever comes down.", "21,000", "students"},
	{"Callan Wynd", "tarl-college", "Stones to count", "Eleven stones, each of one parish.", "17,500", "students"},
	{"Dilys Marrow", "tarl-college", "The folding ford", "It lies in the water until somebody rings.", "19,900",
		"students"},
}

// The places of each jury among the demo's readers.
var juries = map[string][]int{"Open": {1, 2}, "Students": {3, 5}}

// jury plays the ferry stair competition up to its jury's reading.
func (b *builder) jury() {
	s := laid(b.now, b.zone, "Ferry Stair Competition", "FSC", "", 6_000, 500, 4_000, -64, -22, -16, -2, 10)
	opens, _ := s.Opens.In(b.zone)
	closes, _ := s.Closes.In(b.zone)
	checks, _ := s.ChecksBy.In(b.zone)
	var id int64
	b.on(opens.Add(-5*oneDay), func(ctx context.Context) (err error) {
		id, err = b.programme(ctx, "competition", s, ferry)
		return err
	})
	for i, p := range ferryPeople {
		b.on(opens.Add(time.Duration(70+97*i)*time.Hour), func(ctx context.Context) error {
			w := writing{p.name, p.body, p.title, "stream = " + p.stream + "\nmembers:r0001:legal = " + p.name +
				"\ntied = no\nidea = " + p.idea + "\ncost = " + p.cost +
				"\ncost:sure = estimated\nin-public = yes\nboards::tick-1 = yes\n" +
				"true = yes\nsigned = " + p.name}
			if p.stream == "students" {
				w.answers += "\nschool = Tarl College"
			}
			if err := b.begins(ctx, string(s.Key), w); err != nil {
				return err
			}
			if err := b.enters(ctx, p.name, p.body, p.title); err != nil {
				return err
			}
			return b.settles(ctx, p.name, p.body, "card")
		})
	}
	b.on(closes.Add(50*time.Hour), func(ctx context.Context) error {
		return b.takenBack(ctx, ferryPeople[2].name, ferryPeople[2].body)
	})
	b.on(opens.Add(400*time.Hour), func(ctx context.Context) error { return b.unpaid(ctx, s.Key) })
	b.on(closes.Add(time.Hour), func(ctx context.Context) error {
		r, err := b.Rounds.ByID(ctx, b.DB, id)
		if err != nil {
			return err
		}
		f, err := b.Rounds.Published(ctx, b.DB, r)
		if err != nil {
			return err
		}
		for jury, places := range juries {
			for _, i := range places {
				a := b.readers[i]
				if err := b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
					if _, err := b.Reading.Invite(ctx, tx, r, a.Email, a.Name); err != nil {
						return err
					}
					return b.Reading.Describe(ctx, tx, r, f, reading.Reader{Account: a.ID, Jury: jury})
				}); err != nil {
					return err
				}
				if err := b.act(ctx, a.ID, func(ctx context.Context, tx *db.Tx) error {
					return b.Reading.Accept(ctx, tx, a.ID)
				}); err != nil {
					return err
				}
			}
		}
		return nil
	})
	b.on(checks.Add(-time.Hour), func(ctx context.Context) error { // what entrants ticked is confirmed
		for _, p := range ferryPeople {
			c, err := b.entryOf(ctx, p.name, p.body)
			if err != nil {
				return err
			}
			if err := b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
				return b.Checks.Settle(ctx, tx, c, form.TickRule("boards"), true, "No name on either board.")
			}); err != nil {
				return err
			}
		}
		return nil
	})
	b.on(checks, func(ctx context.Context) error {
		r, err := b.Rounds.ByID(ctx, b.DB, id)
		if err != nil {
			return err
		}
		f, err := b.Rounds.Published(ctx, b.DB, r)
		if err != nil {
			return err
		}
		return b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			plan, err := b.Reading.WorkOut(ctx, tx, r, f, reading.Asks{})
			if err != nil {
				return err
			}
			bridges, err := b.Reading.Bridges(ctx, tx, r, f, plan) // so that the two can be compared
			if err != nil {
				return err
			}
			for i, x := range bridges {
				if err := b.Reading.Add(ctx, tx, r, plan.Version+i, x.Case, x.Reader); err != nil {
					return err
				}
			}
			_, err = b.Reading.GiveOut(ctx, tx, r, f, plan.Version+len(bridges), nil)
			return err
		})
	})
	b.favourites(&id)
	b.on(checks.Add(5*oneDay), func(ctx context.Context) error { // the students’ jury is in time, the other late
		for _, i := range juries["Students"] {
			if err := b.judges(ctx, string(s.Key), i); err != nil {
				return err
			}
		}
		return nil
	})
}

// judges marks all that is given to a juror of a round.
func (b *builder) judges(ctx context.Context, round string, juror int) error {
	a := b.readers[juror]
	list, err := b.Desk.ReaderDesk(ctx, a.ID)
	if err != nil {
		return err
	}
	for _, it := range list {
		if it.RoundKey != round || it.SentAt != nil {
			continue
		}
		b.at = b.at.Add(31 * time.Minute)
		c, err := b.Cases.Find(ctx, b.DB, it.Ref)
		if err != nil {
			return err
		}
		f, err := b.Rounds.Form(ctx, b.DB, c.DesignID)
		if err != nil {
			return err
		}
		m := reading.Marking{Marks: map[form.Key]int{}, Points: map[string]bool{}}
		for _, cr := range f.Design.Criteria {
			m.Marks[cr.Key] = min(len(cr.Steps)-1, 2+noise(3, it.Title, string(cr.Key))+juror/4)
			for _, x := range cr.PassPoints {
				m.Points[form.PointKey(cr.Key, x.Key)] = true
			}
		}
		if n := len(f.Design.Overall); n > 0 {
			m.Overall = new(noise(n, it.Title, a.Name))
		}
		if err := b.act(ctx, a.ID, func(ctx context.Context, tx *db.Tx) error {
			if _, err := b.Reading.Keep(ctx, tx, c, 1, m); err != nil {
				return err
			}
			return b.Reading.Send(ctx, tx, c)
		}); err != nil {
			return fmt.Errorf("%s by %s: %w", it.Title, a.Name, err)
		}
	}
	return nil
}

// entryOf somebody who has just one.
func (b *builder) entryOf(ctx context.Context, name, body string) (application.Case, error) {
	lead, err := b.person(ctx, email(name, body), name, "")
	if err != nil {
		return application.Case{}, err
	}
	mine, err := b.Desk.Mine(ctx, lead.ID)
	if err != nil || len(mine) != 1 {
		return application.Case{}, fmt.Errorf("%s has %d entries: %w", name, len(mine), err)
	}
	return b.Cases.Find(ctx, b.DB, mine[0].Ref)
}

// enters puts boards, a picture and the sheets into an entry, and sends it.
func (b *builder) enters(ctx context.Context, name, body, title string) error {
	c, err := b.entryOf(ctx, name, body)
	if err != nil {
		return err
	}
	f, err := b.Rounds.Form(ctx, b.DB, c.DesignID)
	if err != nil {
		return err
	}
	put := func(slot form.Key, file string, body []byte) (int64, error) {
		m, err := b.Materials.PutInSlot(ctx, db.Account(c.LeadID), b.at, c, f.Question(slot), file, int64(len(body)),
			bytes.NewReader(body))
		return m.ID, err
	}
	boards, err := sitePlan("Two boards", "The ferry stair", 2)
	if err != nil {
		return err
	}
	if _, err := put("boards", "boards.pdf", boards); err != nil {
		return err
	}
	printed, err := drawing(title, catalogue)
	if err != nil {
		return err
	}
	if _, err := put("picture", "for-the-catalogue.png", printed); err != nil {
		return err
	}
	var saves []intake.Edit
	for i, sheet := range sheets {
		if f.Question("sheets") == nil {
			break
		}
		body, err := drawing(title, i)
		if err != nil {
			return err
		}
		id, err := put("sheets", fmt.Sprintf("sheet-%d.png", i+1), body)
		if err != nil {
			return err
		}
		for n, v := range []string{sheet.title, sheet.of} {
			saves = append(saves, intake.Edit{Place: form.Place{Question: "sheets", Row: form.FileRow(id),
				Column: form.DetailColumn(n)}, EditID: "demo-write", Value: v})
		}
	}
	return b.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		if _, _, err := b.Intake.Save(ctx, tx, c, saves); err != nil {
			return err
		}
		_, err := b.Intake.Send(ctx, tx, c)
		return err
	})
}
