package forecast_test

import (
	"math"
	"math/rand/v2"
	"testing"

	"ulvant/core/forecast"
)

// sent makes entries begun at one time and sent at others.
func sent(times ...float64) (out []forecast.Entry) {
	for _, t := range times {
		out = append(out, forecast.Entry{Begun: t, Sent: t, Weight: 1})
	}
	return out
}

// By hand: with half of the window left, 2 of 8 were in in the first round (a
// quarter) and 3 of 6 in the second (a half). We have 5: 20 by the one, 10 by the
// other; nobody is drafting. The middle on a logarithmic scale is √200 = 14.14.
func TestByHand(t *testing.T) {
	a := forecast.Round{Name: "a", Entries: sent(.9, .6, .4, .3, .2, .1, .05, .01)}
	b := forecast.Round{Name: "b", Entries: sent(.9, .8, .7, .4, .3, .1)}
	now := sent(.9, .9, .8, .7, .6)
	f, ok := forecast.Of(now, .5, []forecast.Round{a, b})
	if !ok || f.In != 5 || math.Abs(f.By[0]-20) > 1e-9 || math.Abs(f.By[1]-10) > 1e-9 ||
		math.Abs(f.Likely-math.Sqrt(200)) > 1e-9 || !f.Band || f.Low < 5 || f.Low >= f.Likely || f.High <= f.Likely {
		t.Errorf("%+v", f)
	}
	// one round gives a middle and no band
	if f, ok = forecast.Of(now, .5, []forecast.Round{a}); !ok || f.Band || math.Abs(f.Likely-20) > 1e-9 {
		t.Errorf("one round: %+v", f)
	}
	// none gives nothing but what is in
	if f, ok = forecast.Of(now, .5, nil); ok || f.In != 5 || f.Likely != 5 {
		t.Errorf("no round: %+v", f)
	}
	// a round in which nothing was in yet cannot be compared, and is not named
	late := forecast.Round{Name: "late", Entries: sent(.1, .1)}
	if f, _ = forecast.Of(now, .5, []forecast.Round{a, late}); len(f.Used) != 1 || f.Used[0] != "a" {
		t.Errorf("%v", f.Used)
	}
	// closed: what is in is all there is
	if f, _ = forecast.Of(sent(.5, .2), 0, []forecast.Round{a, b}); math.Abs(f.Likely-2) > 1e-9 || f.High > 2+1e-9 {
		t.Errorf("at the closing: %+v", f)
	}
}

// By hand: nothing is in, ten drafts stand open, five of them fresh. Before, with
// as much left, of 4 fresh drafts 2 were sent, of 4 older ones 1, and 4 more came
// from people who had not begun: 5·½ + 5·¼ + 4·10/8 = 8.75.
func TestDraftsSayWhatIsToCome(t *testing.T) {
	d := func(n int, begun, sent float64) (out []forecast.Entry) {
		for range n {
			out = append(out, forecast.Entry{Begun: begun, Sent: sent, Weight: 1})
		}
		return out
	}
	var r forecast.Round
	for _, e := range [][]forecast.Entry{d(2, .55, .1), d(2, .55, forecast.Never), d(1, .9, .1), d(3, .9, forecast.Never),
		d(4, .3, .1), d(7, .2, forecast.Never)} {
		r.Entries = append(r.Entries, e...)
	}
	now := append(d(5, .52, forecast.Never), d(5, .95, forecast.Never)...)
	f, ok := forecast.Of(now, .5, []forecast.Round{r})
	if !ok || math.Abs(f.Likely-8.75) > 1e-9 {
		t.Errorf("%+v", f)
	}
}

// Sums are forecast as counts are: a round in which each asks for ten times as
// much has ten times the forecast and the same band, in shares of it.
func TestMoneyScales(t *testing.T) {
	scaled := func(list []forecast.Entry, by float64) (out []forecast.Entry) {
		for _, e := range list {
			e.Weight *= by
			out = append(out, e)
		}
		return out
	}
	a, b, now := sent(.9, .6, .4, .3, .2), sent(.8, .7, .4, .1), sent(.9, .8, .7)
	f, _ := forecast.Of(now, .5, []forecast.Round{{Entries: a}, {Entries: b}})
	g, _ := forecast.Of(scaled(now, 10), .5, []forecast.Round{{Entries: scaled(a, 10)}, {Entries: scaled(b, 10)}})
	if math.Abs(g.Likely-10*f.Likely) > 1e-6 || math.Abs(g.Low-math.Max(30, 10*f.Low)) > 1 ||
		math.Abs(g.High-10*f.High) > 1 {
		t.Errorf("%+v\n%+v", f, g)
	}
}

func TestFanEndsInTheBand(t *testing.T) {
	a, b := forecast.Round{Entries: sent(.9, .6, .4, .3, .2)}, forecast.Round{Entries: sent(.8, .7, .4, .1)}
	f, _ := forecast.Of(sent(.9, .8, .7), .5, []forecast.Round{a, b})
	fan := f.Fan(.5, 10)
	first, last := fan[0], fan[len(fan)-1]
	if first.Left != .5 || first.Low != 3 || first.High != 3 || last.Left != 0 || math.Abs(last.High-f.High) > 1e-9 ||
		math.Abs(last.Low-f.Low) > 1e-9 || math.Abs(last.Likely-f.Likely) > 1e-9 {
		t.Errorf("%+v", fan)
	}
	for i := 1; i < len(fan); i++ {
		if fan[i].Likely < fan[i-1].Likely {
			t.Errorf("it falls at %v", fan[i].Left)
		}
	}
	if in, final := a.At(.5); in != 2 || final != 5 || a.Half() != .4 || !math.IsInf((forecast.Round{}).Half(), -1) {
		t.Errorf("%v of %v, half with %v left", in, final, a.Half())
	}
}

// programme makes rounds as they come: people begin early and late (a mixture
// that each programme has its own of, and each round a little its own), most send
// near the closing, some never.
func programme(r *rand.Rand, rounds int) []forecast.Round {
	size := math.Exp(3.2 + 2.2*r.Float64())
	early, rush, gives := .2+.5*r.Float64(), .02+.25*r.Float64(), .15+.35*r.Float64()
	shape := .05 + .2*r.Float64() // how much its rounds differ
	var out []forecast.Round
	for range rounds {
		wobble := func(p float64) float64 { return 1 / (1 + math.Exp(-(math.Log(p/(1-p)) + shape*2*r.NormFloat64()))) }
		e, q, g := wobble(early), wobble(rush), wobble(gives)
		n := int(size * math.Exp(.25*r.NormFloat64()))
		var x forecast.Round
		for range n {
			begun := r.Float64()
			if r.Float64() > e {
				begun *= r.Float64()
			}
			s := forecast.Never
			if r.Float64() > g {
				if s = begun * r.Float64(); r.Float64() > .35 {
					s = math.Min(begun, r.ExpFloat64()*q*.5)
				}
			}
			x.Entries = append(x.Entries, forecast.Entry{Begun: begun, Sent: s, Weight: 1})
		}
		out = append(out, x)
	}
	return out
}

// as is what was known of a round with u of its window left.
func as(list []forecast.Entry, u float64) (out []forecast.Entry) {
	for _, e := range list {
		if e.Begun >= u {
			if e.Sent < u {
				e.Sent = forecast.Never
			}
			out = append(out, e)
		}
	}
	return out
}

// Back-tested: 200 made programmes of differing size, shape and number of earlier
// rounds, at a moment drawn anew; the band of eight in ten holds the truth between
// 75 and 90 times in 100, for two earlier rounds as for more.
func TestTheBandHolds(t *testing.T) {
	r := rand.New(rand.NewPCG(17, 2026))
	held, of, wide := map[bool]float64{}, map[bool]float64{}, 0.0
	const made = 200
	for i := range made {
		earlier := 2 + i%4
		list := programme(r, earlier+1)
		u := .05 + .6*r.Float64()
		now := list[earlier]
		f, ok := forecast.Of(as(now.Entries, u), u, list[:earlier])
		if !ok || !f.Band {
			t.Fatalf("no band: %+v", f)
		}
		_, final := now.At(0)
		few := earlier == 2
		of[few]++
		if final >= math.Floor(f.Low) && final <= math.Ceil(f.High) {
			held[few]++
		}
		wide += (f.High - f.Low) / math.Max(final, 1) / made
	}
	all := (held[true] + held[false]) / made
	t.Logf("held %.1f%%; with two rounds %.0f%%, with more %.0f%%; mean width %.2f of the truth", 100*all,
		100*held[true]/of[true], 100*held[false]/of[false], wide)
	if all < .75 || all > .90 {
		t.Errorf("the band holds %.1f%%", 100*all)
	}
}
