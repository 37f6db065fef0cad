package fee

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"ulvant/core/fee"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// Notice takes in what the desk told by itself. Twice is once; one about a
// checkout that is not ours is kept as that, for the reconciliation.
func (s *Store) Notice(ctx context.Context, at time.Time, n paydesk.Notice) error {
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		known, err := s.known(ctx, tx, n.Checkout.ID)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO notice (id, at, known) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`,
			n.ID,
			tx.At, known != nil); err != nil ||
			known == nil {
			return err
		}
		return s.settle(ctx, tx, *known, n.Checkout)
	})
}

// known finds our checkout by the desk’s number; nil for one that is not ours.
func (s *Store) known(ctx context.Context, q db.Querier, desk string) (*Checkout, error) {
	k := &Checkout{}
	err := q.GetContext(ctx, k, `SELECT `+checkoutColumns+` FROM checkout WHERE desk = $1`, desk)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	return k, err
}

// Ask asks the desk what came of a checkout, and takes it in.
func (s *Store) Ask(ctx context.Context, at time.Time, k Checkout) error {
	if k.Desk == nil {
		return nil
	}
	says, err := s.Desk.Get(ctx, *k.Desk)
	if err != nil {
		return err
	}
	return s.take(ctx, at, k, says)
}

// take in what the desk says of a checkout of ours.
func (s *Store) take(ctx context.Context, at time.Time, k Checkout, says paydesk.Checkout) error {
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error { return s.settle(ctx, tx, k, says) })
}

// settle takes in what the desk knows of a checkout: the one road by which its
// payments and refunds come here.
func (s *Store) settle(ctx context.Context, tx *db.Tx, k Checkout, says paydesk.Checkout) error {
	c, err := s.Cases.ByEntry(ctx, tx, k.EntryID)
	if err != nil {
		return err
	}
	c, x, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if says.Currency != x.Currency {
		return fmt.Errorf("the desk says %s of a checkout in %s", says.Currency, x.Currency)
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE checkout SET declined = GREATEST(declined, $2), state = CASE WHEN state = 'paid' OR $3 = 'open' THEN state ELSE $3 END WHERE id = $1`,
		k.ID, says.Declined, says.State); err != nil {
		return err
	}
	known := fee.Checkout{Begun: k.BegunAt}
	for _, p := range says.Payments {
		known.Payments = append(known.Payments, fee.Payment{ID: p.ID, Amount: p.Amount, At: p.At})
	}
	for _, r := range says.Refunds {
		known.Refunds = append(
			known.Refunds,
			fee.Refund{ID: r.ID, Key: r.Key, Payment: r.Payment, Amount: r.Amount, At: r.At,
				Failed: r.Failed},
		)
	}
	n := x.Fee.Apply(known)
	if n.Empty() && x.Fee.Stand == x.Stand {
		return nil
	}
	return s.after(ctx, tx, c, x, n, &k.ID, act{})
}

// after keeps what an act changed, and does what follows from it: the case goes
// in, people are told, and the desk gets what it has to do.
func (s *Store) after(ctx context.Context, tx *db.Tx, c application.Case, x *Charge, n fee.News, checkout *int64,
	why act) error {
	before := len(x.Returns)
	if err := s.keep(ctx, tx, x, n, checkout, why); err != nil {
		return err
	}
	switch {
	case n.Enters && (c.State.Is(lifecycle.Owes) || c.State.Is(lifecycle.Missed)):
		if err := s.Enter(ctx, tx, c); err != nil {
			return err
		}
	case x.Stand == fee.Over && x.Fee.Stand == fee.Waiting:
		if _, _, err := s.Cases.Transition(ctx, tx, c, lifecycle.MayPay, nil); err != nil {
			return err
		}
	}
	now, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	t := teller{s, ctx, tx, c, now}
	for _, came := range n.Came {
		if err := t.came(came, n.Enters); err != nil {
			return err
		}
	}
	for _, r := range now.Returns[before:] {
		if err := t.goesBack(r); err != nil {
			return err
		}
	}
	for _, r := range n.Done {
		if err := t.wentBack(r); err != nil {
			return err
		}
	}
	for _, r := range n.Failed {
		if err := t.trail("fee-not-back", map[string]string{"amount": t.sum(r.Amount)}); err != nil {
			return err
		}
	}
	if now.atDesk() {
		return s.Jobs.Enqueue(ctx, tx, atDesk{c.EntryID}, tx.At)
	}
	return nil
}

// atDesk reports that the desk has something to do for a charge.
func (c *Charge) atDesk() bool {
	for _, r := range c.Returns {
		if r.State == fee.Wanted && !r.Bank {
			return true
		}
	}
	return c.Fee.Rest() <= 0 && c.hasOpen()
}

// hasOpen reports a checkout at which somebody could still pay.
func (c *Charge) hasOpen() bool {
	for _, k := range c.Checkouts {
		if k.State == paydesk.Open && k.Desk != nil {
			return true
		}
	}
	return false
}

// teller tells of what happened to a fee.
type teller struct {
	s   *Store
	ctx context.Context
	tx  *db.Tx
	c   application.Case
	x   *Charge
}

func (t teller) sum(n int64) string { return money.Format(n, t.x.Currency) }

func (t teller) trail(v say.Verb, figures map[string]string) error {
	return trail.Write(t.ctx, t.tx, v, t.c.ID, t.c.RoundID, figures)
}

// payerOf is who paid a payment: somebody who was asked to, or the lead.
func (t teller) payerOf(payment string) (name, email string, account int64, err error) {
	var list []Payer
	err = t.tx.SelectContext(t.ctx, &list, `
		SELECT `+payerColumns+` FROM payer y JOIN checkout k ON k.payer_id = y.id JOIN payment p ON p.checkout_id = k.id WHERE p.id = $1`, payment)
	if err != nil || len(list) == 0 {
		return t.c.LeadName, t.c.LeadEmail, t.c.LeadID, err
	}
	return list[0].Name, list[0].Email, 0, nil
}

// came tells of a payment: a receipt to whoever paid, and a word to the lead when
// that was somebody else.
func (t teller) came(p fee.Came, enters bool) error {
	if err := t.trail("fee-paid", map[string]string{"amount": t.sum(p.Amount)}); err != nil {
		return err
	}
	name, email, account, err := t.payerOf(p.ID)
	if err != nil {
		return err
	}
	var number int64
	for _, k := range t.x.Payments {
		if k.ID == p.ID {
			number = k.Number
		}
	}
	what := ""
	switch {
	case p.Back == p.Amount:
		what = "All of it goes back, because " + say.GoesBack(p.Why) + "."
	case p.Back > 0:
		what = t.sum(p.Back) + " of it go back, because " + say.GoesBack(p.Why) + "."
	}
	switch {
	case enters:
		what += " The application is in."
	case t.x.Fee.Rest() > 0 && t.x.Fee.Stand == fee.Waiting:
		what += " " + t.sum(t.x.Fee.Rest()) + " are still to be paid; the application is in when they are."
	}
	body := fmt.Sprintf(
		"Dear %s,\n\nreceipt %d: %s were paid for “%s” for %s (%s), on %s.",
		name,
		number,
		t.sum(p.Amount),
		t.c.Title,
		t.c.RoundName,
		t.c.Ref,
		p.At.UTC().Format("2 January 2006 at 15:04:05 MST"),
	)
	if what != "" {
		body += "\n\n" + what
	}
	l := post.Letter{
		Kind:        "fee-receipt",
		Account:     account,
		Application: t.c.ID,
		Round:       t.c.RoundID,
		To:          email,
		ToName:      name,
		Subject:     fmt.Sprintf("Receipt %d: %s for %s", number, t.sum(p.Amount), t.c.Ref),
		Body:        body + "\n",
	}
	if account != 0 {
		l.Body += fmt.Sprintf("\nThe receipt as PDF:\n\n%s/receipt/%d\n", t.s.page(t.c), number)
	}
	if _, err := t.s.Cases.Post.Queue(t.ctx, t.tx, l); err != nil || account != 0 {
		return err
	}
	_, err = t.s.Cases.Post.Queue(
		t.ctx,
		t.tx,
		post.Letter{Kind: "fee-paid-by", Account: t.c.LeadID, Application: t.c.ID,
			Round: t.c.RoundID, To: t.c.LeadEmail, ToName: t.c.LeadName, Subject: name + " has paid for " + t.c.Ref,
			Body: "Dear " + t.c.LeadName + ",\n\n" + name + " has paid " + t.sum(
				p.Amount,
			) + " for “" + t.c.Title + "” (" + t.c.Ref + ")." +
				optional(
					what,
				) + "\n\n" + t.s.page(
				t.c,
			) + "\n"},
	)
	return err
}

func optional(s string) string {
	if s == "" {
		return ""
	}
	return "\n\n" + s
}

// goesBack tells of money that is to go back, unless the receipt said so, a second
// person must agree first, or the desk has done it by itself.
func (t teller) goesBack(r Return) error {
	switch {
	case r.State == fee.Proposed:
		return t.trail("fee-back-proposed", map[string]string{"amount": t.sum(r.Amount), "reason": r.Reason})
	case r.State != fee.Wanted && r.Why != fee.ByDesk:
		return nil
	}
	if err := t.trail("fee-goes-back", map[string]string{"amount": t.sum(r.Amount),
		"why": say.GoesBack(r.Why)}); err != nil {
		return err
	}
	if r.Why == fee.Late || r.Why == fee.Twice || r.Why == fee.TooMuch || r.Why == fee.ByDesk {
		return nil
	}
	return t.backLetter("fee-goes-back", t.sum(r.Amount)+" go back to you", r.Amount, r.PaymentID,
		"go back to you, because "+say.GoesBack(r.Why)+".", r.Reason)
}

// wentBack tells that money has gone back.
func (t teller) wentBack(r fee.Return) error {
	if err := t.trail("fee-went-back", map[string]string{"amount": t.sum(r.Amount)}); err != nil {
		return err
	}
	how := "were given back by the payment desk. Until they stand on the account from which they came, a few days may pass."
	if r.Bank {
		how = "were sent back by transfer."
	}
	return t.backLetter("fee-went-back", t.sum(r.Amount)+" went back", r.Amount, r.Payment, how, "")
}

func (t teller) backLetter(kind, subject string, amount int64, payment, how, reason string) error {
	name, email, account, err := t.payerOf(payment)
	if err != nil {
		return err
	}
	body := "Dear " + name + ",\n\n" + t.sum(
		amount,
	) + " of what was paid for “" + t.c.Title + "” for " + t.c.RoundName + " (" +
		t.c.Ref + ") " + how
	if reason != "" {
		body += "\n\nThe office says of it: " + reason
	}
	_, err = t.s.Cases.Post.Queue(
		t.ctx,
		t.tx,
		post.Letter{Kind: kind, Account: account, Application: t.c.ID, Round: t.c.RoundID,
			To: email, ToName: name, Subject: subject + ": " + t.c.Ref, Body: body + "\n"},
	)
	return err
}

// Ours are those of the desk’s checkouts that were begun here.
func (s *Store) Ours(ctx context.Context, q db.Querier, desk []string) (map[string]bool, error) {
	var list []string
	if err := q.SelectContext(ctx, &list, `SELECT desk FROM checkout WHERE desk = ANY($1)`, desk); err != nil {
		return nil, err
	}
	out := make(map[string]bool, len(list))
	for _, d := range list {
		out[d] = true
	}
	return out, nil
}

// mostTaken is how many checkouts are asked about in one press; the sweep does the
// rest by itself.
const mostTaken = 100

// TakeIn asks the desk about checkouts and takes in what it knows; n is how many
// of them are ours.
func (s *Store) TakeIn(ctx context.Context, at time.Time, desk []string) (n int, err error) {
	seen := map[string]bool{}
	for _, d := range desk {
		if seen[d] || n == mostTaken {
			continue
		}
		seen[d] = true
		k, err := s.known(ctx, s.DB, d)
		if err != nil {
			return n, err
		}
		if k == nil {
			continue
		}
		if err := s.Ask(ctx, at, *k); err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}
