package check

import (
	"context"

	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
)

// putTemplates keeps what a person must look at of the templates of a round: what came back
// in an older version, or as something that is not the template.
func (s *Store) putTemplates(ctx context.Context, tx *db.Tx, c application.Case, d *seal.Document,
	counts map[form.Outcome]int) error {
	papers, err := s.Guidance.Of(ctx, tx, c.RoundID)
	if err != nil || len(papers) == 0 {
		return err
	}
	of := map[form.Key][]slot.Template{}
	for _, p := range papers {
		if p.Slot != "" {
			of[p.Slot] = append(of[p.Slot], p.Template())
		}
	}
	var list []found
	for k, templates := range of {
		var files []say.CameBack
		for _, x := range d.Files {
			if x.Slot == k {
				came, t, version := slot.Recognise(x.Template, templates)
				files = append(files, say.CameBack{File: x.Name, Came: came, Version: version, Last: len(t.Hashes)})
			}
		}
		if says := say.Templates(files); says != "" {
			counts[form.Person]++
			list = append(list, found{form.TemplateRule(k), form.Person, says})
		}
	}
	return s.putAll(ctx, tx, c.EntryID, list)
}
