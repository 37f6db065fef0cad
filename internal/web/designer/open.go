package designer

import (
	"errors"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/proof"
	"ulvant/core/refusal"
	"ulvant/internal/program"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// lastLook is what stands on the page before a round opens, or its design is
// published anew: what people will meet, who is told what, what was found.
type lastLook struct {
	Base, Key, Name string
	Number          int // of the design that people meet now; 0 for none
	Dates           []dated
	Currency        string
	Fund            int64
	Sections        int
	Questions       int
	Letters         int
	Zone            *time.Location
	Since           []design.Graded
	Takes, Tells    bool
	Drafts          int // people who write, and are told
	Decided         int // cases whose decision was told
	Moved           bool
	Cannot          []proof.Finding
	Think           int
	NotYet          []design.Unused
	Open            []proof.Open
	Unseen          []string
	Faults          []form.Fault
	Reason          string
	Problem         string
}

type dated struct {
	Label string
	At    time.Time
	Soon  bool // it lies in the past already
}

// LastLook shows what would be opened.
func LastLook(r *site.Request) error { return drawLastLook(r, fiber.StatusOK, "") }

func drawLastLook(r *site.Request, status int, problem string) error {
	f, faults, err := r.Rounds.Working(r.Round)
	if err != nil {
		return err
	}
	d := lastLook{Base: "/office/rounds/" + r.Round.Key + "/design", Key: r.Round.Key, Name: f.Design.Name,
		Currency: f.Design.Currency, Fund: f.Design.Fund, Sections: len(f.Design.Sections),
		Letters: len(f.Design.Letters), Zone: f.Zone, Faults: faults, Reason: r.FormValue("reason"), Problem: problem,
		NotYet: design.NotYet(f.Design)}
	for _, s := range f.Design.Sections {
		d.Questions += len(s.Questions)
	}
	for _, m := range f.Design.Calendar {
		at := f.At(m.Key)
		d.Dates = append(d.Dates, dated{phrase.Initial(m.Label), at, at.Before(r.At)})
	}
	if r.Round.DesignID != nil {
		if d.Number, err = r.Rounds.Number(r.Context, r.DB, *r.Round.DesignID); err != nil {
			return err
		}
		if d.Since, err = r.Rounds.Unpublished(r.Context, r.DB, r.Round.ID); err != nil {
			return err
		}
		counts, err := r.Desk.Counts(r.Context, r.Round.ID)
		if err != nil {
			return err
		}
		for _, c := range counts {
			switch {
			case c.State.Writing():
				d.Drafts += c.N
			case c.State.Is(lifecycle.Decided | lifecycle.TurnedDown):
				d.Decided += c.N
			}
		}
	}
	for _, c := range d.Since {
		d.Takes = d.Takes || c.Grade == design.TakesAway
		d.Tells = d.Tells || c.Grade >= design.Tightens
		d.Moved = d.Moved || strings.HasPrefix(c.Op.Path, "calendar/"+string(form.Closes))
	}
	if len(faults) == 0 {
		report, err := r.Rounds.Proofs.Of(r.Context, f)
		if err != nil {
			return err
		}
		d.Cannot, d.Think, d.Open, d.Unseen = report.Of(proof.CannotOpen), len(report.Of(proof.ThinkAgain)), report.Open,
			report.Unseen
	}
	title := "Before it opens"
	if d.Number > 0 {
		title = "Before it is published"
	}
	return r.Draw(status, "designer/open", view.Page{Title: title, Nav: "rounds", Data: d})
}

// Phase of the closing, in words.
func (d lastLook) Closing() string {
	for _, x := range d.Dates {
		if x.Label == "The closing" {
			return calendar.WallOf(x.At, d.Zone).Words()
		}
	}
	return ""
}

// Open publishes the working design; drafts move to it.
func Open(r *site.Request) error {
	err := program.Open(r.Context, r.Program, r.Actor(), r.At, r.Round.ID, r.FormValue("reason"),
		r.FormValue("signed") == "yes")
	var unproved program.Unproved
	var past refusal.Refusal
	switch {
	case errors.As(err, &unproved):
		return drawLastLook(r, fiber.StatusUnprocessableEntity,
			"The round cannot be opened yet: "+strings.Join(unproved.Says(), " "))
	case errors.Is(err, round.ErrReason), errors.Is(err, program.ErrUnsigned), errors.Is(err,
		program.ErrChanged), refusal.AsUnfit(err, &past):
		return drawLastLook(r, fiber.StatusUnprocessableEntity, site.Sentence(err))
	case err != nil:
		return err
	}
	r.Tell("The round is published with this design.")
	return r.See("/office/rounds/" + r.Round.Key)
}
