// Package casefile is what the pages of a case share, whoever looks at it: its
// answers as they are read, its budget, its stages, what happened to it.
package casefile

import (
	"ulvant/core/condition"
	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/web/kit/site"
)

// Read is one answer as it is read, not written.
type Read struct {
	Q     *form.Question
	Text  string
	Lines []string
}

// ReadSection is a section as it is read.
type ReadSection struct {
	Label string
	Reads []Read
}

// Reading draws up answers for reading.
func Reading(f *form.Form, filled *form.Filled, path *form.Path, seen func(*form.Question) bool) []ReadSection {
	var out []ReadSection
	for i := range f.Design.Sections {
		s := &f.Design.Sections[i]
		sec := ReadSection{Label: s.Label}
		for j := range s.Questions {
			q := &s.Questions[j]
			st := path.Find(q.Key)
			if st.Asked != condition.Yes || !q.Written() || seen != nil && !seen(q) {
				continue
			}
			if text := say.Answer(f, q, filled, st); text != "" {
				sec.Reads = append(sec.Reads, Read{Q: q, Text: text})
			}
		}
		if len(sec.Reads) > 0 {
			out = append(out, sec)
		}
	}
	return out
}

// Sealed reads a case's seal and walks it, with what came after it of what was
// promised.
func Sealed(r *site.Request, c application.Case) (*form.Form, application.Seal, *form.Filled, *form.Path, error) {
	f, err := r.Rounds.Form(r.Context, r.DB, c.DesignID)
	if err != nil {
		return nil, application.Seal{}, nil, nil, err
	}
	s, err := r.Cases.Now(r.Context, r.DB, *c.SealID)
	if err != nil {
		return nil, s, nil, nil, err
	}
	filled := s.Decoded.Filled(c.LeadName)
	return f, s, filled, f.Walk(filled), nil
}
