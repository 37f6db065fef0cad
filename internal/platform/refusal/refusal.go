// Package refusal tells what may be said to a person from what may not. An error
// that answers Refuses is a sentence for whoever asked; every other error is
// ours, and goes to the log.
package refusal

import (
	"errors"
	"fmt"
)

// Refusal is a sentence that says why something was not done, and what would
// make it right. It begins in lower case and has no full stop, so that it can
// stand within another.
type Refusal string

// Error is the sentence.
func (r Refusal) Error() string { return string(r) }

// Refuses is the sentence.
func (r Refusal) Refuses() string { return string(r) }

// New makes a refusal; two with the same words are the same to errors.Is.
func New(says string) error { return Refusal(says) }

// Newf is New with figures.
func Newf(format string, figures ...any) error { return Refusal(fmt.Sprintf(format, figures...)) }

// Sentence is what may be said of an error, or of one that it wraps; ok is false
// when nothing may.
func Sentence(err error) (says string, ok bool) {
	var r interface{ Refuses() string }
	if errors.As(err, &r) {
		return r.Refuses(), true
	}
	return "", false
}
