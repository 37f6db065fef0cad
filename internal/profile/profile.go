// Package profile keeps the profiles of persons and of organisations they act
// for: taken on by steps, looked up in the register, confirmed by officers,
// looked over by the office, and used to fill applications.
package profile

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/identifier"
	"ulvant/core/lifecycle"
	"ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
)

// Profile of a person or an organisation.
type Profile struct {
	ID        int64
	Kind      profile.Kind
	Name      string
	Raw       []byte        `db:"facts"`
	Facts     profile.Facts `db:"-"`
	State     profile.State
	MadeAt    time.Time  `db:"made_at"`
	FactsAt   time.Time  `db:"facts_at"`
	SentAt    *time.Time `db:"sent_at"`
	Promised  *time.Time // by when the office has looked it over
	DecidedAt *time.Time `db:"decided_at"`
	Note      string
	Sponsor   string     // the body that holds its money; "" for none that has agreed
	Terms     int        // the version of the terms agreed to; 0 for none
	AgreedAt  *time.Time `db:"agreed_at"`
	Mine      string     // what the asker is to it: authorised, administrator; "" for nothing
}

// Number with what the register said of it.
type Number struct {
	Scheme   string
	Value    string
	Finding  profile.Finding
	Register string     // the name it has there
	LookedAt *time.Time `db:"looked_at"`
}

// Label of the number's scheme.
func (n Number) Label() string {
	s, _ := identifier.FindOfBodies(n.Scheme)
	return s.Label
}

// Store of profiles.
type Store struct {
	DB      *db.DB
	Post    *post.Office
	Links   link.Maker
	People  *people.Store
	Jobs    *jobs.Queue
	Asks    Register
	Needed  int                      // officers who must confirm
	Days    int                      // working days within which the office looks an organisation over
	Off     func(calendar.Date) bool // days that are no working days besides weekends; nil: none
	Zone    func() *time.Location
	Contact func() string // where the office is written to
}

// ErrNotFound: no such profile, or none of the asker's.
var ErrNotFound = refusal.Missing("there is no such profile")

const columns = `p.id, p.kind, p.name, p.facts, p.state, p.made_at, p.facts_at, p.sent_at, p.promised, p.decided_at, p.note, p.terms, p.agreed_at,
	COALESCE((SELECT b.name FROM sponsor x JOIN profile b ON b.id = x.sponsor_id WHERE x.profile_id = p.id AND x.state = 'confirmed'), '') AS sponsor`

func decoded(p Profile, err error) (Profile, error) {
	if errors.Is(err, sql.ErrNoRows) {
		return p, ErrNotFound
	}
	if err == nil {
		err = json.Unmarshal(p.Raw, &p.Facts)
		p.Facts.Sponsor = p.Sponsor
	}
	return p, err
}

// Of lists the profiles that an account may act for, its own first.
func (s *Store) Of(ctx context.Context, q db.Querier, account int64) (out []Profile, err error) {
	if err = q.SelectContext(ctx, &out, `
		SELECT `+columns+`, m.kind AS mine FROM profile_member m JOIN profile p ON p.id = m.profile_id WHERE m.account_id = $1 ORDER BY p.kind DESC, p.name`, account); err != nil {
		return nil, err
	}
	for i := range out {
		if out[i], err = decoded(out[i], nil); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Find one that an account may act for.
func (s *Store) Find(ctx context.Context, q db.Querier, id, account int64) (p Profile, err error) {
	err = q.GetContext(ctx, &p,
		`SELECT `+columns+`, m.kind AS mine FROM profile p JOIN profile_member m ON m.profile_id = p.id AND m.account_id = $2 WHERE p.id = $1`, id, account)
	return decoded(p, err)
}

// ByID finds one for the office, or for the letter of an officer.
func (s *Store) ByID(ctx context.Context, q db.Querier, id int64) (p Profile, err error) {
	err = q.GetContext(ctx, &p, `SELECT `+columns+`, '' AS mine FROM profile p WHERE p.id = $1`, id)
	return decoded(p, err)
}

// Make begins a profile; the account is the one authorised to act for it. A
// person has one of their own, which is made once.
func (s *Store) Make(ctx context.Context, tx *db.Tx, kind profile.Kind, name string) (id int64, err error) {
	name = strings.TrimSpace(name)
	if err := people.CheckName(name); err != nil {
		return 0, refusal.Unfit("Give the name in 2 to 120 characters.")
	}
	state := profile.Making
	if kind == profile.Person {
		state = profile.Known
		err := tx.GetContext(ctx, &id,
			`SELECT p.id FROM profile p JOIN profile_member m ON m.profile_id = p.id WHERE m.account_id = $1 AND p.kind = 'person'`, tx.By.ID)
		if err == nil || !errors.Is(err, sql.ErrNoRows) {
			return id, err
		}
	}
	if err := tx.QueryRowxContext(ctx,
		`INSERT INTO profile (kind, name, state, made_at, facts_at) VALUES ($1, $2, $3, $4, $4) RETURNING id`, kind, name,
		state, tx.At).Scan(&id); err != nil {
		return 0, err
	}
	_, err = tx.ExecContext(ctx,
		`INSERT INTO profile_member (profile_id, account_id, kind, since) VALUES ($1, $2, 'authorised', $3)`, id, tx.By.ID,
		tx.At)
	return id, err
}

// lock reads one for changing.
func (s *Store) lock(ctx context.Context, tx *db.Tx, id int64) (Profile, error) {
	var p Profile
	err := tx.GetContext(ctx, &p,
		`SELECT `+columns+`, COALESCE((SELECT kind FROM profile_member m WHERE m.profile_id = p.id AND m.account_id = $2), '') AS mine FROM profile p WHERE p.id = $1 FOR UPDATE`, id, tx.By.ID)
	p, err = decoded(p, err)
	if err == nil && p.Mine == "" {
		err = ErrNotFound
	}
	return p, err
}

// Change replaces the name and facts of a profile. Numbers that are new are
// looked up in the register; an organisation that was known and changes its
// name or numbers is looked over again.
func (s *Store) Change(ctx context.Context, tx *db.Tx, id int64, name string, facts profile.Facts) error {
	p, err := s.lock(ctx, tx, id)
	if err != nil {
		return err
	}
	if !p.State.Open() {
		return refusal.Unfit("The office is looking it over").But("nothing can be changed until it has.")
	}
	name = strings.TrimSpace(name)
	if people.CheckName(name) != nil {
		return refusal.Unfit("Give the name in 2 to 120 characters.")
	}
	for i, n := range facts.Numbers {
		if says := profile.CheckNumber(n); says != "" {
			return refusal.Unfit(says)
		}
		sch, _ := identifier.FindOfBodies(n.Scheme)
		facts.Numbers[i].Value, _ = sch.Normal(n.Value)
	}
	for _, c := range facts.Contacts {
		if people.CheckEmail(people.Fold(c.Email)) != nil || people.CheckName(c.Name) != nil {
			return refusal.Unfit("Give each contact a name and a whole mail address; “" + c.Name + "”, “" + c.Email +
				"” is not.")
		}
	}
	raw, err := json.Marshal(facts)
	if err != nil {
		return err
	}
	state := p.State
	renamed := name != p.Name || facts.Legal != p.Facts.Legal
	if p.Kind == profile.Body && state == profile.Known && (renamed || !sameNumbers(p.Facts.Numbers, facts.Numbers)) {
		state = profile.Making
	}
	if _, err := tx.ExecContext(ctx, `UPDATE profile SET name = $2, facts = $3, state = $4, facts_at = $5 WHERE id = $1`,
		id, name, raw, state, tx.At); err != nil {
		return err
	}
	if err := s.keepNumbers(ctx, tx, id, facts.Numbers, renamed); err != nil {
		return err
	}
	return s.Jobs.Enqueue(ctx, tx, lookUp{id}, tx.At)
}

func sameNumbers(a, b []profile.Number) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if a[i] != b[i] {
			return false
		}
	}
	return true
}

// keepNumbers writes the rows that the register's answers go to; under another
// name all are asked again.
func (s *Store) keepNumbers(ctx context.Context, tx *db.Tx, id int64, numbers []profile.Number, again bool) error {
	keep := []string{}
	for _, n := range numbers {
		keep = append(keep, n.Scheme+" "+n.Value)
	}
	raw, err := json.Marshal(keep)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx,
		`DELETE FROM profile_number WHERE profile_id = $1 AND ($3 OR NOT $2::jsonb ? (scheme || ' ' || value))`, id,
		string(raw), again); err != nil {
		return err
	}
	for _, n := range numbers {
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO profile_number (profile_id, scheme, value) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, id, n.Scheme,
			n.Value); err != nil {
			return err
		}
	}
	return nil
}

// Numbers of a profile with what the register said.
func (s *Store) Numbers(ctx context.Context, q db.Querier, id int64) (out []Number, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT scheme, value, finding, register, looked_at FROM profile_number WHERE profile_id = $1 ORDER BY scheme, value`, id)
	return out, err
}

// Lacks lists what keeps an organisation from being looked over.
func (s *Store) Lacks(ctx context.Context, q db.Querier, p Profile, at time.Time) ([]profile.Lack, error) {
	shown, err := s.shown(ctx, q, p, at)
	if err != nil {
		return nil, err
	}
	var confirmed int
	if err := q.GetContext(ctx, &confirmed,
		`SELECT count(*) FROM profile_officer WHERE profile_id = $1 AND state = 'confirmed'`, p.ID); err != nil {
		return nil, err
	}
	return profile.Lacks(p.Kind, p.Name, p.Facts, shown, confirmed, s.Needed), nil
}

// SendIn hands an organisation to the office, which promises to look it over
// within so many working days.
func (s *Store) SendIn(ctx context.Context, tx *db.Tx, id int64) error {
	p, err := s.lock(ctx, tx, id)
	if err != nil {
		return err
	}
	if p.Kind != profile.Body || p.State != profile.Making && p.State != profile.SentBack {
		return refusal.Unfit("It is " + string(p.State) + " already.")
	}
	lacks, err := s.Lacks(ctx, tx, p, tx.At)
	if err != nil {
		return err
	}
	if len(lacks) > 0 {
		return refusal.Unfit("It cannot be handed in yet: " + lacks[0].What)
	}
	terms, err := s.Terms(ctx, tx)
	if err != nil {
		return err
	}
	if err := s.agree(ctx, tx, id, terms.Version); err != nil { // they stand beside the button
		return err
	}
	by, _ := calendar.At(calendar.AddWorkingDays(calendar.DateOf(tx.At, s.Zone()), s.Days, s.Off), 17, 0).In(s.Zone())
	_, err = tx.ExecContext(ctx,
		`UPDATE profile SET state = $2, sent_at = $3, promised = $4, note = '', told_at = NULL WHERE id = $1`, id,
		profile.Waiting, tx.At, by)
	return err
}

// Waiting lists the organisations that wait to be looked over, the earliest
// promise first.
func (s *Store) Waiting(ctx context.Context, q db.Querier) (out []Profile, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT `+columns+`, '' AS mine FROM profile p WHERE p.state = 'waits for the office' ORDER BY p.promised`)
	return out, err
}

// Looked lists the organisations that were looked over, the latest first.
func (s *Store) Looked(ctx context.Context, q db.Querier, most int) (out []Profile, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT `+columns+`, '' AS mine FROM profile p WHERE p.kind = 'organisation' AND p.decided_at IS NOT NULL AND p.state <> 'waits for the office' ORDER BY p.decided_at DESC LIMIT $1`, most)
	return out, err
}

// Decide is the office's: known, or sent back with a note that says why.
func (s *Store) Decide(ctx context.Context, tx *db.Tx, id int64, known bool, note string) error {
	note = strings.TrimSpace(note)
	if !known && note == "" || len(note) > 2000 {
		return refusal.Unfit("Say what must be put right, in up to 2,000 characters. It goes to them by mail.")
	}
	var p Profile
	err := tx.GetContext(ctx, &p, `SELECT `+columns+`, '' AS mine FROM profile p WHERE p.id = $1 FOR UPDATE`, id)
	if p, err = decoded(p, err); err != nil {
		return err
	}
	if p.State != profile.Waiting {
		return refusal.Unfit("It does not wait to be looked over any more.")
	}
	state := profile.Known
	if !known {
		state = profile.SentBack
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE profile SET state = $2, decided_at = $3, decided_by = $4, note = $5 WHERE id = $1`, id, state, tx.At,
		tx.By.ID, note); err != nil {
		return err
	}
	members, err := s.Members(ctx, tx, id)
	if err != nil {
		return err
	}
	body := "“" + p.Name + "” is known to us from now on; you can apply for it."
	if !known {
		body = "we have looked over “" + p.Name + "”. Please put this right, then hand it in again:\n\n" + note
	}
	for _, m := range members {
		if _, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "profile-looked-over", Account: m.AccountID, To: m.Email,
			ToName:  m.Name,
			Subject: "“" + p.Name + "” was looked over", Body: "Dear " + m.Name + ",\n\n" + body + "\n"}); err != nil {
			return err
		}
	}
	return nil
}

// Copies lists the contacts of the organisation an application is for who get
// a kind of letter besides its lead.
func (s *Store) Copies(ctx context.Context, kind string, application int64) (out []string, err error) {
	notice := profile.Reminders
	if kind != "draft-reminder" {
		if !lifecycle.Writes(kind) {
			return nil, nil
		}
		notice = profile.Decisions
	}
	p, err := s.For(ctx, s.DB, application)
	if errors.Is(err, ErrNotFound) {
		return nil, nil
	}
	for _, c := range p.Facts.Contacts {
		if c.Wants(notice) {
			out = append(out, c.Email)
		}
	}
	return out, err
}

// Signers are the names of those who may sign for whoever applies: the
// officers who confirmed it of the organisation an application is for. nil
// when it is for a person, or for an organisation without a profile.
func (s *Store) Signers(ctx context.Context, q db.Querier, application int64) ([]string, error) {
	p, err := s.For(ctx, q, application)
	if errors.Is(err, ErrNotFound) || err == nil && p.Kind == profile.Person {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	names := []string{}
	err = q.SelectContext(ctx, &names,
		`SELECT name FROM profile_officer WHERE profile_id = $1 AND state = 'confirmed' ORDER BY id`, p.ID)
	return names, err
}

// For finds the profile that an application is for; ErrNotFound when for none.
func (s *Store) For(ctx context.Context, q db.Querier, application int64) (p Profile, err error) {
	err = q.GetContext(ctx, &p,
		`SELECT `+columns+`, '' AS mine FROM profile p JOIN application a ON a.profile_id = p.id WHERE a.id = $1`,
		application)
	return decoded(p, err)
}
