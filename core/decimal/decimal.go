// Package decimal reads numbers as people type them into exact ratios, and
// adds ratios. Nothing rounds; what would leave the range of an int64 is
// refused or, in a sum, kept at its bound.
package decimal

import (
	"math"
	"math/big"
	"math/bits"
	"regexp"
	"strconv"
	"strings"

	"ulvant/core/condition"
)

// MostDigits of a number that can be read, before and after the point together.
const MostDigits = 17

// Parse reads a whole number or one with a point or comma: 12, 3.67, -0,5.
// Blanks around it are passed over; thousands are not parted.
func Parse(s string) (condition.Number, bool) {
	s = strings.ReplaceAll(strings.TrimSpace(s), ",", ".")
	neg := strings.HasPrefix(s, "-") || strings.HasPrefix(s, "−")
	s = strings.TrimPrefix(strings.TrimPrefix(s, "-"), "−")
	whole, part, _ := strings.Cut(s, ".")
	if whole+part == "" || len(whole)+len(part) > MostDigits || strings.Trim(whole+part, "0123456789") != "" ||
		whole == "" {
		return condition.Number{}, false
	}
	n, err := strconv.ParseInt(whole+part, 10, 64)
	if err != nil {
		return condition.Number{}, false
	}
	if neg {
		n = -n
	}
	return condition.Number{Num: n, Den: int64(math.Pow10(len(part)))}, true
}

// Quantity reads how many of something people type: 12, 1.5, 9,000, 1.234,5.
// A comma that parts whole threes parts thousands; one before one or two digits,
// or after a bare 0, and a point, is the decimal mark, and a point before such a
// comma parts thousands.
func Quantity(s string) (condition.Number, bool) {
	s = strings.TrimSpace(s)
	point, comma := strings.IndexByte(s, '.'), strings.IndexByte(s, ',')
	switch {
	case comma < 0:
	case point > comma || point < 0 && thousands.MatchString(s): // 9,000 and 9,000.5
		whole, _, _ := strings.Cut(s, ".")
		if !thousands.MatchString(whole) {
			return condition.Number{}, false
		}
		s = strings.ReplaceAll(s, ",", "")
	case len(s)-comma-1 > 2 && !strings.HasPrefix(strings.TrimLeft(s, "-−"), "0,"): // 1,0000
		return condition.Number{}, false
	case point >= 0: // 1.234,5
		whole, _, _ := strings.Cut(s, ",")
		if !thousands.MatchString(strings.ReplaceAll(whole, ".", ",")) {
			return condition.Number{}, false
		}
		s = strings.ReplaceAll(s, ".", "")
	}
	return Parse(s)
}

// thousands are whole numbers whose thousands are parted by commas.
var thousands = regexp.MustCompile(`^[-−]?[1-9][0-9]{0,2}(,[0-9]{3})+$`)

// Add two ratios.
func Add(a, b condition.Number) condition.Number {
	ad, bd := max(a.Den, 1), max(b.Den, 1)
	if ad == bd {
		return reduced(plus(a.Num, b.Num), ad)
	}
	g := gcd(ad, bd)
	return reduced(plus(times(a.Num, bd/g), times(b.Num, ad/g)), times(ad/g, bd))
}

// Neg is -a.
func Neg(a condition.Number) condition.Number { return condition.Number{Num: -a.Num, Den: a.Den} }

// Div is a/b; ok is false when b is not more than nothing.
func Div(a, b condition.Number) (condition.Number, bool) {
	if b.Num <= 0 {
		return condition.Number{}, false
	}
	return reduced(times(a.Num, max(b.Den, 1)), times(max(a.Den, 1), b.Num)), true
}

// String writes a ratio with at most so many decimals, the last rounded half
// away from nothing; for people, never for deciding.
func String(n condition.Number, decimals int) string {
	s := big.NewRat(n.Num, max(n.Den, 1)).FloatString(decimals)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	return s
}

func reduced(num, den int64) condition.Number {
	if g := gcd(num, den); g > 1 {
		num, den = num/g, den/g
	}
	return condition.Number{Num: num, Den: den}
}

func gcd(a, b int64) int64 {
	if a < 0 {
		a = -a
	}
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

func plus(a, b int64) int64 {
	switch {
	case b > 0 && a > math.MaxInt64-b:
		return math.MaxInt64
	case b < 0 && a < -math.MaxInt64-b:
		return -math.MaxInt64
	}
	return a + b
}

func times(a, b int64) int64 {
	neg := (a < 0) != (b < 0)
	hi, lo := bits.Mul64(magnitude(a), magnitude(b))
	if hi != 0 || lo > math.MaxInt64 {
		lo = math.MaxInt64
	}
	if neg {
		return -int64(lo)
	}
	return int64(lo)
}

func magnitude(n int64) uint64 {
	if n < 0 {
		return uint64(-n)
	}
	return uint64(n)
}
