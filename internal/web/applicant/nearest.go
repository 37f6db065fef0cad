package applicant

import (
	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/proof"
	"ulvant/internal/application"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// way is one step of a way, and where it is taken.
type way struct {
	proof.Step
	Href string
}

// nearestPage is what applicant/nearest.html draws.
type nearestPage struct {
	Case    application.Case
	Ways    [][]way
	Verdict form.Outcome
}

// Nearest shows what an applicant could choose otherwise, so that no rule and
// no limit stands in the way any more.
func Nearest(r *site.Request) error {
	f, filled, path, err := r.Cases.Walk(r.Context, r.DB, r.Case, r.At)
	if err != nil {
		return err
	}
	var ways [][]way
	for _, steps := range r.Rounds.Proofs.Nearest(r.Context, f, filled) {
		var out []way
		for _, s := range steps {
			out = append(out, way{s, "/applications/" + r.Case.Ref + "/sections/" + string(f.SectionOf(s.Question)) + "#q-" +
				string(s.Question)})
		}
		ways = append(ways, out)
	}
	return r.Draw(fiber.StatusOK, "applicant/nearest", view.Page{Title: "The nearest way to yes", Nav: "applications",
		Data: nearestPage{Case: r.Case, Ways: ways, Verdict: path.Verdict()}})
}

// Refused reports that a rule stands in the way of sending.
func (d *Desk) Refused() bool { return d.Path.Verdict() == form.Fails }
