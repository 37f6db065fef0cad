package award

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"time"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/offer"
	"ulvant/core/placing"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Line is one award of the list: how many of its places a placing gives.
type Line struct {
	form.Award
	Count
	Given int
	Money int64
	Open  int // that a person must say and nobody said
	Held  int // by hand
}

// List of the awards of a round under a placing, in the order of the design.
func (s *Store) List(ctx context.Context, q db.Querier, r round.Round, f *form.Form, placingID int64) ([]Line, error) {
	counts, err := s.Counts(ctx, q, r.ID)
	if err != nil {
		return nil, err
	}
	var rows []struct {
		Award       form.Key
		Given, Open int
		Held        int
		Money       int64
	}
	if err := q.SelectContext(ctx, &rows, `
		SELECT award, sum(given)::int AS given, sum(money)::bigint AS money, sum(open)::int AS open, sum(held)::int AS held FROM (
		  SELECT award, count(*) AS given, sum(amount)::bigint AS money, 0 AS open, 0 AS held FROM placed WHERE placing_id = $2 GROUP BY award
		  UNION ALL
		  SELECT x.award, 0, 0, count(*), 0 FROM fit x LEFT JOIN award_ruling g ON g.entry_id = x.entry_id AND g.award = x.award
		  WHERE x.round_id = $1 AND x.stand = 'must say' AND g.entry_id IS NULL GROUP BY x.award
		  UNION ALL
		  SELECT award, 0, 0, 0, count(*) FROM award_hand WHERE round_id = $1 AND give GROUP BY award) n GROUP BY award`, r.ID, placingID); err != nil {
		return nil, err
	}
	at := map[form.Key]int{}
	out := make([]Line, len(f.Design.Awards))
	for i, a := range f.Design.Awards {
		at[a.Key] = i
		out[i] = Line{Award: a, Count: counts[a.Key]}
	}
	for _, x := range rows {
		if i, ok := at[x.Award]; ok {
			out[i].Given, out[i].Money, out[i].Open, out[i].Held = x.Given, x.Money, x.Open, x.Held
		}
	}
	return out, nil
}

// Pair is a person and an award, with all that is known of the two together.
type Pair struct {
	Entry       int64
	Award       form.Key
	Ref         string
	Title       string
	Lead        string
	Stand       form.Stand
	Misses      *int
	Need, Merit int
	Wish        int
	First       bool
	Raw         []byte `db:"said"`
	Said        []Said `db:"-"`
	Ruled       *bool
	RuledWhy    *string    `db:"ruled_why"`
	RuledBy     *string    `db:"ruled_by"`
	RuledAt     *time.Time `db:"ruled_at"`
	Hand        *bool
	HandWhy     *string       `db:"hand_why"`
	HandBy      *string       `db:"hand_by"`
	Back        *offer.Answer // they gave it back, or let it lapse; nil: neither
	Given       *int64        // what the placing gives; nil: it does not
	Worth       int64         `db:"-"`
}

// Meets reports a pair that can be given.
func (p Pair) Meets() bool {
	if p.Ruled != nil {
		return *p.Ruled
	}
	return p.Stand == form.Fits
}

// MustSay reports a pair of which a person must say whether the criteria are met, and
// nobody has.
func (p Pair) MustSay() bool { return p.Ruled == nil && p.Stand == form.MustSay }

// Nearly reports a pair that misses one criterion.
func (p Pair) Nearly() bool { return p.Ruled == nil && p.Stand == form.Nearly }

const selectPair = `
	SELECT x.entry_id AS entry, x.award, a.ref, a.title, p.name AS lead, x.stand, x.misses, COALESCE(x.need, c.need) AS need, COALESCE(x.merit, c.merit) AS merit, x.wish, x.first, x.said,
	       g.fits AS ruled, g.why AS ruled_why, gp.name AS ruled_by, g.at AS ruled_at, h.give AS hand, h.why AS hand_why, hp.name AS hand_by,
	       pl.amount AS given,
	       (SELECT o.answer FROM offer o WHERE o.entry_id = x.entry_id AND o.award = x.award AND o.answer = ANY(@back) ORDER BY o.id DESC LIMIT 1) AS back
	FROM fit x JOIN candidate c ON c.entry_id = x.entry_id JOIN entry e ON e.id = x.entry_id JOIN application a ON a.id = e.application_id
	JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id
	LEFT JOIN award_ruling g ON g.entry_id = x.entry_id AND g.award = x.award LEFT JOIN account gp ON gp.id = g.by_id
	LEFT JOIN award_hand h ON h.entry_id = x.entry_id AND h.award = x.award LEFT JOIN account hp ON hp.id = h.by_id
	LEFT JOIN placed pl ON pl.placing_id = @placing AND pl.entry_id = x.entry_id AND pl.award = x.award
	WHERE x.round_id = @round AND e.state <> ALL(@gone) `

// worthOf a pair under rules, as it is placed.
func worthOf(f *form.Form, u Rules, p Pair) int64 {
	a, ok := f.Design.Award(p.Award)
	if !ok {
		return 0
	}
	byNeed, wishes := a.NeedShare(), 0
	if f.Design.Placing != nil {
		wishes = f.Design.Placing.Wish
	}
	switch u.By {
	case ByNeed:
		byNeed = 100
	case ByMerit:
		byNeed = 0
	}
	return placing.Standing{Need: p.Need, Merit: p.Merit, Wish: p.Wish, First: p.First}.Worth(byNeed, wishes)
}

// ofAward are the keys of the pairs of one award, those first who are given it, then
// those who meet it by their worth, those of whom somebody must say, those who nearly do.
func (s *Store) ofAward(ctx context.Context, q db.Querier, r round.Round, f *form.Form, p Placing,
	award form.Key) ([]Pair, error) {
	var rows []Pair
	if err := q.SelectContext(ctx, &rows, `
		SELECT x.entry_id AS entry, x.award, x.stand, COALESCE(x.need, c.need) AS need, COALESCE(x.merit, c.merit) AS merit, x.wish, x.first, g.fits AS ruled, pl.amount AS given
		FROM fit x JOIN candidate c ON c.entry_id = x.entry_id JOIN entry e ON e.id = x.entry_id
		LEFT JOIN award_ruling g ON g.entry_id = x.entry_id AND g.award = x.award
		LEFT JOIN placed pl ON pl.placing_id = $1 AND pl.entry_id = x.entry_id AND pl.award = x.award
		WHERE x.round_id = $2 AND x.award = $3 AND e.state <> ALL($4)`, p.ID, r.ID, award, lifecycle.With(lifecycle.Gone)); err != nil {
		return nil, err
	}
	for i := range rows {
		rows[i].Worth = worthOf(f, p.Rules, rows[i])
	}
	rank := func(p Pair) int {
		switch {
		case p.Given != nil:
			return 0
		case p.MustSay():
			return 1
		case p.Meets():
			return 2
		case p.Nearly():
			return 3
		}
		return 4
	}
	slices.SortFunc(rows, func(a, b Pair) int {
		return cmp.Or(rank(a)-rank(b), cmp.Compare(b.Worth, a.Worth), cmp.Compare(a.Entry, b.Entry))
	})
	return rows, nil
}

// OfAward are the pairs of one award, from one on; all is how many there are.
func (s *Store) OfAward(ctx context.Context, q db.Querier, r round.Round, f *form.Form, p Placing, award form.Key,
	from, most int) (out []Pair,
	all int, err error) {
	rows, err := s.ofAward(ctx, q, r, f, p, award)
	if err != nil || from >= len(rows) {
		return nil, len(rows), err
	}
	part := rows[from:min(from+most, len(rows))]
	entries := make([]int64, len(part))
	at := map[int64]int{}
	for i, x := range part {
		entries[i], at[x.Entry] = x.Entry, i
	}
	list, err := s.pairs(ctx, q, r, f, p, `AND x.award = @award AND x.entry_id = ANY(@entries)`,
		db.Named{"award": award, "entries": entries})
	if err != nil {
		return nil, 0, err
	}
	out = make([]Pair, len(part))
	for _, x := range list {
		out[at[x.Entry]] = x
	}
	return out, len(rows), nil
}

// OfPerson are the pairs of one person, in the order of the design.
func (s *Store) OfPerson(ctx context.Context, q db.Querier, r round.Round, f *form.Form, p Placing,
	ref string) ([]Pair, error) {
	list, err := s.pairs(ctx, q, r, f, p, `AND a.ref = @ref`, db.Named{"ref": ref})
	place := map[form.Key]int{}
	for i, a := range f.Design.Awards {
		place[a.Key] = i
	}
	slices.SortFunc(list, func(a, b Pair) int { return place[a.Award] - place[b.Award] })
	return list, err
}

// ToSay are pairs of which a person must say whether the criteria are met, the first
// so many.
func (s *Store) ToSay(ctx context.Context, q db.Querier, r round.Round, f *form.Form, p Placing, most int) ([]Pair,
	error) {
	return s.pairs(ctx, q, r, f, p,
		`AND x.stand = 'must say' AND g.entry_id IS NULL ORDER BY x.award, x.entry_id LIMIT @most`, db.Named{"most": most})
}

func (s *Store) pairs(ctx context.Context, q db.Querier, r round.Round, f *form.Form, p Placing, where string,
	args db.Named) ([]Pair, error) {
	args["placing"], args["round"], args["gone"], args["back"] = p.ID, r.ID, lifecycle.With(lifecycle.Gone), offer.Back()
	var out []Pair
	if err := q.SelectContext(ctx, &out, selectPair+where, args); err != nil {
		return nil, err
	}
	for i := range out {
		if err := json.Unmarshal(out[i].Raw, &out[i].Said); err != nil {
			return nil, err
		}
		out[i].Worth = worthOf(f, p.Rules, out[i])
	}
	return out, nil
}

// Has is an award that somebody is given in a placing.
type Has struct {
	Entry  int64 `db:"entry_id"`
	Award  form.Key
	Amount int64
}

// HasOf lists what some people are given in a placing.
func (s *Store) HasOf(ctx context.Context, q db.Querier, placingID int64, entries []int64) (map[int64][]Has, error) {
	var rows []Has
	if err := q.SelectContext(ctx, &rows, `
		SELECT entry_id, award, amount FROM placed WHERE placing_id = $1 AND entry_id = ANY($2) ORDER BY entry_id, amount DESC, award`, placingID,
		pq.Int64Array(entries)); err != nil {
		return nil, err
	}
	out := map[int64][]Has{}
	for _, x := range rows {
		out[x.Entry] = append(out[x.Entry], x)
	}
	return out, nil
}

// Dot is a pair of the picture of everybody against every award.
type Dot struct {
	Award form.Key
	Entry int64
	Given bool
}

// Dots of a round under a placing: who meets what, and who is given it; people in the
// order of their entries. At most so many pairs, those given first.
func (s *Store) Dots(ctx context.Context, q db.Querier, r round.Round, placingID int64, most int) (out []Dot,
	err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT x.award, x.entry_id AS entry, pl.entry_id IS NOT NULL AS given FROM fit x
		LEFT JOIN award_ruling g ON g.entry_id = x.entry_id AND g.award = x.award
		LEFT JOIN placed pl ON pl.placing_id = $2 AND pl.entry_id = x.entry_id AND pl.award = x.award
		WHERE x.round_id = $1 AND COALESCE(g.fits, x.stand = 'fits') ORDER BY pl.entry_id IS NULL, x.entry_id LIMIT $3`, r.ID, placingID, most)
	return out, err
}

// Given is one award of a placing and who is given it.
type Given struct {
	Who
	Award  form.Key
	Amount int64
}

// All that a placing gives, award by award.
func (s *Store) All(ctx context.Context, q db.Querier, placingID int64) (out []Given, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT e.id AS entry, a.ref, p.name AS lead, x.award, x.amount FROM placed x JOIN entry e ON e.id = x.entry_id
		JOIN application a ON a.id = e.application_id JOIN relation l ON l.application_id = a.id AND l.kind = 'lead'
		JOIN account p ON p.id = l.account_id WHERE x.placing_id = $1 ORDER BY x.award, x.amount DESC, a.ref`, placingID)
	return out, err
}
