package interview

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/invitation"
	"ulvant/internal/post"
	"ulvant/internal/round"
)

// Laid is how a day is laid out, as somebody typed it.
type Laid struct {
	Panel, Place, Link, Note string
	Members                  []int64
	Times                    []time.Time
	Minutes                  int
}

// fault says what cannot be kept.
func (l *Laid) fault() error {
	l.Panel, l.Place, l.Link, l.Note = strings.TrimSpace(l.Panel), strings.TrimSpace(l.Place),
		strings.TrimSpace(l.Link), strings.TrimSpace(l.Note)
	switch {
	case l.Panel == "" || len(l.Panel) > 100:
		return refusal.In("panel", "Give the panel a name of up to 100 characters.")
	case l.Place == "" && l.Link == "":
		return refusal.In("place", "Say where it is, or give the link by which it is joined.")
	case len(l.Place) > 300 || len(l.Link) > 500 || len(l.Note) > 2000:
		return refusal.In("place", "The place holds 300 characters, the link 500 and the note 2,000.")
	case l.Link != "" && !strings.HasPrefix(l.Link, "https://"):
		return refusal.In("link", "A link begins with https://.")
	case len(l.Members) == 0:
		return refusal.In("members", "Say who is there: at least one person.")
	}
	return nil
}

// AddDay adds a day of a panel. Whoever is there must be a reader of the round who
// has not declined.
func (s *Store) AddDay(ctx context.Context, tx *db.Tx, r round.Round, stage form.Key, l Laid) (id int64, err error) {
	if err := l.fault(); err != nil {
		return 0, err
	}
	if err := s.mayMeet(ctx, tx, r, l, 0); err != nil {
		return 0, err
	}
	if err := tx.GetContext(ctx, &id, `
		INSERT INTO interview_day (round_id, stage, panel, place, link, note) VALUES ($1, $2, $3, $4, $5, $6) RETURNING id`,
		r.ID, stage, l.Panel, l.Place, l.Link, l.Note); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO interview_member SELECT $1, unnest($2::bigint[])`, id,
		l.Members); err != nil {
		return 0, err
	}
	if _, err = tx.ExecContext(ctx,
		`INSERT INTO interview_slot (day_id, starts_at, minutes) SELECT $1, unnest($2::timestamptz[]), $3`,
		id, l.Times, l.Minutes); err != nil {
		return 0, err
	}
	d, err := s.Day(ctx, tx, r.ID, id)
	if err != nil {
		return 0, err
	}
	return id, s.tellMembers(ctx, tx, r, d, d.Members)
}

// tellMembers invites people to a day of a panel they are of.
func (s *Store) tellMembers(ctx context.Context, tx *db.Tx, r round.Round, d Day, members []Member) error {
	f, err := s.Cases.Rounds.Form(ctx, tx, *r.DesignID)
	if err != nil || len(d.Slots) == 0 {
		return err
	}
	first, last := d.Slots[0].Starts, d.Slots[len(d.Slots)-1].Ends()
	host := s.Mail[strings.IndexByte(s.Mail, '@')+1:]
	for _, m := range members {
		l := say.InterviewsWait(m.Name, r.Name, d.Panel, s.Post.Name(), first, f.Zone)
		calendar := invitation.Event{UID: fmt.Sprintf("interviews-%d-%d@%s", d.ID, m.Account, host), At: tx.At,
			Starts: first, Ends: last,
			Summary: "Interviews: " + r.Name, About: d.Panel, Place: d.Place, Link: d.Link,
			From: invitation.Person{Name: s.Post.Name(), Email: s.Mail}, To: invitation.Person{Name: m.Name,
				Email: m.Email}}.Text()
		if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "interview-panel", Account: m.Account, Round: r.ID, To: m.Email,
			ToName:  m.Name,
			Subject: l.Subject, Body: l.Body, Calendar: calendar}); err != nil {
			return err
		}
	}
	return nil
}

// mayMeet refuses people who do not read in the round, and people who would be in two
// rooms at once; but is a day that does not count.
func (s *Store) mayMeet(ctx context.Context, tx *db.Tx, r round.Round, l Laid, but int64) error {
	var n int
	if err := tx.GetContext(ctx, &n, `
		SELECT count(*) FROM reader WHERE round_id = $1 AND account_id = ANY($2) AND declined_at IS NULL AND ended_at IS NULL`, r.ID,
		l.Members); err != nil {
		return err
	}
	if n != len(l.Members) {
		return refusal.In("members",
			"Whoever is there must be invited as a reader of this round, and must not have declined.")
	}
	var twice struct {
		Name, Panel string
		At          time.Time `db:"starts_at"`
	}
	err := tx.GetContext(ctx, &twice, `
		SELECT p.name, d.panel, t.starts_at FROM interview_slot t JOIN interview_day d ON d.id = t.day_id
		JOIN interview_member m ON m.day_id = d.id JOIN account p ON p.id = m.account_id
		JOIN unnest($2::timestamptz[]) n(at) ON n.at < t.starts_at + make_interval(mins => t.minutes) AND t.starts_at < n.at + make_interval(mins => $3)
		WHERE m.account_id = ANY($1) AND d.id <> $4 ORDER BY t.starts_at LIMIT 1`, l.Members, l.Times, l.Minutes, but)
	if errors.Is(err, sql.ErrNoRows) {
		return nil
	}
	if err != nil {
		return err
	}
	return refusal.In("members", fmt.Sprintf("%s is with “%s” at one of these times already.", twice.Name, twice.Panel))
}

// lockDay locks a day and what is on it.
func (s *Store) lockDay(ctx context.Context, tx *db.Tx, round, id int64) (Day, error) {
	var found int64
	err := tx.GetContext(ctx, &found, `SELECT id FROM interview_day WHERE id = $1 AND round_id = $2 FOR UPDATE`, id, round)
	if errors.Is(err, sql.ErrNoRows) {
		return Day{}, ErrNoDay
	}
	if err != nil {
		return Day{}, err
	}
	return s.Day(ctx, tx, round, id)
}

// DropDay takes a day away on which nobody is met.
func (s *Store) DropDay(ctx context.Context, tx *db.Tx, r round.Round, id int64) error {
	d, err := s.lockDay(ctx, tx, r.ID, id)
	if err != nil {
		return err
	}
	for _, x := range d.Slots {
		if x.Meeting != nil {
			return refusal.Unfit("People are met on this day").But("move them or call them off first")
		}
	}
	_, err = tx.ExecContext(ctx, `DELETE FROM interview_day WHERE id = $1`, id)
	return err
}

// DropSlot takes a free time away.
func (s *Store) DropSlot(ctx context.Context, tx *db.Tx, r round.Round, day, slot int64) error {
	d, err := s.lockDay(ctx, tx, r.ID, day)
	if err != nil {
		return err
	}
	for _, x := range d.Slots {
		if x.ID == slot && x.Meeting != nil {
			return refusal.Unfit(x.Lead + " is met then").But("move them or call them off first")
		}
	}
	_, err = tx.ExecContext(ctx, `DELETE FROM interview_slot WHERE id = $1 AND day_id = $2`, slot, day)
	return err
}

// ChangeDay changes where a day is, its note and who is there; whoever has a time on it
// is told by a new invitation when the place, the link or the note is another one.
func (s *Store) ChangeDay(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, id int64, l Laid) (told int,
	err error) {
	if err := l.fault(); err != nil {
		return 0, err
	}
	d, err := s.lockDay(ctx, tx, r.ID, id)
	if err != nil {
		return 0, err
	}
	for _, x := range d.Slots {
		l.Times, l.Minutes = append(l.Times, x.Starts), x.Minutes
	}
	if err := s.mayMeet(ctx, tx, r, l, id); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE interview_day SET panel = $2, place = $3, link = $4, note = $5 WHERE id = $1`, id, l.Panel, l.Place,
		l.Link, l.Note); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM interview_member WHERE day_id = $1 AND account_id <> ALL($2)`, id,
		l.Members); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx,
		`INSERT INTO interview_member SELECT $1, unnest($2::bigint[]) ON CONFLICT DO NOTHING`, id, l.Members); err != nil {
		return 0, err
	}
	now, err := s.Day(ctx, tx, r.ID, id)
	if err != nil {
		return 0, err
	}
	fresh := slices.DeleteFunc(slices.Clone(now.Members), func(m Member) bool {
		return slices.ContainsFunc(d.Members, func(x Member) bool { return x.Account == m.Account })
	})
	if err := s.tellMembers(ctx, tx, r, now, fresh); err != nil {
		return 0, err
	}
	if d.Place == l.Place && d.Link == l.Link && d.Note == l.Note {
		return 0, nil
	}
	for _, x := range d.Slots {
		if x.Meeting == nil || !x.Starts.After(tx.At) || x.Outcome != ToCome {
			continue
		}
		c, err := s.Cases.ByEntry(ctx, tx, x.EntryID)
		if err != nil {
			return told, err
		}
		if err := s.put(ctx, tx, c, f, x.ID, x.Reply, "we have another place, link or word for you"); err != nil {
			return told, err
		}
		told++
	}
	return told, nil
}
