package say

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
)

// Answer writes one answer for reading: choices by their labels, sums with
// their currency, tables line by line. "" when nothing was given.
func Answer(f *form.Form, q *form.Question, filled *form.Filled, st *form.QuestionState) string {
	if st.Presence == condition.Declared {
		if st.Non == form.ToFollow && q.FollowBy != nil {
			return "to follow, by " + f.Day(q.FollowBy).Words()
		}
		return string(st.Non)
	}
	var text string
	if st.Presence == condition.Given || len(st.Rows) > 0 || st.Parts != nil || q.InTable() {
		text = f.Words(q, filled, st)
	} else {
		return strings.TrimSpace(st.Raw)
	}
	if mark := filled.Answers[form.Place{Question: q.Key, Column: form.ColSure}].Raw; q.Sure != "" && mark != "" &&
		text != "" {
		text += " (" + mark + ")"
	}
	return text
}
