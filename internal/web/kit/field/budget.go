package field

import (
	"encoding/json"
	"slices"
	"strings"

	"ulvant/core/control"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/say"
)

// Costs is a budget as it is typed: a grid, its lines under their headings, who
// pays for what, and what it comes to. Every figure that is worked out stands
// under a name in Sums, so that the page and the server write the same.
type Costs struct {
	Columns []CostColumn
	Bands   []Band
	Heads   bool // it has headings; else one band without a name
	Strip   []Segment
	At      string // where others and the applicant must come at least to, of 1000; "" for nowhere
	Sums    map[string]string
	Comes   []ComesTo
	Rules   string // how it is added up, as JSON for the page
	Quotes  []form.Option
}

// CostColumn of the grid.
type CostColumn struct {
	Key   form.Key
	Label string
	As    string // name, text, figure, choice, sum, quotes, move
}

// Band holds the lines of one heading.
type Band struct {
	Key   form.Key
	Label string
	Cap   string // "at most 30% of the whole cost"; "" for none
	Over  bool
	Lines []CostLine
}

// CostLine is one line; its cells are those of the columns.
type CostLine struct {
	Key    string
	Name   string // for whoever hears the page
	Cells  []Input
	Faults []Problem
	Empty  bool
}

// Segment of the strip, of 1000.
type Segment struct {
	Key   string // us, own, promised, applied, in-kind
	Label string
	X, W  int64
}

// ComesTo is one row under the grid; Sum names what stands there.
type ComesTo struct{ Label, Note, Sum string }

// Sum of the costs that has a name.
func (c *Costs) Sum(name string) string { return c.Sums[name] }

// AllProblems are those of the field and, of a budget, those beside its lines.
func (f *Field) AllProblems() []Problem {
	out := slices.Clone(f.Problems)
	if f.Costs != nil {
		for _, b := range f.Costs.Bands {
			for _, l := range b.Lines {
				out = append(out, l.Faults...)
			}
		}
	}
	return out
}

// costs draws a budget.
func (d *drawer) costs(out *Field) {
	q := out.Q
	c := &Costs{Columns: costColumns(q), Heads: len(q.Options) > 0, Sums: map[string]string{}}
	byRow := map[string][]Problem{}
	missing := map[string][]string{}
	kept := out.Problems[:0]
	for i, o := range out.obstacles {
		switch {
		case o.Place.Row == "":
			kept = append(kept, out.Problems[i])
		case o.Code == form.CodeBudgetChoice, o.Code == form.CodeBudgetLine && o.Detail == "":
			delete(d.faulty, o.Place) // to be filled in is not wrong
			missing[o.Place.Row] = append(missing[o.Place.Row],
				form.LabelOf(form.BudgetColumns(q), string(o.Place.Column)))
		default:
			byRow[o.Place.Row] = append(byRow[o.Place.Row], out.Problems[i])
		}
	}
	out.Problems = kept
	for row, list := range missing {
		byRow[row] = append(byRow[row], Problem{"Still to fill in: " + phrase.List(list), ""})
	}
	lines := map[string]form.BudgetLine{}
	for _, l := range d.form.BudgetLines(d.filled, q.Key) {
		lines[l.Row] = l
		c.Sums["row-"+l.Row] = money.Plain(l.Cost, out.Currency)
		if !q.Divided() {
			c.Sums["rest-"+l.Row] = money.Plain(l.Match(), out.Currency)
		}
	}
	for _, f := range d.filled.Files[quotesSlot(q)] {
		c.Quotes = append(c.Quotes, form.Option{Key: form.Key(form.FileRow(f.ID)), Label: f.Name})
	}
	c.bands(d, q, out.S.Limits, byRow)
	for i := range c.Bands {
		for j := range c.Bands[i].Lines {
			l := &c.Bands[i].Lines[j]
			_, some := lines[l.Key]
			l.Empty, l.Name = !some, lines[l.Key].Item
		}
	}
	c.sums(d.form, q, out.S)
	for _, o := range out.obstacles { // what is over says so at its band
		for i := range c.Bands {
			if o.Code == form.CodeBudgetCap && o.Name == c.Bands[i].Label {
				c.Bands[i].Over = true
			}
		}
	}
	c.Rules = costRules(d.form, q, out.S.Limits)
	out.Costs = c
}

func quotesSlot(q *form.Question) form.Key {
	if q.Costing == nil || q.Costing.Quotes == nil || q.Costing.Quotes.Count == 0 {
		return ""
	}
	return q.Costing.Quotes.Slot
}

// costColumns are those of the grid: what is worked out stands between what is
// typed, and the heading last, since the lines stand under theirs.
func costColumns(q *form.Question) (out []CostColumn) {
	as := map[form.Key]string{form.ColItem: "name", form.ColQuantity: "figure", form.ColEach: "figure",
		form.ColCost: "figure", form.ColUs: "figure", form.ColPayer: "choice", form.ColPeriod: "choice",
		form.ColPartner: "choice", form.ColGives: "choice", form.ColUnit: "text", form.ColWhen: "text",
		form.ColSupplier: "text", form.ColQuotes: "quotes"}
	for _, s := range form.SourceColumns {
		as[s.Key] = "figure"
	}
	move := -1
	for _, c := range form.BudgetColumns(q) {
		col := CostColumn{c.Key, c.Label, as[c.Key]}
		switch {
		case c.Key == form.ColHeading:
			move = len(out)
			continue
		case c.Key == form.ColUnit && len(q.Costing.Units) > 0:
			col.As = "choice"
		case c.Key == form.ColPayer:
			out = append(out, CostColumn{form.ColMatch, "Others pay", "sum"})
		}
		out = append(out, col)
		if c.Key == form.ColEach {
			out = append(out, CostColumn{form.ColCost, "Cost", "sum"})
		}
	}
	if move >= 0 {
		out = append(out, CostColumn{form.ColHeading, "Heading", "move"})
	}
	return out
}

// bands puts the lines under their headings, each with one empty line at its end.
// Lines that were emptied are drawn as those spares and no further; where every
// number of a row is used up, a spare is one that was emptied under another heading.
func (c *Costs) bands(d *drawer, q *form.Question, l form.Limits, faults map[string][]Problem) {
	rows := d.filled.Rows(q.Key)
	headings := q.Options
	if len(headings) == 0 {
		headings = []form.Option{{}}
	}
	taken := map[string]bool{}
	next, idle := rows, []string(nil)
	for _, h := range headings {
		b := Band{Key: h.Key, Label: h.Label, Cap: capOf(l, h.Key)}
		empty := 0
		for _, row := range rows {
			if c.Heads &&
				d.filled.Answers[form.Place{Question: q.Key, Row: row, Column: form.ColHeading}].Raw != string(h.Key) {
				continue
			}
			taken[row] = true
			line := c.line(d, q, row, h.Key, false)
			line.Faults = faults[row]
			if blank(line) {
				if empty >= spareLines(c.Heads, len(b.Lines)) {
					idle = append(idle, row)
					continue
				}
				empty++
			}
			b.Lines = append(b.Lines, line)
		}
		for ; empty < spareLines(c.Heads, len(b.Lines)); empty++ {
			row := form.NextRow(next)
			if row < form.RowKey(form.MostRows) {
				next = append(next, row)
			} else if len(idle) > 0 {
				row, idle = idle[0], idle[1:]
			} else {
				break
			}
			b.Lines = append(b.Lines, c.line(d, q, row, h.Key, true))
		}
		c.Bands = append(c.Bands, b)
	}
	loose := Band{Label: "Without a heading"}
	for _, row := range rows {
		if !taken[row] {
			line := c.line(d, q, row, "", false)
			line.Faults = faults[row]
			loose.Lines = append(loose.Lines, line)
		}
	}
	if len(loose.Lines) > 0 {
		c.Bands = append([]Band{loose}, c.Bands...)
	}
}

// spareLines is how many empty lines a band of so many has at least.
func spareLines(heads bool, lines int) int {
	if heads {
		return 1
	}
	return max(spare, 4-lines)
}

func blank(l CostLine) bool {
	for _, in := range l.Cells {
		if in.Name != "" && in.Value != "" && !strings.HasSuffix(in.Name, ":"+string(form.ColHeading)) {
			return false
		}
	}
	return true
}

func capOf(l form.Limits, heading form.Key) string {
	for _, c := range l.Caps {
		if c.Heading == heading {
			return "at most " + percentText(c.Percent) + " of " + say.Of(c.Of)
		}
	}
	return ""
}

// line draws one line; preset says that its heading is offered and not kept yet.
func (c *Costs) line(d *drawer, q *form.Question, row string, heading form.Key, preset bool) CostLine {
	out := CostLine{Key: row}
	x := q.Costing
	if x == nil {
		x = &form.Costing{}
	}
	for _, col := range c.Columns {
		p := form.Place{Question: q.Key, Row: row, Column: col.Key}
		if col.As == "sum" {
			name := "row-" + row
			if col.Key == form.ColMatch {
				name = "rest-" + row
			}
			out.Cells = append(out.Cells, Input{As: control.Computed, ID: name, Value: c.Sums[name]})
			continue
		}
		in := d.plain(p, col.Label)
		switch col.As {
		case "figure":
			in.As = control.Figure
		case "choice", "move":
			in.As = control.Select
			switch col.Key {
			case form.ColHeading:
				if in.Options = q.Options; preset {
					in.Value, in.Preset = string(heading), true
				}
			case form.ColPeriod:
				in.Options = x.Periods
			case form.ColPartner:
				in.Options = x.Partners
			case form.ColUnit:
				in.Options = x.Units
			case form.ColGives:
				in.Options = d.form.Gifts(q)[1:]
			case form.ColPayer:
				in.Options = form.PayerOptions()
			}
		case "quotes":
			in.As, in.Options = control.Checks, c.Quotes
		}
		out.Cells = append(out.Cells, in)
	}
	return out
}

// costRules is what the page must know to add a budget up as the server does.
// Sums are strings: a script's numbers do not hold them.
func costRules(f *form.Form, q *form.Question, l form.Limits) string {
	type base struct {
		Heading     string `json:"heading"`
		LineMost    int64  `json:"lineMost,string"`
		PartnerMost int64  `json:"partnerMost,string"`
	}
	type rules struct {
		Code       string           `json:"code"`
		Symbol     string           `json:"symbol"`
		Digits     int              `json:"digits"`
		Quantities bool             `json:"quantities"`
		Sources    []form.Key       `json:"sources"`
		Periods    []string         `json:"periods"`
		Partners   []string         `json:"partners"`
		Gifts      map[string]int64 `json:"gifts"`
		Rate       int64            `json:"rate"`
		Bases      []base           `json:"bases"`
		OfAsked    bool             `json:"ofAsked"`
		ByOwn      bool             `json:"byOwn"`
		InKindMost int64            `json:"inKindMost"`
		Match      int64            `json:"match"`
		Rows       int              `json:"rows"`
	}
	x := q.Costing
	if x == nil {
		x = &form.Costing{}
	}
	cur := f.Design.Currency
	out := rules{
		Code:       cur,
		Symbol:     money.Symbol(cur),
		Digits:     money.Digits(cur),
		Quantities: x.Quantities,
		Sources:    x.Sources,
		Gifts:      map[string]int64{},
		InKindMost: l.InKindMost,
		Match:      l.MatchPercent,
		Rows:       form.MostRows,
	}
	for _, p := range x.Periods {
		out.Periods = append(out.Periods, string(p.Key))
	}
	for _, p := range x.Partners {
		out.Partners = append(out.Partners, string(p.Key))
	}
	for _, k := range x.Gives {
		if g := f.Gift(k); g != nil {
			out.Gifts[string(k)] = g.Value
		}
	}
	if i := x.Indirect; i != nil {
		out.Rate, out.OfAsked, out.ByOwn = i.Rate, i.OfAsked, i.ByOwn
		for _, b := range i.Bases {
			out.Bases = append(out.Bases, base{string(b.Heading), b.LineMost, b.PartnerMost})
		}
	}
	raw, err := json.Marshal(out)
	if err != nil { // of numbers and texts there is nothing that cannot be written
		panic(err)
	}
	return string(raw)
}
