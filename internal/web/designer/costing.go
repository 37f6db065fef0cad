package designer

import (
	"encoding/json"
	"strconv"
	"strings"

	"ulvant/core/money"
)

// The base of indirect costs as an officer writes it: a heading on each line,
// and behind an equals sign up to what each line or each partner counts.

// baseCaps are the caps a base can have, by the word that is written.
var baseCaps = []struct{ word, member string }{{"line", "lineMost"}, {"partner", "partnerMost"}}

func (b *builder) baseLine(m map[string]any) string {
	heading, _ := m["heading"].(string)
	var caps []string
	for _, c := range baseCaps {
		if n, ok := whole(m[c.member]); ok && n > 0 {
			caps = append(caps, c.word+" "+money.Plain(n, b.form.Design.Currency))
		}
	}
	if len(caps) == 0 {
		return heading
	}
	return heading + " = " + strings.Join(caps, "; ")
}

func (b *builder) readBase(heading, caps string) (map[string]any, bool) {
	out := map[string]any{"heading": heading}
	for _, part := range strings.Split(caps, ";") {
		word, sum, _ := strings.Cut(strings.TrimSpace(part), " ")
		if word == "" {
			continue
		}
		known := false
		for _, c := range baseCaps {
			if n, ok := money.Parse(sum, b.form.Design.Currency); ok && n > 0 && c.word == word {
				out[c.member], known = json.Number(strconv.FormatInt(n, 10)), true
			}
		}
		if !known {
			return nil, false
		}
	}
	return out, heading != ""
}
