package desk

import (
	"context"
	"time"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/offer"
)

// Standing in the same place: what an officer sees before doing for one
// applicant what others might have needed too.

// AskedTime is one wish for more time in a round.
type AskedTime struct {
	Ref, Title string
	AskedAt    *time.Time `db:"asked_at"`
	Reason     string
	DecidedAt  *time.Time `db:"decided_at"`
	Until      *time.Time
	Note       string
}

// WantTimeIn lists the entries of a round whose wish for more time waits.
func (d *Desk) WantTimeIn(ctx context.Context, round int64) (entries []int64, err error) {
	err = d.DB.SelectContext(ctx, &entries, `
		SELECT DISTINCT m.entry_id FROM moretime m JOIN entry e ON e.id = m.entry_id JOIN application a ON a.id = e.application_id
		WHERE a.round_id = $1 AND m.decided_at IS NULL ORDER BY m.entry_id`, round)
	return entries, err
}

// Tried is an attempt to send after closing.
type Tried struct {
	Ref, Title string
	At         time.Time
	Late       int64 // milliseconds
	Requests   *int  // answered in the minute of the attempt; nil when nothing was counted
	Faults     *int
	Slowest    *int // milliseconds
}

// AskedTimes lists who asked for or was given more time in a stage of a round.
func (d *Desk) AskedTimes(ctx context.Context, round int64, stage form.Key) (out []AskedTime, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, m.asked_at, m.reason, m.decided_at, m.until, m.note
		FROM moretime m JOIN entry e ON e.id = m.entry_id JOIN application a ON a.id = e.application_id
		WHERE a.round_id = $1 AND e.stage = $2 ORDER BY m.id`, round, stage)
	return out, err
}

// LateTries lists who tried to send after closing, in order, with how the
// program answered in that minute.
func (d *Desk) LateTries(ctx context.Context, round int64) (out []Tried, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, t.at, (t.figures->>'late')::bigint AS late, h.requests, h.faults, h.slowest_ms AS slowest
		FROM trail t JOIN application a ON a.id = t.application_id LEFT JOIN health h ON h.at = date_trunc('minute', t.at)
		WHERE t.verb = 'late' AND t.round_id = $1 ORDER BY t.id LIMIT 200`, round)
	return out, err
}

// LateLetter is an attempt to send a letter after it could be taken.
type LateLetter struct {
	Ref, Title string
	Name       string // of the referee
	At         time.Time
	Late       int64 // milliseconds
	Taken      bool  // the letter was taken in the end
}

// LateLetters lists the letters of a round that came too late, the first
// attempt of each.
func (d *Desk) LateLetters(ctx context.Context, round int64) (out []LateLetter, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT * FROM (
			SELECT DISTINCT ON (x.id) a.ref, a.title, x.name, t.at, (t.figures->>'late')::bigint AS late, x.state = 'sent' AS taken
			FROM trail t JOIN application a ON a.id = t.application_id JOIN referee x ON x.id = (t.figures->>'referee')::bigint
			WHERE t.verb = 'late-letter' AND t.round_id = $1 ORDER BY x.id, t.id) l
		ORDER BY at LIMIT 200`, round)
	return out, err
}

// RuleStand is how one rule stands over a round, for those it did not pass by
// itself.
type RuleStand struct {
	Rule           form.Key
	Met, Not, Open int
}

// RuleStands counts, for every rule of a round that a person had or has to
// look at, how they were settled.
func (d *Desk) RuleStands(ctx context.Context, round int64) (map[form.Key]RuleStand, error) {
	var rows []RuleStand
	err := d.DB.SelectContext(ctx, &rows, `
		SELECT f.rule, count(*) FILTER (WHERE f.settled = 'yes') AS met, count(*) FILTER (WHERE f.settled = 'no') AS not, count(*) FILTER (WHERE f.settled IS NULL) AS open
		FROM finding f JOIN standing st ON st.entry_id = f.entry_id WHERE st.round_id = $1 AND f.outcome <> 'yes' GROUP BY f.rule`, round)
	out := map[form.Key]RuleStand{}
	for _, r := range rows {
		out[r.Rule] = r
	}
	return out, err
}

// Waiting is a case that waits for the office with something beside its rules.
type Waiting struct {
	Ref, Title string
	RoundKey   string `db:"round_key"`
	RoundName  string `db:"round_name"`
	RoundID    int64  `db:"round_id"`
	Programme  string
	Place      string // that the case is listed under
	Since      time.Time
}

// About is what it is about, for what somebody's roles allow.
func (w Waiting) About() access.About {
	return access.About{Programme: w.Programme, Round: w.RoundID, Place: w.Place}
}

// WantTime lists wishes for more time that wait for an answer, the oldest first.
func (d *Desk) WantTime(ctx context.Context) (out []Waiting, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, r.key AS round_key, r.name AS round_name, r.id AS round_id, r.programme,
		       COALESCE((SELECT st.place FROM standing st WHERE st.entry_id = e.id), '') AS place, m.asked_at AS since
		FROM moretime m JOIN entry e ON e.id = m.entry_id JOIN application a ON a.id = e.application_id JOIN round r ON r.id = a.round_id
		WHERE m.decided_at IS NULL ORDER BY m.asked_at`)
	return out, err
}

// OfRound counts what waits in one round.
type OfRound struct {
	RoundKey  string    `db:"round_key"`
	RoundName string    `db:"round_name"`
	RoundID   int64     `db:"round_id"`
	Programme string    `db:"programme"`
	N         int       `db:"n"`
	Since     time.Time `db:"since"`
}

// OpenEnquiries counts the questions that wait for an answer, by round.
func (d *Desk) OpenEnquiries(ctx context.Context) (out []OfRound, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT r.key AS round_key, r.name AS round_name, r.id AS round_id, r.programme, count(*) AS n, min(e.at) AS since FROM enquiry e JOIN round r ON r.id = e.round_id
		WHERE e.answered_at IS NULL GROUP BY r.id ORDER BY since`)
	return out, err
}

// OffersBack counts, by round, the offers that came back and nobody has decided anything
// since.
func (d *Desk) OffersBack(ctx context.Context) (out []OfRound, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT r.key AS round_key, r.name AS round_name, r.id AS round_id, r.programme, count(*) AS n, min(o.answered_at) AS since FROM offer o JOIN round r ON r.id = o.round_id
		WHERE NOT o.over AND o.answer = ANY($1) AND NOT EXISTS (SELECT FROM act x WHERE x.round_id = o.round_id AND x.at > o.answered_at) GROUP BY r.id ORDER BY since`,
		offer.Back())
	return out, err
}

// AnsweredQueries lists the cases whose query was answered and not yet put
// aside by the office, the oldest first.
func (d *Desk) AnsweredQueries(ctx context.Context) (out []Waiting, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, r.key AS round_key, r.name AS round_name, r.id AS round_id, r.programme, st.place, q.ended_at AS since
		FROM query q JOIN standing st ON st.entry_id = q.entry_id JOIN application a ON a.id = st.application_id JOIN round r ON r.id = st.round_id
		WHERE q.ended = 'answered' AND q.seen_at IS NULL ORDER BY q.ended_at`)
	return out, err
}
