package inspect

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"io"
	"os"

	"ulvant/core/slot"
)

// lookSound finds the running time of MP3, WAV and FLAC, however long: nothing is
// read whole. A file that does not say it is refused: its limit could not be held.
func lookSound(file *os.File, f *slot.Facts) slot.Fault {
	info, err := file.Stat()
	if err != nil {
		return slot.Unreadable
	}
	var begin [4]byte
	if _, err := file.ReadAt(begin[:], 0); err != nil {
		return slot.Unreadable
	}
	switch string(begin[:]) {
	case "RIFF":
		f.Seconds = wavSeconds(file, info.Size())
	case "fLaC":
		f.Seconds = flacSeconds(file)
	default:
		f.Seconds = mp3Seconds(file, info.Size())
	}
	if f.Seconds <= 0 {
		return slot.Unreadable
	}
	return ""
}

// wavSeconds divides the length of the sound by the bytes a second of the format
// (RIFF WAVE, the chunks "fmt " and "data"); a stream that did not know its
// length when it began says all ones, and then what is there counts.
func wavSeconds(r io.ReaderAt, end int64) float64 {
	var rate uint32
	var size int64
	for i := int64(12); i+8 <= end; {
		var h [20]byte
		n, err := r.ReadAt(h[:], i)
		if n < 8 || err != nil && err != io.EOF {
			return 0
		}
		length, left := int64(binary.LittleEndian.Uint32(h[4:])), end-i-8
		switch string(h[:4]) {
		case "fmt ":
			if n >= 20 {
				rate = binary.LittleEndian.Uint32(h[16:])
			}
		case "data":
			size = min(length, left)
		}
		if length > left {
			break
		}
		i += 8 + length + length&1
	}
	if rate == 0 {
		return 0
	}
	return float64(size) / float64(rate)
}

// flacSeconds reads rate (20 bits) and samples (36 bits) of the stream's own
// block, which comes first (RFC 9639, 8.2).
func flacSeconds(r io.ReaderAt) float64 {
	var b [8 + 18]byte
	if _, err := r.ReadAt(b[:], 0); err != nil || b[4]&0x7f != 0 {
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
// only describes the others (Xing, Info) holds no sound; tags before and behind
// (ID3v2, ID3v1) are passed over.
func mp3Seconds(file io.ReaderAt, end int64) float64 {
	at := int64(0)
	var tag [10]byte
	for {
		if n, _ := file.ReadAt(tag[:], at); n < 10 || string(tag[:3]) != "ID3" {
			break
		}
		at += 10 + int64(tag[6]&0x7f)<<21 + int64(tag[7]&0x7f)<<14 + int64(tag[8]&0x7f)<<7 + int64(tag[9]&0x7f)
		if tag[5]&0x10 != 0 {
			at += 10 // a footer
		}
	}
	if n, _ := file.ReadAt(tag[:3], end-128); end > 128 && n == 3 && string(tag[:3]) == "TAG" {
		end -= 128
	}
	if at >= end {
		return 0
	}
	r := bufio.NewReaderSize(io.NewSectionReader(file, at, end-at), 1<<16)
	seconds, frames := 0.0, 0
	for {
		h, _ := r.Peek(64)
		if len(h) < 4 {
			break
		}
		size, samples, rate := mp3Frame(h)
		if size == 0 {
			r.Discard(1) // not a frame: look for the next one
			continue
		}
		body := h[:min(size, len(h))]
		if frames > 0 || !bytes.Contains(body, []byte("Xing")) && !bytes.Contains(body, []byte("Info")) {
			seconds += float64(samples) / float64(rate)
		}
		frames++
		if _, err := r.Discard(size); err != nil {
			break
		}
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
