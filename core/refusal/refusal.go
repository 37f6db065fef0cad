// Package refusal is the one type for what may be said to a person about why
// something was not done, with what would make it right. Every other error is
// ours: it goes to the log under a number, and the page shows the number.
package refusal

import (
	"errors"
	"fmt"
	"strings"
	"unicode"
)

// Kind says what whoever asked can do about it.
type Kind int

// The kinds.
const (
	KindBarred  Kind = iota // not now, or not by them: the page they came from no longer fits
	KindUnfit               // what they typed or chose does not do: they can mend it where they are
	KindMissing             // there is no such thing, or it is not theirs to see
	KindOver                // it was there, and has run out
)

// Refusal is a sentence that says why something was not done. Two with the same
// words are the same to errors.Is.
type Refusal struct {
	Kind   Kind
	Field  string // of a form, when one is at fault; "" for none
	Says   string
	Remedy string // what would make it right; "" where Says tells it, or nothing would
}

// New refuses what cannot be done now, or not by whoever asks. The words begin in
// lower case and have no full stop, so that they can stand within a sentence.
func New(says string) Refusal { return Refusal{Says: says} }

// Newf is New with figures.
func Newf(format string, figures ...any) Refusal { return New(fmt.Sprintf(format, figures...)) }

// Unfit refuses what was typed or chosen.
func Unfit(says string) Refusal { return Refusal{Kind: KindUnfit, Says: says} }

// In refuses what was typed into one field of a form.
func In(field, says string) Refusal { return Refusal{Kind: KindUnfit, Field: field, Says: says} }

// Missing refuses what is not there, or not to be seen.
func Missing(says string) Refusal { return Refusal{Kind: KindMissing, Says: says} }

// Over refuses what was there and has run out.
func Over(says string) Refusal { return Refusal{Kind: KindOver, Says: says} }

// But adds what would make it right: “the letter is sent”, but “ask the office”.
func (r Refusal) But(remedy string) Refusal {
	r.Remedy = remedy
	return r
}

// Error is the sentence as it stands within another.
func (r Refusal) Error() string {
	if r.Remedy == "" {
		return r.Says
	}
	return r.Says + "; " + r.Remedy
}

// Clause is the sentence as a part of another, which brings its own full stop.
func (r Refusal) Clause() string { return strings.TrimSuffix(r.Error(), ".") }

// Sentence is the sentence on its own: with a capital, and a full stop.
func (r Refusal) Sentence() string { return Sentence(r.Error()) }

// Sentence gives words a capital and a full stop where they have none.
func Sentence(says string) string {
	letters := []rune(says)
	for i, c := range letters {
		if c != '“' {
			letters[i] = unicode.ToUpper(c)
			break
		}
	}
	says = string(letters)
	if says == "" || strings.HasSuffix(says, ".") || strings.HasSuffix(says, "?") || strings.HasSuffix(says, ".”") {
		return says
	}
	return says + "."
}

// Of is the refusal that an error is or wraps; ok is false when nothing of it may
// be said.
func Of(err error) (r Refusal, ok bool) {
	ok = errors.As(err, &r)
	return r, ok
}

// AsUnfit finds a refusal of what was typed or chosen, for a page that can show it
// beside what it is about.
func AsUnfit(err error, into *Refusal) bool {
	r, ok := Of(err)
	if !ok || r.Kind != KindUnfit {
		return false
	}
	*into = r
	return true
}
