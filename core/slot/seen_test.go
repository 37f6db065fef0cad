package slot

import "testing"

// What can run something is never shown in a page, whatever it calls itself.
func TestShows(t *testing.T) {
	for mime, want := range map[string]Kind{"image/jpeg": Picture, "image/png": Picture, "video/mp4": Film, "audio/mpeg": Sound,
		"audio/flac": Sound, "image/svg+xml": "", "text/html": "", "application/pdf": "", "application/xml": "", "": "",
		"image/jpeg; charset=x": "", "application/octet-stream": ""} {
		if got := Shows(mime); got != want {
			t.Errorf("%q is shown as %q", mime, got)
		}
	}
}
