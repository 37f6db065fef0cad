package phrase

import "testing"

func TestPhrases(t *testing.T) {
	for _, c := range []struct{ name, got, want string }{
		{"one", Count(1, "word", "words"), "1 word"},
		{"none", Count(0, "word", "words"), "0 words"},
		{"several", Count(208, "word", "words"), "208 words"},
		{"bytes", Bytes(1023), "1023 bytes"},
		{"one byte", Bytes(1), "1 byte"},
		{"just over a kB counts as two", Bytes(1025), "2 kB"},
		{"the last that is written in kB", Bytes(1<<20 - 1<<10), "1023 kB"},
		{"the first in MB", Bytes(1<<20 - 1<<10 + 1), "1 MB"},
		{"a GB and a half", Bytes(3 << 29), "1.5 GB"},
		{"seconds", Seconds(59), "59 s"},
		{"a whole minute", Seconds(60), "1 min"},
		{"minutes and seconds", Seconds(150), "2 min 30 s"},
		{"no list", List(nil), ""},
		{"a list of one", List([]string{"a"}), "a"},
		{"a list of two", List([]string{"a", "b"}), "a and b"},
		{"a list of three", List([]string{"a", "b", "c"}), "a, b and c"},
		{"a", WithArticle("letter"), "a letter"},
		{"an", WithArticle("answer"), "an answer"},
		{"a large letter past a quotation mark", Initial("“until noon”"), "“Until noon”"},
		{"a small one", LowerInitial("Éclair"), "éclair"},
	} {
		t.Run(c.name, func(t *testing.T) {
			if c.got != c.want {
				t.Errorf("%q, want %q", c.got, c.want)
			}
		})
	}
}
