package people

import (
	"bufio"
	_ "embed"
	"strings"
	"sync"
	"unicode/utf8"

	"ulvant/core/refusal"

	"github.com/alexedwards/argon2id"
)

// LeastPassword is how many characters a password needs.
const LeastPassword = 10

// commonList holds passwords of ten characters and more that many people use,
// in lower case, a line each; docs/third-party.md says where it is from.
//
//go:embed common-passwords.txt
var commonList string

var common = sync.OnceValue(func() map[string]bool {
	out := map[string]bool{}
	for sc := bufio.NewScanner(strings.NewReader(commonList)); sc.Scan(); {
		out[sc.Text()] = true
	}
	return out
})

// CheckPassword says what is wrong with a new password of somebody with this
// mail address and name: too short, too long, one that many people use, one
// thing over and over or in a row, or their own name or address. It follows
// NIST SP 800-63B, 5.1.1.2: length and a list of what is commonly used, and no
// rule about kinds of characters.
func CheckPassword(password, email, name string) error {
	if n := utf8.RuneCountInString(password); n < LeastPassword || n > 200 {
		return refusal.In("password", "Use at least 10 characters. A few words in a row are good.")
	}
	low := strings.ToLower(strings.TrimSpace(password))
	local, _, _ := strings.Cut(Fold(email), "@")
	bare := func(s string) string { return strings.Join(strings.Fields(strings.ToLower(s)), "") }
	switch {
	case common()[low], common()[bare(low)], common()[strings.TrimRight(low, "0123456789!.?")] &&
		len(low)-len(strings.TrimRight(low, "0123456789!.?")) <= 2:
		return refusal.In("password",
			"This is one that many people use, so it is tried first. Take a few words in a row that nobody else would.")
	case running(low):
		return refusal.In("password",
			"This is the same thing over and over, or a row of keys. Take a few words in a row instead.")
	case low == Fold(email), local != "" && bare(low) == local, name != "" && bare(low) == bare(name):
		return refusal.In("password",
			"This is your own name or address. Take a few words in a row that have nothing to do with you.")
	}
	return nil
}

// running reports a password of at most two different characters, of a piece of
// up to four repeated throughout, or of characters that follow one another in
// the alphabet, in the digits or along a keyboard.
func running(s string) bool {
	r := []rune(s)
	different := map[rune]bool{}
	for _, c := range r {
		different[c] = true
	}
	if len(different) <= 2 {
		return true
	}
	for n := 3; n <= 4; n++ {
		again := true
		for i := n; i < len(r); i++ {
			again = again && r[i] == r[i-n]
		}
		if again {
			return true
		}
	}
	for _, row := range []string{"abcdefghijklmnopqrstuvwxyz", "01234567890123456789", "qwertyuiopasdfghjklzxcvbnm",
		"qwertzuiopasdfghjklyxcvbnm"} {
		if strings.Contains(row, s) || strings.Contains(row, backwards(r)) {
			return true
		}
	}
	return false
}

func backwards(r []rune) string {
	out := make([]rune, len(r))
	for i, c := range r {
		out[len(r)-1-i] = c
	}
	return string(out)
}

// Hash of a new password. It takes a core for a while and waits for its turn.
func (s *Store) Hash(password string) (hash string, err error) {
	p := s.Params
	if p == nil {
		p = Cost
	}
	s.Heavy.Do(func() { hash, err = argon2id.CreateHash(password, p) })
	return hash, err
}
