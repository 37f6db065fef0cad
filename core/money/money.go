// Package money keeps sums as whole minor units with their currency (ISO 4217;
// digits and symbols from github.com/bojanz/currency) and reads what people
// type.
package money

import (
	"math"
	"strconv"
	"strings"

	"github.com/bojanz/currency"
)

// Digits is how many decimals the currency has: 2 for EUR, 0 for JPY.
func Digits(code string) int {
	d, ok := currency.GetDigits(code)
	if !ok {
		return 2
	}
	return int(d)
}

// Known reports an ISO 4217 code.
func Known(code string) bool { return currency.IsValid(code) }

// Symbol stands before a sum: €, or the code and a blank.
func Symbol(code string) string { return symbol(code) }

func symbol(code string) string {
	s, ok := currency.GetSymbol(code, currency.NewLocale("en-IE"))
	if !ok || s == code {
		return code + " "
	}
	return s
}

// Format writes minor units for people: €64,000, or €64,000.50 when there are
// cents; a negative sum has a true minus sign.
func Format(minor int64, code string) string {
	sign := ""
	u := uint64(minor)
	if minor < 0 {
		sign, u = "−", -u
	}
	return sign + symbol(code) + plain(u, Digits(code))
}

// Plain writes minor units as a field holds them: 64,000 or 64,000.50.
func Plain(minor int64, code string) string {
	if minor < 0 {
		return "-" + plain(-uint64(minor), Digits(code))
	}
	return plain(uint64(minor), Digits(code))
}

func plain(u uint64, digits int) string {
	unit := uint64(math.Pow10(digits))
	whole := strconv.FormatUint(u/unit, 10)
	var b strings.Builder
	for i, c := range whole {
		if i > 0 && (len(whole)-i)%3 == 0 {
			b.WriteByte(',')
		}
		b.WriteRune(c)
	}
	if cents := u % unit; cents != 0 {
		s := strconv.FormatUint(cents, 10)
		b.WriteString("." + strings.Repeat("0", digits-len(s)) + s)
	}
	return b.String()
}

// Exact writes a sum for machines: all the currency's decimals, a point, nothing
// between thousands: -1234.50.
func Exact(minor int64, code string) string {
	digits := Digits(code)
	s := strconv.FormatUint(uint64(max(minor, -minor)), 10)
	if len(s) <= digits {
		s = strings.Repeat("0", digits+1-len(s)) + s
	}
	if digits > 0 {
		s = s[:len(s)-digits] + "." + s[len(s)-digits:]
	}
	if minor < 0 {
		s = "-" + s
	}
	return s
}

// Parse reads a sum as people type it: 64000, 64,000, 64 000.50, €1.234,56, .50.
// A last point or comma followed by as many digits as the currency has (or
// fewer, or none) marks the cents; other points, commas and blanks must part
// thousands, and no thousands begin with 0: 0.500 is neither half a euro nor
// five hundred.
// ok is false for anything else, and for sums of 10^15 minor units or more.
func Parse(s, code string) (minor int64, ok bool) {
	s = strings.TrimSpace(s)
	if strings.Trim(s, "0123456789.,") != "" { // more than a bare number
		for _, sym := range []string{symbol(code), code} {
			s = strings.TrimSpace(strings.TrimPrefix(s, strings.TrimSpace(sym)))
			s = strings.TrimSpace(strings.TrimSuffix(s, strings.TrimSpace(sym)))
		}
		for _, blank := range []string{"\u00a0", "\u202f", "\u2009", "'", "’"} {
			s = strings.ReplaceAll(s, blank, " ")
		}
	}
	neg := strings.HasPrefix(s, "-") || strings.HasPrefix(s, "−")
	s = strings.TrimPrefix(strings.TrimPrefix(s, "-"), "−")
	digits := Digits(code)
	cents := ""
	if i := strings.LastIndexAny(s, ".,"); i >= 0 && len(s)-i-1 <= digits && digits > 0 && len(s) > 1 {
		if strings.ContainsRune(s[:i], rune(s[i])) {
			return 0, false
		}
		if s, cents = s[:i], s[i+1:]; s == "" {
			s = "0"
		}
	}
	whole, ok := ungroup(s)
	if !ok || len(whole) > 13 {
		return 0, false
	}
	cents += strings.Repeat("0", digits-len(cents))
	n, err := strconv.ParseInt(whole+cents, 10, 64)
	if err != nil || n >= 1e15 || strings.ContainsAny(whole+cents, "+-") {
		return 0, false
	}
	if neg {
		n = -n
	}
	return n, true
}

// ungroup takes out one kind of thousands mark, which must part whole threes.
func ungroup(s string) (string, bool) {
	mark := ""
	for _, c := range s {
		switch {
		case c >= '0' && c <= '9':
		case c == ',' || c == '.' || c == ' ':
			if mark != "" && mark != string(c) {
				return "", false
			}
			mark = string(c)
		default:
			return "", false
		}
	}
	if mark == "" {
		return s, s != ""
	}
	groups := strings.Split(s, mark)
	for i, g := range groups {
		if i == 0 && (len(g) == 0 || len(g) > 3 || g[0] == '0') || i > 0 && len(g) != 3 {
			return "", false
		}
	}
	return strings.Join(groups, ""), true
}
