package form

import (
	"strings"
	"testing"
)

// Every kind says all that the places which ask kinds will ask it. A member
// left nil where that is not allowed is a behaviour that somebody forgot.
func TestEveryKindHasEveryBehaviour(t *testing.T) {
	for _, info := range Kinds() {
		k := kinds[info.Kind]
		t.Run(string(k.key), func(t *testing.T) {
			must := func(behaviour string, has bool) {
				if !has {
					t.Errorf("no %s", behaviour)
				}
			}
			must("meaning", k.means != "" && k.means != string(k.key))
			must("minutes", k.tenths != nil)
			_, known := map[Keeping]bool{InText: true, InPieces: true, InRows: true, InLines: true, AsFiles: true,
				AsPeople: true}[k.keeps]
			must("way of keeping", known)
			must("values, though conditions read it", !k.comparable || k.values != nil)
			must("place that sets its limits, though it has bounds", k.bounds == nil || len(k.limits) > 0)
			must("saying of what must be got ready", k.ready != nil || k.keeps != AsFiles && k.keeps != AsPeople &&
				k.keeps != InLines)
			written := k.keeps != AsFiles && k.keeps != AsPeople
			must("drawing", k.control != nil || !written)
			switch k.keeps {
			case InText:
				must("reading", k.read != nil)
				must("example", k.example != nil)
				must("saying how it is written", k.how != nil || k.typ == 0 && !k.normal)
			case InPieces:
				must("pieces", k.parts != nil)
				must("completion", k.complete != nil)
				must("words", k.words != nil)
			case InRows:
				must("columns", k.columns != nil)
				must("completion", k.complete != nil)
				must("words", k.words != nil)
			case InLines:
				must("cells", k.cells != nil)
				must("completion", k.complete != nil)
				must("words", k.words != nil)
			default:
				must("check", k.check != nil)
				must("beginning anew", k.anew)
			}
			if k.keeps != InText {
				must("reading of text, which it is not kept in", k.read == nil)
			}
			if strings.HasSuffix(k.means, ".") {
				t.Error("what it means is a phrase, not a sentence")
			}
		})
	}
}
