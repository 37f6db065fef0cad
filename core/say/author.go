package say

import (
	"ulvant/core/form"
	"ulvant/core/slot"
)

// NamesAuthor warns, where names are hidden from readers, of a file they see
// whose own properties name somebody; "" when there is nothing to say.
func NamesAuthor(f *form.Form, q *form.Question, facts slot.Facts) string {
	if !f.Design.HideNames || !q.ForReaders() || facts.Author == "" {
		return ""
	}
	return "Its properties name “" + facts.Author +
		"”, and names are hidden here. If that is you, take it out of the properties and put the file in again."
}
