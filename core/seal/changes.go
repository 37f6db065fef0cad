package seal

import (
	"slices"
	"strconv"
	"strings"

	"ulvant/core/form"
)

// Change is what differs between two seals of one entry at a question.
type Change struct {
	Question   form.Key
	Gone, Come []File

	LettersWere, LettersAre string // who wrote or confirmed, a name on each line
}

// Changes lists the questions whose answers or files differ between a seal and
// a later one, in the order in which they are read.
func Changes(f *form.Form, was, is *Document) []Change {
	var out []Change
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			k := s.Questions[i].Key
			c := Change{Question: k}
			a, b := answersOf(was, k), answersOf(is, k)
			differ := len(a) != len(b)
			for at, x := range a {
				differ = differ || b[at] != x
			}
			c.Gone, c.Come = without(was.Files, is.Files, k), without(is.Files, was.Files, k)
			var same bool
			c.LettersWere, c.LettersAre, same = letters(was, is, k)
			if differ || len(c.Gone) > 0 || len(c.Come) > 0 || !same {
				out = append(out, c)
			}
		}
	}
	return out
}

// letters names those who wrote or confirmed at a question, and reports the
// same letters, word for word.
func letters(was, is *Document, k form.Key) (before, after string, same bool) {
	of := func(d *Document) (names string, marks []string) {
		for _, l := range d.Letters {
			if l.Question != k {
				continue
			}
			mark := strconv.FormatInt(l.Referee, 10) + l.Text
			if l.File != nil {
				mark += l.File.SHA256
			}
			names, marks = names+l.Name+"\n", append(marks, mark)
		}
		return strings.TrimSpace(names), marks
	}
	before, a := of(was)
	after, b := of(is)
	return before, after, slices.Equal(a, b)
}

func answersOf(d *Document, k form.Key) map[form.Place]form.Answer {
	out := map[form.Place]form.Answer{}
	for _, a := range d.Answers {
		if a.Question == k {
			out[a.Place] = form.Answer{Raw: a.Raw, Non: a.Non}
		}
	}
	return out
}

// without lists the files of a slot that are in a and not, byte for byte, in b.
func without(a, b []File, slot form.Key) (out []File) {
	for _, x := range a {
		found := x.Slot != slot
		for _, y := range b {
			found = found || y.Slot == slot && y.SHA256 == x.SHA256
		}
		if !found {
			out = append(out, x)
		}
	}
	return out
}
