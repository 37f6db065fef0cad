// Package check works every rule through for every sent application and lets
// the office settle what a machine cannot.
package check

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	core "ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/connection"
	"ulvant/internal/guidance"
	"ulvant/internal/intake"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/profile"
	"ulvant/internal/reference"
	"ulvant/internal/trail"
)

// Finding is one rule worked through for one entry.
type Finding struct {
	EntryID   int64 `db:"entry_id"`
	Rule      form.Key
	Outcome   form.Outcome
	Reason    string
	Settled   *form.Outcome
	Note      string
	SettledBy *int64     `db:"settled_by"`
	SettledAt *time.Time `db:"settled_at"`
}

// Result is what counts: what a person said, else what the machine found.
func (f Finding) Result() form.Outcome {
	if f.Settled != nil {
		return *f.Settled
	}
	return f.Outcome
}

// Store of findings.
type Store struct {
	DB    *db.DB
	Cases *application.Store
	Jobs  *jobs.Queue

	Materials *material.Store
	Guidance  *guidance.Store

	Referees *reference.Store
	Profiles *profile.Store
	Declared Declarations

	Connections *connection.Store
	Zone        func() *time.Location // of the office
}

// BodyRule stands for an organisation that nobody has looked over, beside the
// design's rules.
const BodyRule form.Key = "body-known"

// body says what is not known of the organisation an application is for; "" when
// the register or the office knows it, or there is none.
func (s *Store) body(ctx context.Context, tx *db.Tx, c application.Case) (string, error) {
	p, err := s.Profiles.For(ctx, tx, c.ID)
	if errors.Is(err, profile.ErrNotFound) {
		return "", nil
	}
	if err != nil {
		return "", err
	}
	return core.Unknown(p.Kind, p.Name, p.State), nil
}

// FilesRule stands for files that could not be opened, beside the design's rules.
const FilesRule form.Key = "files-open"

// Register takes up what follows from every send.
func (s *Store) Register() {
	jobs.Handle(s.Jobs, jobs.Short, func(ctx context.Context, at time.Time, sent intake.Sent) error {
		return s.takeUp(ctx, at, sent.Entry)
	})
	s.registerDeclared()
	s.registerLetters()
	s.registerBeyond()
	s.registerRegisters()
	jobs.Handle(s.Jobs, jobs.Short, func(ctx context.Context, at time.Time, x intake.Followed) error {
		return s.came(ctx, at, reference.Came{Entry: x.Entry})
	})
}

// taken is a sent case as its checks see it: its seal, with what came after it,
// walked.
type taken struct {
	c      application.Case
	f      *form.Form
	sealed application.Seal
	path   *form.Path
}

// take locks a case whose checks are in a state, and walks it; ok is false when
// it is in another.
func (s *Store) take(ctx context.Context, tx *db.Tx, entry int64, in lifecycle.Fact) (o taken, ok bool, err error) {
	if o.c, err = s.Cases.ByEntry(ctx, tx, entry); err != nil {
		return o, false, err
	}
	if o.c, err = s.Cases.Lock(ctx, tx, o.c, false); err != nil || !o.c.State.Is(in) {
		return o, false, err
	}
	if o.f, err = s.Cases.Rounds.Form(ctx, tx, o.c.DesignID); err != nil {
		return o, false, err
	}
	if o.sealed, err = s.Cases.Now(ctx, tx, *o.c.SealID); err != nil {
		return o, false, err
	}
	o.path = o.f.Walk(o.sealed.Decoded.Filled(o.c.LeadName))
	return o, true, nil
}

// unsettled lists the entries that a kind of finding, by the beginning of its
// rule's key, keeps waiting since some time.
func (s *Store) unsettled(ctx context.Context, begins string, since time.Time) (entries []int64, err error) {
	err = s.DB.SelectContext(ctx, &entries, `
		SELECT DISTINCT f.entry_id FROM finding f JOIN entry e ON e.id = f.entry_id
		WHERE f.rule LIKE $3 || '%' AND f.outcome = 'person' AND f.settled IS NULL AND f.worked_at < $1 AND e.state = ANY($2)`,
		since, lifecycle.With(lifecycle.ToSettle), begins)
	return entries, err
}

// Work every rule through for a sent entry, with what came of its declarations and what
// is written in its files. When all hold it is eligible; what a person must look at waits
// for the office.
func (s *Store) Work(ctx context.Context, tx *db.Tx, entry int64, declared []compared, read words) error {
	o, ok, err := s.take(ctx, tx, entry, lifecycle.ToCheck)
	if err != nil || !ok {
		return err
	}
	c, f, sealed, path := o.c, o.f, o.sealed, o.path
	counts := map[form.Outcome]int{}
	if err := s.putRules(ctx, tx, entry, path, counts); err != nil {
		return err
	}
	if err := s.workedBy(ctx, tx, entry, c.DesignID); err != nil {
		return err
	}
	filled, err := s.Cases.Filled(ctx, tx, c, f, tx.At)
	if err != nil {
		return err
	}
	if says := say.Unopened(filled, path); says != "" {
		counts[form.Person]++
		if err := s.put(ctx, tx, entry, FilesRule, form.Person, says); err != nil {
			return err
		}
	}
	for _, tick := range f.Ticks(path) { // what a machine cannot see
		counts[form.Person]++
		if err := s.put(ctx, tx, entry, tick.Rule, form.Person, say.Ticked(tick)); err != nil {
			return err
		}
	}
	if err := s.putCompared(ctx, tx, f, entry, declared, counts); err != nil {
		return err
	}
	if says, err := s.body(ctx, tx, c); err != nil {
		return err
	} else if says != "" {
		counts[form.Person]++
		if err := s.put(ctx, tx, entry, BodyRule, form.Person, says); err != nil {
			return err
		}
	}
	papers := map[form.Key][]string{}
	for _, l := range sealed.Decoded.Letters {
		if l.Paper {
			papers[l.Question] = append(papers[l.Question], l.Name)
		}
	}
	for question, names := range papers {
		counts[form.Person]++
		if err := s.put(ctx, tx, entry, form.PaperRule(question), form.Person,
			"Signed on paper by "+strings.Join(names, ", ")+". Open the scan and confirm it."); err != nil {
			return err
		}
	}
	if err := s.putLetters(ctx, tx, f, c, path, counts); err != nil {
		return err
	}
	if err := s.putPromised(ctx, tx, f, c, counts); err != nil {
		return err
	}
	if err := s.putRegisters(ctx, tx, c, counts); err != nil {
		return err
	}
	if err := s.putTurns(ctx, tx, f, c, path, counts); err != nil {
		return err
	}
	if err := s.putProposed(ctx, tx, f, c, path, counts); err != nil {
		return err
	}
	if err := s.Connections.Take(ctx, tx, c); err != nil {
		return err
	}
	if err := s.putTemplates(ctx, tx, c, &sealed.Decoded, counts); err != nil {
		return err
	}
	if err := s.putNamed(ctx, tx, f, c, &sealed.Decoded, read, counts); err != nil {
		return err
	}
	if err := s.putBeyond(ctx, tx, f, c, counts); err != nil {
		return err
	}
	if err := s.tellOthers(ctx, tx, c); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM finding WHERE entry_id = $1 AND worked_at < $2`, entry,
		tx.At); err != nil { // of a seal before this one
		return err
	}
	figures := map[string]string{}
	for _, o := range []form.Outcome{form.Holds, form.Person, form.Fails} {
		figures[string(o)] = strconv.Itoa(counts[o])
	}
	if err := trail.Write(ctx, tx, "worked-rules", c.ID, c.RoundID, figures); err != nil {
		return err
	}
	if c, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.FindComplete, nil); err != nil {
		return err
	}
	return s.concludeWorked(ctx, tx, c)
}

// putRules keeps how the rules of the design came out on a walk.
func (s *Store) putRules(ctx context.Context, tx *db.Tx, entry int64, path *form.Path,
	counts map[form.Outcome]int) error {
	var list []found
	for _, r := range path.Rules {
		if r.Outcome == form.NotYet { // the seal lacks what the rule reads
			r.Outcome, r.Reason = form.Person, "What the rule needs is not in the application. Somebody must look."
		}
		if r.Evidence != "" {
			r.Reason += " Looked up in " + r.Evidence + "."
		}
		counts[r.Outcome]++
		list = append(list, found{r.Key, r.Outcome, r.Reason})
	}
	return s.putAll(ctx, tx, entry, list)
}

// concludeWorked draws the conclusion where a machine has worked: nobody is
// refused by a machine alone.
func (s *Store) concludeWorked(ctx context.Context, tx *db.Tx, c application.Case) error {
	list, err := s.Of(ctx, tx, c.EntryID) // of what was handed back, some may be settled already
	if err != nil {
		return err
	}
	if slices.ContainsFunc(list, func(x Finding) bool { return x.Settled == nil && x.Outcome == form.Fails }) {
		return nil
	}
	return s.conclude(ctx, tx, c)
}

// found is how a rule came out.
type found struct {
	rule   form.Key
	o      form.Outcome
	reason string
}

// putAll keeps how rules of an entry came out, each once; what a person settled of
// one stands where it came out as before.
func (s *Store) putAll(ctx context.Context, tx *db.Tx, entry int64, list []found) error {
	if len(list) == 0 {
		return nil
	}
	rules, outcomes, reasons := make([]string, len(list)), make([]string, len(list)), make([]string, len(list))
	for i, f := range list {
		rules[i], outcomes[i], reasons[i] = string(f.rule), string(f.o), f.reason
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO finding (entry_id, rule, outcome, reason, worked_at)
		SELECT $1, n.rule, n.outcome, n.reason, $5 FROM unnest($2::text[], $3::text[], $4::text[]) AS n(rule, outcome, reason)
		ON CONFLICT (entry_id, rule) DO UPDATE SET worked_at = $5, outcome = excluded.outcome, reason = excluded.reason,
		  settled = CASE WHEN finding.outcome = excluded.outcome AND finding.reason = excluded.reason THEN finding.settled END,
		  note = CASE WHEN finding.outcome = excluded.outcome AND finding.reason = excluded.reason THEN finding.note ELSE '' END`,
		entry, rules, outcomes, reasons, tx.At)
	return err
}

func (s *Store) put(ctx context.Context, tx *db.Tx, entry int64, rule form.Key, o form.Outcome, reason string) error {
	return s.putAll(ctx, tx, entry, []found{{rule, o, reason}})
}

// Of lists the findings of an entry, the oldest first; pages bring them into the
// order of the design.
func (s *Store) Of(ctx context.Context, q db.Querier, entry int64) (out []Finding, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT entry_id, rule, outcome, reason, settled, note, settled_by, settled_at FROM finding WHERE entry_id = $1 ORDER BY worked_at, rule`, entry)
	return out, err
}

// ErrNote: settling needs a note.
var ErrNote = refusal.New("say in a note why").But("it stays with the case")

// Settle a rule by hand, with a note. When nothing is left open the entry
// becomes eligible or not eligible; the letter to a refused one waits for hold.
func (s *Store) Settle(ctx context.Context, tx *db.Tx, c application.Case, rule form.Key, yes bool, note string) error {
	if strings.TrimSpace(note) == "" || len(note) > 2000 {
		return ErrNote
	}
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	if !c.State.Is(lifecycle.Settles) {
		return refusal.Newf("it is %s now; its checks are closed", c.State)
	}
	outcome := form.Fails
	if yes {
		outcome = form.Holds
	}
	r, err := tx.ExecContext(ctx,
		`UPDATE finding SET settled = @settled, note = @note, settled_by = @settled_by, settled_at = @settled_at WHERE entry_id = @entry_id AND rule = @rule`,
		db.Named{"entry_id": c.EntryID, "rule": rule, "settled": outcome, "note": strings.TrimSpace(note),
			"settled_by": tx.By.ID,
			"settled_at": tx.At})
	if err != nil {
		return err
	}
	if n, _ := r.RowsAffected(); n == 0 {
		return refusal.New("this application has no such rule to settle")
	}
	if err := trail.Write(ctx, tx, "settled-rule", c.ID, c.RoundID,
		map[string]string{"rule": string(rule), "outcome": string(outcome)}); err != nil {
		return err
	}
	if err := s.goOn(ctx, tx, c, rule, yes); err != nil {
		return err
	}
	return s.conclude(ctx, tx, c)
}

func (s *Store) conclude(ctx context.Context, tx *db.Tx, c application.Case) error {
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	list, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	var reasons []string
	open := false
	for _, x := range list {
		switch x.Result() {
		case form.Person:
			open = true
		case form.Fails:
			reasons = append(reasons, "– "+reason(f, x))
		}
	}
	switch {
	case len(reasons) > 0 && !c.State.Is(lifecycle.TurnedDown):
		c, step, err := s.Cases.Transition(ctx, tx, c, lifecycle.Refuse, nil)
		if err != nil {
			return err
		}
		hold := time.Duration(f.Design.HoldMinutes) * time.Minute
		_, err = s.Cases.SendLetter(ctx, tx, c, form.Key(step.Letter),
			map[string]string{"reasons": strings.Join(reasons, "\n")}, tx.At.Add(hold))
		return err
	case len(reasons) == 0 && !open && !c.State.Is(lifecycle.ToRead):
		if c.State.Is(lifecycle.TurnedDown) {
			if err := s.stopRefusal(ctx, tx, c); err != nil {
				return err
			}
		}
		_, _, err := s.Cases.Transition(ctx, tx, c, lifecycle.FindEligible, nil)
		return err
	}
	return nil
}

// stopRefusal stops a refusal's letter that has not gone out yet.
func (s *Store) stopRefusal(ctx context.Context, tx *db.Tx, c application.Case) error {
	n, err := s.Cases.Post.CancelOf(ctx, tx, c.ID, "not-eligible")
	if err != nil || n == 0 {
		return err
	}
	return trail.Write(ctx, tx, "letters-cancelled", c.ID, c.RoundID, map[string]string{"letter": "not-eligible"})
}

// reason is the sentence for the letter: the person's note, or the rule's no.
func reason(f *form.Form, x Finding) string {
	if x.Settled != nil && x.Note != "" {
		return x.Note
	}
	for _, r := range f.Design.Rules {
		if r.Key == x.Rule {
			return r.No
		}
	}
	return x.Reason
}
