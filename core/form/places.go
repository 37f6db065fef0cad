package form

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// MostRows is how many rows a table can have.
const MostRows = 500

var (
	rowForm  = regexp.MustCompile(`^r[0-9]{4}$`)
	fileRow  = regexp.MustCompile(`^f[0-9]{1,15}$`)
	noteForm = regexp.MustCompile(`^(detail|tick)-[0-9]{1,2}$`)
)

// Accepts says why nothing can be kept at a place; "" when an answer can.
func (f *Form) Accepts(p Place) string {
	q := f.Question(p.Question)
	if q == nil {
		return "This question is not asked any more; reload the page."
	}
	plain := p.Row == "" && p.Column == ""
	sure := p.Row == "" && p.Column == ColSure && q.Sure != ""
	switch k := q.rule(); {
	case sure || plain && (k.read != nil || len(q.NonAnswers) > 0):
		return ""
	case k.keeps == AsFiles:
		if p.Row == "" && noteForm.MatchString(string(p.Column)) || fileRow.MatchString(p.Row) &&
			(p.Column == ColMade || p.Column == ColFrom || p.Column == ColTo || p.Column == ColWhole ||
				noteForm.MatchString(string(p.Column))) {
			return ""
		}
		return "A file is put in, not written."
	case k.parts != nil:
		if p.Row == "" && slices.ContainsFunc(k.parts(f, q), func(x Part) bool { return x.Key == p.Column }) {
			return ""
		}
		return "This answer has no such part."
	case q.InTable():
		if !rowForm.MatchString(p.Row) || p.Row >= RowKey(MostRows) {
			return fmt.Sprintf("This table takes at most %d rows.", MostRows)
		}
		if slices.Contains(f.Cells(q), p.Column) {
			return ""
		}
		return "This table has no such column."
	case k.keeps == AsPeople:
		return "This is not answered in writing."
	}
	return "This question has no rows or columns."
}

// AcceptsNon reports a non-answer that a place takes.
func (f *Form) AcceptsNon(p Place, n NonAnswer) bool {
	if n == "" {
		return true
	}
	q := f.Question(p.Question)
	if q == nil {
		return false
	}
	if p.Row != "" {
		for _, c := range f.Columns(q.Key) {
			if c.Key == p.Column {
				return slices.Contains(c.NonAnswers, n)
			}
		}
		return false
	}
	return p.Column == "" && slices.Contains(q.NonAnswers, n)
}

// Column finds a column of a table question; nil when there is none.
func (f *Form) Column(q, column Key) *Question {
	for _, c := range f.Columns(q) {
		if c.Key == column {
			return c
		}
	}
	return nil
}

// RowNumber is the place of a row in its table, from 1; 0 when it is not there.
func RowNumber(filled *Filled, p Place) int {
	return slices.Index(filled.Rows(p.Question), p.Row) + 1
}

// NextRow is the key of a new row after those that are there.
func NextRow(rows []string) string {
	last := 0
	for _, r := range rows {
		n := 0
		if _, err := fmt.Sscanf(strings.TrimPrefix(r, "r"), "%d", &n); err == nil {
			last = max(last, n)
		}
	}
	return RowKey(last + 1)
}

// RowKey is the key of the n-th row that a table ever had, from 1.
func RowKey(n int) string { return fmt.Sprintf("r%04d", n) }
