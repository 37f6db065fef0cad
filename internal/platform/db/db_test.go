package db_test

import (
	"context"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/dbtest"
	"ulvant/internal/platform/pgserver"
	"ulvant/migrations"
)

// The application's role reads and writes rows; it cannot change the schema,
// and nobody rewrites the trail.
func TestTheApplicationsRoleIsBounded(t *testing.T) {
	app, owner := dbtest.New(t)
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, app)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(ctx)
	if _, err := conn.Exec(ctx, `INSERT INTO trail (at, by_kind, by_id, verb) VALUES ('2027-03-02', 'job', 0, 'started')`); err != nil {
		t.Fatal(err)
	}
	for sql, says := range map[string]string{
		`CREATE TABLE extra (id int)`:               "permission denied",
		`ALTER TABLE account ADD COLUMN extra text`: "must be owner",
		`DROP TABLE mark`:                           "must be owner",
		`UPDATE trail SET verb = 'sent'`:            "only ever added to",
		`DELETE FROM trail`:                         "only ever added to",
	} {
		if _, err := conn.Exec(ctx, sql); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v, want %q", sql, err, says)
		}
	}
	if err := db.Migrate(ctx, owner, pgserver.App, migrations.FS); err != nil {
		t.Errorf("migrating what is migrated: %v", err)
	}
}
