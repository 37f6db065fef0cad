package reference

import (
	"context"
	"strings"

	"ulvant/core/form"
	"ulvant/core/request"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
)

// Bounced takes that the mail which asked somebody, or a reminder, came back:
// what stands in the way is the applicant's from then on, and the office sees it.
// Once something was heard of the person, their address is right whatever a mail
// server says.
func (s *Store) Bounced(ctx context.Context, tx *db.Tx, id int64, b post.Returned) error {
	r, c, err := s.Load(ctx, tx, id)
	if err != nil || r.State != form.Asked || r.Bounced() || r.Email != b.To {
		return err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, true); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE referee SET bounced_at = $2, bounce = $3, next_at = NULL, version = version + 1 WHERE id = $1`, id, tx.At,
		strings.TrimSpace(b.Status+" "+b.Diagnosis)); err != nil {
		return err
	}
	if err := s.note(ctx, tx, c, "mail-bounced", id); err != nil {
		return err
	}
	meant, err := s.Meant(ctx, tx, c, r.Email)
	if err != nil {
		return err
	}
	body := "Dear " + c.LeadName + ",\n\nthe mail that asks " + r.Name + " for “" + c.Title + "” came back from " +
		r.Email +
		". " + say.Bounced(
		b.Status,
	)
	if meant != "" {
		body += " Was it meant to be " + meant + "?"
	}
	body += "\n\nCorrect the address beside the question in your application; they are then asked again.\n"
	if err := s.tell(ctx, tx, c, post.Letter{Kind: "letter-bounced", Account: c.LeadID, To: c.LeadEmail,
		ToName:  c.LeadName,
		Subject: "The mail to " + r.Name + " came back", Body: body}); err != nil {
		return err
	}
	return s.refresh(ctx, tx, c)
}

// Meant is the address that was probably meant, among common domains and those
// that people here use; "" when none is near.
func (s *Store) Meant(ctx context.Context, q db.Querier, c application.Case, address string) (string, error) {
	var known []string
	err := q.SelectContext(ctx, &known, `
		SELECT DISTINCT split_part(email, '@', 2) FROM referee
		WHERE application_id IN (SELECT id FROM application WHERE round_id = $1) AND state IN ('accepted', 'uploaded', 'sent')
		  AND email <> '' LIMIT 500`, c.RoundID)
	_, domain, _ := strings.Cut(c.LeadEmail, "@")
	return request.Meant(address, append(known, domain)...), err
}

// BounceStatus is the status with which a mail came back (RFC 3463).
func (r Referee) BounceStatus() string {
	status, _, _ := strings.Cut(r.Bounce, " ")
	return status
}
