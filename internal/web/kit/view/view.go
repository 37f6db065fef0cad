// Package view draws pages with html/template: a layout parsed once, a clone
// for each page. The pages stand beside their handlers, in the rooms of the
// site; pictures are SVG drawn here from numbers.
package view

import (
	"bytes"
	"embed"
	"fmt"
	"html/template"
	"io/fs"
	"maps"
	"path"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"ulvant/core/access"
	"ulvant/core/control"
	"ulvant/core/funder"
)

//go:embed layout
var sources embed.FS

// Page is what every template gets.
type Page struct {
	Title  string
	Nav    string // the part of the top band that is marked
	Data   any
	Notice string

	// set by site:
	CSRF   string
	Who    string // name of the account, "" when nobody is signed in
	Office bool
	Reads  bool
	Bodies bool // sees the organisations of the whole office
	Demo   bool
	Path   string
	Now    time.Time
	Funder funder.Settings
	Allows func(access.Action) bool // what the asker may do with what the page is about; nil: nothing
}

// May reports that the asker may do something, by the action's words: a page
// offers nobody what would be refused. Words that name no action are an error.
func (p Page) May(action string) (bool, error) {
	if !slices.Contains(access.Actions, access.Action(action)) {
		return false, fmt.Errorf("no action is called %q", action)
	}
	return p.Allows != nil && p.Allows(access.Action(action)), nil
}

// Folder of pages: one template for each, and beside its name a value of the
// type that it draws.
type Folder struct {
	Name   string
	Pages  fs.FS
	Values map[string]any
}

// Set of pages, each parsed when it is first drawn: a hundred clones of the layout are
// half a second of a start.
type Set struct {
	pages  map[string]func() (*template.Template, error)
	values map[string]any
	strict bool
}

// New finds every page of the folders, each named folder/page. asset gives the
// address of a static file; more are folders of blocks that join those of the
// layout, which is parsed at once.
func New(asset func(string) string, folders []Folder, more ...fs.FS) (*Set, error) {
	base := template.New("layout").Funcs(funcs(asset)).Funcs(template.FuncMap{"control": controls(nil)})
	base, err := base.ParseFS(sources, "layout/*.html")
	if err != nil {
		return nil, err
	}
	for _, dir := range more {
		if base, err = base.ParseFS(dir, "*.html"); err != nil {
			return nil, err
		}
	}
	s := &Set{pages: map[string]func() (*template.Template, error){}, values: map[string]any{}}
	for _, folder := range folders {
		files, err := fs.Glob(folder.Pages, "*.html")
		if err != nil {
			return nil, err
		}
		for _, f := range files {
			page := strings.TrimSuffix(f, path.Ext(f))
			s.pages[folder.Name+"/"+page] = sync.OnceValues(func() (*template.Template, error) {
				t, err := base.Clone()
				if err != nil {
					return nil, err
				}
				t.Funcs(template.FuncMap{"control": controls(t)}).Option("missingkey=error")
				return t.ParseFS(folder.Pages, f)
			})
			s.values[folder.Name+"/"+page] = folder.Values[page]
		}
	}
	return s, nil
}

// Names lists the pages.
func (s *Set) Names() []string { return slices.Sorted(maps.Keys(s.pages)) }

// Value is one of the type that a page draws; nil when its folder names none.
func (s *Set) Value(name string) any { return s.values[name] }

// controls draws a thing by the block named for how it is drawn: "input-line",
// "cell-tick". A cell without a block of its own is a line; a page that draws
// an input nobody drew before fails.
func controls(t *template.Template) func(what string, as control.As, data any) (template.HTML, error) {
	return func(what string, as control.As, data any) (template.HTML, error) {
		name := what + "-" + string(as)
		if what == "cell" && t.Lookup(name) == nil {
			name = "cell-" + string(control.Line)
		}
		var b strings.Builder
		err := t.ExecuteTemplate(&b, name, data)
		return template.HTML(b.String()), err // drawn by html/template itself
	}
}

// Strict makes a page fail that is given something else than its folder says;
// for tests.
func (s *Set) Strict() { s.strict = true }

// Page draws a whole page.
func (s *Set) Page(name string, p Page) ([]byte, error) {
	if want, has := reflect.TypeOf(s.values[name]), reflect.TypeOf(p.Data); s.strict && want != has {
		return nil, fmt.Errorf("the page %s draws a %v and is given a %v", name, want, has)
	}
	return s.draw(name, "layout", p)
}

// Block draws one block of a page, for a part that is swapped in place.
func (s *Set) Block(name, block string, data any) ([]byte, error) { return s.draw(name, block, data) }

func (s *Set) draw(name, block string, data any) ([]byte, error) {
	parsed := s.pages[name]
	if parsed == nil {
		return nil, fmt.Errorf("there is no page %q", name)
	}
	t, err := parsed()
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := t.ExecuteTemplate(&b, block, data); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}
