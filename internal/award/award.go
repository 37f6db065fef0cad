// Package award places many awards among those who applied by one form. Who stands how
// to which award is worked out once of what they sent (candidates and fits); a person
// rules where a criterion cannot be told by itself, and holds pairs by hand; placings are
// named sets of rules, worked out by core/placing, laid beside each other, and recorded
// as decisions, each award a line of its own.
package award

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/round"
)

// Store of awards.
type Store struct {
	DB        *db.DB
	Cases     *application.Store
	Decisions *decision.Store
	Jobs      *jobs.Queue
	Later     *round.Later
}

// Candidacy is when it was worked out who stands how to which award.
type Candidacy struct {
	RoundID  int64 `db:"round_id"`
	DesignID int64 `db:"design_id"`
	At       time.Time
	People   int
	Version  int
}

// ErrNotWorkedOut: nobody stands to any award yet.
var ErrNotWorkedOut = refusal.Missing("it is not worked out yet who meets which award").But("work it out first")

// Candidacy of a round; ErrNotWorkedOut when there is none.
func (s *Store) Candidacy(ctx context.Context, q db.Querier, round int64) (c Candidacy, err error) {
	err = q.GetContext(ctx, &c, `SELECT round_id, design_id, at, people, version FROM candidacy WHERE round_id = $1`,
		round)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotWorkedOut
	}
	return c, err
}

// Standing of a round: how many are in its order and not in it yet, and whether
// anything changed since it was worked out: cases came in, left or were sent anew, or
// the design is another.
type Standing struct {
	In, Unread int
	Stale      bool
}

// Standing of a round now; c is the zero Candidacy before anything is worked out.
func (s *Store) Standing(ctx context.Context, q db.Querier, r round.Round, f *form.Form, c Candidacy) (out Standing,
	err error) {
	stage := lastStage(f)
	states, open := decision.InOrder(f, stage)
	var n struct{ Now, Same, Open int }
	if err := q.GetContext(ctx, &n, `
		SELECT count(*) FILTER (WHERE state = ANY($3)) AS now, count(*) FILTER (WHERE state = ANY($4)) AS open,
		       (SELECT count(*) FROM candidate c JOIN entry e ON e.id = c.entry_id AND e.seal_id = c.seal_id WHERE c.round_id = $1 AND e.state = ANY($3)) AS same
		FROM standing WHERE round_id = $1 AND stage = $2`,
		r.ID, stage, states, open); err != nil {
		return out, err
	}
	out.In, out.Unread = n.Now, n.Open
	out.Stale = r.DesignID == nil || *r.DesignID != c.DesignID || n.Now != n.Same || n.Same != c.People
	return out, nil
}

// Count is how many stand how to one award.
type Count struct {
	Award   form.Key
	Fits    int
	MustSay int    `db:"must_say"`
	Asked   bool   // somebody was asked all that its criteria read
	Raw     []byte `db:"nearly"`
	Nearly  []int  `db:"-"` // by the condition that they miss
}

// Counts of the awards of a round, by their keys.
func (s *Store) Counts(ctx context.Context, q db.Querier, round int64) (map[form.Key]Count, error) {
	var list []Count
	if err := q.SelectContext(ctx, &list,
		`SELECT award, fits, must_say, nearly, asked FROM award_count WHERE round_id = $1`, round); err != nil {
		return nil, err
	}
	out := map[form.Key]Count{}
	for _, c := range list {
		if err := json.Unmarshal(c.Raw, &c.Nearly); err != nil {
			return nil, err
		}
		out[c.Award] = c
	}
	return out, nil
}

// Said is what was answered to one condition of an award.
type Said struct {
	Words  string  `json:"w,omitempty"` // of a condition on answers and figures
	Pieces []Piece `json:"p,omitempty"` // of words looked for: the answer around them
	Look   bool    `json:"l,omitempty"` // a person must say
}

// Piece of an answer; Is where it is what was looked for.
type Piece struct {
	Text string `json:"t"`
	Is   bool   `json:"i,omitempty"`
}

// bump says that something changed on which placings hang.
// Changed says that what placings hang on has changed outside of them: somebody gave an
// award back, or has it again.
func (s *Store) Changed(ctx context.Context, tx *db.Tx, round int64) error {
	return bump(ctx, tx, round)
}

func bump(ctx context.Context, tx *db.Tx, round int64) error {
	_, err := tx.ExecContext(ctx, `UPDATE candidacy SET version = version + 1 WHERE round_id = $1`, round)
	return err
}
