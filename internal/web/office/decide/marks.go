package decide

import (
	"cmp"
	"errors"
	"math/rand/v2"
	"slices"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calibrate"
	"ulvant/core/form"
	"ulvant/core/say"
	"ulvant/internal/decision"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// marksPage is what office/decide/marks.html draws: the marks on one scale, and how
// far they can be trusted.
type marksPage struct {
	Few        bool // too few marks
	Says       []string
	Juries     string
	Cases      []markedCase
	Readers    []markedReader // shown to whoever decides alone
	Decides    form.ScoreRule
	All        int // in the order
	From, Upto int // those drawn, from 1
	Prev, Next string
	More       []markedCase // whose next reading would settle most, the most first
}

type markedCase struct {
	decision.ScaledCase
	Place   int
	Says    string // chance
	Picture view.Interval
}

type markedReader struct {
	decision.ScaledReader
	Says    []string
	Picture view.Interval
}

// Which further readings are offered: those likelier to settle something than this, and
// no more than these.
const (
	leastSettled = 0.10
	mostMore     = 8
)

// Marks shows the marks of the stage to decide in on one scale.
func Marks(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	stage, err := r.Decisions.Stage(r.Context, r.DB, r.Round, f)
	if err != nil {
		return err
	}
	d := marksPage{Decides: f.Design.Score}
	// the same draws for the same round: a page drawn again says the same
	s, err := r.Decisions.Scale(r.Context, r.DB, r.Round, f, stage, rand.New(rand.NewPCG(uint64(r.Round.ID), 18)))
	if errors.Is(err, calibrate.ErrTooFew) {
		d.Few = true
		return office.Draw(r, fiber.StatusOK, "office/decide/marks", "Marks, "+r.Round.Name, "reading", f, d)
	}
	if err != nil {
		return err
	}
	d.Says = []string{say.Agreement(s.Alpha, s.Single), say.TooClose(s.Close, len(s.Cases))}
	if said := say.Controls(s.Controls, s.Apart); said != "" {
		d.Says = append(d.Says, said)
	}
	if len(s.Juries) > 1 {
		d.Juries = say.NotOneOrder(len(s.Juries))
	}
	for i, c := range s.Cases {
		d.Cases = append(d.Cases, markedCase{ScaledCase: c, Place: i + 1, Says: say.Percent(c.Chance),
			Picture: view.Interval{Low: s.Low, Top: s.Top, From: c.Score - 1.96*c.Error, To: c.Score + 1.96*c.Error,
				At: c.Score, Tick: c.Raw}})
	}
	for _, c := range d.Cases {
		if c.Settles >= leastSettled {
			d.More = append(d.More, c)
		}
	}
	slices.SortStableFunc(d.More, func(a, b markedCase) int { return cmp.Compare(b.Settles, a.Settles) })
	d.More = d.More[:min(len(d.More), mostMore)]
	d.All = len(d.Cases)
	from, _ := strconv.Atoi(r.Query("from"))
	from = max(min(from, d.All-1), 0) / office.PerPage * office.PerPage
	d.From, d.Upto = from+1, min(from+office.PerPage, d.All)
	d.Cases = d.Cases[from:d.Upto]
	if from > 0 {
		d.Prev = "?from=" + strconv.Itoa(from-office.PerPage)
	}
	if d.Upto < d.All {
		d.Next = "?from=" + strconv.Itoa(d.Upto)
	}
	if r.May("decide") {
		widest := 0.1
		for _, x := range s.Readers {
			widest = max(widest, x.Effect+1.96*x.Error, -x.Effect+1.96*x.Error)
		}
		for _, x := range s.Readers {
			m := markedReader{ScaledReader: x, Picture: view.Interval{Low: -widest, Top: widest, From: x.Effect - 1.96*x.Error,
				To: x.Effect + 1.96*x.Error, At: x.Effect, Tick: 0}}
			for _, s := range []string{say.Severity(x.Effect, x.Error), say.Drift(x.Drift, x.Z, x.N), say.Halo(x.Halo)} {
				if s != "" {
					m.Says = append(m.Says, s)
				}
			}
			d.Readers = append(d.Readers, m)
		}
	}
	return office.Draw(r, fiber.StatusOK, "office/decide/marks", "Marks, "+r.Round.Name, "reading", f, d)
}
