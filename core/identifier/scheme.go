package identifier

import (
	"slices"
	"strings"
)

// Scheme is a kind of registered number with a form of its own, and mostly
// check digits.
type Scheme struct {
	Key   string
	Label string
	// Normal brings a typed number to its one form; ok is false when it is not
	// such a number.
	Normal func(string) (string, bool)
}

// Schemes lists them as they are offered. Sources: ISO 13616 (IBAN), ISO 17442
// (LEI), ISO 27729 with MOD 11-2 (ORCID), the national rules in the tests; the
// UK company number has no check digit.
var Schemes = []Scheme{
	{"iban", "Account number (IBAN)", IBAN},
	{"lei", "Legal entity identifier (LEI)", LEI},
	{"orcid", "ORCID iD", ORCID},
	{"gb-vat", "VAT number, United Kingdom", gbVAT},
	{"ie-vat", "VAT number, Ireland", ieVAT},
	{"de-vat", "VAT number, Germany", deVAT},
	{"be-vat", "VAT number, Belgium", beVAT},
	{"fr-vat", "VAT number, France", frVAT},
	{"nl-vat", "VAT number, Netherlands", nlVAT},
	{"es-vat", "VAT number, Spain (NIF)", esVAT},
	{"it-vat", "VAT number, Italy", itVAT},
	{"pl-vat", "VAT number, Poland (NIP)", plVAT},
	{"at-vat", "VAT number, Austria (UID)", atVAT},
	{"au-abn", "Business number, Australia (ABN)", ABN},
	{"au-acn", "Company number, Australia (ACN)", ACN},
	{"us-ein", "Employer number, United States (EIN)", EIN},
	{"gb-company", "Company number, United Kingdom", gbCompany},
	{"luhn", "Number with a Luhn check digit", Luhn},
}

// OfBodies lists the schemes under which registers know organisations; an
// account, a researcher or any number with a check digit is none.
func OfBodies() (out []Scheme) {
	for _, s := range Schemes {
		if s.Key != "iban" && s.Key != "orcid" && s.Key != "luhn" {
			out = append(out, s)
		}
	}
	return append(out, Scheme{Local, "Another register: its name, a colon, the number", localNumber})
}

// Local is the key of a number under which a register that has no scheme here
// knows an organisation: the local equivalent of the others, which a person looks up.
const Local = "local"

// localNumber is the name of a register, a colon and the number there.
func localNumber(s string) (string, bool) {
	register, number, ok := strings.Cut(s, ":")
	register, number = strings.Join(strings.Fields(register), " "), strings.Join(strings.Fields(number), " ")
	if !ok || len(register) < 2 || len(number) < 2 || len(s) > 200 || !strings.ContainsAny(number, "0123456789") {
		return "", false
	}
	return register + ": " + number, true
}

// FindOfBodies finds one of those by its key.
func FindOfBodies(key string) (Scheme, bool) {
	for _, s := range OfBodies() {
		if s.Key == key {
			return s, true
		}
	}
	return Scheme{}, false
}

// Find a scheme by its key.
func Find(key string) (Scheme, bool) {
	i := slices.IndexFunc(Schemes, func(s Scheme) bool { return s.Key == key })
	if i < 0 {
		return Scheme{}, false
	}
	return Schemes[i], true
}

// bare drops blanks, points and hyphens and takes capitals.
func bare(s string) string {
	return strings.ToUpper(strings.Map(func(r rune) rune {
		if strings.ContainsRune(" .-/\u00a0\u202f\u2009\t", r) {
			return -1
		}
		return r
	}, s))
}

func digits(s string, n int) bool {
	return len(s) == n && strings.Trim(s, "0123456789") == ""
}

// mod97 of a text in which letters stand for 10 to 35 (ISO 7064 MOD 97-10);
// -1 when another character is met.
func mod97(s string) int {
	m := 0
	for i := 0; i < len(s); i++ {
		v := strings.IndexByte(alphanumeric, s[i])
		switch {
		case v < 0:
			return -1
		case v > 9:
			m = (m*100 + v) % 97
		default:
			m = (m*10 + v) % 97
		}
	}
	return m
}

// ibanForm is the length of a country's IBAN and the form of what follows its
// check digits, one sign a character: n a digit, a a letter, c either.
var ibanForm = map[string]string{
	"GB": "aaaannnnnnnnnnnnnn", "IE": "aaaannnnnnnnnnnnnn", "DE": "nnnnnnnnnnnnnnnnnn", "FR": "nnnnnnnnnncccccccccccnn",
	"NL": "aaaannnnnnnnnn", "BE": "nnnnnnnnnnnn", "ES": "nnnnnnnnnnnnnnnnnnnn", "IT": "annnnnnnnnncccccccccccc",
	"PT": "nnnnnnnnnnnnnnnnnnnnn", "AT": "nnnnnnnnnnnnnnnn", "CH": "nnnnncccccccccccc", "LU": "nnnccccccccccccc",
	"DK": "nnnnnnnnnnnnnn", "NO": "nnnnnnnnnnn", "SE": "nnnnnnnnnnnnnnnnnnnn", "FI": "nnnnnnnnnnnnnn",
	"PL": "nnnnnnnnnnnnnnnnnnnnnnnn", "CZ": "nnnnnnnnnnnnnnnnnnnn", "GR": "nnnnnnncccccccccccccccc",
	"MT": "aaaannnnncccccccccccccccccc",
	"CY": "nnnnnnnncccccccccccccccc", "EE": "nnnnnnnnnnnnnnnn", "LV": "aaaaccccccccccccc", "LT": "nnnnnnnnnnnnnnnn",
	"HU": "nnnnnnnnnnnnnnnnnnnnnnnn", "SK": "nnnnnnnnnnnnnnnnnnnn", "SI": "nnnnnnnnnnnnnnn", "HR": "nnnnnnnnnnnnnnnnn",
	"RO": "aaaacccccccccccccccc", "BG": "aaaannnnnncccccccc", "IS": "nnnnnnnnnnnnnnnnnnnnnn", "LI": "nnnnncccccccccccc",
	"TR": "nnnnnccccccccccccccccc", "SA": "nncccccccccccccccccc", "AE": "nnnnnnnnnnnnnnnnnnn",
}

// IBAN checks country, length, form, check digits (02 to 98) and MOD 97-10.
func IBAN(s string) (string, bool) {
	s = bare(s)
	if len(s) < 5 || !digits(s[2:4], 2) || s[2:4] < "02" || s[2:4] > "98" {
		return s, false
	}
	form, known := ibanForm[s[:2]]
	if !known || len(form) != len(s)-4 {
		return s, false
	}
	for i := range form {
		c := s[4+i]
		digit, letter := c >= '0' && c <= '9', c >= 'A' && c <= 'Z'
		if form[i] == 'n' && !digit || form[i] == 'a' && !letter || !digit && !letter {
			return s, false
		}
	}
	return s, mod97(s[4:]+s[:4]) == 1
}

// LEI: twenty characters, the last two digits, MOD 97-10.
func LEI(s string) (string, bool) {
	s = bare(s)
	return s, len(s) == 20 && digits(s[18:], 2) && mod97(s) == 1
}

// ORCID: sixteen digits, the last a MOD 11-2 check that may be X; written in fours.
func ORCID(s string) (string, bool) {
	_, after, ok := strings.Cut(s, "orcid.org/")
	if ok {
		s = after
	}
	s = bare(s)
	if len(s) != 16 || !digits(s[:15], 15) {
		return s, false
	}
	t := 0
	for i := range 15 {
		t = (t + int(s[i]-'0')) * 2
	}
	check := "0123456789X"[(12-t%11)%11]
	return s[:4] + "-" + s[4:8] + "-" + s[8:12] + "-" + s[12:], s[15] == check
}

func weighted(s string, weights ...int) int {
	sum := 0
	for i, w := range weights {
		sum += int(s[i]-'0') * w
	}
	return sum
}

// gbVAT: MOD 97, or MOD 97 with 55 added, over seven digits; branches have
// three digits more, offices GD and HA.
func gbVAT(s string) (string, bool) {
	s = strings.TrimPrefix(bare(s), "GB")
	if len(s) == 5 && digits(s[2:], 3) {
		return "GB" + s, s[:2] == "GD" && s[2:] < "500" || s[:2] == "HA" && s[2:] >= "500"
	}
	if !digits(s, 9) && !digits(s, 12) {
		return s, false
	}
	sum := weighted(s, 8, 7, 6, 5, 4, 3, 2, 10, 1)
	return "GB" + s, sum%97 == 0 || (sum+55)%97 == 0
}

// ieVAT: seven digits, a check letter by MOD 23, and perhaps one letter more;
// old numbers have a letter or sign in the second place.
func ieVAT(s string) (string, bool) {
	s = strings.TrimPrefix(bare(s), "IE")
	if len(s) != 8 && len(s) != 9 {
		return s, false
	}
	const letters = "WABCDEFGHIJKLMNOPQRSTUV"
	n, extra := s[:7], 0
	switch {
	case digits(n, 7):
		if len(s) == 9 {
			if extra = strings.IndexByte(letters, s[8]); extra < 0 {
				return s, false
			}
		}
	case digits(n[:1], 1) && digits(n[2:], 5) && len(s) == 8 &&
		strings.IndexByte("ABCDEFGHIJKLMNOPQRSTUVWXYZ+*", n[1]) >= 0:
		n = "0" + n[2:] + n[:1]
	default:
		return s, false
	}
	return "IE" + s, letters[(weighted(n, 8, 7, 6, 5, 4, 3, 2)+9*extra)%23] == s[7]
}

// deVAT: nine digits, the last by MOD 11,10.
func deVAT(s string) (string, bool) {
	s = strings.TrimPrefix(bare(s), "DE")
	if !digits(s, 9) || s[0] == '0' {
		return s, false
	}
	c, err := Mod11_10(s[:8])
	return "DE" + s, err == nil && c == s[8]
}

// beVAT: ten digits, the last two 97 less the rest by MOD 97; nine-digit
// numbers are older and get a 0.
func beVAT(s string) (string, bool) {
	s = strings.TrimPrefix(bare(s), "BE")
	if len(s) == 9 {
		s = "0" + s
	}
	return "BE" + s, digits(s, 10) && mod97(s[:8])+int(s[8]-'0')*10+int(s[9]-'0') == 97
}

// frVAT: a key of two digits and nine digits that pass Luhn; the key is
// (12 + 3·(number mod 97)) mod 97.
func frVAT(s string) (string, bool) {
	s = strings.TrimPrefix(bare(s), "FR")
	if !digits(s, 11) {
		return s, false
	}
	_, luhn := Luhn(s[2:])
	return "FR" + s, luhn && (12+3*mod97(s[2:]))%97 == mod97(s[:2])
}

// ABN: one less in the first place, weights, MOD 89.
func ABN(s string) (string, bool) {
	s = bare(s)
	if !digits(s, 11) || s[:2] < "11" {
		return s, false
	}
	return s[:2] + " " + s[2:5] + " " + s[5:8] + " " + s[8:], (weighted(s, 10, 1, 3, 5, 7, 9, 11, 13, 15, 17,
		19)-10)%89 == 0
}

// einNever are prefixes that are not given out, as of 2022; the list shrinks.
var einNever = []string{"00", "07", "08", "09", "17", "18", "19", "28", "29", "49", "69", "70", "78", "79", "89", "96",
	"97"}

// EIN: two digits that are given out, and seven.
func EIN(s string) (string, bool) {
	if strings.Count(s, "-") > 1 || strings.Contains(s, "-") && strings.Index(strings.TrimSpace(s), "-") != 2 {
		return s, false
	}
	s = bare(s)
	if !digits(s, 9) {
		return s, false
	}
	return s[:2] + "-" + s[2:], !slices.Contains(einNever, s[:2])
}

// gbCompany: eight digits, six or seven padded with zeros, or two letters and six digits.
func gbCompany(s string) (string, bool) {
	s = bare(s)
	for len(s) >= 6 && len(s) < 8 && digits(s, len(s)) {
		s = "0" + s
	}
	letters := len(s) == 8 && strings.Trim(s[:2], "ABCDEFGHIJKLMNOPQRSTUVWXYZ") == "" && digits(s[2:], 6)
	return s, digits(s, 8) || letters || len(s) == 8 && s[0] == 'R' && digits(s[1:], 7)
}

// Luhn: digits, every second from the right doubled, MOD 10.
func Luhn(s string) (string, bool) {
	s = bare(s)
	if s == "" || !digits(s, len(s)) {
		return s, false
	}
	return s, luhnSum(s) == 0
}

// luhnSum of digits, the last its check digit, MOD 10.
func luhnSum(s string) (sum int) {
	for i := range len(s) {
		d := int(s[len(s)-1-i] - '0')
		if i%2 == 1 {
			if d *= 2; d > 9 {
				d -= 9
			}
		}
		sum += d
	}
	return sum % 10
}

// luhnDigit to put behind digits.
func luhnDigit(s string) int { return (10 - luhnSum(s+"0")) % 10 }
