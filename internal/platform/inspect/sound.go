package inspect

import (
	"bytes"
	"encoding/binary"
	"io"
	"os"

	"ulvant/core/slot"
)

// lookSound finds the running time of MP3, WAV and FLAC. A file that does not
// say it is refused: its limit could not be held.
func lookSound(file *os.File, f *slot.Facts) slot.Fault {
	b, err := io.ReadAll(file)
	if err != nil {
		return slot.Unreadable
	}
	switch {
	case bytes.HasPrefix(b, []byte("RIFF")):
		f.Seconds = wavSeconds(b)
	case bytes.HasPrefix(b, []byte("fLaC")):
		f.Seconds = flacSeconds(b)
	default:
		f.Seconds = mp3Seconds(b)
	}
	if f.Seconds <= 0 {
		return slot.Unreadable
	}
	return ""
}

// wavSeconds divides the length of the sound by the bytes a second of the format
// (RIFF WAVE, the chunks "fmt " and "data"); a stream that did not know its
// length when it began says all ones, and then what is there counts.
func wavSeconds(b []byte) float64 {
	var rate, size uint32
	for i := 12; i+8 <= len(b); {
		n := binary.LittleEndian.Uint32(b[i+4:])
		body := b[i+8:]
		switch string(b[i : i+4]) {
		case "fmt ":
			if len(body) >= 12 {
				rate = binary.LittleEndian.Uint32(body[8:])
			}
		case "data":
			size = min(n, uint32(min(len(body), 1<<32-1)))
		}
		if int(n) > len(body) {
			break
		}
		i += 8 + int(n) + int(n&1)
	}
	if rate == 0 {
		return 0
	}
	return float64(size) / float64(rate)
}

// flacSeconds reads rate (20 bits) and samples (36 bits) of the stream's own
// block, which comes first (RFC 9639, 8.2).
func flacSeconds(b []byte) float64 {
	if len(b) < 8+18 || b[4]&0x7f != 0 {
		return 0
	}
	x := binary.BigEndian.Uint64(b[8+10:])
	rate, samples := x>>44, x&(1<<36-1)
	if rate == 0 {
		return 0
	}
	return float64(samples) / float64(rate)
}

// mp3Seconds adds up the frames (ISO/IEC 11172-3, 2.4.2.3, and 13818-3 for the
// lower rates), so that it is right for a changing bit rate too. A frame that
// only describes the others (Xing, Info) holds no sound.
func mp3Seconds(b []byte) float64 {
	b = cleanMP3(b)
	seconds, frames := 0.0, 0
	for i := 0; i+4 <= len(b); {
		size, samples, rate := mp3Frame(b[i:])
		if size == 0 {
			i++ // not a frame: look for the next one
			continue
		}
		body := b[i:min(i+size, len(b))]
		if frames > 0 || !bytes.Contains(body[:min(len(body), 64)], []byte("Xing")) &&
			!bytes.Contains(body[:min(len(body), 64)], []byte("Info")) {
			seconds += float64(samples) / float64(rate)
		}
		frames++
		i += size
	}
	if frames < 2 {
		return 0
	}
	return seconds
}

var (
	mp3Rates = [3]int{44100, 48000, 32000}
	// kilobits a second by layer (I, II, III) of MPEG 1, and of I, then II and III of MPEG 2
	mp3Bits = [5][16]int{
		{0, 32, 64, 96, 128, 160, 192, 224, 256, 288, 320, 352, 384, 416, 448},
		{0, 32, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320, 384},
		{0, 32, 40, 48, 56, 64, 80, 96, 112, 128, 160, 192, 224, 256, 320},
		{0, 32, 48, 56, 64, 80, 96, 112, 128, 144, 160, 176, 192, 224, 256},
		{0, 8, 16, 24, 32, 40, 48, 56, 64, 80, 96, 112, 128, 144, 160},
	}
)

// mp3Frame reads a frame's header: its length in bytes, samples and rate; a
// length of 0 when there is none.
func mp3Frame(b []byte) (size, samples, rate int) {
	if b[0] != 0xff || b[1]&0xe0 != 0xe0 {
		return 0, 0, 0
	}
	version, layer := b[1]>>3&3, 4-int(b[1]>>1&3) // version 3 is MPEG 1, 2 MPEG 2, 0 MPEG 2.5
	bits, at := int(b[2]>>4), int(b[2]>>2&3)
	if version == 1 || layer == 4 || bits == 0 || bits == 15 || at == 3 {
		return 0, 0, 0
	}
	rate = mp3Rates[at]
	row := layer - 1
	if version != 3 {
		rate /= 2
		row = 3 + min(layer-1, 1)
	}
	if version == 0 {
		rate /= 2
	}
	kilobits, pad := mp3Bits[row][bits], int(b[2]>>1&1)
	switch {
	case layer == 1:
		return (12*kilobits*1000/rate + pad) * 4, 384, rate
	case layer == 3 && version != 3:
		return 72*kilobits*1000/rate + pad, 576, rate
	}
	return 144*kilobits*1000/rate + pad, 1152, rate
}
