package condition

import (
	"strconv"
	"strings"
)

// Names gives the words for what a condition reads.
type Names interface {
	// Of names what is read: "the kind of repair".
	Of(Ref) string
	// Value writes a value as it would be shown beside that Ref.
	Value(Ref, Value) string
	// Day reports what is a day, so that it is before or after another.
	Day(Ref) bool
}

// ofDays are the relations of days in words.
var ofDays = map[Rel]string{Less: "is before", More: "is after", AtLeast: "is on or after", AtMost: "is on or before"}

// Sentence reads a condition back in English: "kind of repair is peat and the
// request is at least €20,000". The empty condition is "always".
func Sentence(c Cond, names Names) string {
	switch {
	case c.Always():
		return "always"
	case c.Test != nil:
		t := *c.Test
		rel := string(t.Rel)
		if days := ofDays[t.Rel]; days != "" && names.Day(t.Of) {
			rel = days
		}
		s := names.Of(t.Of) + " " + rel + " "
		if t.Other != nil {
			return s + names.Of(*t.Other)
		}
		return s + names.Value(t.Of, *t.Value)
	case c.All != nil:
		return join(c.All, " and ", names)
	case c.Any != nil:
		return join(c.Any, " or ", names)
	case c.None != nil:
		return "none of these holds, or is not asked: " + join(c.None, "; ", names)
	default:
		return "at least " + strconv.Itoa(c.AtLeast.N) + " of these hold: " + join(c.AtLeast.Of, "; ", names)
	}
}

func join(list []Cond, with string, names Names) string {
	parts := make([]string, len(list))
	for i, c := range list {
		parts[i] = Sentence(c, names)
		if len(c.All) > 1 || len(c.Any) > 1 {
			parts[i] = "(" + parts[i] + ")"
		}
	}
	return strings.Join(parts, with)
}
