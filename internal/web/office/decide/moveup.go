package decide

import (
	"context"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// MoveUp awards to the first in reserve what is proposed.
func MoveUp(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	stage, err := stageOf(r, f)
	if err != nil {
		return err
	}
	entry, _ := strconv.ParseInt(r.FormValue("entry"), 10, 64)
	var p *decision.Proposal
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		p, err = r.Decisions.MoveUp(ctx, tx, r.Round, f, stage, entry)
		return err
	})
	if no, ok := refusal.Of(err); ok {
		return drawDecisions(r, fiber.StatusConflict, no.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell(p.Row.Ref + " is awarded " + money.Format(p.Sum, f.Design.Currency) + ". Its letter leaves " +
		view.When(r.At.Add(holdOf(f)), f.Zone) +
		" and can be stopped until then.")
	return r.See("/office/rounds/" + r.Round.Key + "/decisions")
}
