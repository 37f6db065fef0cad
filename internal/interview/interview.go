// Package interview lays out days on which panels meet people, invites them as
// iCalendar invitations, takes their replies, and the marks of whoever was there.
// core/interview says which times there are and who suits which.
package interview

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/connection"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/invitation"
	"ulvant/internal/post"
	"ulvant/internal/round"
)

// Store of interviews.
type Store struct {
	DB          *db.DB
	Cases       *application.Store
	Connections *connection.Store
	Post        *post.Office
	Mail        string // address that invitations come from
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
		WHERE a.round_id = $1 AND e.stage = $2 AND m.slot_id IS NULL AND m.outcome = '' ORDER BY a.ref`, round, applied)
	return out, err
}

// Laid is how a day is laid out, as somebody typed it.
type Laid struct {
	Panel, Place, Link, Note string
	Members                  []int64
	Times                    []time.Time
	Minutes                  int
}

// fault says what cannot be kept.
func (l *Laid) fault() error {
	l.Panel, l.Place, l.Link, l.Note = strings.TrimSpace(l.Panel), strings.TrimSpace(l.Place), strings.TrimSpace(l.Link), strings.TrimSpace(l.Note)
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
	if _, err := tx.ExecContext(ctx, `INSERT INTO interview_member SELECT $1, unnest($2::bigint[])`, id, l.Members); err != nil {
		return 0, err
	}
	if _, err = tx.ExecContext(ctx, `INSERT INTO interview_slot (day_id, starts_at, minutes) SELECT $1, unnest($2::timestamptz[]), $3`,
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
		calendar := invitation.Event{UID: fmt.Sprintf("interviews-%d-%d@%s", d.ID, m.Account, host), At: tx.At, Starts: first, Ends: last,
			Summary: "Interviews: " + r.Name, About: d.Panel, Place: d.Place, Link: d.Link,
			From: invitation.Person{Name: s.Post.Name(), Email: s.Mail}, To: invitation.Person{Name: m.Name, Email: m.Email}}.Text()
		if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "interview-panel", Account: m.Account, Round: r.ID, To: m.Email, ToName: m.Name,
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
		return refusal.In("members", "Whoever is there must be invited as a reader of this round, and must not have declined.")
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
