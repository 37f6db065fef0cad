package slot

import "testing"

func TestCheck(t *testing.T) {
	limits := Limits{SizeMost: 6 << 20, PagesMost: 10}
	for _, c := range []struct {
		f    File
		want Fault
	}{
		{File{Size: 6 << 20, Pages: 10, State: Ready}, ""},
		{File{Size: 6<<20 + 1, Pages: 1, State: Ready}, TooLarge},
		{File{Size: 9, Pages: 11, State: Ready}, TooMany},
		{File{Size: 9, State: Inspecting}, ""},
		{File{Size: 9, State: Uploading}, Unfinished},
		{File{Size: 9, State: Refused, Finding: Locked}, Locked},
	} {
		if got := Check(c.f, limits); got != c.want {
			t.Errorf("%+v: %q, want %q", c.f, got, c.want)
		}
	}
}
