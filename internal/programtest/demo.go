package programtest

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"ulvant/demo"
	"ulvant/internal/platform/clock"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/dbtest"
	"ulvant/internal/platform/pgserver"
	"ulvant/migrations"
)

// Demo is a house that holds the whole demo, as of Noon. It is built once for
// all tests of a run; each gets a clone of its database and of its files.
func Demo(t testing.TB) *House {
	t.Helper()
	kept := filepath.Join(os.Getenv(dbtest.Folder), "demo")
	url, _ := dbtest.Clone(t, "demo", func(ctx context.Context, ownerURL string) error {
		if err := db.Migrate(ctx, ownerURL, pgserver.App, migrations.FS); err != nil {
			return err
		}
		if err := os.RemoveAll(kept); err != nil {
			return err
		}
		h := open(t, dbtest.AsApp(ownerURL), kept, clock.NewSettable(Noon))
		defer func() { h.Close(); h.Tray.Stop() }()
		return demo.Build(ctx, h.Program, h.Till, h.Clock.Now())
	})
	dir := t.TempDir()
	if err := os.CopyFS(dir, os.DirFS(kept)); err != nil {
		t.Fatal(err)
	}
	return On(t, url, dir, nil)
}
