package reader

import (
	"context"
	"errors"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// samplePage is what reader/sample.html draws: the sample case of a round, to be marked, or
// marked beside the office.
type samplePage struct {
	casefile.Papers
	RoundName string
	RoundKey  string
	X         reading.Sample
	Title     string
	Criteria  []sampleMark
	Done      bool
	Says      string // how near the marks lie
	Wrong     refusal.Refusal
}

// sampleMark is one criterion, with both marks once the reader has marked it.
type sampleMark struct {
	form.Criterion
	Mark  int // of the reader; -1: not yet
	Their int // of the office; -1 until the reader has marked it
	Why   string
}

// Sample shows the sample case to a reader of the round.
func Sample(r *site.Request) error { return drawSample(r, fiber.StatusOK, refusal.Refusal{}) }

func drawSample(r *site.Request, status int, wrong refusal.Refusal) error {
	if _, err := mine(r); err != nil {
		return err
	}
	f, err := r.Rounds.Published(r.Context, r.DB, r.Round)
	if err != nil {
		return err
	}
	x, err := r.Reading.SampleOf(r.Context, r.DB, r.Round.ID)
	if errors.Is(err, reading.ErrNoSample) {
		return fiber.ErrNotFound
	}
	if err != nil {
		return err
	}
	done, err := r.Reading.TrainedIn(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	mine, trained := done[r.Account.ID]
	c, err := r.Cases.ByEntry(r.Context, r.DB, x.EntryID)
	if err != nil {
		return err
	}
	cf, s, filled, path, err := casefile.Sealed(r, c)
	if err != nil {
		return err
	}
	d := samplePage{RoundName: r.Round.Name, RoundKey: r.Round.Key, X: x, Title: x.Title, Done: trained, Wrong: wrong}
	if d.Papers, err = casefile.PapersOf(r, c, cf, s, filled, path, "", true); err != nil {
		return err
	}
	d.Materials = view.Materials{} // files of another round are not theirs to have
	for i := range d.Letters {
		d.Letters[i].File, d.Letters[i].Pages = nil, nil
	}
	if f.Design.HideNames || cf.Design.HideNames {
		d.Title = x.Ref
	}
	for _, cr := range f.Design.Judged("") {
		row := sampleMark{Criterion: cr, Mark: -1, Their: -1}
		if trained {
			row.Mark, row.Their, row.Why = mine.Marks[cr.Key], x.Marks[cr.Key].Value, x.Marks[cr.Key].Why
		} else if v, err := strconv.Atoi(r.FormValue("mark:" + string(cr.Key))); err == nil {
			row.Mark = v
		}
		d.Criteria = append(d.Criteria, row)
	}
	if trained {
		d.Says = say.SampleApart(x.Apart(mine.Marks))
	}
	return r.Draw(status, "reader/sample", view.Page{Title: "Sample case, " + r.Round.Name, Nav: "reading", Data: d})
}

// TrySample keeps how the reader marks the sample, and shows how the office did.
func TrySample(r *site.Request) error {
	f, err := r.Rounds.Published(r.Context, r.DB, r.Round)
	if err != nil {
		return err
	}
	marks := map[form.Key]int{}
	for _, cr := range f.Design.Judged("") {
		if v, err := strconv.Atoi(r.FormValue("mark:" + string(cr.Key))); err == nil {
			marks[cr.Key] = v
		}
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Reading.TrySample(ctx, tx, r.Round, f, marks) })
	if errors.Is(err, reading.ErrNoSample) {
		return fiber.ErrNotFound
	}
	if no, ok := refusal.Of(err); ok {
		return drawSample(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	return r.See("/reading/sample/" + r.Round.Key)
}
