package reading

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"github.com/lib/pq"

	"ulvant/core/assignment"
	"ulvant/core/fit"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Plan is who is to read what: worked out and drawn before anybody is told.
type Plan struct {
	Round   int64 `db:"round_id"`
	At      time.Time
	ByID    int64 `db:"by_id"`
	Version int
	RawAsks []byte `db:"asks"`
	Total   int64
	Bound   int64
	RawLack []byte        `db:"short"`
	Entries pq.Int64Array // rows of the fits
	Readers pq.Int64Array // their columns
	Fits    []byte        // row by row, in hundredths
	Asks    Asks          `db:"-"`
	Lacking []Lacking     `db:"-"`
	Given   [][]int       `db:"-"` // readers of each case, by their places
	Held    [][]int       `db:"-"` // of them, those that stay
}

// Lacking is a case that could not get all its readers, with why.
type Lacking struct {
	Entry   int64
	Why     Why
	Cases   []int64 `json:",omitempty"` // that hang on the same readers
	Readers []int64 `json:",omitempty"`
	Needed  int
	Places  int
	Field   string `json:",omitempty"` // that too few know
}

// Why a case lacks readers.
type Why string

// The reasons.
const (
	TooFewPlaces Why = "places"
	TooFewKnow   Why = "field"
	OneOrg       Why = "organisation"
)

// ErrNoPlan: there is none.
var ErrNoPlan = refusal.Missing("no plan is worked out").But("work one out first")

// ErrPlanStale: somebody has changed it.
var ErrPlanStale = refusal.New("this plan was changed in another window, or what it rests on was").But("look at it again")

// Fit of a case and a reader by their places, in hundredths; ok is false where the
// reader must not read it.
func (p *Plan) Fit(c, r int) (hundredths int, ok bool) {
	v := p.Fits[c*len(p.Readers)+r]
	return int(v), v < juryByte
}

// Bridges reports a pair of two juries: it is planned by hand alone, as a bridge
// between them.
func (p *Plan) Bridges(c, r int) bool { return p.Fits[c*len(p.Readers)+r] == juryByte }

// Mean is the mean fit of the pairs, in hundredths.
func (p *Plan) Mean() int {
	sum, n := 0, 0
	for c, readers := range p.Given {
		for _, r := range readers {
			if v, ok := p.Fit(c, r); ok {
				sum, n = sum+v, n+1
			}
		}
	}
	return (sum + n/2) / max(n, 1)
}

// Loads of the readers.
func (p *Plan) Loads() []int {
	plan := assignment.Plan{Given: p.Given}
	return plan.Loads(len(p.Readers))
}

// Proved reports that no plan suits better; Gap by how much one might, over all, in
// hundredths.
func (p *Plan) Proved() bool { return p.Bound >= p.Total }

// Gap is 0 for a plan that is proved.
func (p *Plan) Gap() int { return int(max(0, p.Total-p.Bound)+grain-1) / grain }

// PlanOf a round; ErrNoPlan when none is worked out.
func (s *Store) PlanOf(ctx context.Context, q db.Querier, round int64) (*Plan, error) {
	var p Plan
	err := q.GetContext(ctx, &p, `
		SELECT round_id, at, by_id, version, asks, total, bound, short, entries, readers, fits FROM plan WHERE round_id = $1`, round)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrNoPlan
	}
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal(p.RawAsks, &p.Asks); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(p.RawLack, &p.Lacking); err != nil {
		return nil, err
	}
	var pairs []struct {
		Entry   int64 `db:"entry_id"`
		Account int64 `db:"account_id"`
		Held    bool
	}
	if err := q.SelectContext(ctx, &pairs,
		`SELECT entry_id, account_id, held FROM planned WHERE round_id = $1 ORDER BY entry_id, account_id`,
		round); err != nil {
		return nil, err
	}
	row, column := places(p.Entries), places(p.Readers)
	p.Given, p.Held = make([][]int, len(p.Entries)), make([][]int, len(p.Entries))
	for _, x := range pairs {
		c, r := row[x.Entry], column[x.Account]
		p.Given[c] = append(p.Given[c], r)
		if x.Held {
			p.Held[c] = append(p.Held[c], r)
		}
	}
	for c := range p.Given {
		slices.Sort(p.Given[c])
	}
	return &p, nil
}

func places(list []int64) map[int64]int {
	out := make(map[int64]int, len(list))
	for i, v := range list {
		out[v] = i
	}
	return out
}

// WorkOut works a plan out and keeps it in place of the one there was; nobody is
// told. What was held in that one by hand stays held.
func (s *Store) WorkOut(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, asks Asks) (*Plan, error) {
	if err := MayHandOut(f, tx.At); err != nil {
		return nil, err
	}
	if asks.Most < 0 || asks.Least < 0 || asks.Most > 0 && asks.Least > asks.Most {
		return nil, refusal.In("most", "Give the least and the most cases of a reader in this order, or leave them empty.")
	}
	st, err := s.stack(ctx, tx, r, f, true)
	if err != nil {
		return nil, err
	}
	given := slices.Clone(st.kept)
	if err := s.holdAgain(ctx, tx, r, st); err != nil {
		return nil, err
	}
	fits := st.fits()
	plan := solveFits(st, f, asks, fits)
	return s.keepPlan(ctx, tx, r, st, asks, fits, plan, given)
}

// holdAgain adds to what is given what was held by hand in the last plan.
func (s *Store) holdAgain(ctx context.Context, tx *db.Tx, r round.Round, st *stack) error {
	last, err := s.PlanOf(ctx, tx, r.ID)
	if errors.Is(err, ErrNoPlan) {
		return nil
	}
	if err != nil {
		return err
	}
	row, column := places(st.entries), places(st.accounts())
	for c, readers := range last.Held {
		for _, x := range readers {
			i, ok := row[last.Entries[c]]
			j, reads := column[last.Readers[x]]
			if ok && reads && !st.bars(i, j) && !slices.Contains(st.kept[i], j) {
				st.kept[i] = append(slices.Clone(st.kept[i]), j)
			}
		}
	}
	return nil
}

func (s *Store) keepPlan(ctx context.Context, tx *db.Tx, r round.Round, st *stack, asks Asks, fits []byte,
	plan *assignment.Plan, given [][]int) (*Plan, error) {
	var lack []Lacking
	for _, x := range plan.Short {
		l := Lacking{Entry: st.entries[x.Case], Why: TooFewPlaces, Needed: x.Needed, Places: x.Places}
		switch {
		case x.Field != assignment.None:
			l.Why, l.Field = TooFewKnow, st.fields[x.Case]
		case x.AnotherOrg:
			l.Why = OneOrg
		}
		for _, c := range x.Cases {
			l.Cases = append(l.Cases, st.entries[c])
		}
		for _, j := range x.Readers {
			l.Readers = append(l.Readers, st.readers[j].Account)
		}
		lack = append(lack, l)
	}
	rawAsks, err := json.Marshal(asks)
	if err != nil {
		return nil, err
	}
	rawLack, err := json.Marshal(lack)
	if err != nil {
		return nil, err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO plan (round_id, at, by_id, asks, total, bound, short, entries, readers, fits)
		VALUES (@round, @at, @by, @asks, @total, @bound, @short, @entries, @readers, @fits)
		ON CONFLICT (round_id) DO UPDATE SET at = @at, by_id = @by, version = plan.version + 1, asks = @asks, total = @total, bound = @bound,
		  short = @short, entries = @entries, readers = @readers, fits = @fits`,
		db.Named{"round": r.ID, "at": tx.At, "by": tx.By.ID, "asks": string(rawAsks), "total": plan.Total,
			"bound": plan.Bound,
			"short": string(rawLack), "entries": pq.Int64Array(st.entries), "readers": pq.Int64Array(st.accounts()),
			"fits": fits}); err != nil {
		return nil, err
	}
	if err := s.keepPairs(ctx, tx, r.ID, st.entries, st.accounts(), plan.Given, func(c, j int) bool {
		return slices.Contains(st.kept[c], j)
	}); err != nil {
		return nil, err
	}
	return s.PlanOf(ctx, tx, r.ID)
}

// keepPairs writes down who is to read what.
func (s *Store) keepPairs(ctx context.Context, tx *db.Tx, round int64, entries, accounts []int64, given [][]int,
	held func(c, j int) bool) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM planned WHERE round_id = $1`, round); err != nil {
		return err
	}
	var of, to []int64
	var stay []bool
	for c, readers := range given {
		for _, j := range readers {
			of, to, stay = append(of, entries[c]), append(to, accounts[j]), append(stay, held(c, j))
		}
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO planned (round_id, entry_id, account_id, held) SELECT $1, n.entry, n.account, n.held
		FROM unnest($2::bigint[], $3::bigint[], $4::boolean[]) AS n(entry, account, held)`, round, of, to, stay)
	return err
}

// Moved is a change of a plan by hand: what it costs, in hundredths of fit in all,
// and what moves.
type Moved struct {
	Costs int64
	Moves []assignment.Move // by their places
	Given [][]int
}

// TryMove says what giving a case to a reader would cost, by their places.
func (s *Store) TryMove(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, p *Plan, c, reader int) (Moved,
	error) {
	problem, err := s.problemOf(ctx, tx, r, f, p)
	if err != nil {
		return Moved{}, err
	}
	out, ok := assignment.Change(problem, p.Given, c, reader)
	if !ok {
		return Moved{}, refusal.Unfit("this reader cannot have the case, whatever else moves").But("look at what stands against it")
	}
	return Moved{Costs: out.Costs / grain, Moves: out.Moves, Given: out.Given}, nil
}

// problemOf is what a plan solves, by the stack as it is now; ErrPlanStale where that
// has changed.
func (s *Store) problemOf(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, p *Plan) (*assignment.Problem,
	error) {
	st, err := s.stack(ctx, tx, r, f, false)
	if err != nil {
		return nil, err
	}
	if !slices.Equal(st.entries, []int64(p.Entries)) || !slices.Equal(st.accounts(), []int64(p.Readers)) {
		return nil, ErrPlanStale
	}
	asks := p.Asks
	if asks.Most == 0 { // those it came to
		asks.Most = slices.Max(p.Loads())
	}
	problem := st.problem(f, asks, p.Fits)
	problem.Held = p.Held
	return problem, nil
}

// Move gives a case to a reader in the plan, holds the pair, and moves what else must.
func (s *Store) Move(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, version int, c, reader int) (Moved,
	error) {
	p, err := s.lockPlan(ctx, tx, r, version)
	if err != nil {
		return Moved{}, err
	}
	m, err := s.TryMove(ctx, tx, r, f, p, c, reader)
	if err != nil {
		return m, err
	}
	if err := s.keepPairs(ctx, tx, r.ID, p.Entries, p.Readers, m.Given, func(i, j int) bool {
		return i == c && j == reader || slices.Contains(p.Held[i], j)
	}); err != nil {
		return m, err
	}
	_, err = tx.ExecContext(ctx,
		`UPDATE plan SET version = version + 1, total = total + $2, bound = bound + $2 WHERE round_id = $1`, r.ID,
		m.Costs*grain)
	return m, err
}

// Add gives a case one reader more in the plan, such as a bridge, and holds the pair.
func (s *Store) Add(ctx context.Context, tx *db.Tx, r round.Round, version int, c, reader int) error {
	p, err := s.lockPlan(ctx, tx, r, version)
	if err != nil {
		return err
	}
	if _, ok := p.Fit(c, reader); !ok && !p.Bridges(c, reader) || slices.Contains(p.Given[c], reader) {
		return refusal.Unfit("this reader cannot have the case, or has it")
	}
	if _, err := tx.ExecContext(ctx,
		`INSERT INTO planned (round_id, entry_id, account_id, held) VALUES ($1, $2, $3, true)`, r.ID, p.Entries[c],
		p.Readers[reader]); err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `UPDATE plan SET version = version + 1 WHERE round_id = $1`, r.ID)
	return err
}

func (s *Store) lockPlan(ctx context.Context, tx *db.Tx, r round.Round, version int) (*Plan, error) {
	if _, err := tx.ExecContext(ctx, `SELECT FROM plan WHERE round_id = $1 FOR UPDATE`, r.ID); err != nil {
		return nil, err
	}
	p, err := s.PlanOf(ctx, tx, r.ID)
	if err == nil && p.Version != version {
		err = ErrPlanStale
	}
	return p, err
}

// Bridges are the readings more by which juries that share no case could be
// compared; none when all are joined.
func (s *Store) Bridges(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, p *Plan) ([]assignment.Bridge,
	error) {
	if len(assignment.Juries(p.Given, len(p.Readers))) < 2 {
		return nil, nil
	}
	problem, err := s.problemOf(ctx, tx, r, f, p)
	if err != nil {
		return nil, err
	}
	for i := range problem.Costs {
		for j := range problem.Costs[i] {
			if p.Bridges(i, j) {
				problem.Costs[i][j] = 100 * grain // as one who suits it in nothing
			}
		}
	}
	for j := range problem.Most { // a bridge is one case more than a reader would have
		problem.Most[j] += sharedCases
	}
	return assignment.Bridges(problem, p.Given, sharedCases), nil
}

// sharedCases join two juries.
const sharedCases = 2

// FitsOf one case with every reader of a plan, part by part. Words are weighed among
// this case and the readers alone: the scores of the plan are weighed among all.
func (s *Store) FitsOf(ctx context.Context, q db.Querier, r round.Round, f *form.Form, p *Plan, c int) ([]fit.Fit,
	error) {
	var facts []byte
	err := q.GetContext(ctx, &facts, `SELECT facts FROM known WHERE entry_id = $1`, p.Entries[c])
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return nil, err
	}
	said, err := told(f, facts)
	if err != nil {
		return nil, err
	}
	list, err := s.Readers(ctx, q, r.ID)
	if err != nil {
		return nil, err
	}
	by := map[int64]Reader{}
	for _, x := range list {
		by[x.Account] = x
	}
	one := fit.Side{Text: said.text}
	if said.field != "" {
		one.Fields = []string{said.field}
	}
	sides := make([]fit.Side, len(p.Readers))
	for j, account := range p.Readers {
		sides[j] = by[account].side()
	}
	of := fit.New([]fit.Side{one}, sides)
	out := make([]fit.Fit, len(sides))
	for j := range out {
		out[j] = of.Of(0, j)
	}
	return out, nil
}

// GiveOut keeps the plan: readers get their cases and are told what waits.
func (s *Store) GiveOut(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, version int,
	reached func(int)) (out HandedOut, err error) {
	p, err := s.lockPlan(ctx, tx, r, version)
	if err != nil {
		return out, err
	}
	st, err := s.stack(ctx, tx, r, f, false)
	if err != nil {
		return out, err
	}
	changed, err := s.locked(ctx, tx, r, f, st)
	if err != nil {
		return out, err
	}
	if changed || !slices.Equal(st.entries, []int64(p.Entries)) || !slices.Equal(st.accounts(), []int64(p.Readers)) {
		return out, ErrPlanStale
	}
	for c, readers := range p.Given {
		for _, j := range readers {
			if st.bars(c, j) && !slices.Contains(st.kept[c], j) {
				return out, refusal.Unfit(st.readers[j].Name +
					" must not read one of the cases any more").But("work the plan out again")
			}
		}
	}
	var short []string
	row := places(p.Entries)
	for _, l := range p.Lacking {
		short = append(short, st.locked[slices.IndexFunc(st.locked,
			func(x application.Case) bool { return x.EntryID == p.Entries[row[l.Entry]] })].Ref)
	}
	if out, err = s.give(ctx, tx, r, st, p.Given, short, reached); err != nil {
		return out, err
	}
	_, err = tx.ExecContext(ctx, `DELETE FROM plan WHERE round_id = $1`, r.ID)
	return out, err
}

// DropPlan throws the plan away; nobody was told of it.
func (s *Store) DropPlan(ctx context.Context, tx *db.Tx, r round.Round) error {
	_, err := tx.ExecContext(ctx, `DELETE FROM plan WHERE round_id = $1`, r.ID)
	return err
}
