package profile

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"ulvant/core/identifier"
	"ulvant/core/refusal"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Sponsor is a body that holds the money for somebody, or was asked to.
type Sponsor struct {
	ID        int64
	ProfileID int64 `db:"profile_id"` // for whom
	Scheme    string
	Value     string
	SponsorID *int64    `db:"sponsor_id"`
	Name      string    // of the body, once it has answered; "" before, which tells whoever asks nothing
	For       string    // whose money it is
	State     string    // asked | taken back | confirmed | refused | ended
	AskedAt   time.Time `db:"asked_at"`
	At        time.Time
	Reminders int
	Confirmed string // what was agreed to, in the words they saw
	Email     string // to whom the link went
	ToName    string `db:"to_name"`
}

// Open reports a body that is asked or has agreed; another is asked only when
// that is ended.
func (x Sponsor) Open() bool { return x.State == "asked" || x.State == "confirmed" }

const sponsorColumns = `x.id, x.profile_id, x.scheme, x.value, x.sponsor_id, CASE WHEN x.state IN ('confirmed', 'refused', 'ended') THEN COALESCE(b.name, '') ELSE '' END AS name, p.name AS for, x.state, x.asked_at, x.at, x.reminders, x.confirmed, x.email, x.to_name
	FROM sponsor x JOIN profile p ON p.id = x.profile_id LEFT JOIN profile b ON b.id = x.sponsor_id`

// Sponsors that a profile asked, the latest first.
func (s *Store) Sponsors(ctx context.Context, q db.Querier, id int64) (out []Sponsor, err error) {
	err = q.SelectContext(ctx, &out, `SELECT `+sponsorColumns+` WHERE x.profile_id = $1 ORDER BY x.id DESC`, id)
	return out, err
}

// Holds lists for whom an organisation holds the money, by name.
func (s *Store) Holds(ctx context.Context, q db.Querier, id int64) (out []Sponsor, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT `+sponsorColumns+` WHERE x.sponsor_id = $1 AND x.state = 'confirmed' ORDER BY p.name`, id)
	return out, err
}

// Sponsor that a link is of.
func (s *Store) Sponsor(ctx context.Context, q db.Querier, id int64) (x Sponsor, err error) {
	err = q.GetContext(ctx, &x, `SELECT `+sponsorColumns+` WHERE x.id = $1`, id)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotFound
	}
	return x, err
}

// AskSponsor asks the organisation known under a number to hold the money. The
// link goes to its first contact on file; whoever asks learns neither whether
// there is one nor where the link went, until it answers.
func (s *Store) AskSponsor(ctx context.Context, tx *db.Tx, id int64, scheme, value string) error {
	p, err := s.lock(ctx, tx, id)
	if err != nil {
		return err
	}
	number, err := normal(scheme, value)
	if err != nil {
		return err
	}
	body, found, err := s.knownUnder(ctx, tx, scheme, number)
	if err != nil {
		return err
	}
	var to *int64
	if found && body.ID != id {
		to = &body.ID
	}
	var row int64
	err = tx.QueryRowxContext(ctx,
		`INSERT INTO sponsor (profile_id, scheme, value, sponsor_id, state, asked_at, at) VALUES ($1, $2, $3, $4, 'asked', $5, $5) ON CONFLICT DO NOTHING RETURNING id`,
		id, scheme, number, to, tx.At).Scan(&row)
	if errors.Is(err, sql.ErrNoRows) {
		return refusal.Unfit("One sponsoring body is asked already, or has confirmed. End that first.")
	}
	if err != nil || to == nil || len(body.Facts.Contacts) == 0 {
		return err
	}
	l, err := s.Links.Issue(ctx, tx, link.Sponsor, row, officerLife)
	if err != nil {
		return err
	}
	who, err := s.People.Find(ctx, tx, tx.By.ID)
	if err != nil {
		return err
	}
	c := body.Facts.Contacts[0]
	if _, err := tx.ExecContext(ctx, `UPDATE sponsor SET email = $2, to_name = $3, next_at = $4 WHERE id = $1`, row,
		people.Fold(c.Email), c.Name, nextAfter(tx.At, nil, 0)); err != nil {
		return err
	}
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "sponsor", To: people.Fold(c.Email), ToName: c.Name,
		ReplyTo: who.Email, Link: l,
		Subject: "Will “" + body.Name + "” hold money for " + p.Name + "?",
		Body: fmt.Sprintf("Dear %s,\n\n%s (%s) names “%s” as the body that would hold a grant for them: it receives the "+
			"money, pays the bills and answers for it to the funder. Press this link to see what that means, and to agree or refuse:\n\n%s\n\nIf you know nothing of this, refuse.\n",
			c.Name, p.Name, who.Email, body.Name, post.LinkMark)})
	return err
}

// AnswerSponsor is the body's own answer, by the link; it can be changed while
// the link works. Whoever asked is told.
func (s *Store) AnswerSponsor(ctx context.Context, tx *db.Tx, id int64, yes bool) error {
	state := "confirmed"
	if !yes {
		state = "refused"
	}
	x, err := s.Sponsor(ctx, tx, id)
	if err != nil {
		return err
	}
	agreed := ""
	if yes && x.SponsorID != nil {
		body, err := s.ByID(ctx, tx, *x.SponsorID)
		if err != nil {
			return err
		}
		agreed = SponsorAgrees(body.Name, x.For)
	}
	res, err := tx.ExecContext(ctx,
		`UPDATE sponsor SET state = $2, at = $3, next_at = NULL, confirmed = $4 WHERE id = $1 AND state IN ('asked', 'confirmed', 'refused') AND state <> $2`, id, state, tx.At, agreed)
	if err != nil {
		if db.IsDuplicate(err) {
			return refusal.Unfit("They have asked another body meanwhile.")
		}
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return nil // it says so already, or was ended
	}
	if x, err = s.Sponsor(ctx, tx, id); err != nil {
		return err
	}
	members, err := s.Members(ctx, tx, x.ProfileID)
	if err != nil {
		return err
	}
	says := "has agreed to hold the money for you. Applications that you begin from now on say so."
	if !yes {
		says = "does not hold the money for you."
	}
	for _, m := range members {
		if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "sponsor-answered", Account: m.AccountID, To: m.Email,
			ToName: m.Name, Subject: "“" + x.Name + "” has answered",
			Body: "Dear " + m.Name + ",\n\n“" + x.Name + "” " + says + "\n"}); err != nil {
			return err
		}
	}
	return nil
}

// SponsorAgrees is what a body agrees to, word for word.
func SponsorAgrees(body, whose string) string {
	return "If a grant is given to " + whose + ", it is paid to “" + body +
		"”, which pays the bills from it and answers for it to the funder."
}

// EndSponsor ends what was asked or agreed, from either side; the link no
// longer works.
func (s *Store) EndSponsor(ctx context.Context, tx *db.Tx, profile, id int64) error {
	if _, err := s.lock(ctx, tx, profile); err != nil {
		return err
	}
	res, err := tx.ExecContext(ctx,
		`UPDATE sponsor SET state = CASE state WHEN 'asked' THEN 'taken back' ELSE 'ended' END, at = $3 WHERE id = $2 AND (profile_id = $1 OR sponsor_id = $1 AND state = 'confirmed') AND state IN ('asked', 'confirmed')`, profile, id, tx.At)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNotFound
	}
	return s.Links.Revoke(ctx, tx, id, link.Sponsor)
}

// normal brings a registered number to its one form.
func normal(scheme, value string) (string, error) {
	sch, ok := identifier.FindOfBodies(scheme)
	if !ok {
		return "", refusal.Unfit("Choose which register the number is of.")
	}
	number, ok := sch.Normal(value)
	if !ok {
		return "", refusal.Unfit("“" + value + "” is not a " + sch.Label + ": its check digits do not fit. Look at it again.")
	}
	return number, nil
}

// knownUnder finds the organisation that is known under a number.
func (s *Store) knownUnder(ctx context.Context, q db.Querier, scheme, number string) (p Profile, found bool,
	err error) {
	err = q.GetContext(ctx, &p, `
		SELECT `+columns+`, '' AS mine FROM profile p JOIN profile_number n ON n.profile_id = p.id WHERE n.scheme = $1 AND n.value = $2 AND p.state = 'known' ORDER BY p.id LIMIT 1`, scheme, number)
	p, err = decoded(p, err)
	if errors.Is(err, ErrNotFound) {
		return p, false, nil
	}
	return p, err == nil, err
}
