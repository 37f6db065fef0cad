package inspect

import (
	"encoding/binary"
	"io"
	"os"

	"ulvant/core/slot"
)

// lookFilm finds the running time in the movie header (ISO/IEC 14496-12, mvhd;
// for fragmented files mehd, else their fragments). A file that does not say it is
// refused: its limit could not be held.
func lookFilm(file *os.File, f *slot.Facts) slot.Fault {
	info, err := file.Stat()
	if err != nil {
		return slot.Unreadable
	}
	w := boxes{r: file}
	if err := w.walk(0, info.Size(), 0); err != nil || w.scale == 0 {
		return slot.Unreadable
	}
	d := w.duration
	if d == 0 {
		d = w.fragments
	}
	if f.Seconds = float64(d) / float64(w.scale); d == 0 {
		f.Seconds = w.longest()
	}
	if f.Seconds == 0 {
		return slot.Unreadable
	}
	return ""
}

type boxes struct {
	r                          io.ReaderAt
	scale, duration, fragments uint64
	tracks                     map[uint32]*track
	current                    uint32 // the track at hand
	begins, lasts              uint64 // its fragment: when the next sample begins, how long one lasts
}

// walk goes through the boxes from at to end, into those that hold the headers.
func (w *boxes) walk(at, end int64, depth int) error {
	for n := 0; at+8 <= end && n < 200_000; n++ {
		var h [16]byte
		if _, err := w.r.ReadAt(h[:8], at); err != nil {
			return err
		}
		size, head := int64(binary.BigEndian.Uint32(h[:])), int64(8)
		switch size {
		case 1:
			if _, err := w.r.ReadAt(h[8:], at+8); err != nil {
				return err
			}
			size, head = int64(binary.BigEndian.Uint64(h[8:])), 16
		case 0:
			size = end - at
		}
		if size < head || at+size > end {
			return io.ErrUnexpectedEOF
		}
		switch string(h[4:8]) {
		case "moov", "mvex", "trak", "mdia", "moof", "traf":
			if depth < 4 {
				if err := w.walk(at+head, at+size, depth+1); err != nil {
					return err
				}
			}
		case "tkhd", "mdhd", "trex", "tfhd", "tfdt", "trun":
			b, err := w.body(at+head, size-head)
			if err != nil {
				return err
			}
			w.fragment(string(h[4:8]), b)
		case "mvhd":
			if err := w.movieHeader(at+head, size-head); err != nil {
				return err
			}
		case "mehd":
			v, err := w.number(at+head, size-head, 4, 4)
			if err != nil {
				return err
			}
			w.fragments = v
		}
		at += size
	}
	return nil
}

// movieHeader reads timescale and duration: 32 bits in version 0, at 12 and
// 16; in version 1 the duration has 64 bits, at 20 and 24.
func (w *boxes) movieHeader(at, size int64) error {
	var b [32]byte
	if _, err := w.r.ReadAt(b[:min(size, 32)], at); err != nil {
		return err
	}
	if b[0] == 1 {
		w.scale, w.duration = uint64(binary.BigEndian.Uint32(b[20:])), binary.BigEndian.Uint64(b[24:])
	} else {
		w.scale, w.duration = uint64(binary.BigEndian.Uint32(b[12:])), uint64(binary.BigEndian.Uint32(b[16:]))
	}
	return nil
}

// number reads one of 32 bits in version 0, of 64 in version 1.
func (w *boxes) number(at, size, v0, v1 int64) (uint64, error) {
	var b [16]byte
	if _, err := w.r.ReadAt(b[:min(size, 16)], at); err != nil {
		return 0, err
	}
	if b[0] == 1 {
		return binary.BigEndian.Uint64(b[v1:]), nil
	}
	return uint64(binary.BigEndian.Uint32(b[v0:])), nil
}
