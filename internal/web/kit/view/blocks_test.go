package view

import (
	"testing"

	"ulvant/core/slot"
)

// What a browser would show as an empty player is left to be fetched; the
// address says that the file is to be seen, whatever stands in it already.
func TestSeenOf(t *testing.T) {
	for _, c := range []struct {
		name, href, file, said string
		kind, as               slot.Kind
		src, alt               string
	}{
		{"a picture", "/a/1", "reed.jpg", "", slot.Picture, slot.Picture, "/a/1?seen=yes", "reed.jpg"},
		{"one of a stage, described", "/a/1?stage=x", "reed.png", "made: 2027", slot.Picture, slot.Picture,
			"/a/1?stage=x&seen=yes",
			"reed.png, made: 2027"},
		{"a film that browsers play", "/a/1", "Reel.MP4", "", slot.Film, slot.Film, "/a/1?seen=yes", "Reel.MP4"},
		{"one that they do not", "/a/1", "reel.mov", "", slot.Film, "", "/a/1?seen=yes", "reel.mov"},
		{"a sound", "/a/1", "take.flac", "", slot.Sound, slot.Sound, "/a/1?seen=yes", "take.flac"},
	} {
		if got := seenOf(c.kind, c.href, c.file, c.said); got.As != c.as || string(got.Src) != c.src || got.Alt != c.alt {
			t.Errorf("%s: %+v", c.name, got)
		}
	}
}
