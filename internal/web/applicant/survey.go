package applicant

import (
	"context"
	"errors"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/internal/application"
	"ulvant/internal/platform/db"
	"ulvant/internal/survey"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// surveyLeft is the first section of a survey that is still to be answered,
// and how many questions it has in all; nil when there is none.
func surveyLeft(r *site.Request, f *form.Form) (*form.Section, int, error) {
	sections := f.Survey()
	if len(sections) == 0 || !r.May(access.AnswerAfter) {
		return nil, 0, nil
	}
	done, err := r.Program.Surveys.Done(r.Context, r.DB, r.Case.ID)
	if err != nil || done {
		return nil, 0, err
	}
	n := 0
	for _, s := range sections {
		n += len(s.Questions)
	}
	return sections[0], n, nil
}

// SurveyForm asks the survey.
func SurveyForm(r *site.Request) error { return drawSurvey(r, fiber.StatusOK, "", false) }

// surveyPart is one section of a survey.
type surveyPart struct {
	Label, Help string
	Fields      []field.Field
}

// surveyPage is what applicant/survey.html draws.
type surveyPage struct {
	Case    application.Case
	Parts   []surveyPart
	Done    bool
	Readers string
	May     bool
	Problem string
}

func drawSurvey(r *site.Request, status int, problem string, faults bool) error {
	f, _, sent, _, err := casefile.Sealed(r, r.Case)
	if err != nil {
		return err
	}
	sections := f.Survey()
	if len(sections) == 0 {
		return fiber.ErrNotFound
	}
	done, err := r.Program.Surveys.Done(r.Context, r.DB, r.Case.ID)
	if err != nil {
		return err
	}
	filled := form.Surveyed(field.FromForm(r, f), sent)
	path := f.Walk(filled)
	var parts []surveyPart
	may := true // everything may be left
	for _, s := range sections {
		p := surveyPart{Label: s.Label, Help: s.Help}
		for i := range s.Questions {
			x := field.New(f, filled, path, &s.Questions[i], nil)
			if !faults {
				x.Problems = nil
			}
			p.Fields = append(p.Fields, x)
			may = may && s.Questions[i].Blank != form.Required
		}
		parts = append(parts, p)
	}
	return r.Draw(status, "applicant/survey", view.Page{Title: sections[0].Label, Nav: "applications",
		Data: surveyPage{Case: r.Case, Parts: parts, Done: done, Readers: f.Design.Readers(), May: may, Problem: problem}})
}

// AnswerSurvey keeps what was answered, apart from the case; with "look" in the
// address it shows which questions follow, and keeps nothing.
func AnswerSurvey(r *site.Request) error {
	if r.Query("look") != "" {
		return drawSurvey(r, fiber.StatusOK, "", false)
	}
	f, _, sent, _, err := casefile.Sealed(r, r.Case)
	if err != nil {
		return err
	}
	if len(f.Survey()) == 0 {
		return fiber.ErrNotFound
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Surveys.Keep(ctx, tx, r.Case, f, field.FromForm(r, f), sent)
	})
	var stopped survey.Stopped
	switch {
	case errors.As(err, &stopped):
		return drawSurvey(r, fiber.StatusUnprocessableEntity,
			"Nothing was handed in yet, because of what is said beside the questions.", true)
	case errors.Is(err, survey.ErrNothing):
		return drawSurvey(r, fiber.StatusUnprocessableEntity,
			"Nothing is answered yet. Answer one question at least, or go back.", false)
	case errors.Is(err, survey.ErrLong):
		return drawSurvey(r, fiber.StatusUnprocessableEntity,
			"Nothing was handed in yet: one of your answers is longer than 20,000 characters. Shorten it.", false)
	case errors.Is(err, survey.ErrDone):
		r.Tell("This survey is in already. It stays as it was: nobody knows which one is yours.")
	case err != nil:
		return err
	default:
		r.Tell("Thank you. What you answered is in, apart from your application.")
	}
	return r.See("/applications/" + r.Case.Ref + "/sent")
}
