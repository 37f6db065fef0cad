package inspect

import (
	"bytes"
	"image"
	"image/jpeg"
	"os"
	"path/filepath"
	"syscall"
	"testing"

	"codeberg.org/go-pdf/fpdf"
)

// A thousand files of all kinds, one after another as the gate lets them through: how
// many in a second, and how much memory the largest child had.
func BenchmarkLook(b *testing.B) {
	dir := b.TempDir()
	put := func(name string, body []byte) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, body, 0o600); err != nil {
			b.Fatal(err)
		}
		return path
	}
	var jpg bytes.Buffer
	large := image.NewYCbCr(image.Rect(0, 0, 4000, 3000), image.YCbCrSubsampleRatio420)
	if err := jpeg.Encode(&jpg, large, nil); err != nil {
		b.Fatal(err)
	}
	doc := fpdf.New("P", "mm", "A4", "")
	for range 36 {
		doc.AddPage()
		doc.SetFont("Times", "", 11)
		doc.MultiCell(0, 6, "Reeds, groynes and peat. ", "", "L", false)
	}
	var pdf bytes.Buffer
	if err := doc.Output(&pdf); err != nil {
		b.Fatal(err)
	}
	paths := []string{put("a.jpg", jpg.Bytes()), put("a.pdf", pdf.Bytes()), put("a.csv", []byte("a,b\n1,2\n")),
		put("words.txt", []byte("no kind of ours"))}
	for _, name := range []string{"p300.png", "v2997.mp4", "j300.jpg"} {
		body, err := os.ReadFile(filepath.Join("../../../../shared/check-fixtures", name))
		if err != nil {
			b.Skip(err)
		}
		paths = append(paths, put(name, body))
	}
	most := int64(0)
	n := 0
	for b.Loop() {
		_, used, err := run(b.Context(), looking, paths[n%len(paths)], 1<<20)
		if err != nil {
			b.Fatal(err)
		}
		if u, ok := used.SysUsage().(*syscall.Rusage); ok {
			most = max(most, u.Maxrss)
		}
		n++
	}
	b.ReportMetric(float64(n)/b.Elapsed().Seconds(), "files/s")
	b.ReportMetric(float64(most)/1024, "MB-of-a-child")
}
