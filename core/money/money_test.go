package money

import (
	"math/big"
	"math/rand/v2"
	"testing"
)

// Common practice, no source.
func TestParseAndFormat(t *testing.T) {
	for _, c := range []struct {
		typed string
		want  int64
		shown string
	}{
		{"64000", 6400000, "€64,000"}, {"64,000", 6400000, "€64,000"}, {"64 000.50", 6400050, "€64,000.50"},
		{"€1.234,56", 123456, "€1,234.56"}, {"1.234", 123400, "€1,234"}, {"0.07", 7, "€0.07"}, {"-5", -500, "−€5"},
		{"12,5", 1250, "€12.50"}, {"EUR 20", 2000, "€20"}, {"1 234 567", 123456700, "€1,234,567"},
		{".50", 50, "€0.50"}, {"12.", 1200, "€12"}, {"1,234.", 123400, "€1,234"}, {"-.5", -50, "−€0.50"},
	} {
		got, ok := Parse(c.typed, "EUR")
		if !ok || got != c.want || Format(got, "EUR") != c.shown {
			t.Errorf("%q: %d %v %q, want %d %q", c.typed, got, ok, Format(got, "EUR"), c.want, c.shown)
		}
	}
	for _, s := range []string{"", "about 20", "12.345.6", "1,23,456", "1e9", ".", "0.001", "0.500", "000,500", "1..",
		"99999999999999999", "1 2", "+5", "0x10"} {
		if got, ok := Parse(s, "EUR"); ok {
			t.Errorf("%q was read as %d", s, got)
		}
	}
	if got, _ := Parse("5,000", "JPY"); got != 5000 {
		t.Errorf("a yen has no cents: %d", got)
	}
}

// Source: exact rational arithmetic of math/big.
func TestSumsAreExact(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	sum, exact := int64(0), new(big.Rat)
	for range 5000 {
		n := r.Int64N(1e9) - 5e8
		back, ok := Parse(Plain(n, "EUR"), "EUR")
		if !ok || back != n {
			t.Fatalf("%d does not read back from %q", n, Plain(n, "EUR"))
		}
		sum += back
		exact.Add(exact, big.NewRat(n, 100))
	}
	if big.NewRat(sum, 100).Cmp(exact) != 0 {
		t.Errorf("sum %d is not %s", sum, exact)
	}
}

func FuzzParse(f *testing.F) {
	f.Add("€1.234,56")
	f.Fuzz(func(t *testing.T, s string) {
		if n, ok := Parse(s, "EUR"); ok {
			if back, ok := Parse(Plain(n, "EUR"), "EUR"); !ok || back != n {
				t.Errorf("%q: %d does not read back", s, n)
			}
		}
	})
}

// Sums as machines read them, by the decimals of ISO 4217.
func TestExact(t *testing.T) {
	for _, c := range []struct {
		minor int64
		code  string
		want  string
	}{{0, "EUR", "0.00"}, {5, "EUR", "0.05"}, {123450, "EUR", "1234.50"}, {-123450, "EUR", "-1234.50"},
		{9000, "JPY", "9000"}, {-1, "JPY", "-1"}, {9050, "BHD", "9.050"}, {7, "BHD", "0.007"}} {
		got := Exact(c.minor, c.code)
		if back, ok := Parse(got, c.code); got != c.want || !ok || back != c.minor {
			t.Errorf("%d %s: %s, want %s; read back as %d, %v", c.minor, c.code, got, c.want, back, ok)
		}
	}
}
