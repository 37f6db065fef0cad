package main

import (
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

// On a package whose tests are known to leave a bound and a statement alone, just
// those live.
func TestWhatLivesIsKnown(t *testing.T) {
	t.Chdir("testdata/planted")
	dir, err := sources(".")
	if err != nil || len(dir) != 1 {
		t.Fatal(dir, err)
	}
	got, err := measure(mustAbs(t, "."), []string{"."}, 0, 1, 2)
	if err != nil {
		t.Fatal(err)
	}
	var alive []string
	for _, m := range got.alive {
		alive = append(alive, m.what)
	}
	want := []string{"n <= 9: <= is <", "asked = true is dropped", "true is false"}
	slices.Sort(alive)
	slices.Sort(want)
	if !slices.Equal(alive, want) {
		t.Errorf("alive: %q\nwant:  %q", alive, want)
	}
	if got.killed != 7 || got.tried != 10 || got.made != 10 {
		t.Errorf("%d of %d killed, of %d", got.killed, got.tried, got.made)
	}
}

// Tests that fail as the code stands are found out before anything is counted.
func TestFailingTestsAreNotBelieved(t *testing.T) {
	t.Chdir("testdata/planted")
	if _, err := measure(mustAbs(t, "."), []string{"./nowhere"}, 1, 1, 1); err == nil ||
		!strings.Contains(err.Error(), "nothing can see") {
		t.Errorf("it is measured all the same: %v", err)
	}
}

func mustAbs(t *testing.T, path string) string {
	t.Helper()
	abs, err := filepath.Abs(path)
	if err != nil {
		t.Fatal(err)
	}
	return abs
}
