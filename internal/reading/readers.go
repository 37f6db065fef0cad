package reading

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/link"
	"ulvant/internal/post"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Reader of a round, as it knows them.
type Reader struct {
	Account      int64 `db:"account_id"`
	Name         string
	Email        string
	InvitedAt    time.Time      `db:"invited_at"`
	AcceptedAt   *time.Time     `db:"accepted_at"`
	Fields       pq.StringArray // option keys of the question that tells a case’s field
	Languages    pq.StringArray // option keys of the question that tells a case’s language; none: all
	Interests    string         // persons, bodies and places they declare, a line each
	Knows        string         // in their own words
	Organisation string
	Jury         string     // the place whose cases they read alone; "" for all
	OwnMost      *int       `db:"own_most"` // cases they take at most; nil: as everybody
	AwayFrom     *time.Time `db:"away_from"`
	AwayTo       *time.Time `db:"away_to"` // the last day
	DeclinedAt   *time.Time `db:"declined_at"`
	EndedAt      *time.Time `db:"ended_at"` // taken off by the office
	Why          string     // of declining, or of being taken off
}

// Reads reports a reader who has neither declined nor been taken off.
func (r Reader) Reads() bool { return r.DeclinedAt == nil && r.EndedAt == nil }

// Away reports that a reader is away from one day to another, all the time.
func (r Reader) Away(from, to calendar.Date) bool {
	return r.AwayFrom != nil && r.AwayTo != nil && calendar.DateOf(*r.AwayFrom, time.UTC) <= from &&
		calendar.DateOf(*r.AwayTo, time.UTC) >= to
}

// Readers of a round, by name; those who declined or were taken off among them.
func (s *Store) Readers(ctx context.Context, q db.Querier, round int64) (out []Reader, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT r.account_id, p.name, p.email, r.invited_at, r.accepted_at, r.fields, r.languages, r.interests, r.knows, r.organisation, r.jury, r.own_most, r.away_from, r.away_to,
		       r.declined_at, r.ended_at, r.why
		FROM reader r JOIN account p ON p.id = r.account_id WHERE r.round_id = $1 ORDER BY p.name, r.account_id`, round)
	return out, err
}

// Typed is what was typed of a reader, as it was.
type Typed struct {
	Fields, Languages         []string
	Interests                 string
	Knows, Organisation, Most string
	From, To                  string // days, 2006-01-02; "" for none
}

// With is the reader with what was typed; the error names the field.
func (r Reader) With(t Typed) (Reader, error) {
	r.Fields, r.Languages, r.Knows, r.Organisation, r.Interests = t.Fields, t.Languages, t.Knows, t.Organisation,
		t.Interests
	r.OwnMost, r.AwayFrom, r.AwayTo = nil, nil, nil
	if most := strings.TrimSpace(t.Most); most != "" {
		n, err := strconv.Atoi(most)
		if err != nil {
			return r, refusal.In("most", "“"+most+"” is not a number of cases.")
		}
		r.OwnMost = &n
	}
	for _, day := range []struct {
		typed string
		into  **time.Time
	}{{t.From, &r.AwayFrom}, {t.To, &r.AwayTo}} {
		if day.typed == "" {
			continue
		}
		at, err := time.Parse(time.DateOnly, day.typed)
		if err != nil {
			return r, refusal.In("away", "“"+day.typed+"” is not a day.")
		}
		*day.into = &at
	}
	return r, nil
}

// Describe keeps what is known of a reader: said by them, or by the office.
func (s *Store) Describe(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, x Reader) error {
	x.Knows, x.Organisation, x.Interests = strings.TrimSpace(x.Knows), strings.TrimSpace(x.Organisation),
		strings.TrimSpace(x.Interests)
	switch {
	case len(x.Knows) > 2000:
		return refusal.In("knows", "Say what you know in up to 2,000 characters.")
	case len(x.Interests) > 2000:
		return refusal.In("interests", "Declare interests in up to 2,000 characters, a line each.")
	case len(x.Organisation) > 200:
		return refusal.In("organisation", "Give the organisation in up to 200 characters.")
	case x.OwnMost != nil && (*x.OwnMost < 0 || *x.OwnMost > 10000):
		return refusal.In("most", "Give a number of cases from 0 to 10,000, or leave it empty.")
	case (x.AwayFrom == nil) != (x.AwayTo == nil) || x.AwayFrom != nil && x.AwayTo.Before(*x.AwayFrom):
		return refusal.In("away", "Give the first day away and the last, in this order, or neither.")
	}
	listed := f.Question(f.Design.Listed.Question)
	if x.Jury != "" && (listed == nil || !slices.ContainsFunc(f.Options(listed),
		func(o form.Option) bool { return o.Label == x.Jury })) {
		return refusal.In("jury", "There is no jury “"+x.Jury+"”. Choose one of those offered, or all.")
	}
	x.Fields, x.Languages = offered(f, f.Design.Field, x.Fields), offered(f, f.Design.Language, x.Languages)
	res, err := tx.ExecContext(ctx, `
		UPDATE reader SET fields = @fields, languages = @languages, interests = @interests, knows = @knows, organisation = @organisation, jury = @jury, own_most = @most, away_from = @from, away_to = @to
		WHERE round_id = @round AND account_id = @account`, db.Named{"fields": x.Fields, "languages": x.Languages, "interests": x.Interests,
		"knows": x.Knows, "organisation": x.Organisation,
		"jury": x.Jury, "most": x.OwnMost, "from": x.AwayFrom, "to": x.AwayTo, "round": r.ID, "account": x.Account})
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return application.ErrNotFound
	}
	return s.declaredLate(ctx, tx, r, x)
}

// offered are those of some keys that a question has among its options.
func offered(f *form.Form, question form.Key, keys []string) pq.StringArray {
	out := pq.StringArray{}
	if q := f.Question(question); q != nil {
		for _, o := range f.Options(q) {
			if slices.Contains(keys, string(o.Key)) {
				out = append(out, string(o.Key))
			}
		}
	}
	return out
}

// Decline an invitation to read, with a reason; what was given is given back.
func (s *Store) Decline(ctx context.Context, tx *db.Tx, r round.Round, account int64, why string) error {
	return s.leave(ctx, tx, r, account, "declined_at", why, "reader-declined")
}

// TakeOff takes a reader off a round: what they have sent stands, what they have not
// is given back, to be handed out again.
func (s *Store) TakeOff(ctx context.Context, tx *db.Tx, r round.Round, account int64, why string) error {
	if strings.TrimSpace(why) == "" {
		return refusal.In("why", "Say why; it is kept, and the reader is told that nothing waits for them any more.")
	}
	if err := s.leave(ctx, tx, r, account, "ended_at", why, "reader-taken-off"); err != nil {
		return err
	}
	var p struct{ Name, Email string }
	if err := tx.GetContext(ctx, &p, `SELECT name, email FROM account WHERE id = $1`, account); err != nil {
		return err
	}
	subject, body := say.TakenOff(p.Name, r.Name, s.Post.Name())
	_, err := s.Post.Queue(ctx, tx, post.Letter{Kind: "reader-taken-off", Account: account, Round: r.ID, To: p.Email,
		ToName:  p.Name,
		Subject: subject, Body: body})
	return err
}

func (s *Store) leave(ctx context.Context, tx *db.Tx, r round.Round, account int64, column, why, verb string) error {
	if why = strings.TrimSpace(why); len(why) > 1000 {
		return refusal.In("why", "Say why in up to 1,000 characters.")
	}
	res, err := tx.ExecContext(ctx, `
		UPDATE reader SET `+column+` = $3, why = $4 WHERE round_id = $1 AND account_id = $2 AND declined_at IS NULL AND ended_at IS NULL`,
		r.ID, account, tx.At, why)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return refusal.Unfit("They do not read in this round any more.")
	}
	var open []int64
	if err := tx.SelectContext(ctx, &open, `
		SELECT g.entry_id FROM assignment g JOIN application a ON a.id = g.application_id
		WHERE a.round_id = $1 AND g.account_id = $2 AND g.sent_at IS NULL ORDER BY g.entry_id`, r.ID, account); err != nil {
		return err
	}
	for _, entry := range open {
		c, err := s.Cases.ByEntry(ctx, tx, entry)
		if err != nil {
			return err
		}
		if err := s.takeBack(ctx, tx, c, account); err != nil {
			return err
		}
	}
	return trail.Write(ctx, tx, say.Verb(verb), 0, r.ID, map[string]string{"reader": strconv.FormatInt(account, 10),
		"why": why})
}

// Return lets a reader read again who declined or was taken off.
func (s *Store) Return(ctx context.Context, tx *db.Tx, r round.Round, account int64) error {
	if _, err := tx.ExecContext(ctx,
		`UPDATE reader SET declined_at = NULL, ended_at = NULL, why = '' WHERE round_id = $1 AND account_id = $2`,
		r.ID, account); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "reader-back", 0, r.ID, map[string]string{"reader": strconv.FormatInt(account, 10)})
}

// TakeBack takes one case from a reader who has not sent marks for it, with a reason.
func (s *Store) TakeBack(ctx context.Context, tx *db.Tx, c application.Case, account int64, why string) error {
	if why = strings.TrimSpace(why); why == "" || len(why) > 1000 {
		return refusal.In("why", "Say why, in up to 1,000 characters; it stays with the case.")
	}
	if err := s.takeBack(ctx, tx, c, account); err != nil {
		return err
	}
	if err := s.tellTaken(ctx, tx, c, account, why); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "taken-from", c.ID, c.RoundID, map[string]string{"reader": strconv.FormatInt(account, 10),
		"why": why})
}

// tellTaken writes to a reader from whom a case was taken.
func (s *Store) tellTaken(ctx context.Context, tx *db.Tx, c application.Case, account int64, why string) error {
	title, err := s.titleFor(ctx, tx, c)
	if err != nil {
		return err
	}
	var p struct{ Name, Email string }
	if err := tx.GetContext(ctx, &p, `SELECT name, email FROM account WHERE id = $1`, account); err != nil {
		return err
	}
	subject, body := say.CaseTaken(p.Name, title, why, s.Post.Name())
	_, err = s.Post.Queue(ctx, tx, post.Letter{Kind: "case-taken", Account: account, Round: c.RoundID, To: p.Email,
		ToName:  p.Name,
		Subject: subject, Body: body})
	return err
}

func (s *Store) takeBack(ctx context.Context, tx *db.Tx, c application.Case, account int64) error {
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	res, err := tx.ExecContext(ctx, `DELETE FROM assignment WHERE entry_id = $1 AND account_id = $2 AND sent_at IS NULL`,
		c.EntryID, account)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return refusal.Unfit("They have sent their marks, or do not read it").But("reopen the marks first")
	}
	return s.finish(ctx, tx, c, false)
}

// finish ends the reading of a case when all its readers have sent and there are
// enough; few reports that those there are are enough.
func (s *Store) finish(ctx context.Context, tx *db.Tx, c application.Case, few bool) error {
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	given, err := s.Of(ctx, tx, c.EntryID)
	if err != nil {
		return err
	}
	if !c.State.Is(lifecycle.BeingRead) || len(given) == 0 || len(given) < f.Design.ReadersEach && !few {
		return nil
	}
	for _, g := range given {
		if g.SentAt == nil {
			return nil
		}
	}
	_, _, err = s.Cases.Transition(ctx, tx, c, lifecycle.FinishRead, nil)
	return err
}

// EndReading ends the reading of a case with the marks there are: a reader who stays
// silent does not stop it for good. Whoever has sent nothing gives the case back.
func (s *Store) EndReading(ctx context.Context, tx *db.Tx, c application.Case, why string) error {
	if why = strings.TrimSpace(why); why == "" || len(why) > 1000 {
		return refusal.In("why", "Say why it is decided with fewer marks, in up to 1,000 characters; it stays with the case.")
	}
	c, err := s.Cases.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	if !c.State.Is(lifecycle.BeingRead) {
		return refusal.Newf("it is %s now", c.State)
	}
	var sent int
	if err := tx.GetContext(ctx, &sent, `SELECT count(*) FROM assignment WHERE entry_id = $1 AND sent_at IS NOT NULL`,
		c.EntryID); err != nil {
		return err
	}
	if sent == 0 {
		return refusal.Unfit("nobody has marked it yet").But("give it to another reader")
	}
	var silent []int64
	if err := tx.SelectContext(ctx, &silent,
		`DELETE FROM assignment WHERE entry_id = $1 AND sent_at IS NULL RETURNING account_id`,
		c.EntryID); err != nil {
		return err
	}
	for _, account := range silent {
		if err := s.tellTaken(ctx, tx, c, account, why); err != nil {
			return err
		}
	}
	if err := trail.Write(ctx, tx, "reading-ended", c.ID, c.RoundID, map[string]string{"why": why}); err != nil {
		return err
	}
	return s.finish(ctx, tx, c, true)
}

// tellGiven writes to each reader who has something new what waits for them.
func (s *Store) tellGiven(ctx context.Context, tx *db.Tx, r round.Round, st *stack, more []int) error {
	var letters []post.Letter
	for j, n := range more {
		if n == 0 {
			continue
		}
		x := st.readers[j]
		subject, body := say.CasesWait(x.Name, r.Name, s.Post.Name(), n, st.ends)
		l := post.Letter{Kind: "cases-given", Account: x.Account, Round: r.ID, To: x.Email, ToName: x.Name, Subject: subject,
			Body: body + "\n" + s.Post.BaseURL + "/reading\n"}
		if x.AcceptedAt == nil { // they have no other way in than the link of the invitation
			open, err := s.Links.Of(ctx, tx, link.Reader, x.Account)
			if err != nil {
				return err
			}
			l.Link, l.Body = open, body+"\n"+post.LinkMark+"\n"
		}
		letters = append(letters, l)
	}
	if letters == nil {
		return nil
	}
	_, err := s.Post.QueueAll(ctx, tx, letters)
	return err
}
