package colleague

import (
	"context"
	"database/sql"
	"regexp"
	"slices"
	"strings"
	"time"

	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
)

// MostNote is how long a note may be, in bytes.
const MostNote = 2000

// Note to colleagues about a case.
type Note struct {
	ID   int64
	ByID int64 `db:"by_id"`
	By   string
	At   time.Time
	Text string
}

// Notes of a case, the latest first.
func (s *Store) Notes(ctx context.Context, q db.Querier, c application.Case) (out []Note, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT n.id, n.by_id, p.name AS by, n.at, n.text FROM note n JOIN account p ON p.id = n.by_id
		WHERE n.application_id = $1 AND n.ended_at IS NULL ORDER BY n.id DESC`, c.ID)
	return out, err
}

// Theirs are those notes of a case that somebody of another body sees: their own,
// and those that name them.
func (s *Store) Theirs(ctx context.Context, q db.Querier, c application.Case, account int64) (out []Note, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT n.id, n.by_id, p.name AS by, n.at, n.text FROM note n JOIN account p ON p.id = n.by_id
		WHERE n.application_id = $1 AND n.ended_at IS NULL AND (n.by_id = $2 OR EXISTS (SELECT FROM mention m WHERE m.note_id = n.id AND m.account_id = $2))
		ORDER BY n.id DESC`, c.ID, account)
	return out, err
}

// AddNote keeps a note. Colleagues named in it as @First Last, or @First where only
// one is called so, find it on their day; it says who they are.
func (s *Store) AddNote(ctx context.Context, tx *db.Tx, c application.Case, text string) (named []string, err error) {
	text = strings.TrimSpace(text)
	if text == "" || len(text) > MostNote {
		return nil, refusal.In("note", "Write a few words, up to 2,000 characters.")
	}
	office, err := s.People.Office(ctx, tx.At)
	if err != nil {
		return nil, err
	}
	found, unknown := Mentioned(text, office)
	if unknown != "" {
		return nil, refusal.In("note", "Nobody at the office is called “"+unknown+"”, or several are: write the whole name.")
	}
	var id int64
	if err := tx.GetContext(ctx, &id,
		`INSERT INTO note (application_id, by_id, at, text) VALUES ($1, $2, $3, $4) RETURNING id`,
		c.ID, tx.By.ID, tx.At, text); err != nil {
		return nil, err
	}
	var ids []int64
	for _, a := range found {
		if a.ID != tx.By.ID {
			ids, named = append(ids, a.ID), append(named, a.Name)
		}
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO mention (note_id, account_id) SELECT $1, unnest($2::bigint[])`, id, ids)
	return named, err
}

// mention is an @ with the words of a name after it.
var mention = regexp.MustCompile(`(?:^|[\s(])@(\pL[\pL\pM'’-]*(?: \p{Lu}[\pL\pM'’-]*){0,3})`)

// Mentioned finds the colleagues named in a text; unknown is the first name that
// is nobody's, or several's.
func Mentioned(text string, office []people.Account) (found []people.Account, unknown string) {
	for _, m := range mention.FindAllStringSubmatch(text, -1) {
		words := strings.Fields(m[1])
		var hit []people.Account
		for n := len(words); n > 0 && len(hit) != 1; n-- { // the longest that is somebody's name
			name := strings.Join(words[:n], " ")
			hit = nil
			for _, a := range office {
				if strings.EqualFold(a.Name, name) || n == 1 && strings.EqualFold(strings.Fields(a.Name + " ")[0], name) {
					hit = append(hit, a)
				}
			}
		}
		if len(hit) != 1 {
			return nil, m[1]
		}
		if !slices.ContainsFunc(found, func(a people.Account) bool { return a.ID == hit[0].ID }) {
			found = append(found, hit[0])
		}
	}
	return found, ""
}

// Named reports that a note about a case names an account, which has not put it
// aside.
func (s *Store) Named(ctx context.Context, q db.Querier, c application.Case, account int64) (yes bool, err error) {
	err = q.GetContext(ctx, &yes, `
		SELECT EXISTS (SELECT FROM mention m JOIN note n ON n.id = m.note_id
		  WHERE m.account_id = $2 AND m.seen_at IS NULL AND n.application_id = $1 AND n.ended_at IS NULL)`, c.ID, account)
	return yes, err
}

// Mention of somebody in a note, with the case it is about.
type Mention struct {
	Ref, Title, By, Text string
	RoundKey             string `db:"round_key"`
	At                   time.Time
}

// MentionsOf lists the notes that name an account and were not put aside, the
// oldest first.
func (s *Store) MentionsOf(ctx context.Context, q db.Querier, account int64, most int) (out []Mention, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, p.name AS by, n.text, r.key AS round_key, n.at FROM mention m JOIN note n ON n.id = m.note_id
		JOIN application a ON a.id = n.application_id JOIN round r ON r.id = a.round_id JOIN account p ON p.id = n.by_id
		WHERE m.account_id = $1 AND m.seen_at IS NULL AND n.ended_at IS NULL ORDER BY n.id LIMIT $2`, account, most)
	return out, err
}

// TakeNote takes a note of one's own back.
func (s *Store) TakeNote(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	return one(tx.ExecContext(ctx,
		`UPDATE note SET ended_at = $4 WHERE id = $1 AND application_id = $2 AND by_id = $3 AND ended_at IS NULL`,
		id, c.ID, tx.By.ID, tx.At))
}

// SeeMentions puts aside what names somebody about a case: they have read it.
func (s *Store) SeeMentions(ctx context.Context, tx *db.Tx, c application.Case) error {
	_, err := tx.ExecContext(ctx, `
		UPDATE mention SET seen_at = $3 FROM note n
		WHERE n.id = mention.note_id AND n.application_id = $1 AND mention.account_id = $2 AND mention.seen_at IS NULL`, c.ID, tx.By.ID, tx.At)
	return err
}

// one is an act on one row that must be there.
func one(res sql.Result, err error) error {
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		if err != nil {
			return err
		}
		return refusal.Missing("that is not there any more")
	}
	return nil
}
