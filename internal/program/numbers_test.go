package program_test

import (
	"context"
	"io/fs"
	"testing"
	"testing/fstest"

	"ulvant/internal/platform/db"
	"ulvant/internal/platform/dbtest"
	"ulvant/internal/platform/pgserver"
	"ulvant/internal/programtest"
	"ulvant/migrations"
)

// An office that has given out receipts and invoices goes on after the last of each when
// it is brought up to date; no release's demo has any.
func TestNumbersGoOn(t *testing.T) {
	before := fstest.MapFS{}
	files, err := fs.Glob(migrations.FS, "*.sql")
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range files {
		if name >= "00050" {
			continue
		}
		b, err := fs.ReadFile(migrations.FS, name)
		if err != nil {
			t.Fatal(err)
		}
		before[name] = &fstest.MapFile{Data: b}
	}
	_, owner := dbtest.Clone(t, "numbered", func(ctx context.Context, ownerURL string) error {
		return db.Migrate(ctx, ownerURL, pgserver.App, before)
	})
	dbtest.Exec(t, owner, `
		SET session_replication_role = replica; -- what they hang on is not the matter
		INSERT INTO payment (id, entry_id, amount, begun_at, at, bank, keeps, why, known_at)
		  SELECT 'p' || n, n, 6000, now(), now(), false, 6000, '', now() FROM generate_series(1, 41) n;
		INSERT INTO invoice (entry_id, payer_id, address, theirs, at, due_on)
		  SELECT n, n, '1 Quay', '', now(), now() FROM generate_series(1, 7) n;`)
	if err := db.Migrate(t.Context(), owner, pgserver.App, migrations.FS); err != nil {
		t.Fatal(err)
	}
	h := programtest.On(t, dbtest.AsApp(owner), t.TempDir(), nil)
	for series, want := range map[string]int64{"receipt": 41, "invoice": 7} {
		var last int64
		if err := h.DB.Get(&last, `SELECT last FROM fee_serial WHERE series = $1`, series); err != nil || last != want {
			t.Errorf("the last %s is %d, want %d: %v", series, last, want, err)
		}
	}
}
