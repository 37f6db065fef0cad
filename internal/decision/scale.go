package decision

import (
	"cmp"
	"context"
	"errors"
	"math"
	"slices"
	"time"

	"ulvant/core/assignment"
	"ulvant/core/calibrate"
	"ulvant/core/form"
	"ulvant/core/mark"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/round"
)

// Scale is the marks of a stage brought to one scale, with how far they can be
// trusted.
type Scale struct {
	Table    Table
	Cases    []ScaledCase // by calibrated score, the highest first
	Readers  []ScaledReader
	Mean     float64
	Alpha    float64 // NaN: nobody can tell
	Single   float64
	Controls int       // cases that one reader more marked, as a control
	Apart    float64   // the mean difference of two readers of one of them
	Close    int       // cases that are too close to call
	Juries   [][]int64 // accounts that chains of cases join; more than one cannot be compared
	Low, Top float64   // of the scale
}

// ScaledCase is one case on that scale.
type ScaledCase struct {
	Row             // as the order has it
	Raw     float64 // mean of the marks
	Score   float64 // calibrated
	Error   float64 // its standard error
	Chance  float64 // of standing above the line
	ByRaw   int     // its place by the mean, from 1
	Readers int
	Above   bool    // the money reaches it, in the order of calibrated scores
	Settles float64 // chance that one more reading settles what is too close to call; 0 where it is not
	place   int
}

// Close reports a case that is too close to call.
func (c ScaledCase) Close() bool { return calibrate.Close(c.Chance) }

// ScaledReader is how one reader marks.
type ScaledReader struct {
	Account  int64
	Name     string
	N        int
	Effect   float64 // above 0: milder than the others
	Error    float64
	Drift, Z float64 // a case in their own order, and how many standard errors that is
	Halo     float64 // NaN: nobody can tell
}

// Far reports a reader whose severity cannot be chance.
func (r ScaledReader) Far() bool { return math.Abs(r.Effect) >= 1.96*r.Error }

// draws is from how many draws chances are told.
const draws = 400

// sentMark is one criterion of one reader for one case.
type sentMark struct {
	Entry     int64 `db:"entry_id"`
	Account   int64 `db:"account_id"`
	Name      string
	Criterion form.Key
	Value     int
	SentAt    time.Time `db:"sent_at"`
}

// read is one reader's marks for one case.
type read struct {
	at, reader int // places
	score      float64
	sent       time.Time
	values     []float64 // in the order of the criteria; NaN where one does not apply
}

// Scale the marks of a stage; calibrate.ErrTooFew when there are too few. draw is
// where chance comes from.
func (s *Store) Scale(ctx context.Context, q db.Querier, r round.Round, f *form.Form, stage form.Key,
	draw calibrate.Normal) (out Scale, err error) {
	if out.Table, err = s.Order(ctx, q, r, f, stage); err != nil {
		return out, err
	}
	var rows []sentMark
	if err := q.SelectContext(ctx, &rows, `
		SELECT m.entry_id, m.account_id, p.name, m.criterion, m.value, g.sent_at FROM standing st
		JOIN assignment g ON g.entry_id = st.entry_id AND g.sent_at IS NOT NULL
		JOIN account p ON p.id = g.account_id
		JOIN mark m ON m.entry_id = g.entry_id AND m.account_id = g.account_id
		WHERE st.round_id = $1 AND st.stage = $2 ORDER BY m.entry_id, m.account_id`, r.ID, stage); err != nil {
		return out, err
	}
	at := map[int64]int{}
	for i, row := range out.Table.Rows {
		at[row.EntryID] = i
	}
	reads := out.gather(f, rows, at)
	marks := make([]calibrate.Mark, len(reads))
	given := make([][]int, len(out.Table.Rows))
	for i, x := range reads {
		marks[i] = calibrate.Mark{Case: x.at, Reader: x.reader, Value: x.score}
		given[x.at] = append(given[x.at], x.reader)
	}
	for _, jury := range assignment.Juries(given, len(out.Readers)) {
		var list []int64
		for _, j := range jury {
			list = append(list, out.Readers[j].Account)
		}
		out.Juries = append(out.Juries, list)
	}
	m, err := calibrate.Fit(marks, len(out.Table.Rows), len(out.Readers))
	if err != nil {
		return out, err
	}
	out.Mean, out.Alpha, out.Single = m.Mean, calibrate.Alpha(marks), m.Single()
	out.cases(m, f, given, m.Chances(draw, draws, out.Table.above))
	out.trust(m, reads)
	out.controls(f, reads)
	return out, nil
}

// controls says how far readers lie apart on the cases that one more marked as a control.
func (out *Scale) controls(f *form.Form, reads []read) {
	of := map[int][]float64{}
	for _, x := range reads {
		if f.Design.Controlled(out.Table.Rows[x.at].EntryID) {
			of[x.at] = append(of[x.at], x.score)
		}
	}
	sum, pairs := 0.0, 0
	for _, list := range of {
		if len(list) > f.Design.ReadersEach {
			out.Controls++
			for i, a := range list {
				for _, b := range list[:i] {
					sum += math.Abs(a - b)
					pairs++
				}
			}
		}
	}
	if pairs > 0 {
		out.Apart = sum / float64(pairs)
	}
}

// gather is each reader's score for each case; readers are numbered as they come.
func (out *Scale) gather(f *form.Form, rows []sentMark, at map[int64]int) (reads []read) {
	reader := map[int64]int{}
	for from := 0; from < len(rows); {
		upto := from
		marks := map[form.Key]int{}
		for upto < len(rows) && rows[upto].Entry == rows[from].Entry && rows[upto].Account == rows[from].Account {
			marks[rows[upto].Criterion] = rows[upto].Value
			upto++
		}
		x := rows[from]
		from = upto
		c, ok := at[x.Entry]
		if !ok { // still being read
			continue
		}
		if _, ok := reader[x.Account]; !ok {
			reader[x.Account] = len(out.Readers)
			out.Readers = append(out.Readers, ScaledReader{Account: x.Account, Name: x.Name})
		}
		values, weights := reading.InOrder(f, marks)
		score, _ := mark.Weighted(values, weights)
		each := make([]float64, len(values))
		for i, v := range values {
			each[i] = float64(v)
			if v < 0 {
				each[i] = math.NaN()
			}
		}
		reads = append(reads, read{c, reader[x.Account], score.Float(), x.SentAt, each})
	}
	return reads
}

// above is which cases in an order the money reaches: it stops at the first that
// does not fit.
func (t Table) above(order []int) []bool {
	out := make([]bool, len(order))
	left := t.Fund
	for i, c := range order {
		if left -= t.Rows[c].Asked0(); left < 0 {
			break
		}
		out[i] = true
	}
	return out
}

func (out *Scale) cases(m *calibrate.Model, f *form.Form, given [][]int, chances []float64) {
	raw := make([]float64, len(out.Table.Rows))
	for i, row := range out.Table.Rows {
		raw[i] = mark.Mean(row.Scores).Float()
		if len(given[i]) == 0 {
			continue
		}
		out.Cases = append(out.Cases, ScaledCase{Row: row, Raw: raw[i], Score: m.Calibrated(i), Error: m.Cases[i].Error,
			Chance: chances[i], Readers: len(given[i]), place: i})
	}
	for i := range out.Cases {
		out.Cases[i].ByRaw = 1
		for _, c := range out.Cases {
			if c.Raw > out.Cases[i].Raw {
				out.Cases[i].ByRaw++
			}
		}
		if out.Cases[i].Close() {
			out.Close++
		}
	}
	slices.SortStableFunc(out.Cases, func(a, b ScaledCase) int { return cmp.Compare(b.Score, a.Score) })
	left := out.Table.Fund
	for i := range out.Cases {
		if left -= out.Cases[i].Asked0(); left < 0 {
			break
		}
		out.Cases[i].Above = true
	}
	for i := range out.Cases {
		if i > 0 && out.Cases[i-1].Above && !out.Cases[i].Above {
			line := (out.Cases[i-1].Score + out.Cases[i].Score) / 2
			for k := range out.Cases {
				if c := &out.Cases[k]; c.Close() {
					c.Settles = m.Settles(c.place, line)
				}
			}
		}
	}
	out.Low, out.Top = float64(f.Design.MostMark()), 0
	for _, c := range out.Cases {
		out.Low, out.Top = min(out.Low, c.Score-1.96*c.Error), max(out.Top, c.Score+1.96*c.Error)
	}
}

// trust is what can be told of each reader.
func (out *Scale) trust(m *calibrate.Model, reads []read) {
	by := make([][]read, len(out.Readers))
	for _, x := range reads {
		by[x.reader] = append(by[x.reader], x)
	}
	for j := range out.Readers {
		r := &out.Readers[j]
		r.N, r.Effect, r.Error = len(by[j]), m.Readers[j].Is, m.Readers[j].Error
		slices.SortStableFunc(by[j], func(a, b read) int { return a.sent.Compare(b.sent) })
		var residuals []float64
		var rows [][]float64
		for _, x := range by[j] {
			residuals = append(residuals, m.Residual(calibrate.Mark{Case: x.at, Reader: j, Value: x.score}))
			if !slices.ContainsFunc(x.values, math.IsNaN) {
				rows = append(rows, x.values)
			}
		}
		r.Drift, r.Z = calibrate.Drift(residuals)
		r.Halo = math.NaN()
		if len(rows) > 0 {
			r.Halo = calibrate.Halo(rows)
		}
	}
	slices.SortStableFunc(out.Readers, func(a, b ScaledReader) int { return cmp.Compare(a.Effect, b.Effect) })
}

// calibrated brings the scores of an order to one scale; scores stay as they are
// where there are too few marks, or juries that share nobody.
func calibrated(rows []Row, scores []mark.Score) []mark.Score {
	reader := map[int64]int{}
	var marks []calibrate.Mark
	given := make([][]int, len(rows))
	for i, row := range rows {
		for k, account := range row.By {
			if _, ok := reader[account]; !ok {
				reader[account] = len(reader)
			}
			marks = append(marks, calibrate.Mark{Case: i, Reader: reader[account], Value: row.Scores[k].Float()})
			given[i] = append(given[i], reader[account])
		}
	}
	if len(assignment.Juries(given, len(reader))) > 1 { // never put in one order silently
		return scores
	}
	m, err := calibrate.Fit(marks, len(rows), len(reader))
	if errors.Is(err, calibrate.ErrTooFew) {
		return scores
	}
	out := slices.Clone(scores)
	for i, row := range rows {
		if len(row.By) > 0 {
			out[i] = mark.Score{Num: int64(math.Round(m.Calibrated(i) * 1e6)), Den: 1e6}
		}
	}
	return out
}
