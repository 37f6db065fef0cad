package desk

import (
	"context"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/internal/round"
)

// Before is an application that the same applicant sent at another time: what
// they asked for, and what they got.
type Before struct {
	Ref       string
	Title     string
	RoundName string `db:"round_name"`
	RoundKey  string `db:"round_key"`
	State     lifecycle.State
	Told      lifecycle.State // the state as the applicant knows it
	Asked     int64           // minor units
	Currency  string
	SentAt    *time.Time `db:"sent_at"`
	Given     int64      // minor units; 0 until it is told
}

const beforeFrom = `
	SELECT a.ref, a.title, r.name AS round_name, r.key AS round_key, e.state, COALESCE(NULLIF(e.told, ''), e.state) AS told,
	       COALESCE(s.asked, 0) AS asked, r.currency, s.sent_at,
	       COALESCE((SELECT left_of(d.act_id, d.entry_id, d.amount) FROM decision d WHERE d.entry_id = e.id AND d.act_id = e.told_act), 0) AS given
	FROM application a JOIN LATERAL (SELECT * FROM entry WHERE application_id = a.id ORDER BY id DESC LIMIT 1) e ON true
	JOIN round r ON r.id = a.round_id LEFT JOIN standing s ON s.entry_id = e.id
	WHERE e.seal_id IS NOT NULL AND `

// BeforeOf lists what else was sent by whoever leads an application, or for the
// same organisation, the latest first, in some rounds or (nil) in all.
func (d *Desk) BeforeOf(ctx context.Context, application, lead int64, rounds round.Only, most int) (out []Before,
	err error) {
	err = d.DB.SelectContext(ctx, &out, beforeFrom+`a.id <> $1 AND (
		  EXISTS (SELECT FROM relation l WHERE l.application_id = a.id AND l.kind = 'lead' AND l.account_id = $2)
		  OR a.profile_id = (SELECT profile_id FROM application WHERE id = $1))
		  AND ($4::bigint[] IS NULL OR a.round_id = ANY($4))
		ORDER BY a.id DESC LIMIT $3`, application, lead, most, rounds)
	return out, err
}

// BeforeFor lists what was sent for an organisation, the latest first, in some
// rounds or (nil) in all.
func (d *Desk) BeforeFor(ctx context.Context, profile int64, rounds round.Only, most int) (out []Before, err error) {
	err = d.DB.SelectContext(ctx, &out, beforeFrom+`a.profile_id = $1 AND ($3::bigint[] IS NULL OR a.round_id = ANY($3))
		ORDER BY a.id DESC LIMIT $2`, profile, most, rounds)
	return out, err
}
