package together

import (
	"context"
	"log/slog"
	"strconv"
	"sync"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
)

// Listener hears the notifications of one process and passes them to its open
// streams. It holds one connection of its own, and only while a stream is open
// or lately was.
type Listener struct {
	Pool *pgxpool.Pool
	mu   sync.Mutex
	open map[int64]map[chan struct{}]bool
	of   map[int64]int // streams by account
	on   bool
	stop context.CancelFunc // of the hearing that is on
}

// mostStreams one account may have open at a process. A browser keeps two; each
// costs half a megabyte.
const mostStreams = 12

// Listen is told of an application's changes through the channel, which holds
// one at most; call end when done. ok is false for an account that has too many
// streams open. After a lost connection everybody is told,
// since something may have been missed.
func (l *Listener) Listen(application, account int64) (told <-chan struct{}, end func(), ok bool) {
	ch := make(chan struct{}, 1)
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.of == nil {
		l.of = map[int64]int{}
	}
	if l.of[account] >= mostStreams {
		return nil, nil, false
	}
	l.of[account]++
	if l.open == nil {
		l.open = map[int64]map[chan struct{}]bool{}
	}
	if l.open[application] == nil {
		l.open[application] = map[chan struct{}]bool{}
	}
	l.open[application][ch] = true
	if !l.on {
		l.on = true
		var ctx context.Context
		ctx, l.stop = context.WithCancel(context.Background())
		go l.hear(ctx)
	}
	return ch, func() {
		l.mu.Lock()
		defer l.mu.Unlock()
		delete(l.open[application], ch)
		if len(l.open[application]) == 0 {
			delete(l.open, application)
		}
		if l.of[account]--; l.of[account] == 0 {
			delete(l.of, account)
		}
	}, true
}

// Stop ends the hearing, so that its connection can be closed at once.
func (l *Listener) Stop() {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.stop != nil {
		l.stop()
	}
}

func (l *Listener) tell(application int64) {
	l.mu.Lock()
	defer l.mu.Unlock()
	for id, list := range l.open {
		if application != 0 && application != id {
			continue
		}
		for ch := range list {
			select {
			case ch <- struct{}{}:
			default: // told already
			}
		}
	}
}

func (l *Listener) idle() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	if len(l.open) == 0 {
		l.on = false
	}
	return !l.on
}

// hear listens until nobody wants to know any more, or it is stopped.
func (l *Listener) hear(ctx context.Context) {
	for {
		if err := l.once(ctx); err == nil || ctx.Err() != nil {
			return
		} else {
			slog.Warn("hearing of changes was interrupted", "error", err)
		}
		if l.idle() {
			return
		}
		time.Sleep(time.Second)
		l.tell(0)
	}
}

func (l *Listener) once(ctx context.Context) error {
	conn, err := l.Pool.Acquire(ctx)
	if err != nil {
		return err
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, "LISTEN "+Channel); err != nil {
		return err
	}
	defer conn.Exec(context.WithoutCancel(ctx), "UNLISTEN "+Channel)
	for {
		wait, cancel := context.WithTimeout(ctx, 30*time.Second)
		n, err := conn.Conn().WaitForNotification(wait)
		late := wait.Err() != nil
		cancel()
		switch {
		case err == nil:
			if id, perr := strconv.ParseInt(n.Payload, 10, 64); perr == nil {
				l.tell(id)
			}
		case ctx.Err() != nil || !late:
			return err
		}
		if l.idle() {
			return nil
		}
	}
}
