package desk

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
)

// Queued is a rule of a case that waits for a person, in the order in which they are
// settled: the case that was sent first, and of it whether it is complete first.
type Queued struct {
	EntryID int64 `db:"entry_id"`
	Ref     string
	Title   string
	Lead    string
	Place   string
	Stage   string
	Rule    form.Key
	Reason  string
	Since   time.Time
}

// complete are the beginnings of rules that say whether an application is complete:
// files that open, ticks and papers to be confirmed, what is still to come.
const complete = `(f.rule = 'files-open' OR f.rule LIKE 'tick-%' OR f.rule LIKE 'paper-%' OR f.rule LIKE 'letters-%' OR f.rule LIKE 'follow-%')`

// Queue lists what a person must settle in a round, from one on: that of an entry
// and rule (0 and "" for the first), and so many after it; place "" for all. When
// that one is settled by now it begins with the one that came after it.
func (d *Desk) Queue(ctx context.Context, round int64, place string, entry int64, rule form.Key,
	most int) (out []Queued, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		WITH at AS (SELECT COALESCE((SELECT sent_at FROM standing WHERE entry_id = $3), '-infinity') AS sent),
		q AS MATERIALIZED (
		  SELECT f.entry_id, f.rule, f.reason, f.worked_at, st.sent_at, st.application_id, st.place, st.stage, CASE WHEN `+complete+` THEN 0 ELSE 1 END AS rank
		  FROM finding f JOIN standing st ON st.entry_id = f.entry_id
		  WHERE f.outcome = 'person' AND f.settled IS NULL AND f.rule NOT LIKE 'turn-%' AND st.state = ANY($5) AND st.round_id = $1 AND ($2 = '' OR st.place = $2)
		    AND st.sent_at >= (SELECT sent FROM at))
		SELECT q.entry_id, a.ref, a.title, p.name AS lead, q.place, q.stage, q.rule, q.reason, q.worked_at AS since
		FROM q JOIN application a ON a.id = q.application_id JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id
		WHERE (q.sent_at, q.entry_id, q.rank, q.rule) >= ((SELECT sent FROM at), $3, CASE WHEN $3 = 0 THEN 0 ELSE (SELECT CASE WHEN `+complete+` THEN 0 ELSE 1 END FROM (SELECT $4::text AS rule) f) END, $4)
		ORDER BY q.sent_at, q.entry_id, q.rank, q.rule LIMIT $6`, round, place, entry, rule, lifecycle.With(lifecycle.ToSettle), most)
	return out, err
}

// QueuedBefore is the one that comes before an entry and rule; nil for none.
func (d *Desk) QueuedBefore(ctx context.Context, round int64, place string, entry int64,
	rule form.Key) (*Queued, error) {
	var out []Queued
	err := d.DB.SelectContext(ctx, &out, `
		WITH at AS (SELECT COALESCE((SELECT sent_at FROM standing WHERE entry_id = $3), 'infinity') AS sent),
		q AS MATERIALIZED (
		  SELECT f.entry_id, f.rule, st.sent_at, st.application_id, CASE WHEN `+complete+` THEN 0 ELSE 1 END AS rank
		  FROM finding f JOIN standing st ON st.entry_id = f.entry_id
		  WHERE f.outcome = 'person' AND f.settled IS NULL AND f.rule NOT LIKE 'turn-%' AND st.state = ANY($5) AND st.round_id = $1 AND ($2 = '' OR st.place = $2)
		    AND st.sent_at <= (SELECT sent FROM at))
		SELECT q.entry_id, a.ref, a.title, q.rule FROM q JOIN application a ON a.id = q.application_id
		WHERE (q.sent_at, q.entry_id, q.rank, q.rule) < ((SELECT sent FROM at), $3, (SELECT CASE WHEN `+complete+` THEN 0 ELSE 1 END FROM (SELECT $4::text AS rule) f), $4)
		ORDER BY q.sent_at DESC, q.entry_id DESC, q.rank DESC, q.rule DESC LIMIT 1`, round, place, entry, rule, lifecycle.With(lifecycle.ToSettle))
	if err != nil || len(out) == 0 {
		return nil, err
	}
	return &out[0], nil
}

// Earlier is how a person settled the same rule for another case of the round.
type Earlier struct {
	Ref, Title string
	Settled    form.Outcome
	Outcome    form.Outcome // the machine’s
	Note       string
	By         string
	At         time.Time
}

// Settled lists how persons settled a rule in a round, the latest first.
func (d *Desk) Settled(ctx context.Context, round int64, rule form.Key, most int) (out []Earlier, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, f.settled, f.outcome, f.note, COALESCE(p.name, '') AS by, f.settled_at AS at
		FROM finding f JOIN standing st ON st.entry_id = f.entry_id JOIN application a ON a.id = st.application_id LEFT JOIN account p ON p.id = f.settled_by
		WHERE st.round_id = $1 AND f.rule = $2 AND f.settled IS NOT NULL ORDER BY f.settled_at DESC LIMIT $3`, round, rule, most)
	return out, err
}
