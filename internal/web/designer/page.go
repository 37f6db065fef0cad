// Package designer holds the pages on which a round is designed: an outline of
// its things, the form of the one that is picked, and beside it how applicants
// will meet it, what is still to mend, and the latest changes. Everything set
// here becomes operations on the working design (core/design); nothing in this
// package knows what a particular kind of question is.
package designer

import (
	"bytes"
	"encoding/json"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/condition"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/internal/desk"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// tab is one page of the design: which lists stand on it.
type tab struct {
	Key, Label string
	Lists      []string // of the document; "" stands for the round's own members
	Head       *design.Thing
	Hint       string
}

var tabs = []tab{
	{"round", "The round", []string{"gifts"}, &design.Head, "What the round is, and what is given."},
	{"calendar", "Calendar", []string{"calendar", "stages"}, nil, "Dates, and the stages that lie between them."},
	{"who", "Who may apply", []string{"applicants", "streams", "rules"}, nil,
		"Kinds of applicant, streams, and the rules, each with a sentence for its outcomes."},
	{"asked", "What is asked", []string{"sections"}, nil, "Sections and questions, in the order in which they are read."},
	{"awards", "Awards", []string{"awards"}, &design.Placing, "Purses and places with criteria of their own."},
	{"lists", "Lists and figures", []string{"lists", "tables", "figures"}, nil,
		"What is picked from, and what is worked out."},
	{"fees", "Fees", []string{"fees", "codes"}, &design.Paying, "What entering costs, and how it is paid."},
	{"assessment", "Assessment", []string{"criteria", "bodies"}, &design.Assessment, "How it is read and marked."},
	{"vote", "Public vote", nil, &design.Vote, "Where the public votes: in which stage stands under Calendar."},
	{"letters", "Letters", []string{"letters"}, &design.Offering,
		"What goes out by mail, and whether what is awarded is accepted first."},
}

func tabOf(key string) tab {
	for _, t := range tabs {
		if t.Key == key {
			return t
		}
	}
	return tabs[3]
}

// tabFor finds the page on which a path stands.
func tabFor(path string) tab {
	first, _, _ := strings.Cut(path, "/")
	for _, t := range tabs {
		if slices.Contains(t.Lists, first) || t.Head != nil && t.Head.Name == first {
			return t
		}
	}
	return tabs[0]
}

// item is one line of the outline.
type item struct {
	Path, Key, Label, Note string
	List                   string // path of its list
	Depth                  int
	On                     bool
	Faults                 int
}

// box is one list of the outline, with what adds to it.
type box struct {
	Path, Name, Title string
	Items             []item
}

// mend is something to mend, with where.
type mend struct {
	Place, Says, Href string
}

// page is the whole design page.
type page struct {
	Round            round.Round
	Tab              tab
	Tabs             []tab
	Boxes            []box
	At, AtName       string
	List             string // path of the list that At stands in
	Members          []input
	Kind             form.KindInfo
	Kinds            []form.KindInfo
	InTable          bool
	Preview          *field.Field
	Letter           string // a letter filled from a real case
	Faults           []mend
	Changes          []desk.Change
	Number           int
	Changed          bool
	Since            []design.Graded // what differs from the design that people write on, the heaviest first
	Reason           string          // typed for what is taken away
	Problem          string
	Kept             []round.Kept
	Currency         string
	AddTo, AddName   string // what the key n adds
	CanMove, Columns bool
	Base             string
}

// Page draws the design.
func Page(r *site.Request) error { return draw(r, fiber.StatusOK, state{}) }

// state is what an act that was refused, or a condition half built, hands on.
type state struct {
	problem string
	posed   map[string]string
	typed   bool // draw the members from the form that was posted
	do      string
}

func draw(r *site.Request, status int, st state) error {
	f, faults, err := r.Rounds.Working(r.Round)
	if err != nil {
		return err
	}
	doc, err := tree(r.Round.Working)
	if err != nil {
		return err
	}
	at := value(r, "path")
	p := page{Round: r.Round, Tabs: tabs, At: at, Currency: f.Design.Currency, Problem: st.problem, Kinds: form.Kinds(),
		Base: "/office/rounds/" + r.Round.Key + "/design"}
	switch {
	case at != "" && !strings.Contains(at, "/"): // a list, or what stands in none: its page
		p.Tab, p.At, at = tabFor(at), "", ""
	case at != "":
		p.Tab = tabFor(at)
	default:
		p.Tab = tabOf(value(r, "tab"))
	}
	thing, ok := find(doc, at)
	if at != "" && !ok {
		p.At, at = "", ""
		if p.Problem == "" {
			p.Problem = "That is not in the design any more."
		}
	}
	for _, l := range p.Tab.Lists {
		p.Boxes = append(p.Boxes, p.box(doc, l, faults))
	}
	if at == "" && p.Tab.Head == nil && len(p.Boxes) > 0 && len(p.Boxes[0].Items) > 0 && value(r, "tab") != "" &&
		r.Method() == fiber.MethodGet {
		first := p.Boxes[0].Items[0]
		return r.See(p.Base + "?path=" + url.QueryEscape(first.Path))
	}
	b := newBuilder(f, at, thing, st.posed)
	p.members(r, b, thing, st)
	for _, x := range faults {
		m := mend{Place: x.Place, Says: x.Says, Href: p.Base}
		if x.Path != "" {
			m.Href += "?path=" + url.QueryEscape(x.Path)
			if !strings.Contains(x.Path, "/") { // of a list, or of what stands above it
				m.Href = p.Base + "?tab=" + tabFor(x.Path).Key
			}
		}
		p.Faults = append(p.Faults, m)
	}
	if p.Changes, err = r.Desk.Changes(r.Context, r.Round.ID, 8); err != nil {
		return err
	}
	if p.Kept, err = r.Rounds.AllKept(r.Context, r.DB); err != nil {
		return err
	}
	if err := p.published(r, f.Design); err != nil {
		return err
	}
	if p.Letter, err = letterOf(r, f, at); err != nil {
		return err
	}
	return r.Draw(status, "designer/page", view.Page{Title: "Design of " + r.Round.Name, Nav: "rounds", Data: p})
}

// Takes reports that something people may have answered would be gone.
func (p page) Takes() bool { return len(p.Since) > 0 && p.Since[0].Grade == design.TakesAway }

// Tells reports that those who are writing will be told by mail.
func (p page) Tells() bool { return len(p.Since) > 0 && p.Since[0].Grade >= design.Tightens }

// value of a form or an address.
func value(r *site.Request, name string) string {
	if v := r.Values(name); len(v) > 0 {
		return v[0]
	}
	return ""
}

// published says whether applicants meet what is worked on here.
func (p *page) published(r *site.Request, working *form.Design) (err error) {
	if p.Round.DesignID == nil {
		return nil
	}
	if p.Number, err = r.Rounds.Number(r.Context, r.DB, *p.Round.DesignID); err != nil {
		return err
	}
	out, err := r.Rounds.Form(r.Context, r.DB, *p.Round.DesignID)
	if err != nil {
		return err
	}
	was, err := json.Marshal(out.Design)
	if err != nil {
		return err
	}
	is, err := json.Marshal(working)
	if err != nil || bytes.Equal(was, is) {
		return err
	}
	p.Changed, p.Reason = true, value(r, "reason")
	p.Since, err = design.Compare(was, is)
	return err
}

func tree(raw []byte) (map[string]any, error) {
	dec := json.NewDecoder(strings.NewReader(string(raw)))
	dec.UseNumber()
	var doc map[string]any
	err := dec.Decode(&doc)
	return doc, err
}

// find what a path leads to; the document itself for "".
func find(doc map[string]any, path string) (map[string]any, bool) {
	var at any = doc
	for _, step := range strings.Split(path, "/") {
		if path == "" {
			break
		}
		switch v := at.(type) {
		case map[string]any:
			at = v[step]
		case []any:
			at = nil
			for _, x := range v {
				if m, ok := x.(map[string]any); ok && m["key"] == step {
					at = m
				}
			}
		default:
			return nil, false
		}
	}
	m, ok := at.(map[string]any)
	return m, ok
}

func wholeOf(v any) int64 {
	n, _ := whole(v)
	return n
}

func newBuilder(f *form.Form, at string, thing map[string]any, posed map[string]string) *builder {
	b := &builder{form: f, names: say.Names{Form: f}, path: at, posed: posed}
	if b.posed == nil {
		b.posed = map[string]string{}
	}
	b.scale = int(wholeOf(thing["scale"]))
	if at != "" {
		b.thing = thing
		testsIn(thing, func(t condition.Test) { b.known = append(b.known, t) })
	}
	s := strings.Split(at, "/")
	switch {
	case len(s) >= 6 && s[4] == "columns":
		b.refs = f.Readable(form.Key(s[3]), form.Key(s[5]))
	case len(s) >= 4 && s[0] == "sections":
		b.refs = f.Readable(form.Key(s[3]), "")
	case len(s) == 2 && s[0] == "sections":
		b.refs = f.Readable(form.Key(s[1]), "")
	default:
		b.refs = f.Readable("", "")
	}
	if len(s) == 2 && s[0] == "figures" {
		for _, r := range refsOf(thing["of"]) {
			b.where = append(b.where, f.RowsOf(r.Answer)...)
		}
	}
	return b
}

// membersOf are what can be set of the thing at a path.
func membersOf(at string, thing map[string]any, t tab) []design.Member {
	s := strings.Split(at, "/")
	kind, _ := thing["kind"].(string)
	switch {
	case at == "" && t.Head != nil:
		return t.Head.Members
	case at == "":
		return nil
	case len(s) >= 4:
		return design.QuestionMembers(form.Kind(kind), s[len(s)-2] == "columns")
	}
	x, _ := design.ThingIn(s[0])
	return x.Members
}

// members draws the form of the thing that is picked.
func (p *page) members(r *site.Request, b *builder, thing map[string]any, st state) {
	s := strings.Split(p.At, "/")
	kind, _ := thing["kind"].(string)
	p.InTable = len(s) >= 6 && s[4] == "columns"
	for _, m := range membersOf(p.At, thing, p.Tab) {
		if m.As == design.Columns {
			p.Columns = true
			continue
		}
		if m.Name == "must" && thing["blank"] == string(form.Required) {
			continue
		}
		if slices.Contains(form.KindOf(form.Kind(kind)).Members, "media") && thing["media"] != true {
			m.Sub = slices.DeleteFunc(slices.Clone(m.Sub), func(s design.Member) bool { return s.Name == "slot" })
		}
		in := b.input(m, m.Name, thing[m.Name])
		if m.As == design.Many && m.From != "" && len(in.Options) == 0 {
			continue // the design has nothing to pick from
		}
		if m.As == design.Cells {
			if t := b.form.Table(form.Key(s[len(s)-1])); t != nil {
				in.Value = design.TableSheet(*t).CSV()
			}
		}
		was, _ := json.Marshal(thing[m.Name])
		if m.As == design.Cells {
			was, _ = json.Marshal(in.Value)
		}
		in.Was = string(was)
		if st.typed {
			b.retype(r, &in, m, st)
		}
		p.Members = append(p.Members, in)
	}
	if len(p.Tab.Lists) > 0 {
		p.AddTo = p.Tab.Lists[0]
	}
	if len(s) == 2 {
		p.AddTo = s[0]
	}
	if t, ok := design.ThingIn(p.AddTo); ok {
		p.AddName = t.Name
	}
	if len(s) >= 2 && s[0] == "sections" {
		p.AddTo, p.AddName = "sections/"+s[1]+"/questions", "question"
		if p.Columns {
			p.AddTo, p.AddName = p.At+"/columns", "column"
		}
		if p.InTable {
			p.AddTo, p.AddName = strings.Join(s[:5], "/"), "column"
		}
	}
	if len(s) >= 4 && s[0] == "sections" {
		p.Kind = form.KindOf(form.Kind(kind))
		p.preview(b, form.Key(s[3]))
	}
}

// retype draws what was posted instead of what is kept: a value that was
// refused, or a condition that is still being built.
func (b *builder) retype(r field.Posted, in *input, m design.Member, st state) {
	switch m.As {
	case design.Condition:
		c := readCond(r, m.Name)
		b.acted(&c, st.do)
		b.toCond(&c)
		in.Cond = &c
		b.drawCond(&c, m, m.Name)
	case design.CaseSet:
		b.retypeCases(r, in, m, st)
	case design.Group, design.Many, design.Refs, design.DayAs:
	default:
		if v := r.Values(m.Name); len(v) > 0 && b.posed[m.Name] != "" {
			in.Theirs, in.Value = in.Value, v[0]
		}
	}
}

// acted does a button of the condition builder: "asked.0:out".
func (b *builder) acted(c *cond, do string) {
	if name, what, ok := strings.Cut(do, ":"); ok {
		c.act(name, what)
	}
}

func (b *builder) retypeCases(r field.Posted, in *input, m design.Member, st state) {
	in.Cases = nil
	for i := range 40 {
		name := m.Name + "." + strconv.Itoa(i)
		if len(r.Values(name+".if.group")) == 0 {
			break
		}
		if st.do == name+":out" {
			continue
		}
		then, _ := b.readGroup(r, m.Sub, name+".then")
		c := readCond(r, name+".if")
		b.acted(&c, st.do)
		kept, _ := b.toCond(&c)
		to := m.Name + "." + strconv.Itoa(len(in.Cases))
		b.drawCond(&c, m, to+".if")
		in.Cases = append(in.Cases, caseInput{Name: to, If: &c, Sentence: b.sentence(kept),
			Sub: b.group(m.Sub, to+".then", then)})
	}
	if st.do == m.Name+":case" {
		name := m.Name + "." + strconv.Itoa(len(in.Cases))
		c := cond{Group: "all", Kids: []cond{{}}}
		b.drawCond(&c, m, name+".if")
		otherwise, _ := b.readGroup(r, m.Sub, m.Name+".else")
		in.Cases = append(in.Cases, caseInput{Name: name, If: &c, Sub: b.group(m.Sub, name+".then", otherwise)})
	}
}

// preview is the question as an applicant will meet it, with nothing answered.
func (p *page) preview(b *builder, key form.Key) {
	q := b.form.Question(key)
	if q == nil {
		return
	}
	filled := &form.Filled{Answers: map[form.Place]form.Answer{}}
	path := b.form.Walk(filled)
	f := field.New(b.form, filled, path, q, nil)
	f.Shown, f.Problems = true, nil
	if f.Input != nil {
		f.Input.Bad = false
	}
	if st := path.Find(key); st != nil {
		f.Limit = say.Limit(b.form, q, st.Limits, true)
	}
	p.Preview = &f
}
