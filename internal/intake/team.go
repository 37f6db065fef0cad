package intake

import (
	"context"
	"strconv"
	"strings"
	"time"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// invitationLife is how long somebody who is asked has to answer.
const invitationLife = 14 * 24 * time.Hour

// mostTeammates of one application, asked ones included.
const mostTeammates = 20

// InviteTeammate asks somebody to write an application with its lead, or to read
// and comment on it. They get a link; nothing is theirs before they accept, and
// whoever asks learns nothing of what account the address has.
func (s *Store) InviteTeammate(ctx context.Context, tx *db.Tx, c application.Case, email, name, part string) error {
	c, err := s.draft(ctx, tx, c, false)
	if err != nil {
		return err
	}
	if err := people.CheckName(name); err != nil {
		return refusal.In("name", "Give their name as they sign letters.")
	}
	if err := people.CheckEmail(strings.TrimSpace(email)); err != nil {
		return err
	}
	team, err := s.Cases.Team(ctx, tx, c.ID)
	if err != nil {
		return err
	}
	open, err := s.Cases.Invitations(ctx, tx, c.ID)
	if err != nil {
		return err
	}
	if len(team)+len(open) > mostTeammates {
		return refusal.In("email",
			"At most twenty people write one application, those included who are asked or have declined.")
	}
	for _, p := range team {
		if p.Email == people.Fold(email) {
			return refusal.In("email", strings.TrimSpace(name)+" has a part in it already.")
		}
	}
	i := application.Invitation{Application: c.ID, Email: people.Fold(email), Name: strings.TrimSpace(name), Part: part,
		AskedBy: tx.By.ID}
	return s.invite(ctx, tx, c, i, c.LeadName+" asks you to write “"+c.Title+"” with them")
}

// invite keeps an invitation and mails its link.
func (s *Store) invite(ctx context.Context, tx *db.Tx, c application.Case, i application.Invitation,
	subject string) error {
	id, fresh, err := s.Cases.Invite(ctx, tx, i)
	if err != nil {
		return err
	}
	if !fresh {
		return refusal.In("email", i.Name+" is asked already, and has not answered yet.")
	}
	var asks string
	switch i.Part {
	case application.Commenter:
		subject = c.LeadName + " asks you to read “" + c.Title + "”"
		asks = " asks you to read the draft and to comment on it. You can change nothing in it, and see it until it is sent."
	case application.ToLead:
		asks = " asks you to lead it from now on: you alone can then send it, and what was signed must be signed anew."
	default:
		asks = " asks you to write it with them. You can write in it until it is sent; only " + c.LeadName + " can send it."
	}
	l := post.Letter{Kind: "teammate-invited", Application: c.ID, Round: c.RoundID, To: i.Email, ToName: i.Name,
		ReplyTo: c.LeadEmail, Subject: subject,
		Body: "Dear " + i.Name + ",\n\n" + c.LeadName + " is writing “" + c.Title + "” for " + c.RoundName + " and" + asks +
			"\n\nPress this link to say yes or no. Nothing happens before you do:\n\n" + post.LinkMark + "\n"}
	if l.Link, err = s.Links.Issue(ctx, tx, link.Team, id, invitationLife); err != nil {
		return err
	}
	if _, err := s.Cases.Post.Queue(ctx, tx, l); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "teammate-asked", c.ID, c.RoundID, map[string]string{"part": i.Part})
}

// ErrInvitationOver: it was answered, taken back, or came too late.
var ErrInvitationOver = refusal.In("over",
	"This invitation no longer holds: it was answered or taken back, or the application was sent meanwhile.")

// invited locks the case of an invitation that can still be accepted.
func (s *Store) invited(ctx context.Context, tx *db.Tx, id int64) (i application.Invitation, c application.Case,
	err error) {
	if i, err = s.Cases.Invitation(ctx, tx, id); err != nil {
		return i, c, err
	}
	if c, err = s.Cases.Of(ctx, tx, i.Application); err != nil {
		return i, c, err
	}
	if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
		return i, c, err
	}
	if i, err = s.Cases.Invitation(ctx, tx, id); err == nil &&
		(i.State != application.InvitationAsked || !c.State.Is(lifecycle.Drafting)) {
		err = ErrInvitationOver
	}
	return i, c, err
}

// MayJoin says why somebody cannot have a part in a round's applications; nil
// when they can. rel are their relations, the office's and a reader's among
// them: whoever judges an application does not write it, and naming them must
// take nothing from the office or from its readers.
func MayJoin(rel access.Relations) error {
	switch {
	case rel.Any(access.Office):
		return refusal.In("over",
			"You work at the office, which decides about this application. You can say no here; to write it, use an account of your own that has no part in the office.")
	case rel.Has(access.ReaderOf):
		return refusal.In("over",
			"You read applications of this round. You can say no here, or ask the office to let you step down as a reader first.")
	}
	return nil
}

// Join accepts an invitation for an account, in these relations to its round.
func (s *Store) Join(ctx context.Context, tx *db.Tx, id int64, a people.Account,
	rel access.Relations) (application.Case, error) {
	i, c, err := s.invited(ctx, tx, id)
	if err != nil {
		return c, err
	}
	if err := MayJoin(rel); err != nil {
		return c, err
	}
	if err := s.Cases.EndInvitation(ctx, tx, id, application.InvitationAccepted, a.ID); err != nil {
		return c, err
	}
	if i.Part == application.ToLead {
		return c, s.handOver(ctx, tx, c, a.ID)
	}
	fresh, err := s.Cases.AddTeammate(ctx, tx, c, a.ID, i.Part)
	if err != nil {
		return c, err
	}
	if !fresh {
		return c, refusal.In("over", "You have a part in this application already.")
	}
	if err := trail.Write(ctx, tx, "teammate-joined", c.ID, c.RoundID,
		map[string]string{"part": i.Part, "account": strconv.FormatInt(a.ID, 10)}); err != nil {
		return c, err
	}
	return c, s.tellLead(ctx, tx, c, i.Name+" said yes",
		i.Name+" ("+i.Email+") said yes and has a part in it now, as "+a.Name+".")
}

// Decline answers an invitation with no; its lead is told.
func (s *Store) Decline(ctx context.Context, tx *db.Tx, id int64) error {
	i, c, err := s.invited(ctx, tx, id)
	if err != nil {
		return err
	}
	if err := s.Cases.EndInvitation(ctx, tx, id, application.InvitationDeclined, 0); err != nil {
		return err
	}
	return s.tellLead(ctx, tx, c, i.Name+" said no", i.Name+" ("+i.Email+") said no. Nothing has changed in it.")
}

// TakeInvitationBack ends one before it is answered; its link no longer works.
func (s *Store) TakeInvitationBack(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	if i, err := s.Cases.Invitation(ctx, tx, id); err != nil || i.Application != c.ID {
		return application.ErrNotFound
	}
	if err := s.Cases.EndInvitation(ctx, tx, id, application.InvitationTakenBack, 0); err != nil {
		return err
	}
	return s.Links.Revoke(ctx, tx, id, link.Team)
}

func (s *Store) tellLead(ctx context.Context, tx *db.Tx, c application.Case, subject, says string) error {
	_, err := s.Cases.Post.Queue(ctx, tx, post.Letter{Kind: "teammate-answered", Account: c.LeadID, Application: c.ID,
		Round: c.RoundID, To: c.LeadEmail, ToName: c.LeadName,
		Subject: c.Ref + ": " + subject, Body: "Dear " + c.LeadName + ",\n\nabout “" + c.Title + "” for " + c.RoundName +
			": " + says + "\n"})
	return err
}

// draft locks a case that must be a draft: who writes it does not change after
// it was sent.
func (s *Store) draft(ctx context.Context, tx *db.Tx, c application.Case, shared bool) (application.Case, error) {
	w, err := s.Cases.Open(ctx, tx, c, shared)
	if err == nil && !w.Case.State.Is(lifecycle.Drafting) {
		err = ErrNotDraft
	}
	return w.Case, err
}

// DropTeammate ends somebody's part in a draft, and tells them.
func (s *Store) DropTeammate(ctx context.Context, tx *db.Tx, c application.Case, account int64) error {
	c, err := s.draft(ctx, tx, c, true)
	if err != nil {
		return err
	}
	if err := s.Cases.DropTeammate(ctx, tx, c, account); err != nil {
		return err
	}
	a, err := s.People.Find(ctx, tx, account)
	if err != nil {
		return err
	}
	_, err = s.Cases.Post.Queue(ctx, tx, post.Letter{Kind: "teammate-dropped", Account: a.ID, Application: c.ID,
		Round: c.RoundID, To: a.Email, ToName: a.Name, ReplyTo: c.LeadEmail,
		Subject: "You no longer write “" + c.Title + "”", Body: "Dear " + a.Name + ",\n\n" + c.LeadName + ", who leads “" +
			c.Title + "” for " + c.RoundName + ", has ended your part in it. You no longer see it.\n"})
	return err
}

// LeaveTeam ends one's own part, at any time; the lead is told. A lead cannot
// leave but hands over first.
func (s *Store) LeaveTeam(ctx context.Context, tx *db.Tx, c application.Case, a people.Account) error {
	c, err := s.Cases.Lock(ctx, tx, c, true)
	if err != nil {
		return err
	}
	if err := s.Cases.DropTeammate(ctx, tx, c, a.ID); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "teammate-left", c.ID, c.RoundID, nil); err != nil {
		return err
	}
	return s.tellLead(ctx, tx, c, a.Name+" has left", a.Name+" has left it and no longer sees it. What they wrote stays.")
}

// AskToLead asks somebody of the team to lead instead; the lead leads on until
// they accept.
func (s *Store) AskToLead(ctx context.Context, tx *db.Tx, c application.Case, account int64) error {
	c, err := s.draft(ctx, tx, c, false)
	if err != nil {
		return err
	}
	team, err := s.Cases.Team(ctx, tx, c.ID)
	if err != nil {
		return err
	}
	for _, p := range team {
		if p.AccountID == account && p.Kind == application.Teammate {
			return s.invite(ctx, tx, c, application.Invitation{Application: c.ID, Email: p.Email, Name: p.Name,
				Part: application.ToLead, AskedBy: tx.By.ID}, c.LeadName+" asks you to lead “"+c.Title+"”")
		}
	}
	return application.ErrNotFound
}

// handOver makes a teammate the lead, and the lead a teammate. Both are told.
func (s *Store) handOver(ctx context.Context, tx *db.Tx, c application.Case, account int64) error {
	before := c
	c, err := s.Cases.HandOver(ctx, tx, c, account)
	if err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, "handed-over", c.ID, c.RoundID, nil); err != nil {
		return err
	}
	for _, to := range []application.Case{before, c} {
		if _, err := s.Cases.Post.Queue(ctx, tx, post.Letter{Kind: "lead-handed-over", Account: to.LeadID, Application: c.ID,
			Round: c.RoundID, To: to.LeadEmail, ToName: to.LeadName,
			Subject: c.LeadName + " now leads “" + c.Title + "”",
			Body: "Dear " + to.LeadName + ",\n\n" + before.LeadName + " has handed “" + c.Title + "” for " + c.RoundName +
				" over: " + c.LeadName +
				" now leads it, and alone can send it. A signature must be typed anew, by whoever leads.\n"}); err != nil {
			return err
		}
	}
	return nil
}
