package fee

import (
	"context"
	"crypto/rand"
	"errors"
	"strings"
	"time"

	"ulvant/core/fee"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/trail"
)

// ErrNothingDue: there is nothing to pay.
var ErrNothingDue = refusal.New("nothing is to be paid for it").
	But("if you have paid twice, the second goes back by itself")

// ErrTooLate: the time in which a payment is begun is over.
var ErrTooLate = refusal.Over("the time to pay is over").
	But("if something on our side held you up, write to the office")

// ErrNoDesk: no payment desk is set up here.
var ErrNoDesk = refusal.New("there is no payment desk here").But("write to the office how you can pay")

// Begin finds where somebody pays: the checkout they have begun, if it still
// holds, or a new one. What counts as begun is kept before the desk is asked, so
// that a desk that is down takes nobody’s place away: pressing Pay again goes on
// with the same checkout.
func (s *Store) Begin(ctx context.Context, at time.Time, by db.Actor, c application.Case, payer *Payer,
	back string) (url string, err error) {
	if !s.Desk.On() {
		return "", ErrNoDesk
	}
	for range 2 { // a checkout that turns out to be over makes room for another
		var k *Checkout
		if err := s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) (err error) {
			k, err = s.begin(ctx, tx, c, payer, back)
			return err
		}); err != nil {
			return "", err
		}
		if k.Desk == nil {
			return s.make(ctx, at, by, c, k)
		}
		says, err := s.Desk.Get(ctx, *k.Desk)
		if err != nil {
			return "", away(err, k.BegunAt)
		}
		if says.State == paydesk.Open {
			return says.URL, nil
		}
		if err := s.take(ctx, at, *k, says); err != nil {
			return "", err
		}
	}
	return "", ErrTooLate
}

// make has the desk make a checkout that was begun here.
func (s *Store) make(
	ctx context.Context,
	at time.Time,
	by db.Actor,
	c application.Case,
	k *Checkout,
) (url string, err error) {
	currency, _, _ := strings.Cut(k.Key, "-") // a key begins with it
	made, err := s.Desk.Make(
		ctx,
		k.Key,
		paydesk.Ask{Amount: k.Amount, Currency: currency, Reference: c.Ref, What: k.What,
			Return: k.Back, Until: k.UntilAt},
	)
	if err != nil {
		return "", away(err, k.BegunAt)
	}
	err = s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		_, err := tx.ExecContext(ctx, `UPDATE checkout SET desk = $2 WHERE id = $1`, k.ID, made.ID)
		return err
	})
	return made.URL, err
}

// away is a desk that does not answer, as a payer reads it.
func away(err error, begun time.Time) error {
	if errors.Is(err, paydesk.ErrAway) {
		return refusal.New("the payment desk does not answer at the moment, and nothing was paid").But(
			"that you began is kept, as of " + begun.UTC().Format("15:04:05 MST") + "; press Pay again in a minute")
	}
	return err
}

// begin keeps that somebody begins to pay.
func (s *Store) begin(
	ctx context.Context,
	tx *db.Tx,
	c application.Case,
	payer *Payer,
	back string,
) (*Checkout, error) {
	c, x, err := s.lock(ctx, tx, c)
	if err != nil {
		return nil, err
	}
	rest := x.Fee.Rest()
	if rest <= 0 {
		return nil, ErrNothingDue
	}
	var payerID *int64
	if payer != nil {
		payerID = &payer.ID
	}
	for i := len(x.Checkouts) - 1; i >= 0; i-- {
		k := &x.Checkouts[i]
		if k.of(payerID) && k.State == paydesk.Open && k.Amount == rest && tx.At.Before(k.UntilAt) {
			return k, nil
		}
	}
	if !x.Fee.MayPay(tx.At) {
		return nil, ErrTooLate
	}
	until := x.Fee.PayBy
	if most := tx.At.Add(longestCheckout); x.Fee.Invoice || until.After(most) {
		until = most
	}
	k := &Checkout{
		EntryID: c.EntryID,
		PayerID: payerID,
		Key:     x.Currency + "-" + strings.ToLower(rand.Text()),
		Amount:  rest,
		What:    c.RoundName + ": “" + c.Title + "”",
		Back:    back,
		BegunAt: tx.At,
		UntilAt: until,
	}
	if err := tx.QueryRowxContext(ctx, `
		INSERT INTO checkout (entry_id, payer_id, key, amount, what, back, begun_at, until_at, next_ask)
		VALUES (@entry, @payer, @key, @amount, @what, @back, @begun, @until, @next) RETURNING id`,
		db.Named{"entry": k.EntryID, "payer": k.PayerID, "key": k.Key, "amount": k.Amount, "what": k.What, "back": k.Back,
			"begun": k.BegunAt, "until": k.UntilAt, "next": tx.At.Add(firstAsk)}).Scan(&k.ID); err != nil {
		return nil, err
	}
	return k, trail.Write(
		ctx,
		tx,
		"fee-begun",
		c.ID,
		c.RoundID,
		map[string]string{"amount": money.Format(rest, x.Currency)},
	)
}

// longestCheckout is how long one stays open where nothing closes earlier.
const longestCheckout = 24 * time.Hour

// firstAsk is after what time the desk is asked by itself what came of a checkout.
const firstAsk = 2 * time.Minute

// Back is what a payer finds who comes back from the desk: it is asked at once, so
// that they need not wait for its notice. A desk that is down is asked later.
func (s *Store) Back(ctx context.Context, at time.Time, entry int64, payer *int64) error {
	x, err := s.Of(ctx, s.DB, entry)
	if err != nil || x == nil {
		return err
	}
	for i := len(x.Checkouts) - 1; i >= 0; i-- {
		k := x.Checkouts[i]
		if k.of(payer) && k.State == paydesk.Open && k.Desk != nil {
			if err := s.Ask(ctx, at, k); err != nil && !errors.Is(err, paydesk.ErrAway) {
				return err
			}
		}
	}
	return nil
}

// of reports a checkout that somebody began: a payer, or the applicant for nil.
func (k *Checkout) of(payer *int64) bool {
	return k.PayerID == nil && payer == nil || k.PayerID != nil && payer != nil && *k.PayerID == *payer
}

// Last is the last try of somebody at paying; nil before any.
func (c *Charge) Last(payer *int64) *Checkout {
	for i := len(c.Checkouts) - 1; i >= 0; i-- {
		k := &c.Checkouts[i]
		if k.of(payer) {
			return k
		}
	}
	return nil
}

// MayPay says whether somebody can pay at an instant: begin to, or go on with what
// they have begun.
func (c *Charge) MayPay(payer *int64, at time.Time) bool {
	if c.Fee.MayPay(at) {
		return true
	}
	k := c.Last(payer)
	return k != nil && k.State == paydesk.Open && k.Amount == c.Fee.Rest() && at.Before(k.UntilAt) &&
		(c.Fee.Stand == fee.Waiting || c.Fee.Stand == fee.In)
}
