package condition

import (
	"errors"
	"fmt"
	"math/bits"
	"slices"
	"strings"
)

// Type is what a Ref reads, for checking relations when compiling.
type Type int8

// The types a test can compare.
const (
	TypeText Type = iota
	TypeNumber
	TypeDate
	TypeYes
	TypeSet // several texts
)

// Resolver finds what a condition speaks of.
type Resolver interface {
	// Resolve finds the dense index and type of what a Ref reads in a frame.
	Resolve(Ref) (index int, typ Type, err error)
	// List finds a list by its key; nil when there is none.
	List(Key) List
}

// Program is a condition compiled against one design: no names, no maps.
type Program struct{ root node }

type op int8

const (
	opAlways op = iota
	opTest
	opAtLeast // n of kids
	opNone
)

type node struct {
	op    op
	n     int // opAtLeast: all is len(kids), any is 1
	kids  []node
	index int
	other int // -1: compare with value
	rel   Rel
	typ   Type
	value Value
	list  List // of OnList and OffList
}

// Compile checks c and brings it to dense indexes. Every fault is reported.
func Compile(c Cond, resolve Resolver) (Program, error) {
	n, err := compile(c, resolve)
	return Program{n}, err
}

func compile(c Cond, resolve Resolver) (node, error) {
	set := 0
	for _, is := range []bool{c.All != nil, c.Any != nil, c.None != nil, c.AtLeast != nil, c.Test != nil} {
		if is {
			set++
		}
	}
	switch {
	case set == 0:
		return node{op: opAlways}, nil
	case set > 1:
		return node{}, errors.New("a condition says one of all, any, none, at least or a test, and not two of them")
	case c.Test != nil:
		return compileTest(*c.Test, resolve)
	case c.All != nil:
		return compileGroup(opAtLeast, len(c.All), c.All, resolve)
	case c.Any != nil:
		return compileGroup(opAtLeast, 1, c.Any, resolve)
	case c.None != nil:
		return compileGroup(opNone, 1, c.None, resolve)
	default:
		return compileGroup(opAtLeast, c.AtLeast.N, c.AtLeast.Of, resolve)
	}
}

func compileGroup(o op, n int, of []Cond, resolve Resolver) (node, error) {
	out := node{op: o, n: n}
	var errs []error
	for _, k := range of {
		kid, err := compile(k, resolve)
		errs = append(errs, err)
		out.kids = append(out.kids, kid)
	}
	return out, errors.Join(errs...)
}

func compileTest(t Test, resolve Resolver) (node, error) {
	index, typ, err := resolve.Resolve(t.Of)
	if err != nil {
		return node{}, err
	}
	out := node{op: opTest, index: index, other: -1, rel: t.Rel, typ: typ}
	switch {
	case !slices.Contains(Rels, t.Rel):
		return node{}, fmt.Errorf("there is no relation %q", t.Rel)
	case !slices.Contains(RelsOf(typ), t.Rel):
		return node{}, fmt.Errorf("%q does not fit what is compared", t.Rel)
	case t.Other != nil && t.Value != nil || t.Other == nil && t.Value == nil:
		return node{}, errors.New("a test compares with one value or one other thing")
	case t.Other != nil:
		i, otherType, err := resolve.Resolve(*t.Other)
		if err != nil {
			return node{}, err
		}
		if otherType != typ || t.Rel.TakesList() || typ == TypeSet {
			return node{}, errors.New("a test compares like with like")
		}
		out.other = i
	case t.Rel == OnList || t.Rel == OffList:
		if out.list = resolve.List(Key(t.Value.Text)); out.list == nil {
			return node{}, fmt.Errorf("there is no list %q", t.Value.Text)
		}
	case t.Rel.TakesList():
		if len(t.Value.List) == 0 {
			return node{}, fmt.Errorf("%q needs a list of choices", t.Rel)
		}
		out.value = *t.Value
	case typ == TypeNumber && t.Value.Number == nil || typ == TypeDate && t.Value.Date.IsZero() ||
		typ == TypeYes && t.Value.Yes == nil || (typ == TypeText || typ == TypeSet) && t.Value.Text == "":
		return node{}, errors.New("a test compares like with like")
	default:
		out.value = *t.Value
	}
	return out, nil
}

// Eval answers the condition over a frame. It allocates nothing.
func (p Program) Eval(frame []Cell) Verdict { return p.root.eval(frame) }

func (n *node) eval(frame []Cell) Verdict {
	switch n.op {
	case opAlways:
		return Verdict{Tri: Yes}
	case opTest:
		return n.test(frame)
	}
	yes, unknown := 0, 0
	var why Verdict
	for i := range n.kids {
		v := n.kids[i].eval(frame)
		switch v.Tri {
		case Yes:
			yes++
		case Unknown:
			unknown++
			why.Blank = why.Blank || v.Blank
			why.Declared = why.Declared || v.Declared
		}
	}
	out := Unknown
	switch {
	case yes >= n.n:
		out = Yes
	case yes+unknown < n.n:
		out = No
	}
	if n.op == opNone {
		out = out.Not()
	}
	if out != Unknown {
		return Verdict{Tri: out}
	}
	why.Tri = Unknown
	return why
}

func (n *node) test(frame []Cell) Verdict {
	a := &frame[n.index]
	if v, settled := a.standing(n); settled {
		return v
	}
	b := &n.value
	if n.other >= 0 {
		o := &frame[n.other]
		if v, settled := o.standing(n); settled {
			return v
		}
		b = &o.Value
	}
	if n.list != nil {
		if n.list.Holds(a.Value.Text) == (n.rel == OnList) {
			return Verdict{Tri: Yes}
		}
		return Verdict{Tri: No}
	}
	if compare(n.typ, n.rel, &a.Value, b) {
		return Verdict{Tri: Yes}
	}
	return Verdict{Tri: No}
}

// standing answers a test on a cell that holds no value to compare.
func (c *Cell) standing(n *node) (Verdict, bool) {
	switch c.Presence {
	case Given:
		return Verdict{}, false
	case NotAsked:
		return Verdict{Tri: No}, true
	case Declared:
		return Verdict{Tri: Unknown, Declared: true}, true
	case Blank:
		if c.BlankNo {
			isNo := n.typ == TypeYes && n.value.Yes != nil && *n.value.Yes == (n.rel == IsNot)
			if isNo {
				return Verdict{Tri: Yes}, true
			}
			return Verdict{Tri: No}, true
		}
	}
	return Verdict{Tri: Unknown, Blank: true}, true
}

// Compare answers a relation between two given values, lists apart.
func Compare(typ Type, rel Rel, a, b Value) bool { return compare(typ, rel, &a, &b) }

func compare(typ Type, rel Rel, a, b *Value) bool {
	c := 0
	switch typ {
	case TypeText:
		switch rel {
		case In:
			return slices.Contains(b.List, a.Text)
		case NotIn:
			return !slices.Contains(b.List, a.Text)
		}
		c = strings.Compare(a.Text, b.Text)
	case TypeNumber:
		c = a.Number.Compare(*b.Number)
	case TypeDate:
		c = int(a.Date) - int(b.Date)
	case TypeYes:
		if *a.Yes != *b.Yes {
			c = 1
		}
	case TypeSet:
		switch rel {
		case Includes:
			return slices.Contains(a.List, b.Text)
		case Lacks:
			return !slices.Contains(a.List, b.Text)
		}
		return slices.ContainsFunc(b.List, func(s string) bool { return slices.Contains(a.List, s) })
	}
	switch rel {
	case Is:
		return c == 0
	case IsNot:
		return c != 0
	case AtLeast:
		return c >= 0
	case AtMost:
		return c <= 0
	case More:
		return c > 0
	default:
		return c < 0
	}
}

// Compare is -1, 0 or +1 for n against m, by cross-multiplying: no rounding,
// no overflow. Denominators must not be negative.
func (n Number) Compare(m Number) int {
	nd, md := max(n.Den, 1), max(m.Den, 1)
	if (n.Num < 0) != (m.Num < 0) {
		if n.Num < 0 {
			return -1
		}
		return 1
	}
	lh, ll := bits.Mul64(magnitude(n.Num), uint64(md))
	rh, rl := bits.Mul64(magnitude(m.Num), uint64(nd))
	c := 0
	switch {
	case lh > rh || lh == rh && ll > rl:
		c = 1
	case lh < rh || ll < rl:
		c = -1
	}
	if n.Num < 0 {
		c = -c
	}
	return c
}

func magnitude(n int64) uint64 {
	if n < 0 {
		return -uint64(n)
	}
	return uint64(n)
}
