// Package db opens PostgreSQL and runs use cases: one use case, one
// transaction, with who acts and the instant that counts carried in it. No
// function below reads a clock or opens a transaction of its own.
package db

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
)

// Named are the arguments of a statement by name, written @name in it; for
// statements of more than five. One that is missing, or not used, is an error.
type Named = pgx.StrictNamedArgs

// Actor is who acts. ID is an account's, a link's, or 0.
type Actor struct {
	Kind string // account | link | job | nobody
	ID   int64
	From string // network address of the client, "" for none; for what touches the safety of accounts
}

// Job is the actor of work that nobody started by hand.
var Job = Actor{Kind: "job"}

// Account is the actor for an account.
func Account(id int64) Actor { return Actor{Kind: "account", ID: id} }

// Tx is a transaction under way, by somebody, at an instant.
type Tx struct {
	*sqlx.Tx
	By Actor
	At time.Time
}

// DB is the database.
type DB struct {
	*sqlx.DB
	Pool *pgxpool.Pool
	// Statements that PostgreSQL was asked since it was opened, BEGIN and COMMIT
	// among them: what a page or an act costs.
	Statements *Counter
}

// Counter counts statements, tells of them and, in tests, refuses them; it is pgx’s tracer.
type Counter struct {
	atomic.Int64
	watch  atomic.Pointer[func(sql string, args []any)]
	refuse atomic.Pointer[func(sql string) bool]
}

// Refuse has every statement fail for which f says so, before PostgreSQL hears of it: a
// database that goes away between two. Only for tests; nil ends it.
func (c *Counter) Refuse(f func(sql string) bool) {
	if f == nil {
		c.refuse.Store(nil)
		return
	}
	c.refuse.Store(&f)
}

// Watch has every statement told to f, in whatever order they come; nil ends it.
func (c *Counter) Watch(f func(sql string, args []any)) {
	if f == nil {
		c.watch.Store(nil)
		return
	}
	c.watch.Store(&f)
}

// TraceQueryStart counts one, and lets it go on unless it is refused.
func (c *Counter) TraceQueryStart(ctx context.Context, _ *pgx.Conn, q pgx.TraceQueryStartData) context.Context {
	c.Add(1)
	if f := c.watch.Load(); f != nil {
		(*f)(q.SQL, q.Args)
	}
	if f := c.refuse.Load(); f != nil && (*f)(q.SQL) {
		gone, cancel := context.WithCancel(ctx)
		cancel()
		return gone
	}
	return ctx
}

// TraceQueryEnd does nothing.
func (*Counter) TraceQueryEnd(context.Context, *pgx.Conn, pgx.TraceQueryEndData) {}

// Open connects with a pool of so many connections.
func Open(ctx context.Context, url string, connections int) (*DB, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("the database address cannot be read; write it as postgres://user@host:port/name: %w", err)
	}
	cfg.MaxConns = int32(connections)
	count := &Counter{}
	cfg.ConnConfig.Tracer = count
	// Pages ask for little of much: to compile a plan takes longer than to follow it.
	cfg.ConnConfig.RuntimeParams["jit"] = "off"
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, err
	}
	d := &DB{sqlx.NewDb(stdlib.OpenDBFromPool(pool), "pgx"), pool, count}
	if err := d.PingContext(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("PostgreSQL does not answer: %w", err)
	}
	d.SetMaxOpenConns(connections)
	return d, nil
}

// Close the pool.
func (d *DB) Close() {
	d.DB.Close()
	d.Pool.Close()
}

// Do runs one use case in one READ COMMITTED transaction, again up to twice
// more when PostgreSQL says that it collided with another.
func (d *DB) Do(ctx context.Context, by Actor, at time.Time, f func(context.Context, *Tx) error) error {
	for try := 1; ; try++ {
		err := d.once(ctx, by, at, f)
		var pg *pgconn.PgError
		collided := errors.As(err, &pg) && (pg.Code == "40001" || pg.Code == "40P01")
		if !collided || try == 3 {
			return err
		}
		slog.Info("a transaction collided and runs again", "try", try, "code", pg.Code)
	}
}

func (d *DB) once(ctx context.Context, by Actor, at time.Time, f func(context.Context, *Tx) error) error {
	tx, err := d.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := f(ctx, &Tx{tx, by, at.Truncate(time.Microsecond)}); err != nil {
		return err
	}
	return tx.Commit()
}

// IsDuplicate reports a violated unique index.
func IsDuplicate(err error) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == "23505"
}

// Querier is what reading needs: a DB, or a Tx under way.
type Querier interface {
	GetContext(ctx context.Context, dest any, query string, args ...any) error
	SelectContext(ctx context.Context, dest any, query string, args ...any) error
}
