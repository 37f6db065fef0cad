package readings

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// samplePage is what office/readings/sample.html draws: the sample case of a round, and
// who has marked it.
type samplePage struct {
	Key      string
	X        *reading.Sample // nil: there is none
	First    bool            // readers mark it before they are given any
	Ref      string          // as typed
	Note     string
	Criteria []sampleCriterion
	Readers  []sampleReader
	May      bool
	Wrong    refusal.Refusal
}

// sampleCriterion is one criterion with the office's mark.
type sampleCriterion struct {
	form.Criterion
	Mark int // -1: none
	Why  string
}

// sampleReader is a reader, and how near their marks lie to the office's.
type sampleReader struct {
	reading.Reader
	Done bool
	Says string
}

// Sample shows the sample case of a round.
func Sample(r *site.Request) error { return drawSample(r, fiber.StatusOK, refusal.Refusal{}) }

func drawSample(r *site.Request, status int, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := samplePage{Key: r.Round.Key, First: f.Design.TrainFirst, May: r.May(access.InviteReader), Wrong: wrong}
	x, err := r.Reading.SampleOf(r.Context, r.DB, r.Round.ID)
	switch {
	case err == nil:
		d.X, d.Ref, d.Note = &x, x.Ref, x.Note
	case !errors.Is(err, reading.ErrNoSample):
		return err
	}
	typed := wrong.Says != ""
	if typed {
		d.Ref, d.Note = r.FormValue("ref"), r.FormValue("note")
	}
	for _, c := range f.Design.Judged("") {
		row := sampleCriterion{Criterion: c, Mark: -1}
		if m, ok := x.Marks[c.Key]; ok {
			row.Mark, row.Why = m.Value, m.Why
		}
		if typed {
			if row.Mark, err = strconv.Atoi(r.FormValue("mark:" + string(c.Key))); err != nil {
				row.Mark = -1
			}
			row.Why = r.FormValue("why:" + string(c.Key))
		}
		d.Criteria = append(d.Criteria, row)
	}
	if d.X != nil {
		done, err := r.Reading.TrainedIn(r.Context, r.DB, r.Round.ID)
		if err != nil {
			return err
		}
		list, err := r.Reading.Readers(r.Context, r.DB, r.Round.ID)
		if err != nil {
			return err
		}
		for _, reader := range list {
			if !reader.Reads() {
				continue
			}
			row := sampleReader{Reader: reader}
			if t, ok := done[reader.Account]; ok {
				row.Done, row.Says = true, say.SampleApart(x.Apart(t.Marks))
			}
			d.Readers = append(d.Readers, row)
		}
		slices.SortStableFunc(d.Readers, func(a, b sampleReader) int {
			return cmp.Compare(strconv.FormatBool(a.Done), strconv.FormatBool(b.Done))
		})
	}
	return office.Draw(r, status, "office/readings/sample", "Sample case, "+r.Round.Name, "reading", f, d)
}

// SetSample chooses the sample case of a round with its marks, or takes it away.
func SetSample(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	said := "The sample case is kept. Readers find it at the head of their desk."
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		if r.FormValue("do") == "drop" {
			said = "There is no sample case any more."
			return r.Reading.DropSample(ctx, tx, r.Round)
		}
		marks := map[form.Key]reading.SampleMark{}
		for _, c := range f.Design.Judged("") {
			if v, err := strconv.Atoi(strings.TrimSpace(r.FormValue("mark:" + string(c.Key)))); err == nil {
				marks[c.Key] = reading.SampleMark{Value: v, Why: r.FormValue("why:" + string(c.Key))}
			}
		}
		return r.Reading.SetSample(ctx, tx, r.Round, f, r.FormValue("ref"), r.FormValue("note"), marks)
	})
	if no, ok := refusal.Of(err); ok {
		return drawSample(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	r.Tell(said)
	return r.See("/office/rounds/" + r.Round.Key + "/reading/sample")
}
