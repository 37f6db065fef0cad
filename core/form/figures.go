package form

import (
	"slices"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/decimal"
)

// figure is a compiled Figure.
type figure struct {
	def   *Figure
	frame int
	of    []source
	where condition.Program
	typ   condition.Type
	after int   // it can be worked out once this question is walked; -1: from the start
	reads []int // questions it reads
	unfit bool  // of a draft: it has faults and is not worked out
}

// source is one thing a figure reads: a cell of the frame, or a column of a
// table whose rows are read one by one.
type source struct {
	cell   int
	table  int // question, -1 for none
	column int // of the table; -1: the rows themselves
	budget Key // column of a budget's totals
}

// compileFigures orders the figures so that each comes after what it reads,
// and names the members of a ring.
func (c *compiler) compileFigures(once func(Key)) {
	d := c.f.Design
	at := map[Key]int{}
	for i := range d.Figures {
		c.at(
			"figures/"+string(d.Figures[i].Key),
			"figure "+name(d.Figures[i].Label, d.Figures[i].Key),
			d.Figures[i].Key,
		)
		once(d.Figures[i].Key)
		at[d.Figures[i].Key] = i
	}
	const (
		white, grey, black = 0, 1, 2
	)
	colour := make([]int, len(d.Figures))
	var trail []int
	var visit func(i int)
	visit = func(i int) {
		switch colour[i] {
		case black:
			return
		case grey:
			var names []string
			for _, j := range trail[slices.Index(trail, i):] {
				names = append(names, name(d.Figures[j].Label, d.Figures[j].Key))
			}
			c.path, c.place = "figures/"+string(d.Figures[i].Key), "figure "+name(d.Figures[i].Label, d.Figures[i].Key)
			c.need(false, "these figures are worked out from one another in a ring: %s", strings.Join(names, ", "))
			return
		}
		colour[i] = grey
		trail = append(trail, i)
		for _, r := range d.Figures[i].Of {
			if j, ok := at[r.Figure]; ok && r.Figure != "" {
				visit(j)
			}
		}
		trail = trail[:len(trail)-1]
		colour[i] = black
		c.compileFigure(&d.Figures[i], len(c.f.questions)+i)
	}
	for i := range d.Figures {
		visit(i)
	}
	for i := range c.f.figures {
		if a := c.f.figures[i].after; a >= 0 {
			c.f.questions[a].figures = append(c.f.questions[a].figures, i)
		}
	}
}

func (c *compiler) compileFigure(d *Figure, frame int) {
	c.path, c.place = "figures/"+string(d.Key), "figure "+name(d.Label, d.Key)
	f := figure{def: d, frame: frame, typ: condition.TypeNumber, after: -1}
	if d.Op == AnyRow || d.Op == EveryRow {
		f.typ = condition.TypeYes
	}
	faults := len(c.faults)
	fewest := map[FigureOp]int{Sum: 1, Difference: 2, Share: 2, AgeOn: 2, MonthsTo: 2, CountWhere: 1, AnyRow: 1,
		EveryRow: 1, LeastOf: 1, MostOf: 1, StepOf: 1, PartOf: 1}
	least, ok := fewest[d.Op]
	c.need(ok, "a figure cannot be worked out by %q", d.Op)
	c.need(len(d.Of) >= least, "%q reads at least %d things", d.Op, least)
	if d.Op == Share || d.Op == AgeOn || d.Op == MonthsTo {
		c.need(len(d.Of) <= 2, "%q reads two things", d.Op)
	}
	c.need(d.Op != PartOf || d.Percent > 0 && d.Percent <= 1000 && len(d.Of) <= 1, "say how many percent of one thing")
	if d.Op == StepOf {
		t := c.f.tables[d.Table]
		c.need(t != nil && len(t.steps()) > 0, "a step needs a table with a column of numbers")
	}
	want := condition.TypeNumber
	if d.Op == AgeOn || d.Op == MonthsTo {
		want = condition.TypeDate
	}
	rows := d.Op == CountWhere || d.Op == AnyRow || d.Op == EveryRow
	c.walked = len(c.f.questions)
	for _, r := range d.Of {
		s, typ, err := c.source(r)
		if err != nil {
			c.need(false, "%s", err)
			continue
		}
		switch {
		case s.table >= 0 && s.column < 0:
			c.need(rows, "name the column of the table that is added up")
		case rows:
			c.need(typ == condition.TypeYes && d.Op == CountWhere && s.table < 0,
				"counting reads a table's rows, or yes/no answers")
		default:
			c.need(typ == want, "%q does not fit what it reads", d.Op)
		}
		f.of = append(f.of, s)
		switch {
		case r.Figure != "":
			for i := range c.f.figures {
				if c.f.figures[i].def.Key == r.Figure {
					f.after = max(f.after, c.f.figures[i].after)
					f.reads = append(f.reads, c.f.figures[i].reads...)
				}
			}
		case r.Answer != "" || r.Fixed == condition.Stream || r.Fixed == condition.Applicant:
			i := s.table
			if i < 0 {
				i = s.cell
				if j, ok := c.f.index[r.Answer]; ok {
					i = j
				}
			}
			f.after = max(f.after, i)
			f.reads = append(f.reads, i)
		}
	}
	if !d.Where.Always() && len(f.of) > 0 && f.of[0].table >= 0 {
		c.rows, c.column = f.of[0].table, 1<<20
		// the columns are not compiled yet: resolve them by the table's own list
		f.where = c.whereOf(d, f.of[0].table)
		c.rows = -1
	}
	f.unfit = len(c.faults) > faults
	c.f.figures = append(c.f.figures, f)
}

// source finds what a figure reads.
func (c *compiler) source(r condition.Ref) (source, condition.Type, error) {
	out := source{cell: -1, table: -1, column: -1}
	if i, ok := c.f.index[r.Answer]; ok {
		q := &c.f.questions[i]
		switch {
		case q.def.Keeps() == InLines:
			if !slices.ContainsFunc(c.f.BudgetSums(q.def), func(o Option) bool { return o.Key == r.Column }) {
				return out, 0, Fault{c.path, c.place, "the budget has no sum called " + string(r.Column)}
			}
			out.table, out.column, out.budget = i, 0, r.Column
			return out, condition.TypeNumber, nil
		case len(c.columnsOf(q.def)) > 0:
			out.table = i
			for n, col := range c.columnsOf(q.def) {
				if col.Key == r.Column {
					out.column, out.cell = n, q.cells+n
					return out, c.kind(&col).typ, nil
				}
			}
			if r.Column != "" {
				return out, 0, Fault{c.path, c.place, "the table has no column " + string(r.Column)}
			}
			return out, 0, nil
		}
	}
	i, typ, err := c.Resolve(r)
	out.cell = i
	return out, typ, err
}

// whereOf compiles a condition over the columns of a table's row.
func (c *compiler) whereOf(d *Figure, table int) condition.Program {
	q := &c.f.questions[table]
	for n, col := range c.columnsOf(q.def) {
		q.columns = append(q.columns, question{def: &col, kind: c.kind(&col)})
		_ = n
	}
	p := c.cond(d.Where)
	q.columns = nil
	return p
}

// figures works out what is known once a question is walked.
func (w *walk) figures(list []int) {
	for _, i := range list {
		f := &w.form.figures[i]
		w.frame[f.frame] = w.figure(f)
	}
}

func (w *walk) figure(f *figure) condition.Cell {
	if f.unfit {
		return condition.Cell{Presence: condition.Unsettled}
	}
	switch f.def.Op {
	case CountWhere, AnyRow, EveryRow:
		return w.count(f)
	case AgeOn, MonthsTo:
		return w.between(f)
	}
	var values []condition.Number
	for _, s := range f.of {
		v, cell := w.numbers(f, s)
		if cell.Presence != condition.Given {
			// a sum reads what is not asked, and a blank that means no, as nothing
			zero := cell.Presence == condition.NotAsked || cell.Presence == condition.Blank && cell.BlankNo
			if !zero {
				return condition.Cell{Presence: cell.Presence}
			}
			if f.def.Op != Sum && f.def.Op != Difference {
				return condition.Cell{Presence: condition.NotAsked}
			}
			v = []condition.Number{{Den: 1}}
		}
		if f.def.Op == Difference || f.def.Op == Share || f.def.Op == PartOf {
			sum := condition.Number{Den: 1}
			for _, n := range v {
				sum = decimal.Add(sum, n)
			}
			v = []condition.Number{sum}
		}
		values = append(values, v...)
	}
	return w.reckon(f, values)
}

func (w *walk) reckon(f *figure, values []condition.Number) condition.Cell {
	given := func(n condition.Number) condition.Cell {
		return condition.Cell{Presence: condition.Given, Value: condition.Value{Number: &n}}
	}
	if len(values) == 0 {
		if f.def.Op == Sum {
			return given(condition.Number{Den: 1})
		}
		return condition.Cell{Presence: condition.Blank}
	}
	out := values[0]
	switch f.def.Op {
	case Sum:
		for _, n := range values[1:] {
			out = decimal.Add(out, n)
		}
	case Difference:
		for _, n := range values[1:] {
			out = decimal.Add(out, decimal.Neg(n))
		}
	case Share:
		q, ok := decimal.Div(values[0], values[1])
		if !ok {
			return condition.Cell{Presence: condition.Blank}
		}
		out = q
	case PartOf:
		out, _ = decimal.Div(out, condition.Number{Num: 100, Den: f.def.Percent})
	case LeastOf:
		out = slices.MinFunc(values, condition.Number.Compare)
	case MostOf:
		out = slices.MaxFunc(values, condition.Number.Compare)
	case StepOf:
		n, ok := w.form.tables[f.def.Table].Round(out, f.def.Rounding)
		if !ok {
			return condition.Cell{Presence: condition.Blank}
		}
		out = n
	}
	return given(out)
}

// numbers of a source: one of a cell, one a row of a table's column. The cell
// says how they stand.
func (w *walk) numbers(f *figure, s source) ([]condition.Number, condition.Cell) {
	if s.table < 0 {
		cell := w.frame[s.cell]
		if cell.Presence == condition.Given && cell.Value.Number != nil {
			return []condition.Number{*cell.Value.Number}, cell
		}
		return nil, cell
	}
	cell := w.frame[s.table]
	if cell.Presence != condition.Given {
		return nil, cell
	}
	st := &w.path.Questions[s.table]
	if s.budget != "" {
		if st.Totals == nil {
			return nil, condition.Cell{Presence: condition.Blank}
		}
		return []condition.Number{number(BudgetSum(st.Totals, s.budget))}, cell
	}
	var out []condition.Number
	for _, row := range st.Rows {
		if !f.def.Where.Always() && w.fits(f, s.table, row).Tri != condition.Yes {
			continue
		}
		if c := row.Cells[s.column]; c.Presence == condition.Given && c.Value.Number != nil {
			out = append(out, *c.Value.Number)
		}
	}
	return out, cell
}

// between is the whole years or months between two dates.
func (w *walk) between(f *figure) condition.Cell {
	var d [2]calendar.Date
	for i := range d {
		cell := w.frame[f.of[i].cell]
		if cell.Presence != condition.Given {
			return condition.Cell{Presence: cell.Presence}
		}
		d[i] = cell.Value.Date
	}
	n := calendar.MonthsBetween(d[0], d[1])
	if f.def.Op == AgeOn {
		n = calendar.AgeOn(d[0], d[1])
	}
	return condition.Cell{Presence: condition.Given, Value: condition.Value{Number: &condition.Number{Num: int64(n),
		Den: 1}}}
}

// fits answers the figure's own condition for one row of a table.
func (w *walk) fits(f *figure, table int, row RowState) condition.Verdict {
	for i := range row.Cells {
		w.frame[w.form.questions[table].cells+i] = row.Cells[i].cell()
	}
	return f.where.Eval(w.frame)
}

// count rows that fulfil the condition, or yes/no answers that are yes. While
// a row is open the count is not known yet, unless it decides nothing more.
func (w *walk) count(f *figure) condition.Cell {
	yes, unknown, declared, all := 0, 0, 0, 0 // declared: unknown only because somebody said so
	for _, s := range f.of {
		if s.table < 0 {
			switch cell := w.frame[s.cell]; {
			case cell.Presence == condition.Given && *cell.Value.Yes:
				yes++
			case cell.Presence == condition.Declared:
				unknown, declared = unknown+1, declared+1
			case cell.Presence == condition.Blank && !cell.BlankNo, cell.Presence == condition.Unsettled:
				unknown++
			}
			all++
			continue
		}
		cell := w.frame[s.table]
		if cell.Presence == condition.Unsettled || cell.Presence == condition.Declared {
			return condition.Cell{Presence: cell.Presence}
		}
		for _, row := range w.path.Questions[s.table].Rows {
			switch v := w.fits(f, s.table, row); {
			case v.Tri == condition.Yes:
				yes++
			case v.ForPerson():
				unknown, declared = unknown+1, declared+1
			case v.Tri == condition.Unknown:
				unknown++
			}
			all++
		}
		if cell.Presence == condition.Blank && !cell.BlankNo && w.path.Questions[s.table].Must != condition.No {
			return condition.Cell{Presence: condition.Blank}
		}
	}
	settled := func(v bool) condition.Cell {
		return condition.Cell{Presence: condition.Given, Value: condition.Value{Yes: &v}}
	}
	switch {
	case f.def.Op == AnyRow && yes > 0:
		return settled(true)
	case f.def.Op == EveryRow && yes+unknown < all:
		return settled(false)
	case unknown > declared:
		return condition.Cell{Presence: condition.Blank}
	case declared > 0:
		return condition.Cell{Presence: condition.Declared}
	case f.def.Op == AnyRow:
		return settled(false)
	case f.def.Op == EveryRow:
		return settled(true)
	}
	return condition.Cell{Presence: condition.Given, Value: condition.Value{Number: &condition.Number{Num: int64(yes),
		Den: 1}}}
}
