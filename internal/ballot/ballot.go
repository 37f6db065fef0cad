// Package ballot runs the public vote of a round. Projects are read out of what
// applicants sent and agreed to show, looked through one by one, and laid out on a ballot
// paper. Whoever confirms an address, or has a code on paper, has one ballot, which they
// may change until the vote closes. After that it is counted by core/vote and published
// without names.
//
// Who voted and what was chosen are kept apart: what opens a ballot is drawn at random,
// goes out by mail or to the page and is kept nowhere. Two different hashes of it stand
// beside the voter and beside the ballot, so that neither leads to the other; no time of
// day stands at a ballot, and the box is stirred before it is counted, so that the order
// of rows tells nothing. Marks of patterns stand only where five ballots or more share one.
package ballot

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding/base64"
	"errors"
	"strconv"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/vote"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/post"
	"ulvant/internal/round"
)

// Store of votes.
type Store struct {
	DB      *db.DB
	Cases   *application.Store
	Post    *post.Office
	Jobs    *jobs.Queue
	Later   *round.Later
	BaseURL string
	Key     []byte // turns of those who wait are signed with it
	// Draw makes the link of a ballot; nil: at random. Whoever sets it knows them all, as
	// a demo does.
	Draw func() Token
}

// Vote of a round.
type Vote struct {
	RoundID   int64 `db:"round_id"`
	Seed      []byte
	DesignID  *int64     `db:"design_id"`
	Gathered  *time.Time `db:"gathered_at"`
	Laid      *time.Time `db:"laid_at"` // nil: there is no ballot paper yet
	Counted   *time.Time `db:"counted_at"`
	Published *time.Time `db:"published_at"`
	Note      string
	Forgotten *time.Time `db:"forgotten_at"`
}

// Phase of a vote.
type Phase string

// The phases, in their order.
const (
	Preparing Phase = "preparing" // no ballot paper, or its time has not come
	Running   Phase = "running"
	Closed    Phase = "closed" // not published
	Result    Phase = "result"
)

// Phase at a moment.
func (v Vote) Phase(f *form.Form, at time.Time) Phase {
	w := f.VoteWindow()
	switch {
	case v.Published != nil:
		return Result
	case !at.Before(w.Closes):
		return Closed
	case v.Laid != nil && !at.Before(w.Opens):
		return Running
	}
	return Preparing
}

const columns = `round_id, seed, design_id, gathered_at, laid_at, counted_at, published_at, note, forgotten_at`

// ErrNoVote: the public does not vote in the round.
var ErrNoVote = refusal.Missing("the public does not vote in this round")

// Of a round; the zero Vote before anything was done about it.
func (s *Store) Of(ctx context.Context, q db.Querier, round int64) (v Vote, err error) {
	err = q.GetContext(ctx, &v, `SELECT `+columns+` FROM vote WHERE round_id = $1`, round)
	if errors.Is(err, sql.ErrNoRows) {
		return Vote{RoundID: round}, nil
	}
	return v, err
}

// Rules are a round’s design as its vote goes by it: once the ballot paper is laid out, the
// vote keeps the rules of the design that was published then, whatever is published later;
// the dates are those of now.
func (s *Store) Rules(ctx context.Context, q db.Querier, v Vote, f *form.Form) (*form.Form, error) {
	if v.Laid == nil || v.DesignID == nil {
		return f, nil
	}
	then, err := s.Cases.Rounds.Form(ctx, q, *v.DesignID)
	if err != nil || then.Design.Vote == nil {
		return f, err
	}
	now, d := *f, *f.Design
	vote := *then.Design.Vote
	if vote.Cost == "" {
		vote.Cost = then.Design.Request
	}
	d.Vote, now.Design = &vote, &d
	return &now, nil
}

// lock takes the vote for changes of the office, and begins it where nothing was done
// about it before.
func (s *Store) lock(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form) (v Vote, err error) {
	if f.Votes() == nil {
		return v, ErrNoVote
	}
	seed := make([]byte, 32)
	rand.Read(seed)
	if _, err := tx.ExecContext(ctx, `INSERT INTO vote (round_id, seed) VALUES ($1, $2) ON CONFLICT DO NOTHING`, r.ID,
		seed); err != nil {
		return v, err
	}
	err = tx.GetContext(ctx, &v, `SELECT `+columns+` FROM vote WHERE round_id = $1 FOR UPDATE`, r.ID)
	return v, err
}

// Election is what is voted on, and by which rules; projects in the order of the paper.
func Election(f *form.Form, projects []Project) vote.Election {
	costs := make([]int64, len(projects))
	for i, p := range projects {
		costs[i] = p.Cost
	}
	return vote.Of(f.Design.Vote, costs)
}

// Token opens one ballot. It is kept nowhere here.
type Token string

func (s *Store) newToken() Token {
	if s.Draw != nil {
		return s.Draw()
	}
	b := make([]byte, 24)
	rand.Read(b)
	return Token(base64.RawURLEncoding.EncodeToString(b))
}

// the hashes of a token: each under a word of its own, so that one does not lead to
// another.
func (t Token) of(word string) []byte {
	h := sha256.Sum256([]byte("ballot:" + word + ":" + string(t)))
	return h[:]
}

func (t Token) voter() []byte { return t.of("voter") }
func (t Token) key() []byte   { return t.of("box") }

// Order in which the projects stand on this voter's paper.
func (t Token) Order(projects int) []int { return vote.Drawn(projects, t.of("order")) }

// Receipt by which the voter finds the ballot among those published.
func (t Token) Receipt() string { return vote.Word(t.of("receipt")) }

// network is the mark of where somebody asks from: the part of the address that one
// house has (RFC 4291: a /64; of the old ones a /24), under the seed of the vote.
func (v Vote) network(from string) []byte {
	h := hmac.New(sha256.New, v.Seed)
	h.Write([]byte(houseOf(from)))
	return h.Sum(nil)[:8]
}

func day(f *form.Form, at time.Time) string {
	d := calendar.DateOf(at, f.Zone)
	return d.String()
}

// tried counts what did not become a ballot.
func tried(ctx context.Context, tx *db.Tx, f *form.Form, round int64, kind Try) error {
	_, err := tx.ExecContext(ctx, `
		INSERT INTO vote_try (round_id, kind, day, n) VALUES ($1, $2, $3, 1) ON CONFLICT (round_id, kind, day) DO UPDATE SET n = vote_try.n + 1`,
		round, kind, day(f, tx.At))
	return err
}

// Try that did not become a ballot.
type Try string

// What is tried.
const (
	AgainByMail Try = "again by mail" // a link asked for by an address whose ballot is in the box
	AgainByCode Try = "again by code" // a code typed that had been used
	NoSuchCode  Try = "no such code"
	TooLate     Try = "too late"
	Waited      Try = "waited" // slowed down; it came through later
)

// Tries are the kinds, in the order in which they are shown.
var Tries = []Try{AgainByMail, AgainByCode, NoSuchCode, TooLate, Waited}

func id(n int64) string { return strconv.FormatInt(n, 10) }

// ShownDays is how long a result stands among the open rounds.
const ShownDays = 60

// Listed are the votes that have a ballot paper and no result yet, and those whose result
// was published lately.
func (s *Store) Listed(ctx context.Context, q db.Querier, at time.Time) (out []Vote, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT `+columns+` FROM vote WHERE laid_at IS NOT NULL AND (published_at IS NULL OR published_at > $1) ORDER BY round_id DESC LIMIT 50`,
		at.AddDate(0, 0, -ShownDays))
	return out, err
}
