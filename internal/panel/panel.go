// Package panel runs the meetings at which cases are decided: an agenda, who leaves the
// room for which case, notes and votes, moves of the order with their reasons, and
// minutes that say who decided and who was out. What is decided is recorded by
// internal/decision.
package panel

import (
	"context"
	"database/sql"
	"errors"
	"strings"
	"time"

	"ulvant/core/access"
	"ulvant/core/agenda"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/connection"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Store of meetings.
type Store struct {
	DB          *db.DB
	People      *people.Store
	Connections *connection.Store
}

// Sitting is one meeting.
type Sitting struct {
	ID      int64
	RoundID int64 `db:"round_id"`
	Stage   form.Key
	Name    string
	At      time.Time
	Place   string
	Minutes int
	Votes   bool
	BegunAt *time.Time `db:"begun_at"`
	EndedAt *time.Time `db:"ended_at"`
	EntryID *int64     `db:"entry_id"` // talked about now
	Since   *time.Time
	Notes   string
	Said    string     // by the second body: confirmed, sent back; "" for nothing yet
	SaidAt  *time.Time `db:"said_at"`
	SaidBy  *string    `db:"said_by"`
	SaidWhy string     `db:"said_why"`
	Version int

	Members []Member `db:"-"`
	Items   []Item   `db:"-"` // the agenda
}

// Member of a meeting.
type Member struct {
	Account int64 `db:"account_id"`
	Name    string
	Here    bool
}

// Item of the agenda.
type Item struct {
	EntryID  int64 `db:"entry_id"`
	AppID    int64 `db:"application_id"`
	Position int
	Minutes  int
	Why      agenda.Why
	Notes    string
	TalkedAt *time.Time `db:"talked_at"`
	Back     string     // why a second body sends it back; "": it does not
	BackBy   *string    `db:"back_by"`
	Ref      string
	Title    string
	Out      []Out  `db:"-"`
	Votes    []Vote `db:"-"`
}

// Out is a member who leaves the room for a case.
type Out struct {
	EntryID int64 `db:"entry_id"`
	Account int64 `db:"account_id"`
	Name    string
	Why     string
}

// Vote of a member on a case.
type Vote struct {
	EntryID int64 `db:"entry_id"`
	Account int64 `db:"account_id"`
	Name    string
	Vote    string
}

// The votes.
const (
	For     = "for"
	Against = "against"
	Neither = "neither"
)

// Tally counts the votes of a case.
func (i Item) Tally() (yes, no, neither int) {
	for _, v := range i.Votes {
		switch v.Vote {
		case For:
			yes++
		case Against:
			no++
		default:
			neither++
		}
	}
	return yes, no, neither
}

// OutOf reports a member who is out of the room for the case.
func (i Item) OutOf(account int64) bool {
	for _, o := range i.Out {
		if o.Account == account {
			return true
		}
	}
	return false
}

// Errors that people can do something about.
var (
	ErrNone     = refusal.Missing("this meeting is not there any more")
	ErrEnded    = refusal.New("the meeting is over").But("what is still to be said goes into the next one")
	ErrNoMember = refusal.New("you are not of this panel")
)

const selectSitting = `
	SELECT s.id, s.round_id, s.stage, s.name, s.at, s.place, s.minutes, s.votes, s.begun_at, s.ended_at, s.entry_id, s.since, s.notes, s.said, s.said_at,
	       b.name AS said_by, s.said_why, s.version FROM panel_sitting s LEFT JOIN account b ON b.id = s.said_by `

// Of lists the meetings of a stage, the latest first, without their agendas.
func (s *Store) Of(ctx context.Context, q db.Querier, round int64, stage form.Key) (out []Sitting, err error) {
	err = q.SelectContext(ctx, &out, selectSitting+`WHERE s.round_id = $1 AND s.stage = $2 ORDER BY s.at DESC, s.id DESC`,
		round, stage)
	return out, err
}

// Find a meeting whole.
func (s *Store) Find(ctx context.Context, q db.Querier, round, id int64) (x Sitting, err error) {
	err = q.GetContext(ctx, &x, selectSitting+`WHERE s.id = $1 AND s.round_id = $2`, id, round)
	if errors.Is(err, sql.ErrNoRows) {
		return x, ErrNone
	}
	if err != nil {
		return x, err
	}
	if err := q.SelectContext(ctx, &x.Members, `
		SELECT m.account_id, p.name, m.here FROM panel_member m JOIN account p ON p.id = m.account_id WHERE m.sitting_id = $1 ORDER BY p.name, p.id`, id); err != nil {
		return x, err
	}
	if err := q.SelectContext(ctx, &x.Items, `
		SELECT i.entry_id, e.application_id, i.position, i.minutes, i.why, i.notes, i.talked_at, i.back, b.name AS back_by, a.ref, a.title
		FROM panel_item i JOIN entry e ON e.id = i.entry_id JOIN application a ON a.id = e.application_id LEFT JOIN account b ON b.id = i.back_by
		WHERE i.sitting_id = $1 ORDER BY i.position`, id); err != nil {
		return x, err
	}
	at := map[int64]int{}
	for i, it := range x.Items {
		at[it.EntryID] = i
	}
	var outs []Out
	if err := q.SelectContext(ctx, &outs, `
		SELECT o.entry_id, o.account_id, p.name, o.why FROM panel_out o JOIN account p ON p.id = o.account_id WHERE o.sitting_id = $1 ORDER BY p.name`, id); err != nil {
		return x, err
	}
	for _, o := range outs {
		if i, ok := at[o.EntryID]; ok {
			x.Items[i].Out = append(x.Items[i].Out, o)
		}
	}
	var votes []Vote
	if err := q.SelectContext(ctx, &votes, `
		SELECT v.entry_id, v.account_id, p.name, v.vote FROM panel_vote v JOIN account p ON p.id = v.account_id WHERE v.sitting_id = $1 ORDER BY p.name`, id); err != nil {
		return x, err
	}
	for _, v := range votes {
		if i, ok := at[v.EntryID]; ok {
			x.Items[i].Votes = append(x.Items[i].Votes, v)
		}
	}
	return x, nil
}

// Can lists who can sit in a round: those who chair, sit on the panel or run rounds.
func (s *Store) Can(ctx context.Context, q db.Querier, r round.Round, at time.Time) (out []Member, err error) {
	list, err := s.People.Office(ctx, at)
	if err != nil {
		return nil, err
	}
	for _, a := range list {
		roles, err := s.People.Roles(ctx, q, a.ID)
		if err != nil {
			return nil, err
		}
		if access.Of(roles, access.About{Programme: r.Programme, Round: r.ID},
			at).Any(access.Chair | access.Sitter | access.Runner) {
			out = append(out, Member{Account: a.ID, Name: a.Name})
		}
	}
	return out, nil
}

// Called is how a meeting is called, as somebody typed it.
type Called struct {
	Name, Place string
	At          time.Time
	Minutes     int
	Votes       bool
	Members     []int64
}

// Call a meeting over an agenda: entries by their places in it. Whoever stepped aside
// from a case as its reader, or has an interest in it that nobody has ruled of no
// matter, is out of the room for it from the beginning.
func (s *Store) Call(ctx context.Context, tx *db.Tx, r round.Round, stage form.Key, c Called, entries []int64,
	items []agenda.Item) (id int64, err error) {
	c.Name, c.Place = strings.TrimSpace(c.Name), strings.TrimSpace(c.Place)
	switch {
	case c.Name == "" || len(c.Name) > 100:
		return 0, refusal.In("name", "Give the meeting a name of up to 100 characters.")
	case len(c.Place) > 300:
		return 0, refusal.In("place", "The place holds 300 characters.")
	case c.At.IsZero():
		return 0, refusal.In("at", "Give the day and time of the meeting.")
	case c.Minutes < 5 || c.Minutes > 1440:
		return 0, refusal.In("minutes", "A meeting has 5 to 1,440 minutes.")
	case len(c.Members) == 0:
		return 0, refusal.In("members", "Say who sits: at least one person.")
	case len(items) == 0:
		return 0, refusal.Unfit("there is no case to talk about yet")
	}
	can, err := s.Can(ctx, tx, r, tx.At)
	if err != nil {
		return 0, err
	}
	allowed := map[int64]bool{}
	for _, m := range can {
		allowed[m.Account] = true
	}
	for _, m := range c.Members {
		if !allowed[m] {
			return 0, refusal.In("members", "Whoever sits must chair, sit on the panel or run rounds here.")
		}
	}
	if err := tx.GetContext(ctx, &id, `
		INSERT INTO panel_sitting (round_id, stage, name, at, place, minutes, votes) VALUES ($1, $2, $3, $4, $5, $6, $7) RETURNING id`,
		r.ID, stage, c.Name, c.At, c.Place, c.Minutes, c.Votes); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO panel_member (sitting_id, account_id) SELECT $1, unnest($2::bigint[])`,
		id, c.Members); err != nil {
		return 0, err
	}
	es, minutes, whys := make([]int64, len(items)), make([]int32, len(items)), make([]int32, len(items))
	for i, x := range items {
		es[i], minutes[i], whys[i] = entries[x.Case], int32(x.Minutes), int32(x.Why)
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO panel_item (sitting_id, entry_id, position, minutes, why)
		SELECT $1, n.entry, n.at, n.minutes, n.why FROM unnest($2::bigint[], $3::int[], $4::int[]) WITH ORDINALITY AS n(entry, minutes, why, at)`,
		id, es, minutes, whys); err != nil {
		return 0, err
	}
	if err := s.bar(ctx, tx, id, es, c.Members); err != nil {
		return 0, err
	}
	return id, trail.Write(ctx, tx, "panel-called", 0, r.ID, map[string]string{"name": c.Name})
}

// bar puts members out of the room for cases in which they are known to have an
// interest.
func (s *Store) bar(ctx context.Context, tx *db.Tx, id int64, entries, members []int64) error {
	var apps []struct{ ID, App int64 }
	if err := tx.SelectContext(ctx, &apps, `SELECT id, application_id AS app FROM entry WHERE id = ANY($1)`,
		entries); err != nil {
		return err
	}
	entry, ids := map[int64]int64{}, []int64{}
	for _, a := range apps {
		entry[a.App], ids = a.ID, append(ids, a.App)
	}
	if err := s.Connections.Sync(ctx, tx); err != nil {
		return err
	}
	bars, err := s.Connections.Bars(ctx, tx, ids, members)
	if err != nil {
		return err
	}
	var aside []connection.Bar
	if err := tx.SelectContext(ctx, &aside, `
		SELECT application_id, account_id FROM recusal WHERE application_id = ANY($1) AND account_id = ANY($2)
		UNION SELECT application_id, account_id FROM relation WHERE application_id = ANY($1) AND account_id = ANY($2)`, ids, members); err != nil {
		return err
	}
	put := func(list []connection.Bar, why string) error {
		for _, b := range list {
			if _, err := tx.ExecContext(ctx, `
				INSERT INTO panel_out (sitting_id, entry_id, account_id, why, at) VALUES ($1, $2, $3, $4, $5) ON CONFLICT DO NOTHING`,
				id, entry[b.Application], b.Account, why, tx.At); err != nil {
				return err
			}
		}
		return nil
	}
	if err := put(aside, "stepped aside from it, or has a part in it"); err != nil {
		return err
	}
	return put(bars, "people in common with it")
}
