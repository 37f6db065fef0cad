// Command mutants measures tests: it changes the code in small ways, one at a
// time, and counts for how many of them the nearest tests fail (DeMillo, Lipton
// and Sayward, Hints on test data selection, 1978). The changed file is laid over
// the true one (go test -overlay), so tests run in their own folder and find their
// fixtures. Before it is believed, the tests must pass over an unchanged file, and
// a change that nothing can see must be counted as alive.
//
//	./run mutants [-most 40] [-seed 1] [packages]
package main

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"
)

func main() {
	most := flag.Int("most", 40, "mutants tried of each package, picked at random; 0: all")
	seed := flag.Uint64("seed", 1, "of the picking")
	hands := flag.Int("hands", 2, "tried at once")
	flag.Parse()
	if err := run(flag.Args(), *most, *seed, *hands); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

// nearest are the tests that hold a package without any of its own.
var nearest = map[string]string{"internal/": "./internal/program"}

func run(patterns []string, most int, seed uint64, hands int) error {
	if len(patterns) == 0 {
		patterns = []string{"./core/..."}
	}
	out, err := exec.Command("go", append([]string{"list", "-f", "{{.Dir}} {{len .TestGoFiles}} {{len .XTestGoFiles}}"},
		patterns...)...).Output()
	if err != nil {
		return fmt.Errorf("listing packages: %w", err)
	}
	here, err := os.Getwd()
	if err != nil {
		return err
	}
	all := tally{}
	for _, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		var dir string
		var tests, xtests int
		if _, err := fmt.Sscan(line, &dir, &tests, &xtests); err != nil {
			return err
		}
		rel, err := filepath.Rel(here, dir)
		if err != nil {
			return err
		}
		suite := []string{"./" + rel}
		if tests+xtests == 0 {
			suite = nil
			for prefix, by := range nearest {
				if strings.HasPrefix(rel, prefix) {
					suite = []string{by}
				}
			}
		}
		if suite == nil {
			fmt.Printf("%-28s no tests\n", rel)
			continue
		}
		t, err := measure(dir, suite, most, seed, hands)
		if err != nil {
			return fmt.Errorf("%s: %w", rel, err)
		}
		t.print(rel)
		all.add(t)
	}
	all.print("all")
	return nil
}

// tally is what came of a package's mutants.
type tally struct {
	made, tried, killed, wrong int // wrong: they do not compile
	alive                      []mutant
}

func (t *tally) add(o tally) {
	t.made, t.tried, t.killed, t.wrong = t.made+o.made, t.tried+o.tried, t.killed+o.killed, t.wrong+o.wrong
	t.alive = append(t.alive, o.alive...)
}

func (t tally) print(name string) {
	share := "–"
	if n := t.killed + len(t.alive); n > 0 {
		share = fmt.Sprintf("%d%%", 100*t.killed/n)
	}
	fmt.Printf("%-28s %5s killed: %d of %d tried that compile, of %d there are\n", name, share, t.killed,
		t.killed+len(t.alive), t.made)
	if name == "all" {
		return
	}
	for _, m := range t.alive {
		fmt.Printf("    alive %s:%d  %s\n", filepath.Base(m.file), m.line, m.what)
	}
}

// fate of a mutant.
type fate int

const (
	killed fate = iota
	alive
	wrong // it does not compile
)

func measure(dir string, suite []string, most int, seed uint64, hands int) (t tally, err error) {
	files, err := sources(dir)
	if err != nil || len(files) == 0 {
		return t, err
	}
	var list []mutant
	for _, f := range files {
		made, err := mutantsOf(f)
		if err != nil {
			return t, err
		}
		list = append(list, made...)
	}
	t.made = len(list)
	begun := time.Now()
	still, err := planted(files[0])
	if err != nil {
		return t, err
	}
	if got, says := try(still, suite, 10*time.Minute); got != alive {
		return t, fmt.Errorf("a change that nothing can see is not counted as alive; the tests must pass as the code "+
			"stands:\n%s", says)
	}
	patience := 5*time.Since(begun) + 10*time.Second
	rand.New(rand.NewPCG(seed, seed)).Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	if most > 0 {
		list = list[:min(most, len(list))]
	}
	var mu sync.Mutex
	var wg sync.WaitGroup
	work := make(chan mutant)
	for range hands {
		wg.Go(func() {
			for m := range work {
				got, _ := try(m, suite, patience)
				mu.Lock()
				t.tried++
				switch got {
				case killed:
					t.killed++
				case alive:
					t.alive = append(t.alive, m)
				case wrong:
					t.wrong++
				}
				mu.Unlock()
			}
		})
	}
	for _, m := range list {
		work <- m
	}
	close(work)
	wg.Wait()
	slices.SortFunc(t.alive, func(a, b mutant) int {
		return strings.Compare(fmt.Sprintf("%s %6d", a.file, a.line), fmt.Sprintf("%s %6d", b.file, b.line))
	})
	return t, nil
}

// try runs the tests over a mutant; says is what they printed.
func try(m mutant, suite []string, patience time.Duration) (fate, string) {
	folder, err := os.MkdirTemp("", "mutant")
	if err != nil {
		return wrong, err.Error()
	}
	defer os.RemoveAll(folder)
	changed, overlay := filepath.Join(folder, "changed.go"), filepath.Join(folder, "overlay.json")
	lay, err := json.Marshal(map[string]map[string]string{"Replace": {m.file: changed}})
	if err == nil {
		err = os.WriteFile(changed, m.bytes, 0o600)
	}
	if err == nil {
		err = os.WriteFile(overlay, lay, 0o600)
	}
	if err != nil {
		return wrong, err.Error()
	}
	ctx, cancel := context.WithTimeout(context.Background(), patience)
	defer cancel()
	cmd := exec.CommandContext(ctx, "go", append([]string{"test", "-overlay", overlay, "-vet=off", "-ldflags=-w",
		"-count=1",
		"-failfast"}, suite...)...)
	cmd.WaitDelay = 2 * time.Second
	out, err := cmd.CombinedOutput()
	says := string(out)
	switch {
	case err == nil:
		return alive, says
	case strings.Contains(says, "[build failed]") || strings.Contains(says, "[setup failed]"):
		return wrong, says
	}
	return killed, says
}
