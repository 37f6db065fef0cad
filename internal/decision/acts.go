package decision

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Act is one recording.
type Act struct {
	ID        int64
	At        time.Time
	By        string
	Note      string
	Reason    string    // why earlier decisions were changed by it
	LettersAt time.Time `db:"letters_at"` // when letters go out, or the first of them went
	Cases     int
	Held      int        // letters that can still be stopped
	Stopped   int        // letters that were stopped and can be let go
	Sent      int        // letters that have gone out
	Over      int        // letters that no longer hold: another decision has taken their place
	StoppedAt *time.Time `db:"stopped_at"`
	NextAt    *time.Time `db:"next_at"` // when the next of those held leaves; nil: none is
}

// Acts of a round, the latest first.
func (s *Store) Acts(ctx context.Context, q db.Querier, roundID int64) (out []Act, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT x.id, x.at, p.name AS by, x.note, x.reason, COALESCE(min(o.sent_at), min(o.due_at) FILTER (WHERE o.state = 'held'), x.letters_at) AS letters_at,
		       count(d.entry_id) AS cases, count(*) FILTER (WHERE o.state = 'held') AS held, count(*) FILTER (WHERE o.state = 'cancelled') AS stopped,
		       count(*) FILTER (WHERE o.state = 'sent') AS sent, count(*) FILTER (WHERE o.state = 'superseded') AS over,
		       min(o.due_at) FILTER (WHERE o.state = 'held') AS next_at,
		       (SELECT max(l.at) FROM act_letters l WHERE l.act_id = x.id AND l.what = 'stopped') AS stopped_at
		FROM act x JOIN account p ON p.id = x.by_id LEFT JOIN decision d ON d.act_id = x.id LEFT JOIN post o ON o.id = d.post_id
		WHERE x.round_id = $1 GROUP BY x.id, p.name ORDER BY x.id DESC`, roundID)
	return out, err
}

// StopLetters stops the letters of an act that are still held. The decisions
// stand; nobody is told of them.
func (s *Store) StopLetters(ctx context.Context, tx *db.Tx, roundID, act int64) (int64, error) {
	ids, err := s.letters(ctx, tx, roundID, act, "held")
	if err != nil {
		return 0, err
	}
	n, err := s.Post.Cancel(ctx, tx, ids)
	if err != nil {
		return 0, err
	}
	if n == 0 {
		return 0, refusal.Unfit("the letters have gone out already").But("change the decision instead, with a reason, " +
			"and a new letter goes")
	}
	if err := s.became(ctx, tx, act, "stopped", nil); err != nil {
		return n, err
	}
	return n, s.note(ctx, tx, roundID, act)
}

// ReleaseLetters lets letters that were stopped go out after a new hold. Those
// that no longer hold stay.
// at is when they leave; zero: after the hold.
func (s *Store) ReleaseLetters(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, act int64,
	at time.Time) (int, error) {
	ids, err := s.letters(ctx, tx, r.ID, act, "cancelled")
	if err != nil {
		return 0, err
	}
	if len(ids) == 0 {
		return 0, refusal.Unfit("there is no letter of this act left to let go")
	}
	due := tx.At.Add(time.Duration(f.Design.HoldMinutes) * time.Minute)
	if at.After(due) {
		due = at
	}
	if err := s.answerBy(ctx, tx, f, ids, due); err != nil {
		return 0, err
	}
	if err := s.Post.Release(ctx, tx, ids, due); err != nil {
		return 0, err
	}
	return len(ids), s.became(ctx, tx, act, "released", &due)
}

// answerBy puts the day by which an offer is answered right in letters that leave at another
// time than was planned.
func (s *Store) answerBy(ctx context.Context, tx *db.Tx, f *form.Form, ids []int64, due time.Time) error {
	if !f.Offers() {
		return nil
	}
	var planned time.Time
	if err := tx.GetContext(ctx, &planned, `SELECT max(due_at) FROM post WHERE id = ANY($1)`, ids); err != nil { // when the last of them was to leave
		return err
	}
	for _, awards := range []int{1, 2} { // one, and several
		if err := s.Post.Replace(ctx, tx, ids, say.AnswerBy(f.OfferEnds(planned), f.Zone, awards),
			say.AnswerBy(f.OfferEnds(due), f.Zone, awards)); err != nil {
			return err
		}
	}
	return nil
}

func (s *Store) became(ctx context.Context, tx *db.Tx, act int64, what string, due *time.Time) error {
	_, err := tx.ExecContext(ctx, `INSERT INTO act_letters (act_id, at, by_id, what, due_at) VALUES ($1, $2, $3, $4, $5)`,
		act, tx.At, tx.By.ID, what, due)
	return err
}

func (s *Store) letters(ctx context.Context, tx *db.Tx, roundID, act int64, state string) (ids []int64, err error) {
	err = tx.SelectContext(ctx, &ids, `
		SELECT o.id FROM decision d JOIN act x ON x.id = d.act_id JOIN post o ON o.id = d.post_id
		WHERE x.id = $1 AND x.round_id = $2 AND o.state = $3 FOR UPDATE OF o`, act, roundID, state)
	return ids, err
}

func (s *Store) note(ctx context.Context, tx *db.Tx, roundID, act int64) error {
	var rows []struct {
		App    int64 `db:"application_id"`
		Letter string
	}
	if err := tx.SelectContext(ctx, &rows, `
		SELECT o.application_id, o.kind AS letter FROM decision d JOIN post o ON o.id = d.post_id WHERE d.act_id = $1 AND o.state = 'cancelled'`, act); err != nil {
		return err
	}
	told := make([]trail.Entry, len(rows))
	for i, r := range rows {
		told[i] = trail.Entry{Verb: "letters-cancelled", Application: r.App, Round: roundID,
			Figures: map[string]string{"letter": r.Letter}}
	}
	return trail.WriteAll(ctx, tx, told)
}

// Given is what an applicant was told of an award: its sum, and by which letter.
type Given struct {
	Act    int64 `db:"act_id"`
	Amount int64
	SentAt *time.Time `db:"sent_at"`
	Lines  []Line     `db:"-"` // awards it is made up of, where the round gives several
}

// GivenTo is what the applicant of an entry was told they are awarded; nil when
// they were told of no award.
func (s *Store) GivenTo(ctx context.Context, q db.Querier, entry int64) (*Given, error) {
	var out []Given
	err := q.SelectContext(ctx, &out, `
		SELECT d.act_id, left_of(d.act_id, d.entry_id, d.amount) AS amount, o.sent_at FROM entry e JOIN decision d ON d.entry_id = e.id AND d.act_id = e.told_act LEFT JOIN post o ON o.id = d.post_id
		WHERE e.id = $1 AND d.outcome = ANY($2)`, entry, lifecycle.With(lifecycle.Gives))
	if err != nil || len(out) == 0 {
		return nil, err
	}
	out[0].Lines, err = s.LinesOf(ctx, q, out[0].Act, entry)
	return &out[0], err
}

// Latest is what was recorded last for an entry; nil when nothing was.
func (s *Store) Latest(ctx context.Context, q db.Querier, entry int64) (*Recorded, error) {
	var out []Recorded
	err := q.SelectContext(ctx, &out, `
		SELECT d.outcome, d.amount, x.at, x.note, x.reason, p.name AS by, o.state AS letter, o.sent_at, o.due_at
		FROM decision d JOIN act x ON x.id = d.act_id JOIN account p ON p.id = x.by_id JOIN post o ON o.id = d.post_id
		WHERE d.entry_id = $1 ORDER BY d.act_id DESC LIMIT 1`, entry)
	if err != nil || len(out) == 0 {
		return nil, err
	}
	return &out[0], nil
}

// Recorded is one decision as it was recorded, and what became of its letter.
type Recorded struct {
	Outcome string
	Amount  int64
	At      time.Time
	Note    string
	Reason  string
	By      string
	Letter  string
	SentAt  *time.Time `db:"sent_at"`
	DueAt   time.Time  `db:"due_at"`
}
