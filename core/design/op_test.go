package design

import (
	"encoding/json"
	"errors"
	"math/rand/v2"
	"strconv"
	"testing"
)

const document = `{"key":"r","name":"Round","sections":[
 {"key":"who","label":"Who","questions":[{"key":"name","label":"Name"},{"key":"kind","label":"Kind","options":[{"key":"a","label":"A"},{"key":"b","label":"B"}]}]},
 {"key":"what","label":"What","questions":[{"key":"sum","label":"Sum"}]}],"letters":[]}`

func after(t *testing.T, doc []byte, ops ...Op) []byte {
	t.Helper()
	out, _, err := Apply(doc, ops)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func canonical(t *testing.T, doc []byte) string {
	t.Helper()
	m, err := parse(doc)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw(bare(m))) // an empty list is no list
}

// Each operation, what it makes of the document, and that its inverse brings
// back what was there.
func TestOperations(t *testing.T) {
	for what, c := range map[string]struct {
		op   Op
		path string
		want string
	}{
		"a label": {Op{Do: Set, Path: "sections/who/label", Value: []byte(`"Who asks"`)}, "sections/who/label",
			`"Who asks"`},
		"a member that is new": {Op{Do: Set, Path: "sections/who/help", Value: []byte(`"Help"`)}, "sections/who/help",
			`"Help"`},
		"a question in between": {Op{Do: Add, Path: "sections/who/questions", Value: []byte(`{"key":"age"}`),
			Before: "kind"}, "sections/who/questions",
			`[{"key":"name","label":"Name"},{"key":"age"},{"key":"kind","label":"Kind","options":[{"key":"a","label":"A"},{"key":"b","label":"B"}]}]`},
		"the first of a list that is not there": {Op{Do: Add, Path: "awards", Value: []byte(`{"key":"cup"}`)}, "awards",
			`[{"key":"cup"}]`},
		"to the front": {Op{Do: Move, Path: "sections/what", Before: "who"}, "sections/0", ""},
		"to another section": {Op{Do: Move, Path: "sections/who/questions/name",
			To: "sections/what/questions"}, "sections/what/questions/name/label", `"Name"`},
		"taken out": {Op{Do: Remove, Path: "sections/who/questions/kind"}, "retired", `["kind"]`},
		"an option": {Op{Do: Set, Path: "sections/who/questions/kind/options/b/label",
			Value: []byte(`"Bee"`)}, "sections/who/questions/kind/options/b/label", `"Bee"`},
		"a member taken out": {Op{Do: Set, Path: "sections/who/label"}, "sections/who", ""},
	} {
		out, inverse, err := Apply([]byte(document), []Op{c.op})
		if err != nil {
			t.Errorf("%s: %v", what, err)
			continue
		}
		if c.want != "" {
			doc, _ := parse(out)
			if v, err := node(doc, c.path); err != nil || string(raw(v)) != c.want {
				t.Errorf("%s: %s, want %s (%v)", what, raw(v), c.want, err)
			}
		}
		if back := after(t, out, inverse...); canonical(t, back) != canonical(t, []byte(document)) {
			t.Errorf("%s: undone it is %s", what, back)
		}
	}
}

func TestRefused(t *testing.T) {
	var conflict Conflict
	for what, c := range map[string]struct {
		op   Op
		want any
	}{
		"somebody else was quicker": {Op{Do: Set, Path: "name", Value: []byte(`"Mine"`), Was: []byte(`"An older name"`)},
			&conflict},
		"it is gone":         {Op{Do: Set, Path: "sections/how/label", Value: []byte(`"x"`)}, ErrGone},
		"a key is for ever":  {Op{Do: Set, Path: "sections/who/key", Value: []byte(`"whom"`)}, nil},
		"a key that is used": {Op{Do: Add, Path: "sections", Value: []byte(`{"key":"who"}`)}, nil},
	} {
		_, _, err := Apply([]byte(document), []Op{c.op})
		if err == nil {
			t.Errorf("%s: it was made", what)
		}
		switch want := c.want.(type) {
		case *Conflict:
			if !errors.As(err, want) || string(want.Theirs) != `"Round"` {
				t.Errorf("%s: %v", what, err)
			}
		case error:
			if !errors.Is(err, want) {
				t.Errorf("%s: %v", what, err)
			}
		}
	}
	out := after(t, []byte(document), Op{Do: Remove, Path: "sections/what/questions/sum"})
	if _, _, err := Apply(out, []Op{{Do: Add, Path: "sections/what/questions",
		Value: []byte(`{"key":"sum"}`)}}); err == nil {
		t.Error("a key that was taken out is used again")
	}
	if k, err := NewKey(out, "Sum"); err != nil || k != "sum-2" {
		t.Errorf("a new key for Sum: %s %v", k, err)
	}
	if k, _ := NewKey(out, "Où habitez-vous ?"); k != "ou-habitez-vous" {
		t.Errorf("a key without marks: %s", k)
	}
	if _, _, err := Apply([]byte(document), []Op{{Do: Set, Path: "name", Value: []byte(`"X"`)},
		{Do: Remove, Path: "nothing/here"}}); err == nil {
		t.Error("all or none")
	}
}

// Two officers at once: operations on different members go through in any
// order and make the same document.
func TestOperationsOnDifferentMembersCommute(t *testing.T) {
	a := Op{Do: Set, Path: "sections/who/label", Value: []byte(`"A"`), Was: []byte(`"Who"`)}
	b := Op{Do: Set, Path: "sections/who/questions/name/label", Value: []byte(`"B"`), Was: []byte(`"Name"`)}
	if x, y := canonical(t, after(t, []byte(document), a, b)), canonical(t, after(t, []byte(document), b, a)); x != y {
		t.Errorf("%s\n%s", x, y)
	}
}

// Any run of operations, undone one by one, is the document it began with.
func TestEverythingCanBeUndone(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 7))
	for range 300 {
		doc := []byte(document)
		var undo [][]Op
		for n := range 12 {
			section := []string{"who", "what"}[r.IntN(2)]
			ops := []Op{{Do: Set, Path: "sections/" + section + "/label", Value: raw("L" + strconv.Itoa(r.IntN(5)))},
				{Do: Add, Path: "sections/" + section + "/questions",
					Value: json.RawMessage(`{"key":"new-` + strconv.Itoa(n) + `"}`)},
				{Do: Move, Path: "sections/what", Before: []string{"who", ""}[r.IntN(2)]},
				{Do: Move, Path: "sections/who/questions/name", To: "sections/" + section + "/questions"},
				{Do: Remove, Path: "sections/who/questions/kind"}, {Do: Remove,
					Path: "sections/what/questions/new-" + strconv.Itoa(r.IntN(12))}}
			out, inverse, err := Apply(doc, []Op{ops[r.IntN(len(ops))]})
			if err != nil {
				continue // what is gone cannot be moved
			}
			doc, undo = out, append(undo, inverse)
		}
		for i := len(undo) - 1; i >= 0; i-- {
			doc = after(t, doc, undo[i]...)
		}
		if canonical(t, doc) != canonical(t, []byte(document)) {
			t.Fatalf("undone it is %s", doc)
		}
	}
}
