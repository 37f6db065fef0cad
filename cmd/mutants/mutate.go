package main

import (
	"bytes"
	"fmt"
	"go/ast"
	"go/parser"
	"go/printer"
	"go/token"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
)

// mutant is one change of one file.
type mutant struct {
	file  string // path of the file that is changed
	line  int
	what  string // the change, for the report
	bytes []byte // the file with it
}

// swaps are the operators that stand in for one another: the neighbour by which a
// bound is missed, the opposite, the other half of a pair.
var swaps = map[token.Token][]token.Token{
	token.LSS: {token.LEQ, token.GEQ}, token.LEQ: {token.LSS, token.GTR}, token.GTR: {token.GEQ,
		token.LEQ}, token.GEQ: {token.GTR, token.LSS},
	token.EQL: {token.NEQ}, token.NEQ: {token.EQL}, token.LAND: {token.LOR}, token.LOR: {token.LAND},
	token.ADD: {token.SUB}, token.SUB: {token.ADD}, token.MUL: {token.QUO}, token.QUO: {token.MUL}, token.REM: {token.MUL},
	token.AND: {token.OR}, token.OR: {token.AND}, token.SHL: {token.SHR}, token.SHR: {token.SHL},
	token.ADD_ASSIGN: {token.SUB_ASSIGN}, token.SUB_ASSIGN: {token.ADD_ASSIGN}, token.INC: {token.DEC},
	token.DEC: {token.INC},
}

// mutantsOf makes every mutant of a file: operators swapped, conditions negated,
// constants moved by one, true and false exchanged, statements dropped.
func mutantsOf(path string) ([]mutant, error) {
	src, err := os.ReadFile(path)
	if err != nil {
		return nil, err
	}
	fset := token.NewFileSet()
	file, err := parser.ParseFile(fset, path, src, parser.ParseComments)
	if err != nil {
		return nil, err
	}
	m := &maker{path: path, src: src, fset: fset}
	ast.Inspect(file, m.visit)
	return m.out, nil
}

type maker struct {
	path string
	src  []byte
	fset *token.FileSet
	out  []mutant
}

// add a mutant in which the text from one place to another is replaced.
func (m *maker) add(from, to token.Pos, with, what string) {
	a, b := m.fset.Position(from).Offset, m.fset.Position(to).Offset
	changed := append(append(append([]byte{}, m.src[:a]...), with...), m.src[b:]...)
	m.out = append(m.out, mutant{m.path, m.fset.Position(from).Line, what, changed})
}

func (m *maker) text(n ast.Node) string {
	var out bytes.Buffer
	if printer.Fprint(&out, m.fset, n) != nil {
		return ""
	}
	if text := strings.Join(strings.Fields(out.String()), " "); len(text) < 60 {
		return text
	}
	return strings.Join(strings.Fields(out.String()[:56]), " ") + " …"
}

func (m *maker) visit(n ast.Node) bool {
	switch x := n.(type) {
	case *ast.ImportSpec, *ast.StructType, *ast.InterfaceType:
		return false
	case *ast.GenDecl:
		return x.Tok != token.IMPORT && x.Tok != token.TYPE
	case *ast.BinaryExpr:
		for _, op := range swaps[x.Op] {
			m.add(x.OpPos, x.OpPos+token.Pos(len(x.Op.String())), op.String(), fmt.Sprintf("%s: %s is %s", m.text(x), x.Op, op))
		}
	case *ast.IncDecStmt:
		m.add(x.TokPos, x.TokPos+2, swaps[x.Tok][0].String(), m.text(x)+" the other way")
	case *ast.AssignStmt:
		for _, op := range swaps[x.Tok] {
			m.add(x.TokPos, x.TokPos+token.Pos(len(x.Tok.String())), op.String(),
				fmt.Sprintf("%s: %s is %s", m.text(x), x.Tok, op))
		}
		switch blank := !slices.ContainsFunc(x.Lhs, func(e ast.Expr) bool {
			name,
				is := e.(*ast.Ident)
			return !is || name.Name != "_"
		}); {
		case x.Tok == token.ASSIGN && blank:
			m.add(x.Pos(), x.End(), "", m.text(x)+" is dropped")
		case x.Tok == token.ASSIGN:
			m.add(x.Pos(), x.End(), strings.Repeat("_, ", len(x.Rhs)-1)+"_ = "+m.list(x.Rhs), m.text(x)+" is dropped")
		}
	case *ast.IfStmt:
		m.add(x.Cond.Pos(), x.Cond.End(), "!("+string(m.between(x.Cond))+")", "if not "+m.text(x.Cond))
	case *ast.ExprStmt:
		m.add(x.Pos(), x.End(), "", m.text(x)+" is dropped")
	case *ast.BasicLit:
		if v, err := strconv.ParseInt(x.Value, 0, 62); x.Kind == token.INT && err == nil {
			m.add(x.Pos(), x.End(), strconv.FormatInt(v+1, 10), x.Value+" is one more")
		}
	case *ast.Ident:
		if other := map[string]string{"true": "false", "false": "true"}[x.Name]; other != "" {
			m.add(x.Pos(), x.End(), other, x.Name+" is "+other)
		}
	}
	return true
}

func (m *maker) between(n ast.Node) []byte {
	return m.src[m.fset.Position(n.Pos()).Offset:m.fset.Position(n.End()).Offset]
}

func (m *maker) list(of []ast.Expr) string {
	var out []string
	for _, x := range of {
		out = append(out, string(m.between(x)))
	}
	return strings.Join(out, ", ")
}

// planted is a change that no test can see: whoever counts it as killed counts
// what the machine did, not what the tests found.
func planted(path string) (mutant, error) {
	src, err := os.ReadFile(path)
	return mutant{path, 0, "a comment, planted to live", append(src, "\n// planted to live\n"...)}, err
}

// sources are a package's files without its tests and without those that are
// built elsewhere.
func sources(dir string) ([]string, error) {
	all, err := filepath.Glob(filepath.Join(dir, "*.go"))
	var out []string
	for _, f := range all {
		if !strings.HasSuffix(f, "_test.go") {
			out = append(out, f)
		}
	}
	return out, err
}
