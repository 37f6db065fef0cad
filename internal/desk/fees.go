package desk

import (
	"context"
	"time"

	"ulvant/core/fee"
	"ulvant/core/ledger"
	"ulvant/core/lifecycle"
)

// FeeRow is the fee of one entry, summed up.
type FeeRow struct {
	Ref   string
	Title string
	Lead  string
	State lifecycle.State
	Total int64
	PayBy time.Time `db:"pay_by"`
	fee.Facts
}

// Fees lists those of a round, the oldest first.
func (d *Desk) Fees(ctx context.Context, round int64) (out []FeeRow, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, p.name AS lead, e.state, g.total, g.pay_by, g.stand, g.owed AS rest, g.invoice, i.due_on AS dueon,
		       COALESCE(m.paid, 0) AS paid, COALESCE(b.back, 0) AS back, COALESCE(b.proposed, 0) AS proposed,
		       COALESCE(b.failed, 0) AS failed, COALESCE(b.wanted, 0) AS wanted, COALESCE(b.transfer, 0) AS totransfer, EXISTS (SELECT FROM checkout t WHERE t.entry_id = g.entry_id AND t.state = 'open') AS trying
		FROM charge g
		JOIN entry e ON e.id = g.entry_id
		JOIN application a ON a.id = g.application_id
		JOIN relation l ON l.application_id = a.id AND l.kind = 'lead'
		JOIN account p ON p.id = l.account_id
		LEFT JOIN invoice i ON i.entry_id = g.entry_id
		LEFT JOIN LATERAL (SELECT sum(y.amount) AS paid FROM payment y WHERE y.entry_id = g.entry_id) m ON true
		LEFT JOIN LATERAL (SELECT sum(r.amount) FILTER (WHERE r.state IN ('proposed', 'wanted', 'done')) AS back,
		                  sum(r.amount) FILTER (WHERE r.state = 'proposed') AS proposed, sum(r.amount) FILTER (WHERE r.state = 'failed') AS failed,
		                  sum(r.amount) FILTER (WHERE r.state = 'wanted') AS wanted,
		                  sum(r.amount) FILTER (WHERE r.state = 'wanted' AND r.bank) AS transfer
		           FROM returned r WHERE r.entry_id = g.entry_id) b ON true
		WHERE g.round_id = $1
		ORDER BY g.entry_id`, round)
	return out, err
}

// FeeBook sums a round’s ledger up.
func (d *Desk) FeeBook(ctx context.Context, round int64) (ledger.Book, error) {
	b := ledger.Sum(nil)
	var rows []struct {
		Kind   ledger.Kind
		Amount int64
	}
	err := d.DB.SelectContext(ctx, &rows,
		`SELECT kind, sum(amount) AS amount FROM ledger WHERE round_id = $1 GROUP BY kind`, round)
	for _, r := range rows {
		b.Add(r.Kind, r.Amount)
	}
	return b, err
}

// LedgerRow is an entry of the ledger with its case.
type LedgerRow struct {
	ID     int64
	Ref    string // of the case
	Kind   ledger.Kind
	Event  string
	Amount int64
	At     time.Time
	KeptAt time.Time `db:"kept_at"`
}

// Ledger of a round’s fees, in the order in which it was written.
func (d *Desk) Ledger(ctx context.Context, round int64) (out []LedgerRow, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT x.id, a.ref, x.kind, x.ref AS event, x.amount, x.at, x.kept_at
		FROM ledger x JOIN charge g ON g.entry_id = x.entry_id JOIN application a ON a.id = g.application_id
		WHERE x.round_id = $1 ORDER BY x.id`, round)
	return out, err
}

// FeesHeld is what is known here of what the payment desk took and gave back from
// a time up to another, of all rounds.
func (d *Desk) FeesHeld(ctx context.Context, from, to time.Time) (out []fee.Held, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT p.id, COALESCE(k.desk, '') AS checkout, a.ref AS reference, p.amount, p.at
		FROM payment p JOIN checkout k ON k.id = p.checkout_id JOIN charge g ON g.entry_id = p.entry_id JOIN application a ON a.id = g.application_id
		WHERE NOT p.bank AND p.at >= $1 AND p.at < $2
		UNION ALL
		SELECT r.desk, COALESCE(k.desk, ''), a.ref, -r.amount, x.at
		FROM returned r JOIN ledger x ON x.entry_id = r.entry_id AND x.ref = 'back ' || r.key
		JOIN payment p ON p.id = r.payment_id LEFT JOIN checkout k ON k.id = p.checkout_id
		JOIN charge g ON g.entry_id = r.entry_id JOIN application a ON a.id = g.application_id
		WHERE NOT r.bank AND r.state = 'done' AND x.at >= $1 AND x.at < $2
		ORDER BY 5, 1`, from, to)
	return out, err
}

// WaivedReason is why fees were let off in a round, and how often.
type WaivedReason struct {
	Reason string
	Count  int
}

// Waived counts a round’s waivers by reason, the most frequent first.
func (d *Desk) Waived(ctx context.Context, round int64) (out []WaivedReason, err error) {
	err = d.DB.SelectContext(
		ctx,
		&out,
		`SELECT reason, count(*) AS count FROM waiver WHERE round_id = $1 GROUP BY reason ORDER BY count(*) DESC, reason LIMIT 20`,
		round,
	)
	return out, err
}

// FeeTask is what fees of a round wait for the office to do.
type FeeTask struct {
	RoundKey  string `db:"round_key"`
	RoundName string `db:"round_name"`
	RoundID   int64  `db:"round_id"`
	Programme string
	Need      fee.Need
	N         int
	Since     time.Time
}

// FeeTasks lists what waits in every round at a time: money to agree to, to send
// back, that could not be given back, and invoices that are overdue.
func (d *Desk) FeeTasks(ctx context.Context, at time.Time) (out []FeeTask, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT r.key AS round_key, r.name AS round_name, r.id AS round_id, r.programme, x.need, count(*) AS n, min(x.at) AS since
		FROM (SELECT g.round_id, b.at, CASE WHEN b.state = 'proposed' THEN $2 WHEN b.state = 'failed' THEN $3 ELSE $4 END AS need
		      FROM returned b JOIN charge g ON g.entry_id = b.entry_id WHERE b.state IN ('proposed', 'wanted', 'failed') AND (b.state <> 'wanted' OR b.bank)
		      UNION ALL SELECT w.round_id, w.at, $2 FROM fee_wish w WHERE w.ended_at IS NULL
		      UNION ALL
		      SELECT c.round_id, i.due_on::timestamptz, $5 FROM invoice i JOIN charge c ON c.entry_id = i.entry_id
		      WHERE c.owed > 0 AND i.due_on < ($1::timestamptz)::date) x
		JOIN round r ON r.id = x.round_id
		GROUP BY r.id, x.need ORDER BY min(x.at)`, at, fee.ToAgree, fee.NotBack, fee.ToTransfer, fee.InNotPaid)
	return out, err
}

// Wished is a case about whose fee something is proposed.
type Wished struct{ Ref, Title string }

// Wished lists the cases of a round about whose fees something waits for a second
// person, the oldest first.
func (d *Desk) Wished(ctx context.Context, round int64) (out []Wished, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT a.ref, a.title FROM fee_wish w JOIN entry e ON e.id = w.entry_id JOIN application a ON a.id = e.application_id
		WHERE w.round_id = $1 AND w.ended_at IS NULL ORDER BY w.id LIMIT 100`, round)
	return out, err
}
