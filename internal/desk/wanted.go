package desk

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/internal/platform/link"
)

// Wanted is one thing asked of an address, whoever asks and in whichever round.
type Wanted struct {
	Purpose    link.Purpose // what it is answered by
	ID         int64        // of what is asked
	State      string
	StateAt    time.Time `db:"state_at"`
	Who        string    // who asks; "" for a case, which knows its lead
	About      string    // what for; "" for a case
	EntryID    int64     `db:"entry_id"` // of the case; 0 for none
	Question   form.Key
	Until      *time.Time
	LinkID     int64 `db:"link_id"` // 0: its link has run out
	Generation int
}

// mostWanted is how many things asked of one address are listed.
const mostWanted = 500

// WantedOf lists all that is asked of an address, what came last first; what was
// withdrawn is left out.
func (d *Desk) WantedOf(ctx context.Context, email string, at time.Time) (out []Wanted, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT w.*, COALESCE(l.id, 0) AS link_id, COALESCE(l.generation, 0) AS generation FROM (
		  SELECT 'letter' AS purpose, r.id, r.state, r.state_at, '' AS who, '' AS about, r.entry_id, r.question, r.until
		  FROM referee r WHERE r.email = $1 AND r.state NOT IN ('to ask', 'replaced')
		  UNION ALL
		  SELECT 'officer', o.id, o.state, o.at, COALESCE((SELECT a.name FROM profile_member m JOIN account a ON a.id = m.account_id
		         WHERE m.profile_id = o.profile_id ORDER BY m.kind = 'authorised' DESC LIMIT 1), ''), p.name, 0, '', NULL
		  FROM profile_officer o JOIN profile p ON p.id = o.profile_id WHERE o.email = $1 AND o.state <> 'revoked'
		  UNION ALL
		  SELECT 'sponsor', x.id, x.state, x.at, f.name, b.name, 0, '', NULL
		  FROM sponsor x JOIN profile f ON f.id = x.profile_id JOIN profile b ON b.id = x.sponsor_id
		  WHERE x.email = $1 AND x.state IN ('asked', 'confirmed', 'refused')
		  UNION ALL
		  SELECT 'team', i.id, i.state, i.asked_at, COALESCE((SELECT name FROM account WHERE id = i.asked_by), ''), a.title, 0, '', NULL
		  FROM invitation i JOIN application a ON a.id = i.application_id WHERE i.email = $1 AND i.state = 'asked') w
		LEFT JOIN link l ON l.purpose = w.purpose AND l.subject = w.id AND l.expires_at > $2
		ORDER BY w.state_at DESC LIMIT $3`, email, at, mostWanted)
	return out, err
}

// AddressOf is the address that a link went to; "" when nobody knows it any more.
func (d *Desk) AddressOf(ctx context.Context, p link.Purpose, subject int64) (email string, err error) {
	err = d.DB.GetContext(ctx, &email, `
		SELECT COALESCE((CASE $1
		  WHEN 'letter' THEN (SELECT email FROM referee WHERE id = $2)
		  WHEN 'officer' THEN (SELECT email FROM profile_officer WHERE id = $2)
		  WHEN 'sponsor' THEN (SELECT email FROM sponsor WHERE id = $2)
		  WHEN 'team' THEN (SELECT email FROM invitation WHERE id = $2) END), '')`, string(p), subject)
	return email, err
}
