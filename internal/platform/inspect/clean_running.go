package inspect

import (
	"bytes"
	"encoding/binary"
	"io"
	"os"

	"github.com/gabriel-vasile/mimetype"
)

// Films and sounds can be of any size, so that they are not held in memory: what is left of
// one is a list of parts, most of them as they stand in the file.

// part of what is left: bytes of the file, or others in their place.
type partOf struct {
	at, n int64  // of the file; n 0 for none
	with  []byte // instead
	blank int64  // so many zeros
}

// copied writes the parts.
func copied(w io.Writer, file io.ReaderAt, parts []partOf) error {
	zeros := make([]byte, 64<<10)
	for _, p := range parts {
		if _, err := w.Write(p.with); err != nil {
			return err
		}
		if _, err := io.Copy(w, io.NewSectionReader(file, p.at, p.n)); err != nil {
			return err
		}
		for left := p.blank; left > 0; left -= int64(len(zeros)) {
			if _, err := w.Write(zeros[:min(left, int64(len(zeros)))]); err != nil {
				return err
			}
		}
	}
	return nil
}

// cleanRunning is what is left of a film or a sound.
func cleanRunning(kind *mimetype.MIME, file *os.File, size int64) ([]partOf, error) {
	switch {
	case kind.Is("audio/mpeg"):
		return cleanMP3(file, size)
	case kind.Is("audio/wav"):
		return cleanWAV(file, size)
	case kind.Is("audio/flac"):
		return cleanFLAC(file, size)
	case kind.Is("video/webm"), kind.Is("audio/webm"):
		return cleanWebM(file, size)
	}
	return cleanMP4(file, size)
}

// bytesAt reads n bytes at a place, fewer at the end.
func bytesAt(file io.ReaderAt, at int64, n int) []byte {
	b := make([]byte, n)
	got, _ := file.ReadAt(b, at)
	return b[:got]
}

// cleanMP3 drops an ID3v2 tag before the sound and an ID3v1 tag behind it.
func cleanMP3(file io.ReaderAt, size int64) ([]partOf, error) {
	at := int64(0)
	for {
		b := bytesAt(file, at, 10)
		if len(b) < 10 || string(b[:3]) != "ID3" {
			break
		}
		tag := 10 + (int64(b[6]&0x7f)<<21 | int64(b[7]&0x7f)<<14 | int64(b[8]&0x7f)<<7 | int64(b[9]&0x7f))
		if b[5]&0x10 != 0 {
			tag += 10 // a footer
		}
		at = min(at+tag, size)
	}
	end := size
	if end-at >= 128 && string(bytesAt(file, end-128, 3)) == "TAG" {
		end -= 128
	}
	return []partOf{{at: at, n: end - at}}, nil
}

// cleanWAV keeps the format and the sound of a RIFF file.
func cleanWAV(file io.ReaderAt, size int64) ([]partOf, error) {
	head := bytesAt(file, 0, 12)
	if len(head) < 12 || string(head[:4]) != "RIFF" {
		return nil, errNotCleaned
	}
	parts, total := []partOf{{with: head}}, int64(4)
	keep := map[string]bool{"fmt ": true, "data": true, "fact": true}
	for at := int64(12); at+8 <= size; {
		b := bytesAt(file, at, 8)
		long := int64(binary.LittleEndian.Uint32(b[4:]))
		end := min(at+8+long+long&1, size)
		if keep[string(b[:4])] {
			parts, total = append(parts, partOf{at: at, n: end - at}), total+end-at
		}
		at = end
	}
	binary.LittleEndian.PutUint32(head[4:], uint32(total))
	return parts, nil
}

// cleanFLAC keeps the stream's own block and the table of where to seek (RFC 9639, 8).
func cleanFLAC(file io.ReaderAt, size int64) ([]partOf, error) {
	head := bytesAt(file, 0, 4)
	if string(head) != "fLaC" {
		return nil, errNotCleaned
	}
	parts := []partOf{{with: head}}
	for at := int64(4); at+4 <= size; {
		b := bytesAt(file, at, 4)
		kind, long := b[0]&0x7f, int64(b[1])<<16|int64(b[2])<<8|int64(b[3])
		end, final := at+4+long, b[0]&0x80 != 0
		if end > size {
			return nil, errNotCleaned
		}
		if kind == 0 || kind == 3 {
			b[0] = kind
			parts = append(parts, partOf{with: b}, partOf{at: at + 4, n: long})
		}
		if at = end; final {
			if len(parts) < 3 {
				return nil, errNotCleaned
			}
			parts[len(parts)-2].with[0] |= 0x80
			return append(parts, partOf{at: end, n: size - end}), nil
		}
	}
	return nil, errNotCleaned
}

// cleanMP4 makes free space of the boxes that hold user data; nothing moves, so that the
// tables of where the sound and pictures are stay right (ISO/IEC 14496-12, 8.1.2 and 8.10).
func cleanMP4(file io.ReaderAt, size int64) (parts []partOf, err error) {
	done, boxes := int64(0), 0
	var walk func(at, end int64, depth int) error
	walk = func(at, end int64, depth int) error {
		for at+8 <= end {
			if boxes++; boxes > mostElements {
				return errNotCleaned
			}
			b := bytesAt(file, at, 16)
			if len(b) < 8 {
				return errNotCleaned
			}
			long, head := int64(binary.BigEndian.Uint32(b)), int64(8)
			switch long {
			case 1:
				if len(b) < 16 || at+16 > end {
					return errNotCleaned
				}
				long, head = int64(binary.BigEndian.Uint64(b[8:])), 16
			case 0:
				long = end - at
			}
			if long < head || long > end-at {
				return errNotCleaned
			}
			switch string(b[4:8]) {
			case "udta", "meta", "uuid":
				parts = append(parts, partOf{at: done, n: at + 4 - done}, partOf{with: []byte("free")},
					partOf{at: at + 8, n: head - 8}, partOf{blank: long - head})
				done = at + long
			case "moov", "trak", "mdia":
				if depth < 6 {
					if err := walk(at+head, at+long, depth+1); err != nil {
						return err
					}
				}
			}
			at += long
		}
		return nil
	}
	if err := walk(0, size, 0); err != nil {
		return nil, err
	}
	return append(parts, partOf{at: done, n: size - done}), nil
}

// Elements of WebM that say who made a film, or with what; each may be empty space (Void).
const (
	webmTags    = 0x1254C367
	webmTitle   = 0x7BA9
	webmMuxer   = 0x4D80
	webmWriter  = 0x5741
	webmAttach  = 0x1941A469
	webmTrack   = 0x1654AE6B
	webmEntry   = 0xAE
	webmNamed   = 0x536E // the name of a track
	webmVoid    = 0xEC
	webmMadeUTC = 0x4461
)

// cleanWebM makes empty space of what names a film and whoever made it; nothing moves (RFC
// 9559, 5.1 and RFC 8794, 11.3.2). What programs need of who wrote it stays a blank text.
func cleanWebM(file io.ReaderAt, size int64) (parts []partOf, err error) {
	w, done := webm{r: file, end: size}, int64(0)
	for at, n := int64(0), 0; at < size; n++ {
		id, idLen, ok := w.number(at, false)
		long, sizeLen, known := w.number(at+idLen, true)
		if !ok || sizeLen == 0 || n > mostElements {
			return nil, errNotCleaned
		}
		body := at + idLen + sizeLen
		switch id {
		case webmSegment, webmInfo, webmTrack, webmEntry:
			at = body
			continue
		}
		end := body + int64(long)
		if !known && id == webmCluster { // browsers record clusters without an end: what follows has no names
			at = body
			continue
		}
		if !known || int64(long) < 0 || end > size {
			return nil, errNotCleaned
		}
		switch id {
		case webmTags, webmAttach, webmTitle, webmMadeUTC, webmNamed:
			head := voidHead(end - at)
			parts = append(parts, partOf{at: done, n: at - done}, partOf{with: head}, partOf{blank: end - at - int64(len(head))})
			done = end
		case webmMuxer, webmWriter:
			parts = append(parts, partOf{at: done, n: body - done}, partOf{with: bytes.Repeat([]byte(" "),
				int(min(end-body, 4096)))},
				partOf{blank: max(end-body-4096, 0)})
			done = end
		}
		at = end
	}
	return append(parts, partOf{at: done, n: size - done}), nil
}

// voidHead begins a Void element that takes up so many bytes in all, at least two: its size
// is written in as many bytes as fit.
func voidHead(all int64) []byte {
	if all < 9 {
		return []byte{webmVoid, 0x80 | byte(all-2)}
	}
	head := make([]byte, 9)
	binary.BigEndian.PutUint64(head[1:], uint64(all-9)|1<<56)
	head[0] = webmVoid
	return head
}
