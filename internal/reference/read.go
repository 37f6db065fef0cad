package reference

import (
	"context"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
)

// Letters are what is in of an entry, as it is sealed and read: the letters and
// confirmations of questions on the path.
func (s *Store) Letters(ctx context.Context, q db.Querier, f *form.Form, c application.Case,
	onPath func(form.Key) bool) ([]seal.Letter, error) {
	list, err := s.Of(ctx, q, c.EntryID)
	if err != nil {
		return nil, err
	}
	out := []seal.Letter{}
	for _, r := range list {
		if r.State != form.SentIn || !onPath(r.Question) {
			continue
		}
		l := seal.Letter{Question: r.Question, Referee: r.ID, Name: r.Name, Knows: r.Knows, Text: r.Letter,
			Confirms: f.Question(r.Question).Confirms(), Paper: r.Paper, Contact: r.Contact, Dating: r.Dating()}
		if r.Arrived != nil {
			l.Arrived = calendar.DateOf(*r.Arrived, time.UTC)
		}
		if w, ok := r.WordOf(); ok {
			for _, x := range w.Shown {
				l.Said = append(l.Said, seal.Said(x))
			}
		}
		if t := f.Theirs(r.Question); t != nil {
			filled := TheirsFilled(f, r, c.StateAt)
			l.Theirs = seal.Answers(filled, t.Walk(filled))
		}
		pages, err := s.Materials.OfReferee(ctx, q, r.ID)
		if err != nil {
			return nil, err
		}
		for i, m := range pages {
			file := seal.File{
				ID:     m.ID,
				Slot:   m.Slot,
				Name:   m.Name,
				Size:   m.Size,
				SHA256: m.SHA256,
				Facts:  m.Facts.Facts,
			}
			if i == 0 {
				l.File = &file
			} else {
				l.Pages = append(l.Pages, file)
			}
		}
		out = append(out, l)
	}
	return out, nil
}

// Whole is a sealed document with the letters that came after it was sent:
// those of questions with a date of their own, and those the office took late.
func (s *Store) Whole(
	ctx context.Context,
	q db.Querier,
	f *form.Form,
	c application.Case,
	d *seal.Document,
) (*seal.Document,
	error) {
	if !f.AsksOthers() || c.State.Open() { // while it is handed back, the letters there are belong to the next seal
		return d, nil
	}
	path := f.Walk(d.Filled(c.LeadName))
	list, err := s.Letters(ctx, q, f, c, func(k form.Key) bool { // what was set aside stays aside
		st := path.Find(k)
		return st != nil && st.Asked == condition.Yes
	})
	if err != nil {
		return nil, err
	}
	return d.With(list), nil
}
