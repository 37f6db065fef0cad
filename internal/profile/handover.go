package profile

import (
	"context"
	"database/sql"
	"errors"
	"strconv"
	"strings"
	"time"

	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
)

// Handover is a change of the authorised person: it is asked with a reason, and
// holds once whoever is to be it agrees.
type Handover struct {
	ID        int64
	ProfileID int64  `db:"profile_id"`
	FromID    *int64 `db:"from_id"`
	From      string // the name of who was; "" for nobody
	ToID      int64  `db:"to_id"`
	To        string
	By        string
	ByOffice  bool `db:"by_office"`
	Reason    string
	State     string    // asked | agreed | refused | taken back
	AskedAt   time.Time `db:"asked_at"`
	At        time.Time
}

// Handovers of a profile, the latest first.
func (s *Store) Handovers(ctx context.Context, q db.Querier, id int64) (out []Handover, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT h.id, h.profile_id, h.from_id, COALESCE(f.name, '') AS from, h.to_id, t.name AS to, b.name AS by, h.by_office, h.reason,
		       h.state, h.asked_at, h.at
		FROM profile_handover h LEFT JOIN account f ON f.id = h.from_id JOIN account t ON t.id = h.to_id JOIN account b ON b.id = h.by_id
		WHERE h.profile_id = $1 ORDER BY h.id DESC`, id)
	return out, err
}

// Propose another member as the authorised person, by the one who is, or by the
// office when that one is gone. Whoever is it now is told at once, with the
// reason; nothing changes until the other agrees.
func (s *Store) Propose(ctx context.Context, tx *db.Tx, id, account int64, reason string, byOffice bool) error {
	reason = strings.TrimSpace(reason)
	if reason == "" || len(reason) > 1000 {
		return refusal.Unfit("Say why, in up to 1,000 signs; both are told.")
	}
	if !byOffice {
		if p, err := s.lock(ctx, tx, id); err != nil {
			return err
		} else if p.Mine != "authorised" {
			return refusal.Unfit("Only the authorised person can hand that over. If they are gone, ask the office.")
		}
	}
	p, err := s.ByID(ctx, tx, id)
	if err != nil {
		return err
	}
	members, err := s.Members(ctx, tx, id)
	if err != nil {
		return err
	}
	var from, to *Member
	for i := range members {
		switch {
		case members[i].AccountID == account:
			to = &members[i]
		case members[i].Kind == "authorised":
			from = &members[i]
		}
	}
	if to == nil {
		return ErrNotFound
	}
	if to.Kind == "authorised" {
		return refusal.Unfit(to.Name + " is the authorised person already.")
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE profile_handover SET state = 'taken back', at = $2 WHERE profile_id = $1 AND state = 'asked'`, id,
		tx.At); err != nil {
		return err
	}
	var fromID *int64
	if from != nil {
		fromID = &from.AccountID
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO profile_handover (profile_id, from_id, to_id, by_id, by_office, reason, state, asked_at, at)
		VALUES (@profile, @from, @to, @by, @office, @reason, 'asked', @at, @at)`,
		db.Named{"profile": id, "from": fromID, "to": account, "by": tx.By.ID, "office": byOffice, "reason": reason,
			"at": tx.At}); err != nil {
		return err
	}
	page := s.Post.BaseURL + "/profiles/" + strconv.FormatInt(id, 10)
	if err := s.tellMember(ctx, tx, *to, "Will you be the authorised person of “"+p.Name+"”?",
		"you are asked to be the authorised person of “"+p.Name+"” with us: the one who may change who acts for it. Why: "+
			reason+
			"\n\nSay yes or no on its page:\n\n"+page); err != nil || from == nil {
		return err
	}
	who := "You have asked"
	if byOffice {
		who = "The office has asked"
	}
	return s.tellMember(ctx, tx, *from, to.Name+" is asked to be the authorised person of “"+p.Name+"”",
		who+" "+to.Name+" to be the authorised person of “"+p.Name+"” in your place. Why: "+reason+
			"\n\nNothing changes until they agree. If it is not right, write to "+s.Contact()+".")
}

// AnswerHandover is the answer of whoever was asked. With a yes they are the
// authorised person; whoever was before is told so, with the reason.
func (s *Store) AnswerHandover(ctx context.Context, tx *db.Tx, id int64, yes bool) error {
	p, err := s.lock(ctx, tx, id)
	if err != nil {
		return err
	}
	var h Handover
	err = tx.GetContext(ctx, &h,
		`SELECT id, from_id, to_id, reason FROM profile_handover WHERE profile_id = $1 AND state = 'asked' AND to_id = $2`,
		id,
		tx.By.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return refusal.Unfit("You are not asked that any more.")
	}
	if err != nil {
		return err
	}
	state := "refused"
	if yes {
		state = "agreed"
		if err := s.authorise(ctx, tx, id, h.ToID); err != nil {
			return err
		}
	}
	if _, err := tx.ExecContext(ctx, `UPDATE profile_handover SET state = $2, at = $3 WHERE id = $1`, h.ID, state,
		tx.At); err != nil || h.FromID == nil {
		return err
	}
	old, err := s.People.Find(ctx, tx, *h.FromID)
	if err != nil {
		return err
	}
	who, err := s.People.Find(ctx, tx, tx.By.ID)
	if err != nil {
		return err
	}
	m := Member{AccountID: old.ID, Name: old.Name, Email: old.Email}
	if !yes {
		return s.tellMember(ctx, tx, m, who.Name+" will not be the authorised person of “"+p.Name+"”",
			who.Name+" said no. You are the authorised person as before.")
	}
	return s.tellMember(ctx, tx, m, "You are no longer the authorised person of “"+p.Name+"”",
		who.Name+" is the authorised person of “"+p.Name+"” from now on. Why: "+h.Reason+
			"\n\nYou may still act for it. If it is not right, write to "+s.Contact()+".")
}

// authorise makes a member the authorised one; whoever was is an administrator.
func (s *Store) authorise(ctx context.Context, tx *db.Tx, id, account int64) error {
	if _, err := tx.ExecContext(ctx,
		`UPDATE profile_member SET kind = 'administrator' WHERE profile_id = $1 AND kind = 'authorised'`, id); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx,
		`UPDATE profile_member SET kind = 'authorised', since = $3 WHERE profile_id = $1 AND account_id = $2`, id, account,
		tx.At)
	return err
}

func (s *Store) tellMember(ctx context.Context, tx *db.Tx, m Member, subject, says string) error {
	_, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "profile-handover", Account: m.AccountID, To: m.Email,
		ToName:  m.Name,
		Subject: subject, Body: "Dear " + m.Name + ",\n\n" + says + "\n\n" + s.Post.Name() + "\n"})
	return err
}
