// Package offer keeps what was offered to those who were awarded something: made when the
// letter of the decision leaves, accepted or declined by whoever leads the case, each award
// for itself, until its day. What comes back is free for others at once; the office may
// answer for somebody, give more time, or open an offer again where the money is still
// there, with a reason each. The rules are core/offer's.
package offer

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/offer"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/award"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
)

// Store of offers.
type Store struct {
	DB        *db.DB
	Cases     *application.Store
	Decisions *decision.Store
	Awards    *award.Store
	Post      *post.Office
}

// Offer of one thing to one case.
type Offer struct {
	ID         int64
	EntryID    int64 `db:"entry_id"`
	ActID      int64 `db:"act_id"`
	Award      form.Key
	Amount     int64         // minor units
	MadeAt     time.Time     `db:"made_at"`
	DueAt      time.Time     `db:"due_at"` // answered before it
	Answer     offer.Answer  `db:"answer"`
	AnsweredAt *time.Time    `db:"answered_at"`
	ByID       sql.NullInt64 `db:"by_id"` // not valid: the clock
	Why        string
	Gifts      gifts // that go with the sum as a whole
}

const columns = `o.id, o.entry_id, o.act_id, o.award, o.amount, o.made_at, o.due_at, o.answer, o.answered_at, o.by_id, o.why,
	COALESCE((SELECT jsonb_agg(jsonb_build_object('gift', g.gift, 'units', g.units) ORDER BY g.gift) FROM given g
	          WHERE g.act_id = o.act_id AND g.entry_id = o.entry_id AND o.award = ''), '[]') AS gifts`

// ErrNone: there is no such offer.
var ErrNone = refusal.Missing(
	"this offer is not there, or another decision took its place",
).But(
	"look at the page again",
)

// Made makes the offers of a decision whose letter has just left, and ends those of an
// earlier one. What was accepted before and is given again with the same sum stays
// accepted.
func (s *Store) Made(ctx context.Context, tx *db.Tx, l post.About) error {
	if l.Entry == 0 || l.Act == 0 || lifecycle.Tells(l.Kind) == "" {
		return nil
	}
	before, err := s.endBefore(ctx, tx, l.Entry)
	if err != nil || !lifecycle.State(l.Holds).Is(lifecycle.Gives) {
		return err
	}
	c, err := s.Cases.ByEntry(ctx, tx, l.Entry)
	if err != nil {
		return err
	}
	f, err := s.formOf(ctx, tx, c)
	if err != nil || !f.Offers() {
		return err
	}
	lines, err := s.Decisions.LinesOf(ctx, tx, l.Act, l.Entry)
	if err != nil {
		return err
	}
	if lines == nil {
		var sum int64
		if err := tx.GetContext(ctx, &sum, `SELECT amount FROM decision WHERE act_id = $1 AND entry_id = $2`, l.Act,
			l.Entry); err != nil {
			return err
		}
		lines = []decision.Line{{Amount: sum}}
	}
	var awards, answers pq.StringArray
	var amounts []int64
	var said []offer.Answer
	for _, x := range lines {
		a := offer.Carried(offer.Line{Award: string(x.Award), Amount: x.Amount}, before)
		awards, amounts, answers, said = append(
			awards,
			string(x.Award),
		), append(
			amounts,
			x.Amount,
		), append(
			answers,
			string(a),
		), append(
			said,
			a,
		)
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO offer (entry_id, round_id, act_id, award, amount, made_at, due_at, answer, answered_at)
		SELECT @entry, @round, @act, n.award, n.amount, @at::timestamptz, @due, n.answer, CASE WHEN n.answer <> 'open' THEN @at::timestamptz END
		FROM unnest(@awards::text[], @amounts::bigint[], @answers::text[]) AS n(award, amount, answer)`,
		db.Named{"entry": l.Entry, "round": c.RoundID, "act": l.Act, "at": tx.At, "due": f.OfferEnds(tx.At), "awards": awards,
			"amounts": amounts, "answers": answers}); err != nil {
		return err
	}
	step, err := lifecycle.Next(c.State, lifecycle.MakeOffer, true)
	if err != nil {
		return err
	}
	if err := s.Cases.ApplyAll(ctx, tx, []application.Change{{Case: c, Step: step}}); err != nil {
		return err
	}
	return s.stands(ctx, tx, l.Entry, l.Act)
}

// endBefore ends the offers of an entry, and tells what was answered to each.
func (s *Store) endBefore(ctx context.Context, tx *db.Tx, entry int64) (map[offer.Line]offer.Answer, error) {
	var rows []struct {
		offer.Line
		Answer offer.Answer
	}
	err := tx.SelectContext(
		ctx,
		&rows,
		`UPDATE offer SET over = true WHERE entry_id = $1 AND NOT over RETURNING award, amount, answer`,
		entry,
	)
	out := map[offer.Line]offer.Answer{}
	for _, r := range rows {
		out[r.Line] = r.Answer
	}
	return out, err
}

// formOf a case: the design its round runs by.
func (s *Store) formOf(ctx context.Context, q db.Querier, c application.Case) (*form.Form, error) {
	r, err := s.Cases.Rounds.ByID(ctx, q, c.RoundID)
	if err != nil {
		return nil, err
	}
	return s.Cases.Rounds.Published(ctx, q, r)
}

// stands takes an entry to the state that the answers to its offers make of it, unless
// another decision was recorded since, of which it is not told yet.
func (s *Store) stands(ctx context.Context, tx *db.Tx, entry, act int64) error {
	c, err := s.Cases.ByEntry(ctx, tx, entry)
	if err != nil {
		return err
	}
	var answers []offer.Answer
	if err := tx.SelectContext(ctx, &answers, `SELECT answer FROM offer WHERE entry_id = $1 AND act_id = $2`, entry,
		act); err != nil {
		return err
	}
	to := offer.State(answers)
	var latest int64
	if err := tx.GetContext(ctx, &latest, `SELECT max(act_id) FROM decision WHERE entry_id = $1`, entry); err != nil {
		return err
	}
	if c.State == to || latest != act {
		return nil
	}
	step, err := lifecycle.Between(c.State, to)
	if err != nil {
		return err
	}
	return s.Cases.ApplyAll(ctx, tx, []application.Change{{Case: c, Step: step}})
}

// Of an entry: what it is offered now, the greatest first.
func (s *Store) Of(ctx context.Context, q db.Querier, entry int64) (out []Offer, err error) {
	err = q.SelectContext(
		ctx,
		&out,
		`SELECT `+columns+` FROM offer o WHERE o.entry_id = $1 AND NOT o.over ORDER BY o.amount DESC, o.award`,
		entry,
	)
	return out, err
}

// EntryOf an offer that stands; ErrNone where there is none.
func (s *Store) EntryOf(ctx context.Context, q db.Querier, id int64) (entry int64, err error) {
	err = q.GetContext(ctx, &entry, `SELECT entry_id FROM offer WHERE id = $1 AND NOT over`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, ErrNone
	}
	return entry, err
}

// find an offer that stands, and lock its case.
func (s *Store) find(ctx context.Context, tx *db.Tx, round, id int64) (o Offer, c application.Case, f *form.Form,
	err error) {
	err = tx.GetContext(
		ctx,
		&o,
		`SELECT `+columns+` FROM offer o WHERE o.id = $1 AND o.round_id = $2 AND NOT o.over`,
		id,
		round,
	)
	if errors.Is(err, sql.ErrNoRows) {
		return o, c, nil, ErrNone
	}
	if err != nil {
		return o, c, nil, err
	}
	if c, err = s.Cases.ByEntry(ctx, tx, o.EntryID); err != nil {
		return o, c, nil, err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
		return o, c, nil, err
	}
	// it is read again under the lock
	err = tx.GetContext(ctx, &o, `SELECT `+columns+` FROM offer o WHERE o.id = $1 AND NOT o.over`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return o, c, nil, ErrNone
	}
	if err != nil {
		return o, c, nil, err
	}
	f, err = s.formOf(ctx, tx, c)
	return o, c, f, err
}

// What an offer is of, in a few words: an award, or the sum with what is given besides.
func (o Offer) What(f *form.Form) string {
	if o.Award != "" {
		return say.Offered(f.Design.AwardLabel(string(o.Award)), o.Amount, f.Design.Currency)
	}
	var gifts []form.Gift
	var units []int64
	for _, x := range o.Gifts {
		if g := f.Gift(x.Gift); g != nil {
			gifts, units = append(gifts, *g), append(units, x.Units)
		}
	}
	return say.AndGifts(say.Offered("", o.Amount, f.Design.Currency), gifts, units, f.Design.Currency)
}

// gifts that an offer is of, where it is of the sum as a whole.
type gifts []decision.GivenGift

// Scan reads them as the database gives them.
func (g *gifts) Scan(src any) error {
	raw, _ := src.([]byte)
	return json.Unmarshal(raw, g)
}

// figures for the trail.
func (o Offer) figures(f *form.Form, why string) map[string]string {
	return map[string]string{"what": o.What(f), "why": why}
}
