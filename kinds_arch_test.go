package ulvant_test

import (
	"go/ast"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// Nothing tells one kind of question from another but the kind's own file:
// outside core/form no kind is named, except where designs are written; inside
// it, no other file compares kinds.
func TestNobodyTellsKindsApart(t *testing.T) {
	isKind := map[string]bool{}
	sources(t, "core/form", func(path string, f *ast.File) {
		if filepath.Base(path) != "question.go" {
			return
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if s, ok := n.(*ast.ValueSpec); ok {
				if id, ok := s.Type.(*ast.Ident); ok && id.Name == "Kind" {
					for _, name := range s.Names {
						isKind[name.Name] = true
					}
				}
			}
			return true
		})
	})
	if len(isKind) < 30 {
		t.Fatalf("found %d kinds", len(isKind))
	}
	for _, root := range []string{"core", "internal", "cmd"} {
		sources(t, root, func(path string, f *ast.File) {
			dir := filepath.ToSlash(filepath.Dir(path))
			own := dir == "core/form"
			if dir == "core/pattern" || dir == "core/form/kindtest" || dir == "internal/programtest" || own &&
				strings.HasPrefix(filepath.Base(path), "kind_") {
				return
			}
			compared := func(e ast.Expr) {
				if id, ok := e.(*ast.Ident); ok && own && isKind[id.Name] {
					t.Errorf("%s compares a kind with %s; let the kind say it (core/form/kinds.go)", path, id.Name)
				}
			}
			ast.Inspect(f, func(n ast.Node) bool {
				switch n := n.(type) {
				case *ast.SelectorExpr:
					if x, ok := n.X.(*ast.Ident); ok && x.Name == "form" && isKind[n.Sel.Name] && !own {
						t.Errorf("%s names form.%s; ask what the kind says of itself (core/form/kinds.go)", path, n.Sel.Name)
					}
				case *ast.BinaryExpr:
					if n.Op == token.EQL || n.Op == token.NEQ {
						compared(n.X)
						compared(n.Y)
					}
				case *ast.CaseClause:
					for _, e := range n.List {
						compared(e)
					}
				}
				return true
			})
		})
	}
	err := filepath.WalkDir("internal/web", func(page string, d fs.DirEntry, err error) error {
		if err != nil || filepath.Ext(page) != ".html" {
			return err
		}
		text, err := os.ReadFile(page)
		if err != nil {
			return err
		}
		if strings.Contains(string(text), `.Q.Kind) "`) {
			t.Errorf("%s compares the kind of a question", page)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
