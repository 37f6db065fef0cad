package ulvant_test

import (
	"go/ast"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
)

// The site's rooms import what their row of docs/architecture.md allows, have a
// map, pages and handlers beside each other, and no file is longer than 500 lines.
func TestRoomsOfTheSite(t *testing.T) {
	doc, err := os.ReadFile("docs/architecture.md")
	if err != nil {
		t.Fatal(err)
	}
	_, part, _ := strings.Cut(string(doc), "## The rooms of the site")
	part, _, _ = strings.Cut(part, "\n## ")
	may := map[string][]string{}
	for _, m := range regexp.MustCompile(`(?m)^\| ([a-z/]+) \| [^|]* \| ([a-z, ]*)\|$`).FindAllStringSubmatch(part, -1) {
		for _, other := range strings.Split(m[2], ",") {
			if other = strings.TrimSpace(other); other != "" {
				may[m[1]] = append(may[m[1]], other)
			}
		}
		if may[m[1]] == nil {
			may[m[1]] = []string{}
		}
	}
	if len(may) < 12 {
		t.Fatalf("docs/architecture.md has %d rooms", len(may))
	}
	roomOf := func(path string) string {
		_, rest, _ := strings.Cut(filepath.ToSlash(path), "internal/web/")
		rest = strings.TrimSuffix(rest, "/")
		if strings.HasPrefix(rest, "kit/") {
			return "kit"
		}
		return rest
	}
	sources(t, "internal/web", func(path string, f *ast.File) {
		me := roomOf(filepath.Dir(path) + "/")
		if me == "" || me == "webtest" { // the server joins them; tests begin with webtest
			return
		}
		allowed, known := may[me]
		if !known {
			t.Errorf("%s: the room %q is not in docs/architecture.md", path, me)
			return
		}
		for _, p := range imports(f) {
			if !strings.HasPrefix(p, "ulvant/internal/web/") {
				continue
			}
			if other := roomOf(p); other != me && !slices.Contains(allowed, other) {
				t.Errorf("%s imports the room %s", path, other)
			}
		}
	})
	for room := range may {
		pages, _ := filepath.Glob("internal/web/" + room + "/*.html")
		if _, err := os.Stat("internal/web/" + room + "/room.go"); (err == nil) != (len(pages) > 0) {
			t.Errorf("%s has %d pages, and its room.go: %v", room, len(pages), err)
		}
	}
}

// overTheEdge: whether a text or a comment of a line of Go begins before the 120th sign
// and ends after it; gofmt lets neither be broken.
func overTheEdge(line []rune) bool {
	quoted := false
	for i := 0; i < 117; i++ { // three signs may close what holds the text
		switch {
		case quoted && line[i] == '\\':
			i++
		case line[i] == '"':
			quoted = !quoted
		case !quoted && line[i] == '/' && line[i+1] == '/':
			return true
		}
	}
	return quoted
}

// Lines fit a screen: of Go 120 signs, but for a text that reaches over the edge; of
// templates 160. Files stay under 500 lines.
func TestLinesFitAScreen(t *testing.T) {
	err := filepath.WalkDir(".", func(path string, d os.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || strings.HasPrefix(d.Name(), ".") && d.Name() != ".") {
			return filepath.SkipDir
		}
		ext := filepath.Ext(path)
		if ext != ".go" && ext != ".html" {
			return nil
		}
		b, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		lines := strings.Split(string(b), "\n")
		if len(lines) > 501 && ext == ".go" && !strings.HasSuffix(path, "_test.go") {
			t.Errorf("%s has %d lines", path, len(lines))
		}
		raw := false
		for i, line := range lines {
			inRaw := raw || strings.Contains(line, "`")
			if strings.Count(line, "`")%2 == 1 {
				raw = !raw
			}
			switch {
			case ext == ".html" && len([]rune(line)) > 160 && !strings.Contains(line, "htmx-config"):
				t.Errorf("%s:%d has %d signs", path, i+1, len([]rune(line)))
			case ext == ".go" && !inRaw && len([]rune(line)) > 120 && !overTheEdge([]rune(line)):
				t.Errorf("%s:%d has %d signs", path, i+1, len([]rune(line)))
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
