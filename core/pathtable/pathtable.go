// Package pathtable works out who is asked what: at most so many kinds of
// applicant, named by what tells them apart, and for each what they are asked.
//
// Made-up applicants who may apply are walked through the form; starting from
// one column, the column and the deciding value are split whose parting leaves
// the fewest cells mixed, weighted by the minutes they take, as decision trees
// are grown (Breiman and others, Classification and Regression Trees, 1984);
// then every cell is settled exactly by the proof: asked of all, of some or of
// none, and whether it must be answered.
package pathtable

import (
	"context"
	"math/bits"
	"slices"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/proof"
	"ulvant/core/say"
)

// Most columns there are.
const Most = 8

// samples is how many made-up applicants are walked.
const samples = 2000

// State of a cell.
type State string

// The states: everybody of the kind must answer, they may have to or may
// leave it, nobody of the kind is asked.
const (
	Must State = "must"
	May  State = "may"
	Not  State = "not"
)

// Column is one kind of applicant.
type Column struct {
	Name   string
	Parts  []string // of the name, one for each question that tells it apart
	Splits []proof.Split
	Share  int // of the applicants walked, in percent: not of those who will come
	Totals
}

// Totals of a column.
type Totals struct {
	Questions         int // that must be answered
	Papers, Letters   int // files and referees that must be given
	Confirmations     int
	Minutes           int
	FeeLeast, FeeMost int64 // minor units
	minutes           int
}

// Row is one section or question.
type Row struct {
	Key     form.Key
	Path    string // in the document
	Label   string
	Section bool
	Cells   []Cell // as the columns
	Differs bool   // not the same for every column
	Limits  bool   // the limits of those who are asked differ
}

// Cell is what one kind of applicant meets there.
type Cell struct {
	State State
	Limit string // such as 250 words, where it is one
}

// Table is who is asked what.
type Table struct {
	Columns []Column
	Rows    []Row
	Asker   *proof.Asker // for what a cell hangs on
	Unseen  bool         // time ran out: cells are as the samples have them
}

type set []uint64

func (s set) has(i int) bool { return s[i/64]>>(i%64)&1 == 1 }
func (s set) put(i int)      { s[i/64] |= 1 << (i % 64) }
func (s set) size() (n int) {
	for _, w := range s {
		n += bits.OnesCount64(w)
	}
	return n
}

// mixed reports that of these, some are in and some are not.
func (s set) mixed(in set) bool {
	some, others := false, false
	for i, w := range s {
		some = some || w&in[i] != 0
		others = others || w&^in[i] != 0
	}
	return some && others
}

func (s set) and(o set, not bool) set {
	out := make(set, len(s))
	for i := range s {
		if not {
			out[i] = s[i] &^ o[i]
		} else {
			out[i] = s[i] & o[i]
		}
	}
	return out
}

// column under way.
type column struct {
	in     set
	splits []proof.Split
}

// Make works the table out. before are the columns as they stood: those that
// are still there keep their order. dice gives a number from 0 to n-1; the same
// dice give the same table. The context bounds it.
func Make(ctx context.Context, f *form.Form, before []Column, dice func(n int) int) *Table {
	a := proof.NewAsker(ctx, f)
	splits := a.Splits()
	drawn := a.Samples(samples, dice, splits)
	t := &Table{Asker: a}
	words := (len(drawn) + 63) / 64
	cells, weights := questionsOf(f, drawn, words)
	halves := make([]set, len(splits))
	for k := range splits {
		halves[k] = make(set, words)
		for i, s := range drawn {
			if s.Is[k] {
				halves[k].put(i)
			}
		}
	}
	all := make(set, words)
	for i := range drawn {
		all.put(i)
	}
	columns := []column{{in: all}}
	for len(columns) < Most {
		c, k := best(columns, splits, halves, cells, weights)
		if k < 0 {
			break
		}
		yes, no := splits[k], splits[k]
		no.Not = true
		was := columns[c]
		columns[c] = column{was.in.and(halves[k], false), append(slices.Clone(was.splits), yes)}
		columns = slices.Insert(columns, c+1, column{was.in.and(halves[k], true), append(slices.Clone(was.splits), no)})
	}
	for _, c := range columns {
		parts := Parts(f, c.splits)
		t.Columns = append(t.Columns, Column{Name: strings.Join(parts, " · "), Parts: parts, Splits: c.splits,
			Share: c.in.size() * 100 / max(len(drawn), 1)})
	}
	inOrder(t.Columns, columns, before)
	t.fill(ctx, f, a, columns, drawn)
	return t
}

// questionsOf gathers, for each question, who is asked it, and its weight.
func questionsOf(f *form.Form, drawn []proof.Sample, words int) (cells []set, weights []int) {
	if len(drawn) == 0 {
		return nil, nil
	}
	for i := range drawn[0].Path.Questions {
		in := make(set, words)
		for j, s := range drawn {
			if s.Path.Questions[i].Asked == condition.Yes {
				in.put(j)
			}
		}
		q := f.Question(drawn[0].Path.Questions[i].Key)
		cells, weights = append(cells, in), append(weights, q.Tenths(q.Limits.Else))
	}
	return cells, weights
}

// best is the column and split that leave the fewest minutes mixed; -1 when
// none lessens them.
func best(columns []column, splits []proof.Split, halves, cells []set, weights []int) (c, k int) {
	mixed := func(in set) (sum int) {
		for i := range cells {
			if in.mixed(cells[i]) {
				sum += weights[i]
			}
		}
		return sum
	}
	c, k = -1, -1
	most := 0
	for i := range columns {
		was := mixed(columns[i].in)
		if was == 0 {
			continue
		}
		size := columns[i].in.size()
		for j := range halves {
			yes, no := columns[i].in.and(halves[j], false), columns[i].in.and(halves[j], true)
			if yes.size() == 0 || no.size() == 0 {
				continue
			}
			// both halves count by their size, so that the larger is cleared first
			fall := was*size - mixed(yes)*yes.size() - mixed(no)*no.size()
			if !splits[j].Asked {
				fall = fall * 2 / 3
			}
			if fall > most {
				most, c, k = fall, i, j
			}
		}
	}
	return c, k
}

// inOrder keeps the columns that were there before in their order.
func inOrder(now []Column, under []column, before []Column) {
	place := func(c Column) int {
		i := slices.IndexFunc(before, func(b Column) bool { return b.Name == c.Name })
		if i < 0 {
			return len(before)
		}
		return i
	}
	at := make([]int, len(now))
	for i := range at {
		at[i] = i
	}
	slices.SortStableFunc(at, func(a, b int) int { return place(now[a]) - place(now[b]) })
	n, u := slices.Clone(now), slices.Clone(under)
	for i, j := range at {
		now[i], under[i] = n[j], u[j]
	}
}

// fill settles every cell and sums the columns up.
func (t *Table) fill(ctx context.Context, f *form.Form, a *proof.Asker, columns []column, drawn []proof.Sample) {
	first := f.Place("")
	at := 0
	for i := range f.Design.Sections {
		s := &f.Design.Sections[i]
		path := "sections/" + string(s.Key)
		if f.Place(s.Stage) != first {
			at += len(s.Questions)
			continue
		}
		row := Row{Key: s.Key, Path: path, Label: s.Label, Section: true}
		for _, c := range t.Columns {
			may, must := a.AskedSection(c.Splits, i)
			row.Cells = append(row.Cells, Cell{State: state(may, must)})
		}
		t.Rows = append(t.Rows, row.finish())
		for j := range s.Questions {
			q := &s.Questions[j]
			row := Row{Key: q.Key, Path: path + "/questions/" + string(q.Key), Label: q.Label}
			for k := range t.Columns {
				row.Cells = append(row.Cells, t.cell(f, a, k, columns[k], drawn, at, q))
			}
			at++
			t.Rows = append(t.Rows, row.finish())
		}
	}
	for k := range t.Columns {
		t.Columns[k].Minutes = (t.Columns[k].minutes + 9) / 10
		t.fees(f, k, columns[k], drawn)
	}
	t.Unseen = ctx.Err() != nil
}

func state(may, must bool) State {
	switch {
	case must:
		return Must
	case may:
		return May
	}
	return Not
}

func (r Row) finish() Row {
	first := ""
	for _, c := range r.Cells {
		r.Differs = r.Differs || c != r.Cells[0]
		if c.Limit != "" && first == "" {
			first = c.Limit
		}
		r.Limits = r.Limits || c.Limit != "" && c.Limit != first
	}
	return r
}

// cell settles one, and adds it to its column.
func (t *Table) cell(f *form.Form, a *proof.Asker, k int, c column, drawn []proof.Sample, at int,
	q *form.Question) Cell {
	may, must := a.Asked(c.splits, q.Key)
	out := Cell{State: state(may, must)}
	if !may {
		return out
	}
	limits := q.Limits.Else
	texts := map[string]bool{}
	seen, asked := 0, 0
	for i, s := range drawn {
		if !c.in.has(i) {
			continue
		}
		seen++
		if st := &s.Path.Questions[at]; st.Asked == condition.Yes {
			asked++
			limits = st.Limits
			texts[short(f, q, st.Limits)] = true
		}
	}
	if len(texts) == 1 {
		for text := range texts {
			out.Limit = text
		}
	}
	total := &t.Columns[k].Totals
	share := 10 // of those of this kind, in tenths, who are asked it
	if seen > 0 && !must {
		share = asked * 10 / seen
	}
	total.minutes += q.Tenths(limits) * share / 10
	if !must {
		return out
	}
	total.Questions++
	switch {
	case q.Keeps() == form.AsFiles:
		total.Papers++
	case q.Confirms():
		total.Confirmations += max(limits.Referees, 1)
	case q.AsksPeople():
		total.Letters += max(limits.Referees, 1)
	}
	return out
}

// short is the limit that a column of a table has room for.
func short(f *form.Form, q *form.Question, l form.Limits) string {
	switch {
	case l.Words > 0:
		return phrase.Count(int64(l.Words), "word", "words")
	case l.Slot != nil && l.Slot.PagesMost > 0:
		return phrase.Count(int64(l.Slot.PagesMost), "page", "pages")
	case l.Referees > 0:
		return phrase.Count(int64(l.Referees), "person", "people")
	case l.PickMost > 0 || l.PickLeast > 0 || l.Least != nil || l.Most != nil:
		return strings.TrimSuffix(say.Limit(f, q, l, true), ".")
	}
	return ""
}

// fees is the range of what a kind of applicant pays for entering.
func (t *Table) fees(f *form.Form, k int, c column, drawn []proof.Sample) {
	first := true
	total := &t.Columns[k].Totals
	for i, s := range drawn {
		if !c.in.has(i) {
			continue
		}
		for j := range s.Path.Questions {
			st := &s.Path.Questions[j]
			if st.Fees == nil {
				continue
			}
			sum := int64(0)
			for _, x := range st.Fees {
				if !x.Optional && x.Offered == condition.Yes {
					sum += x.Most
				}
			}
			if first {
				total.FeeLeast, total.FeeMost, first = sum, sum, false
			}
			total.FeeLeast, total.FeeMost = min(total.FeeLeast, sum), max(total.FeeMost, sum)
		}
	}
}
