package web_test

import (
	"context"
	"io"
	"net/url"
	"runtime"
	"slices"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/lifecycle"
	"ulvant/core/register"
	"ulvant/demo"
	"ulvant/internal/bulk"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// known multiplies what the register knows too.
var known = strings.Replace(multiply, "DROP TABLE", `
INSERT INTO known SELECT (jsonb_populate_record(k, jsonb_build_object('entry_id', n.id))).* FROM entered n JOIN known k ON k.entry_id = n.was;
DROP TABLE`, 1)

// slowest is the slowest twentieth of so many runs.
func slowest(b *testing.B, n int, do func() error) time.Duration {
	b.Helper()
	var took []time.Duration
	for range n {
		at := time.Now()
		if err := do(); err != nil {
			b.Fatal(err)
		}
		took = append(took, time.Since(at))
	}
	slices.Sort(took)
	return took[len(took)*95/100]
}

const (
	bareFrom = ` FROM standing st JOIN application a ON a.id = st.application_id JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id `
	bareRow  = `SELECT st.entry_id, a.ref, a.title, p.name, st.place, st.state, st.done, st.required, st.letter, st.asked, st.changed_at`
)

// The register at 10,000 in a round and 100,000 on the site, each statement beside
// the SQL one would write for it alone; giving it out; and an act on 2,000.
func BenchmarkRegister(b *testing.B) {
	h := programtest.Demo(b)
	var open, read string
	for key, state := range map[*string]lifecycle.State{&open: lifecycle.Draft, &read: lifecycle.Read} {
		if err := h.DB.Get(key,
			`SELECT r.key FROM round r JOIN standing s ON s.round_id = r.id WHERE s.state = $1 GROUP BY r.key ORDER BY count(*) DESC LIMIT 1`, state); err != nil {
			b.Fatal(err)
		}
	}
	h.Crowd(known, 340, open, true)
	h.Crowd(known, 667, read, true)
	h.Crowd(strings.Replace(known, "(r.key = $2) = $3", "r.key NOT IN ($2, $3)", 1), 2200, open, read)
	ctx := context.Background()
	rd, err := h.Rounds.Find(ctx, h.DB, read)
	if err != nil {
		b.Fatal(err)
	}
	f, err := h.Rounds.Published(ctx, h.DB, rd)
	if err != nil {
		b.Fatal(err)
	}
	one := desk.Sought{Round: rd.ID, Columns: register.Of(f), Today: calendar.DateOf(h.Clock.Now(), f.Zone), Zone: f.Zone,
		Most: 50, Shape: register.Shape{Columns: register.Default(f)}}
	all := desk.Sought{Columns: register.Of(nil), Today: one.Today, Zone: f.Zone, Most: 50,
		Shape: register.Shape{Columns: register.Default(nil)}}
	where := func(q desk.Sought, text string) desk.Sought {
		c, err := register.ParseCondition(text, q.Columns)
		if err != nil {
			b.Fatal(err)
		}
		q.Shape.Filter = register.Filter{c}
		return q
	}
	deep := func(q desk.Sought, by string) desk.Sought {
		q.Offset, q.Shape.Sort, q.Shape.Down = 9_000, by, true
		return q
	}
	list := func(q desk.Sought) func() error {
		return func() error { _, err := h.Desk.Register(ctx, q); return err }
	}
	totals := func(q desk.Sought) func() error {
		return func() error { _, err := h.Desk.RegisterTotals(ctx, q); return err }
	}
	bare := func(sql string, args ...any) func() error {
		return func() error {
			rows, err := h.DB.Query(sql, args...)
			if err != nil {
				return err
			}
			defer rows.Close()
			for rows.Next() {
			}
			return rows.Err()
		}
	}
	for _, c := range []struct {
		name     string
		do, bare func() error
	}{
		{"first page of 10,000", list(one),
			bare(bareRow+bareFrom+`WHERE st.latest AND st.round_id = $1 ORDER BY st.application_id DESC LIMIT 50`, rd.ID)},
		{"deep page by sum asked", list(deep(one, "asked")),
			bare(bareRow+bareFrom+`WHERE st.latest AND st.round_id = $1 ORDER BY st.asked DESC NULLS LAST, st.application_id DESC LIMIT 50 OFFSET 9000`, rd.ID)},
		{"filter on an answer", list(where(one, "q.repair-kind~is~peat")),
			bare(bareRow+bareFrom+`JOIN known k ON k.entry_id = st.entry_id WHERE st.latest AND st.round_id = $1 AND k.facts ->> 'q.repair-kind' = 'peat' ORDER BY st.application_id DESC LIMIT 50`, rd.ID)},
		{"sums of a filter on an answer", totals(where(one, "q.repair-kind~is~peat")),
			bare(`SELECT count(*), sum(st.asked), avg(st.done * 100.0 / st.required) FROM standing st JOIN known k ON k.entry_id = st.entry_id WHERE st.latest AND st.round_id = $1 AND k.facts ->> 'q.repair-kind' = 'peat'`, rd.ID)},
		{"sums of 10,000", totals(one),
			bare(`SELECT count(*), sum(st.asked), avg(st.done * 100.0 / st.required) FROM standing st WHERE st.latest AND st.round_id = $1`, rd.ID)},
		{"first page of 100,000", list(all),
			bare(bareRow + bareFrom + `WHERE st.latest ORDER BY st.application_id DESC LIMIT 50`)},
		{"deep page of 100,000", list(deep(all, "changed")), bare(bareRow + bareFrom +
			`WHERE st.latest ORDER BY st.changed_at DESC, st.application_id DESC LIMIT 50 OFFSET 9000`)},
		{"found among 100,000", list(where(all, "find~has~marsh")), bare(bareRow + bareFrom +
			`WHERE st.latest AND st.words @@ to_tsquery('simple', 'marsh:*') ORDER BY st.application_id DESC LIMIT 50`)},
		{"count of 100,000", totals(all), bare(`SELECT count(*) FROM standing st WHERE st.latest`)},
	} {
		b.Run(c.name, func(b *testing.B) {
			for b.Loop() {
			}
			slow, bound := slowest(b, 60, c.do), slowest(b, 60, c.bare)
			b.ReportMetric(float64(slow.Microseconds())/1000, "p95-ms")
			b.ReportMetric(float64(slow)/float64(bound), "×bare")
		})
	}
	_, base := webtest.Serve(b, h)
	v := webtest.Visit(b, base)
	if code, _ := v.Submit("/sign-in", url.Values{"email": {"neda.sparrow@ostrel-trust.example"},
		"password": {demo.Password}}); code != 303 {
		b.Fatal(code)
	}
	for _, path := range []string{"/office/rounds/" + read + "/applications", "/office/applications"} {
		b.Run("page "+path, func(b *testing.B) {
			for b.Loop() {
			}
			slow := slowest(b, 40, func() error {
				if code, _ := v.See(path); code != 200 {
					b.Fatal(code)
				}
				return nil
			})
			b.ReportMetric(float64(slow.Milliseconds()), "p95-ms")
		})
	}
	sixty := url.Values{}
	var keys []string
	for _, c := range one.Columns {
		if !c.Hidden && len(keys) < register.MostColumns-2 {
			keys = append(keys, c.Key)
		}
	}
	sixty.Set("cols", strings.Join(keys, ","))
	for _, kind := range []string{"csv", "json", "xlsx"} {
		b.Run("out "+kind, func(b *testing.B) {
			for b.Loop() {
			}
			runtime.GC()
			var m runtime.MemStats
			runtime.ReadMemStats(&m)
			idle, peak, stop := m.HeapAlloc, atomic.Uint64{}, make(chan struct{})
			go func() {
				for {
					select {
					case <-stop:
						return
					case <-time.After(200 * time.Millisecond):
						var m runtime.MemStats
						runtime.GC() // what is held, and not what is yet to be swept
						runtime.ReadMemStats(&m)
						peak.Store(max(peak.Load(), m.HeapAlloc))
					}
				}
			}()
			at := time.Now()
			res, err := v.Get(base + "/office/rounds/" + read + "/register." + kind + "?" + sixty.Encode())
			if err != nil || res.StatusCode != 200 {
				b.Fatal(res, err)
			}
			n, err := io.Copy(io.Discard, res.Body)
			res.Body.Close()
			close(stop)
			if err != nil {
				b.Fatal(err)
			}
			b.ReportMetric(float64(time.Since(at).Milliseconds()), "ms")
			b.ReportMetric(float64(n)/1e6, "MB")
			b.ReportMetric(float64(peak.Load()-min(idle, peak.Load()))/1e6, "MB-above-idle")
			b.ReportMetric(float64(len(keys)+2), "columns")
		})
	}
	neda := h.Person("neda.sparrow@ostrel-trust.example", "").ID
	for act, args := range map[bulk.Act]bulk.Args{bulk.PutLabel: {Label: "large"},
		bulk.Write: {Subject: "a {{ref}}", Text: "Dear {{name}}"}} {
		b.Run("2,000 "+string(act), func(b *testing.B) {
			for b.Loop() {
			}
			q := one
			q.Most = 2000
			rows, err := h.Desk.Register(ctx, q)
			if err != nil || len(rows) != 2000 {
				b.Fatal(len(rows), err)
			}
			var entries []int64
			for _, x := range rows {
				entries = append(entries, x.EntryID)
			}
			find := func(id int64) bulk.Bulk {
				x, err := h.Bulk.Find(ctx, h.DB, id, neda)
				if err != nil {
					b.Fatal(err)
				}
				return x
			}
			var id int64
			h.Act(neda, func(ctx context.Context, tx *db.Tx) (err error) {
				if id, err = h.Bulk.Begin(ctx, tx, bulk.Bulk{Round: rd.ID, Act: act}, entries); err != nil {
					return err
				}
				return h.Bulk.Tell(ctx, tx, bulk.Bulk{ID: id, Round: rd.ID, Act: act, Stage: bulk.Asked}, args)
			})
			at := time.Now()
			if err := h.Bulk.Run(ctx, h.Clock.Now(), id, bulk.Drawing); err != nil {
				b.Fatal(err)
			}
			drawn := time.Since(at)
			h.Act(neda, func(ctx context.Context, tx *db.Tx) error { return h.Bulk.Do(ctx, tx, find(id), tx.At) })
			at = time.Now()
			if err := h.Bulk.Run(ctx, h.Clock.Now(), id, bulk.Held); err != nil {
				b.Fatal(err)
			}
			b.ReportMetric(drawn.Seconds(), "s-drawn")
			b.ReportMetric(time.Since(at).Seconds(), "s-done")
			t, err := h.Bulk.Tally(ctx, h.DB, id)
			if err != nil || t[bulk.Did] != 2000 {
				b.Fatal(t, err)
			}
		})
	}
}
