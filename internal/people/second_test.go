package people

import (
	"errors"
	"testing"
	"time"

	"ulvant/internal/platform/link"
)

// Source: RFC 6238, Appendix B, the vectors for SHA-1 (from memory); six
// digits are the last six of its eight.
func TestTheVectorsOfRFC6238(t *testing.T) {
	s := &Store{Links: link.Maker{Key: []byte("a key of the test")}}
	sealed, err := s.seal([]byte("12345678901234567890"))
	if err != nil {
		t.Fatal(err)
	}
	for _, v := range []struct {
		at   int64
		code string
	}{{59, "287082"}, {1111111109, "081804"}, {1111111111, "050471"}, {1234567890, "005924"}, {2000000000,
		"279037"}, {20000000000, "353130"}} {
		a := Account{SecondSecret: sealed}
		for _, off := range []int64{0, -30, 30} { // a clock may be a step off
			if step, err := s.stepOf(a, v.code, time.Unix(v.at+off, 0)); err != nil || step != v.at/30 {
				t.Errorf("%s at %d, %d s off: step %d, %v", v.code, v.at, off, step, err)
			}
		}
		for _, off := range []int64{-90, 90} {
			if _, err := s.stepOf(a, v.code, time.Unix(v.at+off, 0)); !errors.Is(err, ErrCode) {
				t.Errorf("%s at %d, %d s off: %v", v.code, v.at, off, err)
			}
		}
		a.SecondStep = v.at / 30
		if _, err := s.stepOf(a, v.code, time.Unix(v.at, 0)); !errors.Is(err, ErrCode) {
			t.Errorf("%s a second time: %v", v.code, err)
		}
		if _, err := s.stepOf(Account{SecondSecret: sealed}, " "+v.code[:3]+" "+v.code[3:], time.Unix(v.at, 0)); err != nil {
			t.Errorf("%s typed in two parts: %v", v.code, err)
		}
	}
	other := &Store{Links: link.Maker{Key: []byte("another key")}}
	if _, err := other.stepOf(Account{SecondSecret: sealed}, "287082", time.Unix(59, 0)); err == nil ||
		errors.Is(err, ErrCode) {
		t.Errorf("a secret under another key: %v", err)
	}
}
