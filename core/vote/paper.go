package vote

import (
	"crypto/sha256"
	"encoding/binary"
	"slices"
	"strings"
)

// Drawn is the order in which the projects stand on one voter's ballot paper: all orders
// are as likely, and the same seed draws the same one. It shuffles as R. Durstenfeld
// (Algorithm 235: Random permutation, CACM 7(7), 1964) with numbers out of SHA-256, so
// that nobody can foresee one.
func Drawn(projects int, seed []byte) []int {
	out := make([]int, projects)
	for i := range out {
		out[i] = i
	}
	s := stream{seed: seed}
	for i := projects - 1; i > 0; i-- {
		j := s.below(i + 1)
		out[i], out[j] = out[j], out[i]
	}
	return out
}

// stream of numbers out of a seed.
type stream struct {
	seed []byte
	n    uint64
	rest []byte
}

// below draws a number from 0 to n−1, each as likely: what would favour some is drawn
// again.
func (s *stream) below(n int) int {
	limit := ^uint64(0) - ^uint64(0)%uint64(n)
	for {
		if len(s.rest) < 8 {
			sum := sha256.Sum256(binary.BigEndian.AppendUint64(slices.Clone(s.seed), s.n))
			s.rest, s.n = sum[:], s.n+1
		}
		x := binary.BigEndian.Uint64(s.rest)
		s.rest = s.rest[8:]
		if x < limit {
			return int(x % uint64(n))
		}
	}
}

// letters of codes and receipts: none that is taken for another when it is read aloud or
// typed from paper.
const letters = "23456789ABCDEFGHJKMNPQRSTVWXYZ"

// groups of letters in a code and a receipt: 12 letters of 30 are more than 58 bits, which
// nobody guesses through a page that slows down.
const groups, perGroup = 3, 4

// Word draws a code or a receipt out of a seed, in groups: 7K4M-Q2XD-R9TB.
func Word(seed []byte) string {
	s := stream{seed: seed}
	var b strings.Builder
	for g := range groups {
		if g > 0 {
			b.WriteByte('-')
		}
		for range perGroup {
			b.WriteByte(letters[s.below(len(letters))])
		}
	}
	return b.String()
}

// ReadWord brings a code or receipt as somebody types it to the form it is kept in; ok is
// false where it cannot be one. Small letters, spaces and missing hyphens do not matter.
func ReadWord(typed string) (word string, ok bool) {
	var b strings.Builder
	n := 0
	for _, r := range strings.ToUpper(typed) {
		switch {
		case strings.ContainsRune(" -\u00a0\u2010\u2011\u2013\t\r\n", r):
			continue
		case !strings.ContainsRune(letters, r):
			return "", false
		}
		if n > 0 && n%perGroup == 0 {
			b.WriteByte('-')
		}
		b.WriteRune(r)
		n++
	}
	return b.String(), n == groups*perGroup
}

// mostAddress is how long an address may be (RFC 5321, section 4.5.3.1.3, without the
// brackets).
const mostAddress = 254

// OneAddress is an address as ballots tell addresses apart: capitals do not matter, nor
// what follows a + before the @, by which one box has many addresses (RFC 5233, section 3).
// domain is the part after the @; ok is false where it is no address.
func OneAddress(typed string) (address, domain string, ok bool) {
	box, domain, found := strings.Cut(strings.ToLower(strings.TrimSpace(typed)), "@")
	box, _, _ = strings.Cut(box, "+")
	if !found || len(typed) > mostAddress || box == "" || strings.Contains(domain, "@") ||
		!strings.Contains(strings.Trim(domain, "."), ".") || strings.ContainsAny(box+domain, " \t\r\n,;<>") {
		return "", "", false
	}
	return box + "@" + domain, domain, true
}
