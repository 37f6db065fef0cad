package form

import (
	"ulvant/core/condition"
)

// parts reads an answer kept piece by piece: blank when every piece is.
func (w *walk) parts(q *question, s *QuestionState) {
	for _, p := range q.kind.parts(w.form, q.def) {
		st := PartState{Part: p, Raw: w.filled.Answers[Place{Question: q.def.Key, Column: p.Key}].Raw,
			Presence: condition.Blank}
		if !(Answer{Raw: st.Raw}).Empty() {
			s.Presence = condition.Given
			sub := &Question{Key: p.Key, Kind: p.Kind, Options: p.Options, Region: q.def.Region}
			if v, ok := w.form.Read(sub, st.Raw); ok {
				st.Presence, st.Value = condition.Given, v
			} else {
				st.Presence = condition.Declared // given, though it cannot be read
			}
		}
		s.Parts = append(s.Parts, st)
	}
	if s.Presence == condition.Blank && !q.kind.unasked {
		w.blank(s)
		return
	}
	bad := false
	for i := range s.Parts {
		p := &s.Parts[i]
		at := Place{Question: q.def.Key, Column: p.Key}
		switch {
		case p.Presence == condition.Declared:
			w.obstacle(s, Obstacle{Code: CodePartUnreadable, Place: at, Name: p.Label, Detail: p.Raw})
			bad, p.Presence = true, condition.Blank
		case p.Presence == condition.Blank && !p.May:
			w.obstacle(s, Obstacle{Code: CodePart, Place: at, Name: p.Label})
		}
	}
	if q.kind.check != nil && !bad {
		q.kind.check(w, q, s)
	}
}

// table reads the rows that an applicant added. A column's conditions read
// what stands before it in its row.
func (w *walk) table(q *question, s *QuestionState) {
	for _, key := range w.filled.Rows(q.def.Key) {
		row := RowState{Key: key, Cells: make([]QuestionState, len(q.columns))}
		empty := true
		for i := range q.columns {
			empty = empty && w.filled.Answers[Place{q.def.Key, key, q.columns[i].def.Key}].Empty()
		}
		if empty {
			continue
		}
		s.Presence = condition.Given
		for i := range q.columns {
			col := &q.columns[i]
			c := &row.Cells[i]
			before := len(w.path.Obstacles)
			c.Section = s.Section
			w.state(col, c, w.filled.Answers[Place{q.def.Key, key, col.def.Key}], condition.Yes)
			for j := before; j < len(w.path.Obstacles); j++ {
				w.path.Obstacles[j].Place = Place{q.def.Key, key, col.def.Key}
			}
			w.frame[q.cells+i] = c.cell()
		}
		s.Rows = append(s.Rows, row)
	}
	if s.Presence == condition.Blank {
		w.blank(s)
		if !q.kind.unasked {
			return
		}
	}
	if q.kind.check != nil {
		q.kind.check(w, q, s)
	}
}

// picked fills the cells of the row that was picked from a table.
func (w *walk) picked(q *question, s *QuestionState) {
	t := w.form.Fills(q.def)
	if t == nil {
		return
	}
	for i, col := range t.Columns {
		cell := condition.Cell{Presence: s.Presence, BlankNo: s.blankNo}
		if s.Presence == condition.Given {
			for _, r := range t.Rows {
				if string(r.Key) == s.Value.Text {
					cell.Value = cellValue(col, r.Cells[i])
				}
			}
		}
		w.frame[q.cells+i] = cell
	}
}
