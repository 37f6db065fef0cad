package fee

import (
	"context"
	"encoding/json"
	"strings"
	"time"

	"ulvant/core/fee"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// HoldCode holds a code that works a counted number of times until the end of a
// send, and counts anew how often it was used: of two who send with the last use
// the later sees the earlier. held is false for what needs no holding.
func (s *Store) HoldCode(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, filled *form.Filled,
	path *form.Path) (held bool, err error) {
	charge := path.Charge()
	if charge == nil || charge.Code == "" {
		return false, nil
	}
	for _, k := range f.Design.Codes {
		if k.Key != charge.Code || k.Uses == 0 {
			continue
		}
		if _, err := tx.ExecContext(ctx, `SELECT pg_advisory_xact_lock(hashtext('fee code ' || $1), $2)`, string(k.Key),
			int32(c.RoundID)); err != nil {
			return false, err
		}
		var n int
		if err := tx.GetContext(ctx, &n, `
			SELECT count(*) FROM charge WHERE round_id = $1 AND code = $2 AND entry_id <> $3 AND stand IN ('waiting', 'in')`,
			c.RoundID, k.Key, c.EntryID); err != nil {
			return false, err
		}
		if filled.Paying.Used == nil {
			filled.Paying.Used = map[form.Key]int{}
		}
		filled.Paying.Used[k.Key] = n
		return true, nil
	}
	return false, nil
}

// Charge writes what an entry that is being sealed is to pay. owes: it is in when
// that is paid, and not before.
func (s *Store) Charge(
	ctx context.Context,
	tx *db.Tx,
	c application.Case,
	f *form.Form,
	charge *form.Charge,
) (owes bool,
	err error) {
	if charge == nil {
		return false, nil
	}
	lines, err := json.Marshal(say.Charge(f, charge))
	if err != nil {
		return false, err
	}
	x := &Charge{EntryID: c.EntryID, RoundID: c.RoundID}
	grace := time.Duration(f.Paid().Grace) * time.Minute
	var n fee.News
	x.Fee, n = fee.New(charge.Total, tx.At, c.Window(f).Closes, grace, false)
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO charge (entry_id, application_id, round_id, currency, lines, total, code, at, closes, pay_by, stand, owed)
		VALUES (@entry, @application, @round, @currency, @lines, @total, @code, @at, @closes, @pay_by, @stand, @owed)`,
		db.Named{"entry": c.EntryID, "application": c.ID, "round": c.RoundID, "currency": f.Design.Currency,
			"lines": string(lines), "total": charge.Total, "code": charge.Code, "at": tx.At, "closes": x.Fee.Closes,
			"pay_by": x.Fee.PayBy, "stand": x.Fee.Stand, "owed": x.Fee.Rest()}); err != nil {
		return false, err
	}
	if err := s.keep(ctx, tx, x, n, nil, act{}); err != nil {
		return false, err
	}
	if owes = x.Fee.Stand == fee.Waiting; owes {
		err = trail.Write(
			ctx,
			tx,
			"fee-due",
			c.ID,
			c.RoundID,
			map[string]string{"amount": money.Format(charge.Total, f.Design.Currency)},
		)
	}
	return owes, err
}

// TellDue writes to the lead that the application is sealed and waits for its fee.
func (s *Store) TellDue(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form) error {
	x, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	_, err = s.Cases.Post.Queue(
		ctx,
		tx,
		post.Letter{Kind: "fee-due", Account: c.LeadID, Application: c.ID, Round: c.RoundID,
			To: c.LeadEmail, ToName: c.LeadName, Entry: c.EntryID, Holds: string(lifecycle.Owing),
			Subject: c.Ref + " is sealed and waits for its fee",
			Body: "Dear " + c.LeadName + ",\n\n“" + c.Title + "” for " + c.RoundName + " (" + c.Ref +
				") is sealed as you sent it. It is " +
				"in when its fee is paid: " + money.Format(
				x.Fee.Rest(),
				x.Currency,
			) + ".\n\n" + say.PayBy(
				f,
				x.Closes,
				x.PayBy,
			) +
				"\n\nPay it here, or have somebody else pay it:\n\n" + s.page(
				c,
			) + "\n"},
	)
	return err
}

// page is the address of a case’s fee.
func (s *Store) page(c application.Case) string {
	return s.Cases.Post.BaseURL + "/applications/" + c.Ref + "/fee"
}

// Withdrawn gives back what the round gives back to whoever withdraws.
func (s *Store) Withdrawn(ctx context.Context, tx *db.Tx, c application.Case) error {
	x, err := s.Of(ctx, tx, c.EntryID)
	if err != nil || x == nil {
		return err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	n := x.Fee.WithdrawAt(tx.At, f.GivesBack(tx.At))
	return s.after(ctx, tx, c, x, n, nil, act{})
}

// Waiver is the office’s word that nothing is asked of an entry.
type Waiver struct {
	EntryID int64 `db:"entry_id"`
	Reason  string
	ByID    int64 `db:"by_id"`
	At      time.Time
}

// Waived finds the waiver of an entry; nil when there is none.
func (s *Store) Waived(ctx context.Context, q db.Querier, entry int64) (*Waiver, error) {
	var list []Waiver
	if err := q.SelectContext(ctx, &list, `SELECT entry_id, reason, by_id, at FROM waiver WHERE entry_id = $1`,
		entry); err != nil || len(list) == 0 {
		return nil, err
	}
	return &list[0], nil
}

// Waive asks no fee of an entry, before it is sent or afterwards; what was paid
// goes back. The lead is told.
func (s *Store) Waive(ctx context.Context, tx *db.Tx, c application.Case, reason string) error {
	reason, err := reasoned(reason)
	if err != nil {
		return err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
		return err
	}
	if c.State.Is(lifecycle.Gone) {
		return refusal.New("it is withdrawn")
	}
	if f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID); err != nil || len(f.Design.Fees) == 0 {
		if err == nil {
			err = refusal.New("this round asks no fees")
		}
		return err
	}
	r, err := tx.ExecContext(ctx, `
		INSERT INTO waiver (entry_id, round_id, reason, by_id, at) VALUES ($1, $2, $3, $4, $5) ON CONFLICT DO NOTHING`,
		c.EntryID, c.RoundID, reason, tx.By.ID, tx.At)
	if err != nil {
		return err
	}
	if made, _ := r.RowsAffected(); made == 0 {
		return refusal.New("no fee is asked of it already")
	}
	if err := trail.Write(ctx, tx, "fee-waived", c.ID, c.RoundID, map[string]string{"reason": reason}); err != nil {
		return err
	}
	if _, err := s.Cases.Post.Queue(ctx, tx, post.Letter{Kind: "fee-waived", Account: c.LeadID, Application: c.ID,
		Round: c.RoundID, To: c.LeadEmail, ToName: c.LeadName, Subject: "No fee for " + c.Ref,
		Body: "Dear " + c.LeadName + ",\n\nthe office asks no fee for “" + c.Title + "” (" + c.Ref +
			"). What was paid already " +
			"goes back to whoever paid it.\n\nIt says of it: " + reason + "\n"}); err != nil {
		return err
	}
	x, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	if x == nil { // not sent yet: it is worked out with it
		_, err = s.Cases.Refresh(ctx, tx, c)
		return err
	}
	n, err := x.Fee.LetItOff(tx.At)
	if err != nil {
		return err
	}
	return s.after(ctx, tx, c, x, n, nil, act{reason: reason})
}

// AskAgain takes a waiver back while nothing was sent on the strength of it.
func (s *Store) AskAgain(ctx context.Context, tx *db.Tx, c application.Case, reason string) error {
	reason, err := reasoned(reason)
	if err != nil {
		return err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
		return err
	}
	if !c.State.Is(lifecycle.Drafting) {
		return refusal.New("it was sent without a fee").But("what was told to an applicant who sent stays as it is")
	}
	r, err := tx.ExecContext(ctx, `DELETE FROM waiver WHERE entry_id = $1`, c.EntryID)
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return refusal.New("its fee is asked already")
	}
	if err := trail.Write(ctx, tx, "fee-asked-again", c.ID, c.RoundID, map[string]string{"reason": reason}); err != nil {
		return err
	}
	if _, err := s.Cases.Post.Queue(ctx, tx, post.Letter{Kind: "fee-asked-again", Account: c.LeadID, Application: c.ID,
		Round: c.RoundID, To: c.LeadEmail, ToName: c.LeadName, Subject: "A fee for " + c.Ref + " after all",
		Body: "Dear " + c.LeadName + ",\n\nthe office had said that it asks no fee for “" + c.Title + "” (" + c.Ref +
			"). That was put right: the fee of the round is asked when you send it.\n\nIt says of it: " + reason +
			"\n"}); err != nil {
		return err
	}
	_, err = s.Cases.Refresh(ctx, tx, c)
	return err
}

// reasoned trims a reason and asks for one.
func reasoned(reason string) (string, error) {
	reason = strings.TrimSpace(reason)
	if reason == "" || len(reason) > 500 {
		return "", refusal.In(
			"reason",
			"Say why, in up to 500 characters; the reason is kept, and those concerned read it.",
		)
	}
	return reason, nil
}
