package offer

import (
	"context"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/offer"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// mostWhy is how long a reason may be, in bytes.
const mostWhy = 1000

// verbs of the trail, by the answer.
var verbs = map[offer.Answer]say.Verb{offer.Accepted: "offer-accepted", offer.Declined: "offer-declined",
	offer.Lapsed: "offer-lapsed", offer.Open: "offer-open"}

// Accept an offer, by whoever leads the case; promised are the statements they ticked.
func (s *Store) Accept(ctx context.Context, tx *db.Tx, round, id int64, promised []string) error {
	o, c, f, err := s.find(ctx, tx, round, id)
	if err != nil {
		return err
	}
	ticked := map[string]bool{}
	for _, p := range promised {
		ticked[p] = true
	}
	for _, p := range f.Design.Offer.Promises {
		if !ticked[p] {
			return refusal.In("promise", "To accept, tick each statement: “"+p+"” is not ticked.")
		}
	}
	return s.answer(ctx, tx, o, c, f, offer.Accepted, offer.Them, "")
}

// Decline an offer, by whoever leads the case; why may be left out.
func (s *Store) Decline(ctx context.Context, tx *db.Tx, round, id int64, why string) error {
	o, c, f, err := s.find(ctx, tx, round, id)
	if err != nil {
		return err
	}
	return s.answer(ctx, tx, o, c, f, offer.Declined, offer.Them, why)
}

// Put an answer in at the office, for whoever was offered something or to correct one,
// with a reason; an offer that is opened again is open for the days of the design from now.
func (s *Store) Put(ctx context.Context, tx *db.Tx, round, id int64, to offer.Answer, why string) error {
	o, c, f, err := s.find(ctx, tx, round, id)
	if err != nil {
		return err
	}
	if why = strings.TrimSpace(why); why == "" {
		return refusal.In(
			"why",
			"Say why, such as “She said so by telephone on 4 March”; it is kept and they are told.",
		)
	}
	return s.answer(ctx, tx, o, c, f, to, offer.Office, why)
}

func (s *Store) answer(ctx context.Context, tx *db.Tx, o Offer, c application.Case, f *form.Form, to offer.Answer,
	by offer.By, why string) error {
	if why = strings.TrimSpace(why); len(why) > mostWhy {
		return refusal.In("why", "Say why in up to 1,000 characters.")
	}
	if err := offer.May(o.Answer, to, by, o.DueAt, tx.At); err != nil {
		return err
	}
	switch {
	case to.CameBack() && !o.Answer.CameBack():
		if err := s.Decisions.CameBack(ctx, tx, o.ActID, o.EntryID, o.Award); err != nil {
			return err
		}
	case o.Answer.CameBack() && !to.CameBack():
		r, err := s.Cases.Rounds.ByID(ctx, tx, c.RoundID)
		if err != nil {
			return err
		}
		if err := s.Decisions.TakeAgain(ctx, tx, r, f, c, o.ActID, o.Award); err != nil {
			return err
		}
	}
	if to == offer.Open && !tx.At.Before(o.DueAt) {
		o.DueAt = f.OfferEnds(tx.At)
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE offer SET answer = @answer::text, answered_at = CASE WHEN @answer::text <> 'open' THEN @at::timestamptz END, by_id = @by, why = @why, due_at = @due, reminded_at = NULL WHERE id = @id`,
		db.Named{"answer": to, "at": tx.At, "by": who(tx), "why": why, "due": o.DueAt, "id": o.ID}); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, verbs[to], c.ID, c.RoundID, o.figures(f, why)); err != nil {
		return err
	}
	if o.Award != "" { // placings look at who gave what back
		if err := s.Awards.Changed(ctx, tx, c.RoundID); err != nil {
			return err
		}
	}
	if err := s.stands(ctx, tx, o.EntryID, o.ActID); err != nil {
		return err
	}
	subject, body := say.OfferLetter(
		to,
		c.LeadName,
		c.Title,
		o.What(f),
		o.DueAt,
		f.Zone,
		by == offer.Office,
		officeWhy(by, why),
		s.Post.Name(),
	)
	return s.tell(ctx, tx, c, f, "offer-"+string(to), c.Ref+": "+subject, body)
}

// officeWhy is the reason that somebody is told of what the office put in for them.
func officeWhy(by offer.By, why string) string {
	if by != offer.Office {
		return ""
	}
	return why
}

func who(tx *db.Tx) *int64 {
	if tx.By.ID == 0 {
		return nil
	}
	return &tx.By.ID
}

func (s *Store) tell(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, kind, subject,
	body string) error {
	_, err := s.Post.Queue(ctx, tx, post.Letter{Kind: kind, Account: c.LeadID, Application: c.ID, Round: c.RoundID,
		To: c.LeadEmail, ToName: c.LeadName, ReplyTo: f.Design.Contact, Subject: subject, Body: body})
	return err
}

// Extend gives an offer that is open until another day, with a reason; the day is its last.
func (s *Store) Extend(ctx context.Context, tx *db.Tx, round, id int64, until time.Time, why string) error {
	o, c, f, err := s.find(ctx, tx, round, id)
	if err != nil {
		return err
	}
	if why = strings.TrimSpace(why); why == "" || len(why) > mostWhy {
		return refusal.In("why", "Say why, in up to 1,000 characters; it is kept and they are told.")
	}
	if o.Answer != offer.Open {
		return refusal.Unfit("it is " + say.OfferAnswer(o.Answer) + " already").But("open it again first")
	}
	if !until.After(tx.At) {
		return refusal.In("until", "Choose a day that is still to come.")
	}
	if _, err := tx.ExecContext(ctx, `UPDATE offer SET due_at = $2, reminded_at = NULL WHERE id = $1`, o.ID,
		until); err != nil {
		return err
	}
	figures := o.figures(f, why)
	figures["day"] = say.Until(until, f.Zone)
	if err := trail.Write(ctx, tx, "offer-extended", c.ID, c.RoundID, figures); err != nil {
		return err
	}
	_, body := say.OfferLetter(offer.Open, c.LeadName, c.Title, o.What(f), until, f.Zone, false, why, s.Post.Name())
	return s.tell(ctx, tx, c, f, "offer-extended", c.Ref+": more time to answer", body)
}
