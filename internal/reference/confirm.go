package reference

import (
	"context"
	"encoding/json"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Word is what somebody confirmed, as it stood in that minute: kept whole, so
// that it can be shown whatever becomes of the application.
type Word struct {
	Wants string     `json:"wants"`
	Title string     `json:"title"`
	Lead  string     `json:"lead"`
	Shown []Stated   `json:"shown,omitempty"`
	Files []Pictured `json:"files,omitempty"`
	Way   string     `json:"way"`
}

// The ways in which something is confirmed.
const (
	OnScreen = "on screen"
	OnPaper  = "on paper"
)

// Pictured is one file that was part of it.
type Pictured struct {
	ID   int64     `json:"id"`
	Name string    `json:"name"`
	Kind slot.Kind `json:"kind"`
}

// Stated is one answer that was part of it.
type Stated struct {
	Label string `json:"label"`
	Text  string `json:"text"`
}

// WordOf is what a person confirmed; ok is false when they have not, or when it
// was before what was confirmed was kept.
func (r Referee) WordOf() (w Word, ok bool) {
	return w, r.Confirmed != nil && json.Unmarshal(*r.Confirmed, &w) == nil
}

// ToConfirm is what a person of a question would confirm now, and its
// fingerprint.
func ToConfirm(f *form.Form, q *form.Question, c application.Case, filled *form.Filled) (Word, string) {
	w := Word{Title: c.Title, Lead: c.LeadName}
	if q.Ask == nil {
		return w, ""
	}
	w.Wants = q.Ask.Wants
	path := f.Walk(filled)
	for _, k := range q.Ask.Shows {
		shows := f.Question(k)
		st := path.Find(k)
		if shows == nil || st == nil {
			continue
		}
		if text := say.Answer(f, shows, filled, st); text != "" {
			w.Shown = append(w.Shown, Stated{shows.Label, text})
		}
		for _, x := range filled.Files[k] {
			if x.State == slot.Ready {
				w.Files = append(w.Files, Pictured{x.ID, x.Name, x.Kind})
			}
		}
	}
	return w, f.Fingerprint(q, filled)
}

// ErrOther: what would be confirmed is not what stood on the page.
var ErrOther = refusal.New("what you are asked to confirm was changed since this page was drawn").
	But("read it again below")

// Confirm is a signatory's one word. print is the fingerprint of what stood on
// the page: what was changed meanwhile is not confirmed unread.
func (s *Store) Confirm(
	ctx context.Context,
	tx *db.Tx,
	id int64,
	print string,
	answers map[form.Place]form.Answer,
) error {
	r, c, f, err := s.forReferee(ctx, tx, id)
	if err != nil {
		return err
	}
	q := f.Question(r.Question)
	if q == nil || !q.Confirms() {
		return ErrNotFound
	}
	filled, err := s.Cases.Filled(ctx, tx, c, f, tx.At)
	if err != nil {
		return err
	}
	w, now := ToConfirm(f, q, c, filled)
	switch {
	case r.State == form.SentIn && r.Fingerprint == now:
		return nil
	case print != now:
		return ErrOther
	}
	if t := f.Theirs(q.Key); t != nil {
		raw, err := keptAs(answers)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE referee SET theirs = $2 WHERE id = $1`, id, raw); err != nil {
			return err
		}
		r.Theirs = json.RawMessage(raw)
		if faults := LetterFaults(f, c, r, tx.At); len(faults) > 0 {
			return refusal.Unfit(faults[0])
		}
	}
	w.Way = OnScreen
	if err := s.freeze(ctx, tx, id, w, now); err != nil {
		return err
	}
	if err := s.change(ctx, tx, c, f, r, form.SentIn, "referee-confirmed"); err != nil {
		return err
	}
	return s.tell(ctx, tx, c, post.Letter{Kind: "letter-in", Account: c.LeadID, To: c.LeadEmail, ToName: c.LeadName,
		Subject: r.Name + " has confirmed it for “" + c.Title + "”",
		Body: "Dear " + c.LeadName + ",\n\n" + r.Name +
			" has confirmed what you asked. If you change an answer that was part of it, we ask them again when you press “Ask again”.\n"})
}

// freeze keeps what somebody confirmed.
func (s *Store) freeze(ctx context.Context, tx *db.Tx, id int64, w Word, print string) error {
	raw, err := json.Marshal(w)
	if err != nil {
		return err
	}
	way := "Confirmed: "
	if w.Way == OnPaper {
		way = "On paper: "
	}
	_, err = tx.ExecContext(ctx, `UPDATE referee SET letter = $2, confirmed = $3, fingerprint = $4 WHERE id = $1`, id,
		way+w.Wants, string(raw), print)
	return err
}

// AskAgain asks somebody to confirm anew what was changed since they did. What
// they confirmed before does not count any more.
func (s *Store) AskAgain(ctx context.Context, tx *db.Tx, c application.Case, id int64) error {
	r, err := s.In(ctx, tx, c, id)
	if err != nil {
		return err
	}
	c, f, err := s.open(ctx, tx, c, r.Question)
	if err != nil {
		return err
	}
	if r.State != form.SentIn || r.Confirmed == nil || r.Email == "" {
		return refusal.New("they have not confirmed it by their link").But("ask them first")
	}
	filled, err := s.Cases.Filled(ctx, tx, c, f, tx.At)
	if err != nil {
		return err
	}
	if f.Fingerprint(f.Question(r.Question), filled) == r.Fingerprint {
		return refusal.New("what they confirmed stands as it was").But("nothing needs to be asked again")
	}
	return s.ask(ctx, tx, c, f, r)
}

// Evidence is what can be shown of a confirmation or a letter: who, when, what,
// by which way.
type Evidence struct {
	Ref, Title, Round string
	Question          string
	Name, Email       string
	Knows             string
	At                time.Time
	Word              Word
	Fingerprint       string
	LinkID            int64 // of the personal link it came by; 0 for paper
	Paper             bool
	Entered           string // who at the office put it in; "" for nobody
	Files             []string
}

// EvidenceOf is what can be shown of a confirmation; ErrNotFound while there is
// none.
func (s *Store) EvidenceOf(
	ctx context.Context,
	q db.Querier,
	r Referee,
	c application.Case,
	f *form.Form,
) (e Evidence,
	err error) {
	w, ok := r.WordOf()
	if !ok || !r.Sent() {
		return e, ErrNotFound
	}
	e = Evidence{
		Ref:         c.Ref,
		Title:       w.Title,
		Round:       c.RoundName,
		Name:        r.Name,
		Email:       r.Email,
		Knows:       r.Knows,
		At:          r.StateAt,
		Word:        w,
		Fingerprint: r.Fingerprint,
		Paper:       w.Way == OnPaper,
	}
	if def := f.Question(r.Question); def != nil {
		e.Question = def.Label
	}
	if e.LinkID, err = s.Links.Of(ctx, q, link.Referee, r.ID); err != nil {
		return e, err
	}
	if r.EnteredBy != nil {
		if err := q.GetContext(ctx, &e.Entered, `SELECT name FROM account WHERE id = $1`, *r.EnteredBy); err != nil {
			return e, err
		}
	}
	pages, err := s.Materials.OfReferee(ctx, q, r.ID)
	for _, m := range pages {
		e.Files = append(e.Files, m.Name+", SHA-256 "+m.SHA256)
	}
	return e, err
}
