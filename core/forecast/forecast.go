// Package forecast says how many applications a round will have at its closing.
// For each earlier round of the programme, F(u) is the share of its final count
// that was in with a share u of the window left; it gives n/F(u), and what it
// says of drafts: of those that stood as ours stand now, so many were sent, and
// so many were sent by people who had not begun. The two are averaged, since the
// first is blind early, when nothing is in, and the second late, when hardly
// anybody is still to begin.
//
// The band is a prediction interval over the earlier rounds on a logarithmic
// scale (Student’s t, for a single future observation: G. J. Hahn and W. Q.
// Meeker, Statistical Intervals, 1991, ch. 4). How rounds differ is learnt from
// very few, so the variance that small counts alone would bring stands in for two
// more of them (a conjugate prior: A. Gelman and others, Bayesian Data Analysis,
// 3rd ed., section 2.6). Fewer than two rounds give no band: one says nothing about
// how rounds differ. A test holds the band to 200 made rounds.
package forecast

import (
	"math"
	"slices"
)

// Entry is one application or draft of a round, in shares of the window left: 1
// at the opening, 0 at the closing.
type Entry struct {
	Begun  float64
	Sent   float64 // Never, when it was not sent (yet)
	Weight float64 // 1 to count; a sum of money to add up
	N      int     // of how many that were begun and sent together; 0 is 1
}

// Never stands for the time of what did not happen.
var Never = math.Inf(-1)

// Round is an earlier one.
type Round struct {
	Name    string
	Entries []Entry
}

// state of a round with u of its window left: what is in, what is begun and not
// sent (fresh, in the last tenth of the window; or older), what came after of each
// and of those who had not begun.
type state struct {
	in, final      float64
	fresh, old     float64 // drafts, by weight
	freshIn, oldIn float64 // of them, sent by the end
	later          float64 // sent by people who had not begun
	squares        float64 // of the weights of what is in
}

// freshness is the share of the window within which a draft counts as fresh.
const freshness = 0.1

func at(list []Entry, u float64) (s state) {
	for _, e := range list {
		sent := e.Sent != Never
		if sent {
			s.final += e.Weight
		}
		switch {
		case sent && e.Sent >= u:
			s.in += e.Weight
			s.squares += e.Weight * e.Weight / float64(max(e.N, 1)) // of each of them, when they are alike
		case e.Begun < u: // not begun
			if sent {
				s.later += e.Weight
			}
		case e.Begun <= u+freshness:
			s.fresh += e.Weight
			if sent {
				s.freshIn += e.Weight
			}
		default:
			s.old += e.Weight
			if sent {
				s.oldIn += e.Weight
			}
		}
	}
	return s
}

// Forecast of a final count or sum.
type Forecast struct {
	In        float64 // by now
	Likely    float64 // the middle
	Low, High float64 // the band, when Band
	Band      bool
	Used      []string  // the earlier rounds it rests on
	By        []float64 // what each of them alone would say, in their order
	fs        []curve
}

// Confidence of the band: eight rounds in ten end within it.
const Confidence = 0.8

// t90 are Student’s t quantiles at 0.9, for 1, 2, 3 … degrees of freedom (any
// table; these from memory, and for more than twelve rounds the normal’s).
var t90 = []float64{3.078, 1.886, 1.638, 1.533, 1.476, 1.440, 1.415, 1.397, 1.383, 1.372}

// z90 is the normal quantile.
const z90 = 1.2816

// prior is how many rounds the chance of few weighs.
const prior = 2

type curve struct {
	round Round
	says  float64
}

// Of a round with a share u of its window left, from its entries so far. Earlier
// rounds in which nothing can be compared yet are left out; without any, ok is
// false and In alone holds.
func Of(now []Entry, u float64, earlier []Round) (f Forecast, ok bool) {
	n := at(now, u)
	f.In, f.Likely, f.Low, f.High = n.in, n.in, n.in, n.in
	var logs []float64
	for _, r := range earlier {
		says, ok := one(n, at(r.Entries, u))
		if !ok {
			continue
		}
		f.Used, f.By = append(f.Used, r.Name), append(f.By, says)
		f.fs = append(f.fs, curve{r, says})
		logs = append(logs, math.Log(says))
	}
	if len(logs) == 0 {
		return f, false
	}
	mean := 0.0
	for _, l := range logs {
		mean += l / float64(len(logs))
	}
	f.Likely = math.Max(n.in, math.Exp(mean))
	if len(logs) < 2 {
		return f, true
	}
	variance := 0.0
	for _, l := range logs {
		variance += (l - mean) * (l - mean) / float64(len(logs)-1)
	}
	k := float64(len(logs))
	t := z90
	if len(logs)-2+prior < len(t90) {
		t = t90[len(logs)-2+prior]
	}
	pooled := (prior*chance(n, f.Likely) + (k-1)*variance) / (prior + k - 1)
	half := t * math.Sqrt(pooled*(1+1/k))
	f.Band, f.Low, f.High = true, math.Max(n.in, math.Exp(mean-half)), math.Max(n.in, math.Exp(mean+half))
	return f, true
}

// one is what an earlier round says of ours.
func one(n, r state) (float64, bool) {
	var says []float64
	if n.in > 0 && r.in > 0 {
		says = append(says, n.in*r.final/r.in)
	}
	if drafts := r.fresh + r.old; drafts > 0 && n.fresh+n.old > 0 {
		rest := n.fresh*share(r.freshIn, r.fresh, (r.freshIn+r.oldIn)/drafts) +
			n.old*share(r.oldIn, r.old, (r.freshIn+r.oldIn)/drafts)
		begun, were := n.in+n.fresh+n.old, r.in+drafts
		rest += r.later * begun / were // those who have not begun, as many for those who have
		says = append(says, n.in+rest)
	}
	if len(says) == 0 {
		return 0, false
	}
	mean := 0.0
	for _, s := range says {
		mean += math.Log(math.Max(s, 0.5)) / float64(len(says))
	}
	return math.Exp(mean), true
}

// share of k in n, or what holds for all when n is few.
func share(k, n, all float64) float64 {
	if n <= 0 {
		return all
	}
	return k / n
}

// chance is the variance of the logarithm of the final count that our own few
// leave: of a count n, of which a share F of the final one, (1−F)/n by the one way
// of saying; of those still to come, their number over the square of all, by the
// other. Where weights differ, n counts as fewer.
func chance(n state, final float64) float64 {
	if final <= n.in || final <= 0 {
		return 0
	}
	each := 1.0 // weight of one
	if n.squares > 0 {
		each = n.squares / n.in
	}
	rest := (final - n.in) * each / (final * final)
	if n.in <= 0 || n.fresh+n.old <= 0 {
		return rest + over((1-n.in/final)*each, n.in)
	}
	return (rest + (1-n.in/final)*each/n.in) / 4 // of the mean of two
}

func over(a, b float64) float64 {
	if b <= 0 {
		return 0
	}
	return a / b
}

// Point of the fan from now to the closing.
type Point struct{ Left, Low, Likely, High float64 }

// Fan is how the count may grow from u to the closing, in steps; empty without a
// forecast. Between now and the closing it grows as the earlier rounds did.
func (f Forecast) Fan(u float64, steps int) (out []Point) {
	if len(f.fs) == 0 || steps < 1 {
		return nil
	}
	for i := range steps + 1 {
		left := u * (1 - float64(i)/float64(steps))
		grown := 0.0
		for _, c := range f.fs {
			was, is := at(c.round.Entries, u), at(c.round.Entries, left)
			if was.final > was.in {
				grown += (is.in - was.in) / (was.final - was.in) / float64(len(f.fs))
			} else {
				grown += (1 - left/math.Max(u, 1e-9)) / float64(len(f.fs))
			}
		}
		on := func(end float64) float64 { return f.In + (end-f.In)*grown }
		out = append(out, Point{left, on(f.Low), on(f.Likely), on(f.High)})
	}
	return out
}

// At counts what of an earlier round was in with u of its window left.
func (r Round) At(u float64) (in, final float64) {
	s := at(r.Entries, u)
	return s.in, s.final
}

// Half is the share of the window that was left when half of what was sent was
// in; Never where nothing was sent.
func (r Round) Half() float64 {
	var times []float64
	for _, e := range r.Entries {
		if e.Sent != Never {
			times = append(times, e.Sent)
		}
	}
	if len(times) == 0 {
		return Never
	}
	slices.Sort(times)
	return times[len(times)/2]
}
