package ballot

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/vote"
	"ulvant/core/waiting"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

func intsOf(c vote.Choice) []int {
	if c == nil {
		return []int{}
	}
	return c
}

func choiceOf(raw pq.Int64Array) (c vote.Choice) {
	for _, n := range raw {
		c = append(c, int(n))
	}
	return c
}

// CountAtOnce is how many ballots are counted while somebody waits.
const CountAtOnce = 3000

// counting is the job that counts a large vote.
type counting struct{ round.Long }

// Kind names the job.
func (counting) Kind() string { return "long.count-ballots" }

func saysCounted(n int) string {
	return phrase.Count(int64(n), "ballot is", "ballots are") + " counted."
}

// CountLater counts by a job.
func (s *Store) CountLater(ctx context.Context, tx *db.Tx, r round.Round, ballots int) error {
	l, err := s.Later.Begin(ctx, tx, work.Ballots, r, ballots)
	if err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, counting{l}, tx.At)
}

// stir writes the ballots of a vote anew in the order of their keys, which is that of
// chance: the order in which they came is gone.
func stir(ctx context.Context, tx *db.Tx, round int64) error {
	_, err := tx.ExecContext(ctx, `
		WITH box AS (DELETE FROM ballot WHERE round_id = $1 RETURNING *)
		INSERT INTO ballot SELECT * FROM box ORDER BY key`, round)
	return err
}

// stirAll stirs the votes that are under way.
func (s *Store) stirAll(ctx context.Context, at time.Time) error {
	var rounds []int64
	if err := s.DB.SelectContext(ctx, &rounds,
		`SELECT round_id FROM vote WHERE laid_at IS NOT NULL AND counted_at IS NULL AND published_at IS NULL`); err != nil {
		return err
	}
	for _, r := range rounds {
		err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error { return stir(ctx, tx, r) })
		if err != nil {
			return err
		}
	}
	return nil
}

// Count the ballots of a vote that is closed, and says how many there are. A mark of a
// pattern that fewer share than LeastPattern is taken away: it would stand for persons.
func (s *Store) Count(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form) (int, error) {
	v, err := s.lock(ctx, tx, r, f)
	switch {
	case err != nil:
		return 0, err
	case v.Published != nil:
		return 0, refusal.New("the result is published").But("take it back first, with a reason")
	case v.Phase(f, tx.At) != Closed:
		return 0, refusal.New("votes are taken until " + closing(f)).But(
			"count when it is closed; nobody sees a part of the result before")
	case v.Laid == nil:
		return 0, refusal.New("there was no ballot paper, so there is nothing to count")
	}
	if err := stir(ctx, tx, r.ID); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE ballot SET pattern_id = NULL WHERE round_id = $1 AND pattern_id IN (
		  SELECT pattern_id FROM ballot WHERE round_id = $1 AND pattern_id IS NOT NULL GROUP BY pattern_id HAVING count(*) < $2)`, r.ID, vote.LeastPattern); err != nil {
		return 0, err
	}
	p, err := s.published(ctx, tx, r, f)
	if err != nil {
		return 0, err
	}
	p.Result = vote.OutcomeOf(p.Count(false))
	raw, err := json.Marshal(p)
	if err != nil {
		return 0, err
	}
	x := Summary{Published: *p, All: p.Result}
	if len(p.LeftOut) > 0 {
		x.All = vote.OutcomeOf(p.Count(true))
	}
	x.Ballots = nil
	summary, err := json.Marshal(x)
	if err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE vote SET counted_at = $2, document = $3, summary = $4 WHERE round_id = $1`,
		r.ID, tx.At, raw,
		string(summary)); err != nil {
		return 0, err
	}
	return len(
			p.Ballots,
		), trail.Write(ctx, tx, "vote-counted", 0, r.ID,
			map[string]string{"n": phrase.Count(int64(len(p.Ballots)), "ballot", "ballots")})
}

// published is a vote as it would be published, without its result.
func (s *Store) published(ctx context.Context, q db.Querier, r round.Round, f *form.Form) (*vote.Published, error) {
	projects, err := s.OnPaper(ctx, q, r.ID)
	if err != nil {
		return nil, err
	}
	e := Election(f, projects)
	p := &vote.Published{Format: vote.Format, Round: r.Name, Asks: f.Design.Vote.Asks,
		Closed: f.VoteWindow().Closes.Format(time.RFC3339), Currency: f.Design.Currency, By: e.By,
		Most: e.Most, Named: e.Named, Budget: e.Budget, Utility: e.Utility, Rest: e.Rest,
		LeftOut: []vote.LeftOut{}, Ballots: []vote.Slip{}}
	for _, x := range projects {
		p.Projects = append(p.Projects, vote.OnPaper{Number: *x.Number, Title: x.Title, Cost: x.Cost, Off: x.Off})
	}
	patterns, err := s.Patterns(ctx, q, r.ID, 0)
	if err != nil {
		return nil, err
	}
	marks := map[int64]int{}
	for _, x := range patterns {
		if x.Ruling == "left out" && x.Ballots > 0 {
			marks[x.ID] = len(p.LeftOut) + 1
			p.LeftOut = append(p.LeftOut, vote.LeftOut{Mark: len(p.LeftOut) + 1, Why: x.Why, Ballots: x.Ballots})
		}
	}
	var list []struct {
		Receipt string
		Choice  pq.Int64Array
		Pattern int64
	}
	if err := q.SelectContext(ctx, &list,
		`SELECT receipt, choice, COALESCE(pattern_id, 0) AS pattern FROM ballot WHERE round_id = $1 ORDER BY receipt`,
		r.ID); err != nil {
		return nil, err
	}
	for _, b := range list {
		p.Ballots = append(
			p.Ballots,
			vote.Slip{Receipt: b.Receipt, Choice: choiceOf(b.Choice), Mark: marks[b.Pattern],
				Points: e.By == vote.GivenPoints},
		)
	}
	return p, nil
}

// Document is a vote as it is published, every ballot in it; nil before it is counted.
func (s *Store) Document(ctx context.Context, q db.Querier, round int64) (document []byte, err error) {
	err = q.GetContext(ctx, &document, `SELECT document FROM vote WHERE round_id = $1`, round)
	return document, err
}

// Summary of a count.
type Summary struct {
	vote.Published              // without the ballots
	All            vote.Outcome `json:"all"` // with the ballots that are left out
}

// Summary of a vote; nil before it is counted.
func (s *Store) Summary(ctx context.Context, q db.Querier, round int64) (*Summary, error) {
	var raw []byte
	if err := q.GetContext(ctx, &raw, `SELECT summary FROM vote WHERE round_id = $1`, round); err != nil || raw == nil {
		return nil, err
	}
	var x Summary
	return &x, json.Unmarshal(raw, &x)
}

// Find a ballot by its receipt, as it is typed; ok is false where there is none. Until
// the result is published nobody is told of any.
func (s *Store) Find(ctx context.Context, q db.Querier, v Vote,
	typed string) (receipt string, c vote.Choice, ok bool, err error) {
	receipt, ok = vote.ReadWord(typed)
	if !ok || v.Published == nil {
		return receipt, nil, false, nil
	}
	var list []struct{ Choice pq.Int64Array }
	if err := q.SelectContext(ctx, &list, `SELECT choice FROM ballot WHERE round_id = $1 AND receipt = $2`, v.RoundID,
		receipt); err != nil ||
		len(list) == 0 {
		return receipt, nil, false, err
	}
	return receipt, choiceOf(list[0].Choice), true, nil
}

// Publish shows the result, with every ballot without a name. Patterns that nobody ruled
// on keep it back.
func (s *Store) Publish(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, note string) error {
	v, err := s.lock(ctx, tx, r, f)
	switch {
	case err != nil:
		return err
	case len(note) > mostWhy:
		return refusal.In("note", "Write a sentence of up to 1,000 characters beside the result.")
	case v.Published != nil:
		return refusal.New("the result is published already")
	case v.Phase(f, tx.At) != Closed:
		return refusal.New("votes are taken until " + closing(f)).But("publish the result when it is closed")
	case v.Counted == nil:
		return refusal.New("the ballots are not counted, or something changed since").But("count them first")
	}
	patterns, err := s.Patterns(ctx, tx, r.ID, 0)
	if err != nil {
		return err
	}
	open := 0
	for _, p := range patterns {
		if p.Ruling == "" && p.Ballots >= vote.LeastPattern {
			open++
		}
	}
	if open > 0 {
		return refusal.New(
			phrase.Count(int64(open), "pattern waits",
				"patterns wait") + " for somebody to say whether its ballots count",
		)
	}
	var gone int
	if err := tx.GetContext(ctx, &gone, `
		SELECT count(*) FROM vote_project p JOIN entry e ON e.id = p.entry_id WHERE p.round_id = $1 AND p.number IS NOT NULL AND p.off = '' AND e.state = ANY($2)
		AND e.state_at > $3`, r.ID, lifecycle.With(lifecycle.Gone), *v.Counted); err != nil {
		return err
	}
	if gone > 0 {
		return refusal.New("a project was taken back by its applicants since the count").But("count again")
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE vote SET published_at = $2, published_by = $3, note = $4 WHERE round_id = $1`, r.ID, tx.At, tx.By.ID,
		strings.TrimSpace(note)); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "vote-published", 0, r.ID, nil)
}

// Unpublish takes a result back, to be counted anew; why stands on the public page.
func (s *Store) Unpublish(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, why string) error {
	v, err := s.lock(ctx, tx, r, f)
	if err != nil {
		return err
	}
	if v.Published == nil {
		return refusal.New("no result is published")
	}
	if why, err = reasoned(why, "Say why it is taken back: it stands on the public page."); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE vote SET published_at = NULL, published_by = NULL, note = $2 WHERE round_id = $1`, r.ID, why); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "vote-unpublished", 0, r.ID, map[string]string{"why": why})
}

// KeptDays is how long addresses are kept after a result is published.
const KeptDays = 30

// forget erases the addresses of votes whose result has stood long enough. That so many
// voted stays.
func (s *Store) forget(ctx context.Context, at time.Time) error {
	return s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
		var rounds []int64
		if err := tx.SelectContext(ctx, &rounds,
			`UPDATE vote SET forgotten_at = $1 WHERE published_at < $2 AND forgotten_at IS NULL RETURNING round_id`, at,
			at.AddDate(0, 0, -KeptDays)); err != nil {
			return err
		}
		for _, sql := range []string{`UPDATE voter SET address = NULL, network = '' WHERE round_id = ANY($1)`,
			`DELETE FROM vote_pace WHERE round_id = ANY($1)`, `DELETE FROM vote_tally WHERE round_id = ANY($1)`} {
			if _, err := tx.ExecContext(ctx, sql, rounds); err != nil {
				return err
			}
		}
		return nil
	})
}

// Day of a vote.
type Day struct {
	Day            time.Time
	Asked, Ballots int
}

// Turnout of a vote so far. Nothing of what was chosen is in it.
type Turnout struct {
	Asked   int // addresses that asked for a ballot
	Opened  int // codes that were typed
	Ballots int // in the box
	ByMail  int // of them, who voted by a confirmed address
	Days    []Day
	Tries   map[Try]int
}

// Turnout is counted from the rows, day by day in the round’s zone.
func (s *Store) Turnout(ctx context.Context, q db.Querier, r round.Round, f *form.Form) (out Turnout, err error) {
	if err := q.GetContext(ctx, &out, `
		SELECT count(*) FILTER (WHERE sheet_id IS NULL) AS asked, count(*) FILTER (WHERE sheet_id IS NOT NULL AND token IS NOT NULL) AS opened,
		       count(*) FILTER (WHERE voted_on IS NOT NULL) AS ballots, count(*) FILTER (WHERE voted_on IS NOT NULL AND sheet_id IS NULL) AS bymail
		FROM voter WHERE round_id = $1`, r.ID); err != nil {
		return out, err
	}
	if err := q.SelectContext(ctx, &out.Days, `
		SELECT day, sum(asked) AS asked, sum(ballots) AS ballots FROM (
		  SELECT (asked_at AT TIME ZONE $2)::date AS day, count(*) AS asked, 0 AS ballots FROM voter WHERE round_id = $1 AND token IS NOT NULL GROUP BY 1
		  UNION ALL SELECT day, 0, count(*) FROM ballot WHERE round_id = $1 GROUP BY 1) n
		GROUP BY day ORDER BY day`, r.ID, f.Zone.String()); err != nil {
		return out, err
	}
	var tries []struct {
		Kind Try
		N    int
	}
	if err := q.SelectContext(ctx, &tries, `SELECT kind, sum(n) AS n FROM vote_try WHERE round_id = $1 GROUP BY kind`,
		r.ID); err != nil {
		return out, err
	}
	out.Tries = map[Try]int{}
	for _, t := range tries {
		out.Tries[t.Kind] = t.N
	}
	return out, nil
}

// Voted says of an address whether it asked for a ballot, and whether its ballot is in
// the box; nothing says which that is.
func (s *Store) Voted(ctx context.Context, q db.Querier, round int64, address string) (asked, voted bool, err error) {
	one, _, ok := vote.OneAddress(address)
	if !ok {
		return false, false, ErrNoAddress
	}
	var list []bool
	err = q.SelectContext(
		ctx,
		&list,
		`SELECT voted_on IS NOT NULL FROM voter WHERE round_id = $1 AND address = $2`,
		round,
		one,
	)
	return len(list) > 0, len(list) > 0 && list[0], err
}

// Otherwise says what would have come of it with the ballots that are left out; other is
// false where it is the same.
func Otherwise(x *Summary) (other bool, says string) {
	titles := func(won []int) string {
		var out []string
		for _, n := range won {
			out = append(out, "“"+x.Projects[n-1].Title+"”")
		}
		if len(out) == 0 {
			return "nobody"
		}
		return phrase.List(out)
	}
	a, b := slices.Sorted(slices.Values(x.Result.Won)), slices.Sorted(slices.Values(x.All.Won))
	return !slices.Equal(a, b), titles(x.All.Won)
}

// Polls says how far the votes of rounds are that are not published yet; of all when
// round is 0.
func (s *Store) Polls(ctx context.Context, q db.Querier, round int64) (map[int64]waiting.Poll, error) {
	var list []struct {
		Round         int64
		Laid, Counted bool
		Unruled       int
	}
	if err := q.SelectContext(ctx, &list, `
		SELECT v.round_id AS round, v.laid_at IS NOT NULL AS laid, v.counted_at IS NOT NULL AS counted,
		       (SELECT count(*) FROM vote_pattern p WHERE p.round_id = v.round_id AND p.ruling = ''
		          AND (SELECT count(*) FROM ballot b WHERE b.pattern_id = p.id) >= $2) AS unruled
		FROM vote v WHERE v.published_at IS NULL AND (v.round_id = $1 OR $1 = 0)`, round, vote.LeastPattern); err != nil {
		return nil, err
	}
	out := map[int64]waiting.Poll{}
	for _, x := range list {
		out[x.Round] = waiting.Poll{Laid: x.Laid, Counted: x.Counted, Unruled: x.Unruled}
	}
	return out, nil
}
