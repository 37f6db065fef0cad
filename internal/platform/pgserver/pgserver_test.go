package pgserver_test

import (
	"context"
	"os"
	"testing"

	"github.com/jackc/pgx/v5"

	"ulvant/internal/platform/pgserver"
)

// A server that is killed answers nobody at once, not even those who were connected, and
// the next start on the same folder has what was committed and not what was not.
func TestKilledAndStartedAgain(t *testing.T) {
	ctx := context.Background()
	dir, err := os.MkdirTemp("", "pgserver-") // every parent can be entered by PostgreSQL's user
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(dir) })
	if err := os.Chmod(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	s, err := pgserver.Start(ctx, pgserver.Options{Dir: dir})
	if err != nil {
		t.Fatal(err)
	}
	conn, err := pgx.Connect(ctx, s.OwnerURL("postgres"))
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(ctx)
	for _, sql := range []string{"CREATE TABLE kept (n int)", "INSERT INTO kept VALUES (1)", "BEGIN",
		"INSERT INTO kept VALUES (2)"} {
		if _, err := conn.Exec(ctx, sql); err != nil {
			t.Fatal(sql, err)
		}
	}
	s.Kill()
	if _, err := conn.Exec(ctx, "COMMIT"); err == nil {
		t.Error("whoever was connected goes on after the kill")
	}
	if c, err := pgx.Connect(ctx, s.OwnerURL("postgres")); err == nil {
		c.Close(ctx)
		t.Error("it can be connected to after the kill")
	}
	if s, err = pgserver.Start(ctx, pgserver.Options{Dir: dir}); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Stop() })
	again, err := pgx.Connect(ctx, s.OwnerURL("postgres"))
	if err != nil {
		t.Fatal(err)
	}
	defer again.Close(ctx)
	var n, most int
	if err := again.QueryRow(ctx, "SELECT count(*), max(n) FROM kept").Scan(&n, &most); err != nil || n != 1 || most != 1 {
		t.Errorf("%d rows up to %d, %v", n, most, err)
	}
}
