package web_test

import (
	"context"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/lifecycle"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// crowdAsked gives every case of a round three requests of the site's referee
// question, a third of them in; 200 go to one address.
const crowdAsked = `
INSERT INTO referee (entry_id, application_id, question, name, email, knows, state, state_at, next_at)
  SELECT n.id, n.app, 'site-referee', 'Person ' || n.id % 997, 'p' || n.id % 997 || '@peat.example', 'a neighbour',
         CASE g WHEN 1 THEN 'sent' WHEN 2 THEN 'asked' ELSE 'uploaded' END, now() - interval '8 days', now() - interval '1 hour' * (g - 1)
  FROM entered n JOIN entry e ON e.id = n.id AND e.state <> 'handed back', generate_series(1, 3) g;
UPDATE referee SET next_at = NULL WHERE state = 'sent';
UPDATE referee SET email = 'many@peat.example', name = 'Ada Many' WHERE id IN (SELECT id FROM referee WHERE state = 'asked' AND email LIKE 'p%' ORDER BY id LIMIT 200);
INSERT INTO link (purpose, subject, token_hash, created_at, expires_at, next) SELECT 'letter', id, decode(md5(id::text), 'hex'), now(), now() + interval '90 days', '' FROM referee ON CONFLICT DO NOTHING;
DROP TABLE`

// The board of some 2,000 applications with three letters each, what is asked of
// one person with 200 requests, and a sweep that reminds thousands.
func BenchmarkPeopleAsked(b *testing.B) {
	h := programtest.Demo(b)
	var round string
	var id int64
	if err := h.DB.QueryRow(`SELECT r.key, r.id FROM round r JOIN standing s ON s.round_id = r.id WHERE s.state = $1 AND r.key LIKE 'shore-and-peat-%' GROUP BY r.key, r.id ORDER BY count(*) DESC LIMIT 1`,
		lifecycle.Draft).Scan(&round, &id); err != nil {
		b.Fatal(err)
	}
	h.Crowd(strings.Replace(multiply, "DROP TABLE", crowdAsked, 1), 70, round, true)
	var all int
	if err := h.DB.Get(&all,
		`SELECT count(*) FROM referee r JOIN application a ON a.id = r.application_id WHERE a.round_id = $1`,
		id); err != nil {
		b.Fatal(err)
	}
	var bare time.Duration
	b.Run("bare", func(b *testing.B) {
		for b.Loop() {
			rows, err := h.DB.Query(`SELECT r.id, a.ref, a.title, r.name, r.email, r.state, r.state_at FROM referee r
				JOIN entry e ON e.id = r.entry_id JOIN application a ON a.id = e.application_id
				WHERE a.round_id = $1 AND r.state IN ('to ask', 'asked', 'accepted', 'uploaded', 'declined')
				ORDER BY r.state_at, r.id LIMIT 101`, id)
			if err != nil {
				b.Fatal(err)
			}
			for rows.Next() {
			}
			rows.Close()
		}
		bare = b.Elapsed() / time.Duration(b.N)
	})
	_, base := webtest.Serve(b, h)
	neda := webtest.Visit(b, base)
	if code, _ := neda.Submit("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"},
		"password": {"shore and peat"}}); code != 303 {
		b.Fatal(code)
	}
	b.Run("board", func(b *testing.B) {
		var took []time.Duration
		for b.Loop() {
			at := time.Now()
			if code, _ := neda.See("/office/rounds/" + round + "/asked"); code != 200 {
				b.Fatal(code)
			}
			took = append(took, time.Since(at))
		}
		slices.Sort(took)
		b.ReportMetric(float64(took[len(took)*95/100])/float64(bare), "p95-×bare")
		b.ReportMetric(float64(took[len(took)*95/100].Milliseconds()), "p95-ms")
		b.ReportMetric(float64(b.Elapsed()/time.Duration(b.N))/float64(bare), "×bare")
		b.ReportMetric(float64(all), "requests")
	})
	b.Run("200 of one person", func(b *testing.B) {
		for b.Loop() {
			list, err := h.Desk.WantedOf(context.Background(), "many@peat.example", h.Clock.Now())
			if err != nil || len(list) != 200 {
				b.Fatal(len(list), err)
			}
			var entries []int64
			for _, w := range list {
				entries = append(entries, w.EntryID)
			}
			if _, err := h.Cases.ByEntries(context.Background(), h.DB, entries); err != nil {
				b.Fatal(err)
			}
		}
		b.ReportMetric(float64(b.Elapsed()/time.Duration(b.N))/float64(bare), "×bare")
	})
	b.Run("sweep", func(b *testing.B) {
		n := 0
		for range b.N {
			if _, err := h.DB.Exec(`UPDATE referee SET next_at = $1, reminders = 0, reminded_at = NULL WHERE state IN ('asked', 'uploaded')`,
				h.Clock.Now()); err != nil {
				b.Fatal(err)
			}
			began := time.Now()
			for {
				var due int
				if err := h.DB.Get(&due, `SELECT count(*) FROM referee WHERE next_at <= $1`, h.Clock.Now()); err != nil {
					b.Fatal(err)
				}
				if due == 0 {
					break
				}
				n += due
				if err := h.Referees.Sweep(context.Background(), h.Clock.Now()); err != nil {
					b.Fatal(err)
				}
				if time.Since(began) > 5*time.Minute {
					b.Fatal("still sweeping ", due)
				}
			}
		}
		b.ReportMetric(float64(n)/float64(b.N), "reminded")
	})
}
