package form

import (
	"slices"
	"strings"

	"ulvant/core/condition"
)

// Particulars tell who somebody is, as an application says it.
type Particulars struct {
	Name      string
	Body      bool
	Mails     []string
	Phones    []string // in one form
	Addresses []string
	Numbers   []string
}

// Empty reports that nobody can be known by them.
func (p Particulars) Empty() bool {
	return p.Name == "" && p.Mails == nil && p.Phones == nil && p.Numbers == nil
}

// Named is somebody whom an application names besides those who write it.
type Named struct {
	Place string // question, or question/row
	Paid  bool   // who is to be paid; else one of the applicant’s people
	Particulars
}

// tells is which particular an answer of a kind is.
type tells func(p *Particulars, v string)

func tellsMail(p *Particulars, v string)    { p.Mails = append(p.Mails, v) }
func tellsPhone(p *Particulars, v string)   { p.Phones = append(p.Phones, v) }
func tellsNumber(p *Particulars, v string)  { p.Numbers = append(p.Numbers, v) }
func tellsAddress(p *Particulars, v string) { p.Addresses = append(p.Addresses, v) }

// tellsName takes the first text for the name.
func tellsName(p *Particulars, v string) {
	if p.Name == "" {
		p.Name = v
	}
}

// NamedIn lists whom an application names, in reading order: rows of tables whose
// design says that they name people or whoever is paid, contacts, members by their
// names, suppliers in budgets. What is asked of the applicant outside of those, a
// telephone, a mail address, a number, an address, is own.
func (f *Form) NamedIn(filled *Filled, path *Path) (own Particulars, named []Named) {
	for i := range path.Questions {
		s := &path.Questions[i]
		if s.Asked != condition.Yes {
			continue
		}
		q := f.Question(s.Key)
		k := q.rule()
		switch {
		case k.names != nil:
			for _, n := range k.names(f, q, filled) {
				if !n.Empty() {
					named = append(named, n)
				}
			}
		case k.tells == nil:
		case k.parts != nil:
			var said []string
			for _, p := range k.parts(f, q) {
				if v := stated(filled, Place{Question: q.Key, Column: p.Key}); v != "" {
					said = append(said, v)
				}
			}
			if said != nil {
				k.tells(&own, strings.Join(said, ", "))
			}
		case !k.weighed: // a line of text is, and is no name of the applicant
			f.told(&own, q, stated(filled, Place{Question: q.Key}))
		}
	}
	return own, named
}

// told adds what an answer in text tells, in its one form where it has one.
func (f *Form) told(p *Particulars, q *Question, raw string) {
	k := q.rule()
	if raw == "" || k.tells == nil {
		return
	}
	if v, ok := f.Read(q, raw); ok && k.normal {
		raw = v.Text
	}
	k.tells(p, raw)
}

// stated is what stands in a place; "" for nothing, or an answer that is none.
func stated(filled *Filled, at Place) string {
	if a := filled.Answers[at]; a.Non == "" {
		return strings.TrimSpace(a.Raw)
	}
	return ""
}

// namedInPieces is the one whom an answer kept in pieces names; name is the piece
// with the name.
func namedInPieces(name Key) func(f *Form, q *Question, filled *Filled) []Named {
	return func(f *Form, q *Question, filled *Filled) []Named {
		n := Named{Place: string(q.Key)}
		for _, p := range f.Parts(q) {
			v := stated(filled, Place{Question: q.Key, Column: p.Key})
			switch tells := kinds[p.Kind].tells; {
			case p.Key == name:
				n.Name = v
			case tells != nil && v != "" && !kinds[p.Kind].weighed:
				f.told(&n.Particulars, &Question{Key: q.Key, Kind: p.Kind, Region: q.Region}, v)
			}
		}
		return []Named{n}
	}
}

// namedInRows are those whom the rows of a table name, where its design says so.
func namedInRows(f *Form, q *Question, filled *Filled) (out []Named) {
	if q.Parties == NamesNobody {
		return nil
	}
	for _, row := range filled.Rows(q.Key) {
		n := Named{Place: string(q.Key) + "/" + row, Paid: q.Parties == NamesPaid}
		n.Body = n.Paid
		for i := range q.Columns {
			c := &q.Columns[i]
			f.told(&n.Particulars, c, stated(filled, Place{Question: q.Key, Row: row, Column: c.Key}))
		}
		out = append(out, n)
	}
	return out
}

// namedInLines are the suppliers of a budget, each once.
func namedInLines(_ *Form, q *Question, filled *Filled) (out []Named) {
	seen := map[string]bool{}
	for _, row := range filled.Rows(q.Key) {
		name := stated(filled, Place{Question: q.Key, Row: row, Column: ColSupplier})
		if name != "" && !seen[name] {
			seen[name] = true
			out = append(out, Named{string(q.Key) + "/" + row, true, Particulars{Name: name, Body: true}})
		}
	}
	return out
}

// Prose lists the questions of a path whose answers are texts that can be compared
// with others’.
func (f *Form) Prose(path *Path) (out []Key) {
	for i := range path.Questions {
		if s := &path.Questions[i]; s.Asked == condition.Yes && f.Question(s.Key).rule().prose {
			out = append(out, s.Key)
		}
	}
	return out
}

// Identities are the names that an application gives of those behind it, piece by
// piece, as they were typed; a line of text may name a body as well as a person, and
// counts as a body.
func (f *Form) Identities(filled *Filled) (out []Particulars) {
	for at, a := range filled.Answers {
		if q := f.Question(at.Question); q != nil && q.Identifies() && a.Raw != "" && len(a.Raw) <= mostName {
			out = append(out, Particulars{Name: a.Raw, Body: q.rule().parts == nil})
		}
	}
	slices.SortFunc(out, func(a, b Particulars) int { return strings.Compare(a.Name, b.Name) })
	return out
}

// mostName is how long an answer may be to be taken for a name, in bytes.
const mostName = 200
