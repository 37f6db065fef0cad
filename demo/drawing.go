package demo

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"math"
)

// paints of the drawings.
var (
	paperPaint = color.RGBA{0xF1, 0xEA, 0xDE, 255}
	landPaint  = color.RGBA{0xCB, 0xC0, 0xA8, 255}
	waterPaint = color.RGBA{0x9F, 0xB4, 0xBE, 255}
	inkPaint   = color.RGBA{0x24, 0x2E, 0x2B, 255}
	rustPaint  = color.RGBA{0xB9, 0x43, 0x1C, 255}
)

// catalogue is a sheet like the first, large enough to be printed.
const catalogue = 6

// drawing makes up a sheet of a bridge at 150 dots an inch, as PNG: sheet 0 is seen
// from afar, 1 the long section, 2 the plan, 3 a joint, 4 piers, 5 the ridge.
func drawing(title string, sheet int) ([]byte, error) {
	w, h := 744+74*(sheet%3), 558
	switch sheet {
	case 1:
		w = 1488
	case catalogue:
		w, h = 1240, 930
	}
	p := image.NewRGBA(image.Rect(0, 0, w, h))
	fill := func(x0, y0, x1, y1 int, c color.Color) {
		draw.Draw(p, image.Rect(x0, y0, x1, y1), image.NewUniform(c), image.Point{}, draw.Src)
	}
	line := func(x0, y0, x1, y1, wide float64, c color.Color) {
		for n, i := math.Hypot(x1-x0, y1-y0), 0.0; i <= n; i += max(1, wide/3) {
			x, y := x0+(x1-x0)*i/n, y0+(y1-y0)*i/n
			fill(int(x-wide/2), int(y-wide/2), int(x+wide/2+1), int(y+wide/2+1), c)
		}
	}
	fill(0, 0, w, h, paperPaint)
	fw, fh := float64(w), float64(h)
	sag := fh / 930 * float64(noise(90, title)+20) * float64(1-2*noise(2, title, "up"))
	deck := func(at float64, posts int, rail float64) {
		last := [2]float64{}
		for i := 0; i <= 200; i++ {
			t := float64(i) / 200
			x, y := fw*(.1+.8*t), at+sag*4*t*(1-t)
			if i > 0 {
				line(last[0], last[1], x, y, 14, inkPaint)
				line(last[0], last[1]-rail, x, y-rail, 4, inkPaint)
			}
			if posts > 0 && i%(200/posts) == 0 {
				line(x, y, x, y-rail, 3, inkPaint)
			}
			last = [2]float64{x, y}
		}
	}
	switch sheet {
	case 2: // from above
		fill(0, h*2/5, w, h*3/5, waterPaint)
		fill(w/10, h*9/20, w*9/10, h*11/20, paperPaint)
		for i := range 30 {
			x := fw * (.1 + .8*float64(i)/29)
			line(x, fh*.45, x, fh*.55, 4, inkPaint)
		}
	case 3: // a joint, full size
		r := fh * .3
		for a := 0.0; a < 2*math.Pi; a += .01 {
			x, y := fw/2+r*math.Cos(a), fh/2+r*math.Sin(a)
			fill(int(x)-6, int(y)-6, int(x)+6, int(y)+6, inkPaint)
		}
		line(fw*.15, fh/2, fw*.85, fh/2, 26, inkPaint)
		line(fw/2, fh*.1, fw/2, fh*.9, 16, rustPaint)
	default:
		for x := range w { // banks, and water between them
			t := float64(x) / fw
			bank := fh * (.62 + .25*math.Exp(-math.Pow((t-.5)/.22, 2)))
			fill(x, int(bank), x+1, h, landPaint)
			if bank > fh*.8 {
				fill(x, int(fh*.8), x+1, int(bank), waterPaint)
			}
		}
		deck(fh*.55, 24*min(sheet+1, 2), float64(40+noise(50, title, "rail")))
		if sheet == 4 {
			for _, t := range []float64{.33, .67} {
				line(fw*t, fh*.55, fw*t, fh*.9, 30, inkPaint)
			}
		}
		if sheet == 5 {
			line(fw*.1, fh*.55, fw*.5, fh*.2, 16, rustPaint)
			line(fw*.9, fh*.55, fw*.5, fh*.2, 16, rustPaint)
		}
	}
	var b bytes.Buffer
	e := png.Encoder{CompressionLevel: png.BestSpeed}
	if err := e.Encode(&b, p); err != nil {
		return nil, err
	}
	return withDots(b.Bytes(), 5906), nil // 150 dots an inch
}

// withDots puts a pHYs chunk (PNG specification, 11.3.5.3) behind the header, which
// is 33 bytes long.
func withDots(b []byte, perMetre uint32) []byte {
	chunk := []byte("pHYs")
	chunk = binary.BigEndian.AppendUint32(chunk, perMetre)
	chunk = binary.BigEndian.AppendUint32(chunk, perMetre)
	chunk = append(chunk, 1)
	sum := crc32.ChecksumIEEE(chunk)
	chunk = append([]byte{0, 0, 0, 9}, chunk...)
	chunk = binary.BigEndian.AppendUint32(chunk, sum)
	return append(append(append([]byte{}, b[:33]...), chunk...), b[33:]...)
}
