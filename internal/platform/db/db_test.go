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
	if _, err := conn.Exec(ctx,
		`INSERT INTO trail (at, by_kind, by_id, verb) VALUES ('2027-03-02', 'job', 0, 'started')`); err != nil {
		t.Fatal(err)
	}
	for sql, says := range map[string]string{
		`CREATE TABLE extra (id int)`:               "permission denied",
		`ALTER TABLE account ADD COLUMN extra text`: "must be owner",
		`DROP TABLE mark`:                           "must be owner",
		`UPDATE trail SET verb = 'sent'`:            "permission denied",
		`DELETE FROM trail`:                         "permission denied",
		`TRUNCATE trail`:                            "permission denied",
		`UPDATE seal SET sha256 = ''`:               "permission denied",
		`DELETE FROM seal`:                          "permission denied",
		`UPDATE act SET note = ''`:                  "permission denied",
		`DELETE FROM decision`:                      "permission denied",
		`UPDATE decision SET amount = 1`:            "permission denied",
		`DELETE FROM act_letters`:                   "permission denied",
		`SET LOCAL ulvant.erasing = 'on'; UPDATE trail SET verb = 'sent'`:                      "permission denied",
		`ALTER TABLE trail DISABLE TRIGGER ALL`:                                                "must be owner",
		`CREATE OR REPLACE FUNCTION erase_particulars(bigint) RETURNS void LANGUAGE sql AS ''`: "permission denied",
	} {
		if _, err := conn.Exec(ctx, sql); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v, want %q", sql, err, says)
		}
	}
	// erasing blanks who is named in a row's figures, and nothing else
	if _, err := conn.Exec(ctx, `INSERT INTO trail (at, by_kind, by_id, verb, application_id, figures) VALUES
		('2027-03-02', 'account', 7, 'named-referee', 41, '{"referee": "Dacian Rowe", "place": "2"}'), ('2027-03-02', 'account', 7, 'named-referee', 42, '{"referee": "Ada Quill"}')`); err != nil {
		t.Fatal(err)
	}
	if _, err := conn.Exec(ctx, `SELECT erase_particulars(41)`); err != nil {
		t.Fatal(err)
	}
	var left string
	if err := conn.QueryRow(ctx,
		`SELECT string_agg(application_id || verb || by_id || (figures->>'referee') || COALESCE(figures->>'place', ''), ' ' ORDER BY id) FROM trail WHERE application_id IS NOT NULL`).Scan(&left); err != nil || left != "41named-referee72 42named-referee7Ada Quill" {
		t.Errorf("after erasing: %q, %v", left, err)
	}
	// the owner cannot rewrite either, by mistake
	own, err := pgx.Connect(ctx, owner)
	if err != nil {
		t.Fatal(err)
	}
	defer own.Close(ctx)
	for _, sql := range []string{`UPDATE trail SET verb = 'sent'`, `DELETE FROM trail`,
		`UPDATE trail SET figures = '{"a": "b"}'`} {
		if _, err := own.Exec(ctx, sql); err == nil || !strings.Contains(err.Error(), "only ever added to") {
			t.Errorf("%s by the owner: %v", sql, err)
		}
	}
	if err := db.Migrate(ctx, owner, pgserver.App, migrations.FS); err != nil {
		t.Errorf("migrating what is migrated: %v", err)
	}
}

// The role that is given its rights is the one of the application's address.
func TestAppRole(t *testing.T) {
	for _, c := range []struct{ name, app, owner, want string }{
		{"two roles", "postgres://writer@db:5432/grants", "postgres://keeper:secret@db:5432/grants", "writer"},
		{"one role for both", "postgres://keeper@db/grants", "postgres://keeper@db/grants", ""},
		{"no address of the application", "", "postgres://keeper@db/grants", ""},
		{"key and value", "host=db user=writer dbname=grants", "host=db user=keeper dbname=grants", "writer"},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got, err := db.AppRole(c.app, c.owner); got != c.want || err != nil {
				t.Errorf("%q %v, want %q", got, err, c.want)
			}
		})
	}
	if _, err := db.AppRole("postgres://writer@db:none/x", "postgres://keeper@db/x"); err == nil {
		t.Error("an address that is none is taken")
	}
}

// A role of any name has its rights after migrating, and no more than those.
func TestMigrateGrants(t *testing.T) {
	_, owner := dbtest.New(t)
	dbtest.Exec(t, owner, `DO $$ BEGIN CREATE ROLE "a writer" LOGIN; EXCEPTION WHEN duplicate_object THEN NULL; END $$`)
	if err := db.Migrate(t.Context(), owner, "a writer", migrations.FS); err != nil {
		t.Fatal(err)
	}
	conn, err := pgx.Connect(t.Context(), owner)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(context.Background())
	for right, want := range map[string]bool{"application INSERT": true, "application DELETE": true, "trail INSERT": true,
		"trail UPDATE": false, "decision DELETE": false} {
		table, verb, _ := strings.Cut(right, " ")
		var has bool
		if err := conn.QueryRow(t.Context(), `SELECT has_table_privilege('a writer', $1, $2)`, table,
			verb).Scan(&has); err != nil || has != want {
			t.Errorf("%s: %v %v", right, has, err)
		}
	}
}
