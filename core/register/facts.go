package register

import (
	"encoding/json"
	"math/big"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/say"
)

// mostWords of an answer in words are known to the register, in runes; the rest
// is read where the case is read.
const mostWords = 160

// FactAwards is the fact that lists the awards a case applies for, by their keys.
const FactAwards = "awards"

// FactGift is under which name it is known how much of a gift is asked, in its units.
func FactGift(gift form.Key) string { return giftMark + string(gift) }

// giftMark begins the names of gifts.
const giftMark = "g."

// FactOf is under which name the answer to a question is known.
func FactOf(question form.Key) string { return answerMark + string(question) }

// placesKept of a number that is no decimal fraction.
const placesKept = 4

// Facts are what is known of a case that was sent: of each column with an answer
// its value as JSON. A number is a number, a choice the key of what was chosen,
// some of several a list of keys, a date 2026-05-14, and anything else its words.
// A non-answer is an object with the word for it. Columns of which nothing is
// known are left out.
func Facts(f *form.Form, filled *form.Filled, path *form.Path) map[string]any {
	out := map[string]any{}
	states := map[form.Key]*form.QuestionState{}
	for i := range path.Questions {
		states[path.Questions[i].Key] = &path.Questions[i]
	}
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			q := &s.Questions[i]
			c, ok := ofQuestion(f, q)
			st := states[q.Key]
			if !ok || st == nil || st.Asked != condition.Yes {
				continue
			}
			if v := fact(f, q, c.Type, filled, st); v != nil {
				out[c.Key] = v
			}
			if t := st.Totals; t != nil && t.Cost > 0 {
				out[matchMark+string(q.Key)] = Plain(Share, condition.Number{Num: t.Match, Den: t.Cost})
			}
		}
	}
	for k, n := range f.GiftsAsked(path) {
		out[FactGift(k)] = json.Number(strconv.FormatInt(n, 10))
	}
	var awards []string
	for i, a := range f.Design.Awards {
		if path.Awards[i] != condition.No && f.AppliedFor(path, string(a.Key)) {
			awards = append(awards, string(a.Key))
		}
	}
	if awards != nil {
		out[FactAwards] = awards
	}
	for i := range f.Design.Figures {
		x := &f.Design.Figures[i]
		if cell := path.Figures[i]; cell.Presence == condition.Given {
			t, _ := figureType(f, x)
			if v := plain(t, cell.Value); v != nil {
				out[figureMark+string(x.Key)] = v
			}
		}
	}
	return out
}

// fact is the value of one answer; nil when there is none.
func fact(f *form.Form, q *form.Question, t Type, filled *form.Filled, st *form.QuestionState) any {
	switch {
	case st.Presence == condition.Declared:
		return map[string]string{"non": string(st.Non)}
	case q.Keeps() == form.InRows:
		if len(st.Rows) == 0 {
			return nil
		}
		return len(st.Rows)
	case q.Keeps() == form.AsFiles:
		if n := len(filled.Files[q.Key]); n > 0 {
			return n
		}
		return nil
	case t == Words:
		words := []rune(strings.Join(strings.Fields(say.Answer(f, q, filled, st)), " "))
		if len(words) == 0 {
			return nil
		}
		if len(words) > mostWords {
			words = append(words[:mostWords-1], '…')
		}
		return string(words)
	case st.Presence != condition.Given:
		return nil
	case st.Totals != nil && t == Money:
		return json.Number(strconv.FormatInt(st.Totals.Cost, 10))
	}
	return plain(t, st.Value)
}

// plain is a value as it is kept; nil for one that is not of the type.
func plain(t Type, v condition.Value) any {
	switch {
	case t == Several:
		return slices.Clone(v.List)
	case t == Day && !v.Date.IsZero():
		return v.Date.String()
	case t.Counts() && v.Number != nil:
		return Plain(t, *v.Number)
	case v.Yes != nil:
		return map[bool]string{true: "yes", false: "no"}[*v.Yes]
	case t == Choice && v.Text != "":
		return v.Text
	}
	return nil
}

// Plain is a number in plain digits: shares in parts of a hundred, and what is no
// decimal fraction rounded half away from zero to four places.
func Plain(t Type, n condition.Number) json.Number {
	den := n.Den
	if den == 0 {
		den = 1
	}
	r := big.NewRat(n.Num, den)
	if t == Share {
		r.Mul(r, big.NewRat(100, 1))
	}
	text := r.FloatString(placesKept)
	if strings.Contains(text, ".") {
		text = strings.TrimSuffix(strings.TrimRight(text, "0"), ".")
	}
	return json.Number(text)
}

// Bodies are the reviewing bodies that a case which was sent is for.
func Bodies(f *form.Form, path *form.Path) []string {
	out := []string{}
	for i, b := range f.Design.Bodies {
		if path.Bodies[i] == condition.Yes {
			out = append(out, string(b.Key))
		}
	}
	return out
}
