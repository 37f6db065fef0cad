// Package desk reads across everything for lists, Today, the overview and
// search. It only reads; nothing but web imports it.
package desk

import (
	"context"
	"strconv"
	"strings"
	"time"

	"ulvant/core/access"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/register"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Desk reads.
type Desk struct{ DB *db.DB }

// Item is one application in a list.
type Item struct {
	AppID     int64 `db:"application_id"`
	RoundID   int64 `db:"round_id"`
	Ref       string
	Title     string
	Lead      string
	Place     string
	State     lifecycle.State
	Move      lifecycle.Move
	Stage     form.Key
	Latest    bool // no later stage has been reached
	Done      int
	Required  int
	Obstacles pq.StringArray
	Asked     *int64
	Given     *int64 // the sum awarded, as far as it was told; nil for none. Read by Mine alone
	Letter    form.LetterState
	ChangedAt time.Time      `db:"changed_at"`
	Until     *time.Time     `db:"valid_until"` // when writing ends, of what can be written
	SentAt    *time.Time     `db:"sent_at"`
	RoundKey  string         `db:"round_key"`
	RoundName string         `db:"round_name"`
	Currency  string         // of Asked
	Carer     string         // who of the office looks after it; "" for nobody
	Bodies    pq.StringArray // reviewing bodies that it is for
}

// Query is what an address needs to name the item's stage: "" for the latest.
func (it Item) Query() string {
	if it.Latest {
		return ""
	}
	return "?stage=" + string(it.Stage)
}

const itemColumns = `st.application_id, a.ref, a.title, p.name AS lead, st.place, st.stage, st.latest, st.state, st.move, st.done, st.required, st.obstacles, st.asked, st.letter,
	st.changed_at, st.valid_until, st.sent_at, st.round_id, r.key AS round_key, r.name AS round_name, r.currency,
	COALESCE((SELECT k.name FROM care w JOIN account k ON k.id = w.account_id WHERE w.round_id = st.round_id AND w.place IN (st.place, '') ORDER BY w.place = '' LIMIT 1), '') AS carer,
	ARRAY(SELECT DISTINCT unnest(n.bodies) FROM known n JOIN entry o ON o.id = n.entry_id WHERE o.application_id = st.application_id) AS bodies`

const itemFrom = ` FROM standing st
	JOIN application a ON a.id = st.application_id
	JOIN round r ON r.id = st.round_id
	JOIN relation l ON l.application_id = a.id AND l.kind = 'lead'
	JOIN account p ON p.id = l.account_id `

// likely escapes what LIKE would read as a pattern.
func likely(s string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(s)
}

// Mine lists the applications of an account, the newest first.
func (d *Desk) Mine(ctx context.Context, account int64) (out []Item, err error) {
	var rows []struct {
		Item
		Part  string
		Told  lifecycle.State
		Given *int64 `db:"given"`
	}
	err = d.DB.SelectContext(ctx, &rows, `SELECT `+itemColumns+`, mine.kind AS part, e.told,
		(SELECT left_of(d.act_id, d.entry_id, d.amount) FROM decision d WHERE d.act_id = e.told_act AND d.entry_id = e.id AND d.outcome = ANY($2)) AS given
		FROM relation mine
		JOIN standing st ON st.application_id = mine.application_id AND st.latest
		JOIN entry e ON e.id = st.entry_id
		JOIN application a ON a.id = st.application_id
		JOIN round r ON r.id = st.round_id
		JOIN relation l ON l.application_id = a.id AND l.kind = 'lead'
		JOIN account p ON p.id = l.account_id
		WHERE mine.account_id = $1 ORDER BY a.id DESC`, account, lifecycle.With(lifecycle.Gives))
	for _, x := range rows {
		if x.Told != "" {
			x.State, x.Move = x.Told, lifecycle.MoveIn(x.Told)
		}
		if x.State.Is(lifecycle.Gives) {
			x.Item.Given = x.Given
		}
		if access.Allow(access.ViewCase, access.SignedIn|access.PartOf(x.Part), x.State) == access.Allowed {
			out = append(out, x.Item)
		}
	}
	return out, err
}

// Count of applications by state and move.
type Count struct {
	Round int64 `db:"round_id"`
	State lifecycle.State
	Move  lifecycle.Move
	N     int
	Asked int64
}

// Counts of these rounds by state and move.
func (d *Desk) Counts(ctx context.Context, rounds ...int64) (out []Count, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT round_id, state, move, count(*) AS n, COALESCE(sum(asked), 0) AS asked FROM standing
		WHERE latest AND round_id = ANY($1) GROUP BY round_id, state, move`, rounds)
	return out, err
}

// Stuck is in how many drafts something stands that is said in these words.
type Stuck struct {
	Says string
	Code form.Code // one that is said so
	N    int
}

// Stuck counts what stands in the way of a round's drafts, each once a draft
// and once a sentence: says gives the words of a code.
func (d *Desk) Stuck(ctx context.Context, round int64, says func(form.Code) string) (out []Stuck, err error) {
	var codes []string
	if err := d.DB.SelectContext(ctx, &codes,
		`SELECT DISTINCT unnest(obstacles) FROM standing WHERE round_id = $1 AND state = ANY($2)`, round,
		lifecycle.With(lifecycle.Drafting)); err != nil {
		return nil, err
	}
	words := make([]string, len(codes))
	for i, c := range codes {
		words[i] = says(form.Code(c))
	}
	err = d.DB.SelectContext(ctx, &out, `
		SELECT n.says, min(n.code) AS code, count(DISTINCT st.entry_id) AS n
		FROM standing st CROSS JOIN LATERAL unnest(st.obstacles) AS o(code) JOIN unnest($3::text[], $4::text[]) AS n(code, says) ON n.code = o.code
		WHERE st.round_id = $1 AND st.state = ANY($2) GROUP BY n.says ORDER BY n DESC, n.says LIMIT 6`, round, lifecycle.With(lifecycle.Drafting), codes, words)
	return out, err
}

// Mended counts in how many drafts of a round something no longer stands that is
// said in the same words, by what was done for them shortly before.
func (d *Desk) Mended(ctx context.Context, round int64, says func(form.Code) string) (map[string]map[say.Help]int,
	error) {
	var codes []string
	if err := d.DB.SelectContext(ctx, &codes,
		`SELECT DISTINCT code FROM hurdle WHERE round_id = $1 AND over_at IS NOT NULL`, round); err != nil {
		return nil, err
	}
	words := make([]string, len(codes))
	for i, c := range codes {
		words[i] = says(form.Code(c))
	}
	var rows []struct {
		Says   string
		Helped say.Help
		N      int
	}
	if err := d.DB.SelectContext(ctx, &rows, `
		SELECT n.says, h.helped, count(DISTINCT h.entry_id) AS n FROM hurdle h JOIN unnest($2::text[], $3::text[]) AS n(code, says) ON n.code = h.code
		WHERE h.round_id = $1 AND h.over_at IS NOT NULL GROUP BY n.says, h.helped`, round, codes, words); err != nil {
		return nil, err
	}
	out := map[string]map[say.Help]int{}
	for _, r := range rows {
		if out[r.Says] == nil {
			out[r.Says] = map[say.Help]int{}
		}
		out[r.Says][r.Helped] = r.N
	}
	return out, nil
}

// SentTimes lists when a round's applications were sent in a stage, in order.
func (d *Desk) SentTimes(ctx context.Context, round int64, stage form.Key) (out []time.Time, err error) {
	err = d.DB.SelectContext(ctx, &out,
		`SELECT s.at FROM seal s JOIN standing st ON st.entry_id = s.entry_id WHERE st.round_id = $1 AND st.stage = $2 AND s.number = 1 AND st.state = ANY($3) ORDER BY s.at`, round, stage, lifecycle.With(lifecycle.In))
	return out, err
}

// Letters of one round by state: to ask, asked, …
func (d *Desk) Letters(ctx context.Context, round int64) (map[form.LetterState]int, error) {
	var rows []struct {
		Letter form.LetterState
		N      int
	}
	err := d.DB.SelectContext(ctx, &rows,
		`SELECT letter, count(*) AS n FROM standing WHERE round_id = $1 AND latest AND letter <> '' AND state = ANY($2) GROUP BY letter`, round, lifecycle.With(lifecycle.Stored))
	out := map[form.LetterState]int{}
	for _, r := range rows {
		out[r.Letter] = r.N
	}
	return out, err
}

// Open is a rule that waits for a person.
type Open struct {
	Ref, Title, Rule, Reason string
	RoundKey                 string `db:"round_key"`
	Since                    time.Time
}

// OpenChecks lists what a machine could not settle, the oldest first; round 0 for all.
func (d *Desk) OpenChecks(ctx context.Context, round int64, most int) (out []Open, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, f.rule, f.reason, r.key AS round_key, f.worked_at AS since
		FROM finding f JOIN standing st ON st.entry_id = f.entry_id JOIN application a ON a.id = st.application_id JOIN round r ON r.id = st.round_id
		WHERE f.outcome = 'person' AND f.settled IS NULL AND f.rule NOT LIKE 'turn-%' AND st.state = ANY($3) AND ($1 = 0 OR st.round_id = $1) ORDER BY f.worked_at, a.id LIMIT $2`, round, most, lifecycle.With(lifecycle.ToSettle))
	return out, err
}

// OpenCheck counts the rules of a round that wait for a person, with the oldest.
type OpenCheck struct {
	Round      int64 `db:"round_id"`
	N          int
	Ref, Title string // of the oldest
	Since      time.Time
}

// OpenChecksOf counts them by round; round 0 for all.
func (d *Desk) OpenChecksOf(ctx context.Context, round int64) (out []OpenCheck, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT DISTINCT ON (x.round_id) x.round_id, x.n, a.ref, a.title, x.worked_at AS since FROM (
		  SELECT st.round_id, st.application_id, f.worked_at, count(*) OVER (PARTITION BY st.round_id) AS n
		  FROM finding f JOIN standing st ON st.entry_id = f.entry_id
		  WHERE f.outcome = 'person' AND f.settled IS NULL AND f.rule NOT LIKE 'turn-%' AND st.state = ANY($2) AND ($1 = 0 OR st.round_id = $1)) x
		JOIN application a ON a.id = x.application_id ORDER BY x.round_id, x.worked_at, a.id`, round, lifecycle.With(lifecycle.ToSettle))
	return out, err
}

// OpenChecksAt counts the rules that wait for a person in one place of a round, with
// since when the oldest does.
func (d *Desk) OpenChecksAt(ctx context.Context, round int64, place string) (n int, since time.Time, err error) {
	var x struct {
		N     int
		Since *time.Time
	}
	err = d.DB.GetContext(ctx, &x, `
		SELECT count(*) AS n, min(f.worked_at) AS since FROM finding f JOIN standing st ON st.entry_id = f.entry_id
		WHERE f.outcome = 'person' AND f.settled IS NULL AND f.rule NOT LIKE 'turn-%' AND st.state = ANY($3) AND st.round_id = $1 AND st.place = $2`, round, place,
		lifecycle.With(lifecycle.ToSettle))
	if x.Since != nil {
		since = *x.Since
	}
	return x.N, since, err
}

// Applied counts those who applied for an award of a round, of what was sent.
func (d *Desk) Applied(ctx context.Context, round int64, award string) (n int, err error) {
	err = d.DB.GetContext(ctx, &n, `
		SELECT count(*) FROM known k JOIN standing st ON st.entry_id = k.entry_id
		WHERE k.round_id = $1 AND st.latest AND st.state = ANY($3) AND k.facts -> $4 ? $2`, round, award, lifecycle.With(lifecycle.In),
		register.FactAwards)
	return n, err
}

// Checked is one application with its findings summed up.
type Checked struct {
	Item
	Yes, Person, No int
	EntryID         int64 `db:"entry_id"`
}

// Checks lists a round's sent applications with their findings, so many at a
// time, those after an entry.
func (d *Desk) Checks(ctx context.Context, round, after int64, most int) (out []Checked, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		WITH page AS MATERIALIZED (SELECT s.entry_id FROM standing s
		  WHERE s.round_id = $1 AND s.entry_id > $2 AND s.state = ANY($4)
		    AND (s.latest OR EXISTS (SELECT FROM finding f WHERE f.entry_id = s.entry_id AND f.outcome = 'person' AND f.settled IS NULL)) ORDER BY s.entry_id LIMIT $3)
		SELECT `+itemColumns+`, st.entry_id, x.yes, x.person, x.no `+itemFrom+`
		JOIN page ON page.entry_id = st.entry_id
		JOIN LATERAL (
		  SELECT count(*) FILTER (WHERE COALESCE(settled, outcome) = 'yes') AS yes, count(*) FILTER (WHERE COALESCE(settled, outcome) = 'person') AS person,
		         count(*) FILTER (WHERE COALESCE(settled, outcome) = 'no') AS no
		  FROM finding f WHERE f.entry_id = st.entry_id) x ON true
		ORDER BY st.entry_id`, round, after, most, lifecycle.With(lifecycle.Sealed))
	return out, err
}

// Names of accounts and referees, for trails.
func (d *Desk) Names(ctx context.Context, table string, ids []int64) (map[string]string, error) {
	var rows []struct {
		ID   int64
		Name string
	}
	query := `SELECT id, name FROM account WHERE id = ANY($1)`
	if table == "referee" {
		query = `SELECT id, name FROM referee WHERE id = ANY($1)`
	}
	err := d.DB.SelectContext(ctx, &rows, query, ids)
	out := map[string]string{}
	for _, r := range rows {
		out[strconv.FormatInt(r.ID, 10)] = r.Name
	}
	return out, err
}

// Late is one thing that happened lately, with the case it happened to.
type Late struct {
	trail.Row
	Ref, Title string
	RoundID    int64 `db:"round_id"`
}

// Lately lists the latest rows of the trail with one of these verbs, the newest first.
func (d *Desk) Lately(ctx context.Context, only round.Only, verbs []say.Verb, most int) (out []Late, err error) {
	list := pq.StringArray{}
	for _, v := range verbs {
		list = append(list, string(v))
	}
	err = d.DB.SelectContext(ctx, &out, `
		SELECT t.id, t.at, t.by_kind, t.by_id, t.verb, t.figures, a.ref, a.title, a.round_id
		FROM trail t JOIN application a ON a.id = t.application_id
		WHERE t.verb = ANY($1) AND ($3::bigint[] IS NULL OR a.round_id = ANY($3)) ORDER BY t.id DESC LIMIT $2`, list, most, only)
	return out, err
}

// Change of a working design, with who made it.
type Change struct {
	Number   int
	At       time.Time
	By       string
	Sentence string
	Path     string
	UndoneAt *time.Time `db:"undone_at"`
}

// Changes lists the latest changes of a round's working design, the newest first.
func (d *Desk) Changes(ctx context.Context, round int64, most int) (out []Change, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT o.number, o.at, COALESCE(p.name, 'the command line') AS by, o.sentence, o.path, o.undone_at
		FROM operation o LEFT JOIN account p ON p.id = o.by_id WHERE o.round_id = $1 ORDER BY o.number DESC LIMIT $2`, round, most)
	return out, err
}

// Letter is a letter as lists show it.
type Letter struct {
	Kind    string
	To      string `db:"to_address"`
	Subject string
	State   string
	Due     time.Time  `db:"due_at"`
	SentAt  *time.Time `db:"sent_at"`
	Back    *time.Time `db:"bounced_at"` // when it came back; nil: it did not
	Bounce  string     // for what reason: status and words of the mail server
}

// Status of a mail that came back (RFC 3463).
func (l Letter) Status() string {
	status, _, _ := strings.Cut(l.Bounce, " ")
	return status
}

// Post lists the letters of a case.
func (d *Desk) Post(ctx context.Context, application int64) (out []Letter, err error) {
	err = d.DB.SelectContext(ctx, &out,
		`SELECT kind, to_address, subject, state, due_at, sent_at, bounced_at, bounce FROM post WHERE application_id = $1 ORDER BY id`,
		application)
	return out, err
}

// Mail of a case with its whole text; personal links stand as a mark in it.
type Mail struct {
	Letter
	ToName    string `db:"to_name"`
	Body      string
	CreatedAt time.Time `db:"created_at"`
}

// Correspondence is every mail about a case, the oldest first.
func (d *Desk) Correspondence(ctx context.Context, application int64) (out []Mail, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT kind, to_address, to_name, subject, body, state, created_at, due_at, sent_at, bounced_at, bounce FROM post
		WHERE application_id = $1 ORDER BY id LIMIT 500`, application)
	return out, err
}

// WantSupport lists the cases that asked for support and wait, the oldest first.
func (d *Desk) WantSupport(ctx context.Context) (out []Waiting, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT a.ref, a.title, r.key AS round_key, r.name AS round_name, r.id AS round_id, r.programme,
		       COALESCE((SELECT st.place FROM standing st WHERE st.application_id = a.id AND st.latest), '') AS place, s.asked_at AS since
		FROM support s JOIN application a ON a.id = s.application_id JOIN round r ON r.id = a.round_id
		WHERE s.ended_at IS NULL ORDER BY s.asked_at`)
	return out, err
}

// HeldLetters of all rounds that can still be stopped.
func (d *Desk) HeldLetters(ctx context.Context) (out []struct {
	RoundKey  string    `db:"round_key"`
	RoundName string    `db:"round_name"`
	RoundID   int64     `db:"round_id"`
	Programme string    `db:"programme"`
	N         int       `db:"n"`
	Due       time.Time `db:"due"`
}, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT r.key AS round_key, r.name AS round_name, r.id AS round_id, r.programme, count(*) AS n, min(o.due_at) AS due FROM post o JOIN round r ON r.id = o.round_id
		WHERE o.state = 'held' AND o.due_at > o.created_at GROUP BY r.id ORDER BY due`)
	return out, err
}
