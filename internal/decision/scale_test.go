package decision_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"ulvant/core/calibrate"
	"ulvant/core/form"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/programtest"
	"ulvant/internal/reading"
)

// Twelve cases, each by two of four readers, one of whom is severe: by the plain mean
// a case they read stands too low, on one scale it does not, and the order goes by
// what the round says.
func TestMarksOnOneScale(t *testing.T) {
	t.Parallel()
	asks, worth := map[string]string{}, map[string]int{}
	for i := range 12 {
		name := fmt.Sprintf("C%02d", i)
		asks[name], worth[name] = "5,000", 2+i/4 // 2, 3 and 4 of 5
	}
	p := programtest.SentToRound(t, func(d *form.Design) { programtest.Short(d); d.Fund = 2_000_000 }, asks)
	readers := p.InviteReaders("Oriel Vane", "Teodora Brisk", "Sami Holt", "Gwyn Arkwright")
	severe := readers[3]
	p.Clock.Set(p.Form.HandsOutFrom())
	p.Drain()
	scale := func() (s decisionScale, err error) {
		s.Scale, err = p.Decisions.Scale(t.Context(), p.DB, p.Round, p.Form, "writing", rand.New(rand.NewPCG(1, 1)))
		return s, err
	}
	if _, err := scale(); !errors.Is(err, calibrate.ErrTooFew) {
		t.Errorf("before any marks: %v", err)
	}
	if _, err := p.HandsOut(); err != nil {
		t.Fatal(err)
	}
	for name := range asks {
		given, err := p.Reading.Of(t.Context(), p.DB, p.Of[name].EntryID)
		if err != nil {
			t.Fatal(err)
		}
		for k, g := range given {
			m := worth[name]
			if g.AccountID == severe {
				m -= 2
			}
			p.StateOf(name)
			p.Act(g.AccountID, func(ctx context.Context, tx *db.Tx) error {
				last := m // one criterion differs now and then, so that there is chance
				if (len(name)+k+int(name[2]))%3 == 0 && last > 0 {
					last--
				}
				if _, err := p.Reading.Keep(ctx, tx, p.Of[name], g.Version, reading.Marking{Marks: map[form.Key]int{"gain": m,
					"lasting": m, "value": last}}); err != nil {
					return err
				}
				return p.Reading.Send(ctx, tx, p.Of[name])
			})
		}
	}
	s, err := scale()
	if err != nil {
		t.Fatal(err)
	}
	wrong := func(order func(c int) float64) (n int) {
		for a := range s.Cases {
			for b := range s.Cases {
				if s.worth(worth, a) > s.worth(worth, b) && order(a) <= order(b) {
					n++
				}
			}
		}
		return n
	}
	raw, cal := wrong(func(c int) float64 { return s.Cases[c].Raw }),
		wrong(func(c int) float64 { return s.Cases[c].Score })
	if raw == 0 || cal != 0 {
		t.Errorf("%d pairs stand wrongly by the mean, %d on one scale", raw, cal)
	}
	first := s.Readers[0]
	if first.Account != severe || !first.Far() || first.Effect > -1 || s.Readers[1].Far() && s.Readers[1].Effect < 0 {
		t.Errorf("the most severe: %+v", first)
	}
	if len(s.Juries) != 1 || len(s.Cases) != 12 || s.Single <= 0 || s.Single >= 1 {
		t.Errorf("%d juries, %d cases, %v", len(s.Juries), len(s.Cases), s.Single)
	}
	// the fund has room for four: the chances add up to it
	sum := 0.0
	for i, c := range s.Cases {
		if c.Above != (i < 4) {
			t.Errorf("place %d is above the line: %v", i+1, c.Above)
		}
		sum += c.Chance
		if c.Close() != (c.Chance > 0.1 && c.Chance < 0.9) {
			t.Errorf("%+v", c)
		}
	}
	if sum < 3.99 || sum > 4.01 {
		t.Errorf("%v stand above the line", sum)
	}
	ordered := func(rule form.ScoreRule) (titles []string) {
		p.Form.Design.Score = rule
		defer func() { p.Form.Design.Score = form.ByMean }()
		table, err := p.Decisions.Order(t.Context(), p.DB, p.Round, p.Form, "writing")
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range table.Rows {
			titles = append(titles, r.Title)
		}
		return titles
	}
	mean, one := ordered(form.ByMean), ordered(form.ByCalibrated)
	if slices.Equal(mean, one) {
		t.Error("the order is the same by both")
	}
	for i, c := range s.Cases {
		if one[i] != c.Title {
			t.Errorf("place %d: %s, want %s", i+1, one[i], c.Title)
		}
	}
}

// decisionScale finds what a case is worth by its title.
type decisionScale struct{ decision.Scale }

func (s decisionScale) worth(of map[string]int, i int) int {
	for name, w := range of {
		if strings.Contains(s.Cases[i].Title, name) {
			return w
		}
	}
	return -1
}
