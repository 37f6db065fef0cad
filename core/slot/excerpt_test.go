package slot

import "testing"

func TestReadExcerpt(t *testing.T) {
	for _, c := range []struct {
		from, to string
		whole    float64
		most     int
		want     Excerpt
		fault    ExcerptFault
	}{
		{"0:23", "1:06", 180, 60, Excerpt{23, 66}, ""},
		{" 23 ", "66", 180, 43, Excerpt{23, 66}, ""},
		{"0:23", "1:06", 180, 42, Excerpt{23, 66}, ExcerptTooLong},
		{"0:00", "3:00", 180, 0, Excerpt{0, 180}, ""},
		{"0:00", "3:01", 180.5, 0, Excerpt{0, 181}, ""}, // as players round it
		{"0:00", "3:02", 181, 0, Excerpt{0, 182}, ExcerptBeyond},
		{"0:00", "3:02", 0, 0, Excerpt{0, 182}, ""}, // how long it runs is not known
		{"1:06", "1:06", 180, 0, Excerpt{66, 66}, ExcerptCrossed},
		{"", "1:06", 180, 0, Excerpt{}, NoExcerpt},
		{"0:10", " ", 180, 0, Excerpt{}, NoExcerpt},
		{"ten", "1:06", 180, 0, Excerpt{}, ExcerptUnread},
		{"0:10", "late", 180, 0, Excerpt{}, ExcerptUnread},
	} {
		if got, fault := ReadExcerpt(c.from, c.to, c.whole, c.most); got != c.want || fault != c.fault {
			t.Errorf("%s to %s of %g, at most %d: %v %q, want %v %q", c.from, c.to, c.whole, c.most, got, fault, c.want, c.fault)
		}
	}
}

func TestParseTime(t *testing.T) {
	for s, want := range map[string]float64{"83": 83, "1:23": 83, "0:01:23": 83, "1:00:00": 3600, "90:00": 5400, "0": 0,
		"": -1, "1:60": -1, "1:2": -1, "-1": -1, "+1": -1, "1:-2": -1, "1:2:3:4": -1, "a": -1, "1.5": -1, "999999": -1} {
		got, ok := ParseTime(s)
		if ok != (want >= 0) || ok && got != want {
			t.Errorf("%q: %g %v, want %g", s, got, ok, want)
		}
	}
	for seconds, want := range map[float64]string{0: "0:00", 83.9: "1:23", 3599: "59:59", 3723: "1:02:03"} {
		if got := Runs(seconds); got != want {
			t.Errorf("%g: %s, want %s", seconds, got, want)
		} else if back, ok := ParseTime(got); !ok || back != float64(int(seconds)) {
			t.Errorf("%s reads back as %g", got, back)
		}
	}
}
