package reference

import (
	"context"
	"strings"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Person is whom an applicant names, and what they say about asking them.
type Person struct {
	Name    string
	Email   string
	Knows   string // how they know the applicant, or what they are to this
	Waived  *bool  // sight of the letter is given up; nil: not said
	Contact bool   // the office may get in touch with them
	Later   bool   // they are not asked yet
}

// Name somebody for a case, and ask them unless that is to be later.
func (s *Store) Name(ctx context.Context, tx *db.Tx, c application.Case, question form.Key, p Person) (int64, error) {
	if err := people.CheckName(p.Name); err != nil {
		return 0, refusal.In("name", "Give the referee’s name.")
	}
	if err := people.CheckEmail(p.Email); err != nil {
		return 0, err
	}
	if strings.TrimSpace(p.Knows) == "" || len(p.Knows) > 400 {
		return 0, refusal.In("knows", "Say in a few words how they know you, or what it is about.")
	}
	c, f, err := s.naming(ctx, tx, c, question)
	if err != nil {
		return 0, err
	}
	if people.Fold(p.Email) == people.Fold(c.LeadEmail) {
		return 0, refusal.In("email", "This is your own address. Somebody else must vouch for you.")
	}
	q := f.Question(question)
	if q == nil || !q.AsksPeople() {
		return 0, ErrNotFound
	}
	var waived, contact *bool
	if q.Ask != nil && q.Ask.Sight == form.SightChosen {
		if waived = p.Waived; waived == nil {
			return 0, refusal.In("waived", "Say whether you give up the right to read it, or keep it.")
		}
	}
	if q.Ask != nil && q.Ask.Contact {
		contact = &p.Contact
	}
	if err := s.room(ctx, tx, c, q, p.Email); err != nil {
		return 0, err
	}
	var id int64
	if err := tx.QueryRowxContext(ctx, `
		INSERT INTO referee (entry_id, application_id, question, name, email, knows, state, state_at, waived, contact)
		VALUES (@entry_id, @application_id, @question, @name, @email, @knows, @state, @state_at, @waived, @contact) RETURNING id`,
		db.Named{"entry_id": c.EntryID, "application_id": c.ID, "question": question, "name": strings.TrimSpace(p.Name),
			"email": people.Fold(p.Email), "knows": strings.TrimSpace(p.Knows), "state": form.ToAsk, "state_at": tx.At,
			"waived": waived, "contact": contact}).Scan(&id); err != nil {
		return 0, err
	}
	if err := s.note(ctx, tx, c, "named-referee", id); err != nil {
		return 0, err
	}
	if p.Later {
		return id, s.refresh(ctx, tx, c)
	}
	r, err := s.find(ctx, tx, id)
	if err != nil {
		return 0, err
	}
	return id, s.ask(ctx, tx, c, f, r)
}

// room is made for one more: who declined is replaced; ErrFullUp when as many
// stand as can.
func (s *Store) room(ctx context.Context, tx *db.Tx, c application.Case, q *form.Question, email string) error {
	list, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	most, standing := q.Limits.Else.Referees, 0
	for _, w := range q.Limits.When {
		most = max(most, w.Then.Referees)
	}
	for _, r := range list {
		if r.Question == q.Key && r.State != form.Replaced && r.State != form.Declined {
			standing++
			if email != "" && r.Email == people.Fold(email) {
				return refusal.In("email", "This person has been asked already.")
			}
		}
	}
	if standing >= max(most, 1) {
		return ErrFullUp
	}
	_, err = tx.ExecContext(
		ctx,
		`UPDATE referee SET state = 'replaced', state_at = $3, next_at = NULL WHERE entry_id = $1 AND question = $2 AND state = 'declined'`,
		c.EntryID,
		q.Key,
		tx.At,
	)
	return err
}

// Ask somebody who was named and not asked yet.
func (s *Store) Ask(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	r, err := s.In(ctx, tx, c, id)
	if err != nil {
		return err
	}
	c, f, err := s.naming(ctx, tx, c, r.Question)
	if err != nil {
		return err
	}
	if r.State != form.ToAsk {
		return refusal.New("they were asked already")
	}
	return s.ask(ctx, tx, c, f, r)
}

// AskAll asks all of a case who were named and not asked yet; it gives their names.
func (s *Store) AskAll(ctx context.Context, tx *db.Tx, c application.Case) (names []string, err error) {
	list, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return nil, err
	}
	for _, r := range list {
		if r.State != form.ToAsk {
			continue
		}
		if err := s.Ask(ctx, tx, c, r.ID); err != nil {
			return nil, err
		}
		names = append(names, r.Name)
	}
	return names, nil
}

// Request is the mail that asks somebody, as it goes out; its link stands as
// post.LinkMark.
func (s *Store) Request(f *form.Form, c application.Case, r Referee) (subject, body string) {
	return say.Request(say.RequestOf{Form: f, Question: f.Question(r.Question), Name: r.Name, Lead: c.LeadName,
		Round: c.RoundName, Title: c.Title, Knows: r.Knows, Due: r.Due(f, c), Waived: r.Waived, Contact: r.Contact,
		Link: post.LinkMark, Sender: s.Post.Name()})
}

func (s *Store) ask(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, r Referee) error {
	life := max(s.LinkLife, r.Due(f, c).Sub(tx.At)+s.LinkLife/2) // it outlasts what is asked
	l, err := s.Links.Issue(ctx, tx, link.Referee, r.ID, life)
	if err != nil {
		return err
	}
	subject, body := s.Request(f, c, r)
	id, err := s.Post.Queue(
		ctx,
		tx,
		post.Letter{Kind: "referee-asked", Application: c.ID, Round: c.RoundID, To: r.Email,
			ToName: r.Name, ReplyTo: c.LeadEmail, Link: l, Subject: subject, Body: body},
	)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE referee SET post_id = $2, bounced_at = NULL, bounce = '' WHERE id = $1`, r.ID,
		id); err != nil {
		return err
	}
	r.BouncedAt = nil
	return s.change(ctx, tx, c, f, r, form.Asked, "asked-referee")
}

// Replace withdraws a request; its link no longer works.
func (s *Store) Replace(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	r, err := s.In(ctx, tx, c, id)
	if err != nil || r.State == form.Replaced {
		return ErrNotFound
	}
	c, f, err := s.naming(ctx, tx, c, r.Question)
	if err != nil {
		return err
	}
	if _, err := s.Links.Issue(ctx, tx, link.Referee, r.ID, 0); err != nil {
		return err
	}
	return s.change(ctx, tx, c, f, r, form.Replaced, "referee-replaced")
}

// Correct a wrong address: the request is withdrawn, and the same person asked
// anew at the right one.
func (s *Store) Correct(ctx context.Context, tx *db.Tx, c application.Case, id int64, email string) error {
	r, err := s.In(ctx, tx, c, id)
	if err != nil {
		return err
	}
	if r.State != form.ToAsk && r.State != form.Asked {
		return refusal.New("they have answered at this address").
			But("withdraw the request if somebody else should be asked")
	}
	if people.Fold(email) == r.Email {
		return refusal.In("email", "This is the address they were asked at. Give the right one.")
	}
	if err := s.Replace(ctx, tx, c, id); err != nil {
		return err
	}
	_, err = s.Name(ctx, tx, c, r.Question, Person{Name: r.Name, Email: email, Knows: r.Knows, Waived: r.Waived,
		Contact: r.Contact != nil && *r.Contact, Later: r.State == form.ToAsk})
	return err
}
