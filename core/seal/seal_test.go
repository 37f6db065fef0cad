package seal_test

import (
	"crypto/ed25519"
	"crypto/sha256"
	"testing"
	"time"

	"ulvant/core/form"
	"ulvant/core/seal"
)

// Source: RFC 8785, section 3.2.3: members in the order of their names, no
// white space; RFC 8032 for the signature: any change of a byte shows.
func TestSealIsCanonicalAndSigned(t *testing.T) {
	d := seal.Document{Ref: "SPR-0001-X", Title: "Reed & <bed>", At: time.Date(2027, 4, 9, 15, 0, 0, 0, time.UTC),
		Answers: []seal.Answer{{Place: form.Place{Question: "site"}, Raw: "é🎉"}}}
	raw, sum, err := d.Canonical()
	if err != nil {
		t.Fatal(err)
	}
	const want = `{"answers":[{"question":"site","value":"é🎉"}],"at":"2027-04-09T15:00:00Z","by":"","design":0,"files":null,"letters":null,"ref":"SPR-0001-X","round":"","stage":"","title":"Reed & <bed>"}`
	if string(raw) != want || sum != sha256.Sum256(raw) {
		t.Errorf("%s\n%s", raw, want)
	}
	key := ed25519.NewKeyFromSeed(make([]byte, 32))
	signature := seal.Sign(key, sum)
	public := key.Public().(ed25519.PublicKey)
	if !seal.Verify(public, raw, signature) {
		t.Error("the signature does not hold")
	}
	for i := range raw {
		other := append([]byte{}, raw...)
		other[i] ^= 1
		if seal.Verify(public, other, signature) {
			t.Fatalf("byte %d changed, and the signature still holds", i)
		}
	}
}
