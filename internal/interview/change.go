package interview

import (
	"context"
	"database/sql"
	"errors"
	"slices"
	"strings"
	"time"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// lock an interview that is still to come; the case is locked first.
func (s *Store) lock(ctx context.Context, tx *db.Tx, c application.Case) (application.Case, *form.Form, Meeting,
	error) {
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return c, nil, Meeting{}, err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return c, nil, Meeting{}, err
	}
	m, err := s.Of(ctx, tx, c.EntryID)
	if err == nil && !c.State.Is(lifecycle.ToMeet) {
		err = ErrOver
	}
	return c, f, m, err
}

// Choose a time, by whoever leads a case.
func (s *Store) Choose(ctx context.Context, tx *db.Tx, c application.Case, slot int64) error {
	c, f, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if m.ChooseBy == nil || !m.ChooseBy.After(tx.At) {
		return refusal.Unfit("the time to choose is over").But("the office gives you a time")
	}
	free, err := s.Free(ctx, tx, c, f, tx.At)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(free, func(x Slot) bool { return x.ID == slot }) {
		return ErrTaken
	}
	return s.put(ctx, tx, c, f, slot, Comes, "")
}

// Move a case to another time, by the office, with a reason when they had one.
func (s *Store) Move(ctx context.Context, tx *db.Tx, c application.Case, slot int64, why string) error {
	c, f, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if why = strings.TrimSpace(why); m.SlotID != nil && why == "" || len(why) > 1000 {
		return refusal.In("why", "Say why it is moved, in up to 1,000 characters; they are told.")
	}
	var day int64
	if err := tx.GetContext(ctx, &day, `
		SELECT t.day_id FROM interview_slot t JOIN interview_day d ON d.id = t.day_id WHERE t.id = $1 AND d.round_id = $2`, slot, c.RoundID); errors.Is(err, sql.ErrNoRows) {
		return ErrTaken
	} else if err != nil {
		return err
	}
	d, err := s.Day(ctx, tx, c.RoundID, day)
	if err != nil {
		return err
	}
	bars, err := s.bars(ctx, tx, []Day{d}, []int64{c.ID})
	if err != nil {
		return err
	}
	if who := bars[c.ID][day]; who != "" {
		return refusal.Unfit(who + " of this panel must not meet " + c.LeadName).But("choose a time of another panel")
	}
	return s.put(ctx, tx, c, f, slot, Silent, why)
}

// Answer of whoever leads a case: they come, or they cannot, with a reason.
func (s *Store) Answer(ctx context.Context, tx *db.Tx, c application.Case, comes bool, why string) error {
	c, _, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	why = strings.TrimSpace(why)
	switch {
	case m.SlotID == nil:
		return refusal.Unfit("you have no time yet")
	case !comes && (why == "" || len(why) > 1000):
		return refusal.In("why", "Say why you cannot come, and when you could, in up to 1,000 characters.")
	}
	reply, verb := Comes, say.Verb("interview-accepted")
	if !comes {
		reply, verb = Cannot, "interview-refused"
	} else {
		why = ""
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE interview SET reply = $2, replied_at = $3, why = $4, version = version + 1 WHERE entry_id = $1`,
		c.EntryID, reply, tx.At, why); err != nil {
		return err
	}
	figures := map[string]string{}
	if why != "" {
		figures["why"] = why
	}
	return trail.Write(ctx, tx, verb, c.ID, c.RoundID, figures)
}

// SetZone keeps where somebody is: an IANA name, "" for the funder's zone.
func (s *Store) SetZone(ctx context.Context, tx *db.Tx, c application.Case, zone string) error {
	if _, err := time.LoadLocation(zone); err != nil || zone == "Local" || len(zone) > 60 {
		return refusal.In("zone", "There is no time zone “"+zone+"”. Choose one of the list.")
	}
	if _, err := s.Cases.Lock(ctx, tx, c, false); err != nil {
		return err
	}
	res, err := tx.ExecContext(ctx, `UPDATE interview SET zone = $2 WHERE entry_id = $1`, c.EntryID, zone)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNotInvited
	}
	return nil
}

// CallOff takes the invitation back, with a reason that they are told; a time they had
// is cancelled in their calendar, and the case is decided without.
func (s *Store) CallOff(ctx context.Context, tx *db.Tx, c application.Case, why string) error {
	c, f, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if why = strings.TrimSpace(why); why == "" || len(why) > 1000 {
		return refusal.In("why", "Say why it is called off, in up to 1,000 characters; they are told.")
	}
	if err := s.free(ctx, tx, c, f, m, say.InterviewOff, why); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM interview WHERE entry_id = $1`, c.EntryID); err != nil {
		return err
	}
	_, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.CallOff, map[string]string{"why": why})
	return err
}

// free gives back the time of a case, and tells of it with a CANCEL.
func (s *Store) free(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, m Meeting,
	tell func(say.Interviewed) say.Mail, why string) error {
	who, calendar := s.caseFor(c, f), ""
	who.Why = why
	if m.SlotID != nil {
		_, d, x, err := s.When(ctx, tx, c)
		if err != nil {
			return err
		}
		m.Sequence++
		who.At, who.Minutes, who.Zone, who.Place, who.Link = x.Starts, x.Minutes, m.In(f.Zone), d.Place, d.Link
		calendar = s.calendar(tx.At, c, m, d, x, true)
		if _, err := tx.ExecContext(ctx, `
			UPDATE interview SET slot_id = NULL, day_id = NULL, sequence = $2, reply = '', replied_at = NULL, why = '', version = version + 1
			WHERE entry_id = $1`, c.EntryID, m.Sequence); err != nil {
			return err
		}
	}
	return s.write(ctx, tx, c, tell(who), calendar)
}

// After is what happens when somebody did not come.
type After string

// What can happen then.
const (
	Again   After = "again"   // they choose or are given another time
	Without After = "without" // the case goes on without an interview
)

var thens = map[After]string{Again: "they get another time", Without: "the case goes on without an interview"}

// DidNotCome records that somebody was not there, with what happens then.
func (s *Store) DidNotCome(ctx context.Context, tx *db.Tx, c application.Case, then After, why string) error {
	c, f, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if why = strings.TrimSpace(why); len(why) > 1000 {
		return refusal.In("why", "Say it in up to 1,000 characters.")
	}
	switch {
	case thens[then] == "":
		return refusal.In("then", "Say what happens now: another time, or on without an interview.")
	case m.SlotID == nil:
		return refusal.Unfit("they have no time yet")
	}
	_, _, x, err := s.When(ctx, tx, c)
	if err != nil {
		return err
	}
	if x.Starts.After(tx.At) {
		return refusal.Unfit("the interview is still to come").But("move it or call it off")
	}
	if err := trail.Write(ctx, tx, "interview-missed", c.ID, c.RoundID, map[string]string{
		"at": x.Starts.In(f.Zone).Format("2 January 2006, 15:04"), "then": thens[then]}); err != nil {
		return err
	}
	if then == Again {
		return s.free(ctx, tx, c, f, m, say.InterviewMissed, why)
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE interview SET outcome = 'absent', outcome_at = $2, outcome_why = $3, version = version + 1 WHERE entry_id = $1`, c.EntryID, tx.At,
		why); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM interview_said WHERE entry_id = $1`, c.EntryID); err != nil {
		return err
	}
	_, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.FinishMeet, nil)
	return err
}
