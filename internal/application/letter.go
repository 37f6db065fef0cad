package application

import (
	"context"
	"fmt"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/letter"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

func sayVerb(e lifecycle.Event) say.Verb { return say.Verb(e) }

// Letter fills a letter of the design from a case, without sending it.
func (s *Store) Letter(ctx context.Context, q db.Querier, c Case, key form.Key, extra map[string]string) (post.Letter, error) {
	f, err := s.Rounds.Form(ctx, q, c.DesignID)
	if err != nil {
		return post.Letter{}, err
	}
	text, ok := f.Letter(key)
	if !ok {
		return post.Letter{}, fmt.Errorf("the design has no letter %q", key)
	}
	st, err := s.Standing(ctx, q, c.EntryID)
	if err != nil {
		return post.Letter{}, err
	}
	values := map[string]string{
		"name": c.LeadName, "title": c.Title, "ref": c.Ref, "round": c.RoundName, "office": s.Post.Name,
		"answer-on": calendar.DateOf(f.At(form.AnswerOn), f.Zone).Words(),
	}
	if st.Asked != nil {
		values["asked"] = money.Format(*st.Asked, f.Design.Currency)
	}
	for k, v := range extra {
		values[k] = v
	}
	l := post.Letter{Kind: string(key), Account: c.LeadID, Application: c.ID, Round: c.RoundID, To: c.LeadEmail, ToName: c.LeadName, ReplyTo: f.Design.Contact}
	if l.Subject, err = letter.Fill(text.Subject, values); err != nil {
		return l, err
	}
	l.Body, err = letter.Fill(text.Body, values)
	return l, err
}

// LetterSent writes to the trail that a letter of the design went out; the
// post office calls it.
func (s *Store) LetterSent(ctx context.Context, tx *db.Tx, kind string, application int64) error {
	if !lifecycle.Writes(kind) {
		return nil
	}
	return trail.Write(ctx, tx, "letter-sent", application, 0, map[string]string{"letter": kind})
}
