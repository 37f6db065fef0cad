package designer

import (
	"encoding/csv"
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/identifier"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/web/field"
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
	case design.Many:
		in.Options, in.Picked = m.Words, texts(v)
	case design.List:
		in.Value = strings.Join(texts(v), "\n")
	case design.DayAs:
		o, _ := v.(map[string]any)
		in.Options = append([]form.Option{{Label: "on the day"}}, b.moments()...)
		key, _ := o["calendar"].(string)
		in.Picked = []string{key}
		in.Value, _ = o["on"].(string)
	case design.Options, design.Pairs, design.Caps:
		in.Value = pairs(m.As, v)
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
	return caseInput{Name: name, If: &c, Sentence: b.sentence(condOf(o["if"])), Sub: b.group(m.Sub, name+".then", o["then"])}
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
	return say.Initial(condition.Sentence(c, b.names)) + "."
}

func (b *builder) drawRefs(in *input, list []condition.Ref) {
	sources := b.form.Sources()
	for _, r := range append(list, condition.Ref{}) {
		one := []form.Option{{}}
		in.Picked = append(in.Picked, refText(r))
		if !r.Zero() && !slices.Contains(sources, r) {
			one = append(one, form.Option{Key: form.Key(refText(r)), Label: say.Initial(strings.TrimPrefix(b.sourceName(r), "“"))})
		}
		for _, s := range sources {
			one = append(one, form.Option{Key: form.Key(refText(s)), Label: say.Initial(strings.TrimPrefix(b.sourceName(s), "“"))})
		}
		in.Refs = append(in.Refs, one)
	}
}

func (b *builder) sourceName(r condition.Ref) string {
	if q := b.form.Question(r.Answer); q != nil && q.Kind == form.Budget {
		return "“" + q.Label + "”: " + map[form.Key]string{form.ColCost: "the costs", form.ColUs: "what is asked"}[r.Column]
	}
	if c := b.form.Column(r.Answer, r.Column); c != nil {
		return "“" + b.form.Question(r.Answer).Label + "”: " + c.Label
	}
	if len(b.form.Columns(r.Answer)) > 0 {
		return "the rows of “" + b.form.Question(r.Answer).Label + "”"
	}
	return b.names.Of(r)
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
	case "applyStages":
		for _, s := range d.Stages {
			if s.Does == form.Apply || s.Does == form.Interview {
				add(s.Key, s.Label)
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
	case "choices":
		each(func(q *form.Question) bool { return b.form.Options(q) != nil })
	case "addresses":
		each(func(q *form.Question) bool {
			return q.Kind == form.Address && !strings.HasSuffix(b.path, "/"+string(q.Key))
		})
	case "sums":
		each(func(q *form.Question) bool { return q.Kind == form.Money })
	case "slots":
		each(func(q *form.Question) bool {
			return q.Kind == form.File && !strings.HasSuffix(b.path, "/"+string(q.Key))
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

// read brings what was typed for a member back to its value in the document;
// nil is nothing. Problems are kept by input name; ok is false when there are
// any, or when a condition is not finished.
func (b *builder) read(p field.Posted, m design.Member, name string) (v any, ok bool) {
	one := ""
	if got := p.Values(name); len(got) > 0 {
		one = strings.ReplaceAll(got[0], "\r\n", "\n")
	}
	bad := func(says string) (any, bool) {
		b.posed[name] = says
		return nil, false
	}
	trimmed := strings.TrimSpace(one)
	if trimmed == "" && slices.Contains([]design.As{design.Whole, design.Amount, design.Scaled, design.Megabytes, design.Date, design.Moment, design.Line, design.Choose}, m.As) {
		return nil, true
	}
	switch m.As {
	case design.Line, design.Choose:
		return trimmed, true
	case design.Lines:
		return strings.TrimRight(one, "\n "), true
	case design.Whole:
		n, err := strconv.Atoi(trimmed)
		if err != nil || n < 0 || n > 1_000_000 {
			return bad("Write a whole number.")
		}
		return json.Number(strconv.Itoa(n)), true
	case design.Amount:
		n, ok := money.Parse(trimmed, b.form.Design.Currency)
		if !ok || n < 0 {
			return bad("Write a sum such as 64,000 or 1,250.50.")
		}
		return json.Number(strconv.FormatInt(n, 10)), true
	case design.Scaled, design.Megabytes:
		n, ok := decimal.Parse(trimmed)
		unit := pow10(b.scale)
		if m.As == design.Megabytes {
			unit = 1 << 20
		}
		if !ok || unit%max(n.Den, 1) != 0 && m.As == design.Scaled {
			return bad("Write a number with at most " + say.Count(int64(b.scale), "decimal", "decimals") + ".")
		}
		return json.Number(strconv.FormatInt(n.Num*unit/max(n.Den, 1), 10)), true
	case design.Tick: // a hidden "no" stands before the box
		return slices.Contains(p.Values(name), "yes"), true
	case design.Many:
		return anyList(inOrder(p.Values(name), texts(b.kept(name)))), true
	case design.List:
		return anyList(form.Lines(one)), true
	case design.Date:
		d, ok := calendar.ParseDate(trimmed)
		if !ok {
			return bad("Write a date such as 1 July 2027.")
		}
		return d.String(), true
	case design.Moment:
		var w calendar.Wall
		if w.UnmarshalText([]byte(trimmed)) != nil {
			return bad("Write a date and time such as 2027-04-09T16:00.")
		}
		return w.String(), true
	case design.DayAs:
		return b.readDay(p, name)
	case design.Options, design.Pairs, design.Caps:
		return b.readPairs(m.As, one, name)
	case design.Items:
		return b.readItems(one, name)
	case design.Refs:
		return b.readRefs(p, name), true
	case design.Condition:
		c := readCond(p, name)
		out, open := b.toCond(&c)
		return condValue(out), !open
	case design.Group:
		return b.readGroup(p, m.Sub, name)
	case design.CaseSet:
		return b.readCases(p, m, name)
	}
	return nil, true
}

func (b *builder) readDay(p field.Posted, name string) (any, bool) {
	get := func(s string) string {
		if v := p.Values(name + s); len(v) > 0 {
			return strings.TrimSpace(v[0])
		}
		return ""
	}
	if k := get(".calendar"); k != "" {
		return map[string]any{"calendar": k}, true
	}
	on := get("")
	if on == "" {
		return nil, true
	}
	d, ok := calendar.ParseDate(on)
	if !ok {
		b.posed[name] = "Write a date such as 1 July 2027, or choose one of the calendar."
		return nil, false
	}
	return map[string]any{"on": d.String()}, true
}

func (b *builder) readGroup(p field.Posted, members []design.Member, name string) (any, bool) {
	out, all := map[string]any{}, true
	for _, m := range members {
		v, ok := b.read(p, m, name+"."+m.Name)
		all = all && ok
		if list, ok := v.([]any); ok && len(list) == 0 {
			v = nil
		}
		if v != nil && v != false && v != "" {
			out[m.Name] = v
		}
	}
	if len(out) == 0 {
		return nil, all
	}
	return out, all
}

// kept is what stands in the thing under an input's name; nil for nothing.
func (b *builder) kept(name string) any {
	var at any = b.thing
	for _, step := range strings.Split(name, ".") {
		m, _ := at.(map[string]any)
		if n, err := strconv.Atoi(step); err == nil {
			when, _ := m["when"].([]any)
			if n >= len(when) {
				return nil
			}
			at = when[n]
			continue
		}
		at = m[step]
	}
	return at
}

// inOrder puts what is ticked in the order in which it is kept, new ones last.
func inOrder(ticked, kept []string) (out []string) {
	for _, k := range kept {
		if slices.Contains(ticked, k) {
			out = append(out, k)
		}
	}
	for _, t := range ticked {
		if !slices.Contains(kept, t) {
			out = append(out, t)
		}
	}
	return out
}

// testsIn finds every test in a thing.
func testsIn(v any, found func(condition.Test)) {
	switch v := v.(type) {
	case []any:
		for _, x := range v {
			testsIn(x, found)
		}
	case map[string]any:
		if v["rel"] != nil && v["of"] != nil {
			var t condition.Test
			raw, _ := json.Marshal(v)
			if json.Unmarshal(raw, &t) == nil {
				found(t)
			}
			return
		}
		for _, x := range v {
			testsIn(x, found)
		}
	}
}

// readCases reads the cases of a CaseSet; one whose condition is empty is left out.
func (b *builder) readCases(p field.Posted, m design.Member, name string) (any, bool) {
	otherwise, all := b.readGroup(p, m.Sub, name+".else")
	out := map[string]any{"else": otherwise}
	if otherwise == nil {
		out["else"] = map[string]any{}
	}
	var when []any
	for i := range 40 {
		at := name + "." + strconv.Itoa(i)
		if len(p.Values(at+".if.group")) == 0 {
			break
		}
		c := readCond(p, at+".if")
		cond, open := b.toCond(&c)
		then, ok := b.readGroup(p, m.Sub, at+".then")
		all = all && ok && !open
		if cond.Always() {
			all = all && len(c.Kids) == 0
			continue
		}
		if then == nil {
			then = map[string]any{}
		}
		when = append(when, map[string]any{"if": condValue(cond), "then": then})
	}
	if len(when) > 0 {
		out["when"] = when
	} else if otherwise == nil {
		return nil, all
	}
	return out, all
}

func (b *builder) readRefs(p field.Posted, name string) any {
	var out []any
	for _, v := range p.Values(name) {
		if r := parseRef(v); !r.Zero() {
			out = append(out, toAny(r))
		}
	}
	return out
}

// readPairs reads lines of "a = b": options, terms, caps. An option without a
// key before the sign is new and gets one from its label.
func (b *builder) readPairs(as design.As, text, name string) (any, bool) {
	var out []any
	taken := map[string]bool{}
	for _, line := range strings.Split(text, "\n") {
		if strings.TrimSpace(line) == "" {
			continue
		}
		left, right, ok := strings.Cut(line, "=")
		left, right = strings.TrimSpace(left), strings.TrimSpace(right)
		switch {
		case as == design.Options:
			if !ok {
				left, right = "", left
			}
			if left == "" {
				k, err := design.NewKey([]byte("{}"), right)
				if err != nil {
					return nil, false
				}
				left = string(k)
				for n := 2; taken[left]; n++ {
					left = string(k) + "-" + strconv.Itoa(n)
				}
			}
			taken[left] = true
			out = append(out, map[string]any{"key": left, "label": right})
		case !ok || left == "" || right == "":
			b.posed[name] = "Each line needs an equals sign with something on both sides: “" + line + "”."
			return nil, false
		case as == design.Pairs:
			out = append(out, map[string]any{"word": left, "means": right})
		default:
			n, err := strconv.Atoi(strings.TrimSuffix(right, "%"))
			if err != nil || n < 0 || n > 100 {
				b.posed[name] = "A share is a whole number from 0 to 100: “" + line + "”."
				return nil, false
			}
			out = append(out, map[string]any{"heading": left, "percent": json.Number(strconv.Itoa(n))})
		}
	}
	return out, true
}

func pairs(as design.As, v any) string {
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
		default:
			out = append(out, get("heading")+" = "+get("percent"))
		}
	}
	return strings.Join(out, "\n")
}

func itemsCSV(v any) string {
	list, _ := v.([]any)
	var out strings.Builder
	w := csv.NewWriter(&out)
	for _, x := range list {
		m, _ := x.(map[string]any)
		code, _ := m["code"].(string)
		label, _ := m["label"].(string)
		w.Write([]string{code, label})
	}
	w.Flush()
	return out.String()
}

// readItems reads a list as CSV (RFC 4180): code, label; one column is both.
func (b *builder) readItems(text, name string) (any, bool) {
	items, err := design.ItemsFromCSV(text)
	if err != nil {
		b.posed[name] = err.Error()
		return nil, false
	}
	out := []any{}
	for _, it := range items {
		out = append(out, map[string]any{"code": it.Code, "label": it.Label})
	}
	return out, true
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
