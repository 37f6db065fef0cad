package form

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/phrase"
	"ulvant/core/wordcount"
)

// What kinds kept as text have in common.

// ExampleLead is the name of every made-up applicant.
const ExampleLead = "Wenna Astley"

func takes(tenths int) func(*Question, Limits) int {
	return func(*Question, Limits) int { return tenths }
}

func says(text string) func(*Question) string { return func(*Question) string { return text } }

func always(*Question) bool { return true }

func exampleText(text string) func(*Form, *Question, Limits) string {
	return func(*Form, *Question, Limits) string { return text }
}

func drawn(as control.As) func(*Form, *Question, *Filled, string) Control {
	return func(*Form, *Question, *Filled, string) Control { return Control{As: as} }
}

// anyText are the values of a kind whose texts conditions tell apart by name.
func anyText(*Form, *Question) Values { return Values{Of: Texts} }

func readText(_ *Form, _ *Question, raw string) (condition.Value, bool) {
	return condition.Value{Text: strings.TrimSpace(raw)}, true
}

// asRead writes the form that an answer was brought to.
func asRead(_ *Form, _ *Question, _ *Filled, s *QuestionState) string { return s.Value.Text }

// keptAs says the one form of what was typed otherwise.
func keptAs(_ *Form, _ *Question, _ *Filled, s *QuestionState) string {
	if s.Value.Text != strings.TrimSpace(s.Raw) && s.Value.Text != "" {
		return "Kept as " + s.Value.Text
	}
	return ""
}

func checkText(w *walk, _ *question, s *QuestionState) {
	s.Words = wordcount.Words(s.Raw)
	if l := s.Limits.Words; l > 0 && s.Words > l {
		w.obstacle(s, Obstacle{Code: CodeTooLong, Have: int64(s.Words), Limit: int64(l)})
	}
	if l := s.Limits.LeastWords; s.Words < l {
		w.obstacle(s, Obstacle{Code: CodeTooShort, Have: int64(s.Words), Limit: int64(l)})
	}
	if n, l := wordcount.Characters(s.Raw), s.Limits.Characters; l > 0 && n > l {
		w.obstacle(s, Obstacle{Code: CodeTooManyChars, Have: int64(n), Limit: int64(l)})
	}
}

// wordsFit: n words take at least 2n−1 characters.
func wordsFit(_ *Form, _ *Question, l Limits) bool {
	return l.Characters == 0 || l.LeastWords == 0 || 2*l.LeastWords-1 <= l.Characters
}

// wordsEnough are as many words as are wanted, within the characters taken.
func wordsEnough(_ *Form, _ *Question, l Limits) string {
	const short = "as an example"
	if l.LeastWords <= 1 && (l.Words == 0 || l.Words >= 3) && (l.Characters == 0 || l.Characters >= len(short)) {
		return short
	}
	text := strings.TrimSpace(strings.Repeat("word ", max(l.LeastWords, 1)))
	if l.Characters > 0 {
		text = text[:min(len(text), l.Characters)]
	}
	return text
}

func upToWords(n int) string { return "up to " + phrase.Count(int64(n), "word", "words") }
