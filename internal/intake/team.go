package intake

import (
	"context"
	"strings"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// firstPasswordLife is how long somebody who is invited has to choose one.
const firstPasswordLife = 14 * 24 * time.Hour

// mostTeammates of one application.
const mostTeammates = 20

// InviteTeammate lets somebody write an application with its lead, or read and
// comment on it. Who has no account gets one, with a link to choose a password.
func (s *Store) InviteTeammate(ctx context.Context, tx *db.Tx, c application.Case, email, name, part string) error {
	c, err := s.draft(ctx, tx, c, true)
	if err != nil {
		return err
	}
	if err := people.CheckName(name); err != nil {
		return people.Problem{Field: "name", Says: "Give their name as they sign letters."}
	}
	if err := people.CheckEmail(strings.TrimSpace(email)); err != nil {
		return err
	}
	team, err := s.Cases.Team(ctx, tx, c.ID)
	if err != nil {
		return err
	}
	if len(team) > mostTeammates {
		return people.Problem{Field: "email", Says: "At most twenty people write one application."}
	}
	a, err := s.People.Invite(ctx, tx, email, name)
	if err != nil {
		return err
	}
	fresh, err := s.Cases.AddTeammate(ctx, tx, c, a.ID, part)
	if err != nil {
		return err
	}
	if !fresh {
		return people.Problem{Field: "email", Says: a.Name + " has a part in it already."}
	}
	l := post.Letter{Kind: "teammate-invited", Account: a.ID, Application: c.ID, Round: c.RoundID, To: a.Email, ToName: a.Name, ReplyTo: c.LeadEmail,
		Subject: c.LeadName + " asks you to write “" + c.Title + "” with them",
		Body:    "Dear " + a.Name + ",\n\n" + c.LeadName + " is writing “" + c.Title + "” for " + c.RoundName + " and has made you a teammate. You can write in it until it is sent; only " + c.LeadName + " can send it.\n\nSign in with this address; you find it under “My applications”.\n"}
	if part == application.Commenter {
		l.Subject = c.LeadName + " asks you to read “" + c.Title + "”"
		l.Body = "Dear " + a.Name + ",\n\n" + c.LeadName + " is writing “" + c.Title + "” for " + c.RoundName + " and asks you to read the draft and to comment on it. You can change nothing in it, and see it until it is sent.\n\nSign in with this address; you find it under “My applications”.\n"
	}
	if a.PasswordHash == "" {
		if l.Link, err = s.Links.Issue(ctx, tx, link.Reset, a.ID, firstPasswordLife); err != nil {
			return err
		}
		l.Body += "\nFirst choose a password, by this link:\n\n" + post.LinkMark + "\n"
	}
	_, err = s.Cases.Post.Queue(ctx, tx, l)
	return err
}

// draft locks a case that must be a draft: who writes it does not change after
// it was sent.
func (s *Store) draft(ctx context.Context, tx *db.Tx, c application.Case, shared bool) (application.Case, error) {
	w, err := s.Cases.Open(ctx, tx, c, shared)
	if err == nil && w.Case.State != lifecycle.Draft {
		err = ErrNotDraft
	}
	return w.Case, err
}

// DropTeammate ends somebody's part in a draft.
func (s *Store) DropTeammate(ctx context.Context, tx *db.Tx, c application.Case, account int64) error {
	c, err := s.draft(ctx, tx, c, true)
	if err != nil {
		return err
	}
	return s.Cases.DropTeammate(ctx, tx, c, account)
}

// HandOver makes a teammate the lead, and the lead a teammate. Both are told.
func (s *Store) HandOver(ctx context.Context, tx *db.Tx, c application.Case, account int64) error {
	c, err := s.draft(ctx, tx, c, false)
	if err != nil {
		return err
	}
	before := c
	if c, err = s.Cases.HandOver(ctx, tx, c, account); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "handed-over", c.ID, c.RoundID, nil); err != nil {
		return err
	}
	for _, to := range []application.Case{before, c} {
		if _, err := s.Cases.Post.Queue(ctx, tx, post.Letter{Kind: "lead-handed-over", Account: to.LeadID, Application: c.ID, Round: c.RoundID, To: to.LeadEmail, ToName: to.LeadName,
			Subject: c.LeadName + " now leads “" + c.Title + "”",
			Body:    "Dear " + to.LeadName + ",\n\n" + before.LeadName + " has handed “" + c.Title + "” for " + c.RoundName + " over: " + c.LeadName + " now leads it, and alone can send it. A signature must be typed anew, by whoever leads.\n"}); err != nil {
			return err
		}
	}
	return nil
}
