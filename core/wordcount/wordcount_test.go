package wordcount

import (
	"encoding/json"
	"os"
	"testing"
)

// Source: check-values.md, section 8: wc of coreutils 9.1, LibreOffice Writer
// 7.4.7.2, and runs holding a letter or number, on 45 texts.
func TestAgainstWordProcessors(t *testing.T) {
	b, err := os.ReadFile("../../../shared/check-fixtures/wordcount.json")
	if err != nil {
		t.Fatal(err)
	}
	var rows []struct {
		Name, Text string
		LN         int `json:"letters_or_digits_tokens"`
		Writer     int `json:"libreoffice"`
	}
	if err := json.Unmarshal(b, &rows); err != nil || len(rows) < 40 {
		t.Fatal(len(rows), err)
	}
	// Deleting these characters joins what the fixture's plain rule or Writer splits.
	joined := map[string]bool{"zero width space": true, "vertical tab": true, "line separator": true}
	// Written without blanks: Writer's count holds, less its stray signs.
	unparted := map[string]bool{"cjk zh": true, "cjk mixed": true, "japanese": true, "thai": true,
		"ideographic space": true}
	for _, r := range rows {
		if unparted[r.Name] {
			if got := Words(r.Text); got != r.Writer {
				t.Errorf("%s: %d words, a word processor shows %d", r.Name, got, r.Writer)
			}
			continue
		}
		got := Words(r.Text)
		if got != r.LN && !joined[r.Name] {
			t.Errorf("%s: %d words, fixture says %d", r.Name, got, r.LN)
		}
		if got > r.Writer && !joined[r.Name] {
			t.Errorf("%s: %d words, a word processor shows %d", r.Name, got, r.Writer)
		}
	}
}

func TestCharacters(t *testing.T) {
	if got := Characters("a\r\nb"); got != 3 {
		t.Errorf("a CRLF b: %d characters, want 3", got)
	}
}

// Counting never fails; a space between two texts joins no words, and more
// white space is no more words.
func FuzzWords(f *testing.F) {
	f.Add("Reed beds", "for the shore – 3.2 ha")
	f.Add("don’t  stop\u00a0now", "\t\r\n—")
	f.Add("芦苇床", "\xff\xfe")
	f.Fuzz(func(t *testing.T, a, b string) {
		n := Words(a)
		if n < 0 || n > len(a) {
			t.Errorf("%q has %d words", a, n)
		}
		if got := Words(a + " " + b); got != n+Words(b) {
			t.Errorf("%q and %q: %d words together, %d and %d apart", a, b, got, n, Words(b))
		}
		if got := Words(" \n" + a + "\t "); got != n {
			t.Errorf("%q: %d words, with white space about it %d", a, n, got)
		}
	})
}

// Signs that are not seen part no words, and what is written without spaces is
// counted by the sign, before and after other words.
func TestSignsThatAreNotSeen(t *testing.T) {
	for s, want := range map[string]int{"reed\u00ADbed": 1, "reed\u200Bbed": 1, "reed\u2060bed": 1, "\uFEFFreed": 1,
		"\u00AD": 0, "reed bed": 2, "reed-bed": 1, "reed日本bed": 4, "日": 1, "日 本": 2, "3日": 2, "日3": 2, "ÿ ÿ": 2, "“–”": 0} {
		if got := Words(s); got != want {
			t.Errorf("%q: %d, want %d", s, got, want)
		}
	}
}
