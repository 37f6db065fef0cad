package demo

import (
	"bytes"
	"context"
	_ "embed"
	"encoding/binary"
	"math"
	"strconv"

	"ulvant/core/form"
	"ulvant/core/slot"
	"ulvant/internal/application"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
)

// mooring is a film of fourteen seconds, drawn and recorded for the demo.
//
//go:embed mooring.webm
var mooring []byte

// hum is a made-up recording of so many seconds: two notes that beat against each other,
// 8,000 samples of 8 bits a second (RIFF WAVE).
func hum(title string, seconds int) []byte {
	const rate = 8000
	var b bytes.Buffer
	le := func(v any) { _ = binary.Write(&b, binary.LittleEndian, v) } // a buffer takes all
	n := uint32(rate * seconds)
	b.WriteString("RIFF")
	le(36 + n)
	b.WriteString("WAVEfmt ")
	le(uint32(16))
	le([]uint16{1, 1})
	le([]uint32{rate, rate})
	le([]uint16{1, 8})
	b.WriteString("data")
	le(n)
	low := 110 + float64(noise(90, title))
	for i := range n {
		at := float64(i) / rate
		loud := 30 + 20*math.Sin(at/3)
		b.WriteByte(byte(128 + loud*(math.Sin(2*math.Pi*low*at)+math.Sin(2*math.Pi*(low*1.013)*at))/2))
	}
	return b.Bytes()
}

// heardAsks is what the Listening Fellowship asks to hear: up to three recordings or films,
// with the half minute that should be listened to first.
func heardAsks(e *edits) {
	e.ask("materials", "heard", form.File, form.Fact, "Something you have recorded",
		takes(slot.Limits{Kinds: []slot.Kind{slot.Sound, slot.Film}, SizeMost: 300 << 20, FilesLeast: 1, FilesMost: 3,
			ExcerptMost: 30, Details: []string{"Title", "Where and when"}}))
}

// hears puts a candidate's recording into their application, and a film where they have one.
func (t *talking) hears(ctx context.Context, c application.Case, l listener) error {
	f, err := t.Rounds.Form(ctx, t.DB, c.DesignID)
	if err != nil {
		return err
	}
	type piece struct {
		name, title, where, from, to string
		body                         []byte
	}
	pieces := []piece{{"recording.wav", l.title, "The isles, last winter", "0:05", "0:30", hum(l.title, 40)}}
	if l.then == "held" {
		pieces = append(pieces, piece{"mooring.webm", "A mooring at slack water", "Tarl, from the pier", "0:02", "0:12",
			mooring})
	}
	var saves []intake.Edit
	for i, p := range pieces {
		m, err := t.Materials.PutInSlot(ctx, db.Account(c.LeadID), t.at, c, f.Question("heard"), p.name, int64(len(p.body)),
			bytes.NewReader(p.body))
		if err != nil {
			return err
		}
		for column, v := range map[form.Key]string{form.DetailColumn(0): p.title, form.DetailColumn(1): p.where,
			form.ColFrom: p.from, form.ColTo: p.to} {
			saves = append(saves, intake.Edit{Place: form.Place{Question: "heard", Row: form.FileRow(m.ID), Column: column},
				EditID: "demo-heard-" + strconv.Itoa(i), Value: v})
		}
	}
	return t.act(ctx, c.LeadID, func(ctx context.Context, tx *db.Tx) error {
		_, _, err := t.Intake.Save(ctx, tx, c, saves)
		return err
	})
}
