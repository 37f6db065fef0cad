package fee

import (
	"context"
	"strconv"
	"strings"
	"time"

	"ulvant/core/fee"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

func itoa(n int64) string { return strconv.FormatInt(n, 10) }

// GiveBack is the office’s own act: a sum of what was paid goes back, with a
// reason. Above the round’s sum it waits for a second person.
func (s *Store) GiveBack(ctx context.Context, tx *db.Tx, c application.Case, sum int64, reason string) error {
	reason, err := reasoned(reason)
	if err != nil {
		return err
	}
	c, x, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	_, n, err := x.Fee.GiveBack(sum, f.Paid().Second, tx.At)
	if err != nil {
		return err
	}
	return s.after(ctx, tx, c, x, n, nil, act{reason: reason})
}

// Agree is the second person’s word on what somebody else proposed to give back;
// whoever proposed it can take it back. releases is whether the asker may agree at all.
func (s *Store) Agree(ctx context.Context, tx *db.Tx, c application.Case, key string, yes, releases bool) error {
	c, x, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	var r *Return
	for i := range x.Returns {
		if x.Returns[i].Key == key {
			r = &x.Returns[i]
		}
	}
	switch {
	case r == nil || r.State != fee.Proposed:
		return refusal.New("nothing is proposed there any more")
	case r.ByID == tx.By.ID && yes:
		return refusal.New("you proposed it yourself").But("somebody else must agree")
	case !releases && (yes || r.ByID != tx.By.ID):
		return refusal.New("this is for somebody who releases money")
	}
	n, err := x.Fee.Agree(key, yes, tx.At)
	if err != nil {
		return err
	}
	verb := say.Verb("fee-back-agreed")
	if !yes {
		verb = "fee-back-refused"
	}
	if err := trail.Write(ctx, tx, verb, c.ID, c.RoundID, map[string]string{
		"amount": money.Format(r.Amount, x.Currency)}); err != nil {
		return err
	}
	if err := s.after(ctx, tx, c, x, n, nil, act{}); err != nil || !yes {
		return err
	}
	now, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	t := teller{s, ctx, tx, c, now}
	for _, o := range now.Returns {
		if o.Key == key {
			return t.goesBack(o)
		}
	}
	return nil
}

// Again asks the desk once more for what it would not give back.
func (s *Store) Again(ctx context.Context, tx *db.Tx, c application.Case, key string) error {
	c, x, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if err := x.Fee.Again(key); err != nil {
		return err
	}
	return s.after(ctx, tx, c, x, fee.News{}, nil, act{})
}

// Transferred records that what goes back by transfer has left the bank.
func (s *Store) Transferred(ctx context.Context, tx *db.Tx, c application.Case, key string) error {
	c, x, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	n, err := x.Fee.Transferred(key, tx.At)
	if err != nil {
		return err
	}
	return s.after(ctx, tx, c, x, n, nil, act{})
}

// PaidIn puts in a transfer that the office found at the bank. reference is the
// bank’s own for it: the same one is never put in twice.
func (s *Store) PaidIn(
	ctx context.Context,
	tx *db.Tx,
	c application.Case,
	sum int64,
	day time.Time,
	reference string,
) error {
	reference = strings.Join(strings.Fields(reference), " ")
	switch {
	case sum <= 0:
		return refusal.In("amount", "Give the sum that came, above nothing.")
	case reference == "" || len(reference) > 100:
		return refusal.In("reference", "Give the bank’s reference of the transfer, so that it is not put in twice.")
	case day.After(tx.At):
		return refusal.In("day", "The day on which it came is still to come.")
	}
	c, x, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	var where string
	id := "bank " + strings.ToLower(reference)
	if err := tx.GetContext(ctx, &where, `
		SELECT COALESCE((SELECT a.ref FROM payment p JOIN charge g ON g.entry_id = p.entry_id JOIN application a ON a.id = g.application_id WHERE p.id = $1), '')`,
		id); err != nil {
		return err
	}
	if where != "" {
		return refusal.In("reference", "The transfer “"+reference+"” was put in already, for "+where+".")
	}
	if err := trail.Write(ctx, tx, "fee-paid-in", c.ID, c.RoundID, map[string]string{
		"amount": money.Format(sum, x.Currency), "reference": reference}); err != nil {
		return err
	}
	n := x.Fee.PaidIn(fee.Payment{ID: id, Amount: sum, Begun: day, At: day})
	return s.after(ctx, tx, c, x, n, nil, act{})
}

// GiveTime lets it be paid until another moment, with a reason.
func (s *Store) GiveTime(ctx context.Context, tx *db.Tx, c application.Case, until time.Time, reason string) error {
	reason, err := reasoned(reason)
	if err != nil {
		return err
	}
	c, x, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	n, err := x.Fee.MoreTime(until, tx.At)
	if err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "fee-time", c.ID, c.RoundID, map[string]string{"until": say.Instant(until, f.Zone),
		"reason": reason}); err != nil {
		return err
	}
	if err := s.after(ctx, tx, c, x, n, nil, act{reason: reason}); err != nil {
		return err
	}
	holds := string(lifecycle.Owing)
	if x.Fee.Stand == fee.In {
		holds = ""
	}
	l := post.Letter{Kind: "fee-time", Account: c.LeadID, Application: c.ID, Round: c.RoundID, To: c.LeadEmail,
		ToName: c.LeadName, Subject: "The fee for " + c.Ref + " can be paid until " + say.Instant(until, f.Zone),
		Body: "Dear " + c.LeadName + ",\n\nthe fee for “" + c.Title + "” (" + c.Ref + "), " + money.Format(
			x.Fee.Rest(),
			x.Currency,
		) +
			", can be paid until " + say.Instant(
			until,
			f.Zone,
		) + ":\n\n" + s.page(
			c,
		) + "\n\nThe office says of it: " + reason + "\n"}
	if holds != "" {
		l.Entry, l.Holds = c.EntryID, holds
	}
	_, err = s.Cases.Post.Queue(ctx, tx, l)
	return err
}
