package form_test

import (
	"strings"
	"testing"

	"ulvant/core/form"
	"ulvant/core/form/kindtest"
)

// The ceiling holds for what was given and what is asked together, to the cent,
// and never gives a part: Regulation (EU) 2023/2831, article 3, with its ceiling
// of EUR 300,000 and the constructed figures of check-values.md section 7. The
// grant is made on 2027-07-01 here, so the dates are moved by as much.
func TestTheCeilingOfPublicAid(t *testing.T) {
	d := kindtest.Design(form.Aid)
	q := &d.Sections[len(d.Sections)-1].Questions[2]
	q.Blank = form.MeansNo
	q.Aid = &form.AidRule{Years: 3, Ceiling: 300_000_00, Request: "sum"}
	f, err := form.Compile(d)
	if err != nil {
		t.Fatal(err)
	}
	key := kindtest.Key(form.Aid)
	eu := [][3]string{{"The isles", "2024-07-01", "120000"}, {"The isles", "2025-11-03", "90000"},
		{"A district", "2026-06-30", "70000"}}
	for _, c := range []struct {
		name, asked string
		rows        [][3]string
		above       bool
		note        string
	}{
		{"nothing was given", "300000", nil, false, ""},
		{"and too much is asked by itself", "300000.01", nil, true, ""},
		{"to the ceiling", "20000", eu, false,
			"Received €280,000 since 1 July 2024. With the €20,000 you ask it comes to €300,000, of at most €300,000"},
		{"a cent above it", "20000.01", eu, true,
			"Received €280,000 since 1 July 2024. With the €20,000.01 you ask it comes to €300,000.01, of at most €300,000"},
		{"the first lies further back", "60000", append([][3]string{{"The isles", "2024-06-30", "120000"}}, eu[1:]...), false,
			"Received €160,000 since 1 July 2024. With the €60,000 you ask it comes to €220,000, of at most €300,000"},
		{"a row that is not complete", "300000", [][3]string{{"The isles", "soon", "1"}}, false, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			x := &form.Filled{Answers: map[form.Place]form.Answer{{Question: "sum"}: {Raw: c.asked}}}
			for n, row := range c.rows {
				for i, col := range []form.Key{"giver", "given", "sum"} {
					x.Answers[form.Place{Question: key, Row: form.RowKey(n + 1), Column: col}] = form.Answer{Raw: row[i]}
				}
			}
			path := f.Walk(x)
			above := false
			for _, o := range path.Obstacles {
				above = above || o.Code == form.CodeAidCeiling
			}
			if note := f.Note(f.Question(key), x, path.Find(key)); above != c.above || note != c.note {
				t.Errorf("above: %v, %q", above, note)
			}
		})
	}
	for says, set := range map[string]func(*form.AidRule){
		"over how many years": func(a *form.AidRule) { a.Years = 0 },
		"month and day":       func(a *form.AidRule) { a.Financial, a.Begins = true, "April" },
		"the calendar has no": func(a *form.AidRule) { a.Day = "moon" },
		"a money question":    func(a *form.AidRule) { a.Request = "paper" },
	} {
		d := kindtest.Design(form.Aid)
		q := &d.Sections[len(d.Sections)-1].Questions[2]
		q.Aid = &form.AidRule{Years: 3}
		set(q.Aid)
		if _, err := form.Compile(d); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%v, want %q", err, says)
		}
	}
	q.Aid = &form.AidRule{Years: 3, Financial: true, Begins: "04-01"}
	if g, err := form.Compile(d); err != nil || g.AidFrom(q).String() != "2025-04-01" {
		t.Errorf("%v", err)
	}
}
