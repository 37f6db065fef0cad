package slot

import "testing"

func TestCheck(t *testing.T) {
	limits := Limits{SizeMost: 6 << 20, PagesMost: 10}
	for _, c := range []struct {
		f    File
		want Fault
	}{
		{File{Size: 6 << 20, State: Ready, Facts: Facts{Pages: 10}}, ""},
		{File{Size: 6<<20 + 1, State: Ready}, TooLarge},
		{File{Size: 9, State: Ready, Facts: Facts{Pages: 11}}, TooMany},
		{File{Size: 9, State: Inspecting}, ""},
		{File{Size: 9, State: Uploading}, Unfinished},
		{File{Size: 9, State: Refused, Finding: Locked}, Locked},
	} {
		if got, _, _ := Check(c.f, limits); got != c.want {
			t.Errorf("%+v: %q, want %q", c.f, got, c.want)
		}
	}
}

// Source: check-values.md, section 10 (Pillow): 11811 dots per metre are
// 299.9994 dots per inch and must pass as 300; the-job.md, trade fact: a
// picture below 72 dpi was refused.
func TestPictures(t *testing.T) {
	picture := func(dpi float64) File {
		return File{State: Ready, Facts: Facts{Kind: Picture, Width: 3000, Height: 2000, DPI: dpi}}
	}
	for _, c := range []struct {
		f    File
		l    Limits
		want Fault
	}{
		{picture(11811 * 0.0254), Limits{Kinds: []Kind{Picture}, DPILeast: 300}, ""},
		{picture(71.4), Limits{Kinds: []Kind{Picture}, DPILeast: 72}, TooCoarse},
		{picture(0), Limits{Kinds: []Kind{Picture}, DPILeast: 72}, NoDots},
		{picture(300), Limits{Kinds: []Kind{Picture}, WidthLeast: 3001}, TooSmall},
		{picture(300), Limits{}, WrongKind},
		{File{State: Ready, Facts: Facts{Kind: Film, Seconds: 10.010}}, Limits{Kinds: []Kind{Film}, SecondsMost: 10}, ""},
		{File{State: Ready, Facts: Facts{Kind: Film, Seconds: 11}}, Limits{Kinds: []Kind{Film}, SecondsMost: 10}, TooLong},
		{File{State: Ready, Facts: Facts{Kind: PDF, Pages: 11}}, Limits{PagesMost: 10, TitleApart: true}, ""},
		{File{State: Ready, Facts: Facts{Kind: PDF, Pages: 4}}, Limits{TextLeast: true}, NoText},
	} {
		if got, _, _ := Check(c.f, c.l); got != c.want {
			t.Errorf("%+v against %+v: %q, want %q", c.f, c.l, got, c.want)
		}
	}
}
