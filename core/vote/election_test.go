package vote_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"ulvant/core/refusal"
	. "ulvant/core/vote"
)

func projects(n int) []Project { return make([]Project, n) }

func TestWhatABallotCanSay(t *testing.T) {
	for _, c := range []struct {
		says   string
		e      Election
		choice Choice
		want   string // "" where it can
	}{
		{"nothing at all", Election{Projects: projects(3)}, nil, ""},
		{"as many as it may", Election{Projects: projects(3), Most: 2}, Choice{2, 0}, ""},
		{"one more", Election{Projects: projects(3), Most: 2}, Choice{2, 0, 1},
			"you have chosen 3 projects, and this ballot may name 2; take some away"},
		{"any number", Election{Projects: projects(3)}, Choice{0, 1, 2}, ""},
		{"one twice", Election{Projects: projects(3)}, Choice{1, 1}, "a project is named twice; name it once"},
		{"one that is not there", Election{Projects: projects(3)}, Choice{3},
			"this ballot is of another ballot paper; open it again"},
		{"one below the first", Election{Projects: projects(3)}, Choice{-1},
			"this ballot is of another ballot paper; open it again"},
		{"all the points", Election{By: GivenPoints, Projects: projects(3), Most: 6}, Choice{1, 0, 5}, ""},
		{"no points", Election{By: GivenPoints, Projects: projects(3), Most: 6}, nil, ""},
		{"one point more", Election{By: GivenPoints, Projects: projects(3), Most: 6}, Choice{2, 0, 5},
			"you have given more than 6 points; take some away"},
		{"ten points unless it is said", Election{By: GivenPoints, Projects: projects(1)}, Choice{11},
			"you have given more than 10 points; take some away"},
		{"points taken from somebody", Election{By: GivenPoints, Projects: projects(2), Most: 6}, Choice{9, -3},
			"a project is given no points, or some"},
		{"points of another paper", Election{By: GivenPoints, Projects: projects(2), Most: 6}, Choice{1},
			"this ballot is of another ballot paper; open it again"},
		{"points beyond any sum", Election{By: GivenPoints, Projects: projects(2), Most: 6}, Choice{1 << 62, 1 << 62},
			"you have given more than 6 points; take some away"},
	} {
		t.Run(c.says, func(t *testing.T) {
			got := ""
			if no, ok := refusal.Of(c.e.Fits(c.choice)); ok {
				got = no.Error()
			}
			if got != c.want {
				t.Errorf("%q, not %q", got, c.want)
			}
		})
	}
}

func choices(text string) (out []Choice) {
	for _, b := range approving(strings.ReplaceAll(text, "-", "")) {
		out = append(out, Choice(b))
	}
	return out
}

func TestCount(t *testing.T) {
	for _, c := range []struct {
		says    string
		e       Election
		ballots []Choice
		off     []bool
		came    []int64
		won     []int
		blank   int
	}{
		{"whoever has most", Election{By: MostVotes, Projects: projects(3), Named: 1}, choices("A AB B BC"), nil,
			[]int64{2, 3, 1}, []int{1}, 0},
		{"who is tied with the last is named too", Election{By: MostVotes, Projects: projects(4), Named: 2},
			choices("A A B C"), nil,
			[]int64{2, 1, 1, 0}, []int{0, 1, 2}, 0},
		{"nobody is named whom nobody named", Election{By: MostVotes, Projects: projects(3), Named: 3},
			append(choices("A"), nil), nil,
			[]int64{1, 0, 0}, []int{0}, 1},
		{"one is taken off", Election{By: MostVotes, Projects: projects(3), Named: 1}, choices("A AB AC C"), []bool{true},
			[]int64{0, 1, 2}, []int{2}, 0},
		{"the points of places close up behind it", Election{By: Places, Projects: projects(3), Named: 1},
			choices("ABC BAC"), []bool{true, false, false},
			[]int64{0, 2, 0}, []int{1}, 0},
		{"points", Election{By: GivenPoints, Projects: projects(2), Named: 1}, []Choice{{3, 1}, {0, 4}, {0, 0}, nil}, nil,
			[]int64{3, 5}, []int{1}, 2},
		{"points of one that is off", Election{By: GivenPoints, Projects: projects(2), Named: 1}, []Choice{{3, 1}, {0, 4}},
			[]bool{false, true},
			[]int64{3, 0}, []int{0}, 0},
		{"money that is left goes to nobody without a vote", Election{By: EqualShares, Projects: costs(10, 10), Budget: 30,
			Rest: ByVotes}, choices("A A"), nil,
			[]int64{2, 0}, []int{0}, 0},
	} {
		t.Run(c.says, func(t *testing.T) {
			r := c.e.Count(c.ballots, c.off)
			if !slices.Equal(r.Came, c.came) || !slices.Equal(r.Won, c.won) || r.Blank != c.blank ||
				r.Ballots != len(c.ballots) {
				t.Errorf("came %v, won %v, %d blank of %d; not %v, %v, %d", r.Came, r.Won, r.Blank, r.Ballots,
					c.came, c.won, c.blank)
			}
		})
	}
}

func TestFaultsBeforeItOpens(t *testing.T) {
	for _, c := range []struct {
		says string
		e    Election
		want string // ! before what stops it
	}{
		{"two of which one is named", Election{Projects: projects(2), Named: 1}, ""},
		{"one alone", Election{Projects: projects(1), Named: 1},
			"!A vote needs two projects at least; 1 stands on the ballot paper."},
		{"nobody named", Election{Projects: projects(2)}, "!Say how many the vote names."},
		{"all named", Election{Projects: projects(2), Named: 2},
			"The vote names 2 and only 2 stand on the ballot paper: nobody loses."},
		{"a ballot of all", Election{Projects: projects(2), Named: 1, Most: 2},
			"A ballot may name 2, and that is all of them."},
		{"no project fits", Election{By: EqualShares, Projects: costs(101, 200), Budget: 100},
			"!No project fits the budget of €1."},
		{"one fits", Election{By: EqualShares, Projects: costs(100, 200), Budget: 100},
			"“B” costs more than the whole budget and can never be paid for."},
		{"everything fits", Election{By: EqualShares, Projects: costs(40, 60), Budget: 100},
			"All projects together cost €1: the budget pays for every one, so there is nothing to choose."},
		{"a cost that nobody knows", Election{By: EqualShares, Projects: costs(0, 101), Budget: 100},
			"!What “A” costs is not known, and equal shares go by it. “B” costs more than the whole budget and can never be paid for."},
	} {
		t.Run(c.says, func(t *testing.T) {
			var got []string
			for _, f := range c.e.Faults([]string{"A", "B"}[:len(c.e.Projects)], "EUR") {
				mark := ""
				if f.Stops {
					mark = "!"
				}
				got = append(got, mark+f.Says)
			}
			if s := strings.Join(got, " "); s != c.want {
				t.Errorf("%s", s)
			}
		})
	}
}

// Made-up voters say nothing that a ballot cannot say, and a camp of two fifths gets its
// part by equal shares, and nothing by votes.
func TestElectorates(t *testing.T) {
	for _, by := range []By{MostVotes, EqualShares, Places, GivenPoints} {
		for n := 1; n < 7; n++ {
			e := Election{By: by, Projects: projects(n), Named: 1, Most: 3, Budget: 100}
			for i := range e.Projects {
				e.Projects[i].Cost = 20
			}
			for _, x := range e.Rehearse([]byte("seed")) {
				if x.Broken != "" {
					t.Errorf("%s of %d, %s: %s", by, n, x.Says, x.Broken)
				}
				if len(x.Ballots) != Rehearsed {
					t.Fatalf("%d voters", len(x.Ballots))
				}
				for _, b := range x.Ballots {
					if err := e.Fits(b); err != nil {
						t.Fatalf("%s of %d, %s: %v", by, n, x.Says, err)
					}
				}
			}
		}
	}
	e := Election{By: EqualShares, Projects: costs(20, 20, 20, 20, 20, 20, 20, 20, 20, 20), Budget: 100}
	larger := e.Electorates([]byte("seed"))[1].Ballots[0]
	if got := e.Count(e.Electorates([]byte("seed"))[1].Ballots, nil).Won; len(got) != 5 ||
		slices.Contains(larger, got[4]) {
		t.Errorf("equal shares buy %v for camps of which the larger likes %v", got, larger)
	}
}

func TestDrawn(t *testing.T) {
	seen := map[string]int{}
	for i := range 6000 {
		o := Drawn(3, fmt.Appendf(nil, "voter %d", i))
		sorted := slices.Sorted(slices.Values(o))
		if !slices.Equal(sorted, []int{0, 1, 2}) {
			t.Fatalf("%v is no order of three", o)
		}
		seen[fmt.Sprint(o)]++
	}
	for o, n := range seen { // 1,000 of each is expected; 5 standard deviations are 145
		if n < 855 || n > 1145 {
			t.Errorf("%s is drawn %d times of 6,000", o, n)
		}
	}
	if len(seen) != 6 || !slices.Equal(Drawn(20, []byte("x")), Drawn(20, []byte("x"))) {
		t.Errorf("%d orders of 6", len(seen))
	}
}

func TestWords(t *testing.T) {
	w := Word([]byte("somebody"))
	for _, c := range []struct {
		typed, want string
		ok          bool
	}{
		{w, w, true}, {strings.ToLower(w), w, true}, {strings.ReplaceAll(w, "-", ""), w, true},
		{" " + strings.ReplaceAll(w, "-", " ") + "\n", w, true}, {strings.ReplaceAll(w, "-", "–"), w, true},
		{w[:len(w)-1], w[:len(w)-1], false}, {w + "2", "", false}, {"0" + w[1:], "", false}, {"", "", false},
	} {
		if got, ok := ReadWord(c.typed); ok != c.ok || ok && got != c.want {
			t.Errorf("%q reads as %q, %v", c.typed, got, ok)
		}
	}
	if len(w) != 14 || w == Word([]byte("somebody else")) {
		t.Errorf("%q", w)
	}
}

// Ten at once, then one in three seconds; whoever waits loses nothing, and a quiet
// minute gives ten back.
func TestPace(t *testing.T) {
	p := Pace{Every: 3 * time.Second, Burst: 10}
	at := time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC)
	var due, turn time.Time
	for i := range 14 {
		turn, due = p.Turn(due, at)
		if want := time.Duration(max(0, i-9)) * 3 * time.Second; turn.Sub(at) != want {
			t.Errorf("try %d waits %s, not %s", i+1, turn.Sub(at), want)
		}
	}
	if turn, _ = p.Turn(due, at.Add(6*time.Second)); turn.Sub(at) != 15*time.Second {
		t.Errorf("six seconds later the next waits until %s after the first", turn.Sub(at))
	}
	if turn, _ = p.Turn(due, at.Add(time.Minute)); !turn.Equal(at.Add(time.Minute)) {
		t.Errorf("after a minute it waits %s", turn.Sub(at.Add(time.Minute)))
	}
}

func TestUnusual(t *testing.T) {
	for _, c := range []struct {
		says string
		t    Tally
		want bool
	}{
		{"four of one domain are nobody’s pattern", Tally{Theirs: 4, All: 4, TheirsBefore: 0, AllBefore: 10_000}, false},
		{"the first five of all", Tally{Theirs: 5, All: 5}, false},
		{"thirty of a domain that nobody had", Tally{Theirs: 30, All: 40, TheirsBefore: 0, AllBefore: 400}, true},
		{"thirty of a domain that half of all have", Tally{Theirs: 30, All: 50, TheirsBefore: 200, AllBefore: 400}, false},
		{"eight of a domain that one in a hundred has, in a busy minute", Tally{Theirs: 8, All: 300, TheirsBefore: 100,
			AllBefore: 10_000}, false},
		{"thirty of it", Tally{Theirs: 30, All: 300, TheirsBefore: 100, AllBefore: 10_000}, true},
		{"a village that begins together", Tally{Theirs: 12, All: 12, TheirsBefore: 3, AllBefore: 4}, false},
	} {
		if got := c.t.Unusual(); got != c.want {
			t.Errorf("%s: %v", c.says, got)
		}
	}
}

// What is published reads back the same, counts to the same, and says what was left out.
func TestPublished(t *testing.T) {
	for _, by := range []By{MostVotes, EqualShares, Places, GivenPoints} {
		p := Published{
			Format:   Format,
			By:       by,
			Budget:   100,
			Named:    1,
			Most:     3,
			Utility:  OneEach,
			Projects: []OnPaper{{1, "A", 40, ""}, {2, "B", 30, ""}, {3, "C", 20, ""}},
			LeftOut:  []LeftOut{{1, "one hall", 1}},
			Ballots: []Slip{{"R1", Choice{0, 1, 2}, 0, by == GivenPoints},
				{"R2", Choice{2, 0, 1}, 1, by == GivenPoints}, {"R3", nil, 0, by == GivenPoints}},
		}
		p.Result = OutcomeOf(p.Count(false))
		if by == EqualShares && (p.Result.Bought[0] != Paid{Number: 3, Rate: "20", Most: "20", Payers: 1}) {
			t.Errorf("%+v", p.Result.Bought)
		}
		raw, err := json.Marshal(&p)
		if err != nil {
			t.Fatal(err)
		}
		back, err := ReadPublished(raw)
		if err != nil {
			t.Fatal(err)
		}
		again, err := json.Marshal(back)
		if err != nil || string(again) != string(raw) {
			t.Errorf("%s\n%s\n%v", raw, again, err)
		}
		if with, without := back.Count(true), back.Count(false); with.Ballots != 3 || without.Ballots != 2 ||
			without.Blank != 1 {
			t.Errorf("%d with, %d without, %d blank", with.Ballots, without.Ballots, without.Blank)
		}
		if csv := p.Sheet().CSV(); !strings.Contains(csv, "one hall") ||
			strings.Contains(csv, "R1,1 2 3,") == (by == GivenPoints) {
			t.Errorf("%s", csv)
		}
	}
	if _, err := ReadPublished([]byte(`{"format":"other"}`)); err == nil {
		t.Error("another document is read")
	}
}

// Which addresses are one ballot's.
func TestOneAddress(t *testing.T) {
	long := strings.Repeat("a", 254-len("@corvoe.example")) + "@corvoe.example"
	for _, c := range []struct {
		typed, address, domain string
		ok                     bool
	}{
		{"ann@corvoe.example", "ann@corvoe.example", "corvoe.example", true},
		{" Ann+votes+twice@CORVOE.Example ", "ann@corvoe.example", "corvoe.example", true},
		{long, long, "corvoe.example", true}, {"a" + long, "", "", false},
		{"ann", "", "", false}, {"@corvoe.example", "", "", false}, {"+x@corvoe.example", "", "", false},
		{"ann@corvoe", "", "", false},
		{"ann@.example", "", "", false}, {"ann@b@c.example", "", "", false}, {"a@b.example,c@d.example", "", "", false},
		{"a@b.example\r\nBcc: c@d.example", "", "", false}, {"<a@b.example>", "", "", false},
	} {
		if address, domain, ok := OneAddress(c.typed); ok != c.ok || address != c.address || domain != c.domain {
			t.Errorf("%q: %q %q %v", c.typed, address, domain, ok)
		}
	}
}
