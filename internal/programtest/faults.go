package programtest

import (
	"context"
	"sync"

	"ulvant/internal/platform/db"
)

// Held runs a use case now, as Act does, but first once for each of its statements with
// that one failing, as if the database went away: every such run must say so, for what
// says nothing has kept half of what it was asked to keep. What f reads into must be
// fit to be read into again.
func (h *House) Held(account int64, f func(context.Context, *db.Tx) error) {
	h.T.Helper()
	h.held(func() error { return h.Try(account, f) })
}

// Answers runs what reads outside a use case as Held does; it returns how many statements
// there are.
func (h *House) Answers(f func(context.Context) error) int {
	h.T.Helper()
	return h.held(func() error { return f(context.Background()) })
}

func (h *House) held(f func() error) int {
	h.T.Helper()
	for n := 1; ; n++ {
		met, err := h.atFault(n, f)
		if met == "" {
			if err != nil {
				h.T.Fatal(err)
			}
			return n - 1
		}
		if err == nil {
			h.T.Fatalf("statement %d failed and nothing was said:\n%s", n, met)
		}
	}
}

// atFault runs f with its n-th statement failing, and with it what database/sql does at
// once to try that one again. met is the statement that failed, "" where f has fewer.
func (h *House) atFault(n int, f func() error) (met string, err error) {
	var lock sync.Mutex // a use case may ask for two things beside each other
	count := 0
	h.DB.Statements.Refuse(func(sql string) bool {
		lock.Lock()
		defer lock.Unlock()
		count++
		if count == n {
			met = sql
		}
		return count >= n && sql == met
	})
	defer h.DB.Statements.Refuse(nil)
	err = f()
	lock.Lock()
	defer lock.Unlock()
	return met, err
}
