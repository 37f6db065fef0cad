package view

import "fmt"

// Interval is a value with what it may be, on a scale that a whole list shares: a
// case's calibrated score, a reader's severity.
type Interval struct {
	Low, Top float64 // of the scale
	From, To float64 // 95% of what it may be
	At       float64
	Tick     float64 // what it is compared with: the plain mean, or nothing
}

// Draw it as a bar with a dot, and a tick for what it is compared with.
func (v Interval) Draw() Picture {
	const w, h = 220, 18
	x := func(s float64) float64 { return 5 + (w-10)*(s-v.Low)/max(v.Top-v.Low, 1e-9) }
	c := draw(w, h, fmt.Sprintf("%.2f, from %.2f to %.2f; beside it %.2f.", v.At, v.From, v.To, v.Tick))
	c.line(0, 9, w, 9, "#E9E5D9", 1)
	c.line(x(v.From), 9, x(v.To), 9, "#9DBEB4", 5)
	c.line(x(v.Tick), 3, x(v.Tick), 15, "#8F6A08", 1.5)
	fmt.Fprintf(&c.b, `<circle cx="%.1f" cy="9" r="4" fill="%s"/>`, x(v.At), deep)
	return c.done()
}
