package ballot

import (
	"context"
	"crypto/rand"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/vote"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Sheet of codes that was printed and given to somebody to hand out.
type Sheet struct {
	ID    int64
	Label string // to whom it was given
	Codes int
	Used  int
	By    string
	At    time.Time
	Void  *time.Time `db:"void_at"`
	Why   string
}

// MostCodes on one sheet.
const MostCodes = 5000

// Print makes codes and gives them back, once: they are kept nowhere in a form in which
// they could be read again.
func (s *Store) Print(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, label string,
	n int) (sheet int64, codes []string, err error) {
	if _, err := s.lock(ctx, tx, r, f); err != nil {
		return 0, nil, err
	}
	switch label = strings.TrimSpace(label); {
	case !f.Design.Vote.OnPaper:
		return 0, nil, refusal.Unfit("this vote takes no codes on paper").But("let it, in the design")
	case label == "" || len(label) > 200:
		return 0, nil, refusal.In("label", "Say to whom the sheet is given, such as “Library at Skerra”.")
	case n < 1 || n > MostCodes:
		return 0, nil, refusal.In("codes", "Print 1 to 5,000 codes at a time.")
	case !tx.At.Before(f.VoteWindow().Closes):
		return 0, nil, ErrClosed
	}
	if err := tx.GetContext(ctx, &sheet,
		`INSERT INTO vote_sheet (round_id, label, codes, by_id, at) VALUES ($1, $2, $3, $4, $5) RETURNING id`, r.ID, label, n,
		tx.By.ID, tx.At); err != nil {
		return 0, nil, err
	}
	hashes := make([][]byte, n)
	for i := range n {
		seed := make([]byte, 32)
		rand.Read(seed)
		codes = append(codes, vote.Word(seed))
		hashes[i] = codeHash(codes[i])
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO voter (round_id, sheet_id, code, asked_at) SELECT $1, $2, c, $4 FROM unnest($3::bytea[]) AS c ORDER BY c`, r.ID, sheet, hashes, tx.At); err != nil {
		return 0, nil, err
	}
	return sheet, codes, trail.Write(ctx, tx, "vote-sheet", 0, r.ID,
		map[string]string{"n": phrase.Count(int64(n), "code", "codes"), "label": label})
}

// Sheets of a vote, the latest first.
func (s *Store) Sheets(ctx context.Context, q db.Querier, round int64) (out []Sheet, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT h.id, h.label, h.codes, (SELECT count(*) FROM voter v WHERE v.sheet_id = h.id AND v.voted_on IS NOT NULL) AS used, a.name AS by, h.at, h.void_at, h.why
		FROM vote_sheet h JOIN account a ON a.id = h.by_id WHERE h.round_id = $1 ORDER BY h.id DESC`, round)
	return out, err
}

// Void ends the codes of a sheet that were not used; ballots that are in the box count.
func (s *Store) Void(ctx context.Context, tx *db.Tx, r round.Round, sheet int64, why string) error {
	why, err := reasoned(why, "Say why the sheet is taken back.")
	if err != nil {
		return err
	}
	var label string
	if err := tx.GetContext(ctx, &label, `
		UPDATE vote_sheet SET void_at = $3, why = $4 WHERE id = $1 AND round_id = $2 AND void_at IS NULL RETURNING label`, sheet, r.ID, tx.At, why); err != nil {
		return refusal.Missing("there is no such sheet, or it was taken back before")
	}
	return trail.Write(ctx, tx, "vote-sheet-void", 0, r.ID, map[string]string{"label": label, "why": why})
}
