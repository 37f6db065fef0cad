package voter_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"ulvant/core/vote"
	"ulvant/internal/browser"
	"ulvant/internal/programtest"
	"ulvant/internal/web/webtest"
)

// elections are those of section 9 of the values from outside, the Tennessee example, and
// many small ones at random, by every way of counting, with projects taken off and
// ballots left out.
func elections(t *testing.T) (out []*vote.Published) {
	t.Helper()
	add := func(e vote.Election, off []bool, ballots []vote.Choice, mark func(int) int) {
		p := &vote.Published{Format: vote.Format, By: e.By, Most: e.Most, Named: e.Named,
			Budget: e.Budget, Utility: e.Utility, Rest: e.Rest, LeftOut: []vote.LeftOut{},
			Ballots: []vote.Slip{}}
		for i, x := range e.Projects {
			o := vote.OnPaper{Number: i + 1, Cost: x.Cost}
			if i < len(off) && off[i] {
				o.Off = "built already"
			}
			p.Projects = append(p.Projects, o)
		}
		for i, c := range ballots {
			p.Ballots = append(p.Ballots,
				vote.Slip{Receipt: fmt.Sprint(i), Choice: c, Mark: mark(i), Points: e.By == vote.GivenPoints})
		}
		p.Result = vote.OutcomeOf(p.Count(false))
		out = append(out, p)
	}
	costs := func(list ...int64) (ps []vote.Project) {
		for _, c := range list {
			ps = append(ps, vote.Project{Cost: c})
		}
		return ps
	}
	letters := func(text string) (bs []vote.Choice) {
		for w := range strings.FieldsSeq(text) {
			var c vote.Choice
			for _, r := range w {
				c = append(c, int(r-'A'))
			}
			bs = append(bs, c)
		}
		return bs
	}
	none := func(int) int { return 0 }
	shares := vote.Election{By: vote.EqualShares, Utility: vote.OneEach, Budget: 100,
		Projects: costs(40, 30, 30, 20, 24)}
	add(shares, nil, letters("AB AB AB ABC A AC CD DE DE E"), none)
	if got := out[0].Result; !slices.Equal(got.Won, []int{1, 4}) || got.Bought[0].Rate != "20/3" {
		t.Fatalf("the first example of section 9: %+v", got)
	}
	shares.Projects = costs(20, 20, 20, 20, 20, 20, 20, 20, 20, 20)
	add(shares, nil, letters(strings.Repeat("ABCDE ", 60)+strings.Repeat("FGHIJ ", 40)), none)
	shares.Budget, shares.Projects = 30, costs(12, 14)
	add(shares, nil, letters("A AB B"), none)
	add(
		vote.Election{By: vote.Places, Named: 1, Projects: costs(0, 0, 0, 0)},
		nil,
		letters(strings.Repeat("ABCD ", 42)+strings.Repeat("BCDA ", 26)+
			strings.Repeat("CDBA ", 15)+strings.Repeat("DCBA ", 17)),
		none,
	)
	r := rand.New(rand.NewPCG(21, 2))
	for n := range 800 {
		e := vote.Election{
			By:    []vote.By{vote.MostVotes, vote.EqualShares, vote.EqualShares, vote.Places, vote.GivenPoints}[n%5],
			Named: 1 + r.IntN(3), Budget: int64(r.IntN(120)),
			Utility: []vote.Utility{vote.OneEach, vote.ByCost}[n/5%2],
			Rest:    []vote.Completion{vote.KeepRest, vote.ByVotes}[n/10%2]}
		var off []bool
		for range 1 + r.IntN(7) {
			e.Projects, off = append(e.Projects, vote.Project{Cost: int64(1 + r.IntN(40))}), append(off, r.IntN(6) == 0)
		}
		var ballots []vote.Choice
		for range r.IntN(14) {
			var c vote.Choice
			if e.By == vote.GivenPoints {
				c = make(vote.Choice, len(e.Projects))
			}
			for i, p := range r.Perm(len(e.Projects)) {
				switch {
				case e.By == vote.GivenPoints:
					c[i] = r.IntN(4)
				case r.IntN(3) == 0:
					c = append(c, p)
				}
			}
			ballots = append(ballots, c)
		}
		add(e, off, ballots, func(int) int { return r.IntN(5) / 4 })
	}
	return out
}

// The count in a visitor's browser, a program of its own, comes to the same as the
// server's on every test election, to the last fraction.
func TestTheBrowserCountsTheSame(t *testing.T) {
	t.Parallel()
	h := programtest.New(t)
	_, base := webtest.Serve(t, h)
	b := webtest.Browser(t)
	source, err := os.ReadFile("../static/counting.js")
	if err != nil {
		t.Fatal(err)
	}
	list := elections(t)
	raw, err := json.Marshal(list)
	if err != nil {
		t.Fatal(err)
	}
	window := webtest.In(t, webtest.Another(t, b, base))
	window.Goes("/")
	got, err := browser.Eval[string](window.Person, `(() => {`+string(source)+`
		return JSON.stringify(`+string(raw)+`.map(d => [countAgain(d), countAgain(d, true)])) })()`)
	window.Ok(err)
	var counted [][2]vote.Outcome
	if err := json.Unmarshal([]byte(got), &counted); err != nil || len(counted) != len(list) {
		t.Fatalf("%d of %d elections: %v", len(counted), len(list), err)
	}
	for i, p := range list {
		for with, mine := range counted[i] {
			theirs := vote.OutcomeOf(p.Count(with == 1))
			if a, b := webtest.ToJSON(mine), webtest.ToJSON(theirs); a != b {
				t.Errorf("election %d (%s), %d\nbrowser %s\nserver  %s\n%s", i, p.By, with, a, b, webtest.ToJSON(p))
			}
		}
	}
}
