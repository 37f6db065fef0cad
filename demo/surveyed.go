package demo

import (
	"context"

	"ulvant/core/form"
	"ulvant/internal/platform/db"
)

// afterwards are surveys as the demo's applicants answer them: hours, how
// clear, where they guessed, what to change.
var afterwards = [][4]string{
	{"14", "clear", "", ""},
	{"30", "mostly", "money",
		"Say in the budget's help that volunteers' time counts as “in kind”. We asked our neighbours."},
	{"9", "clear", "", "Nothing. It was shorter than last time."},
	{"22", "guess", "papers\nwords", "A scale on the site plan: how large?"},
	{"40", "mostly", "who", ""},
	{"12", "clear", "", "Let us print the questions on one page."},
	{"18", "mostly", "money\npapers", ""},
}

// surveyed lets some of those who sent answer the survey a day later.
func (r *running) surveyed(tales []tale) {
	r.on(r.back(1), func(ctx context.Context) error {
		n := 0
		for _, t := range tales {
			c, err := r.called(ctx, t.title)
			if err != nil || n == len(afterwards) {
				return err
			}
			if !c.State.Sealed() || c.SealID == nil {
				continue
			}
			answers := map[form.Place]form.Answer{}
			for i, k := range []form.Key{"hours-spent", "how-clear", "guessed-where", "one-change"} {
				if v := afterwards[n][i]; v != "" {
					answers[form.Place{Question: k}] = form.Answer{Raw: v}
				}
			}
			sealed, err := r.Cases.Sealed(ctx, r.DB, *c.SealID)
			if err != nil {
				return err
			}
			n++
			f, err := r.Rounds.Form(ctx, r.DB, c.DesignID)
			if err != nil {
				return err
			}
			if err := r.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) error {
				return r.Surveys.Keep(ctx, tx, c, f, answers, sealed.Decoded.Filled(c.LeadName))
			}); err != nil {
				return err
			}
		}
		return nil
	})
}
