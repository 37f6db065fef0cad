// Package identifier checks and makes numbers with check characters
// (ISO/IEC 7064:2003, hybrid systems), and the reference numbers of cases.
package identifier

import (
	"fmt"
	"strings"
)

const alphanumeric = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ"

// Mod37_36 is the check character of ISO 7064 MOD 37,36 over digits and
// capital letters; other characters are refused.
func Mod37_36(s string) (byte, error) { return hybrid(s, 36) }

// Mod11_10 is the check digit of ISO 7064 MOD 11,10 over digits.
func Mod11_10(s string) (byte, error) { return hybrid(s, 10) }

func hybrid(s string, m int) (byte, error) {
	p := m
	for i := 0; i < len(s); i++ {
		v := strings.IndexByte(alphanumeric[:m], s[i])
		if v < 0 {
			return 0, fmt.Errorf("%q holds a character that cannot be checked", s)
		}
		p = (p + v) % m
		if p == 0 {
			p = m
		}
		p = p * 2 % (m + 1)
	}
	return alphanumeric[(m+1-p)%m], nil
}

// Ref makes a case's reference number: prefix-serial-check, such as
// SPR-0417-9. The prefix is two to six capital letters; the check character is
// MOD 37,36 over prefix and serial.
func Ref(prefix string, serial int) string {
	body := fmt.Sprintf("%s%04d", prefix, serial)
	c, err := Mod37_36(body)
	if err != nil {
		panic("identifier: bad reference prefix " + prefix)
	}
	return fmt.Sprintf("%s-%04d-%c", prefix, serial, c)
}

// ParseRef brings a typed reference number to its printed form; ok is false
// when its check character does not fit, so a slip of the pen finds nothing
// rather than somebody else.
func ParseRef(s string) (ref string, ok bool) {
	s = strings.ToUpper(strings.Join(strings.Fields(strings.ReplaceAll(s, "-", " ")), ""))
	i := strings.IndexAny(s, "0123456789")
	if i < 2 || len(s)-i < 5 {
		return "", false
	}
	c, err := Mod37_36(s[:len(s)-1])
	if err != nil || c != s[len(s)-1] {
		return "", false
	}
	return s[:i] + "-" + s[i:len(s)-1] + "-" + s[len(s)-1:], true
}
