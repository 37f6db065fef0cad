package design

import (
	"bytes"
	"slices"
	"strings"
)

// Grade is how a change bears on people who are already writing.
type Grade int

// The grades, from the lightest. What cannot be told to loosen is taken to
// tighten: whoever is writing is then told.
const (
	Wording   Grade = iota // other words, or the office's own concern
	Loosens                // more may be answered, or less must
	Tightens               // less may be answered, or more must
	TakesAway              // something that could be answered or asked for is gone
)

// String is the grade in the words of the design page.
func (g Grade) String() string {
	return [...]string{"wording", "loosens", "tightens", "takes away"}[g]
}

// Graded is one difference between two designs.
type Graded struct {
	Op       Op
	Grade    Grade
	Sentence string // what was done, without its doer: took out the question “Depth”
}

// Compare lists what differs between the design that people write on and
// another, thing by thing, the heaviest first. Changes of order are not among
// them.
func Compare(from, to []byte) ([]Graded, error) {
	a, err := parse(from)
	if err != nil {
		return nil, err
	}
	b, err := parse(to)
	if err != nil {
		return nil, err
	}
	var out []Graded
	differ("", a, b, func(op Op) {
		doc := to
		if op.Do == Remove {
			doc = from
		}
		out = append(out, Graded{op, gradeOf(op), Describe(doc, op)})
	})
	slices.SortStableFunc(out, func(a, b Graded) int { return int(b.Grade - a.Grade) })
	return out, nil
}

// differ calls found for every thing added or removed and every member set, in
// the order of members' names and of the things.
func differ(path string, a, b map[string]any, found func(Op)) {
	for _, m := range namesIn(a, b) {
		if m == "key" || m == "retired" || m == "schema" || same(a[m], b[m]) {
			continue
		}
		at := strings.TrimPrefix(path+"/"+m, "/")
		was, keyed := keyedList(a[m])
		is, keyedToo := keyedList(b[m])
		if !keyed || !keyedToo {
			op := Op{Do: Set, Path: at, Was: raw(a[m])}
			if b[m] != nil {
				op.Value = raw(b[m])
			}
			found(op)
			continue
		}
		for _, v := range was {
			if find(is, keyOf(v)) < 0 {
				found(Op{Do: Remove, Path: at + "/" + keyOf(v), Was: raw(v)})
			}
		}
		for _, v := range is {
			i := find(was, keyOf(v))
			if i < 0 {
				found(Op{Do: Add, Path: at, Value: raw(v)})
				continue
			}
			differ(at+"/"+keyOf(v), was[i].(map[string]any), v.(map[string]any), found)
		}
	}
}

// keyedList reports a list of things with keys; nothing is an empty one.
func keyedList(v any) ([]any, bool) {
	list, ok := v.([]any)
	return list, v == nil || ok && !slices.ContainsFunc(list, func(v any) bool { return keyOf(v) == "" })
}

// What members and lists mean for those who write. Everything else is wording,
// or the office's own concern.
var (
	offered  = []string{"options", "awards", "streams", "applicants", "codes", "rows", "stages"}
	required = []string{"rules", "fees"}
	binding  = []string{"asked", "must", "kind", "holds", "when", "match", "offered", "price", "slot", "list", "table",
		"scheme", "request", "columns", "prefix", "until", "off", "percent", "op", "of", "where", "invited", "from", "to",
		"followBy", "sure", "rounding", "ask"}
	counted = map[string]bool{ // members that are numbers: whether more loosens
		"fund": true, "purse": true, "places": true, "words": true, "characters": true, "most": true, "pickMost": true,
		"rowsMost": true, "monthsOld": true, "sizeMost": true, "sizeAll": true, "pagesMost": true, "filesMost": true,
		"secondsMost": true, "excerptMost": true, "letterMonths": true, "scale": true,
		"leastWords": false, "least": false, "pickLeast": false, "rowsLeast": false, "matchPercent": false,
		"filesLeast": false, "widthLeast": false, "heightLeast": false, "dpiLeast": false, "secondsLeast": false,
		"referees": false, "yearsLeast": false,
	}
)

func gradeOf(op Op) Grade {
	holder, member := split(op.Path)
	_, list := split(holder)
	is, _ := value(op.Value)
	was, _ := value(op.Was)
	switch op.Do {
	case Add:
		switch {
		case member == "questions" || member == "columns" || member == "sections":
			return asksMore(is)
		case slices.Contains(required, member):
			return Tightens
		case slices.Contains(offered, member):
			return Loosens
		}
		return Wording
	case Remove:
		switch {
		case list == "questions" || list == "columns" || list == "sections" || slices.Contains(offered, list):
			return TakesAway
		case slices.Contains(required, list):
			return Loosens
		}
		return Wording
	}
	switch {
	case strings.HasPrefix(holder, "letters/"):
		return Wording
	case holder == "vote" || holder == "" && member == "vote":
		return voteGrade(was, is, member)
	}
	switch member {
	case "limits":
		return limitGrade(was, is)
	case "blank":
		switch {
		case is == "required":
			return Tightens
		case was == "required":
			return Loosens
		}
		return Wording
	case "person": // a person looks instead of a refusal
		if is == true {
			return Loosens
		}
		return Tightens
	case "proposals", "media", "shared", "paper":
		if is == true {
			return Loosens
		}
		return TakesAway
	case "nonAnswers", "items":
		return keptAll(was, is)
	case "at":
		if strings.HasSuffix(holder, "/closes") {
			if bytes.Compare(op.Value, op.Was) < 0 { // local times compare as they are written
				return TakesAway
			}
			return Loosens
		}
		return Wording
	}
	if more, ok := counted[member]; ok {
		g := numberGrade(was, is, more)
		if g == Tightens && (member == "fund" || member == "purse" || member == "places") {
			return TakesAway
		}
		return g
	}
	if slices.Contains(binding, member) {
		return Tightens
	}
	return Wording
}

// voteGrade grades a change of the public vote: to those who have applied only what is
// shown of them, and whether they agree to it, matters.
func voteGrade(was, is any, member string) Grade {
	shown := []string{"shows", "agreed", "among"}
	if member != "vote" {
		if slices.Contains(shown, member) {
			return Tightens
		}
		return Wording
	}
	before, _ := was.(map[string]any)
	after, _ := is.(map[string]any)
	for _, m := range shown {
		if !same(before[m], after[m]) {
			return Tightens
		}
	}
	return Wording
}

// asksMore grades a new question, or a section with some.
func asksMore(v any) Grade {
	m, _ := v.(map[string]any)
	if m["blank"] == "required" || !same(m["must"], nil) {
		return Tightens
	}
	questions, _ := m["questions"].([]any)
	for _, q := range questions {
		if asksMore(q) == Tightens {
			return Tightens
		}
	}
	return Loosens
}

// keptAll grades a plain list of choices: gone is one that was there.
func keptAll(was, is any) Grade {
	a, _ := was.([]any)
	b, _ := is.([]any)
	code := func(v any) any {
		if m, ok := v.(map[string]any); ok {
			return m["code"]
		}
		return v
	}
	for _, v := range a {
		if !slices.ContainsFunc(b, func(w any) bool { return same(code(v), code(w)) }) {
			return TakesAway
		}
	}
	if len(b) > len(a) {
		return Loosens
	}
	return Wording
}

// limitGrade compares limits case by case; other cases are taken to tighten.
func limitGrade(was, is any) Grade {
	a, _ := was.(map[string]any)
	b, _ := is.(map[string]any)
	whenA, _ := a["when"].([]any)
	whenB, _ := b["when"].([]any)
	if len(whenA) != len(whenB) {
		return Tightens
	}
	g := limitsGrade(a["else"], b["else"])
	for i := range whenA {
		x, _ := whenA[i].(map[string]any)
		y, _ := whenB[i].(map[string]any)
		if !same(x["if"], y["if"]) {
			return Tightens
		}
		g = max(g, limitsGrade(x["then"], y["then"]))
	}
	return g
}

// limitsGrade compares two sets of limits, member by member.
func limitsGrade(was, is any) Grade {
	a, _ := was.(map[string]any)
	b, _ := is.(map[string]any)
	g := Wording
	for _, m := range namesIn(a, b) {
		if same(a[m], b[m]) {
			continue
		}
		more, number := counted[m]
		switch {
		case m == "slot":
			g = max(g, limitsGrade(a[m], b[m]))
		case m == "kinds":
			g = max(g, keptAll(a[m], b[m]))
		case number:
			g = max(g, numberGrade(a[m], b[m], more))
		case b[m] == nil: // a limit that is gone
			g = max(g, Loosens)
		default:
			g = Tightens
		}
	}
	return g
}

// numberGrade compares a limit that is a number; none limits nothing.
func numberGrade(was, is any, more bool) Grade {
	a, b := numberOf(was), numberOf(is)
	switch {
	case a == b:
		return Wording
	case b == nil, a != nil && (*a < *b) == more:
		return Loosens
	}
	return Tightens
}

func numberOf(v any) *int64 {
	n, ok := v.(interface{ Int64() (int64, error) })
	if !ok {
		return nil
	}
	i, err := n.Int64()
	if err != nil || i == 0 {
		return nil
	}
	return &i
}
