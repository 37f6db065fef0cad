package inspect

import (
	"bytes"
	"context"
	"encoding/binary"
	"errors"
	"image"
	"image/color"
	"image/jpeg"
	"io"
	"os"

	"golang.org/x/image/draw"
)

// The longest side of what a picture is drawn as beside its name, and large, in
// pixels.
const (
	SmallSide = 360
	LargeSide = 1800
)

// mostPixels is the largest picture that is drawn: twelve thousand by ten thousand.
// Beyond it the child's memory would not do.
const mostPixels = 120_000_000

// Render draws a picture at path twice, turned as its EXIF says and with none of
// its properties, as JPEG; ErrKept when it cannot be drawn.
func (b Bench) Render(ctx context.Context, path string) (small, large []byte, err error) {
	out, _, err := b.run(ctx, rendering, path, 64<<20)
	if errors.Is(err, errChild) || err == nil && len(out) < 8 {
		return nil, nil, ErrKept
	}
	if err != nil {
		return nil, nil, err
	}
	n := binary.BigEndian.Uint64(out)
	if n > uint64(len(out)-8) {
		return nil, nil, ErrKept
	}
	return out[8 : 8+n], out[8+n:], nil
}

var errNotDrawn = errors.New("the picture is too large to be drawn")

// render prints the small picture behind its length, and the large one.
func render(file *os.File, w io.Writer) error {
	c, format, err := image.DecodeConfig(file)
	if err != nil || c.Width*c.Height > mostPixels || c.Width*c.Height == 0 {
		return errNotDrawn
	}
	turn := 1
	if format == "jpeg" {
		if _, err := file.Seek(0, io.SeekStart); err != nil {
			return err
		}
		b, err := io.ReadAll(io.LimitReader(file, head))
		if err != nil {
			return err
		}
		turn = orientation(b)
	}
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	picture, _, err := image.Decode(file)
	if err != nil {
		return err
	}
	large := scaled(picture, LargeSide)
	small := scaled(large, SmallSide)
	var s, l bytes.Buffer
	for _, p := range []struct {
		to   *bytes.Buffer
		from image.Image
	}{{&s, small}, {&l, large}} {
		if err := jpeg.Encode(p.to, turned(p.from, turn), &jpeg.Options{Quality: 84}); err != nil {
			return err
		}
	}
	if err := binary.Write(w, binary.BigEndian, uint64(s.Len())); err != nil {
		return err
	}
	if _, err := w.Write(s.Bytes()); err != nil {
		return err
	}
	_, err = w.Write(l.Bytes())
	return err
}

// scaled draws a picture on white so that its longest side is at most side.
func scaled(p image.Image, side int) image.Image {
	w, h := p.Bounds().Dx(), p.Bounds().Dy()
	if long := max(w, h); long > side {
		w, h = max(1, w*side/long), max(1, h*side/long)
	}
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	draw.Draw(out, out.Bounds(), image.NewUniform(color.White), image.Point{}, draw.Src)
	draw.ApproxBiLinear.Scale(out, out.Bounds(), p, p.Bounds(), draw.Over, nil)
	return out
}

// turned applies an orientation of EXIF 2.32, 4.6.4: 1 as it is, 2 mirrored, 3 turned
// by half, 4 upside down, 5 to 8 the same with rows for columns.
func turned(p image.Image, turn int) image.Image {
	if turn < 2 || turn > 8 {
		return p
	}
	w, h := p.Bounds().Dx(), p.Bounds().Dy()
	out := image.NewRGBA(image.Rect(0, 0, w, h))
	if turn >= 5 {
		out = image.NewRGBA(image.Rect(0, 0, h, w))
	}
	for y := range h {
		for x := range w {
			u, v := x, y
			switch turn {
			case 2:
				u = w - 1 - x
			case 3:
				u, v = w-1-x, h-1-y
			case 4:
				v = h - 1 - y
			case 5:
				u, v = y, x
			case 6:
				u, v = h-1-y, x
			case 7:
				u, v = h-1-y, w-1-x
			case 8:
				u, v = y, w-1-x
			}
			out.Set(u, v, p.At(x, y))
		}
	}
	return out
}

// orientation reads tag 274 of the first directory of a JPEG's EXIF; 1 when it is not said.
func orientation(b []byte) int {
	for i := 2; i+4 <= len(b) && b[i] == 0xff; {
		kind, size := b[i+1], int(binary.BigEndian.Uint16(b[i+2:]))
		end := min(i+2+size, len(b))
		body := b[min(i+4, end):end]
		if kind == 0xe1 && len(body) > 14 && string(body[:6]) == "Exif\x00\x00" {
			turn := 1
			directory(body[6:], func(tag uint16, at []byte, order binary.ByteOrder) {
				if tag == 274 {
					turn = int(order.Uint16(at))
				}
			})
			return turn
		}
		if kind == 0xda || size < 2 {
			break
		}
		i += 2 + size
	}
	return 1
}
