package inspect

import (
	"encoding/binary"
	"io"
)

// A fragmented film (ISO/IEC 14496-12, 8.8) need not say how long it runs: each of its
// fragments says when it begins (tfdt) and how long its samples last (trun, else the
// defaults of tfhd, else those of trex), each track in its own time scale (mdhd).
type track struct {
	scale    uint64 // units in a second
	standard uint64 // how long a sample lasts when its fragment does not say
	end      uint64 // of the fragments seen so far
}

// mostBox is the largest header box that is read whole.
const mostBox = 4 << 20

func (w *boxes) body(at, size int64) ([]byte, error) {
	if size < 0 || size > mostBox {
		return nil, io.ErrUnexpectedEOF
	}
	b := make([]byte, size)
	_, err := w.r.ReadAt(b, at)
	return b, err
}

// of is a track by its number.
func (w *boxes) of(id uint32) *track {
	if w.tracks == nil {
		w.tracks = map[uint32]*track{}
	}
	if w.tracks[id] == nil {
		w.tracks[id] = &track{}
	}
	return w.tracks[id]
}

// fragment reads the boxes of tracks and their fragments; what is too short is passed over.
func (w *boxes) fragment(kind string, b []byte) {
	word := func(at int) uint32 {
		if at+4 > len(b) {
			return 0
		}
		return binary.BigEndian.Uint32(b[at:])
	}
	switch kind {
	case "tkhd": // the number stands behind two times of 32 or 64 bits
		w.current = word(12)
		if len(b) > 0 && b[0] == 1 {
			w.current = word(20)
		}
	case "mdhd":
		w.of(w.current).scale = uint64(word(12))
		if len(b) > 0 && b[0] == 1 {
			w.of(w.current).scale = uint64(word(20))
		}
	case "trex":
		w.of(word(4)).standard = uint64(word(12))
	case "tfhd":
		w.current = word(4)
		w.lasts = w.of(w.current).standard
		at := 8
		flags := word(0)
		for _, f := range []struct {
			flag uint32
			size int
		}{{0x1, 8}, {0x2, 4}} {
			if flags&f.flag != 0 {
				at += f.size
			}
		}
		if flags&0x8 != 0 {
			w.lasts = uint64(word(at))
		}
	case "tfdt":
		w.begins = uint64(word(4))
		if len(b) > 0 && b[0] == 1 {
			w.begins = uint64(word(4))<<32 | uint64(word(8))
		}
	case "trun":
		w.run(b, word)
	}
}

// run adds the samples of a trun to where its track's fragment begins.
func (w *boxes) run(b []byte, word func(int) uint32) {
	flags, n, at, step := word(0), int(word(4)), 8, 0
	for _, f := range []uint32{0x1, 0x4} {
		if flags&f != 0 {
			at += 4
		}
	}
	for _, f := range []uint32{0x100, 0x200, 0x400, 0x800} {
		if flags&f != 0 {
			step += 4
		}
	}
	if flags&0x100 == 0 {
		w.begins += uint64(n) * w.lasts
	} else {
		for i := 0; i < n && at+4 <= len(b); i++ {
			w.begins += uint64(word(at))
			at += step
		}
	}
	t := w.of(w.current)
	t.end = max(t.end, w.begins)
}

// longest is how long the fragments run, in seconds; 0 when there are none.
func (w *boxes) longest() (seconds float64) {
	for _, t := range w.tracks {
		if t.scale > 0 {
			seconds = max(seconds, float64(t.end)/float64(t.scale))
		}
	}
	return seconds
}
