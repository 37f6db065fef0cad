package interview

import (
	"context"
	"errors"
	"slices"
	"time"

	"ulvant/core/form"
	"ulvant/core/interview"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/round"
)

// Invite cases to an interview. With chooseBy they choose among the free times until
// then; nil: they are given one, by Give. Whoever may not choose is told when they
// have a time.
func (s *Store) Invite(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, entries []int64,
	chooseBy *time.Time) error {
	if len(entries) == 0 {
		return refusal.In("who", "Tick whom you want to meet.")
	}
	if chooseBy != nil && !chooseBy.After(tx.At) {
		return refusal.In("choose-by", "They choose until a time that is still to come.")
	}
	cases, err := s.Cases.LockAll(ctx, tx, entries)
	if err != nil {
		return err
	}
	for _, c := range cases {
		if c.RoundID != r.ID {
			return application.ErrNotFound
		}
		if f.Interviews(form.Key(c.Stage)) == nil {
			return refusal.Unfit("nobody is met after this stage").But("add a stage of interviews to the design")
		}
		if before, err := s.Of(ctx, tx, c.EntryID); err == nil && before.Outcome == Held {
			return refusal.Unfit(c.Ref + " has been met already").But("open the panel’s marks again instead")
		} else if err != nil && !errors.Is(err, ErrNotInvited) {
			return err
		}
		c, _, err := s.Cases.Transition(ctx, tx, c, lifecycle.CallIn, nil)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO interview (entry_id, choose_by, invited_at) VALUES ($1, $2, $3)
			ON CONFLICT (entry_id) DO UPDATE SET choose_by = excluded.choose_by, invited_at = excluded.invited_at, slot_id = NULL, day_id = NULL,
				reply = '', replied_at = NULL, why = '', outcome = '', outcome_at = NULL, outcome_why = '', reminded_at = NULL, version = interview.version + 1`,
			c.EntryID, chooseBy, tx.At); err != nil {
			return err
		}
		if chooseBy != nil {
			if err := s.write(ctx, tx, c, say.ChooseATime(s.caseFor(c, f), *chooseBy), ""); err != nil {
				return err
			}
		}
	}
	return nil
}

// caseFor is what letters about an interview say of a case.
func (s *Store) caseFor(c application.Case, f *form.Form) say.Interviewed {
	return say.Interviewed{Name: c.LeadName, Title: c.Title, Ref: c.Ref, Round: c.RoundName, Funder: s.Post.Name(),
		Home: f.Zone}
}

// write a letter about an interview to whoever leads a case.
func (s *Store) write(ctx context.Context, tx *db.Tx, c application.Case, l say.Mail, calendar string) error {
	_, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "interview", Account: c.LeadID, Application: c.ID, Round: c.RoundID,
		To:     c.LeadEmail,
		ToName: c.LeadName, Subject: l.Subject, Body: l.Body, Calendar: calendar})
	return err
}

// bars are the panels that must not see a case: somebody of them stepped aside from
// it, or has an interest that nobody has ruled of no matter.
func (s *Store) bars(ctx context.Context, q db.Querier, days []Day,
	applications []int64) (map[int64]map[int64]string, error) {
	who, names := map[int64][]int64{}, map[int64]string{}
	var accounts []int64
	for _, d := range days {
		for _, m := range d.Members {
			who[m.Account] = append(who[m.Account], d.ID)
			names[m.Account] = m.Name
			accounts = append(accounts, m.Account)
		}
	}
	var aside []connectionBar
	if err := q.SelectContext(ctx, &aside, `
		SELECT application_id, account_id FROM recusal WHERE application_id = ANY($1) AND account_id = ANY($2)
		UNION SELECT application_id, account_id FROM relation WHERE application_id = ANY($1) AND account_id = ANY($2)`, applications, accounts); err != nil {
		return nil, err
	}
	found, err := s.Connections.Bars(ctx, q, applications, accounts)
	if err != nil {
		return nil, err
	}
	for _, b := range found {
		aside = append(aside, connectionBar(b))
	}
	out := map[int64]map[int64]string{} // application, day: who
	for _, b := range aside {
		for _, day := range who[b.Account] {
			if out[b.Application] == nil {
				out[b.Application] = map[int64]string{}
			}
			out[b.Application][day] = names[b.Account]
		}
	}
	return out, nil
}

// connectionBar is somebody who must not meet whoever applies.
type connectionBar struct {
	Application int64 `db:"application_id"`
	Account     int64 `db:"account_id"`
}

// Given says what came of giving times.
type Given struct {
	Given, Left int // people; Left have none
	Night       int // of those given, at an hour when they sleep
}

// Give everybody who has no time one, as well as can be: by no panel that must not see
// them, at as few night hours as can be, the earlier times first. Those who may still
// choose are left.
func (s *Store) Give(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, applied form.Key) (g Given,
	err error) {
	stage := f.Interviews(applied)
	if stage == nil {
		return g, refusal.Unfit("nobody is met after this stage")
	}
	if _, err := tx.ExecContext(ctx, `SELECT id FROM interview_day WHERE round_id = $1 ORDER BY id FOR UPDATE`,
		r.ID); err != nil {
		return g, err
	}
	days, err := s.Days(ctx, tx, r.ID, stage.Key)
	if err != nil {
		return g, err
	}
	list, err := s.Without(ctx, tx, r.ID, applied)
	if err != nil {
		return g, err
	}
	list = slices.DeleteFunc(list, func(m Meeting) bool { return m.ChooseBy != nil && m.ChooseBy.After(tx.At) })
	var entries, apps []int64
	for _, m := range list {
		entries = append(entries, m.EntryID)
	}
	cases, err := s.Cases.ByEntries(ctx, tx, entries)
	if err != nil {
		return g, err
	}
	for _, e := range entries {
		apps = append(apps, cases[e].ID)
	}
	bars, err := s.bars(ctx, tx, days, apps)
	if err != nil {
		return g, err
	}
	var free []Slot
	var slots []interview.Slot
	for _, d := range days {
		for _, x := range d.Slots {
			if x.Meeting == nil && x.Starts.After(tx.At) {
				free, slots = append(free, x), append(slots, interview.Slot{At: x.Starts, Minutes: x.Minutes, Panel: d.ID})
			}
		}
	}
	people := make([]interview.Person, len(list))
	for i, m := range list {
		people[i].Zone = m.In(f.Zone)
		for day := range bars[apps[i]] {
			people[i].Not = append(people[i].Not, day)
		}
	}
	for i, j := range interview.Give(people, slots) {
		if j < 0 {
			g.Left++
			continue
		}
		if interview.Asleep(free[j].Starts, free[j].Minutes, people[i].Zone) {
			g.Night++
		}
		g.Given++
		if err := s.put(ctx, tx, cases[entries[i]], f, free[j].ID, Silent, ""); err != nil {
			return g, err
		}
	}
	return g, nil
}
