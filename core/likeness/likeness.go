// Package likeness finds texts that share passages: the same proposal sent twice,
// one taken up from earlier years, answers copied between applicants.
//
// A text is folded to words; every run of five of them is a shingle (A. Z. Broder,
// "On the resemblance and containment of documents", 1997), and two texts are as
// alike as the shingles they share (Jaccard) or as much of the shorter stands in
// the other (containment). To find a text among many, only some of its shingles
// are kept, chosen so that whatever two texts share of at least Sure words is found
// by at least one of them: winnowing (S. Schleimer, D. Wilkerson, A. Aiken, SIGMOD
// 2003).
package likeness

import (
	"hash/fnv"
	"slices"
	"unicode"
	"unicode/utf8"

	"ulvant/core/personname"
)

const (
	// Run is how many words make a shingle.
	Run = 5
	// window is of how many shingles one at least is kept.
	window = 8
	// Sure is how many shared words running are found for certain.
	Sure = Run + window - 1
)

// word of a text, folded, and where it stands in it, in bytes.
type word struct {
	text     string
	from, to int
}

func wordsOf(s string) (out []word) {
	start := -1
	put := func(end int) {
		if start >= 0 {
			if w := personname.Fold(s[start:end]); w != "" {
				out = append(out, word{w, start, end})
			}
			start = -1
		}
	}
	for i, r := range s {
		inWord := unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.Is(unicode.Mn, r) || r == '\'' || r == '’'
		switch {
		case inWord && start < 0:
			start = i
		case !inWord:
			put(i)
		}
	}
	put(len(s))
	return out
}

func hash(run []word) uint64 {
	h := fnv.New64a()
	for _, w := range run {
		h.Write([]byte(w.text))
		h.Write([]byte{0})
	}
	return h.Sum64()
}

func shingles(w []word) []uint64 {
	if len(w) < Run {
		return nil
	}
	out := make([]uint64, 0, len(w)-Run+1)
	for i := range len(w) - Run + 1 {
		out = append(out, hash(w[i:i+Run]))
	}
	return out
}

// Words counts the words of a text.
func Words(s string) int { return len(wordsOf(s)) }

// Compare two texts: Jaccard is what they share of all they have, Contained what
// of the one with fewer shingles stands in the other; both 0 to 1, and 0 where a
// text has fewer than Run words.
func Compare(a, b string) (jaccard, contained float64) {
	x, y := set(shingles(wordsOf(a))), set(shingles(wordsOf(b)))
	if len(x) == 0 || len(y) == 0 {
		return 0, 0
	}
	both := 0
	for h := range x {
		if y[h] {
			both++
		}
	}
	return float64(both) / float64(len(x)+len(y)-both), float64(both) / float64(min(len(x), len(y)))
}

func set(list []uint64) map[uint64]bool {
	out := make(map[uint64]bool, len(list))
	for _, h := range list {
		out[h] = true
	}
	return out
}

// Marks are the shingles of a text that are kept to find it by, each once, in
// ascending order: of every window the least, of several the last.
func Marks(s string) []int64 {
	list := shingles(wordsOf(s))
	var out []int64
	if len(list) == 0 {
		return nil
	}
	last := -1
	for i := range max(1, len(list)-window+1) {
		least := i
		for j := i; j < min(i+window, len(list)); j++ {
			if list[j] <= list[least] {
				least = j
			}
		}
		if least != last {
			out, last = append(out, int64(list[least])), least
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// Span is a stretch of a text, in bytes.
type Span struct{ From, To int }

// Passage is a run of words that two texts share.
type Passage struct {
	A, B  Span
	Words int
}

// Passages that two texts share, of at least so many words, the longest first; no
// word of either stands in two of them. Where they share a passage twice, the
// first place is taken.
func Passages(a, b string, least int) (out []Passage) {
	least = max(least, Run)
	x, y := wordsOf(a), wordsOf(b)
	where := map[uint64][]int{}
	for i, h := range shingles(y) {
		where[h] = append(where[h], i)
	}
	const most = 64 // places of one shingle that are tried
	var found []Passage
	var starts [][2]int
	sx := shingles(x)
	for i := 0; i < len(sx); i++ {
		for n, j := range where[sx[i]] {
			if n >= most || i > 0 && j > 0 && x[i-1].text == y[j-1].text { // it has begun before
				continue
			}
			k := 0
			for i+k < len(x) && j+k < len(y) && x[i+k].text == y[j+k].text {
				k++
			}
			if k >= least {
				found = append(found, Passage{Words: k})
				starts = append(starts, [2]int{i, j})
			}
		}
	}
	order := make([]int, len(found))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(p, q int) int { return found[q].Words - found[p].Words })
	usedX, usedY := make([]bool, len(x)), make([]bool, len(y))
	for _, n := range order {
		i, j, k := starts[n][0], starts[n][1], found[n].Words
		for k >= least && (usedX[i] || usedY[j]) { // what a longer one has taken is left to it
			i, j, k = i+1, j+1, k-1
		}
		for k >= least && (usedX[i+k-1] || usedY[j+k-1]) {
			k--
		}
		if k < least || slices.Contains(usedX[i:i+k], true) || slices.Contains(usedY[j:j+k], true) {
			continue
		}
		for m := range k {
			usedX[i+m], usedY[j+m] = true, true
		}
		out = append(out, Passage{Span{x[i].from, x[i+k-1].to}, Span{y[j].from, y[j+k-1].to}, k})
	}
	slices.SortStableFunc(out, func(p, q Passage) int { return q.Words - p.Words })
	return out
}

// Piece of a text, shared or not.
type Piece struct {
	Text   string
	Shared int // which passage, from 1; 0 for none
}

// Cut a text at its passages; side is 0 for their A, 1 for their B.
func Cut(s string, list []Passage, side int) (out []Piece) {
	type at struct {
		Span
		n int
	}
	var spans []at
	for i, p := range list {
		spans = append(spans, at{[]Span{p.A, p.B}[side], i + 1})
	}
	slices.SortFunc(spans, func(a, b at) int { return a.From - b.From })
	from := 0
	for _, x := range spans {
		if x.From > from {
			out = append(out, Piece{s[from:x.From], 0})
		}
		out = append(out, Piece{s[x.From:x.To], x.n})
		from = x.To
	}
	if from < len(s) {
		out = append(out, Piece{s[from:], 0})
	}
	return out
}

// Enough reports that two texts share so much that somebody should look: a third
// of the shorter and a sentence or two of it, or a hundred words. Common practice,
// no source; the numbers are ours.
func Enough(contained float64, shared int) bool {
	return contained >= 1.0/3 && shared >= 25 || shared >= 100
}

// Short reports a text too short to say anything: short answers agree by chance.
func Short(s string) bool { return utf8.RuneCountInString(s) < 120 || Words(s) < 3*Run }
