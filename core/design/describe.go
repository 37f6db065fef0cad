package design

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"ulvant/core/money"
)

// Describe says an operation as a sentence without its subject, against the
// document before it: changed the label of “Depth of peat” to “How deep?”.
func Describe(document []byte, op Op) string {
	doc, err := parse(document)
	if err != nil {
		return "changed the design"
	}
	switch op.Do {
	case Set:
		holder, member := split(op.Path)
		what := title(doc, holder)
		m := memberOf(holder, member)
		name := strings.ToLower(m.Label)
		if n, err := strconv.ParseInt(string(op.Value), 10, 64); err == nil && m.As == Amount {
			currency, _ := doc["currency"].(string)
			return fmt.Sprintf("set “%s” of %s to %s", name, what, money.Format(n, currency))
		}
		if text := short(op.Value); text != "" {
			return fmt.Sprintf("set “%s” of %s to %s", name, what, text)
		}
		return fmt.Sprintf("changed “%s” of %s", name, what)
	case Add:
		v, _ := value(op.Value)
		_, list := split(op.Path)
		return "added " + named(list, v)
	case Remove:
		return "took out " + title(doc, op.Path)
	case Move:
		if op.To != "" {
			if holder, _ := split(op.To); holder != "" {
				if from, _ := split(op.Path); from != op.To {
					return "moved " + title(doc, op.Path) + " to " + title(doc, holder)
				}
			}
		}
		if op.Before != "" {
			list, _ := split(op.Path)
			if op.To != "" {
				list = op.To
			}
			return "moved " + title(doc, op.Path) + " before " + title(doc, list+"/"+op.Before)
		}
		return "moved " + title(doc, op.Path) + " to the end"
	}
	return "changed the design"
}

// title names what a path leads to: the question “Depth of peat”.
func title(doc map[string]any, path string) string {
	if path == "" {
		return "the round"
	}
	at := steps(path)
	for len(at) > 0 {
		v, err := node(doc, strings.Join(at, "/"))
		if err == nil && keyOf(v) != "" && len(at) >= 2 {
			return named(at[len(at)-2], v)
		}
		at = at[:len(at)-1]
	}
	return "the round"
}

func named(list string, v any) string {
	t, ok := ThingIn(list)
	name := t.Name
	if !ok {
		name = strings.TrimSuffix(list, "s")
	}
	m, _ := v.(map[string]any)
	label, _ := m[t.Title].(string)
	if label == "" {
		label, _ = m["label"].(string)
	}
	if label == "" {
		label = keyOf(v)
	}
	return "the " + name + " “" + label + "”"
}

func memberOf(holder, member string) Member {
	s := steps(holder)
	var members []Member
	for _, h := range Heads {
		members = append(members, h.Members...)
	}
	if len(s) >= 2 {
		t, _ := ThingIn(s[len(s)-2])
		members = t.Members
		if t.List == "questions" {
			members = QuestionMembers("", false)
			for _, m := range specials {
				members = append(members, m)
			}
			members = append(members, Member{Name: "limits", Label: "Limits"})
		}
	}
	for _, m := range members {
		if m.Name == member {
			return m
		}
	}
	return Member{Name: member, Label: member}
}

// short writes a simple value for a sentence; "" for what has no short form.
func short(raw json.RawMessage) string {
	v, err := value(raw)
	if err != nil {
		return ""
	}
	switch v := v.(type) {
	case string:
		if v == "" {
			return "nothing"
		}
		if r := []rune(v); len(r) > 60 {
			v = string(r[:57]) + "…"
		}
		return "“" + v + "”"
	case bool:
		if v {
			return "yes"
		}
		return "no"
	case json.Number:
		return v.String()
	case nil:
		return "nothing"
	}
	return ""
}
