package fee

import (
	"context"
	"database/sql"
	"errors"
	"strings"
	"time"

	"ulvant/core/fee"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// Payer is somebody else whom an applicant asked to pay.
type Payer struct {
	ID      int64
	EntryID int64 `db:"entry_id"`
	Name    string
	Email   string
	ByID    int64 `db:"by_id"`
	At      time.Time
	EndedAt *time.Time `db:"ended_at"`
}

const payerColumns = `y.id, y.entry_id, y.name, y.email, y.by_id, y.at, y.ended_at`

// Payers of an entry, in the order they were asked.
func (s *Store) Payers(ctx context.Context, q db.Querier, entry int64) (out []Payer, err error) {
	err = q.SelectContext(
		ctx,
		&out,
		`SELECT `+payerColumns+` FROM payer y WHERE y.entry_id = $1 ORDER BY y.id`,
		entry,
	)
	return out, err
}

// Payer that a link is of.
func (s *Store) Payer(ctx context.Context, q db.Querier, id int64) (p Payer, err error) {
	err = q.GetContext(ctx, &p, `SELECT `+payerColumns+` FROM payer y WHERE y.id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = refusal.Missing("nobody is asked to pay there any more")
	}
	return p, err
}

// mostPayers an application asks.
const mostPayers = 5

// AskPayer asks somebody else to pay, by a link of their own; they see what it is
// for and what it costs, and nothing of the application. Whoever applies can pay
// all the same.
func (s *Store) AskPayer(ctx context.Context, tx *db.Tx, c application.Case, name, email string) error {
	c, x, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if !x.Fee.MayPay(tx.At) {
		return ErrTooLate
	}
	p, err := s.addPayer(ctx, tx, c, name, email)
	if err != nil {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Payer, p.ID, s.LinkLife)
	if err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "fee-payer", c.ID, c.RoundID, map[string]string{"whom": p.Name}); err != nil {
		return err
	}
	sum := money.Format(x.Fee.Rest(), x.Currency)
	_, err = s.Cases.Post.Queue(
		ctx,
		tx,
		post.Letter{Kind: "fee-payer", Application: c.ID, Round: c.RoundID, To: p.Email,
			ToName: p.Name, ReplyTo: c.LeadEmail, Link: l, Subject: c.LeadName + " asks you to pay " + sum,
			Body: "Dear " + p.Name + ",\n\n" + c.LeadName + " (" + c.LeadEmail +
				") asks you to pay the fee of an application for " +
				c.RoundName + ": " + sum + " for “" + c.Title +
				"”. This link shows what it is for, and takes you to the payment desk; " +
				"you need no account:\n\n" + post.LinkMark + "\n\nIf you know nothing of this, do nothing.\n"},
	)
	return err
}

// addPayer keeps somebody who is to pay.
func (s *Store) addPayer(ctx context.Context, tx *db.Tx, c application.Case, name, email string) (Payer, error) {
	p := Payer{
		EntryID: c.EntryID,
		Name:    strings.TrimSpace(name),
		Email:   people.Fold(email),
		ByID:    tx.By.ID,
		At:      tx.At,
	}
	if people.CheckName(p.Name) != nil {
		return p, refusal.In("name", "Give the name of whoever pays, in 2 to 120 characters.")
	}
	if people.CheckEmail(p.Email) != nil {
		return p, refusal.In("email", "“"+email+"” is not a whole mail address.")
	}
	had, err := s.Payers(ctx, tx, c.EntryID)
	if err != nil {
		return p, err
	}
	for _, o := range had {
		if o.Email == p.Email && o.EndedAt == nil {
			return p, refusal.In("email", o.Name+" is asked already, at this address.")
		}
	}
	if len(had) >= mostPayers {
		return p, refusal.Unfit("Five people were asked to pay for it already; no more can be.")
	}
	err = tx.QueryRowxContext(
		ctx,
		`INSERT INTO payer (entry_id, name, email, by_id, at) VALUES ($1, $2, $3, $4, $5) RETURNING id`,
		p.EntryID,
		p.Name,
		p.Email,
		p.ByID,
		p.At,
	).Scan(&p.ID)
	return p, err
}

// EndPayer takes back that somebody is asked to pay; what they have begun at the
// desk holds, so that no payment is lost.
func (s *Store) EndPayer(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	r, err := tx.ExecContext(
		ctx,
		`UPDATE payer SET ended_at = $3 WHERE id = $1 AND entry_id = $2 AND ended_at IS NULL`,
		id,
		c.EntryID,
		tx.At,
	)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return refusal.Missing("nobody is asked to pay there any more")
	}
	return s.Links.Revoke(ctx, tx, id, link.Payer)
}

// Invoice over a fee.
type Invoice struct {
	EntryID int64 `db:"entry_id"`
	Number  int64
	PayerID int64 `db:"payer_id"`
	Address string
	Theirs  string // their own reference
	At      time.Time
	DueOn   time.Time `db:"due_on"`
	Name    string    // to whom it goes
	Email   string
}

// InvoiceOf an entry; nil when there is none.
func (s *Store) InvoiceOf(ctx context.Context, q db.Querier, entry int64) (*Invoice, error) {
	var list []Invoice
	err := q.SelectContext(ctx, &list, `
		SELECT i.entry_id, i.number, i.payer_id, i.address, i.theirs, i.at, i.due_on, y.name, y.email
		FROM invoice i JOIN payer y ON y.id = i.payer_id WHERE i.entry_id = $1`, entry)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	return &list[0], nil
}

// Billing is what an invoice is made out to.
type Billing struct{ Name, Email, Address, Theirs string }

// ErrNoInvoices: the round does not send any.
var ErrNoInvoices = refusal.New("this round sends no invoices").
	But("the fee is paid by card, by you or by somebody you ask")

// AskInvoice has an invoice sent, where the round does that; the application is
// in at once. Whoever gets it can pay by card as well.
func (s *Store) AskInvoice(ctx context.Context, tx *db.Tx, c application.Case, b Billing) error {
	c, x, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	if !f.Paid().Invoice {
		return ErrNoInvoices
	}
	if x.Fee.Stand != fee.Waiting || !x.Fee.MayPay(tx.At) {
		return ErrTooLate
	}
	b.Address, b.Theirs = strings.TrimSpace(b.Address), strings.TrimSpace(b.Theirs)
	if len(b.Theirs) > 100 {
		return refusal.In("theirs", "Their own reference has up to 100 characters.")
	}
	if b.Address == "" || len(b.Address) > 500 {
		return refusal.In("address", "Give the postal address that stands on the invoice, in up to 500 characters.")
	}
	p, err := s.addPayer(ctx, tx, c, b.Name, b.Email)
	if err != nil {
		return err
	}
	due := tx.At.In(f.Zone).AddDate(0, 0, f.Paid().InvoiceDays)
	number, err := next(ctx, tx, invoices)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO invoice (entry_id, number, payer_id, address, theirs, at, due_on)
		VALUES (@entry, @number, @payer, @address, @theirs, @at, @due)`,
		db.Named{"entry": c.EntryID, "number": number, "payer": p.ID, "address": b.Address, "theirs": b.Theirs,
			"at": tx.At, "due": due.Format(time.DateOnly)}); err != nil {
		return err
	}
	sum := money.Format(x.Fee.Rest(), x.Currency)
	if err := trail.Write(ctx, tx, "fee-invoiced", c.ID, c.RoundID, map[string]string{"amount": sum,
		"number": itoa(number)}); err != nil {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Payer, p.ID, s.LinkLife)
	if err != nil {
		return err
	}
	if _, err := s.Cases.Post.Queue(ctx, tx, post.Letter{Kind: "fee-invoice", Application: c.ID, Round: c.RoundID,
		To:     p.Email,
		ToName: p.Name, ReplyTo: f.Design.Contact, Link: l, Subject: "Invoice " + itoa(number) + " over " + sum,
		Body: "Dear " + p.Name + ",\n\n" + c.LeadName + " has asked us to send you the invoice for the fee of “" + c.Title +
			"” for " +
			c.RoundName + " (" + c.Ref + "): " + sum + ", to be paid by " + due.Format("2 January 2006") +
			".\n\nThe invoice, as a page " +
			"and as PDF:\n\n" + post.LinkMark + "\n"}); err != nil {
		return err
	}
	n, err := x.Fee.OnInvoice()
	if err != nil {
		return err
	}
	return s.after(ctx, tx, c, x, n, nil, act{})
}

// PayerName is who paid: somebody who was asked to, or the lead.
func (s *Store) PayerName(
	ctx context.Context,
	q db.Querier,
	c application.Case,
	p *Payment,
) (name string, err error) {
	err = q.GetContext(ctx, &name, `
		SELECT COALESCE((SELECT y.name FROM checkout k JOIN payer y ON y.id = k.payer_id WHERE k.id = $1), $2)`, p.CheckoutID,
		c.LeadName)
	return name, err
}
