package design

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/condition"
	"ulvant/core/export"
	"ulvant/core/form"
	"ulvant/core/money"
)

// awardColumns are the columns of awards as CSV or JSON. What holds several things has
// them behind each other with a | between; who meets an award, and who comes first,
// stand there as a design has them, in JSON.
var awardColumns = []string{"label", "purse", "least", "places", "donor", "led", "by need", "need by", "merit by",
	"least merit", "match", "words in",
	"words", "look", "first", "apart", "papers", "public", "about"}

// AwardsSheet gives the awards of a design out; AwardsFromFile reads it, as CSV or JSON.
func AwardsSheet(d *form.Design) *export.Sheet {
	out := export.New(export.Named(awardColumns...)...)
	for _, a := range d.Awards {
		least, share, merit := "", "", ""
		if a.Least > 0 {
			least = money.Plain(a.Least, d.Currency)
		}
		if a.ByNeed != nil {
			share = strconv.Itoa(*a.ByNeed)
		}
		if a.LeastMerit > 0 {
			merit = strconv.Itoa(a.LeastMerit)
		}
		out.Add(export.Text(a.Label), export.Decimal(money.Plain(a.Purse, d.Currency)), export.Decimal(least),
			export.Whole(int64(a.Places)),
			export.Text(a.Donor), export.Text(a.Led), export.Decimal(share), export.Text(string(a.NeedBy)),
			export.Text(string(a.MeritBy)),
			export.Decimal(merit), export.Text(written(a.Match)), export.Text(string(a.WordsIn)),
			export.Text(strings.Join(a.Words, "|")),
			export.Text(yes(a.Look)), export.Text(written(a.First)), export.Text(a.Apart),
			export.Text(strings.Join(papersOf(d, a.Key), "|")),
			export.Text(yes(a.Public)), export.Text(a.About))
	}
	return out
}

func yes(b bool) string {
	if b {
		return "yes"
	}
	return ""
}

// written is a condition as a design has it; "" for none.
func written(c condition.Cond) string {
	if c.Always() {
		return ""
	}
	return string(raw(c))
}

// paperOf is the award question and the awards by which a question is asked, where it is
// asked by nothing else.
func paperOf(d *form.Design, q *form.Question) (picks form.Key, awards []string, ok bool) {
	t := q.Asked.Test
	if t == nil || t.Value == nil {
		return "", nil, false
	}
	switch t.Rel {
	case condition.Includes:
		awards = []string{t.Value.Text}
	case condition.IncludesAny:
		awards = t.Value.List
	default:
		return "", nil, false
	}
	return t.Of.Answer, awards, t.Of.Answer != "" && t.Of.Answer == awardsAsked(d)
}

// awardsAsked is the question that asks for which awards one applies; "" for none.
func awardsAsked(d *form.Design) form.Key {
	for _, s := range d.Sections {
		for i := range s.Questions {
			if s.Questions[i].PicksAwards() {
				return s.Questions[i].Key
			}
		}
	}
	return ""
}

// papersOf are the questions that are asked of those who apply for an award.
func papersOf(d *form.Design, award form.Key) (out []string) {
	for _, s := range d.Sections {
		for i := range s.Questions {
			if _, awards, ok := paperOf(d, &s.Questions[i]); ok && slices.Contains(awards, string(award)) {
				out = append(out, string(s.Questions[i].Key))
			}
		}
	}
	return out
}

// table reads a CSV, or a list of objects in JSON, into rows under one heading.
func table(text string, columns []string) ([][]string, error) {
	trimmed := strings.TrimSpace(strings.TrimPrefix(text, "\uFEFF"))
	if !strings.HasPrefix(trimmed, "[") && !strings.HasPrefix(trimmed, "{") {
		return lines(text)
	}
	var list []map[string]any
	if err := decoded(trimmed, &list); err != nil {
		var resource struct{ Data []map[string]any }
		if err := decoded(trimmed, &resource); err != nil {
			return nil, fmt.Errorf("this is not a list of objects in JSON: %w", err)
		}
		list = resource.Data
	}
	heading := slices.Clone(columns)
	for _, o := range list {
		for name := range o {
			if !slices.Contains(heading, name) {
				heading = append(heading, name) // refused by its name
			}
		}
	}
	slices.Sort(heading[len(columns):])
	rows := [][]string{heading}
	for _, o := range list {
		row := make([]string, len(heading))
		for i, name := range heading {
			switch v := o[name].(type) {
			case nil:
			case string:
				row[i] = v
			case json.Number:
				row[i] = v.String()
			case bool:
				row[i] = yes(v)
			default:
				row[i] = string(raw(v))
			}
		}
		rows = append(rows, row)
	}
	return rows, nil
}

func decoded(text string, into any) error {
	dec := json.NewDecoder(strings.NewReader(text))
	dec.UseNumber()
	return dec.Decode(into)
}

// AwardsFromFile makes the operations that add awards, of a CSV or JSON; one whose label
// is there already is left alone. Every fault is listed by line; with any, nothing is made.
func AwardsFromFile(document []byte, currency, text string) ([]Op, []form.Fault) {
	rows, err := table(text, awardColumns)
	if err != nil {
		return nil, []form.Fault{{Place: "the file", Says: err.Error()}}
	}
	var d form.Design
	if err := json.Unmarshal(document, &d); err != nil || len(rows) == 0 {
		return nil, []form.Fault{{Place: "the file", Says: "there is nothing in it"}}
	}
	there := map[string]bool{}
	for _, a := range d.Awards {
		there[a.Label] = true
	}
	column, faults := header(rows[0], awardColumns, "label")
	r := awardReader{d: &d, currency: currency, papers: map[form.Key][]string{}}
	var ops []Op
	at := document
	for i, row := range rows[1:] {
		r.get = func(name string) string { return cell(row, column, name) }
		if r.get("label") == "" || there[r.get("label")] {
			continue
		}
		there[r.get("label")] = true
		r.bad = func(says string) {
			faults = append(faults, form.Fault{Place: "line " + strconv.Itoa(i+2), Says: says})
		}
		key, err := NewKey(at, r.get("label"))
		if err != nil {
			r.bad(err.Error())
			continue
		}
		a := r.award()
		a.Key = key
		if _, given := column["public"]; !given {
			a.Public = true
		}
		r.asks(key)
		op := Op{Do: Add, Path: "awards", Value: raw(a)}
		if next, _, err := Apply(at, []Op{op}); err == nil {
			at = next
		}
		ops = append(ops, op)
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return append(ops, r.asked()...), nil
}

// awardReader reads awards line by line.
type awardReader struct {
	d        *form.Design
	currency string
	get      func(column string) string
	bad      func(says string)
	papers   map[form.Key][]string // by the question that asks for them: the awards that come to it
}

func (r *awardReader) sum(column string) int64 {
	p := r.get(column)
	if p == "" {
		return 0
	}
	n, ok := money.Parse(p, r.currency)
	if !ok || n < 0 {
		r.bad("“" + p + "” is not a sum")
	}
	return n
}

// number from least to most; missing says what stands for an empty cell.
func (r *awardReader) number(column, what string, least, most, missing int) int {
	p := r.get(column)
	if p == "" {
		return missing
	}
	n, err := strconv.Atoi(p)
	if err != nil || n < least || n > most {
		r.bad("“" + p + "” is not " + what)
	}
	return n
}

func (r *awardReader) condition(column string) (c condition.Cond) {
	if text := r.get(column); text != "" {
		dec := json.NewDecoder(bytes.NewReader([]byte(text)))
		dec.DisallowUnknownFields()
		if err := dec.Decode(&c); err != nil {
			r.bad("the condition under “" + column + "” cannot be read; take it as an export has it")
		}
	}
	return c
}

func (r *awardReader) yes(column string) bool {
	switch strings.ToLower(r.get(column)) {
	case "", "no", "false":
		return false
	case "yes", "true":
		return true
	}
	r.bad(column + " is yes, no or nothing, not “" + r.get(column) + "”")
	return false
}

func (r *awardReader) award() form.Award {
	a := form.Award{Label: r.get("label"), Donor: r.get("donor"), Led: r.get("led"), About: r.get("about"),
		Apart: r.get("apart"), Purse: r.sum("purse"),
		Least: r.sum("least"), Places: r.number("places", "a number of places", 1, 10_000, 1),
		LeastMerit: r.number("least merit", "a merit of 0 to 100", 0, 100, 0),
		Match:      r.condition("match"), First: r.condition("first"), Look: r.yes("look"), Public: r.yes("public"),
		WordsIn: form.Key(r.get("words in")),
		NeedBy:  form.Key(r.get("need by")), MeritBy: form.Key(r.get("merit by"))}
	if a.Led != "" && a.Led != "need" && a.Led != "merit" {
		r.bad("led is need, merit or nothing, not “" + a.Led + "”")
	}
	if n := r.number("by need", "a share of 0 to 100 percent", 0, 100, -1); n >= 0 {
		a.ByNeed = &n
	}
	for _, w := range strings.Split(r.get("words"), "|") {
		if w = strings.TrimSpace(w); w != "" {
			a.Words = append(a.Words, w)
		}
	}
	return a
}

// asks notes the papers that an award asks for: questions that other awards ask for
// too, or that are asked by nothing yet.
func (r *awardReader) asks(award form.Key) {
	for _, k := range strings.Split(r.get("papers"), "|") {
		k := form.Key(strings.TrimSpace(k))
		if k == "" {
			continue
		}
		var q *form.Question
		for i := range r.d.Sections {
			for j := range r.d.Sections[i].Questions {
				if x := &r.d.Sections[i].Questions[j]; x.Key == k {
					q = x
				}
			}
		}
		if q == nil {
			r.bad("there is no question “" + string(k) + "” for its papers")
			continue
		}
		if _, _, ok := paperOf(r.d, q); !ok {
			r.bad("“" + q.Label + "” is not asked by award; let it be asked of those who apply for one first")
			continue
		}
		r.papers[k] = append(r.papers[k], string(award))
	}
}

// asked are the operations by which papers are asked for by awards that came in.
func (r *awardReader) asked() (ops []Op) {
	for _, s := range r.d.Sections {
		for i := range s.Questions {
			q := &s.Questions[i]
			more := r.papers[q.Key]
			if more == nil {
				continue
			}
			picks, awards, _ := paperOf(r.d, q)
			c := condition.Cond{Test: &condition.Test{Of: condition.Ref{Answer: picks}, Rel: condition.IncludesAny,
				Value: &condition.Value{List: slices.Concat(awards, more)}}}
			ops = append(ops, Op{Do: Set, Path: "sections/" + string(s.Key) + "/questions/" + string(q.Key) + "/asked",
				Value: raw(c)})
		}
	}
	return ops
}
