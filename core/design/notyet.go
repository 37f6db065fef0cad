package design

import (
	"encoding/json"
	"fmt"
	"slices"

	"ulvant/core/form"
)

// Unused is something set in a design that does not run yet.
type Unused struct {
	Path  string // of the thing it is set of; "" for the design itself
	What  string // the thing and the member, in words
	Since string // what happens instead
}

// NotYet finds what a design sets that nothing obeys yet, by the marks of its
// shape, so that the page and the proof say the same.
func NotYet(d *form.Design) (out []Unused) {
	raw, err := json.Marshal(d)
	if err != nil {
		return nil
	}
	var doc map[string]any
	if json.Unmarshal(raw, &doc) != nil {
		return nil
	}
	for _, t := range slices.Concat(Heads, Things) {
		for path, item := range itemsOf(doc, t.List) {
			name, _ := item[t.Title].(string)
			if t.List == "" {
				name = "The round"
			}
			if t.NotYet != "" {
				out = append(out, Unused{path, fmt.Sprintf("“%s” (%s)", name, t.Name), t.NotYet})
				continue
			}
			members := t.Members
			if t.Name == "question" {
				kind, _ := item["kind"].(string)
				members = QuestionMembers(form.Kind(kind), false)
			}
			out = append(out, unusedIn(item, members, path, name)...)
		}
	}
	for _, s := range d.Streams {
		if s.Fund > 0 && len(d.Awards) > 0 {
			out = append(out, Unused{"streams/" + string(s.Key),
				fmt.Sprintf("The part of the fund of “%s”, where awards are placed", s.Label),
				"placing looks at the round’s fund alone; recording still refuses more than the part"})
		}
	}
	for _, g := range d.Gifts {
		if g.Request == "" && !d.AsksFor(g.Key) {
			out = append(out, Unused{"gifts/" + string(g.Key), fmt.Sprintf("“%s” (gift)", g.Label),
				"no budget and no question of the round asks for it"})
		}
	}
	slices.SortStableFunc(out, func(a, b Unused) int {
		switch {
		case a.Path < b.Path:
			return -1
		case a.Path > b.Path:
			return 1
		}
		return 0
	})
	return out
}

func unusedIn(item map[string]any, members []Member, path, name string) (out []Unused) {
	for _, m := range members {
		v, set := item[m.Name]
		if !set || empty(v) {
			continue
		}
		word, _ := v.(string)
		switch why := m.NotYetFor[word]; {
		case m.NotYet != "":
			out = append(out, Unused{path, "“" + m.Label + "” of “" + name + "”", m.NotYet})
		case why != "":
			out = append(out, Unused{path, "“" + wordOf(m, word) + "” of “" + name + "”", why})
		case m.As == Group:
			if sub, ok := v.(map[string]any); ok {
				out = append(out, unusedIn(sub, m.Sub, path, name)...)
			}
		}
	}
	return out
}

func wordOf(m Member, key string) string {
	for _, o := range m.Words {
		if string(o.Key) == key {
			return o.Label
		}
	}
	return key
}

func empty(v any) bool {
	switch v := v.(type) {
	case nil:
		return true
	case string:
		return v == ""
	case bool:
		return !v
	case float64:
		return v == 0
	case []any:
		return len(v) == 0
	case map[string]any:
		return len(v) == 0
	}
	return false
}

// itemsOf are the things of a list by their paths; the design itself for "".
func itemsOf(doc map[string]any, list string) map[string]map[string]any {
	out := map[string]map[string]any{}
	add := func(prefix string, v any) {
		things, _ := v.([]any)
		for _, x := range things {
			if item, ok := x.(map[string]any); ok {
				out[fmt.Sprintf("%s/%v", prefix, item["key"])] = item
			}
		}
	}
	switch list {
	case "":
		out[""] = doc
	case "questions":
		for path, s := range itemsOf(doc, "sections") {
			add(path+"/questions", s["questions"])
		}
	default:
		add(list, doc[list])
	}
	return out
}
