package slot

import "testing"

// What comes back for templates 7 (three versions) and 9 (one).
func TestRecognise(t *testing.T) {
	const a, b, c, d = "aaaaaaaaaaaaaaaa", "bbbbbbbbbbbbbbbb", "cccccccccccccccc", "dddddddddddddddd"
	templates := []Template{{7, []string{a, b, c}}, {9, []string{d}}}
	for _, x := range []struct {
		found   string
		came    Came
		of      int64
		version int
	}{
		{"7 v3 " + c, Current, 7, 3},
		{"7 v2 " + b, Older, 7, 2},
		{"7 v1 " + a, Older, 7, 1},
		{"9 v1 " + d, Current, 9, 1},
		{" 9  v1\n" + d + " ", Current, 9, 1},
		{"7 v4 " + c, Unrecognised, 0, 0}, // there is none
		{"7 v3 " + b, Unrecognised, 0, 0}, // not what was put up as the third
		{"8 v1 " + a, Unrecognised, 0, 0}, // of another slot
		{"", Unrecognised, 0, 0},
		{"7 v0 " + a, Unrecognised, 0, 0},
		{"7 3 " + c, Unrecognised, 0, 0},
		{"7 v3 cc", Unrecognised, 0, 0},
	} {
		came, of, version := Recognise(x.found, templates)
		if came != x.came || of.ID != x.of || version != x.version {
			t.Errorf("%q: %s %d v%d, want %s %d v%d", x.found, came, of.ID, version, x.came, x.of, x.version)
		}
	}
	m := Mark{7, 3, c}
	if got, ok := ParseMark(m.String()); !ok || got != m {
		t.Errorf("%q comes back as %v", m, got)
	}
}
