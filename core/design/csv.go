package design

import (
	"encoding/csv"
	"errors"
	"io"
	"slices"
	"strconv"
	"strings"

	"ulvant/core/decimal"
	"ulvant/core/export"
	"ulvant/core/form"
	"ulvant/core/refusal"
)

// Tables of a design leave and come back as CSV (RFC 4180), so that colleagues
// can work on them in a spreadsheet.

// MostLines of one CSV.
const MostLines = 20_000

// lines reads a CSV whole; a byte-order mark is passed over. The faults of the
// csv package name line and column.
func lines(text string) ([][]string, error) {
	r := csv.NewReader(strings.NewReader(strings.TrimPrefix(text, "\uFEFF")))
	r.FieldsPerRecord = -1
	r.TrimLeadingSpace = true
	var out [][]string
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, refusal.Newf("this is not CSV: %v", err)
		}
		if len(out) == MostLines {
			return nil, refusal.Newf("a list holds at most %d lines", MostLines)
		}
		for i := range row {
			row[i] = export.Unguarded(row[i])
		}
		if strings.TrimSpace(strings.Join(row, "")) != "" {
			out = append(out, row)
		}
	}
}

// ItemsFromCSV reads the items of a list: code, label. One column alone is
// both. A code that stands twice is refused.
func ItemsFromCSV(text string) ([]form.Item, error) {
	rows, err := lines(text)
	if err != nil {
		return nil, err
	}
	seen := map[string]int{}
	var out []form.Item
	for i, row := range rows {
		it := form.Item{Code: strings.TrimSpace(row[0])}
		it.Label = it.Code
		if len(row) > 1 && strings.TrimSpace(row[1]) != "" {
			it.Label = strings.TrimSpace(row[1])
		}
		if it.Code == "" {
			return nil, refusal.Newf("line %d has no code", i+1)
		}
		if first, there := seen[it.Code]; there {
			return nil, refusal.Newf("the code “%s” stands on line %d and on line %d", it.Code, first, i+1)
		}
		seen[it.Code] = i + 1
		out = append(out, it)
	}
	return out, nil
}

// TableFromCSV reads a table the office keeps: a heading line, then the rows,
// each named by its first cell. A column whose cells are all numbers is one of
// numbers.
func TableFromCSV(text string) (columns []form.Column, rows []form.Row, err error) {
	all, err := lines(text)
	if err != nil {
		return nil, nil, err
	}
	if len(all) < 2 || len(all[0]) < 2 {
		return nil, nil, refusal.New("a table has a heading line, a first column that names the rows, and one column more")
	}
	taken := map[form.Key]bool{}
	key := func(label string) (form.Key, error) {
		base, err := NewKey([]byte("{}"), label)
		k := base
		for n := 2; taken[k]; n++ {
			k = base + form.Key("-"+strconv.Itoa(n))
		}
		taken[k] = true
		return k, err
	}
	for _, h := range all[0][1:] {
		k, err := key(h)
		if err != nil {
			return nil, nil, err
		}
		columns = append(columns, form.Column{Key: k, Label: strings.TrimSpace(h), Numbers: true})
	}
	taken = map[form.Key]bool{}
	for i, r := range all[1:] {
		if len(r) != len(all[0]) {
			return nil, nil, refusal.Newf("line %d has %d cells, the heading has %d", i+2, len(r), len(all[0]))
		}
		k, err := key(r[0])
		if err != nil {
			return nil, nil, err
		}
		for j, cell := range r[1:] {
			if _, ok := decimal.Parse(cell); !ok {
				columns[j].Numbers = false
			}
		}
		rows = append(rows, form.Row{Key: k, Label: strings.TrimSpace(r[0]), Cells: slices.Clone(r[1:])})
	}
	return columns, rows, nil
}

// TableSheet gives a table out; as CSV, TableFromCSV reads it.
func TableSheet(t form.Table) *export.Sheet {
	columns := []export.Column{{Key: "row", Heading: t.Label}}
	for _, c := range t.Columns {
		columns = append(columns, export.Column{Key: "column " + string(c.Key), Heading: c.Label})
	}
	out := export.New(columns...)
	for _, r := range t.Rows {
		row := []export.Cell{export.Text(r.Label)}
		for i := range t.Columns {
			cell := ""
			if i < len(r.Cells) {
				cell = r.Cells[i]
			}
			row = append(row, export.Decimal(cell))
		}
		out.Add(row...)
	}
	return out
}

// ItemsSheet gives the items of a list out, each its code and its label.
func ItemsSheet(items []form.Item) *export.Sheet {
	out := export.New(export.Named("code", "label")...)
	for _, it := range items {
		out.Add(export.Text(it.Code), export.Text(it.Label))
	}
	return out
}

// header finds which column of a CSV is which.
func header(row, known []string, needed ...string) (map[string]int, []form.Fault) {
	column := map[string]int{}
	var faults []form.Fault
	for i, h := range row {
		h = strings.ToLower(strings.TrimSpace(h))
		if !slices.Contains(known, h) {
			faults = append(faults, form.Fault{Place: "the heading",
				Says: "there is no column “" + h + "”; the columns are " + strings.Join(known, ", ")})
		}
		column[h] = i
	}
	for _, n := range needed {
		if _, ok := column[n]; !ok {
			faults = append(faults, form.Fault{Place: "the heading", Says: "the column “" + n + "” is missing"})
		}
	}
	return column, faults
}

func cell(row []string, column map[string]int, name string) string {
	if i, ok := column[name]; ok && i < len(row) {
		return strings.TrimSpace(row[i])
	}
	return ""
}

// questionColumns are the columns of questions as CSV. What stands in
// "asked when" and "limits" is for reading; it is not read back.
var questionColumns = []string{"section", "key", "kind", "label", "help", "example", "left empty", "fact or choice",
	"seen by", "options", "asked when", "limits"}

// QuestionsSheet gives the questions out for colleagues; as CSV, QuestionsFromCSV
// reads it. asked and limits write a question's condition and limits as sentences.
func QuestionsSheet(d *form.Design, asked, limits func(*form.Question) string) *export.Sheet {
	out := export.New(export.Named(questionColumns...)...)
	for i := range d.Sections {
		for j := range d.Sections[i].Questions {
			q := &d.Sections[i].Questions[j]
			var opts []string
			for _, o := range q.Options {
				opts = append(opts, o.Label)
			}
			var row []export.Cell
			for _, text := range []string{string(d.Sections[i].Key), string(q.Key), string(q.Kind), q.Label, q.Help, q.Example,
				string(q.Blank), string(q.Nature), string(q.Seen), strings.Join(opts, "; "), asked(q), limits(q)} {
				row = append(row, export.Text(text))
			}
			out.Add(row...)
		}
	}
	return out
}

// QuestionsFromCSV makes the operations that bring a design to what colleagues
// wrote: words of questions that are there, and new questions (without a key)
// at the end of their section. Nothing is taken out. Every fault is listed by
// line; with any, nothing is made.
func QuestionsFromCSV(document []byte, d *form.Design, text string) ([]Op, []form.Fault) {
	rows, err := lines(text)
	if err != nil {
		return nil, []form.Fault{{Place: "the file", Says: err.Error()}}
	}
	if len(rows) == 0 {
		return nil, []form.Fault{{Place: "the file", Says: "there is nothing in it"}}
	}
	column, faults := header(rows[0], questionColumns, "section", "key", "label")
	found := map[form.Key]*form.Question{}
	holder := map[form.Key]form.Key{}
	for i := range d.Sections {
		for j := range d.Sections[i].Questions {
			q := &d.Sections[i].Questions[j]
			found[q.Key], holder[q.Key] = q, d.Sections[i].Key
		}
	}
	var ops []Op
	at := document
	for i, row := range rows[1:] {
		get := func(name string) string { return cell(row, column, name) }
		place := "line " + strconv.Itoa(i+2)
		bad := func(says string) { faults = append(faults, form.Fault{Place: place, Says: says}) }
		if key := form.Key(get("key")); key != "" {
			q := found[key]
			if q == nil {
				bad("there is no question “" + string(key) + "”; leave the key empty for a new one")
				continue
			}
			path := "sections/" + string(holder[key]) + "/questions/" + string(key)
			for _, m := range []struct {
				column, member, was string
			}{{"label", "label", q.Label}, {"help", "help", q.Help}, {"example", "example", q.Example}} {
				if _, there := column[m.column]; there && get(m.column) != strings.TrimSpace(m.was) {
					ops = append(ops, Op{Do: Set, Path: path + "/" + m.member, Value: raw(get(m.column)), Was: raw(m.was)})
				}
			}
			continue
		}
		q, says := newQuestion(get)
		if says == "" && !slices.ContainsFunc(d.Sections,
			func(s form.Section) bool { return string(s.Key) == get("section") }) {
			says = "there is no section “" + get("section") + "”"
		}
		if says != "" {
			bad(says)
			continue
		}
		if q.Key, err = NewKey(at, q.Label); err != nil {
			bad(err.Error())
			continue
		}
		op := Op{Do: Add, Path: "sections/" + get("section") + "/questions", Value: raw(q)}
		if next, _, err := Apply(at, []Op{op}); err == nil {
			at = next
		}
		ops = append(ops, op)
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return ops, nil
}

func newQuestion(get func(string) string) (q form.Question, says string) {
	q = NewQuestion(form.Kind(get("kind")), get("label"))
	q.Help, q.Example = get("help"), get("example")
	if get("label") == "" {
		return q, "a new question needs a label"
	}
	if form.KindOf(q.Kind).Means == string(q.Kind) {
		return q, "there is no kind of question “" + string(q.Kind) + "”"
	}
	for member, to := range map[string]*string{"left empty": (*string)(&q.Blank), "fact or choice": (*string)(&q.Nature),
		"seen by": (*string)(&q.Seen)} {
		if v := get(member); v != "" {
			*to = v
		}
	}
	for _, o := range strings.Split(get("options"), ";") {
		if o = strings.TrimSpace(o); o != "" {
			k, err := NewKey(raw(map[string]any{"options": q.Options}), o)
			if err != nil {
				return q, err.Error()
			}
			q.Options = append(q.Options, form.Option{Key: k, Label: o})
		}
	}
	return q, ""
}

// NewQuestion is a question of a kind as it begins: compulsory, a choice, seen
// by readers; with what its kind cannot be without.
func NewQuestion(k form.Kind, label string) form.Question {
	q := form.Question{Kind: k, Label: label, Nature: form.Chosen, Blank: form.Required, Seen: form.ToReaders}
	q.Begin()
	return q
}
