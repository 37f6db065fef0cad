// Package view draws pages with html/template: a layout parsed once, a clone
// for each page. The templates in pages/ are laid out as the handlers are;
// pictures are SVG drawn here from numbers.
package view

import (
	"bytes"
	"embed"
	"fmt"
	"html/template"
	"io/fs"
	"path"
	"slices"
	"strings"
	"time"

	"ulvant/core/access"
	"ulvant/core/control"
)

//go:embed layout pages
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
	Demo   bool
	Path   string
	Now    time.Time
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

// Set of parsed pages.
type Set struct{ pages map[string]*template.Template }

// New parses every page. asset gives the address of a static file; more are
// folders of blocks that join those of the layout.
func New(asset func(string) string, more ...fs.FS) (*Set, error) {
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
	s := &Set{pages: map[string]*template.Template{}}
	files, err := fs.Glob(sources, "pages/*/*.html")
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		t, err := base.Clone()
		if err != nil {
			return nil, err
		}
		t.Funcs(template.FuncMap{"control": controls(t)})
		if t, err = t.ParseFS(sources, f); err != nil {
			return nil, err
		}
		name := strings.TrimSuffix(strings.TrimPrefix(f, "pages/"), path.Ext(f))
		s.pages[name] = t
	}
	return s, nil
}

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

// Strict makes a page fail that asks for something it was not given, instead of
// leaving a blank; for tests, where a misspelt name must be seen.
func (s *Set) Strict() {
	for _, t := range s.pages {
		t.Option("missingkey=error")
	}
}

// Page draws a whole page.
func (s *Set) Page(name string, p Page) ([]byte, error) { return s.draw(name, "layout", p) }

// Block draws one block of a page, for a part that is swapped in place.
func (s *Set) Block(name, block string, data any) ([]byte, error) { return s.draw(name, block, data) }

func (s *Set) draw(name, block string, data any) ([]byte, error) {
	t := s.pages[name]
	if t == nil {
		return nil, fmt.Errorf("there is no page %q", name)
	}
	var b bytes.Buffer
	if err := t.ExecuteTemplate(&b, block, data); err != nil {
		return nil, err
	}
	return b.Bytes(), nil
}
