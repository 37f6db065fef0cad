package field_test

import (
	"context"
	"encoding/json"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/form/kindtest"
	"ulvant/core/proof"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/core/survey"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/view"
)

type posted map[string][]string

func (p posted) Values(name string) []string { return p[name] }

// Every kind is taken through all that the program does with an answer. None of
// it is told which kind it is; with -tags trial a kind of the test's own is
// among them.
func TestEveryKindThroughEverything(t *testing.T) {
	// any page will do to draw a block of the layout
	page := view.Folder{Name: "test", Pages: fstest.MapFS{"page.html": {Data: []byte(`{{define "main"}}{{end}}`)}}}
	pages, err := view.New(func(name string) string { return name }, []view.Folder{page}, os.DirFS("testdata"))
	if err != nil {
		t.Fatal(err)
	}
	pages.Strict()
	for _, info := range form.Kinds() {
		t.Run(string(info.Kind), func(t *testing.T) {
			f, err := form.Compile(kindtest.Design(info.Kind))
			if err != nil {
				t.Fatal(err)
			}
			q := f.Question(kindtest.Key(info.Kind))
			at := func(x *form.Filled) (*form.QuestionState, []form.Obstacle) {
				path := f.Walk(x)
				return path.Find(q.Key), slices.DeleteFunc(slices.Clone(path.Obstacles),
					func(o form.Obstacle) bool { return o.Place.Question != q.Key })
			}
			filled := kindtest.Filled(f, q)
			given, left := at(filled)

			t.Run("left empty it stands in the way, and says so", func(t *testing.T) {
				_, missing := at(kindtest.Filled(f))
				for _, o := range missing {
					if what, remedy := say.Obstacle(f, o); what == "" || remedy == "" || !strings.HasSuffix(remedy, ".") {
						t.Errorf("%+v: %q %q", o, what, remedy)
					}
				}
				if len(missing) == 0 && given.Fees == nil { // fees are worked out without an answer
					t.Error("nothing stands in the way")
				}
			})
			t.Run("its example meets its limits", func(t *testing.T) {
				if len(left) > 0 || given.Presence != condition.Given {
					t.Errorf("%v: %+v", given.Presence, left)
				}
			})
			t.Run("it is said", func(t *testing.T) {
				said := say.Answer(f, q, filled, given)
				if q.Written() != (said != "") {
					t.Errorf("%q", said)
				}
				if form.KindOf(q.Kind).Means == "" || q.How() == "" || q.Tenths(q.Limits.Else) <= 0 {
					t.Error("it has no words of its own, or takes no time")
				}
				if what, remedy := q.Unanswered(); !strings.Contains(what, q.Label) || remedy == "" {
					t.Errorf("%q %q", what, remedy)
				}
			})
			t.Run("what cannot be read is told how to be written", func(t *testing.T) {
				x := kindtest.Filled(f)
				x.Answers[form.Place{Question: q.Key}] = form.Answer{Raw: "\x01 §§§"}
				for _, o := range func() []form.Obstacle { _, out := at(x); return out }() {
					if _, remedy := say.Obstacle(f, o); o.Code == form.CodeUnreadable &&
						(remedy == "" || remedy == "Write it again.") {
						t.Errorf("%+v: %q", o, remedy)
					}
				}
			})
			t.Run("the proof's values are typed as they are read", func(t *testing.T) {
				v := f.Values(q)
				if info.Compared && v.Of == form.Opaque {
					t.Fatal("conditions read it, and the proof knows nothing of it")
				}
				if q.Keeps() != form.InText {
					return
				}
				for _, x := range v.Listed {
					if got, ok := f.Read(q, f.Typed(q, x)); !ok || !same(got, x) {
						t.Errorf("%q is read as %+v, want %+v", f.Typed(q, x), got, x)
					}
				}
				if v.Of == form.Numbers {
					for _, n := range []int64{max(v.Low, 1), min(max(v.Low, 1234), v.High)} {
						if got, ok := f.Read(q, f.Typed(q, q.ValueOf(n))); !ok || !same(got, q.ValueOf(n)) {
							t.Errorf("%d is typed %q and read as %+v", n, f.Typed(q, q.ValueOf(n)), got)
						}
					}
				}
				for _, k := range v.Keys {
					if form.LabelOf(f.Options(q), k) == k {
						t.Errorf("%q has no label", k)
					}
				}
			})
			t.Run("bounds are where the walk refuses", func(t *testing.T) {
				cut := int64(50)
				for _, l := range []form.Limits{{Least: &cut}, {Most: &cut}, {PickLeast: 3},
					{NotBefore: &form.Day{Key: form.Closes}}} {
					for _, b := range f.Bounds(q, l) {
						if q.Keeps() != form.InText || !slices.Contains(info.Limits, b.Member) {
							continue
						}
						for n, refused := range map[int64]bool{b.At: false, b.At - 1: b.Low, b.At + 1: !b.Low} {
							x := kindtest.Design(info.Kind)
							s := &x.Sections[len(x.Sections)-1]
							s.Questions[len(s.Questions)-1].Limits.Else = l
							g, err := form.Compile(x)
							if err != nil {
								t.Fatal(err)
							}
							raw := g.Typed(q, q.ValueOf(n))
							path := g.Walk(&form.Filled{Answers: map[form.Place]form.Answer{{Question: q.Key}: {Raw: raw}},
								Lead: form.ExampleLead})
							if got := path.Find(q.Key).Faults > 0; got != refused {
								t.Errorf("%s %d: %q refused: %v", b.Member, b.At, raw, got)
							}
						}
					}
				}
				if !f.Possible(q, q.Limits.Else) {
					t.Error("limits that an example meets are called impossible")
				}
			})
			t.Run("the whole is proved", func(t *testing.T) {
				for _, x := range proof.Run(context.Background(), f).Findings {
					if x.Grade == proof.CannotOpen && strings.Contains(x.Path, string(q.Key)) {
						t.Errorf("%s: %s", x.Path, x.Says)
					}
				}
			})
			t.Run("it is drawn, and posted as it was", func(t *testing.T) {
				path := f.Walk(filled)
				drawn := field.New(f, filled, path, q, nil)
				page, err := pages.Block("test/page", "field", drawn.Alone())
				if err != nil {
					t.Fatal(err)
				}
				p := posted{}
				for _, in := range drawn.Inputs() {
					if in.Name == "" || in.Value == "" {
						continue
					}
					p[in.Name] = []string{in.Value}
					if in.As.Several() {
						p[in.Name] = form.Lines(in.Value)
					}
					if !strings.Contains(string(page), `name="`+in.Name+`"`) {
						t.Errorf("%s is not on the page", in.Name)
					}
				}
				got := field.FromForm(p, f)
				for at, a := range filled.Answers {
					if at.Question == q.Key && got[at].Raw != a.Raw {
						t.Errorf("%v: posted %q, was %q", at, got[at].Raw, a.Raw)
					}
				}
			})
			t.Run("it is kept where it may be", func(t *testing.T) {
				for at := range filled.Answers {
					if says := f.Accepts(at); at.Question == q.Key && says != "" {
						t.Errorf("%v: %s", at, says)
					}
				}
			})
			t.Run("it comes out of a seal as it went in", func(t *testing.T) {
				doc := seal.Document{Answers: seal.Answers(filled, f.Walk(filled))}
				raw, err := json.Marshal(doc)
				if err != nil {
					t.Fatal(err)
				}
				var back seal.Document
				if err := json.Unmarshal(raw, &back); err != nil {
					t.Fatal(err)
				}
				was := maps.Clone(filled.Answers)
				maps.DeleteFunc(was, func(at form.Place, _ form.Answer) bool { return at.Question != q.Key })
				is := maps.Clone(back.Filled(form.ExampleLead).Answers)
				maps.DeleteFunc(is, func(at form.Place, _ form.Answer) bool { return at.Question != q.Key })
				if !maps.Equal(was, is) {
					t.Errorf("%v, was %v", is, was)
				}
			})
			t.Run("it is carried over, or given anew", func(t *testing.T) {
				if f.CarriesOver(q) && !q.Written() {
					t.Error("what is not written cannot be carried over")
				}
			})
			t.Run("a survey asks it and counts it, or refuses to", func(t *testing.T) {
				d := kindtest.Design(info.Kind)
				d.Sections[len(d.Sections)-1].Stage = form.AfterSending
				d.Sections[len(d.Sections)-1].Questions = []form.Question{kindtest.Question(info.Kind)}
				g, err := form.Compile(d)
				if err != nil {
					if !strings.Contains(err.Error(), "a survey does not ask for") && !strings.Contains(err.Error(), "before it") {
						t.Error(err)
					}
					return
				}
				x := &form.Filled{Answers: map[form.Place]form.Answer{}, Lead: form.ExampleLead}
				kindtest.Answer(g, x, g.Question(q.Key))
				sheet := survey.Sheet(g, []map[form.Place]form.Answer{x.Answers})
				if r := survey.Tally(g, []map[form.Place]form.Answer{x.Answers})[0]; r.Answered != 1 || sheet == nil {
					t.Errorf("%+v", r)
				}
			})
		})
	}
}

func same(a, b condition.Value) bool {
	x, _ := json.Marshal(a)
	y, _ := json.Marshal(b)
	if a.Number != nil && b.Number != nil {
		return a.Number.Compare(*b.Number) == 0
	}
	return string(x) == string(y)
}
