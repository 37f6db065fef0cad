package rounds

import (
	"github.com/gofiber/fiber/v3"

	"ulvant/core/say"
	"ulvant/core/survey"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// surveyRow is one question of the survey, counted.
type surveyRow struct {
	survey.Result
	Bars              []surveyBar
	Low, Middle, High string
}

// surveyBar is how often an option was picked; Wide is of 240.
type surveyBar struct {
	Label          string
	N, Share, Wide int
}

// surveyPage is what office/rounds/survey.html draws.
type surveyPage struct {
	Rows  []surveyRow
	In    int
	Sent  int
	Least int
	Key   string
}

// Survey shows what was answered after sending, counted.
func Survey(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	if len(f.Survey()) == 0 {
		return fiber.ErrNotFound
	}
	answered, err := r.Program.Surveys.Of(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	sent, err := r.Desk.SentTimes(r.Context, r.Round.ID, f.FirstStage())
	if err != nil {
		return err
	}
	var rows []surveyRow
	if len(answered) >= survey.Least {
		for _, x := range survey.Tally(f, answered) {
			row := surveyRow{Result: x}
			for _, p := range x.Picks {
				row.Bars = append(row.Bars, surveyBar{p.Label, p.N, x.Share(p.N), 240 * p.N / max(x.Answered, 1)})
			}
			if x.Numbers {
				row.Low, row.Middle, row.High = say.Number(f, x.Question, x.Low), say.Number(f, x.Question,
					x.Middle), say.Number(f, x.Question, x.High)
			}
			rows = append(rows, row)
		}
	}
	return office.Draw(r, fiber.StatusOK, "office/rounds/survey", "Survey, "+r.Round.Name, "survey", f,
		surveyPage{Rows: rows, In: len(answered), Sent: len(sent), Least: survey.Least, Key: r.Round.Key})
}

// SurveyRows gives the answered surveys out, a row each, in an order that tells
// nothing; none until enough have come in.
func SurveyRows(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	answered, err := r.Program.Surveys.Of(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	if len(f.Survey()) == 0 || len(answered) < survey.Least {
		return fiber.ErrNotFound
	}
	return r.Give(r.Round.Key+".survey", survey.Sheet(f, answered))
}
