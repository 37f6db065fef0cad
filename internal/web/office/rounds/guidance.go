package rounds

import (
	"context"
	"errors"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/slot"
	"ulvant/internal/guidance"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// guidancePage is what office/rounds/guidance.html draws: the files beside a round.
type guidancePage struct {
	List    []guidance.Paper
	Slots   []form.Option // questions that take files
	Labels  map[form.Key]string
	Zone    *time.Location
	Key     string
	Most    int64
	May     bool
	Drafts  int // whose writers are told of what changes
	Typed   guidance.New
	Problem string
}

// versioning is the form for a new version of one of them.
type versioning struct {
	P    guidance.Paper
	D    guidancePage
	Here bool // what was typed to it was refused
	CSRF string
}

// Versioning is the form for one.
func (p guidancePage) Versioning(x guidance.Paper, csrf string) versioning {
	return versioning{x, p, x.ID == p.Typed.Paper, csrf}
}

// Fresh reports that what was refused was a file of its own.
func (p guidancePage) Fresh() bool { return p.Problem != "" && p.Typed.Paper == 0 }

// Guidance lists the files beside a round.
func Guidance(r *site.Request) error {
	return drawGuidance(r, fiber.StatusOK, guidance.New{Tell: true}, "")
}

func drawGuidance(r *site.Request, status int, typed guidance.New, problem string) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	list, err := r.Program.Guidance.Of(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	p := guidancePage{List: list, Zone: f.Zone, Key: r.Round.Key, Most: slot.MostPlain, May: r.May(access.EditDesign),
		Labels: map[form.Key]string{}, Typed: typed, Problem: problem}
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			if q := &s.Questions[i]; q.TakesFiles() {
				p.Slots = append(p.Slots, form.Option{Key: q.Key, Label: q.Label})
				p.Labels[q.Key] = q.Label
			}
		}
	}
	return office.Draw(r, status, "office/rounds/guidance", "Files, "+r.Round.Name, "guidance", f, p)
}

// PutGuidance puts up a file, or a new version of one.
func PutGuidance(r *site.Request) error {
	paper, err := strconv.ParseInt(r.FormValue("paper", "0"), 10, 64)
	if err != nil || paper < 0 {
		return fiber.ErrNotFound
	}
	n := guidance.New{Paper: paper, Title: r.FormValue("title"), Slot: form.Key(r.FormValue("slot")),
		Changed: r.FormValue("changed"), Tell: r.FormValue("tell") == "yes"}
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	h, body, err := r.Upload("file")
	if err != nil {
		return drawGuidance(r, fiber.StatusUnprocessableEntity, n, "Choose a file first.")
	}
	defer body.Close()
	n.Name = h.Filename
	ctx, cancel := r.UploadContext()
	defer cancel()
	p, err := r.Program.Guidance.Put(ctx, r.Actor(), r.At, r.Round, f, n, body)
	var unfit refusal.Refusal
	switch {
	case refusal.AsUnfit(err, &unfit):
		return drawGuidance(r, fiber.StatusUnprocessableEntity, n, unfit.Sentence())
	case errors.Is(err, guidance.ErrNotFound):
		return fiber.ErrNotFound
	case err != nil:
		return err
	}
	says := "“" + p.Title + "” stands beside the round, version " + strconv.Itoa(p.Last().Number) + "."
	if n.Tell {
		says += " Whoever has a draft is told by mail."
	}
	r.Tell(says)
	return r.See("/office/rounds/" + r.Round.Key + "/guidance")
}

// RemoveGuidance takes one away.
func RemoveGuidance(r *site.Request) error {
	id, err := strconv.ParseInt(r.Params("id"), 10, 64)
	if err != nil {
		return fiber.ErrNotFound
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Guidance.Remove(ctx, tx, r.Round, id, r.FormValue("why"))
	})
	var unfit refusal.Refusal
	switch {
	case refusal.AsUnfit(err, &unfit):
		return drawGuidance(r, fiber.StatusUnprocessableEntity, guidance.New{Paper: id, Tell: true}, unfit.Sentence())
	case errors.Is(err, guidance.ErrNotFound):
		return fiber.ErrNotFound
	case err != nil:
		return err
	}
	r.Tell("It does not stand beside the round any more.")
	return r.See("/office/rounds/" + r.Round.Key + "/guidance")
}

// GuidanceFile sends a version of one, the last where none is named.
func GuidanceFile(r *site.Request) error { return r.SendGuidance(r.Params("number")) }
