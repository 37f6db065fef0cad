package designer

import (
	"reflect"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/internal/web/kit/field"
)

// A condition is picked, not typed. While it is being built some of its tests
// are not finished; those are drawn again but not kept.

// cond is a condition as it is being built: a group, or a test.
type cond struct {
	Name  string // of its inputs
	Group string // all | any | none | atleast; "" for a test
	N     int
	Kids  []cond

	Of, Rel, With, Value string // With: value | other
	Picked               []string
	Other                string

	// for drawing
	Refs    []form.Option
	Rels    []condition.Rel
	Choices []form.Option // of the value, when it is chosen
	Others  []form.Option
	Several bool // the value is several choices
	Open    bool // the test is not finished
	Root    bool
}

// refText is a Ref in one word, for a choice on the page.
func refText(r condition.Ref) string {
	switch {
	case r.Answer != "" && r.Column != "":
		return "column:" + string(r.Answer) + ":" + string(r.Column)
	case r.Answer != "":
		return "answer:" + string(r.Answer)
	case r.Figure != "":
		return "figure:" + string(r.Figure)
	case r.Date != "":
		return "date:" + string(r.Date)
	case r.Stage != "":
		return "stage:" + string(r.Stage)
	case r.Fixed != "":
		return "fixed:" + string(r.Fixed)
	}
	return ""
}

func parseRef(s string) condition.Ref {
	parts := strings.SplitN(s, ":", 3)
	if len(parts) < 2 {
		return condition.Ref{}
	}
	k := condition.Key(parts[1])
	switch parts[0] {
	case "column":
		if len(parts) == 3 {
			return condition.Ref{Answer: k, Column: condition.Key(parts[2])}
		}
	case "answer":
		return condition.Ref{Answer: k}
	case "figure":
		return condition.Ref{Figure: k}
	case "date":
		return condition.Ref{Date: k}
	case "stage":
		return condition.Ref{Stage: k}
	case "fixed":
		return condition.Ref{Fixed: condition.Fixed(k)}
	}
	return condition.Ref{}
}

// fromCond draws a kept condition. The outermost is always a group, so that
// another test can be put beside the only one.
func (b *builder) fromCond(c condition.Cond) cond {
	out := b.node(c)
	if out.Group == "" && !c.Always() {
		out = cond{Group: "all", Kids: []cond{out}}
	}
	if out.Group == "" {
		out.Group = "all"
	}
	return out
}

func (b *builder) node(c condition.Cond) cond {
	group := func(name string, list []condition.Cond) cond {
		out := cond{Group: name}
		for _, k := range list {
			out.Kids = append(out.Kids, b.node(k))
		}
		return out
	}
	switch {
	case c.All != nil:
		return group("all", c.All)
	case c.Any != nil:
		return group("any", c.Any)
	case c.None != nil:
		return group("none", c.None)
	case c.AtLeast != nil:
		out := group("atleast", c.AtLeast.Of)
		out.N = c.AtLeast.N
		return out
	case c.Test != nil:
		t := c.Test
		out := cond{Of: refText(t.Of), Rel: string(t.Rel), With: "value"}
		if t.Other != nil {
			out.With, out.Other = "other", refText(*t.Other)
		} else if t.Value != nil {
			out.Value, out.Picked = b.valueText(t.Of, *t.Value), t.Value.List
		}
		return out
	}
	return cond{}
}

// valueText writes a value as it is typed.
func (b *builder) valueText(r condition.Ref, v condition.Value) string {
	switch {
	case v.Yes != nil && *v.Yes:
		return "yes"
	case v.Yes != nil:
		return "no"
	case !v.Date.IsZero():
		return v.Date.Words()
	case v.Number != nil:
		return strings.TrimSuffix(strings.ReplaceAll(b.names.Value(r, v), ",", ""), " "+b.unit(r))
	}
	return v.Text
}

func (b *builder) unit(r condition.Ref) string {
	if q := b.form.Question(r.Answer); q != nil {
		return q.Unit
	}
	return ""
}

// readCond reads the inputs of a condition.
func readCond(p field.Posted, name string) cond {
	one := func(s string) string {
		if v := p.Values(name + "." + s); len(v) > 0 {
			return strings.TrimSpace(v[0])
		}
		return ""
	}
	c := cond{Name: name, Group: one("group")}
	if c.Group == "" {
		c.Of, c.Rel, c.With, c.Value, c.Other = one("of"), one("rel"), one("with"), one("value"), one("other")
		for _, v := range p.Values(name + ".picked") {
			c.Picked = append(c.Picked, v)
		}
		return c
	}
	c.N, _ = strconv.Atoi(one("n"))
	for i := 0; i < 60; i++ {
		kid := name + "." + strconv.Itoa(i)
		if len(p.Values(kid+".group")) == 0 && len(p.Values(kid+".of")) == 0 {
			break
		}
		c.Kids = append(c.Kids, readCond(p, kid))
	}
	return c
}

// act does what a button of the builder says: add a test or a group, or take
// one out. It reports whether the button was this condition's.
func (c *cond) act(name, what string) bool {
	if c.Name == name && c.Group != "" {
		switch what {
		case "test":
			c.Kids = append(c.Kids, cond{})
		case "group":
			c.Kids = append(c.Kids, cond{Group: "any", Kids: []cond{{}}})
		default:
			return false
		}
		return true
	}
	for i := range c.Kids {
		if c.Kids[i].Name == name && what == "out" {
			c.Kids = append(c.Kids[:i:i], c.Kids[i+1:]...)
			return true
		}
		if c.Kids[i].act(name, what) {
			return true
		}
	}
	return false
}

// toCond is what of it is finished; open reports tests that are not.
func (b *builder) toCond(c *cond) (out condition.Cond, open bool) {
	if c.Group == "" {
		t, ok := b.toTest(c)
		c.Open = !ok
		if !ok {
			return condition.Cond{}, c.Of != ""
		}
		return condition.Cond{Test: &t}, false
	}
	var kids []condition.Cond
	for i := range c.Kids {
		k, unfinished := b.toCond(&c.Kids[i])
		open = open || unfinished
		if !k.Always() {
			kids = append(kids, k)
		}
	}
	switch {
	case len(kids) == 0:
		return condition.Cond{}, open
	case c.Group == "none":
		return condition.Cond{None: kids}, open
	case c.Group == "atleast":
		return condition.Cond{AtLeast: &condition.Count{N: max(1, min(c.N, len(kids))), Of: kids}}, open
	case len(kids) == 1:
		return kids[0], open
	case c.Group == "any":
		return condition.Cond{Any: kids}, open
	}
	return condition.Cond{All: kids}, open
}

func (b *builder) toTest(c *cond) (condition.Test, bool) {
	of := parseRef(c.Of)
	typ, ok := b.form.TypeOf(of)
	t := condition.Test{Of: of, Rel: condition.Rel(c.Rel)}
	if !ok || !fits(t.Rel, typ) {
		return t, false
	}
	if c.With == "other" {
		other := parseRef(c.Other)
		otherType, ok := b.form.TypeOf(other)
		t.Other = &other
		return b.asKept(t), ok && otherType == typ
	}
	v := condition.Value{}
	switch {
	case t.Rel.TakesList():
		v.List = c.Picked
		ok = len(v.List) > 0
	case typ == condition.TypeYes:
		yes := c.Value == "yes"
		v.Yes, ok = &yes, yes || c.Value == "no"
	case typ == condition.TypeDate:
		v.Date, ok = calendar.ParseDate(c.Value)
	case typ == condition.TypeNumber:
		v.Number, ok = b.number(of, c.Value)
	default:
		v.Text, ok = c.Value, c.Value != ""
	}
	t.Value = &v
	return b.asKept(t), ok
}

// asKept is the test of the thing that is written alike, where there is one: a
// third that is shown as 33.33% stays a third.
func (b *builder) asKept(t condition.Test) condition.Test {
	drawn := b.node(condition.Cond{Test: &t})
	for i := range b.known {
		if reflect.DeepEqual(drawn, b.node(condition.Cond{Test: &b.known[i]})) {
			return b.known[i]
		}
	}
	return t
}

func fits(rel condition.Rel, typ condition.Type) bool {
	for _, r := range condition.RelsOf(typ) {
		if r == rel {
			return true
		}
	}
	return false
}

// number reads a number as what it is compared with is written: sums in the
// round's currency, shares in percent.
func (b *builder) number(of condition.Ref, typed string) (*condition.Number, bool) {
	sample := b.names.Value(of, condition.Value{Number: &condition.Number{Num: 1, Den: 1}})
	switch {
	case strings.HasSuffix(sample, "%"):
		n, ok := decimal.Parse(strings.TrimSuffix(strings.TrimSpace(typed), "%"))
		n.Den = max(n.Den, 1) * 100
		return &n, ok
	case sample != "1" && strings.Trim(sample, "0123456789.") != "" && b.unit(of) == "":
		n, ok := money.Parse(typed, b.form.Design.Currency)
		return &condition.Number{Num: n, Den: 1}, ok
	}
	n, ok := decimal.Parse(strings.TrimSpace(strings.TrimSuffix(typed, b.unit(of))))
	return &n, ok
}

// draw fills in what the builder offers at each place.
func (b *builder) draw(c *cond, name string, refs []condition.Ref) {
	c.Name = name
	for i := range c.Kids {
		b.draw(&c.Kids[i], name+"."+strconv.Itoa(i), refs)
	}
	if c.Group != "" {
		return
	}
	of := parseRef(c.Of)
	if other := parseRef(c.Other); !other.Zero() && !slices.Contains(refs, other) {
		refs = append(slices.Clone(refs), other) // what is kept stands among what is offered
	}
	if !of.Zero() && !slices.Contains(refs, of) {
		refs = append(slices.Clone(refs), of)
	}
	for _, r := range refs {
		c.Refs = append(c.Refs, form.Option{Key: form.Key(refText(r)), Label: b.choice(r)})
	}
	typ, ok := b.form.TypeOf(of)
	if !ok {
		return
	}
	c.Rels = condition.RelsOf(typ)
	if !fits(condition.Rel(c.Rel), typ) {
		c.Rel = string(c.Rels[0])
	}
	for _, r := range refs {
		if t, ok := b.form.TypeOf(r); ok && t == typ && r != of {
			c.Others = append(c.Others, form.Option{Key: form.Key(refText(r)), Label: b.choice(r)})
		}
	}
	c.Several = condition.Rel(c.Rel).TakesList()
	c.Choices = b.choices(of, condition.Rel(c.Rel), typ)
	if c.With == "" {
		c.With = "value"
	}
}

// choice names what is read, in a list to choose from: without quotation marks,
// so that typing its first letters finds it.
func (b *builder) choice(r condition.Ref) string {
	s := b.names.Of(r)
	if strings.HasPrefix(s, "“") && strings.HasSuffix(s, "”") {
		s = strings.Trim(s, "“”")
	}
	return phrase.Initial(s)
}

// choices of a value; nil when it is typed.
func (b *builder) choices(of condition.Ref, rel condition.Rel, typ condition.Type) []form.Option {
	if rel == condition.OnList || rel == condition.OffList {
		var out []form.Option
		for _, l := range b.form.Design.Lists {
			out = append(out, form.Option{Key: l.Key, Label: l.Label})
		}
		return out
	}
	if typ == condition.TypeYes {
		return form.YesAndNo()
	}
	if of.Stage != "" {
		return []form.Option{{Key: form.Key(lifecycle.InvitedOn), Label: string(lifecycle.InvitedOn)},
			{Key: form.Key(lifecycle.NotAwarded), Label: "not invited on"}}
	}
	q := b.names.Question(of)
	if q == nil {
		return nil
	}
	return b.form.Options(q)
}

// Has reports a choice that is picked.
func (c cond) Has(key form.Key) bool {
	for _, p := range c.Picked {
		if p == string(key) {
			return true
		}
	}
	return c.Value == string(key)
}
