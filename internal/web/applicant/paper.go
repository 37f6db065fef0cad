package applicant

import (
	"errors"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/reference"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// onPaper finds what may be confirmed on paper; nil for anything else.
func onPaper(r *site.Request) (*form.Form, *form.Question, error) {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return nil, nil, err
	}
	q := f.Question(form.Key(r.Params("question")))
	if q == nil || q.InkOf() == "" && (!q.Confirms() || q.Ask == nil || !q.Ask.Paper) {
		return nil, nil, fiber.ErrNotFound
	}
	return f, q, nil
}

// paperPage is what applicant/paper.html draws.
type paperPage struct {
	Case    application.Case
	Q       *form.Question
	Closes  time.Time
	Zone    *time.Location
	Section form.Key
	Who     string // in what capacity it is signed; "" for none
	Says    string
}

// Paper is the page to print and sign.
func Paper(r *site.Request) error {
	f, q, err := onPaper(r)
	if err != nil {
		return err
	}
	p := paperPage{Case: r.Case, Q: q, Closes: r.Case.Window(f).Closes, Zone: f.Zone, Section: f.SectionOf(q.Key),
		Says: q.InkOf()}
	if p.Says == "" {
		p.Who, p.Says = q.Ask.Who, q.Ask.Wants
		if p.Who == "" {
			p.Who = "somebody who may"
		}
	}
	return r.Draw(fiber.StatusOK, "applicant/paper", view.Page{Title: "To sign: " + q.Label, Nav: "applications", Data: p})
}

// PutPaper puts the signed page in.
func PutPaper(r *site.Request) error {
	f, q, err := onPaper(r)
	if err != nil {
		return err
	}
	if !q.Confirms() { // a slot: its page goes up like every other file
		return fiber.ErrNotFound
	}
	typed := map[string]string{"paper": "open", "signed": r.FormValue("name")}
	h, body, err := r.Upload("file")
	if err != nil {
		return again(r, f, q.Key, "Choose the scan of the signed page.", typed)
	}
	defer body.Close()
	ctx, cancel := r.UploadContext()
	defer cancel()
	_, err = r.Referees.PutPaper(ctx, r.Actor(), r.At, r.Case, q.Key, typed["signed"], h.Filename, h.Size, body)
	var p refusal.Refusal
	switch {
	case refusal.AsUnfit(err, &p):
		return again(r, f, q.Key, p.Says, typed)
	case errors.Is(err, reference.ErrNoScan), errors.Is(err, reference.ErrFullUp):
		return again(r, f, q.Key, site.Sentence(err), typed)
	case err != nil:
		return orConflict(r, err)
	}
	r.Tell("The signed page is in. Somebody at the office looks at it after you send.")
	return backTo(r, q.Key, f)
}
