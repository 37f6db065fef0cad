package slot

import "testing"

// What can run something is never shown in a page, whatever it calls itself.
func TestShows(t *testing.T) {
	for mime, want := range map[string]Kind{"image/jpeg": Picture, "image/png": Picture, "video/mp4": Film,
		"audio/mpeg": Sound,
		"audio/flac": Sound, "image/svg+xml": "", "text/html": "", "application/pdf": "", "application/xml": "", "": "",
		"image/jpeg; charset=x": "", "application/octet-stream": ""} {
		if got := Shows(mime); got != want {
			t.Errorf("%q is shown as %q", mime, got)
		}
	}
}

func TestPlays(t *testing.T) {
	for _, c := range []struct {
		kind Kind
		name string
		want bool
	}{{Picture, "reed.tif", true}, {Sound, "take", true}, {Film, "Reel.MP4", true}, {Film, "reel.webm", true},
		{Film, "reel.mov", false}, {Film, "mp4", false}, {PDF, "plan.pdf", false}, {"", "x.mp4", false}} {
		if got := Plays(c.kind, c.name); got != c.want {
			t.Errorf("%s %s: %v", c.kind, c.name, got)
		}
	}
}
