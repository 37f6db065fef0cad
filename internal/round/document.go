package round

import (
	"bytes"
	"encoding/json"
	"io"

	"ulvant/core/refusal"

	"ulvant/core/form"
)

// Bounds of a design document.
const (
	MostBytes = 4 << 20
	MostDepth = 60
)

// Decode reads a design document strictly: no unknown members, no second
// document, not too large, not too deep, no later schema.
func Decode(raw []byte) (*form.Design, error) {
	if len(raw) > MostBytes {
		return nil, refusal.Newf("the design is %d bytes; at most %d are taken", len(raw), MostBytes)
	}
	if nesting(raw) > MostDepth {
		return nil, refusal.Newf("the design is nested more than %d deep", MostDepth)
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	var d form.Design
	err := dec.Decode(&d)
	if schema := max(d.Schema, schemaOf(raw, err)); schema > form.Schema {
		return nil, refusal.Newf("the design is of schema %d; this program reads up to %d. Use a newer program", schema,
			form.Schema)
	}
	if err != nil && !json.Valid(raw) {
		return nil, refusal.Newf("this is not JSON: %v", err)
	}
	if err != nil {
		return nil, refusal.Newf("this is not a design document: %v", err)
	}
	if _, err := dec.Token(); err != io.EOF {
		return nil, refusal.New("something follows the design document")
	}
	return &d, nil
}

// schemaOf a document that could not be read whole: it may be a later one.
func schemaOf(raw []byte, unread error) int {
	var head struct {
		Schema int `json:"schema"`
	}
	if unread == nil || json.Unmarshal(raw, &head) != nil {
		return 0
	}
	return head.Schema
}

// nesting is how deep brackets stand in one another, texts left out. What is
// not JSON gets some number too; reading it says what is wrong.
func nesting(raw []byte) (deepest int) {
	n, text := 0, false
	for i := 0; i < len(raw); i++ {
		switch c := raw[i]; {
		case text && c == '\\':
			i++
		case c == '"':
			text = !text
		case text:
		case c == '{' || c == '[':
			n++
			deepest = max(deepest, n)
		case c == '}' || c == ']':
			n--
		}
	}
	return deepest
}
