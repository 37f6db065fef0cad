package db_test

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net"
	"testing"

	"github.com/jackc/pgx/v5/pgconn"

	"ulvant/internal/platform/db"
)

// Which errors are PostgreSQL's being away; codes by its manual, appendix A.
func TestAway(t *testing.T) {
	code := func(c string) error { return fmt.Errorf("saving: %w", &pgconn.PgError{Code: c}) }
	for _, c := range []struct {
		what string
		err  error
		want bool
	}{
		{"a full disk", code("53100"), true},
		{"too many connections", code("53300"), true},
		{"an administrator shuts it down", code("57P01"), true},
		{"it is starting", code("57P03"), true},
		{"the connection broke", code("08006"), true},
		{"nobody listens", fmt.Errorf("x: %w", &net.OpError{Op: "dial", Err: errors.New("connection refused")}), true},
		{"a row that is there already", code("23505"), false},
		{"a wrong statement", code("42601"), false},
		{"a statement took too long", code("57014"), false},
		{"no row", sql.ErrNoRows, false},
		{"the visitor left", context.Canceled, false},
		{"nothing", nil, false},
	} {
		if got := db.Away(c.err); got != c.want {
			t.Errorf("%s: %v, want %v", c.what, got, c.want)
		}
	}
	if _, err := db.Open(context.Background(), "postgres://ulvant_app@127.0.0.1:1/none?sslmode=disable",
		1); !db.Away(err) {
		t.Errorf("a port where nobody listens: %v", err)
	}
}
