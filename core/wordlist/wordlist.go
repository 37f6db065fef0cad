// Package wordlist finds the words of a list in what somebody wrote, in whatever form
// they stand: plural or past, with accents or without, and nearly so spelt. A form is
// known by its stem (M. F. Porter, An algorithm for suffix stripping, Program 14(3),
// 1980; the English stemmer of the Snowball project); a near spelling by at most one
// letter added, left out, changed or swapped with its neighbour (F. J. Damerau,
// Communications of the ACM 7(3), 1964), in words of six letters or more.
package wordlist

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/blevesearch/snowballstem"
	"github.com/blevesearch/snowballstem/english"
	"github.com/hbollon/go-edlib"
	"golang.org/x/text/unicode/norm"
)

// Found is a word of the list in a text, from one byte to another.
type Found struct {
	From, To int
	Word     string // as the list has it
	Near     bool   // it is only nearly spelt so
}

// leastNear is how many letters a word has at least that may be nearly so spelt.
const leastNear = 6

// word of a text, folded.
type word struct {
	from, to     int
	folded, stem string
}

// Stem of one English word, folded.
func Stem(w string) string {
	env := snowballstem.NewEnv(folded(w))
	english.Stem(env)
	return env.Current()
}

// folded is a word in small letters without accents.
func folded(w string) string {
	var b strings.Builder
	for _, r := range norm.NFD.String(strings.ToLower(w)) {
		switch {
		case unicode.Is(unicode.Mn, r):
		case r == '’':
			b.WriteRune('\'')
		default:
			b.WriteRune(r)
		}
	}
	return b.String()
}

// wordsOf cuts a text where neither letters nor digits stand; an apostrophe between
// letters is within a word.
func wordsOf(text string) (out []word) {
	from := -1
	end := func(to int) {
		if from >= 0 {
			w := folded(text[from:to])
			out = append(out, word{from, to, w, Stem(w)})
			from = -1
		}
	}
	for i, r := range text {
		within := unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.Mn, r)
		if (r == '\'' || r == '’') && from >= 0 {
			next, _ := utf8.DecodeRuneInString(text[i+utf8.RuneLen(r):])
			within = unicode.IsLetter(next)
		}
		if within && from < 0 {
			from = i
		} else if !within {
			end(i)
		}
	}
	end(len(text))
	return out
}

// List is words and phrases to be looked for.
type List struct {
	entries [][]word
	words   []string
}

// New makes a list; what has no word in it is left out.
func New(words []string) *List {
	l := &List{}
	for _, w := range words {
		if parts := wordsOf(w); len(parts) > 0 {
			l.entries, l.words = append(l.entries, parts), append(l.words, strings.TrimSpace(w))
		}
	}
	return l
}

// Words of the list.
func (l *List) Words() []string { return l.words }

// In finds them in a text, in its order; where two begin at one word, the longer.
func (l *List) In(text string) (out []Found) {
	all := wordsOf(text)
	for i := 0; i < len(all); {
		length, best := 0, Found{}
		for k, entry := range l.entries {
			if near, ok := matches(all[i:], entry); ok && (len(entry) > length || len(entry) == length && best.Near && !near) {
				length = len(entry)
				best = Found{all[i].from, all[i+length-1].to, l.words[k], near}
			}
		}
		if length > 0 {
			out = append(out, best)
		}
		i += max(1, length)
	}
	return out
}

func matches(text, entry []word) (near, ok bool) {
	if len(entry) > len(text) {
		return false, false
	}
	for i, e := range entry {
		switch w := text[i]; {
		case w.folded == e.folded || w.stem == e.stem:
		case alike(w.folded, e.folded) || alike(w.stem, e.stem):
			near = true
		default:
			return false, false
		}
	}
	return near, true
}

// alike reports two words that one slip of the pen tells apart.
func alike(a, b string) bool {
	la, lb := utf8.RuneCountInString(a), utf8.RuneCountInString(b)
	if min(la, lb) < leastNear || la-lb > 1 || lb-la > 1 || a[0] != b[0] {
		return false
	}
	return edlib.OSADamerauLevenshteinDistance(a, b) <= 1
}

// Piece of a text; Is where it is what was found.
type Piece struct {
	Text string
	Is   bool
}

// around is how many bytes of a text are shown on each side of what was found.
const around = 70

// Excerpt of a text around the first of what was found in it, cut at words.
func Excerpt(text string, found []Found) (out []Piece) {
	if len(found) == 0 {
		return nil
	}
	from, to := cut(text, found[0].From-around, false), cut(text, found[0].To+around, true)
	add := func(s string, is bool) {
		if s != "" {
			out = append(out, Piece{s, is})
		}
	}
	begin := ""
	if from > 0 {
		begin = "…"
	}
	at := from
	for _, f := range found {
		if f.To > to {
			break
		}
		add(begin+text[at:f.From], false)
		begin = ""
		add(text[f.From:f.To], true)
		at = f.To
	}
	end := ""
	if to < len(text) {
		end = "…"
	}
	add(text[at:to]+end, false)
	return out
}

// cut finds the edge of a word at a byte or before it, or after it.
func cut(text string, at int, after bool) int {
	if at <= 0 {
		return 0
	}
	if at >= len(text) {
		return len(text)
	}
	if after {
		if n := strings.IndexAny(text[at:], " \n\t"); n >= 0 {
			return at + n
		}
		return len(text)
	}
	if n := strings.LastIndexAny(text[:at], " \n\t"); n >= 0 {
		return n + 1
	}
	return 0
}
