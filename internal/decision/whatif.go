package decision

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/register"
	"ulvant/core/whatif"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// Tried are the rules of a what-if as they are kept: by keys, not by places.
type Tried struct {
	Score    string              `json:"score,omitempty"` // "" as the round says, else mean or calibrated
	Past     bool                `json:"past,omitempty"`
	Part     bool                `json:"part,omitempty"`
	Cut      int                 `json:"cut,omitempty"`  // percent
	Down     int                 `json:"down,omitempty"` // percent of what is asked that is of use, where nothing else says; 0: all of it
	Reserves int                 `json:"reserves"`
	Quotas   []TriedQuota        `json:"quotas,omitempty"`
	Held     map[int64]TriedHeld `json:"held,omitempty"` // by entry
}

// TriedQuota bounds what those with one answer get together.
type TriedQuota struct {
	Field form.Key `json:"field"` // a coded question, or the one lists show
	Value string   `json:"value"` // key of the answer, or the place
	Money bool     `json:"money,omitempty"`
	Least int      `json:"least,omitempty"` // percent of all funds together where it is of money, else cases
	Most  *int     `json:"most,omitempty"`
}

// TriedHeld is a hand on a case.
type TriedHeld struct {
	How string `json:"how"`           // give, reserve or no
	Sum int64  `json:"sum,omitempty"` // minor units; 0: what it asks
}

// The hands that can be laid on a case.
const (
	HoldGive    = "give"
	HoldReserve = "reserve"
	HoldNo      = "no"
)

// Limits of what-ifs.
const (
	mostWhatIfs = 40 // of one stage
	mostQuotas  = 20
)

// reservesOffered stand in reserve where nobody says otherwise.
const reservesOffered = 3

// AsItIs are the rules of the round itself.
func AsItIs() Tried { return Tried{Reserves: reservesOffered} }

// Fault says what of the rules cannot be tried.
func (t Tried) Fault(f *form.Form) error {
	switch {
	case t.Cut < 0 || t.Cut > 90:
		return refusal.In("cut", "Take off 0 to 90 percent.")
	case t.Down < 0 || t.Down > 100:
		return refusal.In("down", "A part is 0 to 100 percent of what is asked.")
	case t.Reserves < 0 || t.Reserves > 1000:
		return refusal.In("reserves", "Have 0 to 1,000 in reserve.")
	case len(t.Quotas) > mostQuotas:
		return refusal.In("quota", "At most 20 quotas can be tried at once.")
	}
	for _, q := range t.Quotas {
		if !slices.ContainsFunc(f.Coded(), func(o form.Option) bool { return o.Key == q.Field }) {
			return refusal.In("quota", "A quota goes by a question with a short list of answers.")
		}
		if q.Least < 0 || q.Most != nil && (*q.Most < 0 || *q.Most < q.Least) || q.Money && (q.Least > 100 ||
			q.Most != nil && *q.Most > 100) {
			return refusal.In("quota", "A quota’s least is not above its most; shares of the money go from 0 to 100 percent.")
		}
	}
	return nil
}

// WhatIf is a named set of rules.
type WhatIf struct {
	ID      int64
	Name    string
	Tried   Tried  `db:"-"`
	Raw     []byte `db:"rules"`
	Version int
	At      time.Time
	By      string
	Adopted *time.Time `db:"adopted_at"`
}

// Trial is an order worked out under rules.
type Trial struct {
	Table  Table
	Cases  []whatif.Case
	Rules  whatif.Rules
	Result *whatif.Result
	Funds  []form.Fund
	Quotas []TriedQuota // of Rules, place by place
	Fields []form.Key   // of Groups, place by place
}

// WhatIfs of a stage, the oldest first.
func (s *Store) WhatIfs(ctx context.Context, q db.Querier, round int64, stage form.Key) (out []WhatIf, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT w.id, w.name, w.rules, w.version, w.at, p.name AS by, w.adopted_at FROM what_if w JOIN account p ON p.id = w.by_id
		WHERE w.round_id = $1 AND w.stage = $2 ORDER BY w.id`, round, stage)
	for i := range out {
		if err := json.Unmarshal(out[i].Raw, &out[i].Tried); err != nil {
			return nil, err
		}
	}
	return out, err
}

// ErrNoWhatIf: it is not there.
var ErrNoWhatIf = refusal.Missing("this what-if is not there any more")

// KeepWhatIf keeps rules under a name; id 0 makes a new one, else version is the one
// that was looked at.
func (s *Store) KeepWhatIf(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, stage form.Key, id int64,
	version int,
	name string, t Tried) (int64, error) {
	name = strings.TrimSpace(name)
	if name == "" || len(name) > 100 {
		return 0, refusal.In("name", "Give the what-if a name of up to 100 characters.")
	}
	if err := t.Fault(f); err != nil {
		return 0, err
	}
	raw, err := json.Marshal(t)
	if err != nil {
		return 0, err
	}
	list, err := s.WhatIfs(ctx, tx, r.ID, stage)
	if err != nil {
		return 0, err
	}
	for _, w := range list {
		if w.Name != name || w.ID == id {
			continue
		}
		same, err := json.Marshal(w.Tried)
		if err != nil {
			return 0, err
		}
		if id == 0 && bytes.Equal(same, raw) { // the button was pressed twice
			return w.ID, nil
		}
		return 0, refusal.In("name", "There is a what-if “"+name+"” already. Choose another name.")
	}
	if id == 0 {
		if len(list) >= mostWhatIfs {
			return 0, refusal.In("name", "There are 40 what-ifs already. Take one away first.")
		}
		err = tx.GetContext(ctx, &id, `
			INSERT INTO what_if (round_id, stage, name, rules, at, by_id) VALUES ($1, $2, $3, $4, $5, $6) RETURNING id`, r.ID, stage, name,
			string(raw), tx.At, tx.By.ID)
		return id, err
	}
	res, err := tx.ExecContext(ctx, `
		UPDATE what_if SET name = $3, rules = $4, at = $5, by_id = $6, version = version + 1 WHERE id = $1 AND round_id = $2 AND version = $7`,
		id, r.ID, name, string(raw), tx.At, tx.By.ID, version)
	if err != nil {
		return 0, err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return 0, refusal.New("this what-if was changed in another window").But("look at it again")
	}
	return id, nil
}

// DropWhatIf takes one away.
func (s *Store) DropWhatIf(ctx context.Context, tx *db.Tx, r round.Round, id int64) error {
	res, err := tx.ExecContext(ctx, `DELETE FROM what_if WHERE id = $1 AND round_id = $2`, id, r.ID)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNoWhatIf
	}
	return nil
}

// Try works an order out under rules. What is decided already stays as it is recorded.
func (s *Store) Try(ctx context.Context, q db.Querier, r round.Round, f *form.Form, stage form.Key, t Tried) (*Trial,
	error) {
	score := f.Design.Score
	switch t.Score {
	case "mean":
		score = form.ByMean
	case string(form.ByCalibrated):
		score = form.ByCalibrated
	}
	table, err := s.OrderBy(ctx, q, r, f, stage, score)
	if err != nil {
		return nil, err
	}
	return s.trial(ctx, q, f, table, t)
}

func (s *Store) trial(ctx context.Context, q db.Querier, f *form.Form, table Table, t Tried) (*Trial, error) {
	out := &Trial{Table: table, Funds: f.Design.Funds(), Quotas: t.Quotas}
	for _, x := range t.Quotas {
		if !slices.Contains(out.Fields, x.Field) {
			out.Fields = append(out.Fields, x.Field)
		}
	}
	told, err := s.told(ctx, q, f, table, out.Fields)
	if err != nil {
		return nil, err
	}
	out.Rules = whatif.Rules{Past: t.Past, Part: t.Part, Cut: t.Cut * 10, Reserves: t.Reserves,
		Held: map[int]whatif.Held{}}
	var all int64
	for _, x := range out.Funds {
		out.Rules.Funds = append(out.Rules.Funds, x.Money)
		all += x.Money
	}
	values := map[form.Key]map[string]int{}
	number := func(field form.Key, value string) int {
		if value == "" {
			return whatif.None
		}
		if values[field] == nil {
			values[field] = map[string]int{}
		}
		if _, ok := values[field][value]; !ok {
			values[field][value] = len(values[field])
		}
		return values[field][value]
	}
	for i, row := range table.Rows {
		c := whatif.Case{Known: row.Score.Known(), Worth: int64(row.Score.Float()*100 + 0.5), Asked: row.Asked0(),
			Useful: row.Asked0()}
		if t.Down > 0 {
			c.Useful = c.Asked * int64(t.Down) / 100
		}
		if v := told[i].useful; v != nil && *v > 0 {
			c.Useful = min(*v, c.Asked)
		}
		for k, x := range out.Funds {
			if x.Stream != "" && string(x.Stream) == told[i].stream {
				c.Fund = k
			}
		}
		for k, field := range out.Fields {
			c.Groups = append(c.Groups, number(field, told[i].values[k]))
		}
		out.Cases = append(out.Cases, c)
		switch h, ok := t.Held[row.EntryID]; {
		case row.State.Is(lifecycle.Gives) && row.Amount != nil:
			out.Rules.Held[i] = whatif.Held{Give: *row.Amount > 0, Sum: *row.Amount}
		case row.State.Decided():
			out.Rules.Held[i] = whatif.Held{Reserve: row.State.Is(lifecycle.Waits)}
		case ok:
			out.Rules.Held[i] = whatif.Held{Give: h.How == HoldGive, Sum: h.Sum, Reserve: h.How == HoldReserve}
		}
	}
	for _, x := range t.Quotas {
		bound := whatif.Quota{Field: slices.Index(out.Fields, x.Field), Value: number(x.Field, x.Value), Money: x.Money,
			Least: int64(x.Least), Most: -1}
		if x.Most != nil {
			bound.Most = int64(*x.Most)
		}
		if x.Money {
			bound.Least = bound.Least * all / 100
			if bound.Most >= 0 {
				bound.Most = bound.Most * all / 100
			}
		}
		out.Rules.Quotas = append(out.Rules.Quotas, bound)
	}
	out.Result = whatif.Work(out.Cases, out.Rules)
	return out, nil
}

// toldOf a case: its stream, the least of use to it, and its values of some fields.
type toldOf struct {
	stream string
	useful *int64
	values []string
}

// told is what what-ifs look at of the cases of an order, place by place.
func (s *Store) told(ctx context.Context, q db.Querier, f *form.Form, t Table, fields []form.Key) ([]toldOf, error) {
	out := make([]toldOf, len(t.Rows))
	entries := make([]int64, len(t.Rows))
	at := map[int64]int{}
	for i, row := range t.Rows {
		entries[i], at[row.EntryID] = row.EntryID, i
		out[i].values = make([]string, len(fields))
		for k, field := range fields {
			if field == f.Design.Listed.Question {
				out[i].values[k] = row.Place
			}
		}
	}
	stream := form.Key("")
	if q := f.Supplying(condition.Stream); q != nil {
		stream = q.Key
	}
	asked := append([]form.Key{stream, f.Design.Useful}, fields...)
	names, some := make([]string, len(asked)), false
	for i, k := range asked {
		if k == "" || k == f.Design.Listed.Question { // not asked, or known from the lists
			continue
		}
		names[i], some = register.FactOf(k), true
	}
	if !some {
		s.byPlace(f, t, out, stream)
		return out, nil
	}
	var rows []struct {
		Entry int64 `db:"entry_id"`
		N     int
		Value string
	}
	if err := q.SelectContext(ctx, &rows, `
		SELECT k.entry_id, n.at::int AS n, k.facts->>n.name AS value FROM known k, unnest($2::text[]) WITH ORDINALITY AS n(name, at)
		WHERE k.entry_id = ANY($1) AND n.name <> '' AND k.facts->>n.name IS NOT NULL`, entries, names); err != nil {
		return nil, err
	}
	for _, row := range rows {
		o := &out[at[row.Entry]]
		switch k := row.N - 1; {
		case k == 0 && stream != "":
			o.stream = row.Value
		case k == 1 && f.Design.Useful != "":
			if v, err := strconv.ParseInt(row.Value, 10, 64); err == nil {
				o.useful = &v
			}
		case k >= 2 && asked[k] != f.Design.Listed.Question:
			o.values[k-2] = row.Value
		}
	}
	s.byPlace(f, t, out, stream)
	return out, nil
}

// byPlace is the stream of cases that lists show by its label.
func (s *Store) byPlace(f *form.Form, t Table, out []toldOf, stream form.Key) {
	if stream == "" || stream != f.Design.Listed.Question {
		return
	}
	for i, row := range t.Rows {
		for _, x := range f.Design.Streams {
			if x.Label == row.Place {
				out[i].stream = string(x.Key)
			}
		}
	}
}

// streams of some entries, by their keys; none where nothing tells them.
func (s *Store) streams(ctx context.Context, q db.Querier, f *form.Form, entries []int64) (map[int64]string, error) {
	out := map[int64]string{}
	if len(f.Design.Funds()) < 2 || f.Supplying(condition.Stream) == nil {
		return out, nil
	}
	t := Table{}
	for _, e := range entries {
		t.Rows = append(t.Rows, Row{EntryID: e})
	}
	if f.Supplying(condition.Stream).Key == f.Design.Listed.Question {
		var places []struct {
			EntryID int64 `db:"entry_id"`
			Place   string
		}
		if err := q.SelectContext(ctx, &places, `SELECT entry_id, place FROM standing WHERE entry_id = ANY($1)`,
			entries); err != nil {
			return nil, err
		}
		by := map[int64]string{}
		for _, p := range places {
			by[p.EntryID] = p.Place
		}
		for i := range t.Rows {
			t.Rows[i].Place = by[t.Rows[i].EntryID]
		}
	}
	told, err := s.told(ctx, q, f, t, nil)
	for i, x := range told {
		out[entries[i]] = x.stream
	}
	return out, err
}

// Best is the set that is worth most under the rules of a trial.
func (t *Trial) Best() *whatif.Best { return whatif.BestSet(t.Cases, t.Rules, bestNodes) }

// bestNodes bounds the search; 2,000 cases and ten quotas take a few hundred.
const bestNodes = 20_000

// Adopt takes the outcomes of a what-if over into the decisions, where they wait to be
// recorded: what is decided already stays, and so do cases that nobody marked.
func (s *Store) Adopt(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, stage form.Key, id int64) (n int,
	err error) {
	var w WhatIf
	err = tx.GetContext(ctx, &w,
		`SELECT id, name, rules, version, at, adopted_at, '' AS by FROM what_if WHERE id = $1 AND round_id = $2 AND stage = $3 FOR UPDATE`,
		id, r.ID, stage)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, ErrNoWhatIf
	}
	if err != nil {
		return 0, err
	}
	if err := json.Unmarshal(w.Raw, &w.Tried); err != nil {
		return 0, err
	}
	t, err := s.Try(ctx, tx, r, f, stage, w.Tried)
	if err != nil {
		return 0, err
	}
	var choices []Choice
	outcomes := lifecycle.Outcomes(t.Table.Last)
	for i, row := range t.Table.Rows {
		if row.State.Decided() || !row.Score.Known() {
			continue
		}
		c := Choice{EntryID: row.EntryID, Version: row.Version, Outcome: lifecycle.NotAwarded}
		switch {
		case t.Result.Gives[i] > 0:
			c.Outcome, c.Amount = outcomes[0], t.Result.Gives[i]
		case t.Result.Reserve[i] > 0:
			c.Outcome = lifecycle.Reserve
		}
		choices = append(choices, c)
	}
	if err := s.Choose(ctx, tx, r, choices); err != nil {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE what_if SET adopted_at = $2 WHERE id = $1`, id, tx.At); err != nil {
		return 0, err
	}
	return len(choices), trail.Write(ctx, tx, "what-if-adopted", 0, r.ID, map[string]string{"name": w.Name})
}
