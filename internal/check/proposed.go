package check

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/personname"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// Ruling on what an applicant proposed for a list.
type Ruling string

// The rulings.
const (
	Taken   Ruling = "taken"   // into the list, for all
	Once    Ruling = "once"    // for this case
	Refused Ruling = "refused" // with a reason that the applicant sees
)

// Proposal for a list, with what was ruled.
type Proposal struct {
	ID       int64
	EntryID  int64 `db:"entry_id"`
	Ref      string
	Title    string
	Question string
	List     string
	Text     string
	Ruling   Ruling // "": it waits
	Reason   string
	By       string
	At       *time.Time
	Others   int // other cases of the round that propose the same
}

const selectProposal = `
	SELECT p.id, p.entry_id, a.ref, a.title, p.question, p.list, p.text, p.ruling, p.reason, COALESCE((SELECT name FROM account WHERE id = p.by_id), '') AS by, p.at,
	       (SELECT count(*) FROM proposed o WHERE o.round_id = p.round_id AND o.list = p.list AND o.folded = p.folded AND o.entry_id <> p.entry_id) AS others
	FROM proposed p JOIN entry e ON e.id = p.entry_id JOIN application a ON a.id = e.application_id `

// Proposals of a round, those that wait first.
func (s *Store) Proposals(ctx context.Context, q db.Querier, round int64, most int) (out []Proposal, err error) {
	err = q.SelectContext(ctx, &out,
		selectProposal+`WHERE p.round_id = $1 ORDER BY p.ruling <> '', p.list, p.folded, p.id LIMIT $2`, round, most)
	return out, err
}

// ProposalsOf an entry, in the order made.
func (s *Store) ProposalsOf(ctx context.Context, q db.Querier, entry int64) (out []Proposal, err error) {
	err = q.SelectContext(ctx, &out, selectProposal+`WHERE p.entry_id = $1 ORDER BY p.id`, entry)
	return out, err
}

// OpenProposals counts those of a round that wait.
func (s *Store) OpenProposals(ctx context.Context, q db.Querier, round int64) (n int, err error) {
	err = q.GetContext(ctx, &n, `SELECT count(*) FROM proposed WHERE round_id = $1 AND ruling = ''`, round)
	return n, err
}

// putProposed keeps what a case proposes, and whether it waits for a ruling. What
// was ruled for all of the round holds here too.
func (s *Store) putProposed(ctx context.Context, tx *db.Tx, f *form.Form, c application.Case, path *form.Path,
	counts map[form.Outcome]int) error {
	kept := []string{} // never NULL: none means that all are dropped
	for _, p := range f.ProposedIn(path) {
		folded := personname.Fold(p.Text)
		kept = append(kept, string(p.Question)+" "+folded)
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO proposed (entry_id, round_id, question, list, text, folded, ruling, reason, by_id, at)
			SELECT @entry, @round, @question, @list, @text, @folded, COALESCE(b.ruling, ''), COALESCE(b.reason, ''), b.by_id, b.at
			FROM (SELECT) x LEFT JOIN LATERAL (SELECT ruling, reason, by_id, at FROM proposed WHERE round_id = @round AND list = @list AND folded = @folded
			  AND ruling IN ('taken', 'refused') ORDER BY at DESC LIMIT 1) b ON true
			ON CONFLICT (entry_id, question, folded) DO UPDATE SET text = EXCLUDED.text`,
			db.Named{"entry": c.EntryID, "round": c.RoundID, "question": p.Question, "list": p.List, "text": p.Text,
				"folded": folded}); err != nil {
			return err
		}
	}
	if _, err := tx.ExecContext(ctx,
		`DELETE FROM proposed WHERE entry_id = $1 AND NOT (question || ' ' || folded) = ANY($2)`,
		c.EntryID, kept); err != nil {
		return err
	}
	list, err := s.ProposalsOf(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	by := map[form.Key][]Proposal{}
	var order []form.Key
	for _, p := range list {
		k := form.Key(p.Question)
		if by[k] == nil {
			order = append(order, k)
		}
		by[k] = append(by[k], p)
	}
	stay := []string{}
	for _, k := range order {
		stay = append(stay, string(form.ProposalRule(k)))
		outcome := form.Holds
		var says []string
		for _, p := range by[k] {
			if p.Ruling == "" {
				outcome = form.Person
			}
			says = append(says, say.ListProposal(p.Text, f.ListLabel(form.Key(p.List)), string(p.Ruling), p.Reason))
		}
		counts[outcome]++
		if err := s.put(ctx, tx, c.EntryID, form.ProposalRule(k), outcome, strings.Join(says, "\n")); err != nil {
			return err
		}
	}
	_, err = tx.ExecContext(ctx,
		`DELETE FROM finding WHERE entry_id = $1 AND rule LIKE 'proposed-%' AND NOT rule = ANY($2)`, c.EntryID, stay)
	return err
}

// ErrNoProposal: it is not there, or no longer.
var ErrNoProposal = refusal.Missing("nobody proposes this any more")

// RuleProposal takes what was proposed into the list for all, takes it for this case
// alone, or refuses it with a reason. Taken or refused, the same holds for every case
// of the round that proposes it. What was ruled can be ruled otherwise, but what is
// in the list stays there: others may have picked it.
func (s *Store) RuleProposal(ctx context.Context, tx *db.Tx, round, id int64, ruling Ruling, reason string) error {
	reason = strings.TrimSpace(reason)
	switch {
	case ruling != Taken && ruling != Once && ruling != Refused:
		return refusal.In("ruling", "Choose what becomes of it.")
	case ruling == Refused && reason == "" || len(reason) > 1000:
		return refusal.In("reason", "Say why, in up to 1,000 characters; the applicant reads it.")
	}
	var p struct {
		EntryID int64 `db:"entry_id"`
		List    string
		Text    string
		Folded  string
		Ruling  Ruling
	}
	err := tx.GetContext(ctx, &p,
		`SELECT entry_id, list, text, folded, ruling FROM proposed WHERE id = $1 AND round_id = $2 FOR UPDATE`, id, round)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNoProposal
	}
	if err != nil {
		return err
	}
	if p.Ruling == Taken && ruling != Taken {
		return refusal.New("it is in the list by now, and others may have picked it").But("take it out of the list in the round’s design")
	}
	var entries []int64
	if err := tx.SelectContext(ctx, &entries, `
		UPDATE proposed SET ruling = @ruling, reason = @reason, by_id = @by, at = @at
		WHERE id = @id OR @ruling <> 'once' AND round_id = @round AND list = @list AND folded = @folded AND ruling <> 'once' RETURNING entry_id`,
		db.Named{"ruling": ruling, "reason": reason, "by": tx.By.ID, "at": tx.At, "id": id, "round": round, "list": p.List,
			"folded": p.Folded}); err != nil {
		return err
	}
	if ruling == Taken {
		published, err := s.Cases.Rounds.GrowList(ctx, tx, round, form.Key(p.List), p.Text)
		if err != nil {
			return err
		}
		if published != nil {
			if _, err := s.Cases.MoveDrafts(ctx, tx, round, *published); err != nil {
				return err
			}
		}
	}
	slices.Sort(entries)
	for _, e := range slices.Compact(entries) {
		if err := s.ruledProposal(ctx, tx, e, p.Text, ruling); err != nil {
			return err
		}
	}
	return nil
}

// ruledProposal goes on with a case that proposed something.
func (s *Store) ruledProposal(ctx context.Context, tx *db.Tx, entry int64, text string, ruling Ruling) error {
	c, err := s.Cases.ByEntry(ctx, tx, entry)
	if err != nil {
		return err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil || c.SealID == nil {
		return err
	}
	if err := trail.Write(ctx, tx, "ruled-proposal", c.ID, c.RoundID, map[string]string{"text": text,
		"ruling": say.RulingWord(string(ruling))}); err != nil {
		return err
	}
	if !c.State.Is(lifecycle.Settles) {
		return nil
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	sealed, err := s.Cases.Now(ctx, tx, *c.SealID)
	if err != nil {
		return err
	}
	if err := s.putProposed(ctx, tx, f, c, f.Walk(sealed.Decoded.Filled(c.LeadName)), map[form.Outcome]int{}); err != nil {
		return err
	}
	return s.concludeWorked(ctx, tx, c)
}
