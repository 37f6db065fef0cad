package asset_test

import (
	"bytes"
	"compress/gzip"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/andybalholm/brotli"
	"github.com/gofiber/fiber/v3"

	"ulvant/internal/web/kit/asset"
)

var style = strings.Repeat(".peat{color:#553}\n", 400)

func folder() fstest.MapFS {
	return fstest.MapFS{
		"app.css":       {Data: []byte(style)},
		"pdf/show.mjs":  {Data: bytes.Repeat([]byte("show();\n"), 50_000)},
		"shore.woff2":   {Data: []byte(style)},
		"tus-LICENSE":   {Data: []byte("MIT")},
		"pdf/empty.svg": {},
	}
}

// What a browser is sent for what it says it can read (RFC 9110, 12.5.3).
func TestServed(t *testing.T) {
	t.Parallel()
	set, err := asset.Read(folder())
	if err != nil {
		t.Fatal(err)
	}
	app := fiber.New()
	app.Get(set.Folder()+"*", set.Serve)
	for name, c := range map[string]struct {
		file, reads string
		code        int
		kind, way   string
	}{
		"of today":                {"app.css", "gzip, deflate, br, zstd", 200, "text/css; charset=utf-8", "br"},
		"of ten years ago":        {"app.css", "gzip, deflate", 200, "text/css; charset=utf-8", "gzip"},
		"anything":                {"app.css", "*", 200, "text/css; charset=utf-8", "br"},
		"will not have br":        {"app.css", "br;q=0, gzip", 200, "text/css; charset=utf-8", "gzip"},
		"says nothing":            {"app.css", "", 200, "text/css; charset=utf-8", ""},
		"knows another way alone": {"app.css", "zstd", 200, "text/css; charset=utf-8", ""},
		"the file as it is":       {"app.css", "identity", 200, "text/css; charset=utf-8", ""},
		"a large one":             {"pdf/show.mjs", "br", 200, "text/javascript; charset=utf-8", "br"},
		"a font is pressed":       {"shore.woff2", "br", 200, "font/woff2", ""},
		"a mark with nothing":     {"pdf/empty.svg", "br", 200, "image/svg+xml", "br"},
		"of no kind":              {"tus-LICENSE", "br", 200, "text/plain; charset=utf-8", ""},
		"is not there":            {"app.cs", "br", 404, "", ""},
		"a folder":                {"pdf", "br", 404, "", ""},
		"above":                   {"../secret", "br", 404, "", ""},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			req := httptest.NewRequest(http.MethodGet, set.Folder()+c.file, nil)
			if c.reads != "" {
				req.Header.Set("Accept-Encoding", c.reads)
			}
			res, err := app.Test(req)
			if err != nil {
				t.Fatal(err)
			}
			if res.StatusCode != c.code {
				t.Fatalf("%d, not %d", res.StatusCode, c.code)
			}
			if c.code != 200 {
				return
			}
			if got := res.Header.Get("Content-Type"); got != c.kind {
				t.Errorf("is said to be %q, not %q", got, c.kind)
			}
			if got := res.Header.Get("Content-Encoding"); got != c.way {
				t.Errorf("is pressed by %q, not %q", got, c.way)
			}
			pressed := c.way != "" || strings.HasSuffix(c.file, "css")
			if got := res.Header.Get("Vary") == "Accept-Encoding"; got != pressed {
				t.Errorf("varies by what is read: %v", got)
			}
			if !strings.HasSuffix(res.Header.Get("Cache-Control"), ", immutable") {
				t.Error("is asked for again")
			}
			b, err := io.ReadAll(res.Body)
			if err != nil {
				t.Fatal(err)
			}
			want := folder()[c.file].Data
			if c.way != "" && len(want) > 0 && len(b) > len(want)/20 {
				t.Errorf("%d bytes of %d", len(b), len(want))
			}
			var r io.Reader = bytes.NewReader(b)
			switch c.way {
			case "br":
				r = brotli.NewReader(r)
			case "gzip":
				if r, err = gzip.NewReader(r); err != nil {
					t.Fatal(err)
				}
			}
			if got, err := io.ReadAll(r); err != nil || !bytes.Equal(got, want) {
				t.Errorf("%d bytes come out, not %d: %v", len(got), len(want), err)
			}
		})
	}
}

// An address is another as soon as one file is another, in what it holds or is called.
func TestAddressOfAState(t *testing.T) {
	t.Parallel()
	of := func(change func(fstest.MapFS)) string {
		f := folder()
		change(f)
		set, err := asset.Read(f)
		if err != nil {
			t.Fatal(err)
		}
		return set.Folder()
	}
	is := of(func(fstest.MapFS) {})
	if again := of(func(fstest.MapFS) {}); again != is {
		t.Errorf("%s, then %s", is, again)
	}
	for name, change := range map[string]func(fstest.MapFS){
		"a letter":  func(f fstest.MapFS) { f["tus-LICENSE"].Data = []byte("MIt") },
		"a name":    func(f fstest.MapFS) { f["tus-licence"] = f["tus-LICENSE"]; delete(f, "tus-LICENSE") },
		"one fewer": func(f fstest.MapFS) { delete(f, "shore.woff2") },
	} {
		if got := of(change); got == is {
			t.Errorf("%s: the address stays %s", name, got)
		}
	}
}

// What one more visitor at an opening costs, with fiber's own test of an app around it.
func BenchmarkServed(b *testing.B) {
	set, err := asset.Read(folder())
	if err != nil {
		b.Fatal(err)
	}
	app := fiber.New()
	app.Get(set.Folder()+"*", set.Serve)
	for b.Loop() {
		req := httptest.NewRequest(http.MethodGet, set.Folder()+"app.css", nil)
		req.Header.Set("Accept-Encoding", "br")
		if _, err := app.Test(req); err != nil {
			b.Fatal(err)
		}
	}
}
