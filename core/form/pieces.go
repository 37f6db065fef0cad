package form

import (
	"strings"

	"ulvant/core/condition"
	"ulvant/core/control"
	"ulvant/core/money"
)

// What kinds kept piece by piece, or in rows, have in common.

// pieceWords writes the pieces that were given.
func pieceWords(s *QuestionState) (out []string) {
	for _, p := range s.Parts {
		raw := strings.TrimSpace(p.Raw)
		switch {
		case raw == "":
			continue
		case p.Options != nil:
			raw = LabelOf(p.Options, raw)
		case p.Presence == condition.Given && KindOf(p.Kind).Normal:
			raw = p.Value.Text
		}
		if p.Named {
			raw = p.Label + ": " + raw
		}
		out = append(out, raw)
	}
	return out
}

func joined(_ *Form, _ *Question, _ *Filled, s *QuestionState) string {
	return strings.Join(pieceWords(s), ", ")
}

// piecesDrawn draws what is not drawn as one input; only non-answers are.
func piecesDrawn(*Form, *Question, *Filled, string) Control { return Control{As: control.Computed} }

// completePieces answers the pieces that must be there; of says what, "" leaves
// a piece, and nil takes an example.
func completePieces(f *Form, filled *Filled, q *Question, of func(i int, p Part) string) bool {
	changed := false
	for i, p := range f.Parts(q) {
		v := ""
		switch {
		case of != nil:
			v = of(i, p)
		case !p.May:
			v = f.ExampleOf(p)
		}
		if at := (Place{Question: q.Key, Column: p.Key}); v != "" && filled.Answers[at].Raw == "" {
			filled.Answers[at] = Answer{Raw: v}
			changed = true
		}
	}
	return changed
}

func completePlainly(f *Form, filled *Filled, q *Question, _ *QuestionState) bool {
	return completePieces(f, filled, q, nil)
}

func checkRows(w *walk, _ *question, s *QuestionState) {
	n := len(s.Rows)
	if l := s.Limits.RowsLeast; n < l {
		w.obstacle(s, Obstacle{Code: CodeTooFewRows, Have: int64(n), Limit: int64(l)})
	}
	if l := s.Limits.RowsMost; l > 0 && n > l {
		w.obstacle(s, Obstacle{Code: CodeTooManyRows, Have: int64(n), Limit: int64(l)})
	}
}

// RowSums are the sums of the columns of money, beside a nil for each other column.
func (f *Form) RowSums(q *Question, s *QuestionState) []*int64 {
	columns := f.Columns(q.Key)
	out := make([]*int64, len(columns))
	for i, c := range columns {
		if c.Measure() != Sums {
			continue
		}
		out[i] = new(int64)
		for _, r := range s.Rows {
			if cell := &r.Cells[i]; cell.Presence == condition.Given {
				*out[i] += cell.Value.Number.Num
			}
		}
	}
	return out
}

// rowWords writes a table line by line, and the sum of each column of money.
func rowWords(f *Form, q *Question, _ *Filled, s *QuestionState) string {
	columns := f.Columns(q.Key)
	var out []string
	for _, r := range s.Rows {
		var cells []string
		for i, c := range columns {
			switch cell := &r.Cells[i]; cell.Presence {
			case condition.Declared:
				cells = append(cells, c.Label+": "+string(cell.Non))
			case condition.Given:
				cells = append(cells, c.Label+": "+f.Words(c, &Filled{}, cell))
			}
		}
		out = append(out, strings.Join(cells, "; "))
	}
	for i, sum := range f.RowSums(q, s) {
		if sum != nil && len(s.Rows) > 1 {
			out = append(out, "All of “"+columns[i].Label+"”: "+money.Format(*sum, f.Design.Currency))
		}
	}
	return strings.Join(out, "\n")
}

// mostExampleRows is where adding rows stops to be of use.
const mostExampleRows = 30

// addExampleRow adds a row of examples.
func addExampleRow(f *Form, filled *Filled, q *Question, _ *QuestionState) bool {
	n := len(filled.Rows(q.Key))
	if n >= mostExampleRows {
		return false
	}
	for _, c := range f.Columns(q.Key) {
		filled.Answers[Place{q.Key, RowKey(n + 1), c.Key}] = Answer{Raw: f.Example(c, c.Limits.Else)}
	}
	return true
}
