package program_test

import (
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"slices"
	"testing"

	"ulvant/core/condition"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/desk"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/dbtest"
	"ulvant/internal/platform/pgserver"
	"ulvant/internal/programtest"
	"ulvant/migrations"
)

// restore puts a dump of an earlier release's demo into an empty database.
func restore(ctx context.Context, ownerURL, dump string) error {
	file, err := os.Open(dump)
	if err != nil {
		return err
	}
	defer file.Close()
	sql, err := gzip.NewReader(file)
	if err != nil {
		return err
	}
	cmd := exec.CommandContext(ctx, "psql", "-q", "-v", "ON_ERROR_STOP=1", "-o", os.DevNull, ownerURL)
	cmd.Stdin = sql
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("restoring %s: %w: %s", dump, err, out)
	}
	return nil
}

// The demo of every earlier release goes on under this one: its designs still
// compile, its seals still read, its lists show every application once.
func TestUpgradeFromEarlierReleases(t *testing.T) {
	for _, release := range []string{"release-1", "release-2", "release-3", "release-4"} {
		t.Run(release, func(t *testing.T) {
			url, owner := dbtest.Clone(t, "from_"+release[len("release-"):], func(ctx context.Context, ownerURL string) error {
				if err := restore(ctx, ownerURL, "../../migrations/testdata/"+release+".sql.gz"); err != nil {
					return err
				}
				return db.Migrate(ctx, ownerURL, pgserver.App, migrations.FS)
			})
			if err := db.Migrate(context.Background(), owner, pgserver.App, migrations.FS); err != nil {
				t.Fatalf("migrating a second time: %v", err)
			}
			h := programtest.On(t, url, t.TempDir(), nil)
			ctx := context.Background()
			rounds, err := h.Rounds.All(ctx)
			if err != nil || len(rounds) == 0 {
				t.Fatalf("%d rounds: %v", len(rounds), err)
			}
			if office, err := h.People.Office(ctx, h.Clock.Now()); err != nil ||
				len(office) != map[bool]int{false: 1, true: 4}[release == "release-4"] ||
				!slices.ContainsFunc(office, func(a people.Account) bool { return a.Name == "Neda Sparrow" }) {
				t.Errorf("who worked at the office: %+v %v", office, err)
			}
			if err := h.Cases.SweepKnown(ctx, h.Clock.Now()); err != nil {
				t.Fatalf("what the register knows: %v", err)
			}
			var unknown int
			if err := h.DB.Get(&unknown,
				`SELECT count(*) FROM standing s WHERE NOT s.known OR s.state = ANY($1) AND NOT EXISTS (SELECT FROM known k WHERE k.entry_id = s.entry_id AND k.facts <> '{}')`,
				lifecycle.With(lifecycle.Admitted)); err != nil || unknown > 0 {
				t.Errorf("of %d cases the register knows nothing: %v", unknown, err)
			}
			n := 0
			for _, rd := range rounds {
				if _, err := h.Rounds.Published(ctx, h.DB, rd); err != nil {
					t.Errorf("%s: %v", rd.Name, err)
				}
				items, err := h.Desk.Register(ctx, desk.Sought{Round: rd.ID})
				if err != nil {
					t.Fatal(err)
				}
				n += len(items)
				for _, it := range items {
					c, err := h.Cases.Find(ctx, h.DB, it.Ref)
					if err != nil {
						t.Fatalf("%s: %v", it.Ref, err)
					}
					if string(it.Stage) != c.Stage {
						t.Errorf("%s stands in %q in the list and in %q of itself", it.Ref, it.Stage, c.Stage)
					}
					reads(t, h, c)
				}
			}
			var all int
			if err := h.DB.Get(&all, `SELECT count(*) FROM application`); err != nil || all != n {
				t.Errorf("the lists show %d of %d applications: %v", n, all, err)
			}
		})
	}
}

// reads walks a case from what is kept of it: its seal when there is one.
func reads(t *testing.T, h *programtest.House, c application.Case) {
	t.Helper()
	f, _, _, err := h.Cases.Walk(context.Background(), h.DB, c, h.Clock.Now())
	if err != nil {
		t.Fatalf("%s: %v", c.Ref, err)
	}
	if c.SealID == nil {
		return
	}
	s, err := h.Cases.Sealed(context.Background(), h.DB, *c.SealID)
	if err != nil {
		t.Fatalf("%s: %v", c.Ref, err)
	}
	raw, sum, err := s.Decoded.Canonical()
	if err != nil || string(raw) != string(s.Document) || string(sum[:]) != string(s.SHA256) {
		var was, is any
		_ = json.Unmarshal(s.Document, &was)
		_ = json.Unmarshal(raw, &is)
		t.Errorf("%s: the seal does not read back as it was: %v\nwas %v\nis  %v", c.Ref, err, was, is)
	}
	for _, a := range s.Decoded.Answers {
		if st := f.Walk(s.Decoded.Filled(c.LeadName)).Find(a.Question); st == nil || st.Asked != condition.Yes {
			t.Errorf("%s: %s is sealed and not asked", c.Ref, a.Question)
		}
	}
}
