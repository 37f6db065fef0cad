package inspect

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"os"
	"path/filepath"
	"testing"
)

// The eight orientations of EXIF 2.32, 4.6.4.A: where row 0 and column 0 of what is
// stored lie in what is seen. The letters of "AB/CD/EF" stand for pixels.
func TestOrientations(t *testing.T) {
	const stored = "AB/CD/EF"
	for turn, want := range map[int]string{1: "AB/CD/EF", 2: "BA/DC/FE", 3: "FE/DC/BA", 4: "EF/CD/AB", 5: "ACE/BDF",
		6: "ECA/FDB", 7: "FDB/ECA", 8: "BDF/ACE", 0: stored, 9: stored} {
		p := image.NewGray(image.Rect(0, 0, 2, 3))
		for i, c := range []byte("ABCDEF") {
			p.SetGray(i%2, i/2, color.Gray{Y: c})
		}
		out, got := turned(p, turn), ""
		for y := range out.Bounds().Dy() {
			if y > 0 {
				got += "/"
			}
			for x := range out.Bounds().Dx() {
				v, _, _, _ := out.At(x, y).RGBA()
				got += string(rune(v >> 8))
			}
		}
		if got != want {
			t.Errorf("orientation %d: %s, want %s", turn, got, want)
		}
	}
}

// withExif is a JPEG with an orientation and an artist in its EXIF.
func withExif(t *testing.T, p image.Image, turn uint16) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := jpeg.Encode(&b, p, nil); err != nil {
		t.Fatal(err)
	}
	tiff := []byte("II*\x00\x08\x00\x00\x00\x02\x00")
	entry := func(tag, kind uint16, n, value uint32) {
		tiff = binary.LittleEndian.AppendUint16(tiff, tag)
		tiff = binary.LittleEndian.AppendUint16(tiff, kind)
		tiff = binary.LittleEndian.AppendUint32(tiff, n)
		tiff = binary.LittleEndian.AppendUint32(tiff, value)
	}
	entry(274, 3, 1, uint32(turn))
	entry(315, 2, 12, 38)
	tiff = append(tiff, 0, 0, 0, 0)
	tiff = append(tiff, "Ysolde Fenn\x00"...)
	body := append([]byte("Exif\x00\x00"), tiff...)
	out := append([]byte{0xff, 0xd8, 0xff, 0xe1}, byte((len(body)+2)>>8), byte(len(body)+2))
	out = append(out, body...)
	return append(out, b.Bytes()[2:]...)
}

func TestRender(t *testing.T) {
	draws := func(b []byte) (small, large image.Image, raw []byte, err error) {
		path := filepath.Join(t.TempDir(), "picture")
		if err := os.WriteFile(path, b, 0o600); err != nil {
			t.Fatal(err)
		}
		f, err := os.Open(path)
		if err != nil {
			t.Fatal(err)
		}
		defer f.Close()
		var out bytes.Buffer
		if err := render(f, &out); err != nil {
			return nil, nil, nil, err
		}
		raw = out.Bytes()
		n := binary.BigEndian.Uint64(raw)
		if small, err = jpeg.Decode(bytes.NewReader(raw[8 : 8+n])); err != nil {
			t.Fatal(err)
		}
		if large, err = jpeg.Decode(bytes.NewReader(raw[8+n:])); err != nil {
			t.Fatal(err)
		}
		return small, large, raw, nil
	}
	wide := image.NewRGBA(image.Rect(0, 0, 3600, 1200))
	for x := range 3600 {
		for y := range 1200 {
			wide.Set(x, y, color.RGBA{R: uint8(x / 15), A: 255})
		}
	}
	for turn, size := range map[uint16][4]int{1: {360, 120, 1800, 600}, 6: {120, 360, 600, 1800}} {
		small, large, raw, err := draws(withExif(t, wide, turn))
		if err != nil {
			t.Fatal(err)
		}
		got := [4]int{small.Bounds().Dx(), small.Bounds().Dy(), large.Bounds().Dx(), large.Bounds().Dy()}
		if got != size {
			t.Errorf("turned %d: %v, want %v", turn, got, size)
		}
		if bytes.Contains(raw, []byte("Fenn")) || bytes.Contains(raw, []byte("Exif")) {
			t.Error("what it says of who made it is drawn along")
		}
		dark, _, _, _ := large.At(2, 2).RGBA()
		bright, _, _, _ := large.At(large.Bounds().Dx()-3, large.Bounds().Dy()-3).RGBA()
		if dark>>8 > 40 || bright>>8 < 200 { // left and right, or top and bottom when it is turned
			t.Errorf("turned %d: it begins with %d and ends with %d", turn, dark>>8, bright>>8)
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, image.NewNRGBA(image.Rect(0, 0, 50, 40))); err != nil { // nothing to be seen in it
		t.Fatal(err)
	}
	small, large, _, err := draws(b.Bytes())
	if err != nil || small.Bounds().Dx() != 50 || large.Bounds().Dy() != 40 {
		t.Errorf("a small one is not made larger: %v", err)
	} else if v, _, _, _ := small.At(20, 20).RGBA(); v>>8 < 250 {
		t.Errorf("what is clear is drawn on %d, and not on white", v>>8)
	}
	flood := b.Bytes() // the same, saying that it is 60,000 pixels wide and high
	binary.BigEndian.PutUint32(flood[16:], 60_000)
	binary.BigEndian.PutUint32(flood[20:], 60_000)
	for name, bad := range map[string][]byte{"a flood of pixels": flood, "no picture": []byte("words"),
		"cut off": withExif(t, wide, 1)[:5000]} {
		if _, _, _, err := draws(bad); err == nil {
			t.Errorf("%s is drawn", name)
		}
	}
}
