package assignment

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"
)

// program is a problem as an integer program in the LP format of CPLEX, which
// general solvers read. Loads are not priced.
func program(p *Problem) string {
	var obj, rows, names []string
	x := func(c, r int) string { return fmt.Sprintf("x_%d_%d", c, r) }
	row := func(sum []string, rel string, n int) {
		if len(sum) == 0 {
			sum = []string{"0 zero"}
		}
		rows = append(rows, strings.Join(sum, " + ")+" "+rel+" "+strconv.Itoa(n))
	}
	ofReader := make([][]string, p.Readers())
	for c, costs := range p.Costs {
		var of, knowing []string
		orgs := map[int][]string{}
		for r, v := range costs {
			if v == Never {
				continue
			}
			names = append(names, x(c, r))
			obj = append(obj, fmt.Sprintf("%d %s", v, x(c, r)))
			of, ofReader[r] = append(of, x(c, r)), append(ofReader[r], x(c, r))
			if p.org(r) != None {
				orgs[p.org(r)] = append(orgs[p.org(r)], x(c, r))
			}
			if p.knows(c, r) {
				knowing = append(knowing, x(c, r))
			}
		}
		row(of, "=", p.Each[c])
		for _, list := range orgs {
			row(list, "<=", 1)
		}
		if p.Field != nil && p.Field[c] != None {
			row(knowing, ">=", 1)
		}
	}
	for r, list := range ofReader {
		row(list, "<=", p.Most[r])
		row(list, ">=", p.least(r))
	}
	return "Minimize\n obj: " + strings.Join(append(obj, "0 zero"), "\n + ") + "\nSubject To\n " +
		strings.Join(rows, "\n ") +
		"\nBounds\n 0 <= zero <= 0\nBinary\n " + strings.Join(names, "\n ") + "\nEnd\n"
}

var objective = regexp.MustCompile(`Objective:\s+obj = (\S+) \(MINimum\)`)

// Two hundred random rounds against a general solver: Debian's glpk-utils, where it is
// installed.
func TestAgainstAGeneralSolver(t *testing.T) {
	glpsol, err := exec.LookPath("glpsol")
	if err != nil {
		t.Skip("glpsol is not installed (Debian: glpk-utils)")
	}
	r := rand.New(rand.NewPCG(18, 5))
	dir := t.TempDir()
	solved, not := 0, 0
	for i := range 200 {
		cases, readers := 5+r.IntN(8), 4+r.IntN(5)
		each, orgs, fields := 1+r.IntN(2), 0, 0
		if i%3 == 1 {
			orgs = 3
		} else if i%3 == 2 {
			fields = 3
		}
		least := r.IntN(2)
		p := drawn(cases, readers, each, least, least+1+cases*each/readers+r.IntN(2)-r.IntN(2), orgs, fields, uint64(1000+i))
		lp, out := filepath.Join(dir, "round.lp"), filepath.Join(dir, "round.txt")
		if err := os.WriteFile(lp, []byte(program(p)), 0o600); err != nil {
			t.Fatal(err)
		}
		if msg, err := exec.Command(glpsol, "--lp", lp, "-o", out).CombinedOutput(); err != nil {
			t.Fatalf("%v: %s", err, msg)
		}
		text, err := os.ReadFile(out)
		if err != nil {
			t.Fatal(err)
		}
		plan := Solve(p, 0)
		done := len(plan.Short)+len(plan.Under) == 0
		best := strings.Contains(string(text), "INTEGER OPTIMAL")
		if best != done {
			t.Fatalf("%d: the solver finds one %v, we %v: %+v", i, best, done, plan)
		}
		if !best {
			not++
			continue
		}
		m := objective.FindSubmatch(text)
		if m == nil {
			t.Fatalf("%d: no objective in %s", i, text)
		}
		want, err := strconv.ParseFloat(string(m[1]), 64)
		if err != nil {
			t.Fatal(err)
		}
		holds(t, strconv.Itoa(i), p, plan)
		if float64(plan.Cost) != want {
			t.Errorf("%d: %d, the solver has %v", i, plan.Cost, want)
		}
		solved++
	}
	if solved < 100 || not < 5 {
		t.Errorf("%d were solved, %d cannot be", solved, not)
	}
}
