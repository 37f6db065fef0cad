// Package demo makes the Ostrel Isles Trust: made-up people, rounds and
// applications, built through the use cases with a clock set back, laid out
// relative to the day it is started. Nothing is inserted by hand.
package demo

import (
	"context"
	"fmt"
	"hash/fnv"
	"log/slog"
	"slices"
	"strings"
	"time"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/program"
	"ulvant/internal/round"
	"ulvant/internal/standin/paydesk"
)

// Password of everybody in the demo.
const Password = "shore and peat"

// Referee is the address of the referee whose link waits in the tray.
const Referee = "dacian.rowe@wardens.example"

// Empty reports a database in which nobody has an account yet.
func Empty(ctx context.Context, p *program.Program) (bool, error) {
	var none bool
	err := p.DB.GetContext(ctx, &none, `SELECT NOT EXISTS (SELECT FROM account)`)
	return none, err
}

// event is something that happens at a time of the past.
type event struct {
	at time.Time
	do func(ctx context.Context) error
}

type builder struct {
	*program.Program
	now     time.Time
	at      time.Time // of the event being run
	zone    *time.Location
	hash    string
	events  []event
	officer people.Account
	readers []people.Account
	till    *paydesk.Desk // at which fees are paid
	plans   map[string][]byte
	leads   map[string]people.Account
	applies map[string]int64 // profiles of bodies, by name
}

// Build fills an empty database as of now.
func Build(ctx context.Context, p *program.Program, desk *paydesk.Desk, now time.Time) error {
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		return err
	}
	b := &builder{Program: p, till: desk, now: now, zone: zone, leads: map[string]people.Account{},
		applies: map[string]int64{}}
	defer desk.By(desk.By(func() time.Time { return b.at })) // the desk lives through it too
	if b.hash, err = p.People.Hash(Password); err != nil {
		return err
	}
	d := Dates(now, zone)
	b.at = d.Decided.Made
	if err := b.staff(ctx); err != nil {
		return err
	}
	if err := b.trust(ctx); err != nil {
		return err
	}
	decided := b.round(d.Decided, read(decidedRows), both(offering, fullBudget(0)))
	before := b.round(d.Panel, read(panelRows), both(offering, both(digger, fullBudget(0))))
	b.offers(decided)
	before.samples(decided)
	before.whatIfs()
	b.round(d.Open, read(openRows), openRound).guides().between(read(openRows))
	b.round(d.Large, read(largeRows), both(largeWorks(calendar.WallOf(d.Large.ProposalsIn, zone)), fullBudget(0)))
	b.inDesign(d.Open)
	b.others()
	b.asked()
	b.jury()
	b.village()
	b.talks()
	b.years()
	b.pays()
	b.bursaries()
	b.bodies()
	defer b.movedUp(decided)()
	for t := d.Decided.Opens; t.Before(now); t = t.AddDate(0, 0, 2) {
		b.on(t.Add(7*time.Hour), func(ctx context.Context) error { return b.Jobs.Sweep(ctx, b.at) })
	}
	if err := b.run(ctx); err != nil {
		return err
	}
	return b.colleagues(ctx, before)
}

// on adds an event; what would lie in the future does not happen.
func (b *builder) on(at time.Time, do func(context.Context) error) {
	if at.Before(b.now) {
		b.events = append(b.events, event{at, do})
	}
}

// run plays the events in the order of their times; events may add others.
func (b *builder) run(ctx context.Context) error {
	start := time.Now()
	n := 0
	for len(b.events) > 0 {
		i := 0
		for j, e := range b.events {
			if e.at.Before(b.events[i].at) {
				i = j
			}
		}
		e := b.events[i]
		b.events = slices.Delete(b.events, i, i+1)
		b.at = e.at
		if err := b.Jobs.Drain(ctx, e.at); err != nil {
			return err
		}
		if err := e.do(ctx); err != nil {
			return fmt.Errorf("on %s: %w", e.at.Format(time.DateTime), err)
		}
		n++
	}
	b.at = b.now
	if err := b.Jobs.Drain(ctx, b.now); err != nil {
		return err
	}
	slog.Info("the demo is built", "events", n, "took", time.Since(start).Round(time.Millisecond))
	return nil
}

// act runs a use case at the event's time.
func (b *builder) act(ctx context.Context, by int64, f func(context.Context, *db.Tx) error) error {
	return b.Do(ctx, db.Account(by), b.at, f)
}

// person makes a confirmed account, once for each address.
func (b *builder) person(ctx context.Context, email, name, note string) (a people.Account, err error) {
	if old, ok := b.leads[email]; ok {
		return old, nil
	}
	err = b.act(ctx, 0, func(ctx context.Context, tx *db.Tx) error {
		if a, err = b.People.Invite(ctx, tx, email, name); err != nil {
			return err
		}
		if err := b.People.SetPassword(ctx, tx, a.ID, b.hash); err != nil {
			return err
		}
		if note != "" {
			err = b.People.NoteForDemo(ctx, tx, a.ID, note)
		}
		return err
	})
	b.leads[email] = a
	return a, err
}

func (b *builder) staff(ctx context.Context) (err error) {
	if b.officer, err = b.person(ctx, "neda.sparrow@ostrel-trust.example", "Neda Sparrow",
		"Grants officer: every round, one open, one before the panel"); err != nil {
		return err
	}
	if err := b.act(ctx, 0, func(ctx context.Context, tx *db.Tx) error {
		return b.People.GiveRole(ctx, tx, b.officer.ID, access.Held{Role: access.RunsRounds})
	}); err != nil {
		return err
	}
	if _, err := b.person(ctx, email("Imre Calloway", "Corvoe Foreshore Common"), "Imre Calloway",
		"Applicant, with a half-written draft that closes soon"); err != nil {
		return err
	}
	for i, name := range []string{"Oriel Vane", "Teodora Brisk", "Sami Holt", "Gwyn Arkwright", "Bohdana Reyes",
		"Lucian Abernathy"} {
		note := ""
		switch i {
		case 0:
			note = "Reader, with cases left to mark"
		case 1:
			note = "Juror, with drawings on a light table"
		}
		a, err := b.person(ctx, email(name, "readers"), name, note)
		if err != nil {
			return err
		}
		b.readers = append(b.readers, a)
	}
	return nil
}

func email(name, body string) string {
	fold := strings.NewReplacer("Ó", "o", "á", "a", "ø", "o", "’", "", "'", "", " ", ".", "é", "e", "&", "and")
	host := strings.NewReplacer(" ", "-", ".", "-").Replace(strings.ToLower(fold.Replace(body)))
	return strings.ToLower(fold.Replace(name)) + "@" + host + ".example"
}

// noise is a steady number from 0 to n-1 for a text.
func noise(n int, parts ...string) int {
	h := fnv.New32a()
	h.Write([]byte(strings.Join(parts, "|")))
	return int(h.Sum32() % uint32(n))
}

// round makes one round and everything that happens in it.
func (b *builder) round(d RoundDates, tales []tale, change func(*edits, *form.Design)) *running {
	r := &running{builder: b, dates: d}
	b.on(d.Made, func(ctx context.Context) error {
		design := d.Design()
		err := b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) (err error) {
			if r.id, err = b.Rounds.Create(ctx, tx, design); err != nil || change == nil {
				return err
			}
			var e edits
			change(&e, design)
			_, err = b.Rounds.Edit(ctx, tx, r.id, "", e.ops)
			return err
		})
		if err != nil {
			return err
		}
		if err := program.Open(ctx, b.Program, db.Account(b.officer.ID), b.at, r.id, "", true); err != nil {
			return err
		}
		return r.reload(ctx)
	})
	span := d.Closes.Sub(d.Opens)
	for i, t := range tales {
		r.tale(t, d.Opens.Add(span*time.Duration(i+1)/time.Duration(3*len(tales))+time.Duration(noise(500,
			t.title))*time.Minute))
	}
	if d.ProposalsIn.IsZero() {
		r.afterClosing(tales)
		return r
	}
	_, outcome := ends(tales)
	r.on(d.ChecksBy.Add(oneDay), func(ctx context.Context) error { return r.decide(ctx, outcome) })
	r.goOn(tales)
	return r
}

// running is a round under way.
type running struct {
	*builder
	dates RoundDates
	id    int64
	rd    round.Round
	form  *form.Form
}

func (r *running) reload(ctx context.Context) (err error) {
	if r.rd, err = r.Rounds.ByID(ctx, r.DB, r.id); err != nil {
		return err
	}
	r.form, err = r.Rounds.Published(ctx, r.DB, r.rd)
	return err
}
