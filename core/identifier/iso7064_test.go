package identifier

import "testing"

// Source: check-values.md, section 5: GRid's printed example, python-stdnum
// 1.18, and the worked examples printed in ISO 7064 (0794).
func TestCheckCharacters(t *testing.T) {
	for _, c := range []struct {
		system string
		f      func(string) (byte, error)
		in     string
		want   byte
	}{
		{"MOD 37,36", Mod37_36, "A12425GABC1234002", 'M'}, {"MOD 37,36", Mod37_36, "FD202600042", 'S'},
		{"MOD 37,36", Mod37_36, "APP20260001", 'M'}, {"MOD 37,36", Mod37_36, "00000001", 'W'},
		{"MOD 37,36", Mod37_36, "ZZZ999", 'D'},
		{"MOD 11,10", Mod11_10, "0794", '5'}, {"MOD 11,10", Mod11_10, "079", '2'},
	} {
		if got, err := c.f(c.in); err != nil || got != c.want {
			t.Errorf("%s of %s = %c %v, want %c", c.system, c.in, got, err, c.want)
		}
	}
}

// Source: ISO 7064's promise that MOD 37,36 finds every single substitution.
func TestRefFindsEverySlip(t *testing.T) {
	ref := Ref("SPR", 417)
	if got, ok := ParseRef(" spr 0417" + ref[len(ref)-1:]); !ok || got != ref {
		t.Fatalf("%s does not read back: %s %v", ref, got, ok)
	}
	for i := range ref {
		if ref[i] == '-' {
			continue
		}
		for _, c := range alphanumeric {
			if byte(c) == ref[i] {
				continue
			}
			if got, ok := ParseRef(ref[:i] + string(c) + ref[i+1:]); ok && got != ref {
				t.Errorf("%c for place %d of %s went unnoticed as %s", c, i, ref, got)
			}
		}
	}
}

func FuzzParseRef(f *testing.F) {
	f.Add("SPR-0417-K")
	f.Fuzz(func(t *testing.T, s string) {
		if ref, ok := ParseRef(s); ok {
			if again, ok := ParseRef(ref); !ok || again != ref {
				t.Errorf("%q gave %q, which reads as %q", s, ref, again)
			}
		}
	})
}
