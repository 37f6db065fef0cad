package asset

import (
	"bytes"
	"testing"
	"testing/fstest"
)

// Pressing is paid once, and not by everybody who comes: whoever comes next is given what
// was pressed. A large file is pressed less hard.
func TestPressedOnce(t *testing.T) {
	t.Parallel()
	words := bytes.Repeat([]byte("the tide, the groyne, the reed bed; "), hard/36+1)
	set, err := Read(fstest.MapFS{"small.css": {Data: words[:hard]}, "large.css": {Data: words[:hard+1]}})
	if err != nil {
		t.Fatal(err)
	}
	small, large := set.files["small.css"], set.files["large.css"]
	for name, press := range map[string]func() []byte{"brotli": small.brotli, "gzip": small.gzip} {
		if a, b := press(), press(); &a[0] != &b[0] {
			t.Errorf("%s presses again", name)
		}
	}
	if s, l := len(small.brotli()), len(large.brotli()); s >= l {
		t.Errorf("%d bytes of what is pressed hard, %d of what is not", s, l)
	}
}
