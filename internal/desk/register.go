package desk

import (
	"context"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/identifier"
	"ulvant/core/lifecycle"
	"ulvant/core/register"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Sought is what of the register is read: of one round or of all, in a shape, as
// far as somebody sees it.
type Sought struct {
	Round   int64      // 0 for all
	Rounds  round.Only // those seen as a whole; nil for all
	Parts   []Part     // of those that are seen in part
	Columns register.Columns
	Shape   register.Shape
	Entries []int64        // these alone; nil for all that fit
	Weights map[string]int // of the round's criteria
	Today   calendar.Date
	Zone    *time.Location
	Offset  int
	Most    int // 0 for all
}

// Part of a round that is seen: the cases of a stream or area, or those that a
// reviewing body is for.
type Part struct {
	Round int64  `json:"round"`
	Place string `json:"place"` // "" for any
	Body  string `json:"body"`  // "" for any
}

// Row of the register.
type Row struct {
	EntryID  int64 `db:"entry_id"`
	AppID    int64 `db:"application_id"`
	RoundID  int64 `db:"round_id"`
	Ref      string
	Title    string
	State    lifecycle.State
	Move     lifecycle.Move
	Stage    form.Key
	RoundKey string          `db:"round_key"`
	Currency string          // of its sums
	Cells    json.RawMessage // of the columns of every case that are shown, as a list
	Facts    json.RawMessage // of what was sent; none of a draft
}

// statement is SQL under way with its arguments.
type statement struct {
	args db.Named
	n    int
	from map[string]bool // what it must join: a, p, r, k
}

// hold keeps an argument and gives its name.
func (s *statement) hold(v any) string {
	s.n++
	name := "v" + strconv.Itoa(s.n)
	s.args[name] = v
	return name
}

// expr is what a column is read from; of an answer, as JSON. It notes
// what is joined for it.
func (s *statement) expr(q *Sought, c register.Column) string {
	if fact := c.Fact(); fact != "" {
		s.from["k"] = true
		return factSQL(s.hold(fact))
	}
	sql := columnSQL[c.Key]
	for alias := range s.from {
		if strings.HasPrefix(sql, alias+".") {
			s.from[alias] = true
		}
	}
	if strings.Contains(sql, "@today") {
		s.args["today"] = q.Today.String()
	}
	if strings.Contains(sql, "@weights") {
		raw, _ := json.Marshal(q.Weights) // whole numbers by keys are always taken
		s.args["weights"] = string(raw)
	}
	if strings.Contains(sql, "@gives") {
		s.args["gives"] = lifecycle.With(lifecycle.Gives)
	}
	if strings.Contains(sql, "@sealed") {
		s.args["sealed"] = lifecycle.With(lifecycle.Sealed)
	}
	return sql
}

// value is a column as something to compare and to order by.
func (s *statement) value(q *Sought, c register.Column) string {
	sql := s.expr(q, c)
	if c.Fact() == "" {
		return sql
	}
	switch {
	case c.Type.Counts():
		return `CASE WHEN jsonb_typeof(` + sql + `) = 'number' THEN (` + sql + `)::numeric END`
	case c.Type == register.Several:
		return `CASE WHEN jsonb_typeof(` + sql + `) = 'array' THEN ARRAY(SELECT jsonb_array_elements_text(` + sql + `)) END`
	}
	return `CASE WHEN jsonb_typeof(` + sql + `) = 'string' THEN (` + sql + `) #>> '{}' END`
}

// zoned begins and ends a day where the round is.
func zoned(q *Sought, iso string, days int) time.Time {
	d, _ := calendar.ParseDate(iso) // register.ParseCondition let dates alone through
	at, _ := calendar.At(d.AddDays(days), 0, 0).In(q.Zone)
	return at
}

// where is a condition as SQL.
func (s *statement) where(q *Sought, c register.Condition) (string, error) {
	col, ok := q.Columns.Find(c.Column)
	if !ok {
		return "", fmt.Errorf("the register has no column %q", c.Column)
	}
	if col.Key == register.KeyFind {
		if ref, ok := identifier.ParseRef(c.Values[0]); ok {
			return `st.application_id = (SELECT n.id FROM application n WHERE n.ref = @` + s.hold(ref) + `)`, nil
		}
		if words := prefixes(c.Values[0]); words != "" {
			return `st.words @@ to_tsquery('simple', @` + s.hold(words) + `)`, nil
		}
		return `false`, nil
	}
	if col.Fact() != "" && (c.Op == register.Blank || c.Op == register.There) { // a non-answer is there
		if c.Op == register.Blank {
			return s.expr(q, col) + ` IS NULL`, nil
		}
		return s.expr(q, col) + ` IS NOT NULL`, nil
	}
	v := s.value(q, col)
	switch c.Op {
	case register.Blank: // of every case: an answer was looked at above
		return v + ` IS NULL`, nil
	case register.There:
		return v + ` IS NOT NULL`, nil
	case register.Is, register.Not:
		sql := v + ` = ANY(@` + s.hold(c.Values) + `::text[])`
		if col.Type == register.Several {
			sql = `(` + v + `)::text[] && @` + "v" + strconv.Itoa(s.n) + `::text[]`
		}
		if c.Op == register.Not {
			return `(` + sql + `) IS NOT TRUE`, nil
		}
		return sql, nil
	case register.Has:
		return v + ` ILIKE '%' || @` + s.hold(likely(c.Values[0])) + ` || '%'`, nil
	case register.Least:
		return v + ` >= @` + s.hold(c.Values[0]) + `::numeric`, nil
	case register.Most:
		return v + ` <= @` + s.hold(c.Values[0]) + `::numeric`, nil
	case register.From, register.Until:
		if col.Type == register.Day { // ISO dates are in the order of their letters
			return v + map[register.Op]string{register.From: ` >= @`, register.Until: ` <= @`}[c.Op] +
				s.hold(c.Values[0]) + `::text`, nil
		}
		if c.Op == register.From {
			return v + ` >= @` + s.hold(zoned(q, c.Values[0], 0)) + `::timestamptz`, nil
		}
		return v + ` < @` + s.hold(zoned(q, c.Values[0], 1)) + `::timestamptz`, nil
	}
	days, err := strconv.Atoi(c.Values[0])
	if err != nil {
		return "", err
	}
	today := q.Today.String()
	switch c.Op {
	case register.Within: // today counts as the first day
		return v + ` >= @` + s.hold(zoned(q, today, 1-days)) + `::timestamptz`, nil
	case register.Older:
		return v + ` < @` + s.hold(zoned(q, today, -days)) + `::timestamptz`, nil
	case register.Coming:
		return `(` + v + ` >= @` + s.hold(zoned(q, today, 0)) + `::timestamptz AND ` + v + ` < @` +
			s.hold(zoned(q, today, days+1)) + `::timestamptz)`, nil
	}
	return "", fmt.Errorf("the register does not know %q", c.Op)
}

// fitting is all that holds of the rows that are sought.
func (s *statement) fitting(q *Sought) (string, error) {
	all := []string{`st.latest`}
	if q.Round != 0 {
		all = append(all, `st.round_id = @`+s.hold(q.Round))
	}
	if q.Rounds != nil {
		seen := `st.round_id = ANY(@` + s.hold(q.Rounds) + `::bigint[])`
		if len(q.Parts) > 0 {
			raw, err := json.Marshal(q.Parts)
			if err != nil {
				return "", err
			}
			seen = `(` + seen + ` OR EXISTS (SELECT FROM jsonb_to_recordset(@` + s.hold(string(raw)) +
				`::jsonb) AS part(round bigint, place text, body text)
			WHERE part.round = st.round_id AND part.place IN ('', st.place)
			  AND (part.body = '' OR EXISTS (SELECT FROM known n JOIN entry o ON o.id = n.entry_id WHERE o.application_id = st.application_id AND part.body = ANY(n.bodies)))))`
		}
		all = append(all, seen)
	}
	if q.Entries != nil {
		all = append(all, `st.entry_id = ANY(@`+s.hold(q.Entries)+`::bigint[])`)
	}
	for _, c := range q.Shape.Filter {
		sql, err := s.where(q, c)
		if err != nil {
			return "", err
		}
		all = append(all, sql)
	}
	return strings.Join(all, ` AND `), nil
}

// joined is what of fromRegister a statement needs.
func (s *statement) joined() string {
	sql := ` FROM standing st`
	if s.from["a"] || s.from["p"] {
		sql += ` JOIN application a ON a.id = st.application_id`
	}
	if s.from["r"] {
		sql += ` JOIN round r ON r.id = st.round_id`
	}
	if s.from["p"] {
		sql += ` JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id`
	}
	if s.from["k"] {
		sql += ` LEFT JOIN known k ON k.entry_id = st.entry_id`
	}
	return sql
}

func begun() *statement {
	return &statement{args: db.Named{}, from: map[string]bool{"a": false, "p": false, "r": false, "k": false}}
}

// RegisterSQL is the statement of a page of the register, with its arguments: the
// page is chosen before anything else is read of its rows.
func RegisterSQL(q Sought) (string, db.Named, error) {
	s := begun()
	fits, err := s.fitting(&q)
	if err != nil {
		return "", nil, err
	}
	order, sorted := `st.application_id DESC`, `0`
	if c, ok := q.Columns.Find(q.Shape.Sort); ok {
		sorted = s.value(&q, c)
		if c.Type == register.Several {
			sorted = `array_to_string(` + sorted + `, ' ')`
		}
		order = `sorted NULLS LAST, st.application_id DESC`
		if q.Shape.Down {
			order = `sorted DESC NULLS LAST, st.application_id DESC`
		}
	}
	page := `SELECT st.entry_id, ` + sorted + ` AS sorted` + s.joined() + ` WHERE ` + fits + ` ORDER BY ` + order
	if q.Most > 0 {
		page += ` LIMIT @` + s.hold(q.Most) + ` OFFSET @` + s.hold(q.Offset)
	}
	// what is joined is kept small, since joins are what a plan takes its time for
	cells, facts := `'[]'::jsonb`, `'{}'::jsonb`
	var shown []string
	s.from = map[string]bool{"a": false, "p": false, "r": false, "k": false}
	for _, key := range q.Shape.Columns {
		switch c, ok := q.Columns.Find(key); {
		case ok && c.Fact() == "":
			shown = append(shown, s.expr(&q, c))
		case ok:
			facts = `COALESCE((SELECT k.facts FROM known k WHERE k.entry_id = st.entry_id), '{}')`
		}
	}
	lead := ``
	if s.from["p"] {
		lead = ` JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id`
	}
	if len(shown) > 0 {
		cells = `jsonb_build_array(` + strings.Join(shown, `, `) + `)`
	}
	return `WITH page AS MATERIALIZED (` + page + `)
	SELECT st.entry_id, st.application_id, st.round_id, a.ref, a.title, st.state, st.move, st.stage, r.key AS round_key, r.currency, ` + cells + ` AS cells, ` + facts + ` AS facts
	FROM page JOIN standing st ON st.entry_id = page.entry_id JOIN application a ON a.id = st.application_id JOIN round r ON r.id = st.round_id` + lead + `
	ORDER BY ` + strings.Replace(order, `sorted`, `page.sorted`, 1), s.args, nil
}

// Register reads a page of it.
func (d *Desk) Register(ctx context.Context, q Sought) (out []Row, err error) {
	sql, args, err := RegisterSQL(q)
	if err != nil {
		return nil, err
	}
	err = d.DB.SelectContext(ctx, &out, sql, args)
	return out, err
}

// RegisterRows reads all that fit, one after another; whoever calls closes them.
func (d *Desk) RegisterRows(ctx context.Context, q Sought) (*sqlx.Rows, error) {
	q.Most = 0
	sql, args, err := RegisterSQL(q)
	if err != nil {
		return nil, err
	}
	return d.DB.QueryxContext(ctx, sql, args)
}

// RegisterEntries are the entries of those that fit, in the order of the shape, up
// to so many.
func (d *Desk) RegisterEntries(ctx context.Context, q Sought, most int) (out []int64, err error) {
	q.Shape.Columns, q.Offset, q.Most = nil, 0, most
	rows, err := d.Register(ctx, q)
	for _, r := range rows {
		out = append(out, r.EntryID)
	}
	return out, err
}

// Totals of all rows that fit.
type Totals struct {
	N    int
	Sums map[string]string // by column: a sum, or of a share or score the mean; in plain digits
}

// TotalsSQL is the statement of Totals, with its arguments and the columns that
// are added up, in order.
func TotalsSQL(q Sought) (sql string, args db.Named, columns []register.Column, err error) {
	s := begun()
	sums := []string{}
	for _, key := range q.Shape.Columns {
		c, ok := q.Columns.Find(key)
		if !ok || !c.Type.Counts() {
			continue
		}
		columns = append(columns, c)
		if v := s.value(&q, c); c.Once {
			sums = append(sums, `round(avg(`+v+`), 2)::text`)
		} else {
			sums = append(sums, `sum(`+v+`)::text`)
		}
	}
	fits, err := s.fitting(&q)
	if err != nil {
		return "", nil, nil, err
	}
	list := `ARRAY[]::text[]`
	if len(sums) > 0 {
		list = `ARRAY[` + strings.Join(sums, `, `) + `]`
	}
	return `SELECT count(*) AS n, to_json(` + list + `) AS sums` + s.joined() + ` WHERE ` + fits, s.args, columns, nil
}

// RegisterTotals adds up what fits.
func (d *Desk) RegisterTotals(ctx context.Context, q Sought) (t Totals, err error) {
	sql, args, columns, err := TotalsSQL(q)
	if err != nil {
		return t, err
	}
	var row struct {
		N    int
		Sums json.RawMessage
	}
	if err := d.DB.GetContext(ctx, &row, sql, args); err != nil {
		return t, err
	}
	var sums []*string
	if err := json.Unmarshal(row.Sums, &sums); err != nil {
		return t, err
	}
	t.N, t.Sums = row.N, map[string]string{}
	for i, c := range columns {
		if sums[i] != nil {
			t.Sums[c.Key] = *sums[i]
		}
	}
	return t, nil
}

// CellsOf are a row's cells in the order of the shape's columns.
func CellsOf(q Sought, row Row) ([]register.Cell, error) {
	var cells []json.RawMessage
	if err := json.Unmarshal(row.Cells, &cells); err != nil {
		return nil, err
	}
	facts := map[string]json.RawMessage{}
	if err := json.Unmarshal(row.Facts, &facts); err != nil {
		return nil, err
	}
	var out []register.Cell
	for _, key := range q.Shape.Columns {
		c, ok := q.Columns.Find(key)
		if !ok {
			continue
		}
		if name := c.Fact(); name != "" {
			out = append(out, c.ReadCell(facts[name]))
			continue
		}
		out = append(out, c.ReadCell(cells[0]))
		cells = cells[1:]
	}
	return out, nil
}

// LabelsSQL steps from one label to the next by index, however many cases have it.
const LabelsSQL = `WITH RECURSIVE step AS (
	  (SELECT name FROM label ORDER BY name LIMIT 1)
	  UNION ALL SELECT (SELECT x.name FROM label x WHERE x.name > s.name ORDER BY x.name LIMIT 1) FROM step s WHERE s.name IS NOT NULL)
	SELECT name FROM step WHERE name IS NOT NULL LIMIT 200`

// Labels lists those in use, in the order of the alphabet, up to 200.
func (d *Desk) Labels(ctx context.Context) (out []string, err error) {
	err = d.DB.SelectContext(ctx, &out, LabelsSQL)
	return out, err
}

// Lacking lists what stands in the way of a round's drafts, or of all, by code.
func (d *Desk) Lacking(ctx context.Context, round int64) (out []form.Code, err error) {
	err = d.DB.SelectContext(ctx, &out, `
		SELECT DISTINCT unnest(obstacles) AS code FROM standing WHERE latest AND ($1 = 0 OR round_id = $1) AND state = ANY($2) ORDER BY code LIMIT 100`,
		round, lifecycle.With(lifecycle.Open))
	return out, err
}
