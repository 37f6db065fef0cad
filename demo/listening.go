package demo

import (
	"context"
	"fmt"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/interview"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/round"
)

// listening designs a small fellowship whose candidates are met: the short form of
// the pattern, and a third of the marks in person.
func listening(e *edits, _ *form.Design) {
	e.set("about", "Three months with a microphone and a boat pass, for somebody who listens for a living or would like to.")
	e.set("gives", "A stipend, a room at Tarl and the loan of recording gear.")
	for _, path := range []string{"sections/materials/questions/best-page", "sections/materials/questions/notes",
		"sections/materials/questions/recordings",
		"sections/materials/questions/plates", "sections/references", "sections/you/questions/orcid",
		"sections/you/questions/work-so-far"} {
		e.ops = append(e.ops, design.Op{Do: design.Remove, Path: path})
	}

	heardAsks(e)
	e.set("readersEach", 2)
	e.add("stages", form.Stage{Key: "talks", Label: "Interviews", Does: form.Interview, From: form.ReadingEnd,
		To: form.AnswerOn}, "deciding")
	for key, weight := range map[string]int{"question": 25, "method": 25, "person": 20} {
		e.set("criteria/"+key+"/weight", weight)
	}
	e.add("criteria", form.Criterion{Key: "in-person", Label: "In person", Weight: 30, At: "talks",
		Steps: []string{"could not say why", "said why, and not how",
			"said why and how", "said why and how, and what if not", "and listened"}})
}

// listener is a candidate: how good their readers find them, and what comes of the
// interview.
type listener struct {
	name, title, field, why string
	marks                   int
	then                    string // not asked | held | comes | abroad | cannot | open
}

var listeners = []listener{
	{"Rosalba Finch", "What the kelp says at slack water", "owls", "Hydrophones under four moorings for a whole neap.", 5,
		"held"},
	{"Anselm Okoro", "Rain on nine kinds of roof", "moths",
		"Every roof of the isles that is still thatch, slate, turf or tin.", 4, "held"},
	{"Mirei Castellane", "A map of the foghorns", "bats", "Where each can be heard, by whom, and what they do then.", 4,
		"abroad"},
	{"Teig Morrow", "Dawn, from both sides of the sound", "owls", "Two recorders, one clock, forty mornings.", 4, "comes"},
	{"Hanneke Dray", "The last bell buoys", "moths", "Before they are changed for lamps.", 3, "cannot"},
	{"Pio Quennell", "Shearwaters, counted by ear", "bats", "A night count that needs no torch.", 3, "open"},
	{"Ysolt Barrow", "Silence, and where it is kept", "owls", "Caves, and one chapel.", 1, "not asked"},
}

// talks plays the Listening Fellowship up to its interviews: some were yesterday, some
// are to come, one candidate is in Tokyo.
func (b *builder) talks() {
	s := laid(b.now, b.zone, "Listening Fellowship", "LIS", "", 18_000, 3_000, 9_000, -62, -34, -27, -8, 9)
	opens, _ := s.Opens.In(b.zone)
	closes, _ := s.Closes.In(b.zone)
	checks, _ := s.ChecksBy.In(b.zone)
	read, _ := s.ReadingEnds.In(b.zone)
	t := &talking{builder: b, key: string(s.Key), cases: map[string]application.Case{}}
	b.on(opens.Add(-4*oneDay), func(ctx context.Context) (err error) {
		t.id, err = b.programme(ctx, "fellowship", s, listening)
		return err
	})
	for i, l := range listeners {
		b.on(opens.Add(time.Duration(50+61*i)*time.Hour), func(ctx context.Context) error { return t.applies(ctx, l) })
	}
	b.on(closes.Add(30*time.Hour), t.readers)
	b.on(checks, t.handsOut)
	for i := range 2 {
		b.on(read.Add(time.Duration(i-40)*time.Hour), func(ctx context.Context) error { return t.marks(ctx, i) })
	}
	b.on(read.Add(20*time.Hour), t.invites)
	b.on(read.Add(40*time.Hour), t.answer)
	b.on(b.now.Add(-2*time.Hour), t.held)
}

// talking is the Listening Fellowship as it is played.
type talking struct {
	*builder
	key   string
	id    int64
	cases map[string]application.Case
	past  int64 // the day of interviews that is over
}

func (t *talking) round(ctx context.Context) (round.Round, *form.Form, error) {
	return t.roundNow(ctx, t.id)
}

func (t *talking) applies(ctx context.Context, l listener) error {
	if err := t.begins(ctx, t.key, writing{l.name, "listening", l.title, "names:legal = " + l.name +
		"\nfree-year = yes\nfield = " + l.field +
		"\nkeywords = sound|light\nstatement = " + l.why + "\nrequest = 6,000\ntrue = yes\nsigned = " + l.name}); err != nil {
		return err
	}
	lead := t.leads[email(l.name, "listening")]
	mine, err := t.Desk.Mine(ctx, lead.ID)
	if err != nil || len(mine) != 1 {
		return fmt.Errorf("%d applications of %s: %w", len(mine), l.name, err)
	}
	c, err := t.Cases.Find(ctx, t.DB, mine[0].Ref)
	if err != nil {
		return err
	}
	if err := t.hears(ctx, c, l); err != nil {
		return err
	}
	return t.act(ctx, lead.ID, func(ctx context.Context, tx *db.Tx) error {
		c, err := t.Cases.Find(ctx, tx, mine[0].Ref)
		if err != nil {
			return err
		}
		t.cases[l.name], err = t.Intake.Send(ctx, tx, c)
		return err
	})
}

func (t *talking) readers(ctx context.Context) error {
	return t.readersOf(ctx, t.id, t.builder.readers[3:5])
}

func (t *talking) handsOut(ctx context.Context) error {
	r, f, err := t.round(ctx)
	if err != nil {
		return err
	}
	return t.act(ctx, t.officer.ID, func(ctx context.Context, tx *db.Tx) error {
		_, err := t.Reading.HandOut(ctx, tx, r, f, nil)
		return err
	})
}

func (t *talking) marks(ctx context.Context, reader int) error {
	a := t.builder.readers[3+reader]
	for _, l := range listeners {
		c, err := t.Cases.Find(ctx, t.DB, t.cases[l.name].Ref)
		if err != nil {
			return err
		}
		t.at = t.at.Add(24 * time.Minute)
		if err := t.act(ctx, a.ID, func(ctx context.Context, tx *db.Tx) error {
			m := reading.Marking{Marks: map[form.Key]int{"question": l.marks, "method": max(0, l.marks-reader),
				"person": min(5, l.marks+1-reader)}}
			if _, err := t.Reading.Keep(ctx, tx, c, 1, m); err != nil {
				return err
			}
			return t.Reading.Send(ctx, tx, c)
		}); err != nil {
			return fmt.Errorf("%s by %s: %w", l.title, a.Name, err)
		}
	}
	return nil
}

// invites lays two days out and asks all but the last of the order.
func (t *talking) invites(ctx context.Context) error {
	r, f, err := t.round(ctx)
	if err != nil {
		return err
	}
	members := []int64{t.builder.readers[3].ID, t.builder.readers[4].ID}
	by := t.at.Add(72 * time.Hour)
	return t.act(ctx, t.officer.ID, func(ctx context.Context, tx *db.Tx) error {
		for i, days := range []int{-1, 3} {
			day := interview.Laid{Panel: "The listening panel", Place: "The Customs House, upper room",
				Link: "https://talk.ostrel-trust.example/listening",
				Note: "Bring one recording of up to a minute. There is tea.", Members: members, Minutes: 30}
			date := calendar.AddWorkingDays(calendar.DateOf(t.now, f.Zone), days, nil)
			for _, hour := range [][2]int{{9, 30}, {10, 15}, {11, 0}, {14, 0}} {
				at, _ := calendar.At(date, hour[0], hour[1]).In(f.Zone)
				day.Times = append(day.Times, at)
			}
			id, err := t.Interviews.AddDay(ctx, tx, r, "talks", day)
			if err != nil {
				return err
			}
			if i == 0 {
				t.past = id
			}
		}
		var entries []int64
		for _, l := range listeners {
			if l.then != "not asked" {
				entries = append(entries, t.cases[l.name].EntryID)
			}
		}
		return t.Interviews.Invite(ctx, tx, r, f, entries, &by)
	})
}

// answer plays what those who are invited do.
func (t *talking) answer(ctx context.Context) error {
	_, f, err := t.round(ctx)
	if err != nil {
		return err
	}
	for i, l := range listeners {
		if l.then == "not asked" || l.then == "open" {
			continue
		}
		t.at = t.at.Add(47 * time.Minute)
		if err := t.act(ctx, t.cases[l.name].LeadID, func(ctx context.Context, tx *db.Tx) error {
			c, err := t.Cases.Find(ctx, tx, t.cases[l.name].Ref)
			if err != nil {
				return err
			}
			if l.then == "abroad" {
				if err := t.Interviews.SetZone(ctx, tx, c, "Asia/Tokyo"); err != nil {
					return err
				}
			}
			free, err := t.Interviews.Free(ctx, tx, c, f, t.at)
			if err != nil {
				return err
			}
			var mine []interview.Slot
			for _, x := range free {
				if (x.DayID == t.past) == (l.then == "held") {
					mine = append(mine, x)
				}
			}
			if err := t.Interviews.Choose(ctx, tx, c, mine[0].ID); err != nil || l.then != "cannot" {
				return err
			}
			if c, err = t.Cases.Find(ctx, tx, c.Ref); err != nil {
				return err
			}
			return t.Interviews.Answer(ctx, tx, c, false,
				"My sister is married that morning. Any afternoon would do, or the day after.")
		}); err != nil {
			return fmt.Errorf("%d, %s: %w", i, l.name, err)
		}
	}
	return nil
}

// held plays what the panel says of those it has met; one of it has one to send yet.
func (t *talking) held(ctx context.Context) error {
	for i, l := range listeners {
		if l.then != "held" {
			continue
		}
		for j, a := range t.builder.readers[3:5] {
			if i == 1 && j == 1 {
				continue
			}
			c, err := t.Cases.Find(ctx, t.DB, t.cases[l.name].Ref)
			if err != nil {
				return err
			}
			if err := t.act(ctx, a.ID, func(ctx context.Context, tx *db.Tx) error {
				if _, err := t.Interviews.Keep(ctx, tx, c, 0, map[form.Key]int{"in-person": 4 - i - j},
					"Knows the moorings, and who to ask."); err != nil {
					return err
				}
				return t.Interviews.Send(ctx, tx, c)
			}); err != nil {
				return err
			}
		}
	}
	return nil
}
