// Package fit says how well a reader suits a case, between 0 and 1, in parts that
// are shown: the field of the case among the reader's fields, keywords that both
// name, and the reader's own words beside the case's text, as the cosine of their
// TF-IDF vectors (Salton & Buckley, Inf. Process. Manage. 24, 1988; terms weighted
// by how seldom they are among all texts of the round). A part of which nothing is
// known on either side does not count; where nothing is known at all, the fit is
// Unknown, neither good nor bad.
package fit

import (
	"cmp"
	"math"
	"slices"
	"strings"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

// Unknown is the fit of a pair of which nothing is known.
const Unknown = 0.5

// Weights of the parts; they need not add up to 1.
const (
	FieldWeight   = 5
	KeywordWeight = 2
	WordsWeight   = 3
)

// Side is a reader or a case, as far as a fit looks at it.
type Side struct {
	Fields   []string // of a reader all, of a case usually one; compared as they are
	Keywords []string // as the list of the round has them
	Text     string   // what a reader says of what they know, or a case of its work
}

// Fit is how well a reader suits a case, part by part. A part is negative where
// nothing is known of it.
type Fit struct {
	Score    float64  // 0 to 1
	Field    float64  // 1: the case's field is among the reader's, 0: it is not
	Keywords float64  // share of the case's keywords that the reader names
	Words    float64  // cosine of the texts, spread so that the best of the round is 1
	Both     []string // keywords that both name
	Shared   []string // the words that weigh most in both texts, at most three
}

// Round has the weights of the words of one round.
type Round struct {
	cases, readers []Side
	vc, vr         []vector
	best           float64
}

type vector map[string]float64

// New weighs the words of all texts of a round.
func New(cases, readers []Side) *Round {
	r := &Round{cases: cases, readers: readers}
	seen := map[string]int{}
	count := func(list []Side) (out []vector) {
		for _, s := range list {
			v := vector{}
			for _, w := range Words(s.Text) {
				v[w]++
			}
			for w := range v {
				seen[w]++
			}
			out = append(out, v)
		}
		return out
	}
	r.vc, r.vr = count(cases), count(readers)
	n := float64(len(cases) + len(readers))
	for _, list := range [][]vector{r.vc, r.vr} {
		for _, v := range list {
			norm := 0.0
			for w, tf := range v {
				v[w] = (1 + math.Log(tf)) * math.Log((1+n)/float64(seen[w]))
				norm += v[w] * v[w]
			}
			for w := range v {
				v[w] /= math.Sqrt(max(norm, 1e-12))
			}
		}
	}
	for c := range r.vc {
		for d := range r.vr {
			r.best = max(r.best, cosine(r.vc[c], r.vr[d]))
		}
	}
	return r
}

func cosine(a, b vector) (sum float64) {
	if len(b) < len(a) {
		a, b = b, a
	}
	for w, v := range a {
		sum += v * b[w]
	}
	return sum
}

// Of a case and a reader, by their places in the lists.
func (r *Round) Of(c, reader int) Fit {
	a, b := r.cases[c], r.readers[reader]
	out := Fit{Field: -1, Keywords: -1, Words: -1}
	sum, weights := 0.0, 0.0
	part := func(into *float64, v, weight float64) {
		*into = v
		sum, weights = sum+weight*v, weights+weight
	}
	if len(a.Fields) > 0 && len(b.Fields) > 0 {
		v := 0.0
		if slices.ContainsFunc(a.Fields, func(f string) bool { return slices.Contains(b.Fields, f) }) {
			v = 1
		}
		part(&out.Field, v, FieldWeight)
	}
	if len(a.Keywords) > 0 && len(b.Keywords) > 0 {
		for _, k := range a.Keywords {
			if slices.Contains(b.Keywords, k) {
				out.Both = append(out.Both, k)
			}
		}
		part(&out.Keywords, float64(len(out.Both))/float64(len(a.Keywords)), KeywordWeight)
	}
	if len(r.vc[c]) > 0 && len(r.vr[reader]) > 0 && r.best > 0 {
		part(&out.Words, cosine(r.vc[c], r.vr[reader])/r.best, WordsWeight)
		out.Shared = r.shared(c, reader)
	}
	out.Score = Unknown
	if weights > 0 {
		out.Score = sum / weights
	}
	return out
}

// shared are the words that weigh most in both texts.
func (r *Round) shared(c, reader int) []string {
	a, b := r.vc[c], r.vr[reader]
	var words []string
	for w := range a {
		if b[w] > 0 {
			words = append(words, w)
		}
	}
	slices.SortFunc(words, func(x, y string) int {
		return cmp.Or(cmp.Compare(a[y]*b[y], a[x]*b[x]), cmp.Compare(x, y))
	})
	return words[:min(3, len(words))]
}

// shortest is the length of the shortest word that counts.
const shortest = 4

// Words of a text: letters only, small, without accents, of four letters or more,
// without the ending of a plural.
func Words(text string) []string {
	fold := transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC)
	plain, _, err := transform.String(fold, strings.ToLower(text))
	if err != nil {
		plain = strings.ToLower(text)
	}
	var out []string
	for _, w := range strings.FieldsFunc(plain, func(r rune) bool { return !unicode.IsLetter(r) }) {
		if len([]rune(w)) >= shortest {
			if s := strings.TrimSuffix(w, "s"); s != w && !strings.HasSuffix(w, "ss") && len([]rune(s)) >= shortest {
				w = s
			}
			out = append(out, w)
		}
	}
	return out
}
