package interview

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"ulvant/core/form"
	"ulvant/core/interview"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/invitation"
	"ulvant/internal/post"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Invite cases to an interview. With chooseBy they choose among the free times until
// then; nil: they are given one, by Give. Whoever may not choose is told when they
// have a time.
func (s *Store) Invite(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, entries []int64, chooseBy *time.Time) error {
	if len(entries) == 0 {
		return refusal.In("who", "Tick whom you want to meet.")
	}
	if chooseBy != nil && !chooseBy.After(tx.At) {
		return refusal.In("choose-by", "They choose until a time that is still to come.")
	}
	cases, err := s.Cases.LockAll(ctx, tx, entries)
	if err != nil {
		return err
	}
	for _, c := range cases {
		if c.RoundID != r.ID {
			return application.ErrNotFound
		}
		if f.Interviews(form.Key(c.Stage)) == nil {
			return refusal.Unfit("nobody is met after this stage").But("add a stage of interviews to the design")
		}
		c, _, err := s.Cases.Transition(ctx, tx, c, lifecycle.CallIn, nil)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO interview (entry_id, choose_by, invited_at) VALUES ($1, $2, $3)
			ON CONFLICT (entry_id) DO UPDATE SET choose_by = excluded.choose_by, invited_at = excluded.invited_at, slot_id = NULL, day_id = NULL,
				reply = '', replied_at = NULL, why = '', outcome = '', outcome_at = NULL, outcome_why = '', reminded_at = NULL, version = interview.version + 1`,
			c.EntryID, chooseBy, tx.At); err != nil {
			return err
		}
		if chooseBy != nil {
			if err := s.write(ctx, tx, c, say.ChooseATime(s.caseFor(c, f), *chooseBy), ""); err != nil {
				return err
			}
		}
	}
	return nil
}

// caseFor is what letters about an interview say of a case.
func (s *Store) caseFor(c application.Case, f *form.Form) say.Interviewed {
	return say.Interviewed{Name: c.LeadName, Title: c.Title, Ref: c.Ref, Round: c.RoundName, Funder: s.Post.Name(), Home: f.Zone}
}

// write a letter about an interview to whoever leads a case.
func (s *Store) write(ctx context.Context, tx *db.Tx, c application.Case, l say.Mail, calendar string) error {
	_, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "interview", Account: c.LeadID, Application: c.ID, Round: c.RoundID, To: c.LeadEmail,
		ToName: c.LeadName, Subject: l.Subject, Body: l.Body, Calendar: calendar})
	return err
}

// bars are the panels that must not see a case: somebody of them stepped aside from
// it, or has an interest that nobody has ruled of no matter.
func (s *Store) bars(ctx context.Context, q db.Querier, days []Day, applications []int64) (map[int64]map[int64]string, error) {
	who, names := map[int64][]int64{}, map[int64]string{}
	var accounts []int64
	for _, d := range days {
		for _, m := range d.Members {
			who[m.Account] = append(who[m.Account], d.ID)
			names[m.Account] = m.Name
			accounts = append(accounts, m.Account)
		}
	}
	var aside []connectionBar
	if err := q.SelectContext(ctx, &aside, `
		SELECT application_id, account_id FROM recusal WHERE application_id = ANY($1) AND account_id = ANY($2)
		UNION SELECT application_id, account_id FROM relation WHERE application_id = ANY($1) AND account_id = ANY($2)`, applications, accounts); err != nil {
		return nil, err
	}
	found, err := s.Connections.Bars(ctx, q, applications, accounts)
	if err != nil {
		return nil, err
	}
	for _, b := range found {
		aside = append(aside, connectionBar(b))
	}
	out := map[int64]map[int64]string{} // application, day: who
	for _, b := range aside {
		for _, day := range who[b.Account] {
			if out[b.Application] == nil {
				out[b.Application] = map[int64]string{}
			}
			out[b.Application][day] = names[b.Account]
		}
	}
	return out, nil
}

// connectionBar is somebody who must not meet whoever applies.
type connectionBar struct {
	Application int64 `db:"application_id"`
	Account     int64 `db:"account_id"`
}

// Given says what came of giving times.
type Given struct {
	Given, Left int // people; Left have none
	Night       int // of those given, at an hour when they sleep
}

// Give everybody who has no time one, as well as can be: by no panel that must not see
// them, at as few night hours as can be, the earlier times first. Those who may still
// choose are left.
func (s *Store) Give(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, applied form.Key) (g Given, err error) {
	stage := f.Interviews(applied)
	if stage == nil {
		return g, refusal.Unfit("nobody is met after this stage")
	}
	if _, err := tx.ExecContext(ctx, `SELECT id FROM interview_day WHERE round_id = $1 ORDER BY id FOR UPDATE`, r.ID); err != nil {
		return g, err
	}
	days, err := s.Days(ctx, tx, r.ID, stage.Key)
	if err != nil {
		return g, err
	}
	list, err := s.Without(ctx, tx, r.ID, applied)
	if err != nil {
		return g, err
	}
	list = slices.DeleteFunc(list, func(m Meeting) bool { return m.ChooseBy != nil && m.ChooseBy.After(tx.At) })
	var entries, apps []int64
	for _, m := range list {
		entries = append(entries, m.EntryID)
	}
	cases, err := s.Cases.ByEntries(ctx, tx, entries)
	if err != nil {
		return g, err
	}
	for _, e := range entries {
		apps = append(apps, cases[e].ID)
	}
	bars, err := s.bars(ctx, tx, days, apps)
	if err != nil {
		return g, err
	}
	var free []Slot
	var slots []interview.Slot
	for _, d := range days {
		for _, x := range d.Slots {
			if x.Meeting == nil && x.Starts.After(tx.At) {
				free, slots = append(free, x), append(slots, interview.Slot{At: x.Starts, Minutes: x.Minutes, Panel: d.ID})
			}
		}
	}
	people := make([]interview.Person, len(list))
	for i, m := range list {
		people[i].Zone = m.In(f.Zone)
		for day := range bars[apps[i]] {
			people[i].Not = append(people[i].Not, day)
		}
	}
	for i, j := range interview.Give(people, slots) {
		if j < 0 {
			g.Left++
			continue
		}
		if interview.Asleep(free[j].Starts, free[j].Minutes, people[i].Zone) {
			g.Night++
		}
		g.Given++
		if err := s.put(ctx, tx, cases[entries[i]], f, free[j].ID, Silent, ""); err != nil {
			return g, err
		}
	}
	return g, nil
}

// put a case at a time, and invite whoever leads it to their calendar; why is said
// when a time they had is changed.
func (s *Store) put(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, slot int64, reply Reply, why string) error {
	m, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	moved := m.SlotID != nil
	var x Slot
	if err := tx.GetContext(ctx, &x, `SELECT id, day_id, starts_at, minutes FROM interview_slot WHERE id = $1 FOR UPDATE`, slot); err != nil {
		return ErrTaken
	}
	if !x.Starts.After(tx.At) {
		return refusal.Unfit("this time is over").But("choose another one")
	}
	var taken bool
	if err := tx.GetContext(ctx, &taken, `SELECT EXISTS (SELECT FROM interview WHERE slot_id = $1 AND entry_id <> $2)`, slot, c.EntryID); err != nil {
		return err
	}
	if taken {
		return ErrTaken
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE interview SET slot_id = $2, day_id = $3, sequence = sequence + 1, reply = $4, replied_at = CASE WHEN $4 = '' THEN NULL ELSE $5::timestamptz END,
		  why = '', reminded_at = NULL, version = version + 1 WHERE entry_id = $1`, c.EntryID, x.ID, x.DayID, reply, tx.At); err != nil {
		return err
	}
	if m, err = s.Of(ctx, tx, c.EntryID); err != nil {
		return err
	}
	d, err := s.Day(ctx, tx, c.RoundID, x.DayID)
	if err != nil {
		return err
	}
	who := s.caseFor(c, f)
	who.At, who.Minutes, who.Zone, who.Place, who.Link, who.Note, who.Chosen = x.Starts, x.Minutes, m.In(f.Zone), d.Place, d.Link, d.Note, reply == Comes
	who.Moved, who.Why = moved, why
	if err := s.write(ctx, tx, c, say.InterviewAt(who), s.calendar(tx.At, c, m, d, x, false)); err != nil {
		return err
	}
	verb := say.Verb("interview-given")
	if moved {
		verb = "interview-moved"
	} else if reply == Comes {
		verb = "interview-chosen"
	}
	figures := map[string]string{"at": x.Starts.In(f.Zone).Format("2 January 2006, 15:04")}
	if why != "" {
		figures["why"] = why
	}
	return trail.Write(ctx, tx, verb, c.ID, c.RoundID, figures)
}

// calendar is the invitation of whoever leads a case.
func (s *Store) calendar(at time.Time, c application.Case, m Meeting, d Day, x Slot, off bool) string {
	host := s.Mail[strings.IndexByte(s.Mail, '@')+1:]
	about := d.Note
	if d.Link != "" && d.Place != "" {
		about = strings.TrimSpace(about + "\n" + d.Link)
	}
	return invitation.Event{UID: fmt.Sprintf("interview-%d@%s", c.EntryID, host), Sequence: m.Sequence, At: at, Starts: x.Starts, Ends: x.Ends(),
		Summary: "Interview: " + c.Title, About: about, Place: d.Place, Link: d.Link,
		From: invitation.Person{Name: s.Post.Name(), Email: s.Mail}, To: invitation.Person{Name: c.LeadName, Email: c.LeadEmail}, Off: off}.Text()
}

// Calendar is the invitation as a file, for whoever leads a case.
func (s *Store) Calendar(ctx context.Context, q db.Querier, c application.Case, at time.Time) (string, error) {
	m, d, x, err := s.When(ctx, q, c)
	if err != nil {
		return "", err
	}
	return s.calendar(at, c, m, d, x, false), nil
}

// When is the interview of a case with its day and time; ErrNotInvited when it has no
// time.
func (s *Store) When(ctx context.Context, q db.Querier, c application.Case) (m Meeting, d Day, x Slot, err error) {
	if m, err = s.Of(ctx, q, c.EntryID); err != nil {
		return m, d, x, err
	}
	if m.SlotID == nil {
		return m, d, x, ErrNotInvited
	}
	if d, err = s.Day(ctx, q, c.RoundID, *m.DayID); err != nil {
		return m, d, x, err
	}
	for _, x := range d.Slots {
		if x.ID == *m.SlotID {
			return m, d, x, nil
		}
	}
	return m, d, x, ErrNotInvited
}

// Free are the times somebody can choose among: free ones of panels that may see them.
func (s *Store) Free(ctx context.Context, q db.Querier, c application.Case, f *form.Form, at time.Time) (out []Slot, err error) {
	stage := f.Interviews(form.Key(c.Stage))
	if stage == nil {
		return nil, nil
	}
	days, err := s.Days(ctx, q, c.RoundID, stage.Key)
	if err != nil {
		return nil, err
	}
	bars, err := s.bars(ctx, q, days, []int64{c.ID})
	if err != nil {
		return nil, err
	}
	for _, d := range days {
		if _, barred := bars[c.ID][d.ID]; barred {
			continue
		}
		for _, x := range d.Slots {
			if x.Meeting == nil && x.Starts.After(at) {
				out = append(out, x)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Slot) int { return a.Starts.Compare(b.Starts) })
	return out, nil
}

// lock an interview that is still to come; the case is locked first.
func (s *Store) lock(ctx context.Context, tx *db.Tx, c application.Case) (application.Case, *form.Form, Meeting, error) {
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return c, nil, Meeting{}, err
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return c, nil, Meeting{}, err
	}
	m, err := s.Of(ctx, tx, c.EntryID)
	if err == nil && !c.State.Is(lifecycle.ToMeet) {
		err = ErrOver
	}
	return c, f, m, err
}

// Choose a time, by whoever leads a case.
func (s *Store) Choose(ctx context.Context, tx *db.Tx, c application.Case, slot int64) error {
	c, f, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if m.ChooseBy == nil || !m.ChooseBy.After(tx.At) {
		return refusal.Unfit("the time to choose is over").But("the office gives you a time")
	}
	free, err := s.Free(ctx, tx, c, f, tx.At)
	if err != nil {
		return err
	}
	if !slices.ContainsFunc(free, func(x Slot) bool { return x.ID == slot }) {
		return ErrTaken
	}
	return s.put(ctx, tx, c, f, slot, Comes, "")
}

// Move a case to another time, by the office, with a reason when they had one.
func (s *Store) Move(ctx context.Context, tx *db.Tx, c application.Case, slot int64, why string) error {
	c, f, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if why = strings.TrimSpace(why); m.SlotID != nil && why == "" || len(why) > 1000 {
		return refusal.In("why", "Say why it is moved, in up to 1,000 characters; they are told.")
	}
	var day int64
	if err := tx.GetContext(ctx, &day, `
		SELECT t.day_id FROM interview_slot t JOIN interview_day d ON d.id = t.day_id WHERE t.id = $1 AND d.round_id = $2`, slot, c.RoundID); err != nil {
		return ErrTaken
	}
	d, err := s.Day(ctx, tx, c.RoundID, day)
	if err != nil {
		return err
	}
	bars, err := s.bars(ctx, tx, []Day{d}, []int64{c.ID})
	if err != nil {
		return err
	}
	if who := bars[c.ID][day]; who != "" {
		return refusal.Unfit(who + " of this panel must not meet " + c.LeadName).But("choose a time of another panel")
	}
	return s.put(ctx, tx, c, f, slot, Silent, why)
}

// Answer of whoever leads a case: they come, or they cannot, with a reason.
func (s *Store) Answer(ctx context.Context, tx *db.Tx, c application.Case, comes bool, why string) error {
	c, _, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	why = strings.TrimSpace(why)
	switch {
	case m.SlotID == nil:
		return refusal.Unfit("you have no time yet")
	case !comes && (why == "" || len(why) > 1000):
		return refusal.In("why", "Say why you cannot come, and when you could, in up to 1,000 characters.")
	}
	reply, verb := Comes, say.Verb("interview-accepted")
	if !comes {
		reply, verb = Cannot, "interview-refused"
	} else {
		why = ""
	}
	if _, err := tx.ExecContext(ctx, `UPDATE interview SET reply = $2, replied_at = $3, why = $4, version = version + 1 WHERE entry_id = $1`,
		c.EntryID, reply, tx.At, why); err != nil {
		return err
	}
	figures := map[string]string{}
	if why != "" {
		figures["why"] = why
	}
	return trail.Write(ctx, tx, verb, c.ID, c.RoundID, figures)
}

// SetZone keeps where somebody is: an IANA name, "" for the funder's zone.
func (s *Store) SetZone(ctx context.Context, tx *db.Tx, c application.Case, zone string) error {
	if _, err := time.LoadLocation(zone); err != nil || zone == "Local" || len(zone) > 60 {
		return refusal.In("zone", "There is no time zone “"+zone+"”. Choose one of the list.")
	}
	if _, err := s.Cases.Lock(ctx, tx, c, false); err != nil {
		return err
	}
	res, err := tx.ExecContext(ctx, `UPDATE interview SET zone = $2 WHERE entry_id = $1`, c.EntryID, zone)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNotInvited
	}
	return nil
}

// CallOff takes the invitation back, with a reason that they are told; a time they had
// is cancelled in their calendar, and the case is decided without.
func (s *Store) CallOff(ctx context.Context, tx *db.Tx, c application.Case, why string) error {
	c, f, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if why = strings.TrimSpace(why); why == "" || len(why) > 1000 {
		return refusal.In("why", "Say why it is called off, in up to 1,000 characters; they are told.")
	}
	if err := s.free(ctx, tx, c, f, m, say.InterviewOff, why); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM interview WHERE entry_id = $1`, c.EntryID); err != nil {
		return err
	}
	_, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.CallOff, map[string]string{"why": why})
	return err
}

// free gives back the time of a case, and tells of it with a CANCEL.
func (s *Store) free(ctx context.Context, tx *db.Tx, c application.Case, f *form.Form, m Meeting,
	tell func(say.Interviewed) say.Mail, why string) error {
	who, calendar := s.caseFor(c, f), ""
	who.Why = why
	if m.SlotID != nil {
		_, d, x, err := s.When(ctx, tx, c)
		if err != nil {
			return err
		}
		m.Sequence++
		who.At, who.Minutes, who.Zone, who.Place, who.Link = x.Starts, x.Minutes, m.In(f.Zone), d.Place, d.Link
		calendar = s.calendar(tx.At, c, m, d, x, true)
		if _, err := tx.ExecContext(ctx, `
			UPDATE interview SET slot_id = NULL, day_id = NULL, sequence = $2, reply = '', replied_at = NULL, why = '', version = version + 1
			WHERE entry_id = $1`, c.EntryID, m.Sequence); err != nil {
			return err
		}
	}
	return s.write(ctx, tx, c, tell(who), calendar)
}

// ChangeDay changes where a day is, its note and who is there; whoever has a time on it
// is told by a new invitation when the place, the link or the note is another one.
func (s *Store) ChangeDay(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, id int64, l Laid) (told int, err error) {
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
	if _, err := tx.ExecContext(ctx, `UPDATE interview_day SET panel = $2, place = $3, link = $4, note = $5 WHERE id = $1`, id, l.Panel, l.Place,
		l.Link, l.Note); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM interview_member WHERE day_id = $1 AND account_id <> ALL($2)`, id, l.Members); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO interview_member SELECT $1, unnest($2::bigint[]) ON CONFLICT DO NOTHING`, id, l.Members); err != nil {
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
		if err := s.put(ctx, tx, c, f, x.ID, x.Reply, "where it is has changed"); err != nil {
			return told, err
		}
		told++
	}
	return told, nil
}

// After is what happens when somebody did not come.
type After string

// What can happen then.
const (
	Again   After = "again"   // they choose or are given another time
	Without After = "without" // the case goes on without an interview
)

var thens = map[After]string{Again: "they get another time", Without: "the case goes on without an interview"}

// DidNotCome records that somebody was not there, with what happens then.
func (s *Store) DidNotCome(ctx context.Context, tx *db.Tx, c application.Case, then After, why string) error {
	c, f, m, err := s.lock(ctx, tx, c)
	if err != nil {
		return err
	}
	if why = strings.TrimSpace(why); len(why) > 1000 {
		return refusal.In("why", "Say it in up to 1,000 characters.")
	}
	switch {
	case thens[then] == "":
		return refusal.In("then", "Say what happens now: another time, or on without an interview.")
	case m.SlotID == nil:
		return refusal.Unfit("they have no time yet")
	}
	_, _, x, err := s.When(ctx, tx, c)
	if err != nil {
		return err
	}
	if x.Starts.After(tx.At) {
		return refusal.Unfit("the interview is still to come").But("move it or call it off")
	}
	if err := trail.Write(ctx, tx, "interview-missed", c.ID, c.RoundID, map[string]string{
		"at": x.Starts.In(f.Zone).Format("2 January 2006, 15:04"), "then": thens[then]}); err != nil {
		return err
	}
	if then == Again {
		return s.free(ctx, tx, c, f, m, say.InterviewMissed, why)
	}
	if _, err := tx.ExecContext(ctx, `
		UPDATE interview SET outcome = 'absent', outcome_at = $2, outcome_why = $3, version = version + 1 WHERE entry_id = $1`, c.EntryID, tx.At,
		why); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM interview_said WHERE entry_id = $1`, c.EntryID); err != nil {
		return err
	}
	_, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.FinishMeet, nil)
	return err
}
