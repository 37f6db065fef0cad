package view

import "fmt"

// Dot is a point of a Grid; Full where it is chosen.
type Dot struct {
	Row, Column int
	Full        bool
}

// Grid draws rows against columns, one row marked; -1 for none.
func Grid(dots []Dot, rows, columns, on int) Picture {
	const most = 640.0
	step := min(6, most/float64(max(1, columns)))
	height := min(6, 420/float64(max(1, rows)))
	c := draw(int(most), int(height*float64(rows))+4, fmt.Sprintf("%d awards against %d people", rows, columns))
	if on >= 0 {
		c.rect(0, height*float64(on)+1, most, max(height, 4), "#E1ECE8")
	}
	for _, d := range dots {
		x, y := step*(float64(d.Column)+0.5), height*(float64(d.Row)+0.5)+2
		if r := min(height, 6) / 2; d.Full {
			r = max(r, 2)
			c.path(fmt.Sprintf("M%.1f %.1fl%.1f %.1fl-%.1f %.1fl-%.1f -%.1fz", x, y-r, r, r, r, r, r, r), "#17453F")
		} else {
			c.rect(x-0.9, y-0.9, 1.8, 1.8, "#9DB8AF")
		}
	}
	return c.done()
}

// Bar is a value of 1,000 as a length; merit in another colour than need.
func Bar(value int, merit bool) Picture {
	fill, label := green, "need"
	if merit {
		fill, label = "#8F6A08", "merit"
	}
	c := draw(52, 10, fmt.Sprintf("%s %d of 100", label, (value+5)/10))
	c.rect(0, 0, float64(value)*0.05, 9, fill)
	return c.done()
}
