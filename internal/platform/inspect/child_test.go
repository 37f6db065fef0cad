package inspect

import (
	"bytes"
	"compress/zlib"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"ulvant/core/slot"
)

// probing makes the test binary a child that tries what a hostile file would.
const probing = "probe"

type probe struct {
	User    int
	Network bool // reaches the server's own loopback
	Files   bool // opens a file of the machine
	Writes  bool // writes one
	Memory  bool // gets a gigabyte
}

func TestMain(m *testing.M) {
	if os.Getenv(Env) != Command {
		os.Exit(m.Run())
	}
	if os.Args[2] != probing {
		os.Exit(Child(os.Args[2], os.Args[3:]...))
	}
	var where bytes.Buffer
	where.ReadFrom(os.Stdin)
	confine(probing)
	p := probe{User: os.Getuid()}
	if c, err := net.DialTimeout("tcp", where.String(), time.Second); err == nil {
		p.Network = true
		c.Close()
	}
	_, err := os.ReadFile("/etc/hostname")
	p.Files = err == nil
	p.Writes = os.WriteFile("/written", []byte("x"), 0o600) == nil || os.WriteFile("written", []byte("x"), 0o600) == nil
	b, err := syscall.Mmap(-1, 0, 1<<30, syscall.PROT_READ|syscall.PROT_WRITE, syscall.MAP_ANON|syscall.MAP_PRIVATE)
	p.Memory = err == nil && b != nil
	json.NewEncoder(os.Stdout).Encode(p)
}

// The child has an identity, files and a network of its own, and bounded memory.
// What the system does not give to this test's own user is not asked for.
func TestTheChildIsConfined(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	path := filepath.Join(t.TempDir(), "where")
	if err := os.WriteFile(path, []byte(l.Addr().String()), 0o600); err != nil {
		t.Fatal(err)
	}
	out, _, err := run(context.Background(), probing, path, 1<<20)
	var p probe
	if err != nil || json.Unmarshal(out, &p) != nil {
		t.Fatalf("%q, %v", out, err)
	}
	if p.Memory {
		t.Error("it gets a gigabyte")
	}
	if os.Getuid() != 0 {
		t.Logf("not root here: %+v", p)
		return
	}
	if p.User != nobody || p.Network || p.Files || p.Writes {
		t.Errorf("%+v", p)
	}
}

// A few hundred kilobytes that unfold to gigabytes end in a sentence, within the
// limits of memory and time, however many come at once.
func TestHostilePDF(t *testing.T) {
	path := filepath.Join(t.TempDir(), "bomb.pdf")
	if err := os.WriteFile(path, bomb(t, 700<<20), 0o600); err != nil {
		t.Fatal(err)
	}
	begun := time.Now()
	_, used, err := run(context.Background(), looking, path, 1<<20)
	if most := used.SysUsage().(*syscall.Rusage).Maxrss << 10; most > memory+64<<20 {
		t.Errorf("it used %d MB", most>>20)
	}
	if took := time.Since(begun); took > (seconds+3)*time.Second {
		t.Errorf("it took %s", took)
	}
	if err != nil && !errors.Is(err, errChild) {
		t.Fatal(err)
	}
	f, err := Bench{}.Look(context.Background(), path)
	if err != nil || f.Fault != slot.TooHard && f.Fault != slot.Unreadable {
		t.Errorf("%+v, %v", f, err)
	}
}

// bomb is a PDF whose cross-reference stream and content unfold to so many bytes.
func bomb(t *testing.T, size int) []byte {
	t.Helper()
	var z bytes.Buffer
	w, _ := zlib.NewWriterLevel(&z, zlib.BestCompression)
	block := bytes.Repeat([]byte{' '}, 1<<20)
	for n := 0; n < size; n += len(block) {
		w.Write(block)
	}
	w.Close()
	var b bytes.Buffer
	at := []int{}
	object := func(s string, stream []byte) {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s", len(at), s)
		if stream != nil {
			fmt.Fprintf(&b, "\nstream\n")
			b.Write(stream)
			fmt.Fprintf(&b, "\nendstream")
		}
		fmt.Fprintf(&b, "\nendobj\n")
	}
	b.WriteString("%PDF-1.5\n")
	object("<< /Type /Catalog /Pages 2 0 R >>", nil)
	object("<< /Type /Pages /Kids [3 0 R] /Count 1 >>", nil)
	object("<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R >>", nil)
	object(fmt.Sprintf("<< /Type /ObjStm /N 1000 /First 8 /Length %d /Filter /FlateDecode >>", z.Len()), z.Bytes())
	start := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(at)+1)
	for _, n := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", n)
	}
	fmt.Fprintf(&b, "trailer\n<< /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(at)+1, start)
	return b.Bytes()
}

// What a file says of who made it is gone from what readers get, and the file
// is still one: it opens as the same kind, with the same pages, pixels and time.
func TestClean(t *testing.T) {
	with := func(name, after, extra string) string { // a file with something put into it
		b, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		if i := bytes.Index(b, []byte(after)); i >= 0 {
			b = append(append(bytes.Clone(b[:i+len(after)]), extra...), b[i+len(after):]...)
		} else {
			t.Fatalf("%s has no %q", name, after)
		}
		path := filepath.Join(t.TempDir(), filepath.Base(name))
		if err := os.WriteFile(path, b, 0o600); err != nil {
			t.Fatal(err)
		}
		return path
	}
	const who = "Ysolde Fenn"
	segment := func(kind byte, body string) string {
		return string([]byte{0xff, kind, byte((len(body) + 2) >> 8), byte(len(body) + 2)}) + body
	}
	text := "Author\x00" + who
	for what, path := range map[string]string{
		"a JPEG with EXIF, XMP and a comment": with(fixtures+"j300.jpg", "\xff\xd8",
			segment(0xe1, "Exif\x00\x00"+who)+segment(0xe1, "http://ns.adobe.com/xap/1.0/\x00"+who)+segment(0xfe, who)),
		"a PNG with a text": with(fixtures+"p72.png",
			"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR"+headerOf(t, fixtures+"p72.png"), string([]byte{0, 0, 0,
				byte(len(text))})+"tEXt"+text+"\x00\x00\x00\x00"),
	} {
		before := look(t, path)
		b, err := cleanAt(path)
		if err != nil || bytes.Contains(b, []byte(who)) {
			t.Errorf("%s: it still names %s, %v", what, who, err)
			continue
		}
		clean := filepath.Join(t.TempDir(), "clean")
		os.WriteFile(clean, b, 0o600)
		if after := look(t, clean); after.MIME != before.MIME || after.Width != before.Width || after.DPI != before.DPI ||
			after.Fault != "" {
			t.Errorf("%s: %+v became %+v", what, before, after)
		}
	}
}

// cleanAt is the file at a path without its properties.
func cleanAt(path string) ([]byte, error) {
	var out bytes.Buffer
	err := Bench{}.Clean(context.Background(), path, &out)
	return out.Bytes(), err
}

// headerOf is what stands in a PNG's first chunk, with its check sum.
func headerOf(t *testing.T, path string) string {
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return string(b[16 : 16+13+4])
}

// Properties of documents, made by the libraries and laid out by the standards
// that TestAuthors names.
func TestCleanDocuments(t *testing.T) {
	pdf, pkg := authored(t, "Ysolde Fenn, Tarl")
	for what, path := range map[string]string{"a PDF": pdf, "a text": pkg} {
		if f := look(t, path); !strings.HasPrefix(f.Author, "Ysolde Fenn") {
			t.Fatalf("%s: %+v", what, f)
		}
		b, err := cleanAt(path)
		if err != nil {
			t.Errorf("%s: %v", what, err)
			continue
		}
		out := filepath.Join(t.TempDir(), "clean")
		os.WriteFile(out, b, 0o600)
		if f := look(t, out); f.Author != "" || f.Fault != "" || f.Kind != look(t, path).Kind ||
			f.Pages != look(t, path).Pages || bytes.Contains(b, []byte("Ysolde")) {
			t.Errorf("%s became %+v", what, f)
		}
	}
}
