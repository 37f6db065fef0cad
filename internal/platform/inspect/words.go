package inspect

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"os"
	"strings"
	"time"
	"unicode"

	"github.com/gabriel-vasile/mimetype"
	"golang.org/x/text/unicode/norm"

	"ulvant/core/slot"
)

// Words are what is written in a file, as far as it can be read. A scan, a picture, a
// film have none.
type Words struct {
	Pages []string `json:"pages"`          // what each holds, from the first; of what has no pages, one
	More  bool     `json:"more,omitempty"` // not all of it was read
	Type  float64  `json:"type,omitempty"` // smallest body type in points of 1/72 inch; 0: not known
}

// How much is read of a file, and how long that may take in the child: what was found
// out of it otherwise stands by then.
const (
	mostText  = 2 << 20 // bytes
	mostPages = 300
	mostTime  = 4 * time.Second
)

// Words reads what is written in the file at path; ErrKept when it cannot be read.
func (b Bench) Words(ctx context.Context, path string) (w Words, err error) {
	out, _, err := b.run(ctx, wording, path, 4*mostText)
	if errors.Is(err, errChild) || err == nil && json.Unmarshal(out, &w) != nil {
		return Words{}, ErrKept
	}
	return w, err
}

// Blank reports that nothing is written in it: a scan of a page has no words.
func (w Words) Blank() bool {
	for _, p := range w.Pages {
		if strings.TrimSpace(p) != "" {
			return false
		}
	}
	return true
}

// written prints the words of a file.
func written(file *os.File, to io.Writer) error {
	if _, err := file.Seek(0, io.SeekStart); err != nil { // it was looked at already
		return err
	}
	kind, err := mimetype.DetectReader(file)
	if err != nil {
		return err
	}
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	t := &taken{until: time.Now().Add(mostTime), sizes: map[int]int{}}
	for _, k := range known {
		for _, m := range k.mime {
			if !kind.Is(m) {
				continue
			}
			switch {
			case k.kind == slot.PDF:
				err = t.pdf(file)
			case kind.Is("text/csv"):
				err = t.plain(file)
			case k.kind == slot.Text || k.kind == slot.Sheet:
				err = t.office(file)
			}
			if err != nil {
				return err
			}
			return json.NewEncoder(to).Encode(t.words())
		}
	}
	return errNotDrawn
}

// taken is what was read so far.
type taken struct {
	until time.Time
	pages []string
	page  strings.Builder
	bytes int
	more  bool        // no more is read
	some  bool        // not all could be
	sizes map[int]int // letters by tenths of a point
}

// full reports that no more is read.
func (t *taken) full() bool {
	if t.bytes > mostText || len(t.pages) >= mostPages || time.Now().After(t.until) {
		t.more = true
	}
	return t.more
}

// say writes down some words of the page that is being read.
func (t *taken) say(s string) {
	if t.bytes += len(s); t.bytes > mostText {
		t.more = true
		return
	}
	t.page.WriteString(norm.NFKC.String(strings.ToValidUTF8(strings.ReplaceAll(s, "\x00", ""), "�"))) // ﬁ is f and i
}

// turn ends a page.
func (t *taken) turn() {
	t.pages = append(t.pages, t.page.String())
	t.page.Reset()
}

// bodyShare is how much of a file's letters must be as small for it to count as body
// type: what notes, captions and raised figures take up is less (common practice, no
// source).
const bodyShare = 0.05

// words is what was read, and the smallest size of at least bodyShare of all letters.
func (t *taken) words() Words {
	w := Words{Pages: t.pages, More: t.more || t.some}
	all := 0
	for _, n := range t.sizes {
		all += n
	}
	least := 0
	for size, n := range t.sizes {
		if float64(n) >= bodyShare*float64(all) && (least == 0 || size < least) {
			least = size
		}
	}
	w.Type = float64(least) / 10
	return w
}

// letters of a size in points.
func (t *taken) letters(s string, size float64) {
	if size <= 0 || size > 1000 {
		return
	}
	for _, r := range s {
		if unicode.IsLetter(r) {
			t.sizes[int(size*10+0.5)]++
		}
	}
}

// plain reads a text without marks.
func (t *taken) plain(file io.Reader) error {
	b, err := io.ReadAll(io.LimitReader(file, mostText+1))
	if err != nil {
		return err
	}
	t.more = len(b) > mostText
	t.say(string(b[:min(len(b), mostText)]))
	t.turn()
	return nil
}
