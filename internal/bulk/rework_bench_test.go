package bulk_test

import (
	"context"
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/internal/bulk"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
)

// crowd makes many of a sent case, with what its checks read.
const crowd = `
CREATE TEMP TABLE copied AS SELECT a.id AS was, row_number() OVER () AS n, a.id * 0 AS id FROM application a, generate_series(1, $1) WHERE a.ref = $2;
WITH made AS (INSERT INTO application (ref, round_id, title, created_at) SELECT 'M' || a.round_id || '-' || c.n, a.round_id, a.title || ' ' || c.n, a.created_at FROM copied c JOIN application a ON a.id = c.was ORDER BY c.n RETURNING id, ref)
UPDATE copied c SET id = m.id FROM made m WHERE split_part(m.ref, '-', 2)::int = c.n;
INSERT INTO relation SELECT c.id, x.account_id, x.kind FROM copied c JOIN relation x ON x.application_id = c.was;
INSERT INTO entry (application_id, stage, design_id, state, state_at, seal_id) SELECT c.id, e.stage, e.design_id, e.state, e.state_at, e.seal_id FROM copied c JOIN entry e ON e.application_id = c.was;
CREATE TEMP TABLE entered AS SELECT e.id AS was, n.id, c.id AS app FROM copied c JOIN entry e ON e.application_id = c.was JOIN entry n ON n.application_id = c.id AND n.stage = e.stage;
INSERT INTO standing SELECT (jsonb_populate_record(s, jsonb_build_object('entry_id', n.id, 'application_id', n.app))).* FROM entered n JOIN standing s ON s.entry_id = n.was;
INSERT INTO finding SELECT (jsonb_populate_record(f, jsonb_build_object('entry_id', n.id))).* FROM entered n JOIN finding f ON f.entry_id = n.was;
DROP TABLE copied, entered;`

// rule asks for at most a sum, in minor units.
func rule(n int, most int64) form.Rule {
	return form.Rule{Key: form.Key(fmt.Sprintf("r%02d", n)), Label: fmt.Sprintf("Rule %d", n), Yes: "It is.",
		No:   "It is not.",
		Look: "Somebody will look.", Holds: condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: "request"},
			Rel: condition.AtMost, Value: &condition.Value{Number: &condition.Number{Num: most, Den: 1}}}}}
}

// Twenty rules worked anew for 10,000 cases: first drawn, then done. The bare bound
// writes one row a case in a transaction of its own.
func BenchmarkTwentyRulesOver10000Cases(b *testing.B) {
	const cases = 10_000
	p := programtest.SentToRound(b, func(d *form.Design) {
		programtest.Short(d)
		for n := range 19 {
			d.Rules = append(d.Rules, rule(n, 9_000_000))
		}
	}, map[string]string{"Ann": "20,000"})
	p.Crowd(crowd, cases-1, p.Of["Ann"].Ref)
	p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
		raw, err := json.Marshal(rule(0, 1_000_000).Holds)
		if err != nil {
			return err
		}
		if _, err := p.Rounds.Edit(ctx, tx, p.Round.ID, "", []design.Op{{Do: design.Set, Path: "rules/r00/holds",
			Value: raw}}); err != nil {
			return err
		}
		_, _, err = p.Rounds.Publish(ctx, tx, p.Round.ID)
		return err
	})
	var entries []int64
	if err := p.DB.Select(&entries, `SELECT id FROM entry ORDER BY id`); err != nil {
		b.Fatal(err)
	}
	for b.Loop() {
		start := time.Now()
		for _, e := range entries {
			p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error {
				_, err := tx.ExecContext(ctx, `UPDATE entry SET state_at = state_at WHERE id = $1`, e)
				return err
			})
		}
		bare := time.Since(start)
		var id int64
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) (err error) {
			id, err = p.Bulk.Begin(ctx, tx, bulk.Bulk{Round: p.Round.ID, Act: bulk.Rework, Says: "all", Back: "/office"},
				entries)
			return err
		})
		at := func() bulk.Bulk {
			x, err := p.Bulk.Find(context.Background(), p.DB, id, p.Officer)
			if err != nil {
				b.Fatal(err)
			}
			return x
		}
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error { return p.Bulk.Tell(ctx, tx, at(), bulk.Args{}) })
		start = time.Now()
		p.Drain()
		drawn := time.Since(start)
		if x := at(); x.Stage != bulk.Drawn {
			b.Fatal(x.Stage)
		}
		p.Act(p.Officer, func(ctx context.Context, tx *db.Tx) error { return p.Bulk.Do(ctx, tx, at(), p.Clock.Now()) })
		start = time.Now()
		p.Drain()
		done := time.Since(start)
		if x := at(); x.Stage != bulk.Done {
			b.Fatal(x.Stage)
		}
		b.ReportMetric(drawn.Seconds(), "s-drawn")
		b.ReportMetric(done.Seconds(), "s-done")
		b.ReportMetric(drawn.Seconds()/bare.Seconds(), "ratio-drawn")
	}
}
