package material

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding"
	"encoding/hex"
	"errors"
	"hash"
	"io"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/files"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/tus"
)

// Arrive answers one request of the upload protocol about files of a slot. All of
// it is one transaction: a byte is acknowledged when it is flushed and its row is
// kept, and two devices on one upload take turns. at is when the request had been
// read whole, for a file counts when its last byte was here in time.
func (s *Store) Arrive(ctx context.Context, by db.Actor, at time.Time, c application.Case, f *form.Form,
	base string, q tus.Request) (out *tus.Response, err error) {
	k := &arrival{Store: s, by: by, c: c, form: f}
	s.Pieces.Do(func() {
		err = s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) (err error) {
			k.tx, k.done = tx, ""
			out, err = tus.Serve(ctx, k, base, q)
			return err
		})
	})
	if err == nil && k.done != "" {
		err = s.Files.Drop(k.done) // it has its own place now, or is not wanted
	}
	if errors.Is(err, files.ErrLost) {
		err = refusal.Over("what had arrived of this file is not here any more; choose it once more, and it begins anew")
	}
	return out, err
}

// arrival keeps uploads of one case, for one request. It implements tus.Keeper.
type arrival struct {
	*Store
	tx   *db.Tx
	by   db.Actor
	c    application.Case
	form *form.Form
	done string // the part that is no longer needed when the transaction holds
}

// slot of the request: the only one that takes files under this key.
func (k *arrival) slot(key form.Key) (*form.Question, error) {
	q := k.form.Question(key)
	if q == nil || !q.TakesFiles() {
		return nil, tus.ErrNotFound
	}
	return q, nil
}

// Begin reserves a file's room before its first byte.
func (k *arrival) Begin(ctx context.Context, length int64, meta map[string]string) (id string, err error) {
	q, err := k.slot(form.Key(meta["slot"]))
	if err != nil {
		return "", ErrNotFound
	}
	c, err := k.writable(ctx, k.tx, k.c, q.Key)
	if err != nil {
		return "", err
	}
	most, several := sizeMost(q)
	name := CleanName(meta["filename"])
	if most > 0 && length > most {
		what, remedy := say.FileFault(form.Obstacle{Name: name, Detail: string(slot.TooLarge), Have: length, Limit: most})
		return "", refusal.Unfit("The file " + what + ". " + remedy)
	}
	if length == 0 {
		return "", refusal.Unfit("The file " + name + " is empty. Choose it again.")
	}
	o := Owner{Entry: c.EntryID, Slot: q.Key, Instead: !several}
	if err := k.room(ctx, k.tx, o, k.by, length); err != nil {
		return "", err
	}
	hashing, err := sha256.New().(encoding.BinaryMarshaler).MarshalBinary()
	if err != nil {
		return "", err
	}
	id = rand.Text()
	if _, err = k.tx.ExecContext(ctx, `
		INSERT INTO material (entry_id, slot, name, size, state, by_kind, by_id, at, upload, head, arrived_at, hashing)
		VALUES (@entry, @slot, @name, @size, 'uploading', @by_kind, @by_id, @at, @upload, @head, @at, @hashing)`,
		db.Named{"entry": c.EntryID, "slot": q.Key, "name": name, "size": length, "by_kind": k.by.Kind, "by_id": k.by.ID,
			"at": k.tx.At, "upload": id, "head": CleanName(meta["head"]), "hashing": hashing}); err != nil {
		return "", err
	}
	_, err = k.Cases.Refresh(ctx, k.tx, c)
	return id, err
}

// row locks an upload of the request's case.
func (k *arrival) row(ctx context.Context, id string) (f File, err error) {
	err = k.tx.GetContext(ctx, &f, `SELECT `+columns+` FROM material
		WHERE upload = $1 AND upload <> '' AND entry_id = $2 AND removed_at IS NULL FOR UPDATE`, id, k.c.EntryID)
	if errors.Is(err, sql.ErrNoRows) {
		err = tus.ErrNotFound
	}
	return f, err
}

// Find says how much of an upload is here: all of it, when it has arrived.
func (k *arrival) Find(ctx context.Context, id string) (tus.Upload, error) {
	f, err := k.row(ctx, id)
	if err == nil && f.State == slot.Refused && f.Finding == slot.Unfinished {
		err = tus.ErrNotFound // it lapsed
	}
	if f.State != slot.Uploading {
		f.Arrived = f.Size
	}
	return tus.Upload{Length: f.Size, Offset: f.Arrived}, err
}

// Write puts more of a file behind what is here.
func (k *arrival) Write(ctx context.Context, id string, offset int64, r io.Reader) (int64, error) {
	f, err := k.row(ctx, id)
	if err != nil || f.State != slot.Uploading { // more of a whole one is nothing, and the protocol lets none through
		return 0, err
	}
	if _, err := k.writable(ctx, k.tx, k.c, f.Slot); err != nil {
		return 0, err
	}
	h, err := k.hashed(ctx, f)
	if err != nil {
		return 0, err
	}
	n, err := k.Files.Add(id, offset, r, h)
	if err != nil {
		return 0, err
	}
	state, err := h.(encoding.BinaryMarshaler).MarshalBinary()
	if err != nil {
		return 0, err
	}
	_, err = k.tx.ExecContext(ctx,
		`UPDATE material SET arrived = $2, arrived_at = $3, hashing = $4 WHERE id = $1`, f.ID, offset+n, k.tx.At, state)
	return n, err
}

// hashed is the SHA-256 of what has come of a file so far.
func (k *arrival) hashed(ctx context.Context, f File) (h hash.Hash, err error) {
	var state []byte
	if err = k.tx.GetContext(ctx, &state, `SELECT hashing FROM material WHERE id = $1`, f.ID); err == nil {
		h = sha256.New()
		err = h.(encoding.BinaryUnmarshaler).UnmarshalBinary(state)
	}
	return h, err
}

// Finish takes a file that is here whole into its slot; what it is is found out
// by a job, and shown when that is done.
func (k *arrival) Finish(ctx context.Context, id string) error {
	f, err := k.row(ctx, id)
	if err != nil {
		return err
	}
	h, err := k.hashed(ctx, f)
	if err != nil {
		return err
	}
	sum := hex.EncodeToString(h.Sum(nil))
	if err := k.Files.Whole(id, sum); err != nil {
		return err
	}
	k.done = id
	c, err := k.writable(ctx, k.tx, k.c, f.Slot)
	if err != nil {
		return err
	}
	q, err := k.slot(f.Slot)
	if err != nil {
		return ErrNotFound
	}
	if _, err := k.tx.ExecContext(ctx,
		`UPDATE material SET state = 'inspecting', sha256 = $2, hashing = NULL WHERE id = $1`,
		f.ID, sum); err != nil {
		return err
	}
	if err := k.instead(ctx, k.tx, q, f); err != nil {
		return err
	}
	if _, err := k.Cases.Refresh(ctx, k.tx, c); err != nil {
		return err
	}
	return k.Jobs.Enqueue(ctx, k.tx, arrived{f.ID}, k.tx.At)
}

// Drop gives a file up that has not arrived whole.
func (k *arrival) Drop(ctx context.Context, id string) error {
	f, err := k.row(ctx, id)
	if err != nil {
		return err
	}
	if f.State != slot.Uploading {
		return refusal.New("the file has arrived already").But("take it out of the application instead")
	}
	k.done = id
	if _, err := k.tx.ExecContext(ctx, `UPDATE material SET removed_at = $2, name = '' WHERE id = $1`, f.ID,
		k.tx.At); err != nil {
		return err
	}
	_, err = k.Cases.Refresh(ctx, k.tx, k.c)
	return err
}

// arrived is the job that opens a file which has arrived.
type arrived struct {
	File int64 `json:"file"`
}

// Kind names the job.
func (arrived) Kind() string { return "material.arrived" }

// Register takes up the jobs of materials.
func (s *Store) Register() {
	jobs.Handle(s.Jobs, jobs.Short, func(ctx context.Context, at time.Time, a arrived) error {
		var f File
		err := s.DB.GetContext(ctx, &f,
			`SELECT `+columns+` FROM material WHERE id = $1 AND state = 'inspecting' AND removed_at IS NULL`, a.File)
		if errors.Is(err, sql.ErrNoRows) { // taken out, or looked at by a sweep
			return nil
		}
		if err != nil {
			return err
		}
		return s.lookAgain(ctx, at, f)
	})
}

// lookAgain opens a file that is here whole, whatever interrupted that before, and
// writes down what it is in the name of whoever sent it.
func (s *Store) lookAgain(ctx context.Context, at time.Time, f File) error {
	by := db.Actor{Kind: f.ByKind, ID: f.ByID}
	f, err := s.look(ctx, by, at, f, slot.MostSize)
	if err != nil || f.EntryID == nil {
		return err
	}
	return s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		c, err := s.Cases.ByEntry(ctx, tx, *f.EntryID)
		if err != nil {
			return err
		}
		return s.tell(ctx, tx, c, f)
	})
}
