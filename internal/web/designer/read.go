package designer

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
)

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
	if trimmed == "" && slices.Contains([]design.As{design.Whole, design.Amount, design.Scaled, design.Megabytes,
		design.Date, design.Moment, design.Line, design.Choose, design.Rate}, m.As) {
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
			return bad("Write a number with at most " + phrase.Count(int64(b.scale), "decimal", "decimals") + ".")
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
	case design.Rate:
		n, ok := decimal.Parse(strings.TrimSuffix(trimmed, "%"))
		if !ok || n.Num < 0 || 100%max(n.Den, 1) != 0 {
			return bad("Write a share in percent, such as 15 or 12.5.")
		}
		return json.Number(strconv.FormatInt(n.Num*(100/max(n.Den, 1)), 10)), true
	case design.Options, design.Pairs, design.Caps, design.Bases, design.Rises, design.Backs:
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
		case as == design.Bases:
			base, ok := b.readBase(left, right)
			if !ok {
				b.posed[name] = "Write a heading, or “heading = partner 50,000”, or “heading = line 5,000”: “" + line + "”."
				return nil, false
			}
			out = append(out, base)
		case !ok || left == "" || right == "":
			b.posed[name] = "Each line needs an equals sign with something on both sides: “" + line + "”."
			return nil, false
		case as == design.Rises || as == design.Backs:
			x, problem := b.readDated(as, left, right)
			if problem != "" {
				b.posed[name] = problem + ": “" + line + "”."
				return nil, false
			}
			out = append(out, x)
		case as == design.Pairs:
			out = append(out, map[string]any{"word": left, "means": right})
		default:
			share, of, _ := strings.Cut(right, " of ")
			n, err := strconv.Atoi(strings.TrimSuffix(strings.TrimSpace(share), "%"))
			of = strings.TrimSpace(of)
			if err != nil || n < 0 || n > 100 ||
				of != string(form.OfAsked) && of != string(form.OfCost) && of != string(form.OfDirect) {
				b.posed[name] = "A share is a whole number from 0 to 100, alone, “of cost” or “of direct”: “" + line + "”."
				return nil, false
			}
			c := map[string]any{"heading": left, "percent": json.Number(strconv.Itoa(n))}
			if of != "" {
				c["of"] = of
			}
			out = append(out, c)
		}
	}
	return out, true
}

// readItems reads a list as CSV (RFC 4180): code, label; one column is both.
func (b *builder) readItems(text, name string) (any, bool) {
	items, err := design.ItemsFromCSV(text)
	if err != nil {
		b.posed[name] = site.Sentence(err)
		return nil, false
	}
	out := []any{}
	for _, it := range items {
		out = append(out, map[string]any{"code": it.Code, "label": it.Label})
	}
	return out, true
}
