package award

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/offer"
	"ulvant/core/placing"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Rules are what a placing goes by, where it is not as the design says.
type Rules struct {
	By    string `json:"by,omitempty"`    // "": each award’s own weights; ByNeed, ByMerit
	Most  *int   `json:"most,omitempty"`  // awards of one person; 0: any number
	Cap   string `json:"cap,omitempty"`   // "": as the design says; NoCap: none
	Reach bool   `json:"reach,omitempty"` // as many people as can be first, then worth
}

// What a placing can go by instead.
const (
	ByNeed  = "need"
	ByMerit = "merit"
	NoCap   = "none"
)

// reach is more than any pair is worth: one person more goes before all else.
const reach = 1_000_000 * placing.Point

// Fault says what of the rules cannot be.
func (u Rules) Fault() error {
	switch {
	case u.By != "" && u.By != ByNeed && u.By != ByMerit:
		return refusal.In("by", "Awards are placed by their own weights, by need or by merit.")
	case u.Most != nil && (*u.Most < 0 || *u.Most > 100):
		return refusal.In("most", "A person has 1 to 100 awards at most; leave it empty for any number.")
	case u.Cap != "" && u.Cap != NoCap:
		return refusal.In("cap", "The money of a person is held as the design says, or not at all.")
	case u.Reach && (u.Most == nil || *u.Most != 1):
		return refusal.In("most", "As many people as can be have one award each: set the most to 1.")
	}
	return nil
}

// Placing is a named set of rules, with what came of it.
type Placing struct {
	ID     int64
	Name   string
	Rules  Rules  `db:"-"`
	Raw    []byte `db:"rules"`
	At     time.Time
	By     string
	Solved int // version of the candidacy it was worked out for
	Worth  int64
	Bound  int64
	Prices pq.Float64Array
	Given  int   // places
	People int   // who are given some
	Money  int64 // in all
}

// Proved reports that no other placing under its rules is worth more.
func (p Placing) Proved() bool { return p.Bound <= p.Worth }

// Gap is by how much another could be worth more at most, in hundredths of a percent,
// rounded up.
func (p Placing) Gap() int64 {
	if p.Proved() || p.Worth <= 0 {
		return 0
	}
	return ((p.Bound-p.Worth)*10_000 + p.Worth - 1) / p.Worth
}

// Limits of placings.
const mostPlacings = 20 // of one round

// ErrNoPlacing: there is none such.
var ErrNoPlacing = refusal.Missing("there is no such placing")

// Placings of a round, the oldest first.
func (s *Store) Placings(ctx context.Context, q db.Querier, round int64) (out []Placing, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT x.id, x.name, x.rules, x.at, p.name AS by, x.solved, x.worth, x.bound, x.prices, COALESCE(g.given, 0) AS given,
		       COALESCE(g.people, 0) AS people, COALESCE(g.money, 0) AS money
		FROM award_placing x JOIN account p ON p.id = x.by_id
		LEFT JOIN LATERAL (SELECT count(*) AS given, count(DISTINCT entry_id) AS people, sum(amount)::bigint AS money FROM placed WHERE placing_id = x.id) g ON true
		WHERE x.round_id = $1 ORDER BY x.id`, round)
	for i := range out {
		if err == nil {
			err = json.Unmarshal(out[i].Raw, &out[i].Rules)
		}
	}
	return out, err
}

// usual are the placings there are from the beginning.
func (s *Store) usual(ctx context.Context, tx *db.Tx, r round.Round) error {
	one := 1
	for _, p := range []struct {
		name  string
		rules Rules
	}{{"Best by award", Rules{}}, {"Need first", Rules{By: ByNeed}}, {"At most one each",
		Rules{Most: &one, Reach: true}}} {
		raw, err := json.Marshal(p.rules)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO award_placing (round_id, name, rules, at, by_id) SELECT $1, $2, $3::jsonb, $4, $5
			WHERE NOT EXISTS (SELECT FROM award_placing WHERE round_id = $1 AND name = $2)`, r.ID, p.name, string(raw), tx.At, tx.By.ID); err != nil {
			return err
		}
	}
	return nil
}

// Keep a placing under a name, and work it out; with 0 it is a new one.
func (s *Store) Keep(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, id int64, name string,
	u Rules) (int64, error) {
	if name = strings.TrimSpace(name); name == "" || len(name) > 60 {
		return 0, refusal.In("name", "Give the what-if a name of up to 60 characters.")
	}
	if err := u.Fault(); err != nil {
		return 0, err
	}
	raw, err := json.Marshal(u)
	if err != nil {
		return 0, err
	}
	if id == 0 {
		var n int
		if err := tx.GetContext(ctx, &n, `SELECT count(*) FROM award_placing WHERE round_id = $1`, r.ID); err != nil {
			return 0, err
		}
		if n >= mostPlacings {
			return 0, refusal.Unfit("there are 20 what-ifs already").But("take one away first")
		}
		err = tx.GetContext(ctx, &id, `INSERT INTO award_placing (round_id, name, rules, at, by_id) VALUES ($1, $2, $3::jsonb, $4, $5)
			ON CONFLICT (round_id, name) DO UPDATE SET name = $2 WHERE award_placing.rules = $3::jsonb RETURNING id`, r.ID, name, string(raw), tx.At,
			tx.By.ID) // the button may be pressed twice
	} else {
		err = tx.GetContext(ctx, &id, `UPDATE award_placing SET name = $3, rules = $4::jsonb, solved = 0 WHERE id = $1 AND round_id = $2 AND
			NOT EXISTS (SELECT FROM award_placing WHERE round_id = $2 AND name = $3 AND id <> $1) RETURNING id`, id, r.ID, name, string(raw))
	}
	if errors.Is(err, sql.ErrNoRows) {
		return 0, refusal.In("name", "There is a what-if “"+name+"” already. Give this one another name.")
	}
	if err != nil {
		return 0, err
	}
	return id, s.Settle(ctx, tx, r, f)
}

// Drop takes a placing away.
func (s *Store) Drop(ctx context.Context, tx *db.Tx, r round.Round, id int64) error {
	res, err := tx.ExecContext(ctx, `DELETE FROM award_placing WHERE id = $1 AND round_id = $2`, id, r.ID)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNoPlacing
	}
	return nil
}

// pairRow is a pair that could be given, as the problem reads it.
type pairRow struct {
	Entry       int64
	Award       form.Key
	Need, Merit int
	Cap         int64
	Wish        int
	First       bool
	Hand        *bool
	Recorded    *int64 // what they were recorded as given of it
}

// problem is what is to be placed, with the pairs it is made of.
type problem struct {
	*placing.Problem
	rows    []pairRow // as Pairs
	entries []int64   // of People
}

// problemOf a round under rules. Whoever was recorded as given an award keeps it, unless
// somebody lays a hand on that; what is still open goes to whoever it serves best.
func (s *Store) problemOf(ctx context.Context, q db.Querier, r round.Round, f *form.Form, u Rules) (*problem, error) {
	var rows []pairRow
	if err := q.SelectContext(ctx, &rows, `
		SELECT x.entry_id AS entry, x.award, COALESCE(x.need, c.need) AS need, COALESCE(x.merit, c.merit) AS merit, c.cap, x.wish, x.first,
		       COALESCE(h.give, CASE WHEN o.back THEN false WHEN w.award IS NOT NULL THEN true END) AS hand,
		       w.amount AS recorded
		FROM fit x JOIN candidate c ON c.entry_id = x.entry_id JOIN entry e ON e.id = x.entry_id
		LEFT JOIN award_ruling g ON g.entry_id = x.entry_id AND g.award = x.award
		LEFT JOIN award_hand h ON h.entry_id = x.entry_id AND h.award = x.award
		LEFT JOIN LATERAL (SELECT act_id FROM decision WHERE entry_id = x.entry_id ORDER BY act_id DESC LIMIT 1) d ON true
		LEFT JOIN awarded w ON w.act_id = d.act_id AND w.entry_id = x.entry_id AND w.award = x.award AND NOT EXISTS (SELECT FROM came_back b WHERE b.entry_id = w.entry_id AND b.act_id = w.act_id AND b.award = w.award)
		LEFT JOIN LATERAL (SELECT true AS back FROM offer WHERE entry_id = x.entry_id AND award = x.award AND answer = ANY($3) LIMIT 1) o ON true
		WHERE x.round_id = $1 AND COALESCE(g.fits, x.stand = 'fits') AND e.state <> ALL($2) ORDER BY x.entry_id, x.award`, r.ID,
		lifecycle.With(lifecycle.Gone), offer.Back()); err != nil {
		return nil, err
	}
	rules := form.Placing{}
	if f.Design.Placing != nil {
		rules = *f.Design.Placing
	}
	if u.Most != nil {
		rules.Most = *u.Most
	}
	p := &problem{Problem: &placing.Problem{Fund: f.Design.Fund}}
	place, groups := map[form.Key]int{}, map[string]int{}
	for i, a := range f.Design.Awards {
		place[a.Key] = i
		p.Awards = append(p.Awards, placing.Award{Places: a.Places, Least: a.LeastSum(), Most: a.Purse})
		if a.Apart == "" {
			continue
		}
		k, ok := groups[a.Apart]
		if !ok {
			k = len(p.Groups)
			groups[a.Apart] = k
			p.Groups = append(p.Groups, placing.Group{Most: 1})
		}
		p.Groups[k].Awards = append(p.Groups[k].Awards, i)
	}
	for _, row := range rows {
		a, there := place[row.Award]
		if !there || row.Merit < 10*f.Design.Awards[a].LeastMerit {
			continue
		}
		if n := len(p.entries); n == 0 || p.entries[n-1] != row.Entry {
			who := placing.Person{Awards: rules.Most, Money: row.Cap}
			if u.Cap == NoCap {
				who.Money = 0
			}
			p.entries, p.People = append(p.entries, row.Entry), append(p.People, who)
		}
		byNeed := f.Design.Awards[a].NeedShare()
		switch u.By {
		case ByNeed:
			byNeed = 100
		case ByMerit:
			byNeed = 0
		}
		pair := placing.Pair{Person: len(p.People) - 1, Award: a,
			Worth: placing.Standing{Need: row.Need, Merit: row.Merit, Wish: row.Wish, First: row.First}.Worth(byNeed,
				rules.Wish)}
		if rules.Order {
			pair.Worth = placing.InOrder(pair.Worth, a, len(f.Design.Awards))
		}
		if u.Reach {
			pair.Worth += reach
		}
		if row.Hand != nil {
			pair.Held, pair.Barred = *row.Hand, !*row.Hand
		}
		p.Pairs, p.rows = append(p.Pairs, pair), append(p.rows, row)
	}
	return p, nil
}

// tooMany says what of what is held by hand cannot be.
func (p *problem) tooMany(f *form.Form, err error) error {
	var t *placing.TooMany
	if !errors.As(err, &t) {
		return err
	}
	switch {
	case t.Award >= 0:
		return refusal.Unfit("“" + f.Design.Awards[t.Award].Label +
			"” is held by hand for more people than it has places").But("let one of them go")
	case t.Person >= 0:
		return refusal.Unfit("one person is held by hand to more awards, or more money, than the rules of this placing let one person have").But(
			"let one of them go, or change the rules")
	}
	return refusal.Unfit("what is held by hand comes to more than the fund").But("let one of them go")
}

// Fault says why a placing cannot be worked out for what is held by hand now; nil when
// it can.
func (s *Store) Fault(ctx context.Context, q db.Querier, r round.Round, f *form.Form, x Placing) error {
	p, err := s.problemOf(ctx, q, r, f, x.Rules)
	if err != nil {
		return err
	}
	if err := p.Check(); err != nil {
		return p.tooMany(f, err)
	}
	return nil
}

// Solve works one placing out and keeps what comes of it.
func (s *Store) Solve(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, id int64) error {
	c, err := s.Candidacy(ctx, tx, r.ID)
	if err != nil {
		return err
	}
	var raw []byte
	err = tx.GetContext(ctx, &raw, `SELECT rules FROM award_placing WHERE id = $1 AND round_id = $2 FOR UPDATE`, id, r.ID)
	if errors.Is(err, sql.ErrNoRows) {
		return ErrNoPlacing
	}
	if err != nil {
		return err
	}
	var u Rules
	if err := json.Unmarshal(raw, &u); err != nil {
		return err
	}
	p, err := s.problemOf(ctx, tx, r, f, u)
	if err != nil {
		return err
	}
	if err := p.Check(); err != nil {
		return p.tooMany(f, err)
	}
	got := placing.Solve(p.Problem, placing.Usual)
	return s.keep(ctx, tx, id, c.Version, p, got)
}

func (s *Store) keep(ctx context.Context, tx *db.Tx, id int64, version int, p *problem, got *placing.Placing) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM placed WHERE placing_id = $1`, id); err != nil {
		return err
	}
	sums := placing.Sums(p.Problem, got.Given)
	entries, awards := make([]int64, len(got.Given)), make([]string, len(got.Given))
	for k, x := range got.Given {
		entries[k], awards[k] = p.rows[x].Entry, string(p.rows[x].Award)
		if was := p.rows[x].Recorded; was != nil { // what was decided is not poured out anew
			sums[k] = *was
		}
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO placed (placing_id, entry_id, award, amount)
		SELECT $1, n.entry, n.award, n.amount FROM unnest($2::bigint[], $3::text[], $4::bigint[]) AS n(entry, award, amount)`, id, entries,
		pq.StringArray(awards), sums); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx,
		`UPDATE award_placing SET solved = $2, worth = $3, bound = $4, prices = $5, at = $6 WHERE id = $1`, id, version,
		got.Worth,
		got.Bound, pq.Float64Array(got.Prices), tx.At)
	return err
}

// SolveAll works every placing out that is not worked out for what is known now.
func (s *Store) SolveAll(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form) error {
	c, err := s.Candidacy(ctx, tx, r.ID)
	if err != nil {
		return err
	}
	var ids []int64
	if err := tx.SelectContext(ctx, &ids, `SELECT id FROM award_placing WHERE round_id = $1 AND solved <> $2 ORDER BY id`,
		r.ID, c.Version); err != nil {
		return err
	}
	for _, id := range ids {
		err := s.Solve(ctx, tx, r, f, id)
		if _, ok := refusal.Of(err); err != nil && !ok { // what is held does not go with its rules: it stays as it was, and says so
			return err
		}
	}
	return nil
}
