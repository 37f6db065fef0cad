package ballot

import (
	"context"
	"encoding/hex"
	"strings"
	"time"

	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/vote"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Pattern is many who asked for ballots within a minute and have something in common.
type Pattern struct {
	ID      int64
	Kind    string // domain | network
	What    string
	Minute  time.Time
	Came    int
	Ruling  string // "": nobody has ruled; counts | left out
	Why     string
	By      *string    // who ruled
	At      *time.Time // and when
	Ballots int        // in the box, as far as they came after it was seen
}

// watch counts one who asks, by the domain of the address ("" for a code) and by the
// network, and marks those of a minute that is unusual.
func (s *Store) watch(ctx context.Context, tx *db.Tx, v Vote, domain string, network []byte) error {
	minute := tx.At.Truncate(time.Minute)
	count := func(kind, what string) (now, before int, err error) {
		err = tx.QueryRowxContext(ctx, `
			INSERT INTO vote_tally (round_id, kind, what, minute, now, before) VALUES ($1, $2, $3, $4, 1, 0)
			ON CONFLICT (round_id, kind, what) DO UPDATE SET
			  before = vote_tally.before + CASE WHEN vote_tally.minute = $4 THEN 0 ELSE vote_tally.now END,
			  now = CASE WHEN vote_tally.minute = $4 THEN vote_tally.now ELSE 0 END + 1, minute = $4
			RETURNING now, before`, v.RoundID, kind, what, minute).Scan(&now, &before)
		return now, before, err
	}
	theirs := map[string]string{"network": hex.EncodeToString(network[:4])}
	if domain != "" {
		theirs["domain"] = domain
	}
	all, allBefore, err := count("all", "")
	if err != nil {
		return err
	}
	for _, kind := range []string{"domain", "network"} {
		what, ok := theirs[kind]
		if !ok {
			continue
		}
		now, before, err := count(kind, what)
		if err != nil {
			return err
		}
		if t := (vote.Tally{Theirs: now, All: all, TheirsBefore: before, AllBefore: allBefore}); !t.Unusual() {
			continue
		}
		var pattern int64
		if err := tx.GetContext(ctx, &pattern, `
			INSERT INTO vote_pattern (round_id, kind, what, minute, came) VALUES ($1, $2, $3, $4, $5)
			ON CONFLICT (round_id, kind, what, minute) DO UPDATE SET came = $5 RETURNING id`, v.RoundID, kind, what, minute, now); err != nil {
			return err
		}
		of, arg := `v.network = $3`, any(network)
		if kind == "domain" {
			of, arg = `v.address LIKE '%@' || $3`, like.Replace(domain)
		}
		_, err = tx.ExecContext(ctx, `
			UPDATE voter v SET pattern_id = $1 WHERE v.round_id = $2 AND v.asked_at >= $4 AND v.pattern_id IS NULL AND `+of, pattern, v.RoundID, arg, minute)
		return err
	}
	return nil
}

// like guards a text for LIKE.
var like = strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`)

// Patterns of a vote, those that nobody has ruled on first, then the latest; so many at
// most, 0 for all.
func (s *Store) Patterns(ctx context.Context, q db.Querier, round int64, most int) (out []Pattern, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT p.id, p.kind, p.what, p.minute, p.came, p.ruling, p.why, a.name AS by, p.at, (SELECT count(*) FROM ballot b WHERE b.pattern_id = p.id) AS ballots
		FROM vote_pattern p LEFT JOIN account a ON a.id = p.by_id WHERE p.round_id = $1 ORDER BY p.ruling <> '', p.minute DESC, p.id DESC LIMIT NULLIF($2, 0)`, round, most)
	return out, err
}

// Rule on a pattern: whether its ballots count.
func (s *Store) Rule(ctx context.Context, tx *db.Tx, r round.Round, pattern int64, ruling, why string) error {
	if ruling != "counts" && ruling != "left out" {
		return refusal.Unfit("say whether they count")
	}
	why, err := reasoned(why, "Say why: it stands beside the result.")
	if err != nil {
		return err
	}
	v, err := s.Of(ctx, tx, r.ID)
	if err != nil {
		return err
	}
	if v.Published != nil {
		return refusal.New("the result is published").But("take it back first, with a reason")
	}
	var what string
	if err := tx.GetContext(ctx, &what, `
		UPDATE vote_pattern SET ruling = $3, why = $4, by_id = $5, at = $6 WHERE id = $1 AND round_id = $2 RETURNING what`, pattern, r.ID, ruling, why, tx.By.ID,
		tx.At); err != nil {
		return refusal.Missing("there is no such pattern")
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE vote SET counted_at = NULL, document = NULL, summary = NULL WHERE round_id = $1`, r.ID); err != nil {
		return err
	}
	verb := map[string]say.Verb{"counts": "vote-pattern-counts", "left out": "vote-pattern-left-out"}[ruling]
	return trail.Write(ctx, tx, verb, 0, r.ID, map[string]string{"what": what, "why": why})
}
