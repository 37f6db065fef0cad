package identifier

import "strings"

// nlVAT: nine digits, B and two more. Those of companies pass MOD 11 over the
// nine; those of sole traders, given since 2020, pass MOD 97 over the whole.
func nlVAT(s string) (string, bool) {
	s = strings.TrimPrefix(bare(s), "NL")
	number, branch, ok := strings.Cut(s, "B")
	if !ok || len(number) < 7 || !digits(number, len(number)) || !digits(branch, 2) || branch == "00" {
		return s, false
	}
	for len(number) < 9 {
		number = "0" + number
	}
	s = "NL" + number + "B" + branch
	if len(number) != 9 {
		return s, false
	}
	company := number != "000000000" && weighted(number, 9, 8, 7, 6, 5, 4, 3, 2, -1)%11 == 0
	return s, company || mod97(s) == 1
}

const (
	ofPersons = "TRWAGMYFPDXBNJZSQVHLCKE" // by MOD 23
	ofBodies  = "JABCDEFGHI"              // by the Luhn digit
)

// esVAT: a person's eight digits (foreigners X, Y or Z and seven; others K, L
// or M and seven) with a letter by MOD 23, or a body's letter and seven digits
// with a Luhn digit, or the letter for it.
func esVAT(s string) (string, bool) {
	s = strings.TrimPrefix(bare(s), "ES")
	if len(s) != 9 || !digits(s[1:8], 7) {
		return s, false
	}
	first, last := s[0], s[8]
	person := func(number string) bool { return ofPersons[whole(number)%23] == last }
	switch {
	case first >= '0' && first <= '9':
		return "ES" + s, person(s[:8])
	case first >= 'X' && first <= 'Z':
		return "ES" + s, person(string('0'+first-'X') + s[1:8])
	case strings.IndexByte("KLM", first) >= 0:
		return "ES" + s, person(s[1:8])
	case strings.IndexByte("ABCDEFGHJNPQRSUVW", first) < 0:
		return s, false
	}
	check := luhnDigit(s[1:8])
	digit, letter := byte('0'+check) == last, ofBodies[check] == last
	switch {
	case strings.IndexByte("PQSNRW", first) >= 0 || s[1:3] == "00":
		return "ES" + s, letter
	case strings.IndexByte("ABEH", first) >= 0:
		return "ES" + s, digit
	}
	return "ES" + s, digit || letter
}

// itVAT: eleven digits that pass Luhn: seven, the office of the province, the check.
func itVAT(s string) (string, bool) {
	s = strings.TrimPrefix(bare(s), "IT")
	_, luhn := Luhn(s)
	return "IT" + s, luhn && digits(s, 11) && s[:7] != "0000000"
}

// plVAT: ten digits, the last by weights and MOD 11; ten is never given.
func plVAT(s string) (string, bool) {
	s = strings.TrimPrefix(bare(s), "PL")
	return "PL" + s, digits(s, 10) && weighted(s, 6, 5, 7, 2, 3, 4, 5, 6, 7)%11 == int(s[9]-'0')
}

// atVAT: U and eight digits, the last a Luhn digit that is six away.
func atVAT(s string) (string, bool) {
	s = strings.TrimPrefix(strings.TrimPrefix(bare(s), "AT"), "U")
	return "ATU" + s, digits(s, 8) && (16-luhnSum(s[:7]))%10 == int(s[7]-'0')
}

// ACN: nine digits, the last the complement of the weighted rest, MOD 10.
func ACN(s string) (string, bool) {
	s = bare(s)
	if !digits(s, 9) {
		return s, false
	}
	return s[:3] + " " + s[3:6] + " " + s[6:], (weighted(s, 8, 7, 6, 5, 4, 3, 2, 1)+int(s[8]-'0'))%10 == 0
}

// whole number of at most eight digits.
func whole(s string) (n int) {
	for i := range len(s) {
		n = n*10 + int(s[i]-'0')
	}
	return n
}
