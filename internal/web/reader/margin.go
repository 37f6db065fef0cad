package reader

import (
	"context"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/web/kit/site"
)

// margin is a note of one’s own as it is drawn.
type margin struct {
	reading.Margin
	Label string // of the question
}

// marginsOf are the reader’s own notes on the case.
func marginsOf(r *site.Request, f *form.Form) (out []margin, err error) {
	list, err := r.Reading.Margins(r.Context, r.DB, r.Case.EntryID, r.Account.ID)
	for _, m := range list {
		label := string(m.Question)
		if q := f.Question(m.Question); q != nil {
			label = q.Label
		}
		out = append(out, margin{m, label})
	}
	return out, err
}

// NoteMargin keeps a note at some words, or takes one away.
func NoteMargin(r *site.Request) error {
	nth, _ := strconv.Atoi(r.FormValue("nth"))
	drop, _ := strconv.ParseInt(r.FormValue("drop"), 10, 64)
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		if drop > 0 {
			return r.Reading.DropMargin(ctx, tx, r.Case, drop)
		}
		return r.Reading.NoteMargin(ctx, tx, r.Case, reading.Margin{Question: form.Key(r.FormValue("question")),
			Quote: r.FormValue("quote"),
			Nth:   nth, Note: r.FormValue("margin")})
	})
	if no, ok := refusal.Of(err); ok {
		return draw(r, fiber.StatusUnprocessableEntity, no.Sentence(), nil)
	}
	if err != nil {
		return err
	}
	return r.See("/reading/" + r.Case.Ref + "?stage=" + string(r.Case.Stage) + "#notes")
}
