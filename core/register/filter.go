package register

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/decimal"
	"ulvant/core/money"
	"ulvant/core/refusal"
)

// Op is how a condition compares.
type Op string

// The ways to compare. Is holds for one of its values, Not for none of them;
// Within and Older count days back from today, Coming days ahead.
const (
	Is     Op = "is"
	Not    Op = "not"
	Has    Op = "has" // words in it
	Least  Op = "least"
	Most   Op = "most"
	From   Op = "from"
	Until  Op = "until"
	Within Op = "within"
	Older  Op = "older"
	Coming Op = "coming"
	Blank  Op = "blank"
	There  Op = "there"
)

// Ops lists those that can be asked of a type, the usual one first.
func (t Type) Ops() []Op {
	switch t {
	case Words:
		return []Op{Has, There, Blank}
	case Choice, Several:
		return []Op{Is, Not, There, Blank}
	case Number, Share, Money:
		return []Op{Least, Most, There, Blank}
	case Day:
		return []Op{From, Until, There, Blank}
	case Moment:
		return []Op{Within, Older, Coming, From, Until, There, Blank}
	}
	return nil
}

// Values reports how an operator's values are given.
func (o Op) Values() bool { return o != Blank && o != There }

// Condition on a column. Values are as they are compared: keys of options, words,
// plain decimal numbers (money in minor units), dates 2026-05-14, days.
type Condition struct {
	Column string
	Op     Op
	Values []string
}

// Filter is conditions that all hold.
type Filter []Condition

// MostConditions of a filter, and MostValues of a condition.
const (
	MostConditions = 12
	MostValues     = 60
	mostDays       = 3660
)

// Encode writes a condition as it stands in an address.
func (c Condition) Encode() string {
	values := make([]string, len(c.Values))
	for i, v := range c.Values {
		values[i] = url.QueryEscape(v)
	}
	return c.Column + "~" + string(c.Op) + "~" + strings.Join(values, ",")
}

// ParseCondition reads Encode for the columns that there are; the sentence of a
// refusal says what of it does not hold any more.
func ParseCondition(s string, cs Columns) (c Condition, err error) {
	parts := strings.SplitN(s, "~", 3)
	if len(parts) != 3 {
		return c, refusal.Unfit("a condition in this address cannot be read")
	}
	c.Column, c.Op = parts[0], Op(parts[1])
	col, ok := cs.Find(c.Column)
	if !ok {
		return c, refusal.Unfit("a condition asked about a column that this register does not have")
	}
	if !slices.Contains(col.Type.Ops(), c.Op) {
		return c, refusal.Unfit("“" + col.Heading + "” cannot be asked in this way")
	}
	if !c.Op.Values() {
		return c, nil
	}
	for _, v := range strings.Split(parts[2], ",") {
		if v, err = url.QueryUnescape(v); err != nil || v == "" {
			continue
		}
		if !col.fits(c.Op, v) {
			return c, refusal.Unfit("“" + v + "” is nothing that “" + col.Heading + "” can be")
		}
		if !slices.Contains(c.Values, v) {
			c.Values = append(c.Values, v)
		}
	}
	if len(c.Values) == 0 || len(c.Values) > MostValues || len(c.Values) > 1 && c.Op != Is && c.Op != Not {
		return c, refusal.Unfit("a condition about “" + col.Heading + "” has no value")
	}
	return c, nil
}

// fits reports a value, as it is compared, that a column can be asked for.
func (c Column) fits(op Op, v string) bool {
	switch op {
	case Is, Not:
		return c.Open || slices.ContainsFunc(c.Options, func(o Option) bool { return o.Value == v })
	case Least, Most:
		n, err := strconv.ParseFloat(v, 64)
		return err == nil && n > -1e15 && n < 1e15
	case From, Until:
		_, ok := calendar.ParseDate(v)
		return ok
	case Within, Older, Coming:
		n, err := strconv.Atoi(v)
		return err == nil && n >= 0 && n <= mostDays
	}
	return len(v) <= 200
}

// Typed reads a condition as an officer types it: sums with their thousands, dates
// as people write them. It refuses what cannot be read, in a sentence.
func Typed(c Column, op Op, typed []string, currency string) (Condition, error) {
	out := Condition{Column: c.Key, Op: op}
	if !slices.Contains(c.Type.Ops(), op) {
		return out, refusal.Unfit("“" + c.Heading + "” cannot be asked in this way.")
	}
	for _, v := range typed {
		v = strings.TrimSpace(v)
		if v == "" || !op.Values() {
			continue
		}
		switch {
		case op == Least || op == Most:
			n, ok := "", false
			if c.Type == Money {
				var minor int64
				minor, ok = money.Parse(v, currency)
				n = strconv.FormatInt(minor, 10)
			} else if q, good := decimal.Quantity(strings.TrimSuffix(v, "%")); good {
				n, ok = Plain(Number, q).String(), true
			}
			if !ok {
				return out, refusal.Unfit("“" + v + "” cannot be read as a number. Write it like 20,000 or 3.5.")
			}
			v = n
		case op == From || op == Until:
			d, ok := calendar.ParseDate(v)
			if !ok {
				return out, refusal.Unfit("“" + v + "” cannot be read as a date. Write it like 14 May 2027.")
			}
			v = d.String()
		}
		if !c.fits(op, v) {
			return out, refusal.Unfit("“" + v + "” is nothing that “" + c.Heading + "” can be.")
		}
		out.Values = append(out.Values, v)
	}
	if op.Values() && len(out.Values) == 0 {
		return out, refusal.Unfit("Choose or type what it is to be.")
	}
	if len(out.Values) > MostValues {
		return out, refusal.Unfit("Choose up to 60.")
	}
	return out, nil
}

// Shape of a register: what is shown of which cases in which order.
type Shape struct {
	Columns []string // in order
	Filter  Filter
	Sort    string // a column; "" for the latest begun first
	Down    bool   // the greatest first
	Lost    []string
}

// MostColumns that are shown beside each other.
const MostColumns = 60

// Read reads a shape from an address: cols=a,b&if=…&if=…&sort=-asked. What does
// not hold any more is left away and said in Lost.
func Read(v url.Values, cs Columns, usual []string) (s Shape) {
	for _, k := range strings.Split(v.Get("cols"), ",") {
		if c, ok := cs.Find(k); ok && !c.Hidden && !slices.Contains(s.Columns, k) && len(s.Columns) < MostColumns {
			s.Columns = append(s.Columns, k)
		} else if !ok && k != "" {
			s.Lost = append(s.Lost, "A column that this register does not have is left away.")
		}
	}
	if len(s.Columns) == 0 {
		s.Columns = slices.Clone(usual)
	}
	for _, text := range v["if"] {
		if text == "" || len(s.Filter) == MostConditions {
			continue
		}
		c, err := ParseCondition(text, cs)
		if no, ok := refusal.Of(err); ok {
			s.Lost = append(s.Lost, "Left away: "+no.Clause()+".")
			continue
		}
		s.Filter = append(s.Filter, c)
	}
	sort, down := strings.CutPrefix(v.Get("sort"), "-")
	if c, ok := cs.Find(sort); ok && !c.Hidden {
		s.Sort, s.Down = sort, down
	}
	return s
}

// Address writes a shape as Read reads it; usual columns are not written.
func (s Shape) Address(usual []string) url.Values {
	v := url.Values{}
	if !slices.Equal(s.Columns, usual) {
		v.Set("cols", strings.Join(s.Columns, ","))
	}
	for _, c := range s.Filter {
		v.Add("if", c.Encode())
	}
	if s.Sort != "" {
		mark := ""
		if s.Down {
			mark = "-"
		}
		v.Set("sort", mark+s.Sort)
	}
	return v
}

// With is the shape with a condition in the place of the nth, or at the end; one
// that says the same of the same column takes its place.
func (s Shape) With(n int, c Condition) Shape {
	s.Filter = slices.Clone(s.Filter)
	if n >= 0 && n < len(s.Filter) {
		s.Filter[n] = c
		return s
	}
	s.Filter = append(s.Filter, c)
	return s
}

// Without is the shape without its nth condition.
func (s Shape) Without(n int) Shape {
	s.Filter = slices.Clone(s.Filter)
	if n >= 0 && n < len(s.Filter) {
		s.Filter = slices.Delete(s.Filter, n, n+1)
	}
	return s
}

// Sorted is the shape ordered by a column: the other way round when it is already.
func (s Shape) Sorted(c Column) Shape {
	if s.Sort == c.Key {
		s.Down = !s.Down
	} else {
		s.Sort, s.Down = c.Key, c.Type.Counts() || c.Type == Moment || c.Type == Day
	}
	return s
}

// Said is the value of a condition as it is typed: a sum in whole units, a date in
// words; "" for none.
func (c Condition) Said(col Column, currency string) string {
	if len(c.Values) != 1 {
		return ""
	}
	v := c.Values[0]
	switch {
	case col.Type == Money:
		if n, err := strconv.ParseInt(v, 10, 64); err == nil {
			return money.Plain(n, currency)
		}
	case c.Op == From || c.Op == Until:
		return day(v)
	}
	return v
}
