package register

import (
	"context"
	"strconv"
	"strings"

	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
)

// Label puts a label on a case, or takes it off.
func Label(r *site.Request) error {
	off := r.FormValue("off") == "yes"
	return keep(r, map[bool]string{true: "The label is off.", false: "Labelled."}[off],
		func(ctx context.Context, tx *db.Tx) error {
			_, err := r.Colleagues.Label(ctx, tx, r.Case, r.FormValue("label"), !off)
			return err
		})
}

// AddNote keeps a note to colleagues.
func AddNote(r *site.Request) error {
	var named []string
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		named, err = r.Colleagues.AddNote(ctx, tx, r.Case, r.FormValue("note"))
		return err
	})
	says := "Kept. The applicant sees no notes."
	if len(named) > 0 {
		says = "Kept. " + phrase.List(named) + " " + map[bool]string{true: "finds", false: "find"}[len(named) == 1] +
			" it on Today."
	}
	return kept(r, says, err)
}

// TakeNote takes a note of one's own back.
func TakeNote(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("note"), 10, 64)
	return keep(r, "The note is taken back.", func(ctx context.Context, tx *db.Tx) error {
		return r.Colleagues.TakeNote(ctx, tx, r.Case, id)
	})
}

// SeeNotes puts aside what names the asker.
func SeeNotes(r *site.Request) error {
	return keep(r, "Put aside; the note stays with the case.", func(ctx context.Context, tx *db.Tx) error {
		return r.Colleagues.SeeMentions(ctx, tx, r.Case)
	})
}

// HandTo gives a case to a colleague to look after.
func HandTo(r *site.Request) error {
	account, _ := strconv.ParseInt(r.FormValue("account"), 10, 64)
	return keep(r, "Kept.", func(ctx context.Context, tx *db.Tx) error {
		_, err := r.Colleagues.Hand(ctx, tx, r.Case, account)
		return err
	})
}

func keep(r *site.Request, says string, do func(context.Context, *db.Tx) error) error {
	return kept(r, says, r.Act(do))
}

// kept leads back to where the form stood; a refusal is said there, and what was
// typed for a note goes with it.
func kept(r *site.Request, says string, err error) error {
	to := back(r, "/office/applications/"+r.Case.Ref+r.Case.Query())
	var no refusal.Refusal
	if refusal.AsUnfit(err, &no) {
		r.Tell(no.Sentence())
		if text := strings.TrimSpace(r.FormValue("note")); text != "" {
			return drawRefused(r, no, text)
		}
		return r.See(to)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See(to)
}

// drawRefused draws the case alone with the note that was not kept.
func drawRefused(r *site.Request, no refusal.Refusal, typed string) error {
	p, err := caseBeside(r, r.Case, back(r, "/office/applications/"+r.Case.Ref+r.Case.Query()))
	if err != nil {
		return err
	}
	p.Kept.Problem, p.Kept.Typed = no.Sentence(), typed
	return drawBeside(r, p)
}
