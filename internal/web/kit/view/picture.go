package view

import (
	"fmt"
	"html/template"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"ulvant/core/forecast"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/mark"
	"ulvant/core/rehearsal"
)

// Picture is an SVG drawn from numbers, with a text for those who do not see it.
type Picture = template.HTML

const (
	green, deep, wash, band, rust   = "#2C6A60", "#17453F", "#BFD6CE", "#E4DFD0", "#B9431C"
	ink, soft, blue, rule2, lastRun = "#1B2523", "#55615D", "#2B5C86", "#C4BEAE", "#A2957A"
)

func esc(s string) string { return template.HTMLEscapeString(s) }

type canvas struct {
	b strings.Builder
	w int
}

func draw(w, h int, label string) *canvas {
	c := &canvas{w: w}
	fmt.Fprintf(&c.b, `<svg class="pic" viewBox="0 0 %d %d" width="%d" height="%d" role="img" aria-label="%s">`, w, h, w,
		h, esc(label))
	return c
}

func (c *canvas) rect(x, y, w, h float64, fill string) {
	if w > 0 && h > 0 {
		fmt.Fprintf(&c.b, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" fill="%s"/>`, x, y, w, h, fill)
	}
}

func (c *canvas) path(d, fill string) { fmt.Fprintf(&c.b, `<path d="%s" fill="%s"/>`, d, fill) }

func (c *canvas) line(x1, y1, x2, y2 float64, stroke string, width float64) {
	fmt.Fprintf(&c.b, `<line x1="%.1f" y1="%.1f" x2="%.1f" y2="%.1f" stroke="%s" stroke-width="%.1f"/>`, x1, y1, x2, y2,
		stroke, width)
}

// text at x, y; anchor start, middle or end; class t (plain), b (bold) or s (soft).
func (c *canvas) text(x, y float64, anchor, class, fill, s string) {
	fmt.Fprintf(&c.b, `<text x="%.1f" y="%.1f" text-anchor="%s" class="%s" fill="%s">%s</text>`, x, y, anchor, class,
		fill, esc(s))
}

func (c *canvas) done() Picture {
	c.b.WriteString("</svg>")
	return Picture(c.b.String())
}

// dayWide is how much room a day takes beneath a picture, in pixels: “25 Jan”.
const dayWide = 42

// Strand draws a round's stages along real time, to scale, with now and the
// closing. labels are put at the end of a stage. small is the band on desks.
func Strand(f *form.Form, now time.Time, labels map[form.Key]string, small bool) Picture {
	stages := f.Design.Stages
	if len(stages) == 0 {
		return ""
	}
	first, last := f.At(stages[0].From), f.At(stages[len(stages)-1].To)
	closes := f.At(form.Closes)
	w, h, top, bar := 1232, 84, 34.0, 22.0
	if small {
		w, h, top, bar = 520, 36, 8, 10
	}
	span := last.Sub(first).Hours()
	x := func(t time.Time) float64 {
		return math.Max(0, math.Min(1, t.Sub(first).Hours()/span)) * float64(w)
	}
	phase := "closes " + When(closes, f.Zone)
	c := draw(w, h, fmt.Sprintf("The strand of %s: opens %s, %s, answer %s.", f.Design.Name, When(first, f.Zone), phase,
		When(last, f.Zone)))
	nx, free := x(now), 0.0
	for _, s := range stages {
		a, b := x(f.At(s.From)), x(f.At(s.To))-2
		c.rect(a, top, b-a, bar, band)
		if nx > a {
			c.rect(a, top, math.Min(b, nx)-a, bar, green)
		}
		if nx > a && nx < b {
			c.rect(nx, top, b-nx, bar, wash)
		}
		if small {
			continue
		}
		fill := ink
		if nx > a+70 {
			fill = "#FFFFFF"
		}
		if b-a > 60 {
			c.text(a+8, top+15, "start", "b12", fill, s.Label)
		}
		if l := labels[s.Key]; l != "" && b-a > 150 {
			fill = ink
			if nx >= b-20 {
				fill = "#FFFFFF"
			}
			c.text(b-8, top+15, "end", "t12", fill, l)
		}
		if (math.Abs(a-x(closes)) > 90 || a == 0) && a >= free && a < float64(w)-2*dayWide { // the last day stands at the end
			free = a + dayWide
			c.text(a, top+bar+16, "start", "t12", soft, f.At(s.From).In(f.Zone).Format("2 Jan"))
		}
	}
	cx := x(closes)
	if small {
		c.line(cx, top-3, cx, top+bar+3, rust, 2)
		if nx > 0 && nx < float64(w) {
			fmt.Fprintf(&c.b, `<path d="M%.1f %.1fl5 -6h-10z" fill="%s"/>`, nx, top-1, ink)
		}
		label, anchor, lx := "closed "+closes.In(f.Zone).Format("2 Jan"), "middle", cx
		if now.Before(closes) {
			label = "closes " + closes.In(f.Zone).Format("Mon 2 Jan 15:04")
		}
		if lx < 60 {
			anchor, lx = "start", 0
		} else if lx > float64(w)-70 {
			anchor, lx = "end", float64(w)
		}
		c.text(lx, top+bar+15, anchor, "t12", rust, label)
		return c.done()
	}
	c.text(float64(w), top+bar+16, "end", "t12", soft, last.In(f.Zone).Format("2 Jan"))
	c.line(cx, top-6, cx, top+bar+6, rust, 2)
	c.text(math.Min(math.Max(cx, 70), float64(w)-80), top+bar+20, "middle", "b12", rust,
		phaseWords(now, closes)+closes.In(f.Zone).Format("Mon 2 Jan 15:04"))
	if nx > 0 && nx < float64(w) {
		c.line(nx, top-8, nx, top+bar, ink, 1.5)
		fmt.Fprintf(&c.b, `<path d="M%.1f %.1fl5 8h-10z" fill="%s"/>`, nx, top-15, ink)
		s := "now, " + now.In(f.Zone).Format("Mon 2 Jan 15:04")
		if now.Before(closes) {
			s += " — " + Left(now, closes)
		}
		anchor, tx := "start", nx+8
		if nx > float64(w)*0.62 {
			anchor, tx = "end", nx-8
		}
		c.text(tx, top-10, anchor, "b12", ink, s)
	}
	return c.done()
}

func phaseWords(now, closes time.Time) string {
	if now.Before(closes) {
		return "closes "
	}
	return "closed "
}

// Pace draws how a round fills over its window, with so much of it left: what came,
// earlier rounds behind it on the same scale, and how it may go on; of writes a
// number of it, unit is what a whole one is on the axis.
func Pace(window time.Duration, now float64, came []forecast.Entry, earlier []forecast.Round, fan []forecast.Point,
	of func(float64) string, unit float64) Picture {
	const w, h, left, bottom, topY = 300, 190, 34.0, 160.0, 16.0
	most := 4.0
	lines := make([][][2]float64, len(earlier))
	for i, r := range earlier {
		lines[i] = steps(r.Entries)
		most = math.Max(most, lines[i][len(lines[i])-1][1])
	}
	mine := steps(came)
	in := mine[len(mine)-1][1]
	most = math.Max(most, in)
	if len(fan) > 0 {
		most = math.Max(most, fan[len(fan)-1].High)
	}
	x := func(left1 float64) float64 { return left + (w-left-8)*(1-left1) }
	y := func(n float64) float64 { return bottom - (bottom-topY)*n/most }
	label := "Sent, over the window: " + of(in) + " so far."
	if len(fan) > 0 {
		label += " " + of(fan[len(fan)-1].Low) + " to " + of(fan[len(fan)-1].High) + " are to be expected."
	}
	c := draw(w, h, label)
	for _, n := range []float64{0, most / 2, most} {
		c.line(left, y(n), w-8, y(n), rule2, 0.7)
		c.text(left-6, y(n)+4, "end", "t12", soft, short(n/unit))
	}
	if len(fan) > 1 {
		c.b.WriteString(`<path d="M`)
		for i, p := range fan {
			fmt.Fprintf(&c.b, "%s%.1f %.1f", map[bool]string{true: "", false: "L"}[i == 0], x(p.Left), y(p.High))
		}
		for i := len(fan) - 1; i >= 0; i-- {
			fmt.Fprintf(&c.b, "L%.1f %.1f", x(fan[i].Left), y(fan[i].Low))
		}
		fmt.Fprintf(&c.b, `Z" fill="%s"/>`, wash)
	}
	curve := func(pts [][2]float64, stroke string, width, end float64) {
		fmt.Fprintf(&c.b, `<path d="M%.1f %.1f`, left, y(0))
		at := 0.0
		for _, p := range pts {
			fmt.Fprintf(&c.b, "L%.1f %.1fL%.1f %.1f", x(p[0]), y(at), x(p[0]), y(p[1]))
			at = p[1]
		}
		fmt.Fprintf(&c.b, `L%.1f %.1f" fill="none" stroke="%s" stroke-width="%.1f"/>`, x(end), y(at), stroke, width)
	}
	for _, l := range lines {
		curve(l, lastRun, 1.2, 0)
	}
	if len(fan) > 1 {
		fmt.Fprintf(&c.b, `<path d="M%.1f %.1f`, x(now), y(in))
		for _, p := range fan {
			fmt.Fprintf(&c.b, "L%.1f %.1f", x(p.Left), y(p.Likely))
		}
		fmt.Fprintf(&c.b, `" fill="none" stroke="%s" stroke-width="1.5" stroke-dasharray="4 3"/>`, deep)
	}
	curve(mine, deep, 2.5, now)
	fmt.Fprintf(&c.b, `<circle cx="%.1f" cy="%.1f" r="4.5" fill="%s"/>`, x(now), y(in), deep)
	c.text(left, bottom+18, "start", "t12", soft, fmt.Sprintf("%d days", int(window.Hours()/24)))
	c.text(w-8, bottom+18, "end", "t12", soft, "closing")
	return c.done()
}

// steps is how the sum of what was sent grew: shares of the window left with the sum
// then, a point a step; at least one.
func steps(list []forecast.Entry) [][2]float64 {
	at := map[float64]float64{}
	for _, e := range list {
		if e.Sent != forecast.Never {
			at[e.Sent] += e.Weight
		}
	}
	out := [][2]float64{{1, 0}}
	sum := 0.0
	for _, left := range slices.Backward(slices.Sorted(maps.Keys(at))) {
		sum += at[left]
		out = append(out, [2]float64{left, sum})
	}
	return out
}

// short is a number for an axis.
func short(n float64) string {
	switch {
	case n >= 1e6:
		return fmt.Sprintf("%.1fm", n/1e6)
	case n >= 1e4:
		return fmt.Sprintf("%.0fk", n/1e3)
	}
	return fmt.Sprintf("%.0f", n)
}

// FundBar draws a sum against the fund.
func FundBar(sum, fund int64) Picture {
	const w, h = 292, 22
	most := float64(max(sum, fund, 1))
	c := draw(w, h, fmt.Sprintf("%d%% of the fund.", sum*100/max(fund, 1)))
	c.rect(0, 2, w, 18, band)
	c.rect(0, 2, w*float64(sum)/most, 18, deep)
	if sum > fund {
		c.line(w*float64(fund)/most, 0, w*float64(fund)/most, h, rust, 2.5)
	}
	return c.done()
}

// Spread draws readers' scores on a line from 0 to most, and their mean.
func Spread(scores []mark.Score, mean mark.Score, most int) Picture {
	const w, h = 118, 18
	if !mean.Known() {
		return ""
	}
	x := func(s mark.Score) float64 { return 5 + (w-10)*s.Float()/float64(most) }
	lo, hi := scores[0], scores[0]
	for _, s := range scores {
		if s.Compare(lo) < 0 {
			lo = s
		}
		if s.Compare(hi) > 0 {
			hi = s
		}
	}
	c := draw(w, h, fmt.Sprintf("Mean %s; readers from %s to %s.", mean, lo, hi))
	c.line(0, 9, w, 9, "#E9E5D9", 3)
	c.line(x(lo), 9, x(hi), 9, green, 3)
	for _, s := range scores {
		c.line(x(s), 5, x(s), 13, green, 1.5)
	}
	fmt.Fprintf(&c.b, `<circle cx="%.1f" cy="9" r="5" fill="%s"/>`, x(mean), deep)
	return c.done()
}

// fewDays are as many as can each have their date beneath them.
const fewDays = 16

// DayBars draws a number for the end of each day of a rehearsal, to scale.
func DayBars(days []rehearsal.Day, of func(rehearsal.Day) int, what string) Picture {
	const w, h = 1180.0, 58.0
	most := 0
	for _, d := range days {
		most = max(most, of(d))
	}
	if most == 0 || len(days) == 0 {
		return ""
	}
	c := draw(int(w), int(h), fmt.Sprintf("Day by day, how many %s; at the most %d.", what, most))
	x := w / float64(len(days))
	for i, d := range days {
		if !d.Working {
			c.rect(float64(i)*x, 0, x, h-14, band)
		}
		if n := of(d); n > 0 {
			y := (h - 16) * float64(n) / float64(most)
			c.rect(float64(i)*x+0.5, h-14-y, math.Max(x-1, 1), y, green)
		}
		if few := len(days) <= fewDays; few || d.Date.Weekday() == time.Monday && i%14 < 7 {
			c.text(float64(i)*x, h-2, "start", "t12", soft, d.Date.Short()[4:])
		}
	}
	return c.done()
}

// Ring draws how far a section is.
func Ring(share float64, full, third bool) Picture {
	c := &canvas{}
	c.b.WriteString(`<svg width="18" height="18" viewBox="0 0 18 18" aria-hidden="true">`)
	switch {
	case full:
		c.b.WriteString(`<circle cx="9" cy="9" r="8" fill="#17453F"/><path d="M5 9l3 3 5-6" stroke="#fff" stroke-width="2" fill="none"/>`)
	case third:
		c.b.WriteString(`<path d="M9 1l8 15H1z" fill="#6A3D6B"/>`)
	default:
		c.b.WriteString(`<circle cx="9" cy="9" r="7" fill="none" stroke="#C4BEAE" stroke-width="2.5"/>`)
		if share > 0 {
			a := 2 * math.Pi * math.Min(share, 0.999)
			big := 0
			if share > 0.5 {
				big = 1
			}
			fmt.Fprintf(&c.b, `<path d="M9 2A7 7 0 %d 1 %.2f %.2f" fill="none" stroke="#17453F" stroke-width="2.5"/>`, big,
				9+7*math.Sin(a), 9-7*math.Cos(a))
		}
	}
	return c.done()
}

// Flow draws where applications went: from begun, to sent, to what became of them.
func Flow(n lifecycle.Flow) Picture {
	const w, h, top, height = 552, 250, 26.0, 200.0
	if n.Begun == 0 {
		return ""
	}
	unit := (height - 40) / float64(n.Begun)
	c := draw(w, h, fmt.Sprintf("%d begun, %d sent, %d still open, %d to be paid, %d lapsed, %d withdrawn.", n.Begun,
		n.Sent, n.Open, n.Owing,
		n.Lapsed, n.Withdrawn))
	c.text(0, 14, "start", "b12", ink, fmt.Sprintf("%d began", n.Begun))
	c.text(190, 14, "start", "b12", ink, fmt.Sprintf("%d sent", n.Sent))
	c.rect(0, top, 14, unit*float64(n.Begun), deep)
	from, to := top, top
	ribbon := func(x1, x2 float64, k int, fill, bar, label string) {
		if k == 0 {
			return
		}
		t := unit * float64(k)
		m := (x1 + x2) / 2
		fmt.Fprintf(&c.b, `<path d="M%.1f %.1fC%.1f %.1f %.1f %.1f %.1f %.1fV%.1fC%.1f %.1f %.1f %.1f %.1f %.1fZ" fill="%s"/>`,
			x1, from, m, from, m, to, x2, to, to+t, m, to+t, m, from+t, x1, from+t, fill)
		c.rect(x2, to, 12, t, bar)
		if label != "" {
			c.text(x2+18, to+math.Max(t/2, 5)+4, "start", "t12", ink, fmt.Sprintf("%d %s", k, label))
		}
		from, to = from+t, to+math.Max(t, 14)+6
	}
	ribbon(14, 190, n.Sent, wash, deep, "")
	ribbon(14, 190, n.Open, "#C9D8E6", blue, "still writing")
	ribbon(14, 190, n.Owing, "#C9D8E6", blue, "to pay")
	ribbon(14, 190, n.Withdrawn, band, rule2, "withdrew")
	ribbon(14, 190, n.Lapsed, band, rule2, "ran out of time")
	from, to = top, top
	for _, s := range []struct {
		n     int
		label string
		fill  string
		bar   string
	}{{n.Awarded, "awarded", wash, deep}, {n.CameBack, "came back", band, rule2}, {n.Reserve, "reserve", wash, green},
		{n.Reading, "eligible or being read", wash,
			green}, {n.Checking, "in checks", wash, green},
		{n.NotAwarded, "not awarded", band, rule2}, {n.NotEligible, "not eligible", band, rule2}} {
		ribbon(202, 400, s.n, s.fill, s.bar, s.label)
	}
	return c.done()
}
