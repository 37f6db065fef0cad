package slot

import (
	"fmt"
	"strconv"
	"strings"
)

// TemplateProperty is the name of the document property in which a template carries its
// mark, whatever the kind of file.
const TemplateProperty = "UlvantTemplate"

// Mark is what a template that is offered to be filled in carries inside itself, so that
// it is known again when it comes back.
type Mark struct {
	Template int64  // its number
	Version  int    // from 1
	Hash     string // of the file as it was put up, the first 16 hexadecimal digits of its SHA-256
}

// String writes a mark as it is kept in a file.
func (m Mark) String() string { return fmt.Sprintf("%d v%d %s", m.Template, m.Version, m.Hash) }

// ParseMark reads one back; ok is false for anything else.
func ParseMark(s string) (m Mark, ok bool) {
	parts := strings.Fields(s)
	if len(parts) != 3 || len(parts[2]) != 16 || !strings.HasPrefix(parts[1], "v") {
		return m, false
	}
	id, err := strconv.ParseInt(parts[0], 10, 64)
	v, verr := strconv.Atoi(parts[1][1:])
	if err != nil || verr != nil || id < 1 || v < 1 {
		return m, false
	}
	return Mark{id, v, parts[2]}, true
}

// Template is one that is offered to be filled in.
type Template struct {
	ID     int64
	Hashes []string // of its versions, from the first; the last is asked for
}

// Came says what came back for a template.
type Came string

// What can come.
const (
	Current      Came = "current"
	Older        Came = "older"
	Unrecognised Came = "not recognised"
)

// Recognise says of a file, by the mark that was found in it, whether it is one of the
// templates of its slot filled in, and which version. A mark that does not fit what was
// put up is not believed.
func Recognise(found string, templates []Template) (came Came, of Template, version int) {
	m, ok := ParseMark(found)
	if !ok {
		return Unrecognised, Template{}, 0
	}
	for _, t := range templates {
		if t.ID != m.Template || m.Version > len(t.Hashes) || t.Hashes[m.Version-1] != m.Hash {
			continue
		}
		if m.Version < len(t.Hashes) {
			return Older, t, m.Version
		}
		return Current, t, m.Version
	}
	return Unrecognised, Template{}, 0
}

// Marks reports the kinds of file that can carry a mark.
func Marks(k Kind, name string) bool {
	return k == PDF || k == Text || k == Sheet && !strings.HasSuffix(strings.ToLower(name), ".csv")
}
