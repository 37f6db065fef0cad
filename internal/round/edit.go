package round

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// Change of a working design: operations made together.
type Change struct {
	Number   int
	At       time.Time
	ByID     int64 `db:"by_id"`
	Sentence string
	Path     string
	UndoneAt *time.Time `db:"undone_at"`
}

// Errors that people can do something about.
var (
	ErrNothingToUndo = refusal.New("there is nothing of yours to undo")
	ErrNothingToRedo = refusal.New("there is nothing to do again")
	ErrOverlaid      = refusal.New("somebody changed the same thing since").But("undoing would lose their change. Set " +
		"it by hand")
)

// Broken is a change after which the document would not be a design any more.
type Broken struct{ Faults []form.Fault }

// Error lists what would be wrong.
func (b Broken) Error() string { return b.Says() }

// Says it as a part of a sentence.
func (b Broken) Says() string {
	var out []string
	for _, f := range b.Faults {
		out = append(out, f.Says)
	}
	return strings.Join(out, "; ")
}

// Edit makes operations on the working design, all or none, and keeps them
// with what undoes them. What is being worked on may have faults; only the
// round's own particulars must always be whole.
func (s *Store) Edit(ctx context.Context, tx *db.Tx, id int64, at string, ops []design.Op) (Change, error) {
	if len(ops) == 0 {
		return Change{}, nil
	}
	working, err := s.lockWorking(ctx, tx, id)
	if err != nil {
		return Change{}, err
	}
	out, inverse, err := s.apply(working, ops)
	if err != nil {
		return Change{}, err
	}
	c := Change{At: tx.At, ByID: tx.By.ID, Sentence: design.Describe(working, ops[0]), Path: at}
	if n := len(ops) - 1; n > 0 {
		c.Sentence += " and more"
	}
	do, undo := encode(ops), encode(inverse)
	err = tx.QueryRowxContext(ctx, `
		INSERT INTO operation (round_id, number, at, by_id, ops, inverse, sentence, path)
		SELECT @round_id, COALESCE(max(number), 0) + 1, @at, @by_id, @ops, @inverse, @sentence, @path FROM operation WHERE round_id = @round_id RETURNING number`,
		db.Named{"round_id": id, "at": tx.At, "by_id": tx.By.ID, "ops": do, "inverse": undo,
			"sentence": c.Sentence, "path": at}).Scan(&c.Number)
	if err != nil {
		return c, err
	}
	return c, s.keepWorking(ctx, tx, id, out)
}

func encode(ops []design.Op) string {
	b, err := json.Marshal(ops)
	if err != nil {
		panic(err) // operations always encode
	}
	return string(b)
}

// worked is a working document and what it compiles to.
type worked struct {
	raw  []byte
	form *form.Form
}

// apply makes the operations and finds that what comes out is still a design.
func (s *Store) apply(working []byte, ops []design.Op) (out worked, inverse []design.Op, err error) {
	out.raw, inverse, err = design.Apply(working, ops)
	if err != nil {
		return out, nil, err
	}
	d, err := Decode(out.raw)
	if err != nil {
		return out, nil, err
	}
	var faults []form.Fault
	out.form, faults = form.Draft(d)
	var head []form.Fault
	for _, f := range faults {
		if f.Path == "" {
			head = append(head, f)
		}
	}
	if len(head) > 0 {
		return out, nil, Broken{head}
	}
	return out, inverse, nil
}

func (s *Store) lockWorking(ctx context.Context, tx *db.Tx, id int64) (raw []byte, err error) {
	err = tx.GetContext(ctx, &raw, `SELECT working FROM round WHERE id = $1 FOR UPDATE`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return raw, err
}

// keepWorking stores the document. Lists show it only once it is published.
func (s *Store) keepWorking(ctx context.Context, tx *db.Tx, id int64, w worked) error {
	opens, closes, answer := instants(w.form)
	d := w.form.Design
	_, err := tx.ExecContext(ctx, `
		UPDATE round SET working = @working, changed_at = @changed_at,
		  name = CASE WHEN design_id IS NULL THEN @name ELSE name END,
		  programme = CASE WHEN design_id IS NULL THEN @programme ELSE programme END,
		  currency = CASE WHEN design_id IS NULL THEN @currency ELSE currency END,
		  opens_at = CASE WHEN design_id IS NULL THEN @opens_at ELSE opens_at END,
		  closes_at = CASE WHEN design_id IS NULL THEN @closes_at ELSE closes_at END,
		  answer_at = CASE WHEN design_id IS NULL THEN @answer_at ELSE answer_at END
		WHERE id = @id`, db.Named{"id": id, "working": string(w.raw), "changed_at": tx.At, "name": d.Name, "programme": d.Programme,
		"currency": d.Currency, "opens_at": opens, "closes_at": closes, "answer_at": answer})
	return err
}

// Undo takes the officer's latest change back. When somebody changed the same
// thing since, nothing is undone and ErrOverlaid says so.
func (s *Store) Undo(ctx context.Context, tx *db.Tx, id int64) (Change, error) {
	return s.turn(ctx, tx, id, `undone_at IS NULL`, "inverse", ErrNothingToUndo)
}

// Redo makes the change again that the officer undid last, unless they have
// made another since.
func (s *Store) Redo(ctx context.Context, tx *db.Tx, id int64) (Change, error) {
	return s.turn(ctx, tx, id,
		`undone_at IS NOT NULL AND number > COALESCE((SELECT max(number) FROM operation o WHERE o.round_id = $1 AND o.by_id = $2 AND o.undone_at IS NULL), 0)`, "ops", ErrNothingToRedo)
}

func (s *Store) turn(ctx context.Context, tx *db.Tx, id int64, which, column string, none error) (Change, error) {
	working, err := s.lockWorking(ctx, tx, id)
	if err != nil {
		return Change{}, err
	}
	order := "DESC"
	if column == "ops" {
		order = "ASC"
	}
	var row struct {
		Change
		Ops []byte
	}
	err = tx.GetContext(ctx, &row, `
		SELECT number, at, by_id, sentence, path, undone_at, `+column+` AS ops FROM operation
		WHERE round_id = $1 AND by_id = $2 AND `+which+` ORDER BY number `+order+` LIMIT 1`, id, tx.By.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return Change{}, none
	}
	if err != nil {
		return Change{}, err
	}
	var ops []design.Op
	if err := json.Unmarshal(row.Ops, &ops); err != nil {
		return Change{}, err
	}
	if column == "ops" {
		for i := range ops {
			ops[i].Undo = true // its keys may have been retired by nobody since
		}
	}
	out, _, err := s.apply(working, ops)
	var conflict design.Conflict
	if errors.As(err, &conflict) || errors.Is(err, design.ErrGone) {
		return row.Change, ErrOverlaid
	}
	if err != nil {
		return row.Change, err
	}
	undone := &tx.At
	if column == "ops" {
		undone = nil
	}
	if _, err := tx.ExecContext(ctx, `UPDATE operation SET undone_at = $3 WHERE round_id = $1 AND number = $2`, id,
		row.Number, undone); err != nil {
		return row.Change, err
	}
	return row.Change, s.keepWorking(ctx, tx, id, out)
}

// Replace makes the working design another document, member by member, so that
// it can be undone like any change. The design must be whole.
func (s *Store) Replace(ctx context.Context, tx *db.Tx, id int64, d *form.Design) error {
	_, raw, err := compile(d)
	if err != nil {
		return err
	}
	working, err := s.lockWorking(ctx, tx, id)
	if err != nil {
		return err
	}
	ops, err := design.Difference(working, raw)
	if err != nil {
		return err
	}
	if _, err := s.Edit(ctx, tx, id, "", ops); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "round-changed", 0, id, nil)
}

// ErrReason: something that people could answer or ask for would be gone.
var ErrReason = refusal.New("something is taken away from people who may be writing").But("say why, they are told")

// Unpublished lists how the working design differs from the one that people
// write on, the heaviest change first; nothing while the round was never open.
func (s *Store) Unpublished(ctx context.Context, q db.Querier, id int64) ([]design.Graded, error) {
	var row struct{ Working, Document []byte }
	err := q.GetContext(ctx, &row,
		`SELECT r.working, d.document FROM round r JOIN design d ON d.id = r.design_id WHERE r.id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return design.Compare(row.Document, row.Working)
}

// Kept is a section kept to be used again.
type Kept struct {
	ID      int64
	Name    string
	Section json.RawMessage
}

// Keep a section of a working design under a name; a name that is there
// already is replaced.
func (s *Store) Keep(ctx context.Context, tx *db.Tx, name string, section []byte) error {
	_, err := tx.ExecContext(ctx, `
		INSERT INTO pattern (name, section, by_id, at) VALUES ($1, $2, $3, $4)
		ON CONFLICT (name) DO UPDATE SET section = $2, by_id = $3, at = $4`, name, string(section), tx.By.ID, tx.At)
	return err
}

// AllKept lists the sections that are kept, by name.
func (s *Store) AllKept(ctx context.Context, q db.Querier) (out []Kept, err error) {
	err = q.SelectContext(ctx, &out, `SELECT id, name, section FROM pattern ORDER BY name`)
	return out, err
}
