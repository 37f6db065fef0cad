package onetime_test

import (
	"testing"
	"time"

	"ulvant/core/onetime"
)

// Source: RFC 6238, Appendix B, the vectors for SHA-1 (from memory); six
// digits are the last six of its eight.
func TestTheVectorsOfRFC6238(t *testing.T) {
	secret := []byte("12345678901234567890")
	for _, v := range []struct {
		at   int64
		code string
	}{{59, "287082"}, {1111111109, "081804"}, {1111111111, "050471"}, {1234567890, "005924"},
		{2000000000, "279037"}, {20000000000, "353130"}} {
		t.Run(v.code, func(t *testing.T) {
			of := v.at / onetime.Period
			for _, c := range []struct {
				name string
				off  int64 // seconds
				last int64
				code string
				ok   bool
			}{
				{"at its time", 0, 0, v.code, true},
				{"a step early", -30, 0, v.code, true},
				{"a step late", 30, 0, v.code, true},
				{"three steps early", -90, 0, v.code, false},
				{"two steps late", 60, 0, v.code, false},
				{"after the step before it", 0, of - 1, v.code, true},
				{"a second time", 0, of, v.code, false},
				{"typed in two parts", 0, 0, " " + v.code[:3] + " " + v.code[3:], true},
				{"of one sign less", 0, 0, v.code[:5], false},
			} {
				step, ok := onetime.Step(secret, c.code, time.Unix(v.at+c.off, 0), c.last)
				if ok != c.ok || ok && step != of {
					t.Errorf("%s: step %d, %t", c.name, step, ok)
				}
			}
		})
	}
	if _, ok := onetime.Step([]byte("another secret of ours"), "287082", time.Unix(59, 0), 0); ok {
		t.Error("a code of another secret is taken")
	}
}
