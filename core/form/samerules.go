package form

import "encoding/json"

// SameRules reports that two designs work the same rules: rules, and the lists,
// tables and figures that rules may read, are the same.
func SameRules(a, b *Design) bool {
	of := func(d *Design) string {
		raw, err := json.Marshal([]any{d.Rules, d.Lists, d.Tables, d.Figures})
		if err != nil {
			panic(err) // what was read can be written
		}
		return string(raw)
	}
	return of(a) == of(b)
}
