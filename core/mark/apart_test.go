package mark

import "testing"

func TestApart(t *testing.T) {
	for _, c := range []struct {
		what   string
		scores []Score
		want   bool
	}{
		{"1.5 of 5 apart", []Score{{3, 1}, {9, 2}}, true},
		{"less", []Score{{3, 1}, {449, 100}}, false},
		{"the outermost of three", []Score{{3, 1}, {1, 1}, {5, 2}}, true},
		{"alike", []Score{{3, 1}, {3, 1}}, false},
		{"one alone", []Score{{3, 1}}, false},
		{"one that is not known", []Score{{5, 1}, {}}, false},
		{"none", nil, false},
	} {
		if got := Apart(c.scores, 5); got != c.want {
			t.Errorf("%s: %v", c.what, got)
		}
	}
}
