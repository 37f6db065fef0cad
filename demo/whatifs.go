package demo

import (
	"context"
	"time"

	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
)

// whatIfs keeps two for the panel: everybody a little less so that more are funded, and
// a share of the money for two districts. They differ in whom they leave out.
func (r *running) whatIfs() {
	r.on(r.now.Add(-26*time.Hour), func(ctx context.Context) error {
		stage := r.form.FirstStage()
		field := r.form.Design.Listed.Question
		return r.act(ctx, r.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			for _, w := range []struct {
				name  string
				tried decision.Tried
			}{
				{"More of them, a tenth less each", decision.Tried{Cut: 10, Down: 60, Part: true, Reserves: 3}},
				{"Two in five to Tarl and Brae Ness", decision.Tried{Past: true, Reserves: 3, Quotas: []decision.TriedQuota{
					{Field: field, Value: "Tarl", Money: true, Least: 25}, {Field: field, Value: "Brae Ness", Money: true,
						Least: 18}}}},
			} {
				if _, err := r.Decisions.KeepWhatIf(ctx, tx, r.rd, r.form, stage, 0, 0, w.name, w.tried); err != nil {
					return err
				}
			}
			return nil
		})
	})
}
