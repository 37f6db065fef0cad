package intake

import (
	"context"
	"errors"
	"strconv"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// Stopped is the answer to a send while something stands in the way.
type Stopped struct{ Obstacles []form.Obstacle }

// Error says how much stands in the way.
func (e Stopped) Error() string {
	return strconv.Itoa(len(e.Obstacles)) + " things still stand in the way of sending it"
}

// Sent is the job that follows every send; who checks takes it up.
type Sent struct {
	Entry int64 `json:"entry"`
}

// Kind names the job.
func (Sent) Kind() string { return "check.work" }

// Send seals a draft, once. The instant that counts is tx.At, when the
// request's headers arrived; the row's lock may come later. Sending what was
// sent already succeeds and changes nothing.
func (s *Store) Send(ctx context.Context, tx *db.Tx, c application.Case) (application.Case, error) {
	w, err := s.Cases.Open(ctx, tx, c, false)
	c, f := w.Case, w.Form
	if s.Locked != nil {
		s.Locked()
	}
	if err != nil {
		if errors.Is(err, application.ErrNotDraft) && c.State.Is(lifecycle.In|lifecycle.Owes) {
			return c, nil
		}
		return c, err
	}
	if err := s.Cases.LockOthers(ctx, tx, c, f); err != nil {
		return c, err
	}
	filled, err := s.Cases.Filled(ctx, tx, c, f, tx.At)
	if err != nil {
		return c, err
	}
	path := f.Walk(filled)
	if held, err := s.Fees.HoldCode(ctx, tx, c, f, filled, path); err != nil {
		return c, err
	} else if held { // others may have used the code meanwhile
		path = f.Walk(filled)
	}
	if len(path.Obstacles) > 0 {
		return c, Stopped{path.Obstacles}
	}
	doc, err := s.document(ctx, tx, c, f, filled, path)
	if err != nil {
		return c, err
	}
	raw, sum, err := doc.Canonical()
	if err != nil {
		return c, err
	}
	id, err := s.Cases.PutSeal(ctx, tx, c, raw, sum, seal.Sign(s.SealKey, sum))
	if err != nil {
		return c, err
	}
	if err := s.Cases.Promise(ctx, tx, c.EntryID, f.Promises(path)); err != nil {
		return c, err
	}
	if err := trail.Write(ctx, tx, "sent", c.ID, c.RoundID, map[string]string{"seal": hex8(sum)}); err != nil {
		return c, err
	}
	owes, err := s.Fees.Charge(ctx, tx, c, f, path.Charge())
	if err != nil {
		return c, err
	}
	if owes {
		if c, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.SendOwing, nil); err != nil {
			return c, err
		}
		return c, s.Fees.TellDue(ctx, tx, c, f)
	}
	return s.enter(ctx, tx, c, lifecycle.Send, id)
}

// enter lets a sealed case in: its state, the receipt with its copy, its checks.
func (s *Store) enter(ctx context.Context, tx *db.Tx, c application.Case, by lifecycle.Event,
	seal int64) (application.Case, error) {
	c, step, err := s.Cases.Transition(ctx, tx, c, by, nil)
	if err != nil {
		return c, err
	}
	l, err := s.Cases.Letter(ctx, tx, c, form.Key(step.Letter), nil)
	if err != nil {
		return c, err
	}
	l.Seal = seal
	if _, err := s.Cases.Post.Queue(ctx, tx, l); err != nil {
		return c, err
	}
	return c, s.Jobs.Enqueue(ctx, tx, Sent{c.EntryID}, tx.At)
}

// EnterPaid lets a case in whose fee is settled.
func (s *Store) EnterPaid(ctx context.Context, tx *db.Tx, c application.Case) error {
	_, err := s.enter(ctx, tx, c, lifecycle.Pay, *c.SealID)
	return err
}

func hex8(sum [32]byte) string {
	const digits = "0123456789abcdef"
	out := make([]byte, 0, 16)
	for _, b := range sum[:8] {
		out = append(out, digits[b>>4], digits[b&15])
	}
	return string(out)
}

// Late writes an attempt after closing to the trail: how late it was.
func (s *Store) Late(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form) error {
	late := tx.At.Sub(c.Window(f).Closes)
	return trail.Write(ctx, tx, "late", c.ID, c.RoundID, map[string]string{"late": strconv.FormatInt(late.Milliseconds(),
		10)})
}

func (s *Store) document(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, filled *form.Filled,
	path *form.Path) (*seal.Document, error) {
	number, err := s.Cases.Rounds.Number(ctx, tx, c.DesignID)
	if err != nil {
		return nil, err
	}
	doc := &seal.Document{Ref: c.Ref, Title: c.Title, Round: f.Design.Key, Design: number, Stage: form.Key(c.Stage),
		At: tx.At.UTC(), By: c.LeadName,
		Day: filled.Today, Others: filled.Others, Signers: filled.Signers, Before: seal.BeforeOf(filled, path),
		Waived:  filled.Paying.Waived,
		Answers: seal.Answers(filled, path), Files: []seal.File{}, Letters: []seal.Letter{}}
	if path.Charge() != nil {
		doc.Priced = filled.Paying.At.UTC()
	}
	onPath := func(k form.Key) bool {
		st := path.Find(k)
		return st != nil && st.Asked == condition.Yes
	}
	list, err := s.Materials.Of(ctx, tx, c.EntryID)
	if err != nil {
		return nil, err
	}
	for _, m := range list {
		if onPath(m.Slot) {
			doc.Files = append(doc.Files, seal.File{ID: m.ID, Slot: m.Slot, Name: m.Name, Size: m.Size, SHA256: m.SHA256,
				Facts: m.Facts.Facts})
		}
	}
	doc.Letters, err = s.Referees.Letters(ctx, tx, f, c, onPath)
	return doc, err
}

// Withdraw takes an application out, before anything is decided.
func (s *Store) Withdraw(ctx context.Context, tx *db.Tx, c application.Case) error {
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	if c.State != c.Told { // what was decided is not told yet, and not here either
		return ErrBeingDecided
	}
	if _, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.Withdraw, nil); err != nil {
		return err
	}
	if err := s.Fees.Withdrawn(ctx, tx, c); err != nil {
		return err
	}
	_, err = s.Cases.Post.Queue(ctx, tx, post.Letter{Kind: "withdrawn", Account: c.LeadID, Application: c.ID,
		Round: c.RoundID, To: c.LeadEmail, ToName: c.LeadName,
		Subject: c.Ref + " is withdrawn", Body: "Dear " + c.LeadName + ",\n\n“" + c.Title + "” for " + c.RoundName + " (" +
			c.Ref + ") is withdrawn, as you asked. Nobody reads it any more, and it counts for nothing. You can still read " +
			"it under “My applications”.\n\nIf it was not you, write to us at once.\n"})
	return err
}

// ErrBeingDecided: it cannot be withdrawn in these minutes.
var ErrBeingDecided = refusal.Unfit("The office is deciding about it at the moment, so it cannot be withdrawn " +
	"here. Write to the office if you want to.")
