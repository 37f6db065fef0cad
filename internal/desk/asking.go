package desk

import (
	"context"
	"database/sql"
	"errors"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/access"
	"ulvant/internal/application"
	"ulvant/internal/people"
	"ulvant/internal/round"
)

// Asking is what lets a request about a case in: whose session it comes with,
// the case, its round, and what the asker is to them.
type Asking struct {
	Account people.Account   `db:"account"`
	SeenAt  time.Time        `db:"seen_at"` // when the session's use was last noted
	Reader  bool             // is a reader of some round
	Roles   people.Roles     // at the office
	Place   string           // the stream or area the case is listed under
	Bodies  pq.StringArray   // that the case is for
	Case    application.Case `db:"case"`
	Round   round.Round      `db:"round"`
	Rel     access.Relations `db:"-"` // to the case
	Kinds   pq.StringArray
	Reads   bool
	Meets   bool // is of the panel of an interview with the case, and in the room
	Aside   bool
}

var askingOf = `
	SELECT ` + nested("p", "account", people.Columns) + `, s.seen_at, EXISTS (SELECT FROM reader WHERE account_id = p.id) AS reader, ` + people.RolesOf("p.id") + ` AS roles,
	       COALESCE((SELECT st.place FROM standing st WHERE st.entry_id = c.entry_id), '') AS place,
	       ARRAY(SELECT DISTINCT unnest(n.bodies) FROM known n JOIN entry o ON o.id = n.entry_id WHERE o.application_id = c.id) AS bodies,
	       ` + nested("c", "case", application.Columns) + `,
	       ` + nested("r", "round", round.Columns) + `,
	       ARRAY(SELECT kind FROM relation WHERE application_id = c.id AND account_id = p.id) AS kinds,
	       EXISTS (SELECT FROM assignment WHERE application_id = c.id AND account_id = p.id) AS reads,
	       EXISTS (SELECT FROM interview i JOIN interview_member m ON m.day_id = i.day_id AND m.account_id = p.id WHERE i.entry_id = c.entry_id
	         AND NOT EXISTS (SELECT FROM interview_said x WHERE x.entry_id = i.entry_id AND x.account_id = p.id AND x.out)) AS meets,
	       EXISTS (SELECT FROM recusal WHERE application_id = c.id AND account_id = p.id)
	         OR EXISTS (SELECT FROM panel_out WHERE entry_id = c.entry_id AND account_id = p.id) AS aside
	FROM ` + people.Sessions + `
	JOIN account p ON p.id = s.account_id
	JOIN LATERAL (` + application.CaseOf + `) c ON true
	JOIN LATERAL (` + round.Light + ` WHERE id = c.round_id) r ON true`

// nested lists columns of an alias under a prefix, as sqlx fills a struct in a struct.
func nested(alias, prefix, columns string) string {
	var out []string
	for _, c := range strings.Split(columns, ", ") {
		out = append(out, alias+`.`+c+` AS "`+prefix+`.`+c+`"`)
	}
	return strings.Join(out, ", ")
}

// Asking looks all of it up at once; ok is false when the session is nobody's
// or there is no such case. session are the arguments of people.Sessions.
func (d *Desk) Asking(ctx context.Context, session people.Held, ref, stage string) (a Asking, ok bool, err error) {
	err = d.DB.GetContext(ctx, &a, askingOf, session.Hash, ref, stage, session.At, session.IdleSince)
	if errors.Is(err, sql.ErrNoRows) {
		return a, false, nil
	}
	for _, k := range a.Kinds {
		a.Rel |= access.PartOf(k)
	}
	if a.Reads {
		a.Rel |= access.ReaderOf
	}
	if a.Meets {
		a.Rel |= access.PanelOf
	}
	if a.Aside {
		a.Rel |= access.SteppedAside
	}
	return a, err == nil, err
}
