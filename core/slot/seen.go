package slot

import (
	"path"
	"strings"
)

// shown are the types that browsers show by themselves and that run nothing;
// SVG is not among them.
var shown = map[string]Kind{"image/jpeg": Picture, "image/png": Picture, "image/gif": Picture, "image/webp": Picture,
	"video/mp4": Film, "video/webm": Film, "audio/mpeg": Sound, "audio/mp4": Sound, "audio/x-m4a": Sound,
	"audio/wav":   Sound,
	"audio/x-wav": Sound, "audio/wave": Sound, "audio/flac": Sound, "audio/ogg": Sound, "audio/webm": Sound}

// Plays reports a file of a kind that a browser is likely to show, by its name:
// where it would leave an empty player the file is better fetched.
func Plays(k Kind, name string) bool {
	switch k {
	case Picture, Sound:
		return true
	case Film:
		ext := strings.ToLower(path.Ext(name))
		return ext == ".mp4" || ext == ".webm"
	}
	return false
}

// Shows is how a file of a MIME type, as it was found by opening it, can be
// seen or heard in a page: a picture, a film, a sound. "" when it cannot.
func Shows(mime string) Kind { return shown[mime] }
