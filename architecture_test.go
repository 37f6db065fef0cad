// Package ulvant_test holds the code to docs/architecture.md.
package ulvant_test

import (
	"bytes"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// rooms reads the table of docs/architecture.md: packages in order, and who
// owns which table.
func rooms(t *testing.T) (order []string, owner map[string]string) {
	t.Helper()
	doc, err := os.ReadFile("docs/architecture.md")
	if err != nil {
		t.Fatal(err)
	}
	owner = map[string]string{}
	_, part, _ := strings.Cut(string(doc), "## Who may import whom")
	part, _, _ = strings.Cut(part, "\n## ")
	for _, m := range regexp.MustCompile(`(?m)^\| ([a-z]+) \| ?([a-z_, ]*)\|$`).FindAllStringSubmatch(part, -1) {
		order = append(order, m[1])
		for _, table := range strings.Split(m[2], ",") {
			if table = strings.TrimSpace(table); table != "" {
				owner[table] = m[1]
			}
		}
	}
	if len(order) < 10 || len(owner) < 20 {
		t.Fatalf("docs/architecture.md has %d packages and %d tables", len(order), len(owner))
	}
	return order, owner
}

// sources parses every Go file under a folder that is not a test.
func sources(t *testing.T, root string, visit func(path string, f *ast.File)) {
	t.Helper()
	err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, parser.SkipObjectResolution)
		if err == nil {
			visit(path, f)
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

func imports(f *ast.File) []string {
	var out []string
	for _, i := range f.Imports {
		p, _ := strconv.Unquote(i.Path.Value)
		out = append(out, p)
	}
	return out
}

// room is the first part of a path below internal/.
func room(path string) string {
	_, rest, _ := strings.Cut(path, "internal/")
	first, _, _ := strings.Cut(rest, "/")
	return first
}

func TestImportsPointInward(t *testing.T) {
	order, _ := rooms(t)
	sources(t, "internal", func(path string, f *ast.File) {
		me := room(path)
		if slices.Contains([]string{"browser", "programtest"}, me) || strings.Contains(path, "web/webtest/") {
			return // only tests and cmd/shots use them
		}
		for _, p := range imports(f) {
			if !strings.HasPrefix(p, "ulvant/internal/") {
				continue
			}
			other := room(p)
			switch {
			case me == other || other == "platform" && me == "standin":
			case me == "web" && other == "standin": // the demo's mail tray is shown in the browser
			case slices.Index(order, me) < 0:
				t.Errorf("%s: internal/%s is not in docs/architecture.md", path, me)
			case slices.Index(order, other) < 0 || slices.Index(order, other) > slices.Index(order, me):
				t.Errorf("%s imports %s, which lies further out", path, p)
			case other == "desk" && me != "web" && me != "program":
				t.Errorf("%s imports desk; only web draws lists", path)
			}
		}
	})
}

func TestCoreIsPure(t *testing.T) {
	impure := regexp.MustCompile(`^(os|os/.*|net|net/(http|smtp|rpc|textproto).*|database/.*|log|log/.*|io/fs|path/filepath|math/rand.*|crypto/rand|testing|embed|syscall|ulvant/internal/.*|ulvant/demo|ulvant/migrations)$`)
	sources(t, "core", func(path string, f *ast.File) {
		for _, p := range imports(f) {
			if impure.MatchString(p) {
				t.Errorf("%s imports %s", path, p)
			}
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if s, ok := n.(*ast.SelectorExpr); ok {
				if x, ok := s.X.(*ast.Ident); ok && x.Name == "time" &&
					(s.Sel.Name == "Now" || s.Sel.Name == "Since" || s.Sel.Name == "Local") {
					t.Errorf("%s reads the clock", path)
				}
			}
			if fn, ok := n.(*ast.FuncDecl); ok && fn.Name.Name == "init" && fn.Recv == nil {
				t.Errorf("%s has an init function", path)
			}
			return true
		})
	})
}

// Every statement that writes stands in the package that owns its table, and
// none asks PostgreSQL for the time.
func TestTablesAreWrittenByTheirOwners(t *testing.T) {
	_, owner := rooms(t)
	writes := regexp.MustCompile(`\b(?:INSERT INTO|UPDATE|DELETE FROM)\s+([a-z_]+)`)
	now := regexp.MustCompile(`(?i)\b(now\(\)|current_timestamp|localtimestamp)`)
	seen := map[string]bool{}
	sources(t, "internal", func(path string, f *ast.File) {
		ast.Inspect(f, func(n ast.Node) bool {
			l, ok := n.(*ast.BasicLit)
			if !ok || l.Kind != token.STRING {
				return true
			}
			text, _ := strconv.Unquote(l.Value)
			for _, m := range writes.FindAllStringSubmatch(text, -1) {
				table := m[1]
				seen[table] = true
				if owner[table] != room(path) {
					t.Errorf("%s writes the table %s, which %q owns", path, table, owner[table])
				}
			}
			if strings.Contains(text, "SELECT") && now.MatchString(text) {
				t.Errorf("%s asks PostgreSQL for the time: %s", path, text)
			}
			return true
		})
	})
	for table := range owner {
		if !seen[table] {
			t.Errorf("nothing writes the table %s", table)
		}
	}
}

// The committed style sheet has every class that a template, a picture or a
// script uses, so that a forgotten ./run styles shows.
func TestStyleSheetHasEveryClass(t *testing.T) {
	css, err := os.ReadFile("internal/web/static/app.css")
	if err != nil {
		t.Fatal(err)
	}
	sheet := strings.ReplaceAll(string(css), `\`, "")
	attr := regexp.MustCompile(`class="([^"]*)"`)
	action := regexp.MustCompile(`(?s)\{\{.*?\}\}|%[sd]`)
	scriptName := regexp.MustCompile(`className = '([^']*)'`)
	// Names that scripts and tests find elements by, and which look like nothing.
	hooks := []string{"deciding"}
	check := func(path, classes string) {
		for _, c := range strings.Fields(classes) {
			if strings.Contains(c, "\x00") || slices.Contains(hooks, c) {
				continue // made of parts, or no look
			}
			if !regexp.MustCompile(`\.` + regexp.QuoteMeta(c) + `([^a-zA-Z0-9_-]|$)`).MatchString(sheet) {
				t.Errorf("%s uses the class %q, which the style sheet lacks: ./run styles, or take it out", path, c)
			}
		}
	}
	n := 0
	for _, root := range []string{"internal/web"} {
		err := filepath.WalkDir(root, func(path string, d fs.DirEntry, err error) error {
			if err != nil || d.IsDir() || strings.HasSuffix(path, "_test.go") ||
				!slices.Contains([]string{".html", ".go", ".js"}, filepath.Ext(path)) || strings.Contains(path, "htmx") {
				return err
			}
			b, err := os.ReadFile(path)
			if err != nil {
				return err
			}
			b = action.ReplaceAll(b, []byte("\x00"))
			for _, m := range attr.FindAllSubmatch(b, -1) {
				n++
				check(path, string(m[1]))
			}
			for _, m := range scriptName.FindAllSubmatch(b, -1) {
				check(path, string(m[1]))
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	if n < 100 {
		t.Errorf("only %d classes were found", n)
	}
}

// Pictures in docs/screenshots are few, and the README shows each.
func TestPicturesAreShown(t *testing.T) {
	readme, err := os.ReadFile("README.md")
	if err != nil {
		t.Fatal(err)
	}
	files, err := filepath.Glob("docs/screenshots/*.png")
	if err != nil || len(files) == 0 || len(files) >= 20 {
		t.Fatal(len(files), err)
	}
	for _, f := range files {
		if !bytes.Contains(readme, []byte(f)) {
			t.Errorf("the README does not show %s", f)
		}
	}
}
