package fee_test

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"ulvant/core/ledger"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/paydesk"
)

// BenchmarkRush lets 300 people send and pay at once, from sixteen at a time: send,
// begin, the card, the notice. It says how long the slowest twentieth of each step
// took, beside one row that is written and one that is read in the same minute.
func BenchmarkRush(b *testing.B) {
	const people, once = 300, 16
	for range b.N {
		b.StopTimer()
		h := open(b)
		cases := make([]application.Case, people)
		for i := range cases {
			cases[i] = h.Ready(fmt.Sprintf("p%d@isles.example", i))
		}
		h.Clock.Set(h.closes.Add(-time.Minute))
		var mu sync.Mutex
		took := map[string][]time.Duration{}
		step := func(name string, f func() error) {
			at := time.Now()
			if err := f(); err != nil {
				b.Errorf("%s: %v", name, err)
			}
			mu.Lock()
			took[name] = append(took[name], time.Since(at))
			mu.Unlock()
		}
		b.StartTimer()
		var wg sync.WaitGroup
		next := make(chan application.Case)
		for range once {
			wg.Go(func() {
				for c := range next {
					var k paydesk.Checkout
					step("send", func() error {
						return h.Try(c.LeadID, func(ctx context.Context, tx *db.Tx) (err error) {
							c, err = h.Intake.Send(ctx, tx, c)
							return err
						})
					})
					step("begin", func() error {
						url, err := h.Fees.Begin(
							b.Context(),
							h.Clock.Now(),
							db.Account(c.LeadID),
							c,
							nil,
							"http://localhost/back",
						)
						if err == nil {
							k, err = h.Fees.Desk.Get(b.Context(), url[strings.LastIndexByte(url, '/')+1:])
						}
						return err
					})
					h.Till.Take(k.ID, "pays", "never")
					k, _ = h.Fees.Desk.Get(b.Context(), k.ID)
					step("notice", func() error {
						return h.Fees.Notice(b.Context(), h.Clock.Now(), paydesk.Notice{ID: k.ID, Checkout: k})
					})
					step("row", func() error {
						_, err := h.DB.Exec(
							`INSERT INTO notice (id, at, known) VALUES ($1, now(), true)`,
							"row "+k.ID,
						)
						return err
					})
				}
			})
		}
		for _, c := range cases {
			next <- c
		}
		close(next)
		wg.Wait()
		b.StopTimer()
		base := p95(took["row"])
		for name, list := range took {
			b.ReportMetric(float64(p95(list).Milliseconds()), name+"-p95-ms")
			b.ReportMetric(float64(p95(list))/float64(base), name+"-×")
		}
		var in int
		if err := h.DB.Get(&in, `SELECT count(*) FROM charge WHERE stand = 'in' AND owed = 0`); err != nil ||
			in != people {
			b.Errorf("%d of %d are in, %v", in, people, err)
		}
		var paid int64
		if err := h.DB.Get(&paid, `SELECT sum(amount) FROM ledger WHERE kind = $1`, ledger.Paid); err != nil ||
			paid != people*9_000 {
			b.Errorf("%d were paid, %v", paid, err)
		}
	}
}

func p95(list []time.Duration) time.Duration {
	slices.SortFunc(list, func(a, b time.Duration) int { return cmp.Compare(a, b) })
	if len(list) == 0 {
		return 0
	}
	return list[len(list)*95/100]
}
