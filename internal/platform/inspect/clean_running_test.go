package inspect

import (
	"bytes"
	"encoding/binary"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// What is left of sounds laid out by hand: the sound, and nothing that names anybody.
func TestCleanSounds(t *testing.T) {
	const sound = "\xff\xfb\x90\x00sound"
	le := func(n int) string { return string(binary.LittleEndian.AppendUint32(nil, uint32(n))) }
	wav := func(chunks string) string { return "RIFF" + le(4+len(chunks)) + "WAVE" + chunks }
	fmtChunk := "fmt " + le(16) + "\x01\x00\x01\x00\x40\x1f\x00\x00\x40\x1f\x00\x00\x01\x00\x08\x00"
	data := "data" + le(4) + "\x80\x80\x80\x80"
	block := func(kind byte, body string) string { return string([]byte{kind, 0, 0, byte(len(body))}) + body }
	info := strings.Repeat("i", 34)
	for _, c := range []struct{ what, name, has, want string }{
		{"an MP3 with a tag before it", "a.mp3", "ID3\x03\x00\x00\x00\x00\x00\x05hello" + sound, sound},
		{"two tags", "a.mp3", "ID3\x03\x00\x00\x00\x00\x00\x05helloID3\x03\x00\x00\x00\x00\x00\x02hi" + sound, sound},
		{"a tag with a footer", "a.mp3", "ID3\x04\x00\x10\x00\x00\x00\x05hello3DI\x04\x00\x10\x00\x00\x00\x05" + sound,
			sound},
		{"a tag behind it", "a.mp3", "ID3\x03\x00\x00\x00\x00\x00\x05hello" + sound + strings.Repeat("s", 200) + "TAG" +
			strings.Repeat("n", 125),
			sound + strings.Repeat("s", 200)},
		{"a WAV with a list of who made it", "a.wav", wav(fmtChunk + "LIST" + le(9) + "INFOnames\x00" + data),
			wav(fmtChunk + data)},
		{"a FLAC with a comment", "a.flac", "fLaC" + block(0, info) + block(4, "who made it") + block(0x81, "pad") + "frames",
			"fLaC" + block(0x80, info) + "frames"},
	} {
		got, err := cleanAt(made(t, c.name, c.has))
		if err != nil || string(got) != c.want {
			t.Errorf("%s: %q, %v, want %q", c.what, got, err, c.want)
		}
	}
	for what, has := range map[string]string{"just words": "just words", "a FLAC that breaks off": "fLaC" +
		block(0, info) + block(4, "who")[:5]} {
		if got, err := cleanAt(made(t, "a", has)); !errors.Is(err, ErrKept) {
			t.Errorf("%s became %q, %v", what, got, err)
		}
	}
}

// A film with who made it in every place that its kind has for it: as long afterwards, as
// far as it was, and it plays. The MP4 is ffmpeg's, the WebM a browser's.
func TestCleanFilms(t *testing.T) {
	const who = "Ysolde Fenn"
	box := func(kind, body string) string {
		return string(binary.BigEndian.AppendUint32(nil, uint32(8+len(body)))) + kind + body
	}
	mp4, err := os.ReadFile(fixtures + "v2997.mp4")
	if err != nil {
		t.Fatal(err)
	}
	webmFile, err := os.ReadFile("../../../demo/mooring.webm")
	if err != nil {
		t.Fatal(err)
	}
	element := func(id, body string) string {
		return id + string([]byte{0x40 | byte(len(body)>>8), byte(len(body))}) + body
	}
	at := bytes.LastIndex(webmFile[:400], []byte{0x15, 0x49, 0xA9, 0x66}) // its information; tags may stand before it
	tags := element("\x12\x54\xC3\x67", element("\x73\x73", who+strings.Repeat(" ", 200)))
	tiny := element("\x12\x54\xC3\x67", "") // just its head
	for _, c := range []struct{ what, has string }{
		{"an MP4", string(mp4) + box("udta", who) + box("uuid", who+who)},
		{"a WebM", string(webmFile[:at]) + tags + tiny + string(webmFile[at:])},
	} {
		path := made(t, "film", c.has)
		got, err := cleanAt(path)
		if err != nil || len(got) != len(c.has) || bytes.Contains(got, []byte(who)) || bytes.Contains(got, []byte("Chrome")) {
			t.Errorf("%s: %d of %d bytes, %v", c.what, len(got), len(c.has), err)
			continue
		}
		out := filepath.Join(t.TempDir(), "clean")
		if err := os.WriteFile(out, got, 0o600); err != nil {
			t.Fatal(err)
		}
		before, after := look(t, path), look(t, out)
		if after.Fault != "" || after.Seconds != before.Seconds || after.MIME != before.MIME {
			t.Errorf("%s: %+v became %+v", c.what, before, after)
		}
		if _, err := exec.LookPath("ffprobe"); err == nil {
			if says, err := exec.Command("ffprobe", "-v", "error", out).CombinedOutput(); err != nil || len(says) > 0 {
				t.Errorf("%s: ffprobe says %s %v", c.what, says, err)
			}
		}
	}
}

// A film of 700 MB is cleaned with no more memory than a small one.
func TestCleanALargeFilm(t *testing.T) {
	if testing.Short() {
		t.Skip("writes 700 MB")
	}
	path := filepath.Join(t.TempDir(), "large.mp4")
	f, err := os.Create(path)
	if err != nil {
		t.Fatal(err)
	}
	mp4, err := os.ReadFile(fixtures + "v2997.mp4")
	if err != nil {
		t.Fatal(err)
	}
	const hole = 700 << 20
	head := binary.BigEndian.AppendUint32(nil, hole)
	if _, err = f.Write(append(append(mp4, head...), "free"...)); err == nil {
		err = f.Truncate(int64(len(mp4)) + hole)
	}
	if cerr := f.Close(); err != nil || cerr != nil {
		t.Fatal(err, cerr)
	}
	var n counting
	if err := (Bench{}).Clean(t.Context(), path, &n); err != nil || int64(n) != int64(len(mp4))+hole {
		t.Errorf("%d bytes, %v", n, err)
	}
}

type counting int64

func (n *counting) Write(b []byte) (int, error) { *n += counting(len(b)); return len(b), nil }
