package inspect

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	_ "image/jpeg" // the kinds of picture that are taken
	_ "image/png"
	"io"
	"os"

	"ulvant/core/slot"
)

// head is how much of a picture is read for its resolution: more than the
// segments before the picture itself take.
const head = 256 << 10

// lookPicture finds size, colour and dots per inch.
func lookPicture(file *os.File, f *slot.Facts) slot.Fault {
	c, format, err := image.DecodeConfig(file)
	if err != nil {
		return slot.Unreadable
	}
	f.Width, f.Height = c.Width, c.Height
	f.Grey = c.ColorModel == color.GrayModel || c.ColorModel == color.Gray16Model
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return slot.Unreadable
	}
	b, err := io.ReadAll(io.LimitReader(file, head))
	if err != nil {
		return slot.Unreadable
	}
	if format == "png" {
		f.DPI = pngDPI(b)
	} else {
		f.DPI = jpegDPI(b)
	}
	return ""
}

const perInch = 0.0254 // metres in an inch

// pngDPI reads the pHYs chunk (PNG specification, 11.3.5.3): pixels per metre
// when its unit is 1; 0 when it does not say.
func pngDPI(b []byte) float64 {
	i := bytes.Index(b, []byte("pHYs"))
	if i < 0 || i+13 > len(b) || b[i+12] != 1 {
		return 0
	}
	return float64(binary.BigEndian.Uint32(b[i+4:])) * perInch
}

// jpegDPI reads the JFIF header (units 1 a dot an inch, 2 a centimetre), else
// the EXIF XResolution; 0 when neither says.
func jpegDPI(b []byte) float64 {
	for i := 2; i+4 <= len(b) && b[i] == 0xff; {
		kind, size := b[i+1], int(binary.BigEndian.Uint16(b[i+2:]))
		end := min(i+2+size, len(b))
		body := b[min(i+4, end):end]
		switch {
		case kind == 0xe0 && len(body) >= 12 && string(body[:5]) == "JFIF\x00":
			x := float64(binary.BigEndian.Uint16(body[8:]))
			switch body[7] {
			case 1:
				return x
			case 2:
				return x * 2.54
			}
		case kind == 0xe1 && len(body) > 14 && string(body[:6]) == "Exif\x00\x00":
			if d := exifDPI(body[6:]); d > 0 {
				return d
			}
		case kind == 0xda || size < 2:
			return 0
		}
		i += 2 + size
	}
	return 0
}

// exifDPI reads XResolution (282) and ResolutionUnit (296) of the first image
// file directory (TIFF 6.0).
func exifDPI(b []byte) float64 {
	res, unit := 0.0, 2
	directory(b, func(tag uint16, value []byte, order binary.ByteOrder) {
		switch tag {
		case 282:
			if v := int(order.Uint32(value)); v > 0 && v+8 <= len(b) {
				if den := order.Uint32(b[v+4:]); den > 0 {
					res = float64(order.Uint32(b[v:])) / float64(den)
				}
			}
		case 296:
			unit = int(order.Uint16(value))
		}
	})
	switch unit {
	case 2:
		return res
	case 3:
		return res * 2.54
	}
	return 0
}

// directory goes through the first image file directory of a TIFF (TIFF 6.0, section
// 2): each tag, and the four bytes that hold its value or say where that is.
func directory(b []byte, each func(tag uint16, value []byte, order binary.ByteOrder)) {
	var order binary.ByteOrder = binary.LittleEndian
	if b[0] == 'M' {
		order = binary.BigEndian
	}
	at := int(order.Uint32(b[4:]))
	if at < 8 || at+2 > len(b) {
		return
	}
	for n, i := int(order.Uint16(b[at:])), at+2; n > 0 && i+12 <= len(b); n, i = n-1, i+12 {
		each(order.Uint16(b[i:]), b[i+8:i+12], order)
	}
}
