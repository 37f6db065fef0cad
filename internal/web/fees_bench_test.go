package web_test

import (
	"net/url"
	"strings"
	"testing"
	"time"

	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// crowdFees charges every case of a round, nine in ten of which have paid and one in
// fifty of which got something back.
const crowdFees = `
INSERT INTO charge (entry_id, application_id, round_id, currency, lines, total, at, closes, pay_by, stand, owed)
  SELECT n.id, n.app, a.round_id, 'EUR', '[]', 6000, now(), now() + interval '5 days', now() + interval '6 days',
         CASE WHEN n.id % 10 = 0 THEN 'waiting' ELSE 'in' END, CASE WHEN n.id % 10 = 0 THEN 6000 ELSE 0 END
  FROM entered n JOIN application a ON a.id = n.app ON CONFLICT DO NOTHING;
INSERT INTO checkout (entry_id, key, amount, what, back, begun_at, until_at, desk, state, next_ask)
  SELECT entry_id, 'k' || entry_id, 6000, '', '', now(), now(), 'd' || entry_id, CASE stand WHEN 'in' THEN 'paid' ELSE 'closed' END, now() FROM charge g
  WHERE lines = '[]';
INSERT INTO payment (number, id, entry_id, checkout_id, amount, begun_at, at, bank, keeps, why, known_at)
  SELECT (SELECT last FROM fee_serial WHERE series = 'receipt') + row_number() OVER (), 'p' || k.id || 'x', k.entry_id, k.id, 6000, now(), now(), false, 6000, '', now() FROM checkout k JOIN charge g ON g.entry_id = k.entry_id
  WHERE g.lines = '[]' AND g.stand = 'in';
INSERT INTO returned (key, entry_id, place, payment_id, amount, why, state, bank, at, done_at)
  SELECT p.id || '/1', p.entry_id, 0, p.id, 1000, 'by the office', 'done', false, now(), now() FROM payment p JOIN charge g ON g.entry_id = p.entry_id
  WHERE g.lines = '[]' AND g.entry_id % 50 = 1;
UPDATE charge SET let_off = 1000 WHERE lines = '[]' AND entry_id % 50 = 1;
INSERT INTO ledger (entry_id, round_id, kind, ref, amount, at, kept_at, by_id)
  SELECT entry_id, round_id, 'charged', 'charged', 6000, now(), now(), 0 FROM charge WHERE lines = '[]'
  UNION ALL SELECT p.entry_id, g.round_id, 'paid', 'paid ' || p.id, 6000, now(), now(), 0 FROM payment p JOIN charge g ON g.entry_id = p.entry_id WHERE g.lines = '[]'
  UNION ALL SELECT r.entry_id, g.round_id, k, 'back ' || k, 1000, now(), now(), 0 FROM returned r JOIN charge g ON g.entry_id = r.entry_id, unnest(ARRAY['let off', 'given back']) k
    WHERE g.lines = '[]';
DROP TABLE`

// BenchmarkFees draws the fees of a round with some thousands of charges, and the
// ledger as CSV, against summing their rows.
func BenchmarkFees(b *testing.B) {
	h := programtest.Demo(b)
	const round = "footbridge-design-competition-march-2027"
	h.Crowd(strings.Replace(multiply, "DROP TABLE", crowdFees, 1), 900, round, true)
	var id, n int64
	if err := h.DB.QueryRow(`SELECT r.id, count(*) FROM round r JOIN charge g ON g.round_id = r.id WHERE r.key = $1 GROUP BY r.id`,
		round).Scan(&id, &n); err != nil {
		b.Fatal(err)
	}
	var bare time.Duration
	b.Run("bare", func(b *testing.B) {
		for b.Loop() {
			var sum int64
			if err := h.DB.Get(&sum, `SELECT sum(amount) FROM ledger WHERE round_id = $1`, id); err != nil {
				b.Fatal(err)
			}
		}
		bare = b.Elapsed() / time.Duration(b.N)
	})
	b.Run("rows", func(b *testing.B) {
		for b.Loop() {
			if rows, err := h.Desk.Fees(b.Context(), id); err != nil || int64(len(rows)) != n {
				b.Fatal(len(rows), err)
			}
		}
		b.ReportMetric(float64(b.Elapsed()/time.Duration(b.N))/float64(bare), "×bare")
	})
	_, base := webtest.Serve(b, h)
	neda := webtest.Visit(b, base)
	if code, _ := neda.Submit("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"},
		"password": {"shore and peat"}}); code != 303 {
		b.Fatal(code)
	}
	for name, path := range map[string]string{"page": "/fees", "ledger": "/fees/ledger.csv"} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				code, page := neda.See("/office/rounds/" + round + path)
				if code != 200 || name == "page" && !webtest.Contains(page, "It adds up") {
					b.Fatal(code)
				}
			}
			b.ReportMetric(float64(b.Elapsed()/time.Duration(b.N))/float64(bare), "×bare")
			b.ReportMetric(float64(n), "charges")
		})
	}
}
