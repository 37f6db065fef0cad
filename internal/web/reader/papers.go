package reader

import (
	"errors"
	"slices"
	"strconv"
	"ulvant/core/form"
	"ulvant/core/hiding"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/material"
	"ulvant/internal/platform/inspect"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"

	"github.com/gofiber/fiber/v3"
)

// papers are what somebody who judges a case sees of it.
type papers struct {
	Doc       *seal.Document
	Sections  []casefile.ReadSection
	Budget    *field.Costs
	Letters   []casefile.Vouched
	Materials view.Materials
}

// papersOf a sealed case c; its files are had under files. hide takes the names of those
// behind it out of what is read, where the round hides them.
func papersOf(r *site.Request, c application.Case, f *form.Form, s application.Seal, filled *form.Filled,
	path *form.Path, files string, hide bool) (p papers, err error) {
	whole, err := r.Referees.Whole(r.Context, r.DB, f, c, &s.Decoded)
	if err != nil {
		return p, err
	}
	doc, sealed := whole.ForReaders(f), len(s.Decoded.ForReaders(f).Letters)
	query := "?stage=" + string(c.Stage)
	p = papers{Doc: doc, Sections: casefile.Reading(f, filled, path, func(q *form.Question) bool {
		return q.ForReaders() && q.Keeps() != form.InLines
	}), Budget: field.ReadCosts(f, filled, path, (*form.Question).ForReaders), Materials: casefile.Materials(f, doc,
		files, query),
		Letters: casefile.Letters(f, doc, sealed, files, query)}
	if !hide || !f.Design.HideNames {
		return p, nil
	}
	people, err := r.Program.Connected.Behind(r.Context, r.DB, c.ID)
	if err != nil {
		return p, err
	}
	people = append(people, hiding.Person{Name: c.LeadName})
	for _, x := range f.Identities(filled) {
		people = append(people, hiding.Person{Name: x.Name, Body: x.Body})
	}
	for _, l := range s.Decoded.Letters {
		people = append(people, hiding.Person{Name: l.Name})
	}
	p.hide(hiding.Of(people))
	return p, nil
}

// hide takes names out of all that is read.
func (p *papers) hide(n hiding.Names) {
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

// File sends a file of a sealed case.
func File(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	m, err := r.Materials.Find(r.Context, r.DB, id, r.Case.EntryID)
	if err != nil {
		return fiber.ErrNotFound
	}
	f, s, _, _, err := casefile.Sealed(r, r.Case)
	if err != nil {
		return err
	}
	whole, err := r.Referees.Whole(r.Context, r.DB, f, r.Case, &s.Decoded)
	if err != nil {
		return err
	}
	doc := whole.ForReaders(f)
	if !doc.Holds(m.SHA256) {
		return fiber.ErrNotFound
	}
	if m.Name = doc.NameOf(id); m.Name == "" { // the same bytes in a slot that readers do not see
		return fiber.ErrNotFound
	}
	seen := material.Made(r.Query("seen")) // what is drawn of a picture has no properties
	if f.Design.HideNames && seen != material.Small && seen != material.Large {
		// what its properties say of who made it is not for readers
		sum, err := r.Materials.Rendition(r.Context, r.At, m, material.Clean)
		if errors.Is(err, inspect.ErrKept) {
			return fiber.NewError(
				fiber.StatusConflict,
				"Names are hidden in this round, and what this file itself says of who made it cannot be taken out. Ask the office for it.",
			)
		}
		if err != nil {
			return err
		}
		m.SHA256 = sum
	}
	return r.SendMaterial(m)
}
