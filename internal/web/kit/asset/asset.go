// Package asset serves the files that ship with the pages: styles, scripts, fonts,
// marks. They never change while the site runs, so their address carries what they
// hash to, a browser keeps them for good (RFC 8246), and each is pressed (RFC 7932,
// RFC 1952) once, as hard as its size allows, and not for everybody who comes.
package asset

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io/fs"
	"path"
	"sync"

	"github.com/gofiber/fiber/v3"
	"github.com/valyala/fasthttp"
)

// Set is the files of a folder. Its methods may be called at the same time.
type Set struct {
	version string
	files   map[string]*file
}

type file struct {
	kind         string // as Content-Type says it; "" for what no browser asks for
	plain        []byte
	brotli, gzip func() []byte // nil for what is pressed already
}

// kinds of file, and whether pressing makes them smaller.
var kinds = map[string]struct {
	says    string
	presses bool
}{
	".css":   {"text/css; charset=utf-8", true},
	".js":    {"text/javascript; charset=utf-8", true},
	".mjs":   {"text/javascript; charset=utf-8", true},
	".svg":   {"image/svg+xml", true},
	".woff2": {"font/woff2", false},
}

// Hard pressing takes a second for half a megabyte; what is larger reads a PDF in the
// page, and is pressed as one presses what is made for each request.
const hard = 256 << 10 // bytes

// Read the files of a folder and of those in it.
func Read(fsys fs.FS) (*Set, error) {
	s, h := &Set{files: map[string]*file{}}, sha256.New()
	err := fs.WalkDir(fsys, ".", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := fs.ReadFile(fsys, name)
		if err != nil {
			return err
		}
		fmt.Fprintf(h, "%s\x00%d\x00", name, len(b))
		h.Write(b)
		f, kind := &file{plain: b}, kinds[path.Ext(name)]
		f.kind = kind.says
		if kind.presses {
			brotli, gzip := fasthttp.CompressBrotliBestCompression, fasthttp.CompressBestCompression
			if len(b) > hard {
				brotli, gzip = fasthttp.CompressBrotliDefaultCompression, fasthttp.CompressDefaultCompression
			}
			f.brotli = sync.OnceValue(func() []byte { return fasthttp.AppendBrotliBytesLevel(nil, b, brotli) })
			f.gzip = sync.OnceValue(func() []byte { return fasthttp.AppendGzipBytesLevel(nil, b, gzip) })
		}
		s.files[name] = f
		return nil
	})
	s.version = hex.EncodeToString(h.Sum(nil)[:6])
	return s, err
}

// Folder is where its files are asked for: an address that another state of them does
// not have.
func (s *Set) Folder() string { return "/static/" + s.version + "/" }

// Serve the file that the rest of the address names.
func (s *Set) Serve(c fiber.Ctx) error {
	f := s.files[c.Params("*")]
	if f == nil {
		return fiber.ErrNotFound
	}
	if f.kind != "" {
		c.Set(fiber.HeaderContentType, f.kind)
	}
	c.Set(fiber.HeaderCacheControl, "public, max-age=31536000, immutable")
	if f.brotli == nil {
		return c.Send(f.plain)
	}
	c.Vary(fiber.HeaderAcceptEncoding)
	b := f.plain
	if c.Get(fiber.HeaderAcceptEncoding) != "" { // who says nothing may read nothing but the file
		if c.AcceptsEncodings("br") != "" {
			c.Set(fiber.HeaderContentEncoding, "br")
			b = f.brotli()
		} else if c.AcceptsEncodings("gzip") != "" {
			c.Set(fiber.HeaderContentEncoding, "gzip")
			b = f.gzip()
		}
	}
	return c.Send(b)
}
