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
		{File{Size: 9, State: Uploading}, Arriving},
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

// Every fault with what there is and what the limit is, on the bound and beyond.
func TestFaultsWithTheirFigures(t *testing.T) {
	ready := func(f Facts) File { return File{Size: 9, State: Ready, Facts: f} }
	picture := func(w, h int, dpi float64, grey bool) File {
		return ready(Facts{Kind: Picture, Width: w, Height: h, DPI: dpi, Grey: grey})
	}
	sound := func(s float64) File { return ready(Facts{Kind: Sound, Seconds: s}) }
	page := func(w, h float64) File {
		return ready(Facts{Kind: PDF, Pages: 1, PageShort: min(w, h), PageLong: max(w, h)})
	}
	of := func(k Kind, l Limits) Limits { l.Kinds = []Kind{k}; return l }
	for _, c := range []struct {
		name        string
		f           File
		l           Limits
		want        Fault
		have, limit int64
	}{
		{"on its way", File{Size: 9, State: Uploading, Arrived: 4}, Limits{SizeMost: 5}, Arriving, 4, 9},
		{"refused", File{Size: 9, State: Refused, Finding: Locked}, Limits{SizeMost: 10}, Locked, 9, 10},
		{"as large as may be", File{Size: 10, State: Ready}, Limits{SizeMost: 10}, "", 0, 0},
		{"a byte more", File{Size: 11, State: Ready}, Limits{SizeMost: 10}, TooLarge, 11, 10},
		{"looked into, and too large", File{Size: 11, State: Inspecting}, Limits{SizeMost: 10}, TooLarge, 11, 10},
		{"of any size", File{Size: 1 << 40, State: Ready}, Limits{}, "", 0, 0},
		{"of another kind", ready(Facts{Kind: Sheet}), Limits{}, WrongKind, 0, 0},
		{"of an unknown kind", ready(Facts{}), Limits{}, "", 0, 0},
		{"all its pages", ready(Facts{Kind: PDF, Pages: 4}), Limits{PagesMost: 4}, "", 0, 0},
		{"a page more", ready(Facts{Kind: PDF, Pages: 5}), Limits{PagesMost: 4}, TooMany, 5, 4},
		{"a title page besides", ready(Facts{Kind: PDF, Pages: 5}), Limits{PagesMost: 4, TitleApart: true}, "", 0, 0},
		{"and one more", ready(Facts{Kind: PDF, Pages: 6}), Limits{PagesMost: 4, TitleApart: true}, TooMany, 6, 5},
		{"a title page where nothing limits", ready(Facts{Kind: PDF, Pages: 2}), Limits{TitleApart: true}, "", 0, 0},
		{"scans", ready(Facts{Kind: PDF}), Limits{TextLeast: true}, NoText, 0, 0},
		{"text", ready(Facts{Kind: PDF, HasText: true}), Limits{TextLeast: true}, "", 0, 0},
		{"small type", ready(Facts{Kind: PDF, TypeLeast: 9.5}), Limits{TypeLeast: 11}, SmallType, 95, 110},
		{"type of 10.98 points is of 11", ready(Facts{Kind: PDF, TypeLeast: 10.98}), Limits{TypeLeast: 11}, "", 0, 0},
		{"type of 10.9 points is not", ready(Facts{Kind: PDF, TypeLeast: 10.9}), Limits{TypeLeast: 11}, SmallType, 109, 110},
		{"type that nobody can measure", ready(Facts{Kind: PDF}), Limits{TypeLeast: 11}, "", 0, 0},
		{"wide enough", picture(800, 600, 0, false), of(Picture, Limits{WidthLeast: 800, HeightLeast: 600}), "", 0, 0},
		{"a dot too narrow", picture(799, 600, 0, false), of(Picture, Limits{WidthLeast: 800}), TooSmall, 799, 800},
		{"a dot too low", picture(800, 599, 0, false), of(Picture, Limits{HeightLeast: 600}), TooSmall, 599, 600},
		{"does not say its dots", picture(1, 1, 0, false), of(Picture, Limits{DPILeast: 1}), NoDots, 0, 1},
		{"dots rounded up", picture(1, 1, 299.5, false), of(Picture, Limits{DPILeast: 300}), "", 0, 0},
		{"dots rounded down", picture(1, 1, 299.4, false), of(Picture, Limits{DPILeast: 300}), TooCoarse, 299, 300},
		{"colour where grey is wanted", picture(1, 1, 0, false), of(Picture, Limits{Colour: "grey"}), NotGrey, 0, 0},
		{"grey where grey is wanted", picture(1, 1, 0, true), of(Picture, Limits{Colour: "grey"}), "", 0, 0},
		{"grey where colour is wanted", picture(1, 1, 0, true), of(Picture, Limits{Colour: "colour"}), NotColour, 0, 0},
		{"colour where colour is wanted", picture(1, 1, 0, false), of(Picture, Limits{Colour: "colour"}), "", 0, 0},
		{"a second begun", sound(60.9), of(Sound, Limits{SecondsMost: 60}), "", 0, 0},
		{"a second more", sound(61), of(Sound, Limits{SecondsMost: 60}), TooLong, 61, 60},
		{"an A4 page as producers write it", page(595, 842), of(PDF, Limits{PageSize: "A4"}), "", 0, 0},
		{"and across", page(595.32, 841.92), of(PDF, Limits{PageSize: "A4"}), "", 0, 0},
		{"a Letter page is wider", page(612, 792), of(PDF, Limits{PageSize: "A4"}), LargePage, 216, 279},
		{"A4 is longer than Letter", page(595.276, 841.89), of(PDF, Limits{PageSize: "Letter"}), LargePage, 210, 297},
		{"a smaller one fits", page(419.528, 595.276), of(PDF, Limits{PageSize: "A4"}), "", 0, 0},
		{"any size, where none is asked", page(842, 1191), of(PDF, Limits{}), "", 0, 0},
		{"a size that is not known", page(0, 0), of(PDF, Limits{PageSize: "A5"}), "", 0, 0},
		{"long enough", sound(5), of(Sound, Limits{SecondsLeast: 5}), "", 0, 0},
		{"begun is long enough", sound(4.1), of(Sound, Limits{SecondsLeast: 5}), "", 0, 0},
		{"too short", sound(3.9), of(Sound, Limits{SecondsLeast: 5}), TooShort, 4, 5},
		{"a length that is not known", sound(0), of(Sound, Limits{SecondsLeast: 5, SecondsMost: 9}), "", 0, 0},
		{"of any length", sound(9e6), of(Sound, Limits{}), "", 0, 0},
		{"a picture has no length", ready(Facts{Kind: Picture, Seconds: 99}), of(Picture, Limits{SecondsMost: 5}), "", 0, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			if fault, have, limit := Check(c.f, c.l); fault != c.want || have != c.have || limit != c.limit {
				t.Errorf("%q, %d of %d; want %q, %d of %d", fault, have, limit, c.want, c.have, c.limit)
			}
		})
	}
}
