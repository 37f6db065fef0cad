package whatif

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
)

const fixtures = "../../../shared/check-fixtures/"

func plain(worth, sum int64) Case { return Case{Known: true, Worth: worth, Asked: sum, Useful: sum} }

// The eight knapsacks of Burkardt's KNAPSACK_01, with their optima (check-values.md,
// section 4; HiGHS and a dynamic programme agree).
func TestPublishedKnapsacks(t *testing.T) {
	raw, err := os.ReadFile(fixtures + "knapsack_p01_p08.json")
	if err != nil {
		t.Fatal(err)
	}
	var list map[string]struct {
		Capacity int64   `json:"capacity"`
		Weights  []int64 `json:"weights"`
		Profits  []int64 `json:"profits"`
	}
	if err := json.Unmarshal(raw, &list); err != nil {
		t.Fatal(err)
	}
	want := map[string]int64{"P01": 309, "P02": 51, "P03": 150, "P04": 107, "P05": 900, "P06": 1735, "P07": 1458,
		"P08": 13549094}
	if len(list) != len(want) {
		t.Fatalf("%d knapsacks", len(list))
	}
	for name, k := range list {
		var cases []Case
		for i := range k.Weights {
			cases = append(cases, plain(k.Profits[i], k.Weights[i]))
		}
		b := BestSet(cases, Rules{Funds: []int64{k.Capacity}}, 100_000)
		if b.Worth != want[name] || !b.Proved || b.Bound != b.Worth {
			t.Errorf("%s: %d, bound %d, proved %v; want %d", name, b.Worth, b.Bound, b.Proved, want[name])
		}
	}
}

// The funding line of 45 cases (check-values.md, section 4: HiGHS and an exact dynamic
// programme): the best set, stopping at the first that does not fit, and going past it.
func TestFundingLine(t *testing.T) {
	f, err := os.Open(fixtures + "funding_line_45.csv")
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	col := map[string]int{}
	for i, h := range rows[0] {
		col[h] = i
	}
	var cases []Case
	for _, r := range rows[1:] {
		worth, _ := strconv.ParseInt(r[col["score_x10"]], 10, 64)
		sum, _ := strconv.ParseInt(r[col["requested_cents"]], 10, 64)
		cases = append(cases, plain(worth, sum))
	}
	sortByWorth(cases)
	rules := Rules{Funds: []int64{400_000_00}}
	for _, c := range []struct {
		past          bool
		funded        int
		worth, placed int64
	}{{false, 12, 11080, 384_238_23}, {true, 14, 12232, 397_940_21}} {
		rules.Past = c.past
		if r := Work(cases, rules); r.Funded() != c.funded || r.Worth != c.worth || r.Placed[0] != c.placed {
			t.Errorf("going past %v: %d funded, worth %d, %d placed; want %+v", c.past, r.Funded(), r.Worth, r.Placed[0], c)
		}
	}
	b := BestSet(cases, rules, 100_000)
	var spent int64
	funded := 0
	for _, g := range b.Gives {
		spent += g
		if g > 0 {
			funded++
		}
	}
	if b.Worth != 13174 || funded != 16 || spent != 399_389_71 || !b.Proved {
		t.Errorf("best: worth %d, %d funded, %d spent, proved %v", b.Worth, funded, spent, b.Proved)
	}
}

func sortByWorth(cases []Case) {
	for i := range cases {
		for j := i; j > 0 && cases[j].Worth > cases[j-1].Worth; j-- {
			cases[j], cases[j-1] = cases[j-1], cases[j]
		}
	}
}

// drawn is a small round as it comes.
func drawn(draw *rand.Rand, n int) ([]Case, Rules) {
	var cases []Case
	for range n {
		c := plain(int64(draw.IntN(500)), int64(1+draw.IntN(60)))
		c.Useful = c.Asked - int64(draw.IntN(int(c.Asked)))
		c.Known = draw.IntN(12) > 0
		c.Fund = draw.IntN(2)
		c.Groups = []int{draw.IntN(3), draw.IntN(2) - draw.IntN(2)}
		cases = append(cases, c)
	}
	sortByWorth(cases)
	rules := Rules{Funds: []int64{int64(draw.IntN(150)), int64(draw.IntN(150))}, Past: draw.IntN(2) == 0,
		Part: draw.IntN(2) == 0,
		Cut:  draw.IntN(3) * 100, Reserves: draw.IntN(4), Held: map[int]Held{}}
	for range draw.IntN(4) {
		q := Quota{Field: draw.IntN(2), Value: draw.IntN(2), Money: draw.IntN(2) == 0, Most: -1}
		scale := 3
		if q.Money {
			scale = 60
		}
		if draw.IntN(2) == 0 {
			q.Least = int64(draw.IntN(scale))
		}
		if draw.IntN(2) == 0 {
			q.Most = q.Least + int64(draw.IntN(scale))
		}
		rules.Quotas = append(rules.Quotas, q)
	}
	if draw.IntN(3) == 0 {
		rules.Held[draw.IntN(n)] = Held{Give: draw.IntN(2) == 0}
	}
	return cases, rules
}

// brute is the best set by trying every one; -1 where none keeps all conditions.
func brute(cases []Case, rules Rules) int64 {
	best := int64(-1)
	for set := range 1 << len(cases) {
		money, counts, worth, ok := make([]int64, len(rules.Funds)), make([]int64, len(rules.Quotas)), int64(0), true
		for i, c := range cases {
			in := set>>i&1 == 1
			h, held := rules.Held[i]
			sum := rules.Sum(c)
			if held && h.Give != in || !held && in && !c.Known || in && sum <= 0 {
				ok = false
				break
			}
			if !in {
				continue
			}
			money[c.Fund] += sum
			worth += c.Worth
			for q, quota := range rules.Quotas {
				if quota.of(c) {
					counts[q] += quota.counts(sum)
				}
			}
		}
		for f, m := range money {
			ok = ok && m <= rules.Funds[f]
		}
		for q, quota := range rules.Quotas {
			ok = ok && counts[q] >= quota.Least && (quota.Most < 0 || counts[q] <= quota.Most)
		}
		if ok {
			best = max(best, worth)
		}
	}
	return best
}

// Small rounds with two funds and quotas that cross, by trying every set.
func TestBestByTryingAll(t *testing.T) {
	draw := rand.New(rand.NewPCG(19, 1))
	impossible := 0
	for k := range 2000 {
		cases, rules := drawn(draw, 2+draw.IntN(9))
		want := brute(cases, rules)
		b := BestSet(cases, rules, 100_000)
		if b.Gives == nil {
			if want >= 0 {
				t.Fatalf("%d: none is found, one is worth %d: %+v %+v", k, want, cases, rules)
			}
			impossible++
			continue
		}
		if b.Worth != want || !b.Proved || b.Bound != want {
			t.Fatalf("%d: %d (bound %d, proved %v), want %d: %+v %+v", k, b.Worth, b.Bound, b.Proved, want, cases, rules)
		}
	}
	if impossible == 0 || impossible > 1500 {
		t.Errorf("%d of 2000 are impossible", impossible)
	}
}

// 200 rounds of 30 cases with five quotas, by GLPK where it is installed (Debian's
// glpk-utils).
func TestBestByGLPK(t *testing.T) {
	glpsol, err := exec.LookPath("glpsol")
	if err != nil {
		t.Skip("glpsol is not installed")
	}
	draw := rand.New(rand.NewPCG(19, 2))
	dir := t.TempDir()
	for k := range 200 {
		cases, rules := drawn(draw, 30)
		rules.Held = nil
		for f := range rules.Funds {
			rules.Funds[f] = int64(200 + draw.IntN(400))
		}
		b := BestSet(cases, rules, 200_000)
		want, ok := byGLPK(t, glpsol, filepath.Join(dir, strconv.Itoa(k)), cases, rules)
		if ok != (b.Gives != nil) || ok && (b.Worth != want || !b.Proved) {
			t.Fatalf("%d: %d (%v), GLPK has %d (%v)", k, b.Worth, b.Gives != nil, want, ok)
		}
	}
}

func byGLPK(t *testing.T, glpsol, file string, cases []Case, rules Rules) (int64, bool) {
	t.Helper()
	s := &search{rules: rules, cases: cases, best: -1}
	s.lay()
	var lp strings.Builder
	sum := func(c func(k int) int64) {
		lp.WriteString(" 0 z")
		for k := range s.of {
			if v := c(k); v != 0 {
				fmt.Fprintf(&lp, "\n %+d x%d", v, k)
			}
		}
	}
	lp.WriteString("Maximize\n obj:")
	sum(func(k int) int64 { return s.worth[k] })
	lp.WriteString("\nSubject To\n")
	for r, row := range s.rows {
		fmt.Fprintf(&lp, " r%d:", r)
		sum(func(k int) int64 { return row.counts[k] })
		fmt.Fprintf(&lp, " <= %d\n", row.most)
	}
	lp.WriteString("Bounds\n 0 <= z <= 0\nBinary\n")
	for k := range s.of {
		fmt.Fprintf(&lp, " x%d\n", k)
	}
	lp.WriteString("End\n")
	if err := os.WriteFile(file+".lp", []byte(lp.String()), 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command(glpsol, "--lp", file+".lp", "-o", file+".sol", "--mipgap",
		"0").CombinedOutput(); err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	raw, err := os.ReadFile(file + ".sol")
	if err != nil {
		t.Fatal(err)
	}
	if !strings.Contains(string(raw), "INTEGER OPTIMAL") {
		return 0, false
	}
	for line := range strings.Lines(string(raw)) {
		if rest, ok := strings.CutPrefix(line, "Objective:"); ok {
			f := strings.Fields(rest)
			v, err := strconv.ParseFloat(f[2], 64)
			if err != nil {
				t.Fatal(line)
			}
			return int64(v + 0.5), true
		}
	}
	t.Fatal("no objective")
	return 0, false
}

// large is a round of n cases with ten quotas.
func large(n int) ([]Case, Rules) {
	draw := rand.New(rand.NewPCG(19, 3))
	var cases []Case
	for range n {
		c := plain(int64(100+draw.IntN(400)), int64(2_000_00+draw.IntN(78_000)*100))
		c.Useful = c.Asked * 6 / 10
		c.Groups = []int{draw.IntN(5), draw.IntN(5)}
		cases = append(cases, c)
	}
	sortByWorth(cases)
	rules := Rules{Funds: []int64{int64(n) * 10_000_00}, Past: true, Part: true, Reserves: 20}
	for v := range 5 {
		rules.Quotas = append(rules.Quotas, Quota{Field: 0, Value: v, Money: true, Least: rules.Funds[0] * 12 / 100,
			Most: -1},
			Quota{Field: 1, Value: v, Most: int64(n) / 8})
	}
	return cases, rules
}

func BenchmarkWork2000(b *testing.B) {
	cases, rules := large(2000)
	for b.Loop() {
		Work(cases, rules)
	}
}

func BenchmarkBest2000(b *testing.B) {
	cases, rules := large(2000)
	for b.Loop() {
		best := BestSet(cases, rules, 3000)
		b.ReportMetric(float64(best.Bound-best.Worth)/float64(best.Worth)*1e6, "gap-ppm")
	}
}
