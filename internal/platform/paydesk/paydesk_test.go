package paydesk

import (
	"bytes"
	"crypto/md5"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"hash"
	"strings"
	"testing"
	"time"
)

// The keyed hash by the test cases of RFC 2104 (appendix, with MD5) and RFC 4231
// (sections 4.2 to 4.4 and 4.7, with SHA-256). The values are from memory.
func TestKeyedHash(t *testing.T) {
	for _, c := range []struct {
		h         func() hash.Hash
		key, data string
		want      string
	}{
		{md5.New, strings.Repeat("\x0b", 16), "Hi There", "9294727a3638bb1c13f48ef8158bfc9d"},
		{md5.New, "Jefe", "what do ya want for nothing?", "750c783e6ab0b503eaa86e310a5db738"},
		{md5.New, strings.Repeat("\xaa", 16), strings.Repeat("\xdd", 50), "56be34521d144c88dbb8c733f0e8b3f6"},
		{sha256.New, strings.Repeat("\x0b", 20), "Hi There",
			"b0344c61d8db38535ca8afceaf0bf12b881dc200c9833da726e9376c2e32cff7"},
		{sha256.New, "Jefe", "what do ya want for nothing?",
			"5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843"},
		{sha256.New, strings.Repeat("\xaa", 20), strings.Repeat("\xdd", 50),
			"773ea91e36800e46854db8ebd09181a72959098b3ef8c122d9635514ced565fe"},
		{sha256.New, strings.Repeat("\xaa", 131), "Test Using Larger Than Block-Size Key - Hash Key First",
			"60e431591ee0b67f0d8a26aacbf5b77f8e0bc6213728c5140546040f0ee37f54"},
	} {
		if got := hex.EncodeToString(keyed(c.h, []byte(c.key), []byte(c.data))); got != c.want {
			t.Errorf("%q: %s, want %s", c.data, got, c.want)
		}
	}
}

// A notice is read when the desk signed it a short while ago, and by nobody else.
func TestNotices(t *testing.T) {
	secret, now := []byte("between us"), time.Date(2027, 3, 28, 15, 0, 0, 0, time.UTC)
	body, _ := json.Marshal(Notice{ID: "n1", Checkout: Checkout{ID: "c1", Amount: 9000}})
	at := now.Format(time.RFC3339Nano)
	good := MAC(secret, at, body)
	other := now.Add(time.Second).Format(time.RFC3339Nano)
	for name, c := range map[string]struct {
		secret []byte
		at     string
		mac    string
		body   []byte
		now    time.Time
		ok     bool
	}{
		"as signed":                {secret, at, good, body, now, true},
		"at the end of its time":   {secret, at, good, body, now.Add(Fresh), true},
		"after it":                 {secret, at, good, body, now.Add(Fresh + 1), false},
		"from a clock far ahead":   {secret, at, good, body, now.Add(-Fresh - 1), false},
		"under another key":        {[]byte("x"), at, good, body, now, false},
		"without a key":            {nil, at, MAC(nil, at, body), body, now, false},
		"with another time":        {secret, other, good, body, now, false},
		"with another body":        {secret, at, good, bytes.Replace(body, []byte("9000"), []byte("9001"), 1), now, false},
		"about nothing":            {secret, at, MAC(secret, at, []byte(`{"id":"n1"}`)), []byte(`{"id":"n1"}`), now, false},
		"with a time that is none": {secret, "now", MAC(secret, "now", body), body, now, false},
	} {
		n, err := Read(c.secret, c.at, c.mac, c.body, c.now)
		if (err == nil) != c.ok || c.ok && n.Checkout.Amount != 9000 {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// A statement goes out and comes back as it was, in currencies with no, two and
// three decimals (ISO 4217: JPY 0, EUR 2, BHD 3); what is no statement is said
// with its line.
func TestStatement(t *testing.T) {
	at := time.Date(2027, 3, 28, 15, 0, 0, 0, time.UTC)
	lines := []Line{
		{at, "payment", "p1", "c1", "FDC-1", 9000, "EUR"},
		{at, "refund", "r1", "c1", "FDC-1", -1050, "EUR"},
		{at, "payment", "p2", "c2", "FDC-2", 9000, "JPY"},
		{at, "payment", "p3", "c3", "FDC-3", 9050, "BHD"},
	}
	var out bytes.Buffer
	if err := WriteStatement(&out, lines); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{",90.00,EUR", ",-10.50,EUR", ",9000,JPY", ",9.050,BHD"} {
		if !strings.Contains(out.String(), want) {
			t.Errorf("%s is missing in\n%s", want, out.String())
		}
	}
	back, err := ReadStatement(&out)
	if err != nil || len(back) != len(lines) {
		t.Fatalf("%v %v", back, err)
	}
	for i := range back {
		if back[i] != lines[i] {
			t.Errorf("%+v, want %+v", back[i], lines[i])
		}
	}
	head := strings.Join(Columns, ",") + "\n"
	for text, want := range map[string]string{"": "no first line", "time,kind\n": `no column "number"`,
		head + "2027-03-28T15:00:00Z,payment,p1,c1,F,-9,EUR\n": "line 2", head +
			"2027-03-28T15:00:00Z,refund,p1,c1,F,9,EUR\n": "line 2",
		head + "yesterday,payment,p1,c1,F,9,EUR\n": "line 2", head + "2027-03-28T15:00:00Z,payment,p1,c1,F,9,XXQ\n": "line 2",
		head + "2027-03-28T15:00:00Z,payment,p1,c1,F,9,EUR\na,b\n": "line 3"} {
		if _, err := ReadStatement(strings.NewReader(text)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", text, err, want)
		}
	}
	if back, err := ReadStatement(strings.NewReader("\ufeff" + head)); err != nil || len(back) != 0 {
		t.Errorf("an empty one: %v %v", back, err)
	}
}
