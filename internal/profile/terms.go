package profile

import (
	"context"
	"strconv"
	"strings"
	"time"

	"ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
)

// Terms are the funder’s as they stand now; version 0 while there are none.
func (s *Store) Terms(ctx context.Context, q db.Querier) (profile.Terms, error) {
	return s.termsOf(ctx, q, 0)
}

// termsOf is one version of the terms, or the latest for 0.
func (s *Store) termsOf(ctx context.Context, q db.Querier, version int) (profile.Terms, error) {
	var list []profile.Terms
	err := q.SelectContext(ctx, &list,
		`SELECT version, text, at FROM terms WHERE $1 = 0 OR version = $1 ORDER BY version DESC LIMIT 1`, version)
	if err != nil || len(list) == 0 {
		return profile.Terms{}, err
	}
	return list[0], nil
}

// ChangeTerms writes a new version of the terms. Organisations that are known are
// asked to read what changed.
func (s *Store) ChangeTerms(ctx context.Context, tx *db.Tx, text string) error {
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	if text == "" || len(text) > 50_000 {
		return refusal.In("text", "Write the terms, in up to 50,000 characters.")
	}
	now, err := s.Terms(ctx, tx)
	if err != nil {
		return err
	}
	if now.Text == text {
		return refusal.In("text", "Nothing was changed.")
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO terms (text, by_id, at) VALUES ($1, $2, $3)`, text, tx.By.ID, tx.At)
	return err
}

// Renewal is what an organisation must renew, and what changed in the terms.
type Renewal struct {
	Why     string // "" while nothing is to be renewed
	Terms   profile.Terms
	Changes []profile.Change // since the version it agreed to; all of them when it agreed to none
}

// Renewal of a profile at a time.
func (s *Store) Renewal(ctx context.Context, q db.Querier, p Profile, at time.Time) (r Renewal, err error) {
	if r.Terms, err = s.Terms(ctx, q); err != nil || p.Kind != profile.Body {
		return r, err
	}
	r.Why = profile.Renewal(p.State, profile.Agreed{Version: p.Terms, At: p.AgreedAt}, r.Terms, at)
	before := profile.Terms{}
	if p.Terms > 0 {
		if before, err = s.termsOf(ctx, q, p.Terms); err != nil {
			return r, err
		}
	}
	r.Changes = profile.Changes(before.Text, r.Terms.Text)
	return r, nil
}

// Renew records that somebody who acts for an organisation has read the terms as
// they stand, and that what stands in its profile still holds. version is what they
// were shown: newer ones are to be read first.
func (s *Store) Renew(ctx context.Context, tx *db.Tx, id int64, version int) error {
	p, err := s.lock(ctx, tx, id)
	if err != nil {
		return err
	}
	now, err := s.Terms(ctx, tx)
	if err != nil {
		return err
	}
	if version != now.Version {
		return refusal.Unfit("The terms have just been changed. Read them once more; nothing was kept.")
	}
	if lacks, err := s.Lacks(ctx, tx, p, tx.At); err != nil || len(lacks) > 0 {
		if err == nil {
			err = refusal.Unfit("It cannot be renewed yet: " + lacks[0].What)
		}
		return err
	}
	return s.agree(ctx, tx, id, now.Version)
}

// agree keeps which terms were read for an organisation.
func (s *Store) agree(ctx context.Context, tx *db.Tx, id int64, version int) error {
	_, err := tx.ExecContext(ctx, `
		UPDATE profile SET terms = $2, agreed_at = $3, agreed_by = $4, facts_at = $3, renew_told = NULL WHERE id = $1`, id, version,
		tx.At, tx.By.ID)
	return err
}

// mostRenewals is how many organisations one sweep writes to.
const mostRenewals = 200

// SweepRenewals writes, once, to those who act for organisations that are to be
// renewed.
func (s *Store) SweepRenewals(ctx context.Context, at time.Time) error {
	var ids []int64
	if err := s.DB.SelectContext(ctx, &ids, `
		SELECT id FROM profile WHERE kind = 'organisation' AND state = 'known' AND renew_told IS NULL
		AND (agreed_at < $1 OR terms < (SELECT COALESCE(max(version), 0) FROM terms)) ORDER BY id LIMIT $2`,
		at.Add(-profile.RenewEvery), mostRenewals); err != nil {
		return err
	}
	for _, id := range ids {
		if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
			p, err := s.ByID(ctx, tx, id)
			if err != nil {
				return err
			}
			r, err := s.Renewal(ctx, tx, p, tx.At)
			if err != nil || r.Why == "" {
				return err
			}
			if _, err := tx.ExecContext(ctx, `UPDATE profile SET renew_told = $2 WHERE id = $1`, id, tx.At); err != nil {
				return err
			}
			members, err := s.Members(ctx, tx, id)
			if err != nil {
				return err
			}
			for _, m := range members {
				if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "profile-renewal", Account: m.AccountID, To: m.Email,
					ToName:  m.Name,
					Subject: "Please renew the profile of “" + p.Name + "”",
					Body: "Dear " + m.Name + ",\n\nthe profile of “" + p.Name + "” is to be renewed. " + r.Why +
						" Read what changed in the " +
						"terms, and say that what stands in the profile still holds; it takes two minutes:\n\n" + s.Post.BaseURL +
						"/profiles/" + strconv.FormatInt(id, 10) +
						"\n\nApplications for it can be written and sent meanwhile.\n"}); err != nil {
					return err
				}
			}
			return nil
		}); err != nil {
			return err
		}
	}
	return nil
}
