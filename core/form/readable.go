package form

import "ulvant/core/condition"

// Readable lists what a condition may read that stands at a question, at a
// section, or at a column of a table; "" is the end of the document, where
// rules, awards and fees stand. Reading order.
func (f *Form) Readable(at, column Key) []condition.Ref {
	before, stage := len(f.questions), len(f.Design.Stages)
	for i := range f.sections {
		if f.sections[i].def.Key == at {
			before, stage = f.sections[i].first, f.sections[i].stage
		}
	}
	var out []condition.Ref
	if i, ok := f.index[at]; ok && at != "" {
		before, stage = i, f.sections[f.questions[i].section].stage
		for n, col := range f.Columns(at) {
			if column == "" || col.Key == column {
				break
			}
			if f.questions[i].columns[n].kind.comparable {
				out = append(out, condition.Ref{Answer: at, Column: col.Key})
			}
		}
	}
	for i := range before {
		q := &f.questions[i]
		if f.sections[q.section].stage > stage {
			continue
		}
		if q.kind.comparable {
			out = append(out, condition.Ref{Answer: q.def.Key})
		}
		if t := f.Fills(q.def); t != nil {
			for _, c := range t.Columns {
				out = append(out, condition.Ref{Answer: q.def.Key, Column: c.Key})
			}
		}
	}
	for i := range f.Design.Figures {
		for j := range f.figures {
			if f.figures[j].def == &f.Design.Figures[i] && f.figures[j].after < before {
				out = append(out, condition.Ref{Figure: f.figures[j].def.Key})
			}
		}
	}
	for _, m := range f.Design.Calendar {
		out = append(out, condition.Ref{Date: m.Key})
	}
	for _, s := range f.Design.Stages {
		if (s.Does == Apply || s.Does == Interview) && f.place(s.Key) < stage {
			out = append(out, condition.Ref{Stage: s.Key})
		}
	}
	return append(out, condition.Ref{Fixed: condition.Today}, condition.Ref{Fixed: condition.OthersInRound},
		condition.Ref{Fixed: condition.OthersInProgramme})
}

// RowsOf lists what a figure's own condition may read: the columns of a table.
func (f *Form) RowsOf(table Key) []condition.Ref {
	var out []condition.Ref
	if i, ok := f.index[table]; ok {
		for n, c := range f.Columns(table) {
			if f.questions[i].columns[n].kind.comparable {
				out = append(out, condition.Ref{Answer: table, Column: c.Key})
			}
		}
	}
	return out
}

// Sources lists what a figure may be worked out from: numbers, sums, dates and
// yes/no answers, tables and their columns, and other figures.
func (f *Form) Sources() []condition.Ref {
	var out []condition.Ref
	for i := range f.questions {
		q := &f.questions[i]
		switch {
		case q.def.Keeps() == InLines:
			for _, c := range f.BudgetSums(q.def) {
				out = append(out, condition.Ref{Answer: q.def.Key, Column: c.Key})
			}
		case q.columns != nil:
			out = append(out, condition.Ref{Answer: q.def.Key})
			for _, c := range q.columns {
				if c.kind.typ == condition.TypeNumber && c.kind.comparable {
					out = append(out, condition.Ref{Answer: q.def.Key, Column: c.def.Key})
				}
			}
		case q.kind.comparable && q.kind.typ != condition.TypeText && q.kind.typ != condition.TypeSet:
			out = append(out, condition.Ref{Answer: q.def.Key})
		}
		if t := f.Fills(q.def); t != nil {
			for _, c := range t.Columns {
				if c.Numbers {
					out = append(out, condition.Ref{Answer: q.def.Key, Column: c.Key})
				}
			}
		}
	}
	for i := range f.Design.Figures {
		out = append(out, condition.Ref{Figure: f.Design.Figures[i].Key})
	}
	for _, m := range f.Design.Calendar {
		out = append(out, condition.Ref{Date: m.Key})
	}
	return out
}
