package application

import (
	"context"
	"encoding/json"
	"fmt"
	"regexp"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/letter"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/core/seal"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// LockAll takes the rows of many applications, in the order of their numbers,
// and reads their entries again. The order of entries is not kept.
func (s *Store) LockAll(ctx context.Context, tx *db.Tx, entries []int64) (out []Case, err error) {
	if _, err := tx.ExecContext(ctx, `
		SELECT a.id FROM application a JOIN entry e ON e.application_id = a.id WHERE e.id = ANY($1) ORDER BY a.id FOR UPDATE OF a`, entries); err != nil {
		return nil, err
	}
	err = tx.SelectContext(ctx, &out, selectCase+`WHERE e.id = ANY($1) ORDER BY a.id`, entries)
	return out, err
}

// Change is one of many that are made together: a locked case, what happens to
// it, and the figures for its trail.
type Change struct {
	Case    Case
	Step    lifecycle.Step
	Figures map[string]string
}

// ApplyAll takes many locked entries through their steps at once. It is for
// steps after sending, which change no answer and open nothing for writing.
func (s *Store) ApplyAll(ctx context.Context, tx *db.Tx, changes []Change) error {
	var entries []int64
	var states, moves pq.StringArray
	var byLetter []bool
	var told []trail.Entry
	for _, c := range changes {
		if c.Step.To.Writing() || c.Step.To.Open() || c.Case.State.Writing() || c.Case.State.Open() {
			return refusal.Newf("%s cannot be taken from %s to %s with others", c.Case.Ref, c.Case.State, c.Step.To)
		}
		entries, states, moves = append(entries, c.Case.EntryID), append(states, string(c.Step.To)), append(moves,
			string(c.Step.Move))
		byLetter = append(byLetter, c.Step.ByLetter)
		told = append(told, trail.Entry{Verb: sayVerb(c.Step.Event), Application: c.Case.ID, Round: c.Case.RoundID,
			Figures: c.Figures})
	}
	if err := s.supersede(ctx, tx, entries); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE entry e SET state = n.state, state_at = $4, version = version + 1,
		       told = CASE WHEN NOT n.by_letter THEN '' WHEN e.told <> '' THEN e.told ELSE e.state END
		FROM unnest($1::bigint[], $2::text[], $3::boolean[]) AS n(id, state, by_letter) WHERE e.id = n.id`, entries, states, byLetter, tx.At); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE standing s SET state = n.state, move = n.move, changed_at = $4, valid_until = NULL
		FROM unnest($1::bigint[], $2::text[], $3::text[]) AS n(id, state, move) WHERE s.entry_id = n.id`, entries, states, moves, tx.At); err != nil {
		return err
	}
	return trail.WriteAll(ctx, tx, told)
}

// Told is one letter of the design to one case, with what it says besides.
type Told struct {
	Case   Case
	Key    form.Key
	Extra  map[string]string
	Before string      // a sentence before the text; "" for none
	After  string      // what stands after it; "" for nothing
	Awards []form.Key  // that they are given
	Text   form.Letter // as they are sent it; zero until Texts has found it
}

// Texts finds which letter each is sent where others go out in its place to some: by what
// they sent, and by what they are given.
func (s *Store) Texts(ctx context.Context, q db.Querier, f *form.Form, list []Told) error {
	at := map[int64][]int{}
	var entries []int64
	for i, t := range list {
		if t.Text.Key != "" {
			continue
		}
		list[i].Text, _ = f.LetterTo(t.Key, nil, t.Awards)
		if f.Varies(t.Key) {
			at[t.Case.EntryID] = append(at[t.Case.EntryID], i)
			entries = append(entries, t.Case.EntryID)
		}
	}
	for from := 0; from < len(entries); from += sealsAtOnce {
		var seals []struct {
			Entry    int64
			Document []byte
		}
		if err := q.SelectContext(ctx, &seals,
			`SELECT e.id AS entry, d.document FROM entry e JOIN seal d ON d.id = e.seal_id WHERE e.id = ANY($1)`,
			entries[from:min(from+sealsAtOnce, len(entries))]); err != nil {
			return err
		}
		for _, x := range seals {
			var doc seal.Document
			if err := json.Unmarshal(x.Document, &doc); err != nil {
				return err
			}
			for _, i := range at[x.Entry] {
				path := f.Walk(doc.Filled(list[i].Case.LeadName))
				list[i].Text, _ = f.LetterTo(list[i].Key, path, list[i].Awards)
			}
		}
	}
	return nil
}

// sealsAtOnce are read at once.
const sealsAtOnce = 250

// SendLetters queues letters of a design for many cases, to go out at due, by an
// act of the office. It returns their numbers in the same order.
func (s *Store) SendLetters(ctx context.Context, tx *db.Tx, f *form.Form, list []Told, due time.Time,
	act int64) ([]int64, error) {
	entries := make([]int64, len(list))
	for i, t := range list {
		entries[i] = t.Case.EntryID
	}
	var asked []struct {
		EntryID int64 `db:"entry_id"`
		Asked   *int64
	}
	if err := tx.SelectContext(ctx, &asked, `SELECT entry_id, asked FROM standing WHERE entry_id = ANY($1)`,
		entries); err != nil {
		return nil, err
	}
	sums := map[int64]*int64{}
	for _, a := range asked {
		sums[a.EntryID] = a.Asked
	}
	if err := s.Texts(ctx, tx, f, list); err != nil {
		return nil, err
	}
	letters := make([]post.Letter, len(list))
	queued := make([]trail.Entry, len(list))
	for i, t := range list {
		l, err := s.fill(f, t.Case, t.Key, t.Text, sums[t.Case.EntryID], t.Extra)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", t.Case.Ref, err)
		}
		if t.Before != "" {
			l.Body = t.Before + "\n\n" + l.Body
		}
		if t.After != "" {
			l.Body = strings.TrimRight(l.Body, "\n") + "\n\n" + t.After + "\n"
		}
		l.Due, l.Entry, l.Holds, l.Act = due, t.Case.EntryID, string(lifecycle.Tells(string(t.Key))), act
		letters[i] = l
		queued[i] = trail.Entry{Verb: "letter-queued", Application: t.Case.ID, Round: t.Case.RoundID,
			Figures: map[string]string{"letter": string(t.Key), "due": fmt.Sprint(due.Unix())}}
	}
	ids, err := s.Post.QueueAll(ctx, tx, letters)
	if err != nil {
		return nil, err
	}
	return ids, trail.WriteAll(ctx, tx, queued)
}

// fill fills a letter of a design from a case.
func (s *Store) fill(f *form.Form, c Case, key form.Key, text form.Letter, asked *int64,
	extra map[string]string) (post.Letter, error) {
	if text.Key == "" {
		return post.Letter{}, refusal.Newf("the design has no letter %q", key)
	}
	values := map[string]string{
		"name": c.LeadName, "title": c.Title, "ref": c.Ref, "round": c.RoundName, "office": s.Post.Name(),
		"answer-on": calendar.DateOf(f.At(form.AnswerOn), f.Zone).Words()}
	if asked != nil {
		values["asked"] = money.Format(*asked, f.Design.Currency)
	}
	for k, v := range extra {
		values[k] = v
	}
	l := post.Letter{Kind: string(key), Account: c.LeadID, Application: c.ID, Round: c.RoundID, To: c.LeadEmail,
		ToName: c.LeadName, ReplyTo: f.Design.Contact}
	var err error
	if l.Subject, err = letter.Fill(text.Subject, values); err != nil {
		return l, err
	}
	if l.Body, err = letter.Fill(text.Body, values); err != nil {
		return l, err
	}
	l.Body = gaps.ReplaceAllString(l.Body, "\n\n") // a field that has nothing to say leaves no hole
	return l, nil
}

var gaps = regexp.MustCompile(`\n{3,}`)
