package form_test

import (
	"testing"
	"unicode/utf8"

	"ulvant/core/form"
)

// Initials as people write them on statements (common practice, no source).
func TestInitials(t *testing.T) {
	for _, c := range []struct {
		name, want string
		also, not  []string
	}{
		{"Imre Calloway", "IC", []string{"ic", "I. C.", " i.c. "}, []string{"", "I", "CI", "Imre Calloway", "icc", ".."}},
		{"Ana-Mara Ó Sé", "AMÓS", []string{"amos", "A-M.O.S.", "aos", "as"}, []string{"amo", "sa"}},
		{"Jean‑Luc de la Cour", "JLDLC", []string{"jdlc", "jc", "JLDLC"}, []string{"jlc", "ldlc"}},
		{"Zoë", "Z", []string{"z"}, []string{"zz"}},
		{"O’Brien, Nuala", "ON", []string{"on"}, []string{"obn"}},
		{"李 小龙", "李小", []string{"李小"}, []string{"李"}},
		{"E\u0301va Ta\u0301borová", "ÉT", []string{"et", "ÉT", "E\u0301T"}, nil}, // combining marks
		{"  Wenna   Mary  Astley ", "WMA", []string{"wa", "wma"}, []string{"wm", "ma"}},
		{"007", "", nil, []string{"", "0", "007"}},
	} {
		if got := form.Initials(c.name); got != c.want {
			t.Errorf("Initials(%q) = %q, want %q", c.name, got, c.want)
		}
		for _, s := range c.also {
			if !form.IsInitials(s, c.name) {
				t.Errorf("%q is not taken for %s", s, c.name)
			}
		}
		for _, s := range c.not {
			if form.IsInitials(s, c.name) {
				t.Errorf("%q is taken for %s", s, c.name)
			}
		}
	}
}

// Whoever has initials can sign with them.
func FuzzInitials(f *testing.F) {
	for _, s := range []string{"Imre Calloway", "Ana-Mara Ó Sé", "ß ﬁ", "İ ı", "-a-", "\u0301x"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, name string) {
		if !utf8.ValidString(name) {
			return
		}
		if i := form.Initials(name); i != "" && !form.IsInitials(i, name) {
			t.Errorf("%q are the initials of %q and not taken", i, name)
		}
	})
}
