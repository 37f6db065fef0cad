// Package hiding takes the names of those behind an application out of texts that
// people judge without knowing whose they are: applicants write them into answers,
// captions and letters, whatever the form asks.
//
// A name is found as a whole however it is written (accents, order, case), and word by
// word where a word is written with a capital; addresses of mail go wherever they stand,
// and links that hold a name. What a picture or a scan shows is not read here. Found says
// which names stand in a text that cannot be changed, such as the words of a file.
package hiding

import (
	"cmp"
	"regexp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"ulvant/core/personname"
)

// Mark stands where a name was.
const Mark = "▮▮▮"

// Least letters of a word of a name to be hidden on its own.
const leastLetters = 3

// Person or body whose name is hidden.
type Person struct {
	Name   string
	Body   bool     // an organisation: its words are common words, and hidden only together
	Phones []string // as they are kept, +353…
}

// Names are those to be hidden in the texts of one case. The zero value hides nobody.
type Names struct {
	whole  map[string][][]string // folded, in the order written; by first word, the longest first
	words  map[string]bool       // of people, folded
	phones []string              // the last digits of each
}

// Of the people and bodies behind a case.
func Of(people []Person) (n Names) {
	n.words, n.whole = map[string]bool{}, map[string][][]string{}
	for _, p := range people {
		all := strings.Fields(personname.Fold(p.Name))
		if len(all) > 1 || len(all) == 1 && utf8.RuneCountInString(all[0]) >= leastLetters {
			n.add(all)
			if !p.Body && len(all) > 1 {
				n.add(append([]string{all[len(all)-1]}, all[:len(all)-1]...)) // Calloway, Imre
			}
		}
		if !p.Body {
			for _, w := range personname.Parse(p.Name).Words {
				if utf8.RuneCountInString(w) >= leastLetters {
					n.words[w] = true
				}
			}
		}
		for _, phone := range p.Phones {
			if d := digits(phone); len(d) >= leastDigits {
				n.phones = append(n.phones, d[len(d)-leastDigits:])
			}
		}
	}
	return n
}

func (n Names) add(name []string) {
	list := append(n.whole[name[0]], name)
	slices.SortStableFunc(list, func(a, b []string) int { return len(b) - len(a) })
	n.whole[name[0]] = list
}

// Any reports that somebody is hidden.
func (n Names) Any() bool { return len(n.whole) > 0 || len(n.phones) > 0 }

// leastDigits are the last digits of a number that tell it, without what is dialled
// before them.
const leastDigits = 7

var (
	mail   = regexp.MustCompile(`[^\s<>(),;:"]+@[^\s<>(),;:"]+\.[^\s<>(),;:".]+`)
	link   = regexp.MustCompile(`(?i)\b(?:https?://|www\.)\S+`)
	number = regexp.MustCompile(`\+?\d[\d \-()/.]{5,}\d`)
)

func digits(s string) string {
	return strings.Map(func(r rune) rune {
		if r < '0' || r > '9' {
			return -1
		}
		return r
	}, s)
}

// word of a text with where it stands, in bytes.
type word struct {
	from, upto int
	as, folded string
	capital    bool
}

// wordsOf a text: what stands between all that is no letter, digit, mark or apostrophe.
func wordsOf(text string) (out []word) {
	from := -1
	end := func(upto int) {
		if from < 0 {
			return
		}
		as := text[from:upto]
		for _, s := range []string{"’s", "'s"} { // the name of whom something is
			if cut, ok := strings.CutSuffix(as, s); ok {
				as = cut
			}
		}
		first, _ := utf8.DecodeRuneInString(as)
		out = append(out, word{from, from + len(as), as, folded(as), unicode.IsUpper(first)})
		from = -1
	}
	for i, r := range text {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.Mn, r) || from >= 0 &&
			strings.ContainsRune("’'", r):
			if from < 0 {
				from = i
			}
		default:
			end(i)
		}
	}
	end(len(text))
	return out
}

// In is a text with a mark for each name, and for each address of mail.
func (n Names) In(text string) string {
	if !n.Any() || text == "" {
		return text
	}
	gone := n.stand(text)
	for _, at := range mail.FindAllStringIndex(text, -1) {
		gone = append(gone, [2]int{at[0], at[1]})
	}
	return marked(text, gone)
}

// leastRun are the letters of a whole name that is looked for without regard to spaces.
const leastRun = 8

// Found are the names in a text as they stand there, each once, in the order in which
// they come. Letters may stand apart, as in a page that was drawn: a whole name is found
// there too, and given as it is known. Nil when there is none.
func (n Names) Found(text string) (found []string) {
	add := func(s string) {
		if s = strings.Join(strings.Fields(s), " "); !slices.Contains(found, s) {
			found = append(found, s)
		}
	}
	at := n.stand(text)
	for _, m := range mail.FindAllStringIndex(text, -1) {
		if n.holds(text[m[0]:m[1]]) {
			at = append(at, [2]int{m[0], m[1]})
		}
	}
	for _, span := range joined(text, at) {
		add(text[span[0]:span[1]])
	}
	run := ""
	for _, list := range n.whole {
		for _, name := range list {
			squeezed := strings.Join(name, "")
			if len(name) < 2 || utf8.RuneCountInString(squeezed) < leastRun {
				continue
			}
			if run == "" {
				run = strings.ReplaceAll(personname.Fold(text), " ", "")
			}
			whole := strings.Join(name, " ")
			if strings.Contains(run, squeezed) &&
				!slices.ContainsFunc(found, func(s string) bool { return strings.Contains(personname.Fold(s), name[0]) }) {
				add(whole)
			}
		}
	}
	return found
}

// joined spans in their order, those that touch or lie within another as one.
func joined(text string, at [][2]int) (out [][2]int) {
	slices.SortFunc(at, func(a, b [2]int) int { return cmp.Or(a[0]-b[0], b[1]-a[1]) })
	for _, span := range at {
		if n := len(out); n > 0 && (span[0] <= out[n-1][1] || strings.TrimSpace(text[out[n-1][1]:span[0]]) == "") {
			out[n-1][1] = max(out[n-1][1], span[1])
			continue
		}
		out = append(out, span)
	}
	return out
}

// stand is where names, links that hold one and telephones stand in a text, in bytes.
func (n Names) stand(text string) (gone [][2]int) {
	hide := func(from, upto int) { gone = append(gone, [2]int{from, upto}) }
	for _, at := range link.FindAllStringIndex(text, -1) {
		if n.holds(text[at[0]:at[1]]) {
			hide(at[0], at[1])
		}
	}
	for _, at := range number.FindAllStringIndex(text, -1) {
		if d := digits(text[at[0]:at[1]]); slices.ContainsFunc(n.phones, func(p string) bool {
			return strings.HasSuffix(d,
				p)
		}) {
			hide(at[0], at[1])
		}
	}
	all := wordsOf(text)
	for i := 0; i < len(all); i++ {
		if k := n.wholeAt(all[i:]); k > 0 {
			hide(all[i].from, all[i+k-1].upto)
			i += k - 1
			continue
		}
		if all[i].capital && n.hasWord(all[i]) {
			hide(all[i].from, all[i].upto)
		}
	}
	return gone
}

// folded is a word as names are folded; most need no more than small letters.
func folded(w string) string {
	for i := range len(w) {
		if c := w[i]; c >= utf8.RuneSelf || c == '\'' {
			return personname.Fold(w)
		}
	}
	return strings.ToLower(w)
}

// hasWord: a word of somebody's name, with or without what stands before family names
// (O'Daly), which leaves it longer than it is in the list.
func (n Names) hasWord(w word) bool {
	if n.words[w.folded] {
		return true
	}
	for known := range n.words {
		if strings.HasSuffix(w.folded, known) {
			return slices.Contains(personname.Parse(w.as).Words, known)
		}
	}
	return false
}

// wholeAt is how many words a whole name takes up at the beginning of some; 0 for none.
func (n Names) wholeAt(all []word) int {
	for _, name := range n.whole[all[0].folded] {
		if len(name) <= len(all) && slices.EqualFunc(name, all[:len(name)], func(w string,
			x word) bool {
			return w == x.folded
		}) {
			return len(name)
		}
	}
	return 0
}

// holds reports a link in which a name stands, written together or apart.
func (n Names) holds(address string) bool {
	plain := strings.ReplaceAll(personname.Fold(address), " ", "")
	for w := range n.words {
		if utf8.RuneCountInString(w) > leastLetters && strings.Contains(plain, w) {
			return true
		}
	}
	for _, list := range n.whole {
		for _, name := range list {
			if len(name) > 1 && strings.Contains(plain, strings.Join(name, "")) {
				return true
			}
		}
	}
	return false
}

// marked puts the mark where something is gone; what touches is one mark.
func marked(text string, gone [][2]int) string {
	if len(gone) == 0 {
		return text
	}
	slices.SortFunc(gone, func(a, b [2]int) int { return a[0] - b[0] })
	var out strings.Builder
	at := 0
	for _, g := range gone {
		if g[0] < at { // within what is gone already
			if g[1] > at {
				at = g[1]
			}
			continue
		}
		if between := text[at:g[0]]; out.Len() > 0 && strings.TrimSpace(between) == "" &&
			strings.HasSuffix(out.String(), Mark) {
			at = g[1] // first name, last name
			continue
		}
		out.WriteString(text[at:g[0]] + Mark)
		at = g[1]
	}
	out.WriteString(text[at:])
	return out.String()
}
