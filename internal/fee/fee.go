// Package fee charges applications that are sent, sends payers to the payment
// desk, and takes in what comes of it. What is to become of money is decided in
// core/fee; here it is kept, under the application’s lock, with the ledger, and
// what the desk must do is done after the transaction, under keys that make it
// once.
package fee

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"ulvant/core/fee"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/link"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/round"
)

// Store of fees.
type Store struct {
	DB       *db.DB
	Cases    *application.Store
	Links    link.Maker
	LinkLife time.Duration
	Jobs     *jobs.Queue
	Desk     paydesk.Desk
	Later    *round.Later
	// Enter lets a case in whose fee is paid: its state, its letter, its checks.
	Enter func(ctx context.Context, tx *db.Tx, c application.Case) error
}

// Charge of an entry with all that came of it.
type Charge struct {
	EntryID       int64 `db:"entry_id"`
	ApplicationID int64 `db:"application_id"`
	RoundID       int64 `db:"round_id"`
	Currency      string
	Raw           []byte `db:"lines"`
	Total         int64
	LetOff        int64 `db:"let_off"`
	Lapsed        int64
	Code          string
	At            time.Time
	Closes        time.Time
	PayBy         time.Time `db:"pay_by"`
	Invoice       bool
	Stand         fee.Stand

	Fee       fee.Charge       `db:"-"` // what decides
	Lines     []say.ChargeLine `db:"-"`
	Checkouts []Checkout       `db:"-"`
	Payments  []Payment        `db:"-"`
	Returns   []Return         `db:"-"`
}

// Checkout is one try at paying.
type Checkout struct {
	ID       int64
	EntryID  int64  `db:"entry_id"`
	PayerID  *int64 `db:"payer_id"` // nil: the applicant
	Key      string
	Amount   int64
	What     string
	Back     string
	BegunAt  time.Time `db:"begun_at"`
	UntilAt  time.Time `db:"until_at"`
	Desk     *string
	State    paydesk.State
	Declined int
	NextAsk  time.Time `db:"next_ask"`
}

// Payment that came in, with its receipt's number.
type Payment struct {
	Number     int64
	ID         string
	EntryID    int64  `db:"entry_id"`
	CheckoutID *int64 `db:"checkout_id"`
	Amount     int64
	BegunAt    time.Time `db:"begun_at"`
	At         time.Time
	Bank       bool
	Keeps      int64
	Why        fee.Why
	KnownAt    time.Time `db:"known_at"`
}

// Return is money that goes back, with whose act it was.
type Return struct {
	Key       string
	EntryID   int64 `db:"entry_id"`
	Place     int
	PaymentID string `db:"payment_id"`
	Amount    int64
	Why       fee.Why
	State     fee.State
	Desk      string
	Bank      bool
	Reason    string
	ByID      int64 `db:"by_id"`
	AgreedID  int64 `db:"agreed_id"`
	At        time.Time
	DoneAt    *time.Time `db:"done_at"`
}

// ErrNone: nothing was charged for it.
var ErrNone = refusal.Missing("no fee is charged for it")

const (
	chargeColumns   = `entry_id, application_id, round_id, currency, lines, total, let_off, lapsed, code, at, closes, pay_by, invoice, stand`
	checkoutColumns = `id, entry_id, payer_id, key, amount, what, back, begun_at, until_at, desk, state, declined, next_ask`
	paymentColumns  = `number, id, entry_id, checkout_id, amount, begun_at, at, bank, keeps, why, known_at`
	returnColumns   = `key, entry_id, place, payment_id, amount, why, state, desk, bank, reason, by_id, agreed_id, at, done_at`
)

// Of reads the charge of an entry; nil when nothing was charged. Whoever changes
// it holds the application’s lock.
func (s *Store) Of(ctx context.Context, q db.Querier, entry int64) (*Charge, error) {
	c := &Charge{}
	err := q.GetContext(ctx, c, `SELECT `+chargeColumns+` FROM charge WHERE entry_id = $1`, entry)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(c.Raw, &c.Lines); err != nil {
		return nil, err
	}
	if err := q.SelectContext(ctx, &c.Checkouts,
		`SELECT `+checkoutColumns+` FROM checkout WHERE entry_id = $1 ORDER BY id`,
		entry); err != nil {
		return nil, err
	}
	if err := q.SelectContext(ctx, &c.Payments,
		`SELECT `+paymentColumns+` FROM payment WHERE entry_id = $1 ORDER BY number`,
		entry); err != nil {
		return nil, err
	}
	if err := q.SelectContext(ctx, &c.Returns, `SELECT `+returnColumns+` FROM returned WHERE entry_id = $1 ORDER BY place`,
		entry); err != nil {
		return nil, err
	}
	c.Fee = fee.Charge{Total: c.Total, LetOff: c.LetOff, Lapsed: c.Lapsed, At: c.At, Closes: c.Closes, PayBy: c.PayBy,
		Invoice: c.Invoice, Stand: c.Stand}
	for _, p := range c.Payments {
		c.Fee.Payments = append(c.Fee.Payments, fee.Payment{ID: p.ID, Amount: p.Amount, Begun: p.BegunAt, At: p.At,
			Bank: p.Bank})
	}
	for _, r := range c.Returns {
		c.Fee.Returns = append(
			c.Fee.Returns,
			fee.Return{Key: r.Key, Payment: r.PaymentID, Amount: r.Amount, Why: r.Why,
				State: r.State, Desk: r.Desk, Bank: r.Bank},
		)
	}
	return c, nil
}

// Payment finds one of a charge by the number of its receipt; nil when there is
// no such.
func (c *Charge) Payment(number int64) *Payment {
	for i := range c.Payments {
		if c.Payments[i].Number == number {
			return &c.Payments[i]
		}
	}
	return nil
}

// lock takes a case’s row and reads its charge.
func (s *Store) lock(ctx context.Context, tx *db.Tx, c application.Case) (application.Case, *Charge, error) {
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return c, nil, err
	}
	x, err := s.Of(ctx, tx, c.EntryID)
	if err == nil && x == nil {
		err = ErrNone
	}
	return c, x, err
}

// keep writes what an act of core/fee changed: the charge, payments and returns
// that are new, and the ledger.
func (s *Store) keep(ctx context.Context, tx *db.Tx, x *Charge, n fee.News, checkout *int64, why act) error {
	f := &x.Fee
	if _, err := tx.ExecContext(ctx, `
		UPDATE charge SET let_off = @let_off, lapsed = @lapsed, closes = @closes, pay_by = @pay_by, invoice = @invoice, stand = @stand, owed = @owed
		WHERE entry_id = @entry`, db.Named{"entry": x.EntryID, "let_off": f.LetOff, "lapsed": f.Lapsed, "closes": f.Closes,
		"pay_by": f.PayBy, "invoice": f.Invoice, "stand": f.Stand, "owed": f.Rest()}); err != nil {
		return err
	}
	for _, p := range n.Came {
		number, err := next(ctx, tx, receipts)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO payment (number, id, entry_id, checkout_id, amount, begun_at, at, bank, keeps, why, known_at)
			VALUES (@number, @id, @entry, @checkout, @amount, @begun, @at, @bank, @keeps, @why, @known)`,
			db.Named{"number": number, "id": p.ID, "entry": x.EntryID, "checkout": checkout, "amount": p.Amount,
				"begun": p.Begun, "at": p.At, "bank": p.Bank, "keeps": p.Keeps, "why": p.Why, "known": tx.At}); err != nil {
			return err
		}
	}
	for i, r := range f.Returns {
		if i < len(x.Returns) && x.Returns[i].State == r.State {
			continue
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO returned (key, entry_id, place, payment_id, amount, why, state, desk, bank, reason, by_id, at, done_at)
			VALUES (@key, @entry, @place, @payment, @amount, @why, @state, @desk, @bank, @reason, @by, @at, @done)
			ON CONFLICT (key) DO UPDATE SET state = @state, desk = @desk, bank = @bank, done_at = COALESCE(returned.done_at, @done),
			  agreed_id = CASE WHEN returned.state = 'proposed' THEN @by ELSE returned.agreed_id END`,
			db.Named{"key": r.Key, "entry": x.EntryID, "place": i, "payment": r.Payment, "amount": r.Amount, "why": r.Why,
				"state": r.State, "desk": r.Desk, "bank": r.Bank, "reason": why.reason, "by": tx.By.ID, "at": tx.At,
				"done": doneAt(r, tx.At)}); err != nil {
			return err
		}
	}
	for _, e := range n.Entries {
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO ledger (entry_id, round_id, kind, ref, amount, at, kept_at, by_id) VALUES (@entry, @round, @kind, @ref, @amount, @at, @kept, @by)`,
			db.Named{"entry": x.EntryID, "round": x.RoundID, "kind": e.Kind, "ref": e.Ref, "amount": e.Amount, "at": e.At,
				"kept": tx.At, "by": tx.By.ID}); err != nil {
			return err
		}
	}
	return nil
}

// series of numbers without a gap, as is asked of invoices (Directive 2006/112/EC, article
// 226, point 2: a sequential number that identifies it).
type series string

const (
	receipts series = "receipt"
	invoices series = "invoice"
)

// next is the number after the last one given, from 1. Whoever else wants one waits until
// the transaction ends, and gets the same one where it comes to nothing.
func next(ctx context.Context, tx *db.Tx, of series) (n int64, err error) {
	err = tx.GetContext(ctx, &n, `UPDATE fee_serial SET last = last + 1 WHERE series = $1 RETURNING last`, of)
	return n, err
}

// act is whose act a change was, in so far as the returns keep it.
type act struct{ reason string }

func doneAt(r fee.Return, at time.Time) *time.Time {
	if r.State == fee.Done {
		return &at
	}
	return nil
}

// Part is what the fees of an entry hang on besides its answers: how often other
// applications used the codes of its round, and whether the office asks nothing.
var Part = application.Part{
	JSON: `(SELECT json_build_object(
	  'Used', COALESCE((SELECT json_object_agg(u.code, u.n) FROM (SELECT g.code, count(*) AS n FROM charge g JOIN application a ON a.id = e.application_id
	    WHERE g.round_id = a.round_id AND g.code <> '' AND g.entry_id <> e.id AND g.stand IN ('waiting', 'in') GROUP BY g.code) u), '{}'),
	  'Waived', EXISTS (SELECT FROM waiver w WHERE w.entry_id = e.id),
	  'Mail', (SELECT p.email FROM relation l JOIN account p ON p.id = l.account_id WHERE l.application_id = e.application_id AND l.kind = 'lead')))`,
	Fill: func(raw []byte, filled *form.Filled) error {
		at := filled.Paying.At
		err := json.Unmarshal(raw, &filled.Paying)
		filled.Paying.At = at
		return err
	},
}
