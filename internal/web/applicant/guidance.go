package applicant

import (
	"slices"
	"time"

	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/core/slot"
	"ulvant/internal/guidance"
	"ulvant/internal/material"
	"ulvant/internal/web/kit/site"
)

// papers are the files beside the round, read only where the section takes files.
func (d *Desk) papers(r *site.Request) ([]guidance.Paper, error) {
	if !slices.ContainsFunc(d.Section.Questions, func(q form.Question) bool { return q.TakesFiles() }) {
		return nil, nil
	}
	return r.Program.Guidance.Of(r.Context, r.DB, d.Case.RoundID)
}

// oldTemplate warns of a file that is not the last version of what was to be filled in.
func oldTemplate(fill []guidance.Paper, m material.File) string {
	if len(fill) == 0 || m.State != slot.Ready {
		return ""
	}
	var templates []slot.Template
	for _, p := range fill {
		templates = append(templates, p.Template())
	}
	came, of, version := slot.Recognise(m.Facts.Template, templates)
	title, changed := fill[0].Title, ""
	for _, p := range fill {
		if p.ID == of.ID {
			title, changed = p.Title, p.Last().Changed
		}
	}
	return say.OldTemplate(say.CameBack{Came: came, Version: version, Last: len(of.Hashes)}, title, changed)
}

// newer are the files beside a round that were put up, or changed, after a draft was begun.
func newer(papers []guidance.Paper, begun time.Time) []guidance.Paper {
	return slices.DeleteFunc(slices.Clone(papers), func(p guidance.Paper) bool { return !p.Last().At.After(begun) })
}
