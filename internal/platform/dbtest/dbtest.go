// Package dbtest gives every test a database of its own: a clone of a
// template that is migrated once and named by the migrations' hash. The server
// is the throwaway one that ./run test starts.
package dbtest

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"io/fs"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/pgserver"
	"ulvant/migrations"
)

// Env names the variable with the owner's address of the server's database
// postgres.
const Env = "ULVANT_TEST_SERVER"

// Folder names the variable with a folder that all test processes of a run
// share; it is gone after the run.
const Folder = "ULVANT_TEST_FOLDER"

// New makes a clone and returns its addresses, for the application's role and
// for the schema's owner. The clone goes when the test ends.
func New(t testing.TB) (appURL, ownerURL string) {
	t.Helper()
	return Clone(t, "ulvant", func(ctx context.Context, owner string) error {
		return db.Migrate(ctx, owner, pgserver.App, migrations.FS)
	})
}

// Exec runs statements on a database, as the owner of its tables.
func Exec(t testing.TB, ownerURL, sql string) {
	t.Helper()
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, ownerURL)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(ctx)
	if _, err := conn.Exec(ctx, sql); err != nil {
		t.Fatal(err)
	}
}

// Clone of a template that fill makes when it is not there yet. Templates are
// shared by all test processes of one run.
func Clone(t testing.TB, name string, fill func(ctx context.Context, ownerURL string) error) (appURL, ownerURL string) {
	t.Helper()
	server := os.Getenv(Env)
	if server == "" {
		t.Fatal("this test needs PostgreSQL: run it through ./run test, or ./run with-db go test ./…")
	}
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, server)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(ctx)
	template := "t_" + name + "_" + migrationsHash(t)
	if err := ensure(ctx, conn, server, template, fill); err != nil {
		t.Fatal(err)
	}
	clone := "c_" + strings.ToLower(rand.Text())
	if _, err := conn.Exec(ctx, "CREATE DATABASE "+clone+" TEMPLATE "+template+" STRATEGY FILE_COPY"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() {
		conn, err := pgx.Connect(ctx, server)
		if err == nil {
			conn.Exec(ctx, "DROP DATABASE "+clone+" WITH (FORCE)")
			conn.Close(ctx)
		}
	})
	return address(server, pgserver.App, clone), address(server, pgserver.Owner, clone)
}

func ensure(ctx context.Context, conn *pgx.Conn, server, template string,
	fill func(context.Context, string) error) error {
	// A lock for each: while the demo is built, tests of an empty database go on.
	if _, err := conn.Exec(ctx, "SELECT pg_advisory_lock(hashtext($1))", template); err != nil {
		return err
	}
	defer conn.Exec(ctx, "SELECT pg_advisory_unlock(hashtext($1))", template)
	var there bool
	if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT FROM pg_database WHERE datname = $1)",
		template).Scan(&there); err != nil || there {
		return err
	}
	making := template + "_making"
	for _, sql := range []string{"DROP DATABASE IF EXISTS " + making + " WITH (FORCE)", "CREATE DATABASE " + making} {
		if _, err := conn.Exec(ctx, sql); err != nil {
			return err
		}
	}
	if err := fill(ctx, address(server, pgserver.Owner, making)); err != nil {
		return err
	}
	_, err := conn.Exec(ctx, "ALTER DATABASE "+making+" RENAME TO "+template)
	return err
}

// AsApp is an owner's address of a database for the application's role.
func AsApp(ownerURL string) string {
	u, err := url.Parse(ownerURL)
	if err != nil {
		panic(err)
	}
	u.User = url.User(pgserver.App)
	return u.String()
}

func address(server, role, database string) string {
	u, err := url.Parse(server)
	if err != nil {
		panic(err)
	}
	u.User, u.Path = url.User(role), "/"+database
	return u.String()
}

func migrationsHash(t testing.TB) string {
	h := sha256.New()
	files, err := fs.Glob(migrations.FS, "*.sql")
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range files {
		b, err := migrations.FS.ReadFile(f)
		if err != nil {
			t.Fatal(err)
		}
		h.Write(b)
	}
	return hex.EncodeToString(h.Sum(nil)[:6])
}
