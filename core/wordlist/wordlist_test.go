package wordlist_test

import (
	"strings"
	"testing"
	"unicode/utf8"

	"ulvant/core/wordlist"
)

func TestFind(t *testing.T) {
	for _, c := range []struct {
		says, text string
		list       []string
		want       string // what is found, near spellings with a ~
	}{
		{"as it stands", "I sew sails.", []string{"sails"}, "sails"},
		{"a plural of a singular", "two sails and a jib", []string{"sail"}, "sails"},
		{"another form of a verb", "I was sewing; she sewed.", []string{"sew"}, "sewing sewed"},
		{"in capitals, with accents", "the CAFÉ by the slip", []string{"cafe"}, "CAFÉ"},
		{"listed with accents", "the naive cafe", []string{"naïve"}, "naive"},
		{"accents as marks of their own", "Zoe\u0301’s boat", []string{"Zoé's"}, "Zoe\u0301’s"},
		{"a phrase", "in the sail lofts at Ness", []string{"sail loft"}, "sail lofts"},
		{"the longer of two", "in the sail loft", []string{"sail", "sail loft"}, "sail loft"},
		{"a slip of the pen", "I learnt lugsials at home", []string{"lugsails"}, "~lugsials"},
		{"a letter left out", "sailmakng for a year", []string{"sailmaking"}, "~sailmakng"},
		{"a word of six letters", "the sialor", []string{"sailor"}, "~sialor"},
		{"one of five is not guessed", "a mnast", []string{"masts"}, ""},
		{"two letters more are another word", "sailmakersman", []string{"sailmakers"}, ""},
		{"short words are not guessed", "a soil full of worms", []string{"sail"}, ""},
		{"nor another first letter", "tailors all", []string{"sailors"}, ""},
		{"a part of a word is none", "resailed, assail", []string{"sail"}, ""},
		{"a hyphen divides", "sail-making", []string{"sail"}, "sail"},
		{"the right spelling rather than a near one", "planking", []string{"planning", "planking"}, "planking"},
		{"nothing to look for", "sails", []string{" ", "—"}, ""},
		{"nothing to look in", "", []string{"sail"}, ""},
	} {
		t.Run(c.says, func(t *testing.T) {
			var got []string
			for _, f := range wordlist.New(c.list).In(c.text) {
				near := ""
				if f.Near {
					near = "~"
				}
				got = append(got, near+c.text[f.From:f.To])
			}
			if s := strings.Join(got, " "); s != c.want {
				t.Errorf("%q, not %q", s, c.want)
			}
		})
	}
}

func TestExcerpt(t *testing.T) {
	long := strings.Repeat("before ", 30) + "a lugsail and a jib " + strings.Repeat("after ", 30)
	for _, c := range []struct{ text, want string }{
		{"I sew sails and a sail cover.", "I sew [sails] and a [sail] cover."},
		{long, "…before before before before before before before before before before a [lugsail] and a jib after after after after after after after after after after…"},
		{"none", ""},
	} {
		var b strings.Builder
		for _, p := range wordlist.Excerpt(c.text, wordlist.New([]string{"sail", "lugsail"}).In(c.text)) {
			if p.Is {
				b.WriteString("[" + p.Text + "]")
			} else {
				b.WriteString(p.Text)
			}
		}
		if b.String() != c.want {
			t.Errorf("%q, not %q", b.String(), c.want)
		}
	}
}

func FuzzFind(f *testing.F) {
	f.Add("two sails, naïve café ’s", "sail’s café")
	f.Fuzz(func(t *testing.T, text, word string) {
		last := 0
		list := wordlist.New([]string{word})
		found := list.In(text)
		for _, x := range found {
			if x.From < last || x.To <= x.From || x.To > len(text) {
				t.Fatalf("%d to %d of %d", x.From, x.To, len(text))
			}
			last = x.To
		}
		if len(list.Words()) == 1 && utf8.ValidString(word) && len(list.In(word)) == 0 {
			t.Errorf("%q is not found in itself", word)
		}
		wordlist.Excerpt(text, found)
	})
}
