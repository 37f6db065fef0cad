package designer

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/identifier"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/say"
)

// builder draws and reads the members of one thing of a design.
type builder struct {
	form  *form.Form
	names say.Names
	path  string
	scale int               // of the question, for its limits
	refs  []condition.Ref   // what its conditions may read
	where []condition.Ref   // what a figure's own condition may read
	posed map[string]string // problems by input name
	thing map[string]any    // as it is kept
	known []condition.Test  // in it
}

// input is one member as it is drawn.
type input struct {
	design.Member
	ID       string
	Value    string
	Was      string // the value that was drawn, as JSON; "" below the top
	Options  []form.Option
	Picked   []string
	Cond     *cond
	Sentence string  // of a condition, read back
	Sub      []input // of a group, or of the else of cases
	Cases    []caseInput
	Refs     [][]form.Option // of a figure: one choice a thing
	Problem  string
	Theirs   string
}

// Has reports an option that is picked.
func (in input) Has(k form.Key) bool {
	return slices.Contains(in.Picked, string(k)) || in.Value == string(k)
}

// Fold reports what few rounds set, and this one has not: it is folded away.
func (in input) Fold() bool {
	set := in.Value != "" && in.Value != "no" || in.Sentence != "" || in.Problem != "" || in.Theirs != ""
	for _, k := range in.Picked {
		set = set || k != ""
	}
	return in.Seldom && !set
}

type caseInput struct {
	Name     string
	If       *cond
	Sentence string
	Sub      []input
}

// draw a member from its value in the document.
func (b *builder) input(m design.Member, name string, v any) input {
	in := input{Member: m, ID: "m-" + strings.ReplaceAll(name, ".", "-"), Problem: b.posed[name]}
	in.Name = name
	text, _ := v.(string)
	in.Value = text
	switch m.As {
	case design.Whole:
		in.Value = numberText(v)
	case design.Amount:
		if n, ok := whole(v); ok && n != 0 {
			in.Value = money.Plain(n, b.form.Design.Currency)
		}
	case design.Scaled:
		if n, ok := whole(v); ok {
			in.Value = decimal.String(condition.Number{Num: n, Den: pow10(b.scale)}, b.scale)
		}
	case design.Megabytes:
		if n, ok := whole(v); ok && n != 0 {
			in.Value = decimal.String(condition.Number{Num: n, Den: 1 << 20}, 2)
		}
	case design.Tick:
		if on, _ := v.(bool); on {
			in.Value = "yes"
		}
	case design.Choose:
		in.Options = b.from(m)
		for i, o := range in.Options {
			if m.NotYetFor[string(o.Key)] != "" {
				in.Options[i].Label += " (not used yet)"
			}
		}
		if why := m.NotYetFor[text]; why != "" {
			in.NotYet = why
		}
	case design.Many:
		in.Options, in.Picked = m.Words, texts(v)
		if m.From != "" {
			in.Options = slices.DeleteFunc(b.from(m), func(o form.Option) bool {
				return o.Key == "" || m.From == "applyStages" && o.Key == b.form.FirstStage()
			})
		}
	case design.List:
		in.Value = strings.Join(texts(v), "\n")
	case design.DayAs:
		o, _ := v.(map[string]any)
		in.Options = append([]form.Option{{Label: "on the day"}}, b.moments()...)
		key, _ := o["calendar"].(string)
		in.Picked = []string{key}
		in.Value, _ = o["on"].(string)
	case design.Rate:
		if n, ok := whole(v); ok && n != 0 {
			in.Value = decimal.String(condition.Number{Num: n, Den: 100}, 2)
		}
	case design.Options, design.Pairs, design.Caps, design.Bases, design.Rises, design.Backs:
		in.Value = b.pairs(m.As, v)
	case design.Items:
		in.Value = itemsCSV(v)
	case design.Condition:
		c := b.fromCond(condOf(v))
		in.Cond, in.Sentence = &c, b.sentence(condOf(v))
		b.drawCond(&c, m, name)
	case design.Refs:
		b.drawRefs(&in, refsOf(v))
	case design.Group:
		in.Sub = b.group(m.Sub, name, v)
	case design.CaseSet:
		o, _ := v.(map[string]any)
		in.Sub = b.group(m.Sub, name+".else", o["else"])
		when, _ := o["when"].([]any)
		for i, w := range when {
			in.Cases = append(in.Cases, b.oneCase(m, name+"."+strconv.Itoa(i), w))
		}
	}
	return in
}

func (b *builder) oneCase(m design.Member, name string, w any) caseInput {
	o, _ := w.(map[string]any)
	c := b.fromCond(condOf(o["if"]))
	b.drawCond(&c, m, name+".if")
	return caseInput{Name: name, If: &c, Sentence: b.sentence(condOf(o["if"])),
		Sub: b.group(m.Sub, name+".then", o["then"])}
}

func (b *builder) group(members []design.Member, name string, v any) []input {
	o, _ := v.(map[string]any)
	var out []input
	for _, m := range members {
		out = append(out, b.input(m, name+"."+m.Name, o[m.Name]))
	}
	return out
}

func (b *builder) drawCond(c *cond, m design.Member, name string) {
	refs := b.refs
	if m.Name == "where" {
		refs = b.where
	}
	c.Root = true
	b.draw(c, name, refs)
}

func (b *builder) sentence(c condition.Cond) string {
	if c.Always() {
		return ""
	}
	return phrase.Initial(condition.Sentence(c, b.names)) + "."
}

func (b *builder) drawRefs(in *input, list []condition.Ref) {
	sources := b.form.Sources()
	for _, r := range append(list, condition.Ref{}) {
		one := []form.Option{{}}
		in.Picked = append(in.Picked, refText(r))
		if !r.Zero() && !slices.Contains(sources, r) {
			one = append(one, form.Option{Key: form.Key(refText(r)),
				Label: phrase.Initial(strings.TrimPrefix(b.sourceName(r), "“"))})
		}
		for _, s := range sources {
			one = append(one, form.Option{Key: form.Key(refText(s)),
				Label: phrase.Initial(strings.TrimPrefix(b.sourceName(s), "“"))})
		}
		in.Refs = append(in.Refs, one)
	}
}

func (b *builder) sourceName(r condition.Ref) string {
	if q := b.form.Question(r.Answer); q != nil && q.Keeps() == form.InLines {
		return "“" + q.Label + "”: " + form.LabelOf(b.form.BudgetSums(q), string(r.Column))
	}
	if c := b.form.Column(r.Answer, r.Column); c != nil {
		return "“" + b.form.Question(r.Answer).Label + "”: " + c.Label
	}
	if len(b.form.Columns(r.Answer)) > 0 {
		return "the rows of “" + b.form.Question(r.Answer).Label + "”"
	}
	return b.names.Of(r)
}

// kind is that of the question being set; "" for another thing.
func (b *builder) kind() form.Kind {
	kind, _ := b.thing["kind"].(string)
	return form.Kind(kind)
}

// from is what of the design a member is chosen from.
func (b *builder) from(m design.Member) []form.Option {
	if m.From == "" {
		return m.Words
	}
	d := b.form.Design
	out := []form.Option{{}}
	add := func(k form.Key, label string) { out = append(out, form.Option{Key: k, Label: label}) }
	each := func(want func(*form.Question) bool) {
		for i := range d.Sections {
			for j := range d.Sections[i].Questions {
				if q := &d.Sections[i].Questions[j]; want(q) {
					add(q.Key, q.Label)
				}
			}
		}
	}
	switch m.From {
	case "moments":
		return append(out, b.moments()...)
	case "applyStages", "sectionStages":
		for _, s := range d.Stages {
			if s.Does == form.Apply || s.Does == form.Interview {
				add(s.Key, s.Label)
			}
		}
		if m.From == "sectionStages" {
			add(form.AfterSending, "after sending, as a survey kept apart from the cases")
		}
	case "interviews":
		for _, s := range d.Stages {
			if s.Does == form.Interview {
				add(s.Key, s.Label)
			}
		}
	case "fees":
		for _, x := range d.Fees {
			if x.What != form.FeeBundle {
				add(x.Key, x.Label)
			}
		}
	case "awards":
		for _, a := range d.Awards {
			add(a.Key, a.Label)
		}
	case "letters":
		for _, l := range d.Letters {
			if l.Of == "" && b.path != "letters/"+string(l.Key) {
				add(l.Key, l.Subject)
			}
		}
	case "lists":
		for _, l := range d.Lists {
			add(l.Key, l.Label)
		}
	case "tables":
		for _, t := range d.Tables {
			add(t.Key, t.Label)
		}
	case "schemes":
		for _, s := range identifier.Schemes {
			add(form.Key(s.Key), s.Label)
		}
	case "questions":
		each(func(q *form.Question) bool { return q.Keeps() != form.AsFiles && q.Keeps() != form.AsPeople })
	case "choices":
		each((*form.Question).PicksOne)
	case "numeric":
		out = append(out, b.form.Numeric()...)
	case "written":
		each(func(q *form.Question) bool {
			return q.Keeps() == form.InText && q.Type() == condition.TypeText &&
				!q.PicksOne()
		})
	case "ties":
		add(form.TieSent, "who was sent first")
		for _, x := range d.Judged("") {
			add(x.Key, "the mark in “"+x.Label+"”")
		}
		add(form.TieLot, "lot")
	case "confirmed":
		each(func(q *form.Question) bool { return q.Keeps() != form.AsPeople })
	case "agreeing":
		each((*form.Question).Agrees)
	case "anything":
		each(func(q *form.Question) bool { return q.ForReaders() && q.Keeps() != form.AsPeople && !q.Agrees() })
	case "addresses":
		each(func(q *form.Question) bool {
			return q.Kind == b.kind() && !strings.HasSuffix(b.path, "/"+string(q.Key))
		})
	case "sums":
		each(func(q *form.Question) bool { return q.Keeps() == form.InText && q.Measure() == form.Sums })
	case "counts":
		each(func(q *form.Question) bool { return q.Keeps() == form.InText && q.Type() == condition.TypeNumber })
	case "years":
		each(func(q *form.Question) bool { return q.Keeps() == form.InRows && len(q.Options) > 0 })
	case "gifts":
		for _, g := range d.Gifts {
			add(g.Key, g.Label)
		}
	case "slots":
		each(func(q *form.Question) bool {
			return q.Keeps() == form.AsFiles && !strings.HasSuffix(b.path, "/"+string(q.Key))
		})
	}
	return out
}

func (b *builder) moments() []form.Option {
	var out []form.Option
	for _, m := range b.form.Design.Calendar {
		out = append(out, form.Option{Key: m.Key, Label: m.Label})
	}
	return out
}

func (b *builder) pairs(as design.As, v any) string {
	list, _ := v.([]any)
	var out []string
	for _, x := range list {
		m, _ := x.(map[string]any)
		get := func(k string) string {
			s, ok := m[k].(string)
			if !ok && m[k] != nil {
				s = numberText(m[k])
			}
			return s
		}
		switch as {
		case design.Options:
			out = append(out, get("key")+" = "+get("label"))
		case design.Pairs:
			out = append(out, get("word")+" = "+get("means"))
		case design.Bases:
			out = append(out, b.baseLine(m))
		case design.Rises:
			n, _ := whole(m["amount"])
			out = append(out, get("from")+" = "+money.Plain(n, b.form.Design.Currency))
		case design.Backs:
			out = append(out, get("until")+" = "+get("percent"))
		default:
			line := get("heading") + " = " + get("percent")
			if of := get("of"); of != "" {
				line += " of " + of
			}
			out = append(out, line)
		}
	}
	return strings.Join(out, "\n")
}

func itemsCSV(v any) string {
	list, _ := v.([]any)
	var items []form.Item
	for _, x := range list {
		m, _ := x.(map[string]any)
		code, _ := m["code"].(string)
		label, _ := m["label"].(string)
		items = append(items, form.Item{Code: code, Label: label})
	}
	return design.ItemsSheet(items).Bare()
}

func condOf(v any) (c condition.Cond) {
	if v != nil {
		b, _ := json.Marshal(v)
		_ = json.Unmarshal(b, &c) // what does not read is drawn as always, and the faults say so
	}
	return c
}

func refsOf(v any) (out []condition.Ref) {
	b, _ := json.Marshal(v)
	_ = json.Unmarshal(b, &out)
	return out
}

func condValue(c condition.Cond) any {
	if c.Always() {
		return nil
	}
	return toAny(c)
}

// toAny brings a typed value to plain data.
func toAny(v any) (out any) {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // designs always encode
	}
	dec := json.NewDecoder(strings.NewReader(string(b)))
	dec.UseNumber()
	if dec.Decode(&out) != nil {
		return nil
	}
	return out
}

func texts(v any) (out []string) {
	list, _ := v.([]any)
	for _, x := range list {
		if s, ok := x.(string); ok {
			out = append(out, s)
		}
	}
	return out
}

func anyList(list []string) any {
	out := []any{}
	for _, s := range list {
		if s != "" {
			out = append(out, s)
		}
	}
	return out
}

func whole(v any) (int64, bool) {
	n, ok := v.(json.Number)
	if !ok {
		return 0, false
	}
	i, err := n.Int64()
	return i, err == nil
}

func numberText(v any) string {
	if n, ok := whole(v); ok && n != 0 {
		return strconv.FormatInt(n, 10)
	}
	return ""
}

func pow10(n int) int64 {
	out := int64(1)
	for range n {
		out *= 10
	}
	return out
}
