package design

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/form"
)

// Verb of an operation.
type Verb string

// The verbs.
const (
	Set    Verb = "set"    // a member to a value, or to nothing
	Add    Verb = "add"    // a thing to a list
	Move   Verb = "move"   // a thing within its list, or to another
	Remove Verb = "remove" // a thing from its list
)

// Op is one change of a design.
type Op struct {
	Do     Verb            `json:"do"`
	Path   string          `json:"path"`             // of the member (set), the list (add), or the thing (move, remove)
	Value  json.RawMessage `json:"value,omitempty"`  // set, add; nothing for a set takes the member out
	Was    json.RawMessage `json:"was,omitempty"`    // set: what whoever sets it saw there; nothing: not looked at
	To     string          `json:"to,omitempty"`     // move: the list it goes to; "" for its own
	Before string          `json:"before,omitempty"` // add, move: the key it goes before; "" for the end
	Undo   bool            `json:"undo,omitempty"`   // the inverse of another: may bring back a key that was taken out
}

// Conflict is a set that saw something else than what is there: somebody else
// changed it meanwhile.
type Conflict struct {
	Op     Op
	Theirs json.RawMessage
}

// Error says what happened.
func (c Conflict) Error() string {
	return "somebody changed this meanwhile; theirs is shown, and yours beside it"
}

// Apply makes operations on a document, in order, all or none. It returns the
// new document and the inverses, in the order in which they undo.
func Apply(document []byte, ops []Op) (out []byte, inverse []Op, err error) {
	doc, err := parse(document)
	if err != nil {
		return nil, nil, err
	}
	for _, op := range ops {
		inv, err := apply(doc, op)
		if err != nil {
			return nil, nil, err
		}
		inv.Undo = true
		inverse = append(inverse, inv)
	}
	slices.Reverse(inverse)
	return raw(doc), inverse, nil
}

func apply(doc map[string]any, op Op) (Op, error) {
	switch op.Do {
	case Set:
		return set(doc, op)
	case Add:
		return add(doc, op)
	case Move:
		return move(doc, op)
	case Remove:
		return remove(doc, op)
	}
	return Op{}, fmt.Errorf("a design is not changed by %q", op.Do)
}

// same compares two values as JSON writes them; nothing, null and an empty
// text, list or object are the same.
func same(a, b any) bool {
	return bytes.Equal(raw(bare(a)), raw(bare(b)))
}

func bare(v any) any {
	switch v := v.(type) {
	case string:
		if v == "" {
			return nil
		}
	case []any:
		if len(v) == 0 {
			return nil
		}
		out := make([]any, len(v))
		for i := range v {
			out[i] = bare(v[i])
		}
		return out
	case map[string]any:
		out := map[string]any{}
		for k, m := range v {
			if b := bare(m); b != nil {
				out[k] = b
			} else if n, ok := m.(json.Number); ok && (k == "least" || k == "most" || k == "num") {
				out[k] = n // nothing less than nought is not the same as no limit
			}
		}
		if len(out) == 0 {
			return nil
		}
		return out
	case bool:
		if !v {
			return nil
		}
	case json.Number:
		if v == "0" {
			return nil
		}
	}
	return v
}

func set(doc map[string]any, op Op) (Op, error) {
	if _, last := split(op.Path); last == "key" {
		return Op{}, fmt.Errorf("a key is kept for ever; only labels change")
	}
	v, err := value(op.Value)
	if err != nil {
		return Op{}, err
	}
	now, err := node(doc, op.Path)
	if err != nil {
		holder, _ := split(op.Path)
		if _, err := node(doc, holder); err != nil {
			return Op{}, err
		}
		now = nil
	}
	if len(op.Was) > 0 {
		was, err := value(op.Was)
		if err != nil {
			return Op{}, err
		}
		if !same(was, now) && !same(v, now) {
			return Op{}, Conflict{op, raw(now)}
		}
	}
	inv := Op{Do: Set, Path: op.Path, Was: raw(v)}
	if now != nil {
		inv.Value = raw(now)
	}
	return inv, put(doc, op.Path, v)
}

func add(doc map[string]any, op Op) (Op, error) {
	v, err := value(op.Value)
	if err != nil {
		return Op{}, err
	}
	key := keyOf(v)
	if key == "" {
		return Op{}, fmt.Errorf("what is added needs a key")
	}
	l, err := list(doc, op.Path)
	if err != nil {
		return Op{}, err
	}
	_, name := split(op.Path)
	if slices.Contains(inner, name) {
		if find(l, key) >= 0 {
			return Op{}, fmt.Errorf("the key %q is used already", key)
		}
	} else if err := keysFree(doc, v, op.Undo); err != nil {
		return Op{}, err
	}
	at := len(l)
	if op.Before != "" {
		if i := find(l, op.Before); i >= 0 {
			at = i
		}
	}
	return Op{Do: Remove, Path: op.Path + "/" + key}, put(doc, op.Path, slices.Insert(slices.Clone(l), at, v))
}

// keysFree refuses keys that are used, or were and are not used again.
func keysFree(doc map[string]any, v any, undo bool) error {
	used := map[string]bool{}
	for name, part := range doc {
		if name != "retired" && name != "key" {
			thingKeys(part, func(k string) { used[k] = true })
		}
	}
	retired, _ := doc["retired"].([]any)
	var fault error
	thingKeys(v, func(k string) {
		i := slices.Index(retired, any(k))
		switch {
		case strings.Contains(k, "/"):
			fault = fmt.Errorf("%q is not a key", k)
		case i >= 0 && !undo:
			fault = fmt.Errorf("the key %q was used before and is not used again", k)
		case i >= 0:
			retired = slices.Delete(slices.Clone(retired), i, i+1)
		case used[k] && keyOf(v) == k:
			fault = fmt.Errorf("the key %q is used already", k)
		}
	})
	if fault == nil && undo {
		if len(retired) == 0 {
			delete(doc, "retired")
		} else {
			doc["retired"] = retired
		}
	}
	return fault
}

func remove(doc map[string]any, op Op) (Op, error) {
	holder, last := split(op.Path)
	l, err := list(doc, holder)
	if err != nil {
		return Op{}, err
	}
	i := find(l, last)
	if i < 0 {
		return Op{}, ErrGone
	}
	gone := l[i]
	inv := Op{Do: Add, Path: holder, Value: raw(gone)}
	if i+1 < len(l) {
		inv.Before = keyOf(l[i+1])
	}
	if _, name := split(holder); !op.Undo && !slices.Contains(inner,
		name) { // what is undone was never met by anybody: its key is free again
		retired, _ := doc["retired"].([]any)
		retired = slices.Clone(retired)
		thingKeys(gone, func(k string) {
			if !slices.Contains(retired, any(k)) {
				retired = append(retired, k)
			}
		})
		slices.SortFunc(retired, func(a, b any) int { return strings.Compare(a.(string), b.(string)) })
		doc["retired"] = retired
	}
	return inv, put(doc, holder, slices.Delete(slices.Clone(l), i, i+1))
}

func move(doc map[string]any, op Op) (Op, error) {
	holder, last := split(op.Path)
	to := op.To
	if to == "" {
		to = holder
	}
	l, err := list(doc, holder)
	if err != nil {
		return Op{}, err
	}
	i := find(l, last)
	if i < 0 {
		return Op{}, ErrGone
	}
	inv := Op{Do: Move, Path: to + "/" + last, To: holder}
	if i+1 < len(l) {
		inv.Before = keyOf(l[i+1])
	}
	thing := l[i]
	if err := put(doc, holder, slices.Delete(slices.Clone(l), i, i+1)); err != nil {
		return Op{}, err
	}
	dest, err := list(doc, to)
	if err != nil {
		return Op{}, err
	}
	at := len(dest)
	if op.Before != "" && op.Before != last {
		if j := find(dest, op.Before); j >= 0 {
			at = j
		}
	}
	return inv, put(doc, to, slices.Insert(slices.Clone(dest), at, thing))
}

// Same reports that two values are the same in a document: nothing, null, false,
// 0 and an empty text, list or object are one.
func Same(a, b json.RawMessage) bool {
	x, err := value(a)
	y, err2 := value(b)
	return err == nil && err2 == nil && same(x, y)
}

// Copy gives a thing, and the questions in it, keys that the document has never
// had, made from their labels. References among what is copied follow.
func Copy(document, thing []byte) (out json.RawMessage, key string, err error) {
	v, err := value(thing)
	if err != nil {
		return nil, "", err
	}
	doc, err := parse(document)
	if err != nil {
		return nil, "", err
	}
	renamed := map[string]string{}
	var rename func(v any) error
	rename = func(v any) error {
		m, ok := v.(map[string]any)
		if !ok {
			return nil
		}
		old, _ := m["key"].(string)
		label, _ := m["label"].(string)
		if label == "" {
			label = old
		}
		k, err := NewKey(raw(doc), label)
		if err != nil {
			return err
		}
		m["key"], renamed[old] = string(k), string(k)
		extra, _ := doc["retired"].([]any)
		doc["retired"] = append(extra, string(k)) // so that the next is another
		questions, _ := m["questions"].([]any)
		for _, q := range questions {
			if err := rename(q); err != nil {
				return err
			}
		}
		return nil
	}
	if err := rename(v); err != nil {
		return nil, "", err
	}
	follow(v, renamed)
	return raw(v), keyOf(v), nil
}

// follow brings references to what was renamed to their new keys.
func follow(v any, renamed map[string]string) {
	switch v := v.(type) {
	case map[string]any:
		for name, m := range v {
			if s, ok := m.(string); ok && renamed[s] != "" && (name == "answer" || name == "request" || name == "slot" ||
				name == "copyOf" || name == "needs" || name == "same") {
				v[name] = renamed[s]
				continue
			}
			follow(m, renamed)
		}
	case []any:
		for _, m := range v {
			follow(m, renamed)
		}
	}
}

// Difference is the operations that make one document into another, a member of
// the round at a time. The key and what was retired stay as they are.
func Difference(from, to []byte) ([]Op, error) {
	a, err := parse(from)
	if err != nil {
		return nil, err
	}
	b, err := parse(to)
	if err != nil {
		return nil, err
	}
	var ops []Op
	for _, m := range namesIn(a, b) {
		if m == "key" || m == "retired" || same(a[m], b[m]) {
			continue
		}
		op := Op{Do: Set, Path: m, Was: raw(a[m])}
		if b[m] != nil {
			op.Value = raw(b[m])
		}
		ops = append(ops, op)
	}
	return ops, nil
}

// namesIn lists the members that either of two things has, by name.
func namesIn(a, b map[string]any) []string {
	names := maps.Clone(a)
	if names == nil {
		names = map[string]any{}
	}
	maps.Copy(names, b)
	return slices.Sorted(maps.Keys(names))
}

var notKey = regexp.MustCompile(`[^a-z0-9]+`)

// foldLetters writes letters with marks without them, as far as keys go.
var foldLetters = strings.NewReplacer("á", "a", "à", "a", "â", "a", "ä", "a", "å", "a", "ã", "a", "é", "e", "è", "e",
	"ê", "e", "ë", "e", "í", "i", "ì", "i", "î", "i", "ï", "i",
	"ó", "o", "ò", "o", "ô", "o", "ö", "o", "ø", "o", "õ", "o", "ú", "u", "ù", "u", "û", "u", "ü", "u", "ç", "c", "ñ",
	"n", "ß", "ss", "æ", "ae", "œ", "oe", "’", "", "'", "")

// NewKey makes a key from a first label: one that the document has never had.
func NewKey(document []byte, label string) (form.Key, error) {
	doc, err := parse(document)
	if err != nil {
		return "", err
	}
	base := strings.Trim(notKey.ReplaceAllString(foldLetters.Replace(strings.ToLower(label)), "-"), "-")
	if len(base) > 40 {
		base = strings.Trim(base[:40], "-")
	}
	if base == "" || base[0] >= '0' && base[0] <= '9' {
		base = strings.Trim("x-"+base, "-")
	}
	taken := map[string]bool{}
	keys(doc, func(k string) { taken[k] = true })
	retired, _ := doc["retired"].([]any)
	for _, k := range retired {
		taken[k.(string)] = true
	}
	key := base
	for n := 2; taken[key]; n++ {
		key = base + "-" + strconv.Itoa(n)
	}
	return form.Key(key), nil
}
