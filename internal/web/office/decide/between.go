package decide

import (
	"context"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// BetweenMeetings proposes a decision between meetings, or settles what is proposed.
func BetweenMeetings(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	stage, err := stageOf(r, f)
	if err != nil {
		return err
	}
	says := ""
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		id, _ := strconv.ParseInt(r.FormValue("id"), 10, 64)
		switch r.FormValue("do") {
		case "agree":
			says = "It is recorded; its letter waits as every other does."
			return r.Decisions.Settle(ctx, tx, r.Round, f, id, true)
		case "drop":
			says = "The proposal is off."
			return r.Decisions.Settle(ctx, tx, r.Round, f, id, false)
		}
		sum := int64(0)
		if text := strings.TrimSpace(r.FormValue("sum")); text != "" {
			var ok bool
			if sum, ok = money.Parse(text, f.Design.Currency); !ok {
				return refusal.In("sum", "“"+text+"” is not a sum.")
			}
		}
		says = "Proposed. Somebody else who decides must agree to it."
		return r.Decisions.Propose(ctx, tx, r.Round, f, stage, r.FormValue("ref"), lifecycle.State(r.FormValue("outcome")),
			sum, r.FormValue("why"))
	})
	if no, ok := refusal.Of(err); ok {
		return drawDecisions(r, fiber.StatusUnprocessableEntity, no.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See("/office/rounds/" + r.Round.Key + "/decisions?stage=" + string(stage))
}
