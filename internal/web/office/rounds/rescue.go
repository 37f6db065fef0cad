package rounds

import (
	"context"
	"errors"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/bulk"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// mostRescued is how many drafts the list shows.
const mostRescued = 100

// rescued is one line of the list.
type rescued struct {
	desk.Draft
	Lacks []lack
}

// lack is one thing a draft lacks; Hot is a letter that only has to be sent.
type lack struct {
	What string
	Hot  bool
}

// rescuePage is what office/rounds/rescue.html draws.
type rescuePage struct {
	Rows   []rescued
	Nudged int
	Sent   int
	Zone   *time.Location
	Key    string
}

// Rescue lists the drafts that little keeps from being sent.
func Rescue(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	list, err := r.Desk.Rescue(r.Context, r.Round.ID, r.At, mostRescued)
	if err != nil {
		return err
	}
	rows := make([]rescued, len(list))
	for i, d := range list {
		rows[i].Draft = d
		for _, c := range d.Codes {
			rows[i].Lacks = append(rows[i].Lacks, lack{say.Stuck(c), c == form.CodeLetterNotSent})
		}
	}
	nudged, sent, err := r.Desk.Nudged(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	return office.Draw(r, fiber.StatusOK, "office/rounds/rescue", "Rescue list, "+r.Round.Name, "rescue", f,
		rescuePage{Rows: rows, Nudged: nudged, Sent: sent, Zone: f.Zone, Key: r.Round.Key})
}

// NudgeAll draws a nudge for every draft of the list, which is looked through before
// anything leaves.
func NudgeAll(r *site.Request) error {
	list, err := r.Desk.Rescue(r.Context, r.Round.ID, r.At, bulk.MostCases)
	if err != nil {
		return err
	}
	var entries []int64
	for _, d := range list {
		entries = append(entries, d.EntryID)
	}
	return office.BeginBulk(r, bulk.Bulk{Round: r.Round.ID, Act: bulk.Nudge, Says: "drafts of the rescue list",
		Back: "/office/rounds/" + r.Round.Key + "/rescue"}, entries)
}

// SameTime begins giving the same more time to all of a round who asked and wait.
func SameTime(r *site.Request) error {
	entries, err := r.Desk.WantTimeIn(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	return office.BeginBulk(r, bulk.Bulk{Round: r.Round.ID, Act: bulk.MoreTime,
		Says: "all who asked for more time and wait",
		Back: "/office/rounds/" + r.Round.Key}, entries)
}

// Nudge writes to the one who blocks a draft.
func Nudge(r *site.Request) error {
	var whom string
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		whom, err = r.Intake.Nudge(ctx, tx, r.Case)
		return err
	})
	var unfit refusal.Refusal
	switch {
	case refusal.AsUnfit(err, &unfit):
		r.Tell(unfit.Sentence())
	case errors.Is(err, application.ErrNotDraft), errors.Is(err, application.ErrClosed):
		r.Tell("It was sent meanwhile, or has closed; nobody was written to.")
	case err != nil:
		return err
	default:
		r.Tell("Written to " + whom + ".")
	}
	return r.See("/office/rounds/" + r.Round.Key + "/rescue")
}
