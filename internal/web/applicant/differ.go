package applicant

import (
	"context"
	"crypto/rand"
	"errors"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	core "ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/profile"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
)

// differences are the places where a case says something else than the profile
// it is for; nil when it is for none, or the asker may not act for it.
func differences(r *site.Request, f *form.Form, answers map[form.Place]form.Answer) (map[form.Key][]field.Differs,
	error) {
	p, err := r.Profiles.For(r.Context, r.DB, r.Case.ID)
	if errors.Is(err, profile.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	if _, err := r.Profiles.Find(r.Context, r.DB, p.ID, r.Account.ID); err != nil {
		return nil, nil
	}
	out := map[form.Key][]field.Differs{}
	for _, d := range core.Differences(f, p.Name, p.Facts, answers) {
		out[d.Place.Question] = append(out[d.Place.Question],
			field.Differs{Name: field.Name(d.Place), Profile: d.Profile, Application: d.Application, Whose: p.Name,
				Others: d.Field.Others()})
	}
	return out, nil
}

// SettleDifference says which of profile and application is to be kept where they differ.
func SettleDifference(r *site.Request) error {
	f, filled, _, err := r.Cases.Walk(r.Context, r.DB, r.Case, r.At)
	if err != nil {
		return err
	}
	p, err := r.Profiles.For(r.Context, r.DB, r.Case.ID)
	if err == nil { // only for those who may act for it
		p, err = r.Profiles.Find(r.Context, r.DB, p.ID, r.Account.ID)
	}
	if errors.Is(err, profile.ErrNotFound) {
		return fiber.ErrNotFound
	}
	if err != nil {
		return err
	}
	at := field.Place(r.FormValue("of"))
	for _, d := range core.Differences(f, p.Name, p.Facts, filled.Answers) {
		if d.Place != at {
			continue
		}
		err := r.Act(func(ctx context.Context, tx *db.Tx) error {
			if r.FormValue("keep") == "application" {
				if d.Field.Others() {
					return refusal.Unfit("That is said by the sponsoring body itself, by a link of its own.")
				}
				name, facts := p.Facts.With(p.Name, d.Field, d.Application)
				return r.Profiles.Change(ctx, tx, p.ID, name, facts)
			}
			version, err := strconv.Atoi(r.FormValue("version"))
			if err != nil {
				return fiber.ErrNotFound
			}
			results, _, err := r.Intake.Save(ctx, tx, r.Case, []intake.Edit{{Place: at, Version: version, EditID: rand.Text(),
				Value: d.Profile}})
			if err == nil && results[0].Fault != "" {
				return refusal.Unfit(results[0].Fault)
			}
			if err == nil && results[0].Conflict {
				return refusal.Unfit("Somebody changed this answer meanwhile").But("look at it again.")
			}
			return err
		})
		var unfit refusal.Refusal
		switch {
		case refusal.AsUnfit(err, &unfit):
			r.Tell("Nothing was changed. " + unfit.Sentence())
		case errors.Is(err, profile.ErrNotFound):
			return fiber.ErrNotFound
		case err != nil:
			return orConflict(r, err)
		}
	}
	return backTo(r, at.Question, f)
}

// profiled adds what the chosen profile says to the answers a case begins
// with; what was answered before stays. The sentence says what it lacks.
func profiled(r *site.Request, f *form.Form, id int64, answers map[form.Place]form.Answer) (lacks string, err error) {
	p, err := r.Profiles.Find(r.Context, r.DB, id, r.Account.ID)
	if errors.Is(err, profile.ErrNotFound) {
		return "", fiber.ErrNotFound
	}
	if err != nil {
		return "", err
	}
	for at, a := range core.Filled(f, p.Name, p.Facts) {
		if _, given := answers[at]; !given && f.Accepts(at) == "" {
			answers[at] = a
		}
	}
	return core.FilledIn(f, p.Name, p.Facts, r.At.Sub(p.FactsAt)), nil
}
