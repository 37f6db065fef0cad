package inspect

import (
	"encoding/binary"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"ulvant/core/slot"
	"ulvant/internal/platform/limit"
)

// How long films and sounds run, against ffprobe, where ffmpeg is installed to make
// them: whole and fragmented, with and without their length in the header.
func TestRunningTimesAgainstFFprobe(t *testing.T) {
	for _, tool := range []string{"ffmpeg", "ffprobe"} {
		if _, err := exec.LookPath(tool); err != nil {
			t.Skip("ffmpeg is not installed")
		}
	}
	film := "-f lavfi -i testsrc=size=160x120:rate=25 -f lavfi -i sine=frequency=300 -t 3.2 "
	sound := "-f lavfi -i sine=frequency=300:sample_rate=44100 -t 3.2 "
	for _, c := range []struct {
		name, args string
		kind       slot.Kind
		live       bool // says nothing of its length: ours ends where the last block begins
	}{
		{"film.mp4", film + "-c:v mpeg4 -c:a aac", slot.Film, false},
		{"film.mov", film + "-c:v mpeg4 -c:a aac", slot.Film, false},
		{"fragmented.mp4", film + "-c:v mpeg4 -c:a aac -movflags frag_keyframe+empty_moov", slot.Film, true},
		{"fragments.mp4", film +
			"-c:v mpeg4 -c:a aac -movflags frag_keyframe+empty_moov+default_base_moof -frag_duration 400000",
			slot.Film, true},
		{"film.webm", film + "-c:v libvpx -c:a libopus", slot.Film, false},
		{"live.webm", film + "-c:v libvpx -c:a libopus -live 1", slot.Film, true},
		{"sound.weba", sound + "-c:a libopus -f webm", slot.Film, false}, // by its bytes it may be a film
		{"sound.mp3", sound + "-c:a libmp3lame", slot.Sound, false},
		{"sound.m4a", sound + "-c:a aac", slot.Sound, false},
		{"sound.wav", sound, slot.Sound, false},
		{"sound.flac", sound, slot.Sound, false},
	} {
		path := filepath.Join(t.TempDir(), c.name)
		args := append([]string{"-v", "error", "-y"}, strings.Fields(c.args)...)
		if out, err := exec.Command("ffmpeg", append(args, path)...).CombinedOutput(); err != nil {
			t.Logf("%s is not made here: %s", c.name, out) // an encoder that this ffmpeg lacks
			continue
		}
		want := 3.2
		if !c.live {
			out, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "format=duration", "-of", "csv=p=0",
				path).Output()
			if err != nil {
				t.Fatal(err)
			}
			if want, err = strconv.ParseFloat(strings.TrimSpace(string(out)), 64); err != nil {
				t.Fatal(err)
			}
		}
		f := look(t, path)
		if f.Fault != "" || f.Kind != c.kind || math.Abs(f.Seconds-want) > .12 {
			t.Errorf("%s: %+v, want %.3f s", c.name, f, want)
		}
	}
}

// A WebM by hand (RFC 9559): its length as the header says it, in other ticks, and
// where the last block begins when it says nothing.
func TestWebMByHand(t *testing.T) {
	el := func(id string, body ...string) string {
		b := strings.Join(body, "")
		return id + string(binary.BigEndian.AppendUint16(nil, uint16(len(b))|0x4000)) + b
	}
	f64 := func(v float64) string { return string(binary.BigEndian.AppendUint64(nil, math.Float64bits(v))) }
	const unknown = "\x01\xff\xff\xff\xff\xff\xff\xff"
	head := el("\x1a\x45\xdf\xa3", el("\x42\x82", "webm"))
	info := func(parts ...string) string { return el("\x15\x49\xa9\x66", parts...) }
	block := func(at uint16) string {
		return el("\xa3", "\x81"+string(binary.BigEndian.AppendUint16(nil, at))+"\x80frame")
	}
	cluster := func(at byte, blocks ...string) string {
		return "\x1f\x43\xb6\x75" + unknown + el("\xe7", "\x10"+string(at)) + strings.Join(blocks, "")
	}
	segment := "\x18\x53\x80\x67" + unknown
	for _, c := range []struct {
		what, body string
		want       float64
	}{
		{"in thousandths", segment + info(el("\x44\x89", f64(4200))), 4.2},
		{"in tenths", segment + info(el("\x2a\xd7\xb1", "\x05\xf5\xe1\x00"), el("\x44\x89", f64(42))), 4.2},
		{"it says nothing", segment + info() + cluster(0, block(0), block(40)) + cluster(0x68, block(0), block(200)),
			4.4}, // 0x1068 and 200 thousandths
		{"the last block says how long it lasts", segment + info() + cluster(0, el("\xa0",
			el("\xa1", "\x81\x00\x64\x00frame"),
			el("\x9b", "\x64"))), 4.296}, // 0x1000, 100 and 100 thousandths
		{"no block at all", segment + info(), 0},
		{"a length beyond the end", segment + "\x15\x49\xa9\x66\x7f\xff", 0},
		{"no number", head, 0},
	} {
		path := filepath.Join(t.TempDir(), "film.webm")
		if err := os.WriteFile(path, []byte(head+c.body), 0o600); err != nil {
			t.Fatal(err)
		}
		f := look(t, path)
		if bad := c.want == 0; bad != (f.Fault != "") || math.Abs(f.Seconds-c.want) > .0005 {
			t.Errorf("%s: %+v, want %g s", c.what, f, c.want)
		}
	}
}

// A recording of an hour and a half, a gigabyte of it, is judged within the child's
// memory: nothing of it is read but where it says how long it is.
func TestALongRecording(t *testing.T) {
	const length = 1 << 30
	b := []byte("RIFF    WAVEfmt ")
	binary.LittleEndian.PutUint32(b[4:], 36+length)
	b = binary.LittleEndian.AppendUint32(b, 16)
	b = binary.LittleEndian.AppendUint16(b, 1)
	b = binary.LittleEndian.AppendUint16(b, 2)
	b = binary.LittleEndian.AppendUint32(b, 48000)
	b = binary.LittleEndian.AppendUint32(b, 192000)
	b = binary.LittleEndian.AppendUint16(b, 4)
	b = binary.LittleEndian.AppendUint16(b, 16)
	b = append(b, "data"...)
	b = binary.LittleEndian.AppendUint32(b, length)
	path := filepath.Join(t.TempDir(), "long.wav")
	if err := os.WriteFile(path, b, 0o600); err != nil {
		t.Fatal(err)
	}
	if err := os.Truncate(path, int64(len(b))+length); err != nil { // silence, which takes no room
		t.Fatal(err)
	}
	f, err := Bench{Gate: make(limit.Gate, 1)}.Look(t.Context(), path)
	if err != nil || f.Fault != "" || f.Kind != slot.Sound || math.Abs(f.Seconds-length/192000.0) > .001 {
		t.Errorf("%+v %v, want %.2f s", f, err, length/192000.0)
	}
}
