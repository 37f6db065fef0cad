package reading

import (
	"context"
	"encoding/json"
	"math"
	"slices"
	"strings"
	"time"

	"ulvant/core/assignment"
	"ulvant/core/calendar"
	"ulvant/core/connected"
	"ulvant/core/fit"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// Asks is what is asked of a plan. Limits that are 0 are worked out: as even as can
// be.
type Asks struct {
	Most  int  `json:"most,omitempty"`  // cases a reader has at most
	Least int  `json:"least,omitempty"` // and at least
	Apart bool `json:"apart,omitempty"` // at most one reader of an organisation on a case
	Field bool `json:"field,omitempty"` // at least one who knows the field of a case
	// Without is a reader who is left out, to see what it would cost; 0: nobody.
	Without int64 `json:"without,omitempty"`
}

// stack is what is handed out: cases and readers by their places in the lists.
type stack struct {
	entries  []int64
	versions []int
	apps     []int64
	places   []string // under which the cases are listed
	fields   []string // of the cases, as their answer has it
	tongues  []string // of the cases, in which language they are written; "" where nothing tells
	texts    []string // of the cases; only where fits are worked out
	readers  []Reader
	kept     [][]int // readers they have already
	barred   map[[2]int]bool
	new      []bool // readers who have to mark the sample case first; nil: nobody has
	locked   []application.Case
	ends     calendar.Date // when reading does
	at       time.Time
}

// accounts of the readers.
func (st *stack) accounts() (out []int64) {
	for _, r := range st.readers {
		out = append(out, r.Account)
	}
	return out
}

// stack gathers what is handed out; texts says that what cases say is read too.
func (s *Store) stack(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, texts bool) (*stack, error) {
	if err := s.Connections.Sync(ctx, tx); err != nil { // who was invited a moment ago counts
		return nil, err
	}
	st := &stack{barred: map[[2]int]bool{}, ends: calendar.DateOf(f.At(form.ReadingEnd), f.Zone), at: tx.At}
	var cases []struct {
		ID      int64
		Version int
		App     int64 `db:"application_id"`
		Place   string
		Facts   []byte
	}
	if err := tx.SelectContext(ctx, &cases, `
		SELECT e.id, e.version, e.application_id, COALESCE(st.place, '') AS place, CASE WHEN $4 OR $5 THEN k.facts END AS facts
		FROM entry e JOIN application a ON a.id = e.application_id LEFT JOIN standing st ON st.entry_id = e.id LEFT JOIN known k ON k.entry_id = e.id
		WHERE a.round_id = $1 AND e.state = ANY($3) AND e.stage = ANY($2) ORDER BY a.id`, r.ID, readStages(f, tx.At),
		lifecycle.With(lifecycle.HandsOut), texts, f.Design.Field != "" || f.Design.Language != ""); err != nil {
		return nil, err
	}
	list, err := s.Readers(ctx, tx, r.ID)
	if err != nil {
		return nil, err
	}
	for _, x := range list {
		if x.EndedAt == nil && x.DeclinedAt == nil {
			st.readers = append(st.readers, x)
		}
	}
	if len(st.readers) == 0 {
		return nil, refusal.Unfit("nobody has been invited to read yet").But("invite readers first")
	}
	if len(cases) == 0 {
		return nil, refusal.Unfit("no application is eligible yet").But("settle the checks first")
	}
	at, reader, byEntry := map[int64]int{}, map[int64]int{}, map[int64]int{} // places by application, by account, by entry
	for i, c := range cases {
		st.entries, st.versions, st.apps = append(st.entries, c.ID), append(st.versions, c.Version), append(st.apps, c.App)
		st.places = append(st.places, c.Place)
		at[c.App], byEntry[c.ID] = i, i
		said, err := told(f, c.Facts)
		if err != nil {
			return nil, err
		}
		st.fields, st.tongues, st.texts = append(st.fields, said.field), append(st.tongues, said.tongue), append(st.texts,
			said.text)
	}
	for j, x := range st.readers {
		reader[x.Account] = j
	}
	var pairs []struct {
		Of      int64
		Account int64 `db:"account_id"`
	}
	if err := tx.SelectContext(ctx, &pairs,
		`SELECT entry_id AS of, account_id FROM assignment WHERE entry_id = ANY($1) ORDER BY entry_id, account_id`,
		st.entries); err != nil {
		return nil, err
	}
	st.kept = make([][]int, len(cases))
	for _, p := range pairs {
		if j, ok := reader[p.Account]; ok {
			st.kept[byEntry[p.Of]] = append(st.kept[byEntry[p.Of]], j)
		}
	}
	if err := s.untrained(ctx, tx, r, f, st); err != nil {
		return nil, err
	}
	pairs = nil
	if err := tx.SelectContext(ctx, &pairs, `
		SELECT application_id AS of, account_id FROM recusal WHERE application_id = ANY($1)
		UNION SELECT application_id, account_id FROM relation WHERE application_id = ANY($1)
		UNION SELECT f.application_id, p.id FROM referee f JOIN account p ON p.email = lower(f.email) WHERE f.application_id = ANY($1)`, st.apps); err != nil {
		return nil, err
	}
	for _, p := range pairs {
		if j, ok := reader[p.Account]; ok {
			st.barred[[2]int{at[p.Of], j}] = true
		}
	}
	bars, err := s.Connections.Bars(ctx, tx, st.apps, st.accounts())
	if err != nil {
		return nil, err
	}
	for _, b := range bars {
		st.barred[[2]int{at[b.Application], reader[b.Account]}] = true
	}
	return st, s.declared(ctx, tx, st)
}

// declared bars readers from cases that name what they declared beforehand: a person,
// a body, or the place under which a case is listed.
func (s *Store) declared(ctx context.Context, q db.Querier, st *stack) error {
	if !slices.ContainsFunc(st.readers, func(r Reader) bool { return r.Interests != "" }) {
		return nil
	}
	named, err := s.Connections.BehindAll(ctx, q, st.apps)
	if err != nil {
		return err
	}
	for i, app := range st.apps {
		names := []string{st.places[i]}
		for _, p := range named[app] {
			names = append(names, p.Name)
		}
		for j, r := range st.readers {
			if line, _ := connected.Declared(r.Interests, names); line != "" {
				st.barred[[2]int{i, j}] = true
			}
		}
	}
	return nil
}

// saidOf a case: its field, its language, and what it says of its work.
type saidOf struct{ field, tongue, text string }

// told is what is known of a case that a fit looks at.
func told(f *form.Form, raw []byte) (said saidOf, err error) {
	if len(raw) == 0 {
		return said, nil
	}
	var facts map[string]any
	if err := json.Unmarshal(raw, &facts); err != nil {
		return said, err
	}
	var words []string
	for _, sec := range f.Design.Sections {
		for i := range sec.Questions {
			q := &sec.Questions[i]
			v, _ := facts["q."+string(q.Key)].(string)
			switch q.Key {
			case f.Design.Field:
				said.field = v
			case f.Design.Language:
				said.tongue = v
			}
			if v != "" && q.ForReaders() && q.Written() && !q.PicksOne() {
				words = append(words, v)
			}
		}
	}
	said.text = strings.Join(words, "\n")
	return said, nil
}

// Among fits in hundredths: barredByte marks a pair that must not be, juryByte one that
// is of two juries, which a bridge between them may be.
const (
	barredByte = 255
	juryByte   = 254
)

// side of a reader, as a fit looks at them.
func (r Reader) side() fit.Side { return fit.Side{Fields: r.Fields, Text: r.Knows} }

// weighed is the fit of all of them, their words weighed.
func (st *stack) weighed() *fit.Round {
	cases, readers := make([]fit.Side, len(st.entries)), make([]fit.Side, len(st.readers))
	for i := range cases {
		cases[i].Text = st.texts[i]
		if st.fields[i] != "" {
			cases[i].Fields = []string{st.fields[i]}
		}
	}
	for j, r := range st.readers {
		readers[j] = r.side()
	}
	return fit.New(cases, readers)
}

// fits of every case and reader, row by row, in hundredths.
func (st *stack) fits() []byte {
	of := st.weighed()
	out := make([]byte, 0, len(st.entries)*len(st.readers))
	for i := range st.entries {
		for j := range st.readers {
			if st.bars(i, j) {
				out = append(out, barredByte)
				continue
			}
			if !st.may(i, j) {
				out = append(out, juryByte)
				continue
			}
			out = append(out, byte(math.Round(100*of.Of(i, j).Score)))
		}
	}
	return out
}

// bars reports a pair that must not be: for an interest, or a language that is not read.
func (st *stack) bars(i, j int) bool {
	r := st.readers[j]
	return st.barred[[2]int{i, j}] || st.new != nil && st.new[j] && !slices.Contains(st.kept[i], j) ||
		st.tongues[i] != "" && len(r.Languages) > 0 && !slices.Contains(r.Languages, st.tongues[i])
}

// may reports a pair that nothing is against, and a jury that reads the case’s place.
func (st *stack) may(i, j int) bool {
	r := st.readers[j]
	return !st.bars(i, j) && (r.Jury == "" || r.Jury == st.places[i])
}

// problem is what is to be solved, of fits in hundredths. What is given stays.
func (st *stack) problem(f *form.Form, asks Asks, fits []byte) *assignment.Problem {
	n := len(st.readers)
	p := &assignment.Problem{Each: make([]int, len(st.entries)), Costs: make([][]int64, len(st.entries)),
		Most:  make([]int, n),
		Least: make([]int, n), Held: st.kept, Uneven: 2 * grain}
	load := make([]int, n)
	need := 0
	for i := range st.entries {
		each := f.Design.ReadersEach
		if f.Design.Controlled(st.entries[i]) && n > each {
			each++
		}
		p.Each[i] = max(each, len(st.kept[i]))
		need += p.Each[i]
		p.Costs[i] = make([]int64, n)
		for j := range n {
			if v := fits[i*n+j]; v >= juryByte {
				p.Costs[i][j] = assignment.Never
			} else {
				p.Costs[i][j] = grain*int64(100-v) + mixes(st.entries[i], st.readers[j].Account)
			}
		}
		for _, j := range st.kept[i] {
			load[j]++
		}
	}
	for j, r := range st.readers {
		p.Most[j], p.Least[j] = len(st.entries), asks.Least
		if asks.Most > 0 {
			p.Most[j] = asks.Most
		}
		if r.OwnMost != nil {
			p.Most[j] = min(p.Most[j], *r.OwnMost)
		}
		if r.Account == asks.Without || r.Away(calendar.DateOf(st.at, time.UTC), st.ends) {
			p.Most[j] = 0
		}
		p.Most[j] = max(p.Most[j], load[j])
		p.Least[j] = min(p.Least[j], p.Most[j])
	}
	if asks.Apart {
		p.Org = grouped(st.readers, func(r Reader) string { return strings.ToLower(strings.TrimSpace(r.Organisation)) })
	}
	if asks.Field {
		number := map[string]int{}
		for _, field := range st.fields {
			if _, ok := number[field]; !ok && field != "" {
				number[field] = len(number)
			}
		}
		for _, field := range st.fields {
			if v, ok := number[field]; ok {
				p.Field = append(p.Field, v)
			} else {
				p.Field = append(p.Field, assignment.None)
			}
		}
		p.Knows = make([][]bool, n)
		for j, r := range st.readers {
			p.Knows[j] = make([]bool, len(number))
			for field, v := range number {
				p.Knows[j][v] = slices.Contains(r.Fields, field)
			}
		}
	}
	return p
}

// grain is in how many parts a hundredth of a fit is reckoned, so that pairs that suit
// alike can be told apart.
const grain = 16

// mixes is a little of a hundredth by which pairs that suit alike differ, so that
// readers mix: where the same few always read together, their marks could not be
// compared with those of others.
func mixes(entry, account int64) int64 {
	h := uint64(entry)*0x9E3779B97F4A7C15 ^ uint64(account)*0xC2B2AE3D27D4EB4F
	h ^= h >> 29
	return int64(h * 0xBF58476D1CE4E5B9 >> 61)
}

// grouped numbers what readers have in common; None for those who say nothing.
func grouped(readers []Reader, by func(Reader) string) (out []int) {
	number := map[string]int{}
	for _, r := range readers {
		v := by(r)
		if v == "" {
			out = append(out, assignment.None)
			continue
		}
		if _, ok := number[v]; !ok {
			number[v] = len(number)
		}
		out = append(out, number[v])
	}
	return out
}

// tries bounds how often a plan whose conditions cross is worked out again.
const tries = 40

// solve finds the plan. Where nobody said how many cases a reader may have, loads
// are as even as can be: the most is raised until it can be done.
func solve(st *stack, f *form.Form, asks Asks) *assignment.Plan {
	return solveFits(st, f, asks, st.fits())
}

func solveFits(st *stack, f *form.Form, asks Asks, fits []byte) *assignment.Plan {
	if asks.Most > 0 {
		return assignment.Solve(st.problem(f, asks, fits), tries)
	}
	p := st.problem(f, asks, fits)
	need, open := 0, 0
	for _, k := range p.Each {
		need += k
	}
	for _, m := range p.Most {
		if m > 0 {
			open++
		}
	}
	for most := (need + max(open, 1) - 1) / max(open, 1); ; most = most + 1 + most/4 {
		asks.Most = most
		plan := assignment.Solve(st.problem(f, asks, fits), tries)
		if len(plan.Short) == 0 || most >= len(st.entries) {
			return plan
		}
	}
}

// shorts are the cases that lack readers, by their reference numbers.
func shorts(st *stack, plan *assignment.Plan) (out []string) {
	refs := map[int64]string{}
	for _, c := range st.locked {
		refs[c.EntryID] = c.Ref
	}
	for _, s := range plan.Short {
		out = append(out, refs[st.entries[s.Case]])
	}
	return out
}
