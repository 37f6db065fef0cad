package web_test

import (
	"context"
	"fmt"
	"net/url"
	"testing"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/demo"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reading"
	"ulvant/internal/web/webtest"
)

// threeHundred makes a round that was read one that waits to be handed out, with readers
// of every field.
const threeHundred = `
DELETE FROM planned WHERE round_id = (SELECT id FROM round WHERE key = $1); DELETE FROM plan WHERE round_id = (SELECT id FROM round WHERE key = $1);
DELETE FROM assignment WHERE application_id IN (SELECT a.id FROM application a JOIN round r ON r.id = a.round_id WHERE r.key = $1);
UPDATE entry e SET state = $2 FROM application a JOIN round r ON r.id = a.round_id WHERE a.id = e.application_id AND r.key = $1 AND e.state = ANY(string_to_array($3, ','));
UPDATE standing s SET state = $2 FROM round r WHERE r.id = s.round_id AND r.key = $1 AND s.state = ANY(string_to_array($3, ','));
INSERT INTO account (email, name, password_hash, confirmed_at, created_at)
  SELECT 'reader' || n || '@many.example', 'Reader ' || n, '', now(), now() FROM generate_series(1, 300) n;
INSERT INTO reader (round_id, account_id, invited_at, accepted_at, fields, knows)
  SELECT r.id, a.id, now(), now(), ARRAY[(ARRAY['shore', 'peat', 'grassland'])[1 + a.id % 3]], 'shores, peat and dams, number ' || a.id
  FROM round r, account a WHERE r.key = $1 AND a.email LIKE 'reader%@many.example'`

// Handing out at scale through the use cases, gathering and keeping included: the plan from
// nothing, a change by hand, a reader less, the page; and the bare bound, one pass over the
// texts that fits are worked out from.
func BenchmarkPlan(b *testing.B) {
	for _, times := range []int{17, 83} { // 2,000 and 10,000 cases
		h := programtest.Demo(b)
		var read string
		if err := h.DB.Get(&read,
			`SELECT r.key FROM round r JOIN standing s ON s.round_id = r.id WHERE s.state = $1 GROUP BY r.key ORDER BY count(*) DESC LIMIT 1`,
			lifecycle.Read); err != nil {
			b.Fatal(err)
		}
		h.Crowd(multiply, times, read, true)
		h.Crowd(threeHundred, read, string(lifecycle.Eligible), string(lifecycle.Read)+","+string(lifecycle.Reading))
		r, err := h.Rounds.Find(b.Context(), h.DB, read)
		if err != nil {
			b.Fatal(err)
		}
		f, err := h.Rounds.Published(b.Context(), h.DB, r)
		if err != nil {
			b.Fatal(err)
		}
		officer := db.Account(programtest.MustAccount(b, h.DB, "neda.sparrow@ostrel-trust.example"))
		_, base := webtest.Serve(b, h)
		v := webtest.Visit(b, base)
		v.Submit("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"}, "password": {demo.Password}})
		b.Run(fmt.Sprintf("%d cases", 120*times), func(b *testing.B) {
			for b.Loop() {
				begun, n := time.Now(), 0
				if err := h.DB.Get(&n,
					`SELECT sum(length(k.facts::text)) FROM standing st JOIN known k ON k.entry_id = st.entry_id WHERE st.round_id = $1`, r.ID); err != nil {
					b.Fatal(err)
				}
				bare := time.Since(begun)
				var plan *reading.Plan
				begun = time.Now()
				if err := h.Do(b.Context(), officer, h.Clock.Now(), func(ctx context.Context, tx *db.Tx) (err error) {
					plan, err = h.Reading.WorkOut(ctx, tx, r, f, reading.Asks{})
					return err
				}); err != nil {
					b.Fatal(err)
				}
				took := time.Since(begun)
				b.ReportMetric(float64(took.Milliseconds()), "plan-ms")
				b.ReportMetric(float64(took)/float64(bare), "plan-ratio")
				b.ReportMetric(float64(len(plan.Entries)), "cases")
				begun = time.Now()
				code, body := v.See("/office/rounds/" + read + "/reading/plan")
				if code != 200 || !webtest.Contains(body, "The next") {
					b.Fatal(code, body[:min(len(body), 500)])
				}
				b.ReportMetric(float64(time.Since(begun).Milliseconds()), "page-ms")
			}
		})
	}
}
