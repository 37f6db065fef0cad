// Package connection keeps who is named where, finds who of one case belongs to
// somebody of another or to whoever judges, and texts that share passages; and
// remembers what a person ruled. core/connected and core/likeness say what is
// found; nothing here decides a case.
package connection

import (
	"context"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"github.com/lib/pq"

	"ulvant/core/connected"
	"ulvant/core/personname"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/jobs"
	"ulvant/internal/profile"
)

// Store of connections.
type Store struct {
	DB       *db.DB
	Cases    *application.Store
	Profiles *profile.Store
	Jobs     *jobs.Queue
}

// party is a row of its table.
type party struct {
	ID        int64
	CaseID    *int64 `db:"application_id"`
	LeadID    *int64 `db:"lead_id"`
	AccountID *int64 `db:"account_id"`
	Part      connected.Part
	Place     string
	Name      string
	Body      bool
	Mails     pq.StringArray
	Phones    pq.StringArray
	Addresses pq.StringArray
	Numbers   pq.StringArray
	Mark      string
}

const partyColumns = `p.id, p.application_id, p.lead_id, p.account_id, p.part, p.place, p.name, p.body, p.mails, p.phones, p.addresses, p.numbers, p.mark`

func (p party) read() connected.Read {
	return connected.Take(connected.Party{ID: p.ID, Name: p.Name, Body: p.Body, Mails: p.Mails, Phones: p.Phones,
		Addresses: p.Addresses, Numbers: p.Numbers})
}

func (p party) seat() connected.Seat {
	at := func(id *int64) int64 {
		if id == nil {
			return 0
		}
		return *id
	}
	return connected.Seat{Case: at(p.CaseID), Lead: at(p.LeadID), Account: at(p.AccountID), Part: p.Part}
}

// markOf is who a party is, for rulings: the name, folded, with what tells it best
// from namesakes.
func markOf(p connected.Party) string {
	words := strings.Fields(personname.Fold(p.Name))
	slices.Sort(words)
	tells := ""
	for _, list := range [][]string{p.Numbers, p.Mails, p.Phones} {
		if len(list) > 0 && tells == "" {
			tells = strings.ToLower(list[0])
		}
	}
	return strings.Join(words, " ") + " | " + tells
}

// Take reads whom a sent entry names and what it says, finds whom and what that is
// like, and keeps it. It changes nothing of the case, and is done anew whenever it
// is called.
func (s *Store) Take(ctx context.Context, tx *db.Tx, c application.Case) error {
	if c.SealID == nil {
		return nil
	}
	f, err := s.Cases.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	sealed, err := s.Cases.Now(ctx, tx, *c.SealID)
	if err != nil {
		return err
	}
	filled := sealed.Decoded.Filled(c.LeadName)
	path := f.Walk(filled)
	list, err := s.partiesOf(ctx, tx, c, f, filled, path)
	if err != nil {
		return err
	}
	ids, err := s.putParties(ctx, tx, c.ID, list)
	if err != nil {
		return err
	}
	if err := s.connect(ctx, tx, ids); err != nil {
		return err
	}
	if err := s.takeTexts(ctx, tx, c, f, filled, path); err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `
		INSERT INTO gathered (entry_id, seal_id) VALUES ($1, $2) ON CONFLICT (entry_id) DO UPDATE SET seal_id = $2`, c.EntryID, *c.SealID)
	return err
}

// connect works out anew whom some parties belong to.
func (s *Store) connect(ctx context.Context, tx *db.Tx, ids []int64) error {
	if len(ids) == 0 {
		return nil
	}
	var mine []party
	if err := tx.SelectContext(ctx, &mine, `SELECT `+partyColumns+` FROM party p WHERE p.id = ANY($1) ORDER BY p.id`,
		ids); err != nil {
		return err
	}
	reads := map[int64]connected.Read{}
	var keys []string
	var of []int64
	var finds []bool
	for _, p := range mine {
		r := p.read()
		reads[p.ID] = r
		for _, k := range r.Keys {
			keys, of, finds = append(keys, k.Key), append(of, p.ID), append(finds, k.Finds)
		}
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM party_key WHERE party_id = ANY($1)`, ids); err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO party_key (key, party_id, finds) SELECT * FROM unnest($1::text[], $2::bigint[], $3::boolean[])`, keys, of, finds); err != nil {
		return err
	}
	var near []struct {
		Mine int64
		party
	}
	if err := tx.SelectContext(ctx, &near, `
		WITH k AS MATERIALIZED (SELECT key, party_id FROM party_key WHERE party_id = ANY($1) AND finds),
		rare AS MATERIALIZED (SELECT d.key FROM (SELECT DISTINCT key FROM k) d
		  CROSS JOIN LATERAL (SELECT count(*) AS n FROM (SELECT FROM party_key x WHERE x.key = d.key LIMIT $2 + 1) l) c WHERE c.n <= $2)
		SELECT DISTINCT ON (k.party_id, p.id) k.party_id AS mine, `+partyColumns+`
		FROM k JOIN rare USING (key) JOIN party_key o ON o.key = k.key AND o.party_id <> k.party_id AND o.finds JOIN party p ON p.id = o.party_id`,
		ids, connected.MostBlock); err != nil {
		return err
	}
	byID := map[int64]party{}
	for _, p := range mine {
		byID[p.ID] = p
	}
	type pair struct{ a, b party }
	var pairs []pair
	for _, n := range near {
		a := byID[n.Mine]
		if _, own := byID[n.party.ID]; own && n.party.ID < a.ID || !connected.Matters(a.seat(), n.party.seat()) {
			continue // of two of ours, once
		}
		if _, ok := reads[n.party.ID]; !ok {
			reads[n.party.ID] = n.party.read()
		}
		pairs = append(pairs, pair{a, n.party})
	}
	// of ours alone: what two have in common is among them, and of a slip the weight of
	// our own spelling will do
	counts, among, err := s.counts(ctx, tx, keys)
	if err != nil {
		return err
	}
	var claims []claim
	judges := map[int64]bool{} // parties of cases that are one who judges themselves
	for _, p := range pairs {
		c, ok := connected.Compare(reads[p.a.ID], reads[p.b.ID], among, func(k string) int { return counts[k] })
		if ok && c.Worth(p.a.Part, p.b.Part) {
			claims = append(claims, claim{min(p.a.ID, p.b.ID), max(p.a.ID, p.b.ID), c})
			for _, x := range []party{p.a, p.b} {
				if c.Same && x.Part.OfCase() && p.a.Part.OfCase() != p.b.Part.OfCase() {
					judges[x.ID] = true
				}
			}
		}
	}
	// a reader who vouches has colleagues among the readers: that says nothing more
	claims = slices.DeleteFunc(claims, func(c claim) bool {
		return !c.Same && (judges[c.one] || judges[c.other]) && len(c.Evidence) == 1 &&
			c.Evidence[0].Kind == connected.Domain
	})
	return s.putClaims(ctx, tx, ids, claims)
}

type claim struct {
	one, other int64
	connected.Claim
}

// mostCounted is up to where keys are counted: what so many have says nothing.
const mostCounted = 2000

// counts how many parties have each key, and how many parties there are.
func (s *Store) counts(ctx context.Context, tx *db.Tx, keys []string) (map[string]int, int, error) {
	slices.Sort(keys)
	keys = slices.Compact(keys)
	var rows []struct {
		Key string
		N   int
	}
	if err := tx.SelectContext(ctx, &rows, `
		SELECT k.key, c.n FROM unnest($1::text[]) k(key) CROSS JOIN LATERAL (SELECT count(*) AS n FROM (SELECT FROM party_key x WHERE x.key = k.key LIMIT $2) l) c`, keys, mostCounted); err != nil {
		return nil, 0, err
	}
	out := map[string]int{}
	for _, r := range rows {
		out[r.Key] = r.N
	}
	var among int
	// an estimate will do, where there are many
	err := tx.GetContext(ctx, &among,
		`SELECT CASE WHEN c.reltuples > 10000 THEN c.reltuples::int ELSE (SELECT count(*) FROM party) END FROM pg_class c WHERE c.oid = 'party'::regclass`)
	return out, among, err
}

// putClaims keeps what was found of some parties, in place of what was before.
func (s *Store) putClaims(ctx context.Context, tx *db.Tx, ids []int64, claims []claim) error {
	var ones, others []int64
	var same []bool
	var bits []float64
	var evidence []string
	for _, c := range claims {
		raw, err := json.Marshal(c.Evidence)
		if err != nil {
			return err
		}
		ones, others, same = append(ones, c.one), append(others, c.other), append(same, c.Same)
		bits, evidence = append(bits, c.Bits), append(evidence, string(raw))
	}
	if _, err := tx.ExecContext(ctx, `
		DELETE FROM connection c WHERE (c.one = ANY($1) OR c.other = ANY($1))
		  AND NOT EXISTS (SELECT FROM unnest($2::bigint[], $3::bigint[]) AS n(one, other) WHERE n.one = c.one AND n.other = c.other)`, ids, ones, others); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO connection (one, other, same, bits, evidence, found_at)
		SELECT n.one, n.other, n.same, n.bits, n.evidence::jsonb, $6 FROM unnest($1::bigint[], $2::bigint[], $3::boolean[], $4::float8[], $5::text[]) AS n(one, other, same, bits, evidence)
		ON CONFLICT (one, other) DO UPDATE SET same = EXCLUDED.same, bits = EXCLUDED.bits, evidence = EXCLUDED.evidence`, ones, others, same, bits, evidence, tx.At)
	return err
}

// atOnce is how many entries one transaction of a sweep takes.
const atOnce = 50

// Sweep brings up those who judge, and entries whose seal has not been taken.
func (s *Store) Sweep(ctx context.Context, at time.Time) error {
	if err := s.DB.Do(ctx, db.Job, at, s.Sync); err != nil {
		return err
	}
	for {
		var entries []int64
		if err := s.DB.SelectContext(ctx, &entries, `
			SELECT e.id FROM entry e LEFT JOIN gathered g ON g.entry_id = e.id
			WHERE e.seal_id IS NOT NULL AND g.seal_id IS DISTINCT FROM e.seal_id ORDER BY e.id LIMIT $1`, atOnce); err != nil || len(entries) == 0 {
			return err
		}
		for _, id := range entries {
			if err := s.DB.Do(ctx, db.Job, at, func(ctx context.Context, tx *db.Tx) error {
				c, err := s.Cases.ByEntry(ctx, tx, id)
				if err != nil {
					return err
				}
				if c, err = s.Cases.Lock(ctx, tx, c, false); err != nil {
					return err
				}
				return s.Take(ctx, tx, c)
			}); err != nil {
				return err
			}
		}
	}
}
