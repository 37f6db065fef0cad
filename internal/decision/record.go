package decision

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Choice is what the panel decided for one case; Version is the case's when
// the page was drawn.
type Choice struct {
	EntryID int64           `json:"entry"`
	Version int             `json:"version"`
	Outcome lifecycle.State `json:"outcome"`
	Amount  int64           `json:"amount"`          // minor units; counts for an award only
	Gifts   []GivenGift     `json:"gifts,omitempty"` // besides; nil for none
	Lines   []Line          `json:"lines,omitempty"` // awards that it is made up of, where the round gives several
}

// Line is one award that a decision gives.
type Line struct {
	Award  form.Key `json:"award"`
	Amount int64    `json:"amount"` // minor units
}

// Sitting is what is recorded in one act.
type Sitting struct {
	Stage   form.Key
	Choices []Choice
	Note    string // who decided, and when
	Reason  string // why recorded decisions are changed; "" where none is
	// LettersAt is when letters leave; zero: after the design’s hold.
	LettersAt time.Time
	// Batch is how many letters leave at once, the next a quarter of an hour later; 0: all
	// at once.
	Batch int
	// Reached is told how many cases are done; nil for nobody.
	Reached func(done int)
}

// deciding is one case of an act under way.
type deciding struct {
	Choice
	c      application.Case
	step   lifecycle.Step
	before *earlier // the decision it takes the place of
}

// earlier is a decision that stands.
type earlier struct {
	EntryID int64 `db:"entry_id"`
	Act     int64 `db:"act_id"`
	Outcome lifecycle.State
	Amount  int64
	Sent    *time.Time `db:"sent_at"` // when its letter went out; nil: the applicant does not know of it
	Asked   *int64
}

// Record the panel's decisions for all cases in one act, or none of it. Cases
// that were decided before are revised, with a reason. Letters are made at once
// and go out after the design's hold; what applicants are told changes then.
func (s *Store) Record(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, sit Sitting) (act int64,
	err error) {
	if len(sit.Choices) == 0 {
		return 0, refusal.Unfit("there is nothing to record").But("choose an outcome for at least one case")
	}
	if strings.TrimSpace(sit.Note) == "" || len(sit.Note) > 2000 {
		return 0, refusal.Unfit("say who decided and when, such as “Panel of 14 May, N. Sparrow in the chair”")
	}
	if len(sit.Reason) > 2000 {
		return 0, refusal.Unfit("say the reason in fewer words")
	}
	if err := lockRound(ctx, tx, r.ID); err != nil {
		return 0, err
	}
	list, err := s.locked(ctx, tx, r, f, sit)
	if err != nil {
		return 0, err
	}
	if err := s.notSentBack(ctx, tx, r, sit, list); err != nil {
		return 0, err
	}
	if err := s.fits(ctx, tx, r, f, list); err != nil {
		return 0, err
	}
	if err := s.linesFit(ctx, tx, r, f, list); err != nil {
		return 0, err
	}
	if err := s.giftsFit(ctx, tx, r, f, list); err != nil {
		return 0, err
	}
	next := f.NextStage(sit.Stage)
	if next != nil && !tx.At.Before(f.At(next.To)) && slices.ContainsFunc(list,
		func(d deciding) bool { return d.Outcome.Is(lifecycle.GoesOn) }) {
		return 0, refusal.Unfit(fmt.Sprintf("“%s” has closed; give it a later date in the design before you invite "+
			"anybody to it", next.Label))
	}
	order, err := s.Order(ctx, tx, r, f, sit.Stage)
	if err != nil {
		return 0, err
	}
	rank := map[int64]int{}
	for _, row := range order.Rows {
		rank[row.EntryID] = row.Rank
	}
	due := tx.At.Add(time.Duration(f.Design.HoldMinutes) * time.Minute)
	if !sit.LettersAt.IsZero() {
		if sit.LettersAt.Before(due) {
			return 0, refusal.In("letters-at", "Letters leave at the earliest after the hold, so that they can be stopped.")
		}
		due = sit.LettersAt
	}
	if err := tx.QueryRowxContext(ctx,
		`INSERT INTO act (round_id, at, by_id, note, reason, letters_at) VALUES (@round_id, @at, @by_id, @note, @reason, @letters_at) RETURNING id`,
		db.Named{"round_id": r.ID, "at": tx.At, "by_id": tx.By.ID, "note": strings.TrimSpace(sit.Note),
			"reason":     strings.TrimSpace(sit.Reason),
			"letters_at": due}).Scan(&act); err != nil {
		return 0, err
	}
	if err := s.change(ctx, tx, f, list, strings.TrimSpace(sit.Reason)); err != nil {
		return 0, err
	}
	return act, s.tell(ctx, tx, f, next, list, rank, act, due, sit)
}

// locked locks the cases of an act and finds the step of each.
func (s *Store) locked(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, sit Sitting) ([]deciding, error) {
	chosen := map[int64]Choice{}
	entries := make([]int64, len(sit.Choices))
	for i, ch := range sit.Choices {
		chosen[ch.EntryID], entries[i] = ch, ch.EntryID
	}
	cases, err := s.Cases.LockAll(ctx, tx, entries)
	if err != nil {
		return nil, err
	}
	if len(cases) != len(chosen) {
		return nil, application.ErrNotFound
	}
	var were []earlier
	if err := tx.SelectContext(ctx, &were, `
		SELECT DISTINCT ON (d.entry_id) d.entry_id, d.act_id, d.outcome, d.amount, o.sent_at, st.asked FROM decision d
		JOIN standing st ON st.entry_id = d.entry_id LEFT JOIN post o ON o.id = d.post_id
		WHERE d.entry_id = ANY($1) ORDER BY d.entry_id, d.act_id DESC`, entries); err != nil {
		return nil, err
	}
	before := map[int64]*earlier{}
	for i := range were {
		before[were[i].EntryID] = &were[i]
	}
	var changed []string
	last, read := f.NextStage(sit.Stage) == nil, f.ReadAfter(sit.Stage)
	list := make([]deciding, len(cases))
	for i, c := range cases {
		ch := chosen[c.EntryID]
		if c.RoundID != r.ID || form.Key(c.Stage) != sit.Stage {
			return nil, application.ErrNotFound
		}
		if c.Version != ch.Version {
			changed = append(changed, c.Ref)
			continue
		}
		if !slices.Contains(lifecycle.Outcomes(last), ch.Outcome) {
			return nil, refusal.Unfit(fmt.Sprintf("%q is not an outcome of this stage", ch.Outcome))
		}
		if !ch.Outcome.Is(lifecycle.Gives) {
			ch.Amount, ch.Lines, ch.Gifts = 0, nil, nil
		}
		ch.Gifts = slices.DeleteFunc(slices.Clone(ch.Gifts), func(x GivenGift) bool { return x.Units == 0 })
		event, _ := lifecycle.OutcomeEvent(ch.Outcome)
		step, err := lifecycle.Next(c.State, event, read)
		if err != nil {
			if step, err = lifecycle.Revise(c.State, event); err == nil && strings.TrimSpace(sit.Reason) == "" {
				return nil, refusal.Unfit("say why the decision for " + c.Ref + " is changed; the reason is kept with it")
			}
		}
		if err != nil {
			return nil, refusal.Unfit(c.Ref + ": " + err.Error())
		}
		list[i] = deciding{Choice: ch, c: c, step: step}
		if c.State.Decided() {
			list[i].before = before[c.EntryID]
		}
	}
	if len(changed) > 0 {
		return nil, refusal.New("nothing was recorded, because these cases changed since the page was drawn: " +
			strings.Join(changed, ", ")).But("look at the order again and record anew")
	}
	return list, nil
}

// fits sees to it that no award is more than was asked, unless the round says it
// may be, and all of them together no more than the fund.
func (s *Store) fits(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, list []deciding) error {
	entries, asks := make([]int64, len(list)), make(map[int64]*int64, len(list))
	for i, d := range list {
		entries[i] = d.EntryID
	}
	var asked []struct {
		EntryID int64 `db:"entry_id"`
		Asked   *int64
	}
	if err := tx.SelectContext(ctx, &asked, `SELECT entry_id, asked FROM standing WHERE entry_id = ANY($1)`,
		entries); err != nil {
		return err
	}
	for _, a := range asked {
		asks[a.EntryID] = a.Asked
	}
	funds := f.Design.Funds()
	given := make([]int64, len(funds)) // by each of them
	streams, err := s.streams(ctx, tx, f, entries)
	if err != nil {
		return err
	}
	fundOf := func(stream string) int {
		return max(0, slices.IndexFunc(funds, func(x form.Fund) bool { return x.Stream != "" && string(x.Stream) == stream }))
	}
	var total int64
	for _, d := range list {
		if !d.Outcome.Is(lifecycle.Gives) {
			continue
		}
		a := asks[d.EntryID]
		switch {
		case d.Amount < 0 || d.Amount == 0 && a != nil && *a > 0 && d.Lines == nil && len(d.Gifts) == 0:
			return refusal.Unfit("say how much is awarded to " + d.c.Ref)
		case a != nil && d.Amount > *a && !f.Design.MoreThanAsked && d.Lines == nil:
			return refusal.Unfit(fmt.Sprintf("%s asked for %s; %s would be %s more than that. Give what was asked or less, "+
				"or let the design say that more may be given", d.c.Ref,
				money.Format(*a, f.Design.Currency), money.Format(d.Amount, f.Design.Currency), money.Format(d.Amount-*a,
					f.Design.Currency)))
		}
		total += d.Amount
		given[fundOf(streams[d.EntryID])] += d.Amount
	}
	var others []struct { // what others have by their latest decision
		EntryID int64 `db:"id"`
		Amount  int64
	}
	if err := tx.SelectContext(ctx, &others, `
		SELECT e.id, d.amount FROM entry e JOIN application a ON a.id = e.application_id
		JOIN LATERAL (SELECT outcome, left_of(act_id, entry_id, amount) AS amount FROM decision WHERE entry_id = e.id ORDER BY act_id DESC LIMIT 1) d ON true
		WHERE a.round_id = $1 AND e.state = ANY($3) AND d.outcome = ANY($3) AND e.id <> ALL($2)`, r.ID, entries, lifecycle.With(lifecycle.Gives)); err != nil {
		return err
	}
	var before int64
	ids := make([]int64, len(others))
	for i, o := range others {
		ids[i] = o.EntryID
		before += o.Amount
	}
	if len(funds) > 1 {
		theirs, err := s.streams(ctx, tx, f, ids)
		if err != nil {
			return err
		}
		sums := slices.Clone(given)
		for _, o := range others {
			sums[fundOf(theirs[o.EntryID])] += o.Amount
		}
		for k, x := range funds {
			if over := sums[k] - x.Money; over > 0 && given[k] > 0 {
				return refusal.Unfit(fmt.Sprintf("the awards from “%s” come to %s, which is %s more than there is of it", x.Label,
					money.Format(sums[k], f.Design.Currency), money.Format(over, f.Design.Currency)))
			}
		}
	}
	if over := total + before - f.Design.Fund; over > 0 && total > 0 {
		return refusal.Unfit(fmt.Sprintf("the awards come to %s, which is %s more than the fund",
			money.Format(total+before, f.Design.Currency), money.Format(over, f.Design.Currency)))
	}
	return nil
}

// change takes every case to its outcome. An invitation to the next stage that
// is revised is taken back; a reason goes to the trail.
func (s *Store) change(ctx context.Context, tx *db.Tx, f *form.Form, list []deciding, reason string) error {
	changes := make([]application.Change, len(list))
	entries := make([]int64, len(list))
	var revised []trail.Entry
	for i, d := range list {
		if d.c.State.Is(lifecycle.GoesOn) && !d.Outcome.Is(lifecycle.GoesOn) {
			if err := s.Cases.CloseNext(ctx, tx, d.c); errors.Is(err, application.ErrTakenUp) {
				return refusal.Unfit(d.c.Ref + ": " + err.Error())
			} else if err != nil {
				return err
			}
		}
		if d.before != nil && reason != "" {
			revised = append(revised, trail.Entry{Verb: "revised", Application: d.c.ID, Round: d.c.RoundID,
				Figures: map[string]string{"reason": reason}})
		}
		entries[i] = d.EntryID
		gifts, units := giftsSaid(f, d.Gifts)
		changes[i] = application.Change{Case: d.c, Step: d.step,
			Figures: map[string]string{"amount": strconv.FormatInt(d.Amount, 10),
				"gifts": say.AndGifts("", gifts, units, f.Design.Currency)}}
	}
	if err := trail.WriteAll(ctx, tx, revised); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM choice WHERE entry_id = ANY($1)`, entries); err != nil {
		return err
	}
	return s.Cases.ApplyAll(ctx, tx, changes)
}

// betweenBatches is how long after one batch of letters the next leaves.
const betweenBatches = 15 * time.Minute

// MostBatch is the greatest number of letters a batch can be given.
const MostBatch = 100_000

// LeavesAt is when the letter at a place, from 0, leaves, where the first leave at due.
func LeavesAt(due time.Time, batch, place int) time.Time {
	if batch <= 0 || place <= 0 {
		return due
	}
	return due.Add(time.Duration(place/batch) * betweenBatches)
}

// chunk is how many letters are made between two reports of progress.
const chunk = 250

// tell makes the letters and keeps the decisions beside them.
func (s *Store) tell(ctx context.Context, tx *db.Tx, f *form.Form, next *form.Stage, list []deciding,
	rank map[int64]int, act int64, due time.Time, sit Sitting) error {
	whys, err := s.whys(ctx, tx, f, list)
	if err != nil {
		return err
	}
	answerBy := time.Time{} // of all of them, by when the last leaves
	if f.Offers() {
		answerBy = f.OfferEnds(LeavesAt(due, sit.Batch, len(list)-1))
	}
	for from, n := 0, 0; from < len(list); from += n {
		if n = min(chunk, len(list)-from); sit.Batch > 0 {
			n = min(n, sit.Batch-from%sit.Batch) // a part never lies in two batches
		}
		part := list[from : from+n]
		told := make([]application.Told, len(part))
		entries, outcomes, amounts, ranks, befores := make([]int64, n), make([]string, n), make([]int64, n), make([]int32,
			n), make([]int64, n)
		for i, d := range part {
			values := map[string]string{"amount": money.Format(d.Amount, f.Design.Currency),
				"place": strconv.Itoa(rank[d.EntryID]), "reasons": whys[d.EntryID].Reasons, "notes": whys[d.EntryID].Notes,
				"awards": awardsSaid(f, d.Choice)}
			gifts, units := giftsSaid(f, d.Gifts)
			values["gifts"] = say.GiftLines(gifts, units, f.Design.Currency)
			if next != nil {
				maps.Copy(values, f.StageValues(next))
			}
			told[i] = application.Told{Case: d.c, Key: form.Key(d.step.Letter), Extra: values}
			for _, l := range d.Lines {
				told[i].Awards = append(told[i].Awards, l.Award)
			}
		}
		if err := s.Cases.Texts(ctx, tx, f, told); err != nil {
			return err
		}
		for i, d := range part {
			values, text := told[i].Extra, told[i].Text.Body
			if values["notes"] != "" && !strings.Contains(text, "{{notes}}") {
				told[i].After = say.ReadersWrote(values["notes"])
			}
			if d.Lines != nil && !strings.Contains(text, "{{awards}}") {
				told[i].After = strings.TrimSpace(say.GivenAwards(values["awards"]) + "\n\n" + told[i].After)
			}
			if values["gifts"] != "" && !strings.Contains(text, "{{gifts}}") {
				told[i].After = strings.TrimSpace(say.GivenBesides(values["gifts"], d.Amount == 0) + "\n\n" + told[i].After)
			}
			if f.Offers() && d.Outcome.Is(lifecycle.Gives) {
				told[i].After = strings.TrimSpace(told[i].After + "\n\n" + say.AnswerBy(answerBy, f.Zone, len(d.Lines)))
			}
			entries[i], outcomes[i], amounts[i], ranks[i] = d.EntryID, string(d.Outcome), d.Amount, int32(rank[d.EntryID])
			if d.before != nil {
				befores[i] = d.before.Act
				if d.before.Sent != nil {
					told[i].Before = "This letter takes the place of the one we sent you on " +
						calendar.DateOf(*d.before.Sent, f.Zone).Words() + "."
				}
			}
		}
		letters, err := s.Cases.SendLetters(ctx, tx, f, told, LeavesAt(due, sit.Batch, from), act)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO decision (act_id, entry_id, outcome, amount, rank, post_id, before_act)
			SELECT @act_id, n.entry, n.outcome, n.amount, n.rank, n.post, NULLIF(n.before, 0)
			FROM unnest(@entries::bigint[], @outcomes::text[], @amounts::bigint[], @ranks::int[], @letters::bigint[], @befores::bigint[]) AS n(entry, outcome, amount, rank, post, before)`,
			db.Named{"act_id": act, "entries": entries, "outcomes": outcomes, "amounts": amounts, "ranks": ranks,
				"letters": letters, "befores": befores}); err != nil {
			return err
		}
		if err := s.keepLines(ctx, tx, act, part); err != nil {
			return err
		}
		if err := s.keepGifts(ctx, tx, act, part); err != nil {
			return err
		}
		if sit.Reached != nil {
			sit.Reached(from + len(part))
		}
	}
	return nil
}
