package inspect

import (
	"encoding/binary"
	"io"
	"math"
	"os"

	"ulvant/core/slot"
)

// Elements of WebM (RFC 9559, Matroska; RFC 8794, EBML).
const (
	webmSegment  = 0x18538067
	webmInfo     = 0x1549A966
	webmScale    = 0x2AD7B1 // nanoseconds in a tick
	webmDuration = 0x4489   // in ticks, a float
	webmCluster  = 0x1F43B675
	webmTime     = 0xE7 // of a cluster, in ticks
	webmSimple   = 0xA3
	webmGroup    = 0xA0
	webmBlock    = 0xA1
	webmLasts    = 0x9B // of a block, in ticks
)

// mostElements of a film: a frame each for ten hours.
const mostElements = 2_000_000

// lookWebM finds the running time: what the film says, else when its last block
// begins, for what browsers record says nothing.
func lookWebM(file *os.File, f *slot.Facts) slot.Fault {
	info, err := file.Stat()
	if err != nil {
		return slot.Unreadable
	}
	w := webm{r: file, end: info.Size(), scale: 1_000_000}
	if w.walk() != nil || w.scale == 0 {
		return slot.Unreadable
	}
	ticks := w.duration
	if ticks <= 0 {
		ticks = float64(w.last)
	}
	f.Seconds = ticks * float64(w.scale) / 1e9
	if f.Seconds <= 0 || math.IsInf(f.Seconds, 0) || math.IsNaN(f.Seconds) {
		f.Seconds = 0
		return slot.Unreadable
	}
	return ""
}

type webm struct {
	r              io.ReaderAt
	end            int64
	scale          uint64
	duration       float64
	cluster, block int64 // when the one at hand begins, in ticks
	last           int64 // when the last block begins, or ends where it says how long it lasts
}

// walk goes through the elements in their order, into those that hold others.
func (w *webm) walk() error {
	for at, n := int64(0), 0; at < w.end; n++ {
		id, idLen, ok := w.number(at, false)
		size, sizeLen, known := w.number(at+idLen, true)
		if !ok || sizeLen == 0 || n > mostElements {
			return io.ErrUnexpectedEOF
		}
		body := at + idLen + sizeLen
		switch id {
		case webmSegment, webmInfo, webmCluster, webmGroup:
			at = body
			continue
		}
		if !known || int64(size) < 0 || body+int64(size) > w.end {
			return io.ErrUnexpectedEOF
		}
		if err := w.read(id, body, int64(size)); err != nil {
			return err
		}
		at = body + int64(size)
	}
	return nil
}

func (w *webm) read(id uint64, at, size int64) error {
	switch id {
	case webmScale, webmDuration, webmTime, webmLasts, webmSimple, webmBlock:
	default:
		return nil
	}
	var b [16]byte
	n := min(size, 16)
	if _, err := w.r.ReadAt(b[:n], at); err != nil {
		return err
	}
	whole := uint64(0)
	for _, v := range b[:min(n, 8)] {
		whole = whole<<8 | uint64(v)
	}
	switch id {
	case webmScale:
		w.scale = whole
	case webmDuration:
		switch size {
		case 4:
			w.duration = float64(math.Float32frombits(binary.BigEndian.Uint32(b[:])))
		case 8:
			w.duration = math.Float64frombits(binary.BigEndian.Uint64(b[:]))
		}
	case webmTime:
		w.cluster = int64(whole)
	case webmLasts:
		w.last = max(w.last, w.block+int64(whole))
	default: // a block: its track, then when it begins after its cluster
		_, trackLen, _ := w.number(at, true)
		if trackLen == 0 || trackLen+2 > n {
			return nil
		}
		w.block = w.cluster + int64(int16(binary.BigEndian.Uint16(b[trackLen:])))
		w.last = max(w.last, w.block)
	}
	return nil
}

// number reads a number of variable length (RFC 8794, section 4): an element's ID with
// its marker, a size without; known is false for a size of which all bits are set.
func (w *webm) number(at int64, size bool) (v uint64, length int64, known bool) {
	var b [8]byte
	n, _ := w.r.ReadAt(b[:], at)
	if n == 0 || b[0] == 0 {
		return 0, 0, false
	}
	length = 1
	for mask := byte(0x80); b[0]&mask == 0; mask >>= 1 {
		length++
	}
	if int64(n) < length {
		return 0, 0, false
	}
	for _, x := range b[:length] {
		v = v<<8 | uint64(x)
	}
	if !size {
		return v, length, length <= 4
	}
	most := uint64(1)<<(7*length) - 1
	v &= most
	return v, length, v != most
}
