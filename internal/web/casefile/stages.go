package casefile

import (
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/web/kit/site"
)

// StageLink leads to one stage of a case.
type StageLink struct {
	Label, Href string
	State       lifecycle.State
	Current     bool
}

// StagesAt leads to all stages a case has reached, on the pages under base;
// nil when there is one.
func StagesAt(r *site.Request, f *form.Form, base string) ([]StageLink, error) {
	list, err := r.Cases.Stages(r.Context, r.DB, r.Case.ID)
	if err != nil || len(list) < 2 {
		return nil, err
	}
	var out []StageLink
	for _, c := range list {
		state := c.State
		if base == "/applications/" {
			state = c.Told
		}
		out = append(out, StageLink{f.Design.StageLabel(form.Key(c.Stage)), base + c.Ref + c.Query(), state,
			c.EntryID == r.Case.EntryID})
	}
	return out, nil
}
