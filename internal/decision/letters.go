package decision

import (
	"context"
	"strconv"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/letter"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// why of a decision, as its letter says it.
type why struct {
	Reasons string // how it was marked, criterion by criterion
	Notes   string // what readers wrote for whoever applied, where the round promises it
}

// whys of some decisions: the described step that the readers' marks come to, and their
// notes. Nobody is named.
func (s *Store) whys(ctx context.Context, tx *db.Tx, f *form.Form, list []deciding) (map[int64]why, error) {
	out := map[int64]why{}
	entries := make([]int64, len(list))
	outcome := map[int64]lifecycle.State{}
	for i, d := range list {
		entries[i], outcome[d.EntryID] = d.EntryID, d.Outcome
	}
	var marks []struct {
		EntryID   int64 `db:"entry_id"`
		Criterion form.Key
		Sum, N    int
	}
	if err := tx.SelectContext(ctx, &marks, `
		SELECT m.entry_id, m.criterion, sum(m.value) AS sum, count(*) AS n FROM mark m
		JOIN assignment g ON g.entry_id = m.entry_id AND g.account_id = m.account_id AND g.sent_at IS NOT NULL
		WHERE m.entry_id = ANY($1) GROUP BY m.entry_id, m.criterion`, entries); err != nil {
		return nil, err
	}
	by := map[int64]map[form.Key]int{}
	for _, m := range marks {
		if by[m.EntryID] == nil {
			by[m.EntryID] = map[form.Key]int{}
		}
		by[m.EntryID][m.Criterion] = (2*m.Sum + m.N) / (2 * m.N) // the nearest step, half upwards
	}
	for entry, steps := range by {
		w := out[entry]
		w.Reasons = say.Marked(f.Design.Judged(""), steps)
		out[entry] = w
	}
	if f.Design.Notes == form.NotesStay || f.Design.NotesOn != "" {
		return out, nil
	}
	notes, err := notesOf(ctx, tx, entries)
	if err != nil {
		return nil, err
	}
	for entry, note := range notes {
		if f.Design.Notes == form.NotesDeclined && !outcome[entry].Is(lifecycle.Declined) {
			continue
		}
		w := out[entry]
		w.Notes = note
		out[entry] = w
	}
	return out, nil
}

// Letter of an act, as it stands.
type Letter struct {
	ID      int64
	Kind    string
	State   string
	Subject string
	Body    string
	Name    string     `db:"to_name"`
	To      string     `db:"to_address"`
	DueAt   time.Time  `db:"due_at"`
	SentAt  *time.Time `db:"sent_at"`
	Outcome lifecycle.State
	Amount  int64
	Ref     string
	Title   string
	EntryID int64 `db:"entry_id"`
	Asked   *int64
	Rank    int
	Lines   []Line   `db:"-"` // awards it gives, where the round gives several
	Odd     []string `db:"-"` // what is odd about it
}

// Held reports a letter that can still be changed.
func (l Letter) Held() bool { return l.State == "held" || l.State == "cancelled" }

// LettersOf an act, with what is odd about each; those that no longer hold are left out.
func (s *Store) LettersOf(ctx context.Context, q db.Querier, f *form.Form, roundID, act int64) (out []Letter,
	err error) {
	if err := q.SelectContext(ctx, &out, `
		SELECT o.id, o.kind, o.state, o.subject, o.body, o.to_name, o.to_address, o.due_at, o.sent_at, d.outcome, d.amount, d.entry_id, st.asked, d.rank, a.ref, a.title
		FROM decision d JOIN act x ON x.id = d.act_id JOIN post o ON o.id = d.post_id JOIN entry e ON e.id = d.entry_id
		JOIN application a ON a.id = e.application_id JOIN standing st ON st.entry_id = e.id
		WHERE x.round_id = $1 AND x.id = $2 AND o.state <> 'superseded' ORDER BY d.rank, o.id`, roundID, act); err != nil {
		return nil, err
	}
	lines, err := s.linesBy(ctx, q, act)
	if err != nil {
		return nil, err
	}
	made := make([]letter.Made, len(out))
	for i, l := range out {
		out[i].Lines = lines[l.EntryID]
		made[i] = letter.Made{Kind: l.Kind, Subject: l.Subject, Body: l.Body, Name: l.Name, Values: []string{l.Title, l.Ref,
			money.Format(l.Amount, f.Design.Currency), linesSaid(f, out[i].Lines),
			"place " + strconv.Itoa(l.Rank)}}
		if l.Asked != nil {
			made[i].Values = append(made[i].Values, money.Format(*l.Asked, f.Design.Currency))
		}
		if l.Outcome.Is(lifecycle.Declined) { // its reasons are what stands between what all of them say
			made[i].Reasoned, made[i].Reasons = len(f.Design.Judged("")) > 0, say.ReasonsIn(f.Design.Judged(""), l.Body)
		}
	}
	for i, odd := range letter.Odd(made) {
		out[i].Odd = odd
	}
	return out, nil
}

// Reword changes a letter that has not left, with the old text kept on the trail.
func (s *Store) Reword(ctx context.Context, tx *db.Tx, r round.Round, act, id int64, subject, body string) error {
	subject, body = strings.TrimSpace(subject), strings.TrimSpace(body)
	switch {
	case subject == "" || len(subject) > 300:
		return refusal.In("subject", "Give the letter a subject of up to 300 characters.")
	case body == "" || len(body) > 40_000:
		return refusal.In("body", "Write the letter, in up to 40,000 characters.")
	case strings.Contains(subject+body, "{{"):
		return refusal.In("body",
			"Fields in braces are filled when letters are made; write here what is to stand in this one.")
	}
	var application int64
	if err := tx.GetContext(ctx, &application, `
		SELECT COALESCE(max(e.application_id), 0) FROM decision d JOIN act x ON x.id = d.act_id JOIN entry e ON e.id = d.entry_id
		WHERE x.round_id = $1 AND x.id = $2 AND d.post_id = $3`, r.ID, act, id); err != nil {
		return err
	}
	changed := false
	if application != 0 {
		var err error
		if changed, err = s.Post.Reword(ctx, tx, id, subject, body+"\n"); err != nil {
			return err
		}
	}
	if !changed {
		return refusal.Unfit("this letter has left, or another took its place").But("change the decision with a reason, and a new letter goes")
	}
	return trail.Write(ctx, tx, "letter-reworded", application, r.ID, nil)
}

// ToldBy is the letter by which the applicant of an entry was told of its decision; nil
// while none has left.
func (s *Store) ToldBy(ctx context.Context, q db.Querier, entry int64) (*Letter, error) {
	var out []Letter
	err := q.SelectContext(ctx, &out, `
		SELECT o.id, o.kind, o.state, o.subject, o.body, o.to_name, o.to_address, o.due_at, o.sent_at, d.outcome, d.amount, a.ref, a.title
		FROM entry e JOIN decision d ON d.entry_id = e.id AND d.act_id = e.told_act JOIN post o ON o.id = d.post_id AND o.sent_at IS NOT NULL
		JOIN application a ON a.id = e.application_id WHERE e.id = $1`, entry)
	if err != nil || len(out) == 0 {
		return nil, err
	}
	return &out[0], nil
}
