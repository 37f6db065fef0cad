package casefile

import (
	"slices"

	"ulvant/core/form"
	"ulvant/core/hiding"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// Papers are what somebody who judges a case sees of it.
type Papers struct {
	Doc       *seal.Document
	Sections  []ReadSection
	Budget    *field.Costs
	Letters   []Vouched
	Materials view.Materials
}

// PapersOf a sealed case c; its files are had under files. hide takes the names of those
// behind it out of what is read, where the round hides them.
func PapersOf(r *site.Request, c application.Case, f *form.Form, s application.Seal, filled *form.Filled,
	path *form.Path, files string, hide bool) (p Papers, err error) {
	whole, err := r.Referees.Whole(r.Context, r.DB, f, c, &s.Decoded)
	if err != nil {
		return p, err
	}
	doc, sealed := whole.ForReaders(f), len(s.Decoded.ForReaders(f).Letters)
	query := "?stage=" + string(c.Stage)
	p = Papers{Doc: doc, Sections: Reading(f, filled, path, func(q *form.Question) bool {
		return q.ForReaders() && q.Keeps() != form.InLines
	}), Budget: field.ReadCosts(f, filled, path, (*form.Question).ForReaders), Materials: Materials(f, doc,
		files, query),
		Letters: Letters(f, doc, sealed, files, query)}
	if !hide || !f.Design.HideNames {
		return p, nil
	}
	names, err := r.Program.Connected.Hidden(r.Context, r.DB, c, f, whole)
	if err == nil {
		p.hide(names)
	}
	return p, err
}

// hide takes names out of all that is read.
func (p *Papers) hide(n hiding.Names) {
	for i := range p.Sections {
		for j := range p.Sections[i].Reads {
			x := &p.Sections[i].Reads[j]
			x.Text = n.In(x.Text)
			for k := range x.Lines {
				x.Lines[k] = n.In(x.Lines[k])
			}
		}
	}
	if p.Budget != nil {
		for i := range p.Budget.Bands {
			for j := range p.Budget.Bands[i].Lines {
				l := &p.Budget.Bands[i].Lines[j]
				l.Name = n.In(l.Name)
				for k := range l.Cells {
					l.Cells[k].Value = n.In(l.Cells[k].Value)
				}
			}
		}
	}
	for _, list := range [][]view.Shown{p.Materials.Pictures, p.Materials.Rest} {
		for i := range list {
			list[i].Title, list[i].Said, list[i].Author = n.In(list[i].Title), n.In(list[i].Said), ""
		}
	}
	for i := range p.Letters {
		l := &p.Letters[i]
		l.Text, l.Knows = n.In(l.Text), n.In(l.Knows)
		for k := range l.Says {
			l.Says[k] = n.In(l.Says[k])
		}
		l.Said = slices.Clone(l.Said)
		for k := range l.Said {
			l.Said[k].Text = n.In(l.Said[k].Text)
		}
	}
}
