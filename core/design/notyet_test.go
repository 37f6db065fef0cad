package design_test

import (
	"go/ast"
	"go/types"
	"io/fs"
	"os"
	"path/filepath"
	"reflect"
	"regexp"
	"slices"
	"strings"
	"testing"

	"golang.org/x/tools/go/packages"

	"ulvant/core/design"
	"ulvant/core/form"
)

// Every member that an officer can set changes what the program does, or carries
// the mark that it does not yet. A member changes something when a package that
// runs rounds reads it: not those that keep, draw, compare or prove designs.
func TestWhatIsSetRunsOrSaysThatItDoesNotYet(t *testing.T) {
	if testing.Short() {
		t.Skip("it reads the types of the whole program")
	}
	read, drawn := fieldsRead(t), pagesDraw(t)
	// these act through what is compiled from them, or through a method beside them
	read["ulvant/core/form.Rule.When"], read["ulvant/core/form.Design.ReaderWord"] = true, true
	read["ulvant/core/form.Body.Sees"], read["ulvant/core/form.Criterion.Applies"] = true, true
	check := func(of reflect.Type, thing string, m design.Member) {
		f, ok := jsonField(of, m.Name)
		if !ok {
			t.Errorf("%s.%s is no member of %s", thing, m.Name, of)
			return
		}
		if runs := read[of.PkgPath()+"."+of.Name()+"."+f.Name]; !runs && !drawn(f.Name) && m.NotYet == "" {
			t.Errorf("%s: “%s” (%s.%s) is kept, and nothing that runs rounds reads it; let it run, or mark it", thing, m.Label,
				of.Name(), f.Name)
		}
		for word := range m.NotYetFor {
			if !slices.ContainsFunc(m.Words, func(o form.Option) bool { return string(o.Key) == word }) {
				t.Errorf("%s.%s marks the word %q, which it has not", thing, m.Name, word)
			}
		}
	}
	var members func(of reflect.Type, thing string, list []design.Member)
	members = func(of reflect.Type, thing string, list []design.Member) {
		for _, m := range list {
			check(of, thing, m)
			f, ok := jsonField(of, m.Name)
			if !ok || len(m.Sub) == 0 {
				continue
			}
			sub := f.Type
			for sub.Kind() == reflect.Pointer || sub.Kind() == reflect.Slice {
				sub = sub.Elem()
			}
			if e, ok := sub.FieldByName("Else"); ok { // cases of something
				sub = e.Type
			}
			members(sub, thing, m.Sub)
		}
	}
	all := reflect.TypeFor[form.Design]()
	for _, thing := range slices.Concat(design.Heads, design.Things) {
		of := all
		if thing.List != "" && thing.List != "questions" {
			f, ok := jsonField(all, thing.List)
			if !ok {
				t.Errorf("a design has no %s", thing.List)
				continue
			}
			of = f.Type.Elem()
		}
		if thing.NotYet != "" {
			continue
		}
		members(of, thing.Name, thing.Members)
	}
	for _, info := range form.Kinds() {
		k := info.Kind
		members(reflect.TypeFor[form.Question](), string(k), design.QuestionMembers(k, false))
	}
}

// pagesDraw reports a field that a page for those who apply, judge or decide
// draws; the designer's own pages do not count.
func pagesDraw(t *testing.T) func(field string) bool {
	t.Helper()
	var all strings.Builder
	err := filepath.WalkDir("../../internal/web", func(f string, _ fs.DirEntry, err error) error {
		if err != nil || filepath.Ext(f) != ".html" || strings.Contains(f, "/designer/") {
			return err
		}
		b, err := os.ReadFile(f)
		all.Write(b)
		return err
	})
	if err != nil || all.Len() < 10_000 {
		t.Fatal(all.Len(), err)
	}
	return func(field string) bool { return regexp.MustCompile(`\.` + field + `\b`).MatchString(all.String()) }
}

// A marked member that is set is told of; one that is not set is not.
func TestNotYet(t *testing.T) {
	d := &form.Design{Name: "A round",
		Streams: []form.Stream{{Key: "a", Label: "A", Fund: 5}, {Key: "b", Label: "B"}},
		Gifts:   []form.Gift{{Key: "desk", Label: "A desk"}}, Stages: []form.Stage{{Key: "talk", Label: "Talks",
			Does: form.Interview}, {Key: "w", Label: "Writing", Does: form.Apply}},
		Sections: []form.Section{{Key: "s", Questions: []form.Question{{Key: "q", Kind: form.Short, Label: "Why?",
			Seen: form.ToReaders}}}}}
	var got []string
	for _, u := range design.NotYet(d) {
		got = append(got, u.Path)
	}
	slices.Sort(got)
	if want := []string{"gifts/desk"}; !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
}

func jsonField(t reflect.Type, name string) (reflect.StructField, bool) {
	for f := range fieldsOf(t) {
		if tag, _, _ := strings.Cut(f.Tag.Get("json"), ","); tag == name {
			return f, true
		}
	}
	return reflect.StructField{}, false
}

func fieldsOf(t reflect.Type) func(func(reflect.StructField) bool) {
	return func(yield func(reflect.StructField) bool) {
		if t.Kind() != reflect.Struct {
			return
		}
		for i := range t.NumField() {
			if !yield(t.Field(i)) {
				return
			}
		}
	}
}

// fieldsRead are the fields of the design's types that packages which run rounds
// select, as package.Type.Field.
func fieldsRead(t *testing.T) map[string]bool {
	t.Helper()
	// what they import is read as it was compiled, which takes a tenth of the time
	list, err := packages.Load(&packages.Config{Dir: "../..", Mode: packages.NeedName | packages.NeedFiles |
		packages.NeedCompiledGoFiles | packages.NeedImports | packages.NeedTypes | packages.NeedTypesSizes |
		packages.NeedSyntax | packages.NeedTypesInfo | packages.NeedExportFile}, "./core/...", "./internal/...")
	if err != nil {
		t.Fatal(err)
	}
	keeps := func(pkg, file string) bool {
		for _, p := range []string{"core/design", "core/pattern", "core/proof", "core/pathtable", "core/rehearsal",
			"core/replay", "core/form/kindtest", "internal/web/designer", "internal/programtest"} {
			if strings.HasSuffix(pkg, p) {
				return true
			}
		}
		return strings.HasSuffix(pkg, "core/form") && (strings.Contains(file, "/compile") ||
			strings.HasSuffix(file, "/design.go") || strings.HasSuffix(file, "/inspect.go"))
	}
	out := map[string]bool{}
	for _, p := range list {
		for _, e := range p.Errors {
			t.Fatal(e)
		}
		for _, file := range p.Syntax {
			if keeps(p.PkgPath, p.Fset.Position(file.Pos()).Filename) {
				continue
			}
			ast.Inspect(file, func(n ast.Node) bool {
				sel, ok := n.(*ast.SelectorExpr)
				if !ok {
					return true
				}
				s := p.TypesInfo.Selections[sel]
				if s == nil || s.Kind() != types.FieldVal {
					return true
				}
				if v, ok := s.Obj().(*types.Var); ok && v.Pkg() != nil {
					recv := s.Recv()
					if ptr, ok := recv.(*types.Pointer); ok {
						recv = ptr.Elem()
					}
					if named, ok := recv.(*types.Named); ok {
						out[v.Pkg().Path()+"."+named.Obj().Name()+"."+v.Name()] = true
					}
				}
				return true
			})
		}
	}
	return out
}

// What is rarely set can be folded away, and nothing that a question cannot do
// without is.
func TestWhatIsRarelySet(t *testing.T) {
	byName := map[string]bool{}
	var walk func([]design.Member)
	walk = func(list []design.Member) {
		for _, m := range list {
			byName[m.Name] = m.Seldom
			walk(m.Sub)
		}
	}
	for _, k := range form.Kinds() {
		walk(design.QuestionMembers(k.Kind, false))
	}
	for name, want := range map[string]bool{"label": false, "help": false, "asked": false, "blank": false,
		"limits": false, "slot": false, "kinds": false, "sizeMost": false, "seen": false, "nature": false, "options": false,
		"terms": true, "example": true, "dpiLeast": true, "colour": true, "ticks": true} {
		if got, there := byName[name]; !there || got != want {
			t.Errorf("%s: rarely set %v, there %v", name, got, there)
		}
	}
}
