// Package design is how a round's design is changed: as a list of operations,
// each with its inverse, on the design document as plain data. Undo, two
// officers at once, the sentence for every change, and how a change bears on
// people who are already writing all come from the operations. What the
// document means is core/form's; shape.go says, for people, what can be set
// where.
package design

import (
	"bytes"
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/refusal"
)

// A path leads through the document: member names, and in lists the key of the
// thing meant: sections/work/questions/peat-depth/label.

// parse decodes a document into maps, lists, texts and exact numbers.
func parse(raw []byte) (map[string]any, error) {
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.UseNumber()
	var doc map[string]any
	if err := dec.Decode(&doc); err != nil {
		return nil, refusal.Newf("the design cannot be read: %v", err)
	}
	return doc, nil
}

func value(raw json.RawMessage) (any, error) {
	if len(raw) == 0 {
		return nil, nil
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.UseNumber()
	var v any
	err := dec.Decode(&v)
	return v, err
}

func raw(v any) json.RawMessage {
	b, err := json.Marshal(v)
	if err != nil {
		panic(err) // what was decoded from JSON always encodes
	}
	return b
}

// keyOf a thing in a list; "" when it has none.
func keyOf(v any) string {
	if m, ok := v.(map[string]any); ok {
		k, _ := m["key"].(string)
		return k
	}
	return ""
}

// ErrGone: what the path leads to is not there any more.
var ErrGone = refusal.New("this is not in the design any more").But("somebody took it out meanwhile")

// node finds what a path leads to; "" is the document.
func node(doc any, path string) (any, error) {
	at := doc
	for _, step := range steps(path) {
		switch v := at.(type) {
		case map[string]any:
			next, ok := v[step]
			if !ok {
				return nil, ErrGone
			}
			at = next
		case []any:
			i := find(v, step)
			if i < 0 {
				return nil, ErrGone
			}
			at = v[i]
		default:
			return nil, ErrGone
		}
	}
	return at, nil
}

func steps(path string) []string {
	if path == "" {
		return nil
	}
	return strings.Split(path, "/")
}

// find the place of a thing in a list: by its key, or by number where things
// have none; -1 when it is not there.
func find(list []any, step string) int {
	i := slices.IndexFunc(list, func(v any) bool { return keyOf(v) == step })
	if i < 0 {
		if n, err := strconv.Atoi(step); err == nil && n >= 0 && n < len(list) && keyOf(list[n]) == "" {
			return n
		}
	}
	return i
}

// split parts a path into that of the holder and the last step.
func split(path string) (holder, last string) {
	if i := strings.LastIndexByte(path, '/'); i >= 0 {
		return path[:i], path[i+1:]
	}
	return "", path
}

// put sets a member or an item of the holder that a path leads to; a nil value
// takes a member out.
func put(doc map[string]any, path string, v any) error {
	holder, last := split(path)
	at, err := node(doc, holder)
	if err != nil {
		return err
	}
	m, ok := at.(map[string]any)
	if !ok {
		return ErrGone
	}
	if v == nil {
		delete(m, last)
	} else {
		m[last] = v
	}
	return nil
}

// list finds the list at a path; a list that is not there yet is empty.
func list(doc map[string]any, path string) ([]any, error) {
	at, err := node(doc, path)
	if err != nil {
		holder, last := split(path)
		h, herr := node(doc, holder)
		if m, ok := h.(map[string]any); herr == nil && ok && m[last] == nil {
			return nil, nil
		}
		return nil, err
	}
	l, ok := at.([]any)
	if !ok && at != nil {
		return nil, ErrGone
	}
	return l, nil
}

// inner are the lists whose keys count only among themselves: the options of
// one question may be called like those of another.
var inner = []string{"options", "columns", "rows", "passPoints", "applicants"}

// thingKeys are the keys in a value that stand for one thing in the whole
// document.
func thingKeys(v any, visit func(string)) {
	switch v := v.(type) {
	case map[string]any:
		if k, ok := v["key"].(string); ok {
			visit(k)
		}
		for name, m := range v {
			if !slices.Contains(inner, name) {
				thingKeys(m, visit)
			}
		}
	case []any:
		for _, m := range v {
			thingKeys(m, visit)
		}
	}
}

// keys are all keys in a value.
func keys(v any, visit func(string)) {
	switch v := v.(type) {
	case map[string]any:
		if k, ok := v["key"].(string); ok {
			visit(k)
		}
		for _, m := range v {
			keys(m, visit)
		}
	case []any:
		for _, m := range v {
			keys(m, visit)
		}
	}
}
