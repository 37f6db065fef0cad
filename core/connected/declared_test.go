package connected

import "testing"

// What readers declare, and whom it keeps them from.
func TestDeclared(t *testing.T) {
	names := []string{"Imre Calloway", "Corvoe Crofters’ Common", "Dónal Ó Dálaigh", "Tarl"}
	for _, c := range []struct{ lines, line, name string }{
		{"", "", ""}, {"\n \n", "", ""},
		{"Calloway", "Calloway", "Imre Calloway"},
		{"calloway, imre", "calloway, imre", "Imre Calloway"},
		{"Anna Calloway", "", ""},
		{"crofters common", "crofters common", "Corvoe Crofters’ Common"},
		{"Corvoe Wardens\nTarl", "Tarl", "Tarl"},
		{"Donal O Dalaigh", "Donal O Dalaigh", "Dónal Ó Dálaigh"},
		{"Tar", "", ""},
	} {
		if line, name := Declared(c.lines, names); line != c.line || name != c.name {
			t.Errorf("%q: %q for %q, want %q for %q", c.lines, line, name, c.line, c.name)
		}
	}
}
