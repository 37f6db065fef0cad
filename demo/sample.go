package demo

import (
	"context"
	"time"

	"ulvant/core/form"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
)

// sampleCase of the round before the panel is one of a year ago.
const sampleCase = "Hay meadow above Ness mill"

// sampleWhys are the office’s reasons, criterion by criterion.
var sampleWhys = []string{"The turf and the hay are described strip by strip, and why this sward.",
	"A school that has mown it late for longer than anybody remembers will go on.",
	"Usual for the work, and it says what each band costs."}

// samples gives the round a sample case before anything is handed out; all its readers have
// marked it but the one of the demo.
func (r *running) samples(earlier *running) {
	r.on(r.dates.ChecksBy.Add(-3*time.Hour), func(ctx context.Context) error {
		row, err := earlier.row(ctx, sampleCase)
		if err != nil {
			return err
		}
		marks := map[form.Key]reading.SampleMark{}
		for i, c := range r.form.Design.Judged("") {
			marks[c.Key] = reading.SampleMark{Value: max(0, len(c.Steps)-2-i%2), Why: sampleWhys[i%len(sampleWhys)]}
		}
		if err := r.act(ctx, r.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			return r.Reading.SetSample(ctx, tx, r.rd, r.form, row.Ref,
				"A small case of last year. Mark it as if it was new; it takes a quarter of an hour.", marks)
		}); err != nil {
			return err
		}
		for i, a := range r.readers[1:] {
			own := map[form.Key]int{}
			for _, c := range r.form.Design.Judged("") {
				own[c.Key] = max(0, marks[c.Key].Value-noise(2+i%2, a.Name, string(c.Key)))
			}
			if err := r.act(ctx, a.ID, func(ctx context.Context, tx *db.Tx) error {
				return r.Reading.TrySample(ctx, tx, r.rd, r.form, own)
			}); err != nil {
				return err
			}
		}
		return nil
	})
}
