package say

import (
	"strings"
	"testing"
)

func TestWhatAPlanSays(t *testing.T) {
	for _, c := range []struct {
		loads []int
		want  string
	}{{[]int{8, 9, 0}, "everybody 8 or 9"}, {[]int{8, 8}, "everybody 8"}, {[]int{3, 9, 5}, "from 3 to 9 each"},
		{[]int{0}, ""}} {
		if got := Loads(c.loads); got != c.want {
			t.Errorf("%v: %q", c.loads, got)
		}
	}
	if got := TooFewPlaces([]string{"A1", "A2"}, []string{"R1", "R2"}, 4,
		3); got != "A1 and A2 may be read by R1 and R2 alone, who have "+
		"3 places; 4 are needed. Invite another, rule on what stands in the way, or let them take more." {
		t.Error(got)
	}
	if got := TooFewKnow("“Peat”", 3, 0); !strings.HasPrefix(got, "Nobody who may read it knows “Peat”") {
		t.Error(got)
	}
	for n, want := range map[int64]string{8: "0.08 less", -8: "0.08 more", 0: "stays as it is"} {
		if got := Costs(n); !strings.Contains(got, want) {
			t.Errorf("%d: %s", n, got)
		}
	}
	for want, got := range map[string]string{
		"“Reed beds” could only be read by several of one organisation. Invite somebody from another, or let colleagues " +
			"read together.": OneOrganisation("“Reed beds”"),
		"2 juries share nobody, so their marks cannot be compared: A, B, C and D read nothing that the others do. " +
			"Two shared cases would do.": JuriesApart(2, []string{"A", "B", "C", "D", "E"}),
		"2 juries share nobody: their marks cannot be compared, and must not be put in one order. " +
			"Have one of each read two cases of the other.": NotOneOrder(2),
		"A → B: the fit in all stays as it is. B would read 3. Nothing else moves.": ReaderMoved("A", "B", 0, 3, nil),
		"A → B: the fit in all stays as it is. B would read 3. “Peat” goes from B to C.": ReaderMoved("A", "B", 0, 3,
			[]Passed{{"Peat", "B", "C"}}),
	} {
		if got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
	if got := WhyNotReader("Oriel Vane"); !strings.HasPrefix(got, "Why not Oriel Vane, who suits it? They vouch for it,") {
		t.Error(got)
	}
}
