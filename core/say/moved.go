package say

import (
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/phrase"
)

// Moved says of each date of a round that it has moved, in the order of the
// calendar, as somebody who writes an application reads it. before nil: none has.
func Moved(before, now *form.Form) (out []string) {
	if before == nil {
		return nil
	}
	for _, m := range now.Design.Calendar {
		if _, known := before.Design.Moment(m.Key); !known {
			continue
		}
		if was, is := before.At(m.Key), now.At(m.Key); !was.Equal(is) {
			out = append(out, phrase.Initial(m.Label)+" is now on "+calendar.WallOf(is,
				now.Zone).Words()+"; it was on "+calendar.WallOf(was, before.Zone).Words()+".")
		}
	}
	return out
}
