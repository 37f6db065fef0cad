package intake

import (
	"context"

	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// Left is what leaving does to one application.
type Left struct {
	Ref, Title string
	State      lifecycle.State
	Lead       bool
}

// Erased reports that all of it goes; else it stays as it was sent.
func (l Left) Erased() bool { return l.Lead && l.State.Writing() }

// WouldLeave lists what leaving would do to the applications of an account.
func (s *Store) WouldLeave(ctx context.Context, q db.Querier, account int64) (out []Left, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, st.state, r.kind = 'lead' AS lead FROM relation r JOIN application a ON a.id = r.application_id
		JOIN standing st ON st.application_id = a.id AND st.latest WHERE r.account_id = $1 ORDER BY a.id`, account)
	return out, err
}

// Leave takes a person out: drafts they lead are withdrawn and what is written
// in them is erased, with its earlier versions and files; elsewhere they are
// no longer a teammate; what was sent stays as it was sealed. An officer, and
// a reader with cases left to mark, cannot leave by themselves.
func (s *Store) Leave(ctx context.Context, tx *db.Tx, a people.Account) error {
	if office, err := s.People.AtOffice(ctx, tx, a.ID, tx.At); err != nil {
		return err
	} else if office {
		return refusal.In("leave", "You work at the office. Ask a colleague to end that first.")
	}
	var unread bool
	if err := tx.GetContext(ctx, &unread,
		`SELECT EXISTS (SELECT FROM assignment g JOIN entry e ON e.id = g.entry_id WHERE g.account_id = $1 AND g.sent_at IS NULL AND e.state = ANY($2))`, a.ID, lifecycle.With(lifecycle.BeingRead)); err != nil {
		return err
	}
	if unread {
		return refusal.In("leave",
			"You have cases left to mark. Send your marks or step aside first, so that they find another reader.")
	}
	if err := s.Profiles.Leave(ctx, tx, a.ID); err != nil {
		return err
	}
	list, err := s.WouldLeave(ctx, tx, a.ID)
	if err != nil {
		return err
	}
	for _, l := range list {
		c, err := s.Cases.Find(ctx, tx, l.Ref)
		if err != nil {
			return err
		}
		if !l.Lead {
			if err := s.Cases.DropTeammate(ctx, tx, c, a.ID); err != nil {
				return err
			}
		}
		if !l.Erased() {
			continue
		}
		if err := s.Withdraw(ctx, tx, c); err != nil {
			return err
		}
		for _, sql := range []string{`DELETE FROM answer WHERE entry_id = $1`,
			`DELETE FROM answer_before WHERE entry_id = $1`} {
			if _, err := tx.ExecContext(ctx, sql, c.EntryID); err != nil {
				return err
			}
		}
		if err := s.Materials.Erase(ctx, tx, c.EntryID); err != nil {
			return err
		}
		if err := trail.Erase(ctx, tx, c.ID); err != nil {
			return err
		}
	}
	if err := s.Materials.EmptyShelf(ctx, tx, a.ID); err != nil {
		return err
	}
	return s.People.Leave(ctx, tx, a.ID)
}
