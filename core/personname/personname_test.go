package personname_test

import (
	"math"
	"strings"
	"testing"
	"unicode"

	"ulvant/core/personname"
)

func TestFold(t *testing.T) {
	for in, want := range map[string]string{
		"Ó Dálaigh, D.": "o dalaigh d", "O’Daly": "odaly", "O'Daly": "odaly", "Anne-Marie": "anne marie",
		"Strauß": "strauss", "Sørensen": "sorensen", "Łukasz Þór": "lukasz thor", "  ": "", "J.  R. — Tolan": "j r tolan",
		"12 Pier Road": "12 pier road",
	} {
		if got := personname.Fold(in); got != want {
			t.Errorf("%q: %q, want %q", in, got, want)
		}
	}
}

// Names without what says nothing of who it is.
func TestParse(t *testing.T) {
	for in, want := range map[string]string{
		"Dr Donal O’Daly": "donal daly", "Ó Dálaigh, Domhnall": "domhnall dalaigh", "D. Ó Dálaigh": "d dalaigh",
		"Máire Nic Gabhann": "maire gabhann", "Ludwig van der Berg": "ludwig berg", "McArdle, Sean": "sean ardle",
		"O Dalaigh, D.": "d dalaigh",
		"Al Mac":        "al mac", "O. Henry Tolan": "o henry tolan",
		"Orla Stone": "orla stone", "Prof. Ada Mack": "ada mack",
	} {
		if got := strings.Join(personname.Parse(in).Words, " "); got != want {
			t.Errorf("%q: %q, want %q", in, got, want)
		}
	}
}

// The Jaro–Winkler values of check-values.md section 11 (go-edlib, R stringdist,
// jellyfish), as the library that is used here gives them.
func TestPublishedSimilarities(t *testing.T) {
	for pair, want := range map[string]float64{"MARTHA MARHTA": 0.961111, "DIXON DICKSONX": 0.813333, "DWAYNE DUANE": 0.84,
		"JELLYFISH SMELLYFISH": 0.896296, "CRATE TRACE": 0.733333, "JONES JOHNSON": 0.832381, "ABROMS ABRAMS": 0.922222,
		"SMITH SMYTH": 0.893333, "CATHERINE KATHERINE": 0.925926} {
		a, b, _ := strings.Cut(pair, " ")
		if got := personname.Similar(a, b); math.Abs(got-want) > 1e-5 {
			t.Errorf("%s: %.6f, want %.6f", pair, got, want)
		}
	}
}

// The Double Metaphone codes of check-values.md section 11 (matchr).
func TestPublishedSounds(t *testing.T) {
	for w, want := range map[string]string{"Smith": "SM0", "Schmidt": "XMT", "Smyth": "SM0", "Catherine": "K0RN",
		"Katherine": "K0RN", "Stephen": "STFN", "Steven": "STFN", "Thompson": "TMPS", "Xavier": "SF", "Washington": "AXNK",
		"Jackson": "JKSN"} {
		if got := personname.Sound(w); got != want {
			t.Errorf("%s: %s, want %s", w, got, want)
		}
	}
}

func TestCompare(t *testing.T) {
	for _, c := range []struct {
		a, b string
		want personname.Near
	}{
		{"daly", "daly", personname.Equal}, {"d", "donal", personname.Initial}, {"donal", "d", personname.Initial},
		{"d", "moya", personname.Differs}, {"d", "d", personname.Equal}, {"catherine", "katherine", personname.Misspells},
		{"dalaigh", "daly", personname.Sounds}, {"stephen", "steven", personname.Sounds},
		{"abroms", "abrams", personname.Misspells},
		{"moss", "petrel", personname.Differs}, {"jones", "johnson", personname.Differs}, {"lee", "low", personname.Differs},
		{"ada", "ida", personname.Differs},
	} {
		if got := personname.Compare(c.a, c.b); got != c.want {
			t.Errorf("%s, %s: %v, want %v (%.3f %s %s)", c.a, c.b, got, c.want, personname.Similar(c.a, c.b),
				personname.Sound(c.a), personname.Sound(c.b))
		}
	}
}

func FuzzFold(f *testing.F) {
	for _, s := range []string{"Ó Dálaigh", "İstanbul", "ǅ", "a\u0301\u0301", "\xff"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		once := personname.Fold(s)
		if twice := personname.Fold(once); twice != once {
			t.Errorf("%q folds to %q and that to %q", s, once, twice)
		}
		for _, r := range once {
			if r != ' ' && !unicode.IsLetter(r) && !unicode.IsDigit(r) {
				t.Errorf("%q holds %q", once, r)
			}
		}
	})
}
