package application_test

import (
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"ulvant/core/lifecycle"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/dbtest"
)

var quoted = regexp.MustCompile(`'([a-z ]*)'::text`)

// The schema takes the states of the table and no other, and its indexes hold
// those that lists ask for.
func TestTheSchemaKnowsTheStates(t *testing.T) {
	app, _ := dbtest.New(t)
	d, err := db.Open(t.Context(), app, 2)
	if err != nil {
		t.Fatal(err)
	}
	defer d.Close()
	// what a panel decides: whether it is taken is said of it later, by others
	outcomes := slices.DeleteFunc(lifecycle.With(lifecycle.Decided), func(s lifecycle.State) bool {
		return s.Outcome() != s
	})
	for _, c := range []struct {
		name, query string
		want        []lifecycle.State
	}{
		{"entry_state", `SELECT pg_get_constraintdef(oid) FROM pg_constraint WHERE conname = $1`,
			lifecycle.With(lifecycle.Stored)},
		{"entry_told", `SELECT pg_get_constraintdef(oid) FROM pg_constraint WHERE conname = $1`,
			append(lifecycle.With(lifecycle.Stored), "")},
		{"standing_state", `SELECT pg_get_constraintdef(oid) FROM pg_constraint WHERE conname = $1 AND conrelid = 'standing'::regclass`, lifecycle.States()},
		{"decision_outcome", `SELECT pg_get_constraintdef(oid) FROM pg_constraint WHERE conname = $1`,
			outcomes},
		{"choice_outcome", `SELECT pg_get_constraintdef(oid) FROM pg_constraint WHERE conname = $1`,
			append(slices.Clone(outcomes), "")},
		{"standing_work", `SELECT pg_get_indexdef($1::regclass)`, lifecycle.With(lifecycle.UnderWay)},
	} {
		t.Run(c.name, func(t *testing.T) {
			var def string
			if err := d.Get(&def, c.query, c.name); err != nil {
				t.Fatal(err)
			}
			got := map[string]bool{}
			for _, m := range quoted.FindAllStringSubmatch(def, -1) {
				got[m[1]] = true
			}
			want := map[string]bool{}
			for _, s := range c.want {
				want[string(s)] = true
			}
			if !maps.Equal(got, want) {
				var list []string
				for s := range want {
					list = append(list, "'"+s+"'")
				}
				slices.Sort(list)
				t.Errorf("%s; a migration must make it IN (%s)", def, strings.Join(list, ", "))
			}
		})
	}
}

// No statement and no template has a state written out; they ask for facts.
func TestNoStateIsWrittenOut(t *testing.T) {
	var names []string
	for _, s := range lifecycle.States() {
		if s != lifecycle.Accepted && s != lifecycle.OfferDown { // a referee’s letter is accepted and declined by these words too
			names = append(names, string(s))
		}
	}
	any := strings.Join(names, "|")
	others := regexp.MustCompile(`UPDATE post SET|\b[ox]\.state = 'sent'`) // a letter's state, and a reference's
	inSQL := regexp.MustCompile(`\b(?:\w+\.)?(state|told|outcome)\s*(=|<>|NOT IN|IN)\s*\(?'(` + any + `)'`)
	inTemplates := regexp.MustCompile(`(eq|ne) \((state [.$\w]+|printf "%s" [.$\w]*(Case|Item|St)\.State)\) "(` + any +
		`)"`)
	seen := 0
	for _, root := range []string{"..", "../../demo"} {
		err := filepath.WalkDir(root, func(path string, e os.DirEntry, err error) error {
			if err != nil || e.IsDir() || strings.HasSuffix(path, "_test.go") || !strings.HasSuffix(path, ".go") &&
				!strings.HasSuffix(path, ".html") {
				return err
			}
			text, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			seen++
			for n, line := range strings.Split(string(text), "\n") {
				if inSQL.MatchString(line) && !others.MatchString(line) || inTemplates.MatchString(line) {
					t.Errorf("%s:%d writes a state out: %s", path, n+1, strings.TrimSpace(line))
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	if seen < 200 {
		t.Errorf("only %d files were read", seen)
	}
}
