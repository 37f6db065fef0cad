package check

import (
	"context"
	"slices"
	"strings"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Rework works the rules of a case anew, by the design that is published now: a
// rule or a list may have changed since it was sent. What a person settled stands
// where the rule comes out as before. says is what changes for it, touched that
// something does.
func (s *Store) Rework(ctx context.Context, tx *db.Tx, c application.Case) (says string, touched bool, err error) {
	if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
		return "", false, err
	}
	if !c.State.Is(lifecycle.Settles) || c.SealID == nil {
		return "", false, refusal.Unfit("its checks are closed")
	}
	r, err := s.Cases.Rounds.ByID(ctx, tx, c.RoundID)
	if err != nil {
		return "", false, err
	}
	f, err := s.Cases.Rounds.Published(ctx, tx, r)
	if err != nil {
		return "", false, err
	}
	before, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return "", false, err
	}
	last, err := s.lastDesign(ctx, tx, c)
	if err != nil {
		return "", false, err
	}
	sealed, err := s.Cases.Now(ctx, tx, *c.SealID)
	if err != nil {
		return "", false, err
	}
	path := f.Walk(sealed.Decoded.Filled(c.LeadName))
	if err := s.putRules(ctx, tx, c.EntryID, path, map[form.Outcome]int{}); err != nil {
		return "", false, err
	}
	if err := s.dropRules(ctx, tx, c, last, f, path); err != nil {
		return "", false, err
	}
	if err := s.putProposed(ctx, tx, f, c, path, map[form.Outcome]int{}); err != nil {
		return "", false, err
	}
	if err := s.workedBy(ctx, tx, c.EntryID, *r.DesignID); err != nil {
		return "", false, err
	}
	after, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return "", false, err
	}
	changed, worse := differences(f, before, after)
	if len(changed) == 0 && last == *r.DesignID {
		return "", false, refusal.Unfit("its rules were worked by this design already")
	}
	if len(changed) == 0 { // kept all the same: it is by these rules now
		return say.Reworked(nil, c.State, c.State), false, nil
	}
	was := c.State
	if worse && !c.State.Is(lifecycle.ToSettle) {
		if c.State.Is(lifecycle.TurnedDown) {
			if err := s.stopRefusal(ctx, tx, c); err != nil {
				return "", false, err
			}
		}
		if c, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.LookAgain, nil); err != nil {
			return "", false, err
		}
	}
	if err := trail.Write(ctx, tx, "reworked-rules", c.ID, c.RoundID, map[string]string{"changed": strings.Join(changed,
		"; ")}); err != nil {
		return "", false, err
	}
	if err := s.concludeWorked(ctx, tx, c); err != nil {
		return "", false, err
	}
	now, err := s.Cases.ByEntry(ctx, tx, c.EntryID)
	if err != nil {
		return "", false, err
	}
	return say.Reworked(changed, was, now.State), true, nil // those that are touched first
}

// lastDesign is by which design the rules of a case were worked last.
func (s *Store) lastDesign(ctx context.Context, tx *db.Tx, c application.Case) (design int64, err error) {
	err = tx.GetContext(ctx, &design, `SELECT COALESCE((SELECT design_id FROM worked WHERE entry_id = $1), $2)`,
		c.EntryID, c.DesignID)
	return design, err
}

// dropRules takes away findings of rules that the design no longer has, or that are
// not worked for this case.
func (s *Store) dropRules(ctx context.Context, tx *db.Tx, c application.Case, last int64, f *form.Form,
	path *form.Path) error {
	then, err := s.Cases.Rounds.Form(ctx, tx, last)
	if err != nil {
		return err
	}
	var gone []string
	for _, list := range [][]form.Rule{then.Design.Rules, f.Design.Rules} {
		for _, r := range list {
			if !slices.ContainsFunc(path.Rules, func(x form.RuleState) bool { return x.Key == r.Key }) {
				gone = append(gone, string(r.Key))
			}
		}
	}
	_, err = tx.ExecContext(ctx, `DELETE FROM finding WHERE entry_id = $1 AND rule = ANY($2)`, c.EntryID, gone)
	return err
}

// differences are the rules that come out otherwise; worse reports one that holds
// it up now and did not.
func differences(f *form.Form, before, after []Finding) (changed []string, worse bool) {
	names := say.RuleNames(f)
	was := map[form.Key]Finding{}
	for _, x := range before {
		was[x.Rule] = x
	}
	for _, x := range after {
		old, there := was[x.Rule]
		delete(was, x.Rule)
		if there && old.Result() == x.Result() {
			continue
		}
		from := form.NotYet
		if there {
			from = old.Result()
		}
		changed = append(changed, say.Reruled(names[x.Rule], from, x.Result()))
		worse = worse || x.Result() != form.Holds
	}
	for k, old := range was {
		name := names[k]
		if name == "" {
			name = string(k)
		}
		changed = append(changed, say.Reruled(name, old.Result(), form.NotYet))
	}
	slices.Sort(changed)
	return changed, worse
}

// workedBy keeps by which design the rules of an entry were worked.
func (s *Store) workedBy(ctx context.Context, tx *db.Tx, entry, design int64) error {
	_, err := tx.ExecContext(ctx,
		`INSERT INTO worked (entry_id, design_id) VALUES ($1, $2) ON CONFLICT (entry_id) DO UPDATE SET design_id = $2`,
		entry, design)
	return err
}

// Outdated lists the entries of a round whose checks are open and whose rules were
// worked by a design with other rules, lists or figures than the published one.
func (s *Store) Outdated(ctx context.Context, q db.Querier, r round.Round, f *form.Form) (entries []int64, err error) {
	if r.DesignID == nil {
		return nil, nil
	}
	var designs []int64
	if err := q.SelectContext(ctx, &designs, `
		SELECT DISTINCT COALESCE(w.design_id, e.design_id) FROM entry e JOIN application a ON a.id = e.application_id LEFT JOIN worked w ON w.entry_id = e.id
		WHERE a.round_id = $1 AND e.state = ANY($2)`, r.ID, lifecycle.With(lifecycle.Settles)); err != nil {
		return nil, err
	}
	var old []int64
	for _, d := range designs {
		if d == *r.DesignID {
			continue
		}
		then, err := s.Cases.Rounds.Form(ctx, q, d)
		if err != nil {
			return nil, err
		}
		if !form.SameRules(then.Design, f.Design) {
			old = append(old, d)
		}
	}
	if old == nil {
		return nil, nil
	}
	err = q.SelectContext(ctx, &entries, `
		SELECT e.id FROM entry e JOIN application a ON a.id = e.application_id LEFT JOIN worked w ON w.entry_id = e.id
		WHERE a.round_id = $1 AND e.state = ANY($2) AND COALESCE(w.design_id, e.design_id) = ANY($3) ORDER BY e.id`, r.ID,
		lifecycle.With(lifecycle.Settles), old)
	return entries, err
}
