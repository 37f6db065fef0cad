package identifier

import (
	"encoding/csv"
	"os"
	"testing"
)

func fixture(t *testing.T, name string) [][]string {
	t.Helper()
	f, err := os.Open("../../../shared/check-fixtures/" + name)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	return rows[1:]
}

// Source: check-fixtures/iban.csv: the SWIFT registry's examples of ISO 13616
// and thirteen broken ones.
func TestIBAN(t *testing.T) {
	for _, r := range fixture(t, "iban.csv") {
		want := r[3] != "no" // "stdnum-no": refused there only because a bank list is old
		if _, ok := IBAN(r[0]); ok != want {
			t.Errorf("%s: valid %v, want %s (%s)", r[0], ok, r[3], r[4])
		}
	}
	if n, ok := IBAN("gb29 nwbk 6016 1331 9268 19"); !ok || n != "GB29NWBK60161331926819" {
		t.Errorf("small letters and blanks: %s %v", n, ok)
	}
}

// Source: check-fixtures/identifiers.csv: python-stdnum 1.18.
func TestIdentifiers(t *testing.T) {
	schemes := map[string]string{"LEI": "lei", "ORCID": "orcid", "GB VAT": "gb-vat", "IE VAT": "ie-vat",
		"DE VAT": "de-vat", "BE VAT": "be-vat", "FR VAT": "fr-vat", "AU ABN": "au-abn", "AU ACN": "au-acn",
		"NL VAT": "nl-vat", "ES NIF": "es-vat", "IT VAT": "it-vat", "PL VAT": "pl-vat", "AT VAT": "at-vat",
		"US EIN": "us-ein", "Luhn": "luhn"}
	n := 0
	for _, r := range fixture(t, "identifiers.csv") {
		s, ok := Find(schemes[r[0]])
		if !ok {
			t.Errorf("no scheme checks %s", r[0])
			continue
		}
		n++
		if got, valid := s.Normal(r[1]); valid != (r[2] == "yes") {
			t.Errorf("%s %s: valid %v, want %s (%s)", r[0], r[1], valid, r[2], got)
		}
	}
	if n < 75 {
		t.Errorf("only %d numbers were checked", n)
	}
	// From memory, as check-values.md has it: no check digit, six or seven digits padded.
	for s, want := range map[string]bool{"1234567": true, "SC123456": true, "1234": false, "SC12345": false,
		"A1234567": false, "R1234567": true} {
		if _, ok := gbCompany(s); ok != want {
			t.Errorf("company number %s: %v", s, ok)
		}
	}
}

func FuzzSchemes(f *testing.F) {
	f.Add("GB29 NWBK 6016 1331 9268 19")
	f.Add("0000-0002-1825-0097")
	f.Fuzz(func(t *testing.T, typed string) {
		for _, s := range Schemes {
			if n, ok := s.Normal(typed); ok {
				if again, ok := s.Normal(n); !ok || again != n {
					t.Errorf("%s: %q became %q, which becomes %q", s.Key, typed, n, again)
				}
			}
		}
	})
}

// Which numbers registers know organisations by.
func TestOfBodies(t *testing.T) {
	for key, want := range map[string]bool{"lei": true, "ie-vat": true, "gb-company": true, "us-ein": true, "iban": false,
		"orcid": false, "luhn": false, "": false} {
		if _, ok := FindOfBodies(key); ok != want {
			t.Errorf("%q: %v, want %v", key, ok, want)
		}
	}
}

// A number of a register that has no scheme here names the register.
func TestLocalNumbers(t *testing.T) {
	s, ok := FindOfBodies(Local)
	if !ok {
		t.Fatal("organisations cannot give one")
	}
	if _, ok := Find(Local); ok {
		t.Error("a question can ask for one, and nothing checks it")
	}
	for typed, want := range map[string]string{"Register of  Associations, Tarl :  VR 4711": "Register of Associations, Tarl: VR 4711",
		"Tarl:47": "Tarl: 47", "4711": "", "Tarl: ": "", ": 4711": "", "Tarl: none": "", "": ""} {
		if got, ok := s.Normal(typed); got != want || ok != (want != "") {
			t.Errorf("%q: %q, %v; want %q", typed, got, ok, want)
		}
	}
}
