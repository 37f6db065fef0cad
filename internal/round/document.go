package round

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"

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
		return nil, fmt.Errorf("the design is %d bytes; at most %d are taken", len(raw), MostBytes)
	}
	if err := depth(raw); err != nil {
		return nil, err
	}
	var head struct {
		Schema int `json:"schema"`
	}
	if err := json.Unmarshal(raw, &head); err != nil {
		return nil, fmt.Errorf("this is not a design document: %w", err)
	}
	if head.Schema > form.Schema {
		return nil, fmt.Errorf("the design is of schema %d; this program reads up to %d. Use a newer program", head.Schema, form.Schema)
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	var d form.Design
	if err := dec.Decode(&d); err != nil {
		return nil, fmt.Errorf("this is not a design document: %w", err)
	}
	if _, err := dec.Token(); err != io.EOF {
		return nil, errors.New("something follows the design document")
	}
	return &d, nil
}

func depth(raw []byte) error {
	dec := json.NewDecoder(bytes.NewReader(raw))
	n := 0
	for {
		t, err := dec.Token()
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return fmt.Errorf("this is not JSON: %w", err)
		}
		switch t {
		case json.Delim('{'), json.Delim('['):
			if n++; n > MostDepth {
				return fmt.Errorf("the design is nested more than %d deep", MostDepth)
			}
		case json.Delim('}'), json.Delim(']'):
			n--
		}
	}
}
