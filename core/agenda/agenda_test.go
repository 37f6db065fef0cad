package agenda

import (
	"math"
	"slices"
	"testing"
)

// An hour for seven cases, as a chair would lay it out: the closest call first.
func TestOf(t *testing.T) {
	nan := math.NaN()
	cases := []Case{
		{Known: true, Chance: 0.99, Above: true, Near: 3}, {Known: true, Chance: 0.97, Above: true, Apart: true, Near: 2},
		{Known: true, Chance: 0.80, Above: true, Near: 1}, {Known: true, Chance: 0.55, Above: true, Near: 0},
		{Known: true, Chance: 0.05, Near: 0}, {Known: true, Chance: nan, Near: 4}, {Near: 5},
	}
	got := Of(cases, 60)
	want := []Item{{3, Close, 14}, {2, Close, 14}, {1, Disputed, 12}, {4, AtLine, 9}, {0, ByOrder, 2}, {5, ByOrder, 2},
		{6, Unmarked, 4}}
	if !slices.Equal(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
	sum := 0
	for _, x := range got {
		sum += x.Minutes
	}
	if sum > 60 {
		t.Errorf("%d minutes of an hour", sum)
	}
	for _, x := range Of(cases, 3) {
		if x.Minutes < 1 {
			t.Errorf("%v has no time at all", x)
		}
	}
	if len(Of(nil, 60)) != 0 {
		t.Error("nothing to talk about")
	}
}
