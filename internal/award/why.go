package award

import (
	"context"
	"slices"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/placing"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Who is a person in a sentence.
type Who struct {
	Entry int64
	Ref   string
	Lead  string
}

// Why says why somebody is not given an award that they meet, and what giving it would
// cost.
type Why struct {
	Reason placing.Reason
	Others []Who      // who has it
	Has    []form.Key // what the person has that stands in its way
	Change
}

// Change is what a change by hand would do to a placing.
type Change struct {
	Can   bool  // it can be at all
	Costs int64 // of worth; below 0 it would be worth more
	Exact bool  // else it costs that at least, or with Most at most
	Most  bool
	Moves []Move
}

// Move is an award that somebody would be given or not be given any more.
type Move struct {
	Who
	Award form.Key
	Given bool
}

// worksOutCosts is how many pairs there may be for changes to be worked out unasked.
const worksOutCosts = 5000

// board is a placing laid out for trying changes.
type board struct {
	p       *problem
	from    *placing.Placing
	given   []bool
	entries []int64 // whose names are asked for
}

// board lays a placing out.
func (s *Store) board(ctx context.Context, q db.Querier, r round.Round, f *form.Form, x Placing) (*board, error) {
	p, err := s.problemOf(ctx, q, r, f, x.Rules)
	if err != nil {
		return nil, err
	}
	var rows []Has
	if err := q.SelectContext(ctx, &rows, `SELECT entry_id, award, amount FROM placed WHERE placing_id = $1`,
		x.ID); err != nil {
		return nil, err
	}
	type at struct {
		entry int64
		award form.Key
	}
	place := map[at]int{}
	for i, row := range p.rows {
		place[at{row.Entry, row.Award}] = i
	}
	b := &board{p: p, from: &placing.Placing{Worth: x.Worth, Bound: x.Bound, Prices: x.Prices}, given: make([]bool,
		len(p.rows))}
	for _, row := range rows {
		if i, ok := place[at{row.Entry, row.Award}]; ok {
			b.given[i] = true
			b.from.Given = append(b.from.Given, i)
		}
	}
	slices.Sort(b.from.Given)
	return b, nil
}

// name fills in who people are.
func (s *Store) name(ctx context.Context, q db.Querier, b *board, out *Looked) error {
	var list []Who
	if err := q.SelectContext(ctx, &list, `
		SELECT e.id AS entry, a.ref, p.name AS lead FROM entry e JOIN application a ON a.id = e.application_id
		JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id WHERE e.id = ANY($1)`,
		pq.Int64Array(b.entries)); err != nil {
		return err
	}
	names := map[int64]Who{}
	for _, w := range list {
		names[w.Entry] = w
	}
	moves := func(c Change) {
		for i := range c.Moves {
			c.Moves[i].Who = names[c.Moves[i].Entry]
		}
	}
	for _, w := range out.Whys {
		for i := range w.Others {
			w.Others[i] = names[w.Others[i].Entry]
		}
		moves(w.Change)
	}
	moves(out.Empty)
	moves(out.ToNext)
	if out.Next != nil {
		*out.Next = names[out.Next.Entry]
	}
	return nil
}

// change tries a pair given, or not.
func (b *board) change(x int, give bool) Change {
	got, ok := placing.Change(b.p.Problem, b.from, x, give)
	return b.changed(got, ok)
}

func (b *board) changed(got *placing.Placing, ok bool) (c Change) {
	if !ok {
		return c
	}
	c.Can, c.Costs, c.Exact = true, b.from.Worth-got.Worth, got.Proved()
	c.Most = !c.Exact
	now := make([]bool, len(b.given))
	for _, y := range got.Given {
		now[y] = true
	}
	for y, is := range now {
		if is != b.given[y] {
			c.Moves = append(c.Moves, Move{b.who(b.p.rows[y].Entry), b.p.rows[y].Award, is})
		}
	}
	return c
}

// Looked is what a person and an award look like in a placing.
type Looked struct {
	Whys   map[form.Key]Why // of each award that the person meets
	Empty  Change           // one place of the award left empty
	Next   *Who             // who meets the award and has it not, worth most of them; nil for nobody
	ToNext Change           // it given to them
}

// Look says of each award that somebody meets why they are not given it, and what giving
// it would cost, of each that they are given what taking it away would; and what changes
// of one award would cost. Where there are many pairs, costs are bounds.
func (s *Store) Look(ctx context.Context, q db.Querier, r round.Round, f *form.Form, x Placing, entry int64,
	award form.Key) (Looked, error) {
	b, err := s.board(ctx, q, r, f, x)
	if err != nil {
		return Looked{}, err
	}
	out := Looked{Whys: map[form.Key]Why{}}
	var own []int
	best, at := -1, -1 // the next for the award, and its place
	for i, row := range b.p.rows {
		if row.Entry == entry {
			own = append(own, i)
		}
		if row.Award == award {
			at = b.p.Pairs[i].Award
			if !b.given[i] && !b.p.Pairs[i].Barred && (best < 0 || b.p.Pairs[i].Worth > b.p.Pairs[best].Worth) {
				best = i
			}
		}
	}
	few := len(b.p.rows) <= worksOutCosts
	losses := placing.Losses(b.p.Problem, b.from, own)
	for k, i := range own {
		w := Why{}
		var by []int
		w.Reason, by = b.p.Why(b.from.Given, i)
		for _, y := range by {
			if o := b.p.rows[y]; o.Entry == entry {
				w.Has = append(w.Has, o.Award)
			} else {
				w.Others = append(w.Others, b.who(o.Entry))
			}
		}
		if few || b.p.rows[i].Award == award {
			w.Change = b.change(i, !b.given[i])
		} else if !b.given[i] {
			w.Can, w.Costs = losses[k] >= 0, losses[k]
		}
		out.Whys[b.p.rows[i].Award] = w
	}
	if few && best >= 0 {
		w := b.who(b.p.rows[best].Entry)
		out.Next, out.ToNext = &w, b.change(best, true)
	}
	if few && at >= 0 && slices.ContainsFunc(b.from.Given, func(y int) bool { return b.p.Pairs[y].Award == at }) {
		out.Empty = b.changed(placing.Emptied(b.p.Problem, b.from, at))
	}
	return out, s.name(ctx, q, b, &out)
}

// who is somebody whose name is filled in at the end.
func (b *board) who(entry int64) Who {
	b.entries = append(b.entries, entry)
	return Who{Entry: entry}
}

// Differ are the pairs in which two placings differ, by person, with what each has.
func (s *Store) Differ(ctx context.Context, q db.Querier, r round.Round, a, b int64) (out []Difference, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT e.id AS entry, ap.ref, p.name AS lead, n.a, n.b, n.amount_a, n.amount_b FROM (
		  SELECT entry_id, COALESCE(array_agg(award ORDER BY award) FILTER (WHERE placing_id = $2), '{}') AS a,
		         COALESCE(array_agg(award ORDER BY award) FILTER (WHERE placing_id = $3), '{}') AS b,
		         COALESCE(sum(amount) FILTER (WHERE placing_id = $2), 0)::bigint AS amount_a, COALESCE(sum(amount) FILTER (WHERE placing_id = $3), 0)::bigint AS amount_b
		  FROM placed WHERE placing_id IN ($2, $3) GROUP BY entry_id) n
		JOIN entry e ON e.id = n.entry_id JOIN application ap ON ap.id = e.application_id
		JOIN relation l ON l.application_id = ap.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id
		WHERE ap.round_id = $1 AND (n.a <> n.b OR n.amount_a <> n.amount_b) ORDER BY abs(n.amount_a - n.amount_b) DESC, ap.ref`, r.ID, a, b)
	return out, err
}

// Difference is one person who has something else in two placings.
type Difference struct {
	Who
	A, B    pq.StringArray // awards
	AmountA int64          `db:"amount_a"`
	AmountB int64          `db:"amount_b"`
}
