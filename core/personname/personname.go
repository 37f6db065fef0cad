// Package personname folds names of people and compares them: accents, apostrophes,
// particles, order, initials, spelling by the ear. What is folded is compared by
// the measures of Jaro and Winkler (M. A. Jaro, JASA 84, 1989; W. E. Winkler, 1990)
// and by Double Metaphone (L. Philips, 2000); both from libraries.
package personname

import (
	"strings"
	"unicode"

	"github.com/antzucaro/matchr"
	"github.com/hbollon/go-edlib"
	"golang.org/x/text/unicode/norm"
)

// letters that do not come apart into a letter and a mark.
var letters = strings.NewReplacer("ß", "ss", "ø", "o", "æ", "ae", "œ", "oe", "đ", "d", "ð", "d", "þ", "th", "ł", "l",
	"ı", "i", "'", "", "’", "", "‘", "", "ʼ", "", "`", "", "´", "")

// Fold brings a text to small letters without marks: “Ó Dálaigh, D.” becomes
// “o dalaigh d”. Words stand one space apart; hyphens and all else that is no
// letter or digit part words, apostrophes join them.
func Fold(s string) string {
	var b strings.Builder
	gap := false
	for _, r := range norm.NFD.String(letters.Replace(strings.ToLower(s))) {
		switch {
		case unicode.Is(unicode.Mn, r):
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if gap && b.Len() > 0 {
				b.WriteByte(' ')
			}
			gap = false
			b.WriteRune(r)
		default:
			gap = true
		}
	}
	return b.String()
}

// Words before or after a name that say nothing about who it is; common practice,
// no source.
const titles = "mr mrs ms miss mx dr prof professor sir dame rev revd father sister hon captain capt phd msc ba jr sr"

// joined are prefixes of family names, left out whether they stand apart or not.
const joined = "o mac mc ni nic ui de da di du del della des der den van von ter la le el al ap ab fitz y e"

// The two lists, to look words up in.
var (
	isTitle    = words(titles)
	isParticle = words(joined)
)

func words(list string) map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq(list) {
		out[w] = true
	}
	return out
}

// Name is a person’s, folded, in words without titles and particles, in the order
// written.
type Name struct{ Words []string }

// Parse a name as it is written. Of “Daly, Donal” the order does not matter.
func Parse(s string) Name {
	var all, kept []string
	if family, given, ok := strings.Cut(s, ","); ok {
		s = given + " " + family // an O in front of a family name is no initial then
	}
	for w := range strings.FieldsSeq(Fold(strings.NewReplacer("Ó ", "", "ó ", "").Replace(s))) {
		if !isTitle[w] {
			all = append(all, w)
		}
	}
	for i, w := range all {
		// a particle is one only before another word: “Al Mac” keeps both
		if isParticle[w] && i+1 < len(all) && len(all) > 2 && !initialAt(all, i) {
			continue
		}
		kept = append(kept, bare(w))
	}
	return Name{kept}
}

// initialAt: a single letter in front is an initial, but for the O of O Daly.
func initialAt(all []string, i int) bool {
	return len(all[i]) == 1 && (i == 0 || all[i] != "o")
}

// bare takes a prefix off that is written together with its name: O’Daly, McArdle.
func bare(w string) string {
	for _, p := range []string{"mac", "mc"} {
		if rest, ok := strings.CutPrefix(w, p); ok && len(rest) >= 4 {
			return rest
		}
	}
	// the apostrophe is folded away, so “odaly” loses its o before a consonant
	if len(w) >= 5 && w[0] == 'o' && !strings.ContainsRune("aeiouy", rune(w[1])) && w[1] != 'l' && w[1] != 'r' &&
		w[1] != 's' && w[1] != 't' && w[1] != 'w' {
		return w[1:]
	}
	return w
}

// Sound is how a word is heard, by Double Metaphone’s first code; the word itself
// where it has none.
func Sound(w string) string {
	if a, _ := matchr.DoubleMetaphone(w); a != "" {
		return a
	}
	return w
}

// Near says how two folded words agree.
type Near int

// The ways, the weakest first.
const (
	Differs   Near = iota
	Initial        // one is the first letter of the other
	Sounds         // they are heard alike
	Misspells      // they differ by a slip
	Equal
)

// alike is the least Jaro–Winkler similarity of words that differ by a slip.
const alike = 0.92

// Compare two folded words.
func Compare(a, b string) Near {
	switch {
	case a == b:
		return Equal
	case len(a) == 1 || len(b) == 1:
		if a != "" && b != "" && a[0] == b[0] {
			return Initial
		}
		return Differs
	case Similar(a, b) >= alike:
		return Misspells
	case Sound(a) == Sound(b) && Similar(a, b) >= 0.7 && len(Sound(a)) > 1 && (a[0] == b[0] || !vowel(a[0])):
		return Sounds // every vowel in front sounds alike to it: Ada is not Ida
	}
	return Differs
}

func vowel(c byte) bool { return strings.IndexByte("aeiouy", c) >= 0 }

// Similar is the Jaro–Winkler similarity of two words, 0 to 1.
func Similar(a, b string) float64 { return float64(edlib.JaroWinklerSimilarity(a, b)) }
