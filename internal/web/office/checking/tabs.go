package checking

import (
	"ulvant/core/form"
	"ulvant/internal/web/kit/site"
)

// tab leads to one of the pages of checks.
type tab struct {
	Label, Path string
	N           int // that wait; 0: not said
	Here        bool
}

// tabsOf are the pages of the checks of a round, with what waits on each; here is
// the path of the one that is drawn.
func tabsOf(r *site.Request, f *form.Form, here string) ([]tab, error) {
	open, err := r.Connected.Open(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return nil, err
	}
	proposals, err := r.Program.Checks.OpenProposals(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return nil, err
	}
	waits, err := r.Desk.OpenChecksOf(r.Context, r.Round.ID)
	if err != nil {
		return nil, err
	}
	n := 0
	for _, w := range waits {
		n = w.N
	}
	list := []tab{{Label: "One after another", N: n}, {Label: "Every application", Path: "/all"},
		{Label: "People in common", Path: "/people", N: open.Connections}, {Label: "Like texts", Path: "/texts",
			N: open.Texts}}
	if f.TakesProposals() || proposals > 0 {
		list = append(list, tab{Label: "Proposed for lists", Path: "/lists", N: proposals})
	}
	for i := range list {
		list[i].Here = list[i].Path == here
		list[i].Path = "/office/rounds/" + r.Round.Key + "/checks" + list[i].Path
	}
	if len(f.Design.Bodies) > 0 {
		list = append(list, tab{Label: "With other bodies", Path: "/office/rounds/" + r.Round.Key + "/turns",
			Here: here == "turns"})
	}
	return list, nil
}
