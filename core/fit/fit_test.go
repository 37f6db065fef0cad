package fit

import (
	"math"
	"slices"
	"testing"
)

var (
	peat = Side{Fields: []string{"peat"}, Keywords: []string{"bog", "dams"},
		Text: "Peat dams across the drains of a blanket bog."}
	shore = Side{Fields: []string{"shore"}, Keywords: []string{"reef"}, Text: "Oyster shells laid on the reef for spat."}
	bryn  = Side{Fields: []string{"peat", "grassland"}, Keywords: []string{"dams"},
		Text: "I have built dams on peat for thirty years."}
	sami = Side{Text: "A lay reader from another valley."}
	none = Side{}
)

func TestPartsOfAFit(t *testing.T) {
	r := New([]Side{peat, shore}, []Side{bryn, sami, none})
	good := r.Of(0, 0)
	if good.Field != 1 || good.Keywords != 0.5 || !slices.Equal(good.Both, []string{"dams"}) || good.Words != 1 ||
		!slices.Equal(good.Shared, []string{"dams", "peat"}) {
		t.Errorf("%+v", good)
	}
	want := (FieldWeight + KeywordWeight*0.5 + WordsWeight) / float64(FieldWeight+KeywordWeight+WordsWeight)
	if math.Abs(good.Score-want) > 1e-12 {
		t.Errorf("%v, want %v", good.Score, want)
	}
	if bad := r.Of(1, 0); bad.Field != 0 || bad.Keywords != 0 || bad.Words != 0 || bad.Score != 0 || bad.Shared != nil {
		t.Errorf("%+v", bad)
	}
	if words := r.Of(0, 1); words.Field != -1 || words.Keywords != -1 || words.Words != 0 || words.Score != 0 {
		t.Errorf("words alone: %+v", words)
	}
	if nothing := r.Of(0, 2); nothing.Score != Unknown || nothing.Words != -1 {
		t.Errorf("nothing is known: %+v", nothing)
	}
}

// Three texts by hand: n = 3; "alpha" is in two of them, "gamma" in two, "bravo" in
// one. Weights are (1 + ln tf) · ln((1 + n) / df).
func TestCosineByHand(t *testing.T) {
	r := New([]Side{{Text: "alpha alpha bravo"}}, []Side{{Text: "alpha gamma"}, {Text: "gamma"}})
	alpha, bravo, gamma := math.Log(4.0/2), math.Log(4.0/1), math.Log(4.0/2)
	a := (1 + math.Log(2)) * alpha
	want := a * alpha / (math.Hypot(a, bravo) * math.Hypot(alpha, gamma))
	if got := cosine(r.vc[0], r.vr[0]); math.Abs(got-want) > 1e-12 {
		t.Errorf("%v, want %v", got, want)
	}
	if got := cosine(r.vc[0], r.vr[1]); got != 0 {
		t.Errorf("nothing is shared: %v", got)
	}
}

func TestWords(t *testing.T) {
	if got, want := Words("Fáilte: the Reefs, grass and 12 bogs of Ó Dálaigh"),
		[]string{"failte", "reef", "grass", "bogs", "dalaigh"}; !slices.Equal(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
}
