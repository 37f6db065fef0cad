package fee

import (
	"context"
	"errors"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/fee"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/post"
)

// atDesk is the job that does at the desk what is to be done for a charge.
type atDesk struct {
	Entry int64 `json:"entry"`
}

// Kind names the job.
func (atDesk) Kind() string { return "fee.desk" }

// Register takes up the jobs of fees.
func (s *Store) Register() {
	jobs.Handle(
		s.Jobs,
		jobs.Short,
		func(ctx context.Context, at time.Time, a atDesk) error { return unlessAway(s.work(ctx, at, a.Entry)) },
	)
}

// unlessAway leaves what a desk that is down could not do to the next sweep.
func unlessAway(err error) error {
	if errors.Is(err, paydesk.ErrAway) {
		return nil
	}
	return err
}

// work gives back what is wanted back and closes checkouts at which nothing is to
// be paid any more. At a desk that is down it stops with ErrAway: each call waits
// long, and the next sweep goes on.
func (s *Store) work(ctx context.Context, at time.Time, entry int64) error {
	x, err := s.Of(ctx, s.DB, entry)
	if err != nil || x == nil {
		return err
	}
	for _, r := range x.Returns {
		if r.State != fee.Wanted || r.Bank {
			continue
		}
		if err := s.refund(ctx, at, x, r); err != nil {
			return err
		}
	}
	if x.Fee.Rest() > 0 {
		return nil
	}
	for _, k := range x.Checkouts {
		if err := s.close(ctx, at, k); err != nil {
			return err
		}
	}
	return nil
}

// refund asks the desk to give a part of a payment back.
func (s *Store) refund(ctx context.Context, at time.Time, x *Charge, r Return) error {
	k := x.checkoutOf(r.PaymentID)
	if k == nil {
		return nil
	}
	says, err := s.Desk.Refund(ctx, r.Key, r.PaymentID, r.Amount)
	if errors.Is(err, paydesk.ErrRefused) || errors.Is(err, paydesk.ErrUnknown) {
		says = paydesk.Checkout{ID: *k.Desk, Currency: x.Currency, State: k.State,
			Refunds: []paydesk.Refund{
				{ID: "refused " + r.Key, Key: r.Key, Payment: r.PaymentID, Amount: r.Amount, At: at, Failed: true},
			}}
	} else if err != nil {
		return err
	}
	return s.take(ctx, at, *k, says)
}

// checkoutOf finds the checkout at which a payment was made; nil for a transfer.
func (c *Charge) checkoutOf(payment string) *Checkout {
	for _, p := range c.Payments {
		for i := range c.Checkouts {
			if p.ID == payment && p.CheckoutID != nil && c.Checkouts[i].ID == *p.CheckoutID {
				return &c.Checkouts[i]
			}
		}
	}
	return nil
}

// close a checkout at the desk; what was paid there meanwhile is taken in.
func (s *Store) close(ctx context.Context, at time.Time, k Checkout) error {
	if k.State != paydesk.Open {
		return nil
	}
	if k.Desk == nil { // the desk never answered, so nobody can have paid there
		return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			_, err := tx.ExecContext(ctx, `UPDATE checkout SET state = 'closed' WHERE id = $1 AND desk IS NULL`, k.ID)
			return err
		})
	}
	says, err := s.Desk.Close(ctx, *k.Desk)
	if errors.Is(err, paydesk.ErrUnknown) {
		says, err = paydesk.Checkout{ID: *k.Desk, State: paydesk.Closed}, nil
		x, ferr := s.Of(ctx, s.DB, k.EntryID)
		if ferr != nil {
			return ferr
		}
		says.Currency = x.Currency
	}
	if err != nil {
		return err
	}
	return s.take(ctx, at, k, says)
}

// most of one kind that a sweep takes up.
const most = 500

// Sweep does what time does to fees: it asks the desk about checkouts that told
// nothing, gives back what could not be given back, ends the time to pay, and
// reminds.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	for _, do := range []func(context.Context, time.Time) error{s.askOpen, s.giveBack, s.runOut, s.remind} {
		if err := do(ctx, at); err != nil {
			return err
		}
	}
	return nil
}

// askOpen asks about open checkouts, the longer they are open the more seldom.
func (s *Store) askOpen(ctx context.Context, at time.Time) error {
	if !s.Desk.On() {
		return nil
	}
	var list []Checkout
	if err := s.DB.SelectContext(ctx, &list, `
		SELECT `+checkoutColumns+` FROM checkout WHERE state = 'open' AND next_ask <= $1 ORDER BY next_ask LIMIT $2`, at,
		most); err != nil {
		return err
	}
	for _, k := range list {
		err := s.Ask(ctx, at, k)
		if errors.Is(err, paydesk.ErrAway) {
			return nil // the next sweep asks again, and in the meantime nobody is shut out
		}
		if errors.Is(err, paydesk.ErrUnknown) || err == nil && k.Desk == nil && at.After(k.UntilAt) {
			err = s.close(ctx, at, k)
		}
		if err != nil {
			return err
		}
		wait := min(max(at.Sub(k.BegunAt)/2, time.Minute), 6*time.Hour)
		if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			_, err := tx.ExecContext(ctx, `UPDATE checkout SET next_ask = $2 WHERE id = $1`, k.ID, at.Add(wait))
			return err
		}); err != nil {
			return err
		}
	}
	return nil
}

// giveBack asks again for what is wanted back since some minutes.
func (s *Store) giveBack(ctx context.Context, at time.Time) error {
	if !s.Desk.On() {
		return nil
	}
	var entries []int64
	if err := s.DB.SelectContext(ctx, &entries, `
		SELECT DISTINCT entry_id FROM returned WHERE state = 'wanted' AND NOT bank AND at <= $1 LIMIT $2`,
		at.Add(-firstAsk), most); err != nil {
		return err
	}
	for _, e := range entries {
		if err := s.work(ctx, at, e); err != nil {
			return unlessAway(err)
		}
	}
	return nil
}

// runOut ends the time to pay. Before it does, every checkout is closed at the
// desk and its last word taken in; while the desk is down, nobody is shut out.
func (s *Store) runOut(ctx context.Context, at time.Time) error {
	var entries []int64
	if err := s.DB.SelectContext(ctx, &entries,
		`SELECT entry_id FROM charge WHERE stand = 'waiting' AND pay_by <= $1 ORDER BY pay_by LIMIT $2`, at,
		most); err != nil {
		return err
	}
	for _, e := range entries {
		if err := s.runOutOne(ctx, at, e); err != nil {
			return unlessAway(err)
		}
	}
	return nil
}

func (s *Store) runOutOne(ctx context.Context, at time.Time, entry int64) error {
	x, err := s.Of(ctx, s.DB, entry)
	if err != nil {
		return err
	}
	for _, k := range x.Checkouts {
		if err := s.close(ctx, at, k); err != nil {
			return err
		}
	}
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		c, err := s.Cases.ByEntry(ctx, tx, entry)
		if err != nil {
			return err
		}
		c, x, err := s.lock(ctx, tx, c)
		if err != nil {
			return err
		}
		n, over := x.Fee.RunOut(tx.At)
		if !over {
			return nil
		}
		if c, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.PayLate, nil); err != nil {
			return err
		}
		if err := s.after(ctx, tx, c, x, n, nil, act{}); err != nil {
			return err
		}
		f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
		if err != nil {
			return err
		}
		_, err = s.Cases.Post.Queue(ctx, tx, post.Letter{Kind: "fee-not-paid", Account: c.LeadID, Application: c.ID,
			Round: c.RoundID, To: c.LeadEmail, ToName: c.LeadName, Subject: c.Ref + " is not in: its fee was not paid",
			Body: "Dear " + c.LeadName + ",\n\n“" + c.Title + "” for " + c.RoundName + " (" + c.Ref +
				") is not in, because its fee, " +
				money.Format(
					x.Total,
					x.Currency,
				) + ", was not paid by " + say.Instant(
				x.PayBy,
				f.Zone,
			) + ". What you wrote is kept, and " +
				"what was paid in part goes back.\n\nIf you did pay, or something on our side held you up, write to " +
				f.Design.Contact + ".\n"})
		return err
	})
}

// remindBefore is how long before the time to pay ends somebody is reminded.
const remindBefore = 24 * time.Hour

// remind writes once to those whose fee is open a day before its time ends; not
// to those who sent within the last hours.
func (s *Store) remind(ctx context.Context, at time.Time) error {
	var entries []int64
	if err := s.DB.SelectContext(ctx, &entries, `
		SELECT entry_id FROM charge WHERE stand = 'waiting' AND reminded_at IS NULL AND closes > $1 AND closes <= $2 AND at <= $3 LIMIT $4`,
		at, at.Add(remindBefore), at.Add(-3*time.Hour), most); err != nil {
		return err
	}
	for _, e := range entries {
		if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			c, err := s.Cases.ByEntry(ctx, tx, e)
			if err != nil {
				return err
			}
			return s.remindOne(ctx, tx, c)
		}); err != nil {
			return err
		}
	}
	return nil
}

func (s *Store) remindOne(ctx context.Context, tx *db.Tx, c application.Case) error {
	c, x, err := s.lock(ctx, tx, c)
	if err != nil || x.Fee.Stand != fee.Waiting {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE charge SET reminded_at = $2 WHERE entry_id = $1`, c.EntryID,
		tx.At); err != nil {
		return err
	}
	day := "on " + calendar.DateOf(x.Closes, f.Zone).Words()
	_, err = s.Cases.Post.Queue(ctx, tx, post.Letter{Kind: "fee-reminder", Account: c.LeadID, Application: c.ID,
		Round: c.RoundID, To: c.LeadEmail, ToName: c.LeadName, Entry: c.EntryID, Holds: string(lifecycle.Owing),
		Subject: "Not in yet: the fee for " + c.Ref,
		Body: "Dear " + c.LeadName + ",\n\n“" + c.Title + "” (" + c.Ref + ") is sealed, and not in: its fee, " +
			money.Format(x.Fee.Rest(), x.Currency) + ", is not paid. The round closes " + day + ".\n\n" +
			say.PayBy(f, x.Closes, x.PayBy) + "\n\n" + s.page(c) + "\n"})
	return err
}
