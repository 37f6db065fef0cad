// Package interview lays out days on which panels meet people, invites them as
// iCalendar invitations, takes their replies, and the marks of whoever was there.
// core/interview says which times there are and who suits which.
package interview

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/connection"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
)

// Store of interviews.
type Store struct {
	DB          *db.DB
	Cases       *application.Store
	Connections *connection.Store
	Post        *post.Office
	Mail        string // address that invitations come from
	Key         []byte // for the addresses that calendar programs answer to
	Takes       bool   // such answers are taken; else Mail is the organiser’s address
}

// Day is one day of one panel.
type Day struct {
	ID      int64
	RoundID int64 `db:"round_id"`
	Stage   form.Key
	Panel   string
	Place   string
	Link    string
	Note    string
	Members []Member `db:"-"`
	Slots   []Slot   `db:"-"` // by time
}

// Where it is, as one line; "" when nobody has said.
func (d Day) Where() string {
	if d.Place != "" {
		return d.Place
	}
	return d.Link
}

// Member of a panel.
type Member struct {
	DayID   int64 `db:"day_id"`
	Account int64 `db:"account_id"`
	Name    string
	Email   string
}

// Slot is one time of a day; Entry is nil while it is free.
type Slot struct {
	ID       int64
	DayID    int64     `db:"day_id"`
	Starts   time.Time `db:"starts_at"`
	Minutes  int
	*Meeting `db:"-"`
}

// Ends is when it is over.
func (s Slot) Ends() time.Time { return s.Starts.Add(time.Duration(s.Minutes) * time.Minute) }

// Reply of somebody who is invited.
type Reply string

// The replies.
const (
	Silent Reply = ""
	Comes  Reply = "comes"
	Cannot Reply = "cannot"
)

// Outcome of an interview.
type Outcome string

// The outcomes.
const (
	ToCome Outcome = ""
	Held   Outcome = "held"
	Absent Outcome = "absent"
)

// Meeting is one case that is invited to an interview.
type Meeting struct {
	EntryID    int64      `db:"entry_id"`
	SlotID     *int64     `db:"slot_id"`
	DayID      *int64     `db:"day_id"`
	Zone       string     // where they are; "" as the funder
	ChooseBy   *time.Time `db:"choose_by"` // nil: they are given a time
	InvitedAt  time.Time  `db:"invited_at"`
	Sequence   int
	Reply      Reply
	RepliedAt  *time.Time `db:"replied_at"`
	Why        string
	Outcome    Outcome
	OutcomeAt  *time.Time `db:"outcome_at"`
	OutcomeWhy string     `db:"outcome_why"`
	Version    int
	Ref        string
	Title      string
	LeadID     int64 `db:"lead_id"`
	Lead       string
	Email      string
	Sent       int // members who have sent marks
	Members    int
}

// In is the zone of whoever is met; at home is the funder's.
func (m Meeting) In(home *time.Location) *time.Location {
	if z, err := time.LoadLocation(m.Zone); err == nil && m.Zone != "" {
		return z
	}
	return home
}

// Errors that people can do something about.
var (
	ErrNotInvited = refusal.New("nobody is invited to an interview with this application")
	ErrTaken      = refusal.New("this time has just been taken").But("choose another one")
	ErrNoDay      = refusal.New("this day is not there any more")
	ErrOver       = refusal.New("this interview is over")
)

const selectMeeting = `
	SELECT m.entry_id, m.slot_id, m.day_id, m.zone, m.choose_by, m.invited_at, m.sequence, m.reply, m.replied_at, m.why, m.outcome, m.outcome_at,
	       m.outcome_why, m.version, a.ref, a.title, p.id AS lead_id, p.name AS lead, p.email,
	       (SELECT count(*) FROM interview_said WHERE entry_id = m.entry_id AND sent_at IS NOT NULL) AS sent,
	       (SELECT count(*) FROM interview_member WHERE day_id = m.day_id)
	         - (SELECT count(*) FROM interview_said WHERE entry_id = m.entry_id AND out) AS members
	FROM interview m JOIN entry e ON e.id = m.entry_id JOIN application a ON a.id = e.application_id
	JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id `

// Of is the interview of an entry; ErrNotInvited when there is none.
func (s *Store) Of(ctx context.Context, q db.Querier, entry int64) (m Meeting, err error) {
	err = q.GetContext(ctx, &m, selectMeeting+`WHERE m.entry_id = $1`, entry)
	if errors.Is(err, sql.ErrNoRows) {
		err = ErrNotInvited
	}
	return m, err
}

// Days of a stage of interviews, with their members, times and whom they meet, by
// first time.
func (s *Store) Days(ctx context.Context, q db.Querier, round int64, stage form.Key) (out []Day, err error) {
	return s.days(ctx, q, `round_id = $1 AND stage = $2`, round, stage)
}

// Day is one day; ErrNoDay when it is not there.
func (s *Store) Day(ctx context.Context, q db.Querier, round, id int64) (Day, error) {
	list, err := s.days(ctx, q, `round_id = $1 AND id = $2`, round, id)
	if err == nil && len(list) == 0 {
		err = ErrNoDay
	}
	if err != nil {
		return Day{}, err
	}
	return list[0], nil
}

// Mine are the days on which an account is of the panel, from a time on.
func (s *Store) Mine(ctx context.Context, q db.Querier, account int64, from time.Time) (out []Day, err error) {
	return s.days(ctx, q, `id IN (SELECT m.day_id FROM interview_member m JOIN interview_slot t USING (day_id)
		WHERE m.account_id = $1 AND t.starts_at > $2)`, account, from)
}

// OfMember is a day, for somebody of its panel; ErrNoDay for anybody else.
func (s *Store) OfMember(ctx context.Context, q db.Querier, id, account int64) (Day, error) {
	list, err := s.days(ctx, q, `id = $1 AND id IN (SELECT day_id FROM interview_member WHERE account_id = $2)`, id,
		account)
	if err == nil && len(list) == 0 {
		err = ErrNoDay
	}
	if err != nil {
		return Day{}, err
	}
	return list[0], nil
}

func (s *Store) days(ctx context.Context, q db.Querier, where string, args ...any) (out []Day, err error) {
	if err := q.SelectContext(ctx, &out, `
		SELECT id, round_id, stage, panel, place, link, note FROM interview_day d WHERE `+where+`
		ORDER BY (SELECT min(starts_at) FROM interview_slot WHERE day_id = d.id), panel, id`, args...); err != nil || len(out) == 0 {
		return out, err
	}
	at, ids := map[int64]int{}, []int64{}
	for i, d := range out {
		at[d.ID], ids = i, append(ids, d.ID)
	}
	var members []Member
	if err := q.SelectContext(ctx, &members, `
		SELECT m.day_id, m.account_id, p.name, p.email FROM interview_member m JOIN account p ON p.id = m.account_id
		WHERE m.day_id = ANY($1) ORDER BY p.name, p.id`, ids); err != nil {
		return nil, err
	}
	for _, m := range members {
		d := &out[at[m.DayID]]
		d.Members = append(d.Members, m)
	}
	var slots []Slot
	if err := q.SelectContext(ctx, &slots, `
		SELECT id, day_id, starts_at, minutes FROM interview_slot WHERE day_id = ANY($1) ORDER BY starts_at, id`, ids); err != nil {
		return nil, err
	}
	var met []Meeting
	if err := q.SelectContext(ctx, &met, selectMeeting+`WHERE m.day_id = ANY($1)`, ids); err != nil {
		return nil, err
	}
	bySlot := map[int64]*Meeting{}
	for i := range met {
		bySlot[*met[i].SlotID] = &met[i]
	}
	for _, x := range slots {
		x.Meeting = bySlot[x.ID]
		d := &out[at[x.DayID]]
		d.Slots = append(d.Slots, x)
	}
	return out, nil
}

// Without a time are those of a stage who are invited and have none, and those whose
// time fell through.
func (s *Store) Without(ctx context.Context, q db.Querier, round int64, applied form.Key) (out []Meeting, err error) {
	err = q.SelectContext(ctx, &out, selectMeeting+`
		WHERE a.round_id = $1 AND e.stage = $2 AND m.slot_id IS NULL AND m.outcome = '' AND e.state = ANY($3) ORDER BY a.ref`, round, applied,
		lifecycle.With(lifecycle.ToMeet))
	return out, err
}
