package reference

import (
	"context"
	"encoding/json"
	"io"
	"maps"
	"slices"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
)

// Accept says yes to a request for a letter.
func (s *Store) Accept(ctx context.Context, tx *db.Tx, id int64) error {
	r, c, f, err := s.forReferee(ctx, tx, id)
	if err != nil || r.State != form.Asked && r.State != form.Declined {
		return err
	}
	return s.change(ctx, tx, c, f, r, form.Accepted, "referee-accepted")
}

// Decline says no, if they like with a reason and with somebody else to ask; the
// applicant is told both.
func (s *Store) Decline(ctx context.Context, tx *db.Tx, id int64, why, instead string) error {
	why, instead = strings.TrimSpace(why), strings.TrimSpace(instead)
	if len(why) > 1000 || len(instead) > 400 {
		return refusal.Unfit("Say it in fewer words: up to 1,000 signs for why, 400 for whom to ask instead.")
	}
	r, c, f, err := s.forReferee(ctx, tx, id)
	if err != nil || r.State == form.Declined || r.State == form.SentIn {
		return err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE referee SET why_not = $2, instead = $3 WHERE id = $1`, id, why,
		instead); err != nil {
		return err
	}
	body := "Dear " + c.LeadName + ",\n\n" + r.Name + ", whom you asked for “" + c.Title + "” (" + c.RoundName +
		"), says that they cannot do it."
	if why != "" {
		body += "\n\nWhy: " + why
	}
	if instead != "" {
		body += "\n\nWhom you might ask instead: " + instead
	}
	body += "\n\nAsk somebody else, beside the question in your application; until then it stands in the way of sending.\n"
	if !c.State.Open() {
		body = strings.Replace(body, "; until then it stands in the way of sending", "", 1)
	}
	if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "letter-declined", Account: c.LeadID, Application: c.ID,
		Round: c.RoundID, To: c.LeadEmail, ToName: c.LeadName, Subject: r.Name + " cannot do it", Body: body}); err != nil {
		return err
	}
	return s.change(ctx, tx, c, f, r, form.Declined, "referee-declined")
}

// Draft is what stands on the page of a letter that is being written.
type Draft struct {
	Version int // the one the page was drawn with
	Text    string
	form.Dating
	Answers map[form.Place]form.Answer
}

// Keep a letter that is being written, with its day and years, and what they
// answered, where that is asked.
func (s *Store) Keep(ctx context.Context, tx *db.Tx, id int64, d Draft) error {
	r, c, f, err := s.forReferee(ctx, tx, id)
	switch {
	case err != nil:
		return err
	case r.State == form.SentIn:
		return ErrIsIn
	case r.Letter == d.Text && r.Dating() == d.Dating && maps.Equal(r.Answers(), filledOnly(d.Answers)):
		return nil
	case r.Version != d.Version:
		return ErrStale
	}
	if say.TooManyWords(d.Text, MostWords) {
		return ErrTooLong
	}
	var dated *string
	if !d.Dated.IsZero() {
		iso := d.Dated.String()
		dated = &iso
	}
	raw, err := keptAs(d.Answers)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE referee SET letter = @letter, dated = @dated, years_from = @from, years_to = @to, theirs = @theirs WHERE id = @id`,
		db.Named{"id": id, "letter": d.Text, "dated": dated, "from": d.From, "to": d.To, "theirs": raw}); err != nil {
		return err
	}
	if strings.TrimSpace(d.Text) == "" && r.LetterFile == nil &&
		len(filledOnly(d.Answers)) == 0 { // the day alone is no letter
		_, err := tx.ExecContext(ctx, `UPDATE referee SET version = version + 1 WHERE id = $1`, id)
		return err
	}
	return s.putUp(ctx, tx, c, f, r)
}

func filledOnly(answers map[form.Place]form.Answer) map[form.Place]form.Answer {
	out := map[form.Place]form.Answer{}
	for p, a := range answers {
		if !a.Empty() {
			out[p] = a
		}
	}
	return out
}

// keptAs is how answers of a person are kept: a list in the order of their places.
func keptAs(answers map[form.Place]form.Answer) (string, error) {
	list := []theirs{}
	for p, a := range filledOnly(answers) {
		list = append(list, theirs{p, a.Raw, a.Non})
	}
	slices.SortFunc(list, func(a, b theirs) int {
		return strings.Compare(string(a.Question)+"\x00"+a.Row+"\x00"+string(a.Column),
			string(b.Question)+"\x00"+b.Row+"\x00"+string(b.Column))
	})
	raw, err := json.Marshal(list)
	return string(raw), err
}

func (s *Store) putUp(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, r Referee) error {
	if r.State == form.Uploaded {
		r.StateAt = tx.At
		_, err := tx.ExecContext(
			ctx,
			`UPDATE referee SET version = version + 1, state_at = $2, next_at = $3 WHERE id = $1`,
			r.ID,
			tx.At,
			next(r, f, c),
		)
		return err
	}
	return s.change(ctx, tx, c, f, r, form.Uploaded, "referee-uploaded")
}

// PutPage puts a page of the letter up, as a PDF or a picture; it joins those
// that are there.
func (s *Store) PutPage(ctx context.Context, by db.Actor, at time.Time, id int64, name string, size int64,
	body io.Reader) (material.File, error) {
	have, err := s.Materials.OfReferee(ctx, s.DB, id)
	if err != nil {
		return material.File{}, err
	}
	if len(have) >= MostPages {
		return material.File{}, refusal.Newf(
			"%d files are put up already; take one out first, or put several pages into one PDF",
			len(have),
		)
	}
	m, err := s.Materials.Put(ctx, by, at, material.Owner{Referee: id, Slot: "letter"}, name, size, MostSize, body)
	if err != nil {
		return m, err
	}
	return m, s.DB.Do(ctx, by, at, func(ctx context.Context, tx *db.Tx) error {
		if !Opens(m) { // it does not stay
			return s.Materials.RemoveOf(ctx, tx, id, m.ID)
		}
		r, c, f, err := s.forReferee(ctx, tx, id)
		if err != nil {
			return err
		}
		if r.State == form.SentIn {
			return ErrIsIn
		}
		if err := s.firstPage(ctx, tx, id); err != nil {
			return err
		}
		return s.putUp(ctx, tx, c, f, r)
	})
}

// Opens reports a page that can be read by others.
func Opens(m material.File) bool {
	return m.State != slot.Refused && (m.Facts.Kind == slot.PDF || m.Facts.Kind == slot.Picture)
}

// TakePage takes a page out again.
func (s *Store) TakePage(ctx context.Context, tx *db.Tx, id, page int64) error {
	r, c, f, err := s.forReferee(ctx, tx, id)
	if err != nil {
		return err
	}
	if r.State == form.SentIn {
		return ErrIsIn
	}
	if err := s.Materials.RemoveOf(ctx, tx, id, page); err != nil {
		return err
	}
	if err := s.firstPage(ctx, tx, id); err != nil {
		return err
	}
	if r, err = s.find(ctx, tx, id); err != nil {
		return err
	}
	if r.LetterFile == nil && strings.TrimSpace(r.Letter) == "" && len(r.Answers()) == 0 && r.State == form.Uploaded {
		return s.change(ctx, tx, c, f, r, form.Accepted, "referee-accepted") // nothing is put up any more
	}
	return s.putUp(ctx, tx, c, f, r)
}

// firstPage keeps which page of a letter is the first.
func (s *Store) firstPage(ctx context.Context, tx *db.Tx, id int64) error {
	have, err := s.Materials.OfReferee(ctx, tx, id)
	if err != nil {
		return err
	}
	var first *int64
	if len(have) > 0 {
		first = &have[0].ID
	}
	_, err = tx.ExecContext(ctx, `UPDATE referee SET letter_file = $2 WHERE id = $1`, id, first)
	return err
}

// Reusable lists the letters that the same person sent for the same applicant
// before, the latest first: each can be taken for this request too.
func (s *Store) Reusable(
	ctx context.Context,
	q db.Querier,
	r Referee,
	c application.Case,
) (out []Referee, err error) {
	if r.Email == "" {
		return nil, nil
	}
	err = q.SelectContext(ctx, &out, `
		SELECT `+columns+` FROM referee x
		WHERE x.email = $1 AND x.id <> $2 AND x.state = 'sent' AND confirmed IS NULL AND arrived IS NULL
		  AND EXISTS (SELECT FROM relation o WHERE o.application_id = x.application_id AND o.kind = 'lead' AND o.account_id = $3)
		ORDER BY state_at DESC LIMIT 5`, r.Email, r.ID, c.LeadID)
	return out, err
}

// Reuse takes an earlier letter for this request: what it says and its pages are
// put up here as if written anew, and sent only when its writer presses Send. Its
// age is judged then, by this round's rule.
func (s *Store) Reuse(ctx context.Context, tx *db.Tx, id, from int64) error {
	r, c, f, err := s.forReferee(ctx, tx, id)
	if err != nil {
		return err
	}
	if r.State == form.SentIn {
		return ErrIsIn
	}
	list, err := s.Reusable(ctx, tx, r, c)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(list, func(x Referee) bool { return x.ID == from })
	if i < 0 {
		return ErrNotFound
	}
	old := list[i]
	dated := old.Dated
	if dated == nil { // the day it was sent
		dated = &old.StateAt
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE referee SET letter = @letter, dated = @dated, years_from = @from, years_to = @to, reused = @reused WHERE id = @id`,
		db.Named{"id": id, "letter": old.Letter, "dated": calendar.DateOf(*dated, time.UTC).String(), "from": old.YearsFrom,
			"to": old.YearsTo, "reused": from}); err != nil {
		return err
	}
	if err := s.Materials.CopyOf(ctx, tx, from, id); err != nil {
		return err
	}
	if err := s.firstPage(ctx, tx, id); err != nil {
		return err
	}
	return s.putUp(ctx, tx, c, f, r)
}

// LetterFaults says what is wrong with a letter as it stands, one sentence for
// each thing; nil when it can be sent.
func LetterFaults(f *form.Form, c application.Case, r Referee, at time.Time) (out []string) {
	q := f.Question(r.Question)
	if q == nil {
		return nil
	}
	by := f.DueDay(q, c.Window(f).Closes)
	if fault := q.Ask.Fault(r.Dating(), calendar.DateOf(at, f.Zone), by); fault != "" {
		out = append(out, say.LetterFault(q.Ask, fault, by))
	}
	if t := f.Theirs(q.Key); t != nil {
		path := t.Walk(TheirsFilled(f, r, at))
		for _, o := range path.Obstacles {
			what, remedy := say.Obstacle(t, o)
			out = append(out, refusal.Sentence(what)+" "+remedy)
		}
	}
	return out
}

// TheirsFilled is what a walk of the questions a person answers reads.
func TheirsFilled(f *form.Form, r Referee, at time.Time) *form.Filled {
	return &form.Filled{Answers: r.Answers(), Lead: r.Name, Today: calendar.DateOf(at, f.Zone)}
}

// Send the letter: from here on it counts, and cannot be changed.
func (s *Store) Send(ctx context.Context, tx *db.Tx, id int64) error {
	r, c, f, err := s.forReferee(ctx, tx, id)
	if err != nil {
		return err
	}
	if r.State == form.SentIn {
		return nil
	}
	if strings.TrimSpace(r.Letter) == "" && r.LetterFile == nil && len(r.Answers()) == 0 {
		return ErrEmpty
	}
	if faults := LetterFaults(f, c, r, tx.At); len(faults) > 0 {
		return refusal.Unfit(faults[0])
	}
	if err := s.change(ctx, tx, c, f, r, form.SentIn, "referee-sent"); err != nil {
		return err
	}
	of := say.RequestOf{Form: f, Question: f.Question(r.Question), Lead: c.LeadName, Waived: r.Waived}
	return s.tell(ctx, tx, c, post.Letter{Kind: "letter-thanks", To: r.Email, ToName: r.Name, ReplyTo: c.LeadEmail,
		Subject: "Your letter for “" + c.Title + "” is in",
		Body: "Dear " + r.Name + ",\n\nthank you. Your letter for " + c.LeadName +
			" reached us and needs nothing more from you. " + of.Sight() + "\n"},
		post.Letter{Kind: "letter-in", Account: c.LeadID, To: c.LeadEmail, ToName: c.LeadName,
			Subject: r.Name + " has sent the letter for “" + c.Title + "”",
			Body: "Dear " + c.LeadName + ",\n\n" + r.Name +
				" has sent the letter. What is still to do stands beside your application.\n"})
}

func (s *Store) tell(ctx context.Context, tx *db.Tx, c application.Case, letters ...post.Letter) error {
	for _, l := range letters {
		if l.To == "" {
			continue
		}
		l.Application, l.Round = c.ID, c.RoundID
		if _, err := s.Post.Queue(ctx, tx, l); err != nil {
			return err
		}
	}
	return nil
}
