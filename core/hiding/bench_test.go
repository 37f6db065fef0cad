package hiding

import (
	"strings"
	"testing"
)

// A text of 100,000 characters, as a ratio to looking for a name in it once.
func BenchmarkIn(b *testing.B) {
	n := Of([]Person{{Name: "Imre Calloway"}, {Name: "Dónal Ó Dálaigh"}, {Name: "Corvoe Crofters’ Common", Body: true}})
	text := strings.Repeat("The reed beds of Corvoe are mown by Imre and others every autumn. ", 1500)
	b.Run("hiding", func(b *testing.B) {
		for b.Loop() {
			n.In(text)
		}
	})
	b.Run("looking", func(b *testing.B) {
		for b.Loop() {
			strings.Count(text, "Calloway")
		}
	})
	b.Run("without-spaces", func(b *testing.B) {
		long := strings.Repeat("a.b-c@", 16000)
		for b.Loop() {
			n.In(long)
		}
	})
}
