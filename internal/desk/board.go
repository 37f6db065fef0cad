package desk

import (
	"context"
	"encoding/json"
	"time"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
)

// BoardRow is one request of a round, as the office sees it over all its cases.
type BoardRow struct {
	ID         int64
	EntryID    int64 `db:"entry_id"`
	Ref        string
	Title      string
	Lead       string
	CaseState  lifecycle.State `db:"case_state"`
	Question   form.Key
	Name       string
	Email      string
	State      form.LetterState
	StateAt    time.Time  `db:"state_at"`
	RemindedAt *time.Time `db:"reminded_at"`
	Reminders  int
	Due        time.Time
	Until      *time.Time
	BouncedAt  *time.Time `db:"bounced_at"`
	Bounce     string
	Arrived    *time.Time
}

// Bounced reports a request whose mail came back, and of which nothing was heard.
func (b BoardRow) Bounced() bool { return b.BouncedAt != nil && b.State == form.Asked }

// BoardFilter is what of a round's requests is looked at.
type BoardFilter struct {
	Show     string                 // awaited | bounced | unsent | declined | in | "" for all that is open
	Email    string                 // of one person alone
	Question form.Key               // of one question alone
	Due      map[form.Key]time.Time // until when each question is answered
	Own      map[form.Key]bool      // by a date of its own, and not by the closing, which more time can move
	Offset   int
	Most     int
}

// boardFrom are the requests of a round that were not replaced, of the cases that
// still count.
const boardFrom = `
	FROM referee r JOIN entry e ON e.id = r.entry_id JOIN application a ON a.id = e.application_id
	JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id
	JOIN jsonb_to_recordset($2::jsonb) AS d(question text, due timestamptz, own boolean) ON d.question = r.question
	WHERE a.round_id = $1 AND r.state <> 'replaced' AND NOT e.state = ANY($3)
	  AND ($4 = '' OR r.email = $4) AND ($5 = '' OR r.question = $5)`

// boardDue is until when a request is answered.
const boardDue = `GREATEST(d.due, r.until, CASE WHEN NOT d.own THEN e.more_until END)`

// boardShows are the parts of the board, as conditions.
var boardShows = map[string]string{
	"":         `r.state IN ('to ask', 'asked', 'accepted', 'uploaded', 'declined')`,
	"awaited":  `r.state IN ('asked', 'accepted', 'uploaded') AND NOT (r.bounced_at IS NOT NULL AND r.state = 'asked')`,
	"unsent":   `r.state = 'uploaded'`,
	"bounced":  `r.bounced_at IS NOT NULL AND r.state = 'asked'`,
	"declined": `r.state = 'declined'`,
	"in":       `r.state = '` + string(form.SentIn) + `'`,
}

// Shows reports a part that the board has.
func Shows(show string) bool { _, ok := boardShows[show]; return ok }

func (f BoardFilter) args(round int64) ([]any, error) {
	type due struct {
		Question form.Key  `json:"question"`
		Due      time.Time `json:"due"`
		Own      bool      `json:"own"`
	}
	list := []due{}
	for q, at := range f.Due {
		list = append(list, due{q, at, f.Own[q]})
	}
	raw, err := json.Marshal(list)
	return []any{round, string(raw), lifecycle.With(lifecycle.Gone | lifecycle.Missed), f.Email, f.Question}, err
}

// Board lists the requests of a round, soonest due first, then the oldest.
func (d *Desk) Board(ctx context.Context, round int64, f BoardFilter) (out []BoardRow, err error) {
	args, err := f.args(round)
	if err != nil {
		return nil, err
	}
	err = d.DB.SelectContext(ctx, &out, `
		SELECT r.id, r.entry_id, a.ref, a.title, p.name AS lead, e.state AS case_state, r.question, r.name, r.email, r.state, r.state_at,
		       r.reminded_at, r.reminders, `+boardDue+` AS due, r.until, r.bounced_at, r.bounce, r.arrived`+boardFrom+`
		  AND `+boardShows[f.Show]+`
		ORDER BY `+boardDue+`, r.state_at, r.id OFFSET $6 LIMIT $7`, append(args, f.Offset, f.Most)...)
	return out, err
}

// BoardCount is how many requests of a round stand where.
type BoardCount struct {
	All, Awaited, Unsent, Bounced, Declined, In int
	ToAsk                                       int `db:"to_ask"`
}

// BoardCounts counts the requests of a round.
func (d *Desk) BoardCounts(ctx context.Context, round int64, f BoardFilter) (n BoardCount, err error) {
	args, err := f.args(round)
	if err != nil {
		return n, err
	}
	err = d.DB.GetContext(ctx, &n, `
		SELECT count(*) AS all, count(*) FILTER (WHERE `+boardShows["awaited"]+`) AS awaited,
		       count(*) FILTER (WHERE r.state = 'uploaded') AS unsent, count(*) FILTER (WHERE `+boardShows["bounced"]+`) AS bounced,
		       count(*) FILTER (WHERE `+boardShows["declined"]+`) AS declined, count(*) FILTER (WHERE `+boardShows["in"]+`) AS in,
		       count(*) FILTER (WHERE r.state = 'to ask') AS to_ask`+boardFrom, args...)
	return n, err
}

// Owing is a person of whom a round awaits something.
type Owing struct {
	Name   string
	Email  string
	N      int
	Unsent int
	Oldest time.Time
	Due    time.Time
}

// mostOwing is how many people are listed.
const mostOwing = 100

// Owing lists the people of whom most is awaited; of each the soonest date.
func (d *Desk) Owing(ctx context.Context, round int64, f BoardFilter) (out []Owing, err error) {
	args, err := f.args(round)
	if err != nil {
		return nil, err
	}
	err = d.DB.SelectContext(ctx, &out, `
		SELECT min(r.name) AS name, r.email, count(*) AS n, count(*) FILTER (WHERE r.state = 'uploaded') AS unsent,
		       min(r.state_at) AS oldest, min(`+boardDue+`) AS due`+boardFrom+`
		  AND r.email <> '' AND `+boardShows["awaited"]+`
		GROUP BY r.email ORDER BY n DESC, due, r.email LIMIT $6`, append(args, mostOwing)...)
	return out, err
}
