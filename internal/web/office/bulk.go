package office

import (
	"context"
	"strconv"

	"ulvant/core/refusal"
	"ulvant/internal/bulk"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/web/kit/site"
)

// BeginBulk begins an act on some entries and leads to its page, where it is drawn
// before it is done; what need not be told anything is drawn at once.
func BeginBulk(r *site.Request, b bulk.Bulk, entries []int64) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		if b.ID, err = r.Program.Bulk.Begin(ctx, tx, b, entries); err != nil || !b.Act.Plain() {
			return err
		}
		b.Stage = bulk.Asked
		return r.Program.Bulk.Tell(ctx, tx, b, bulk.Args{})
	})
	var no refusal.Refusal
	if refusal.AsUnfit(err, &no) {
		r.Tell(no.Sentence())
		return r.See(b.Back)
	}
	if err != nil {
		return err
	}
	if b.Act.Plain() {
		if err := DrawFew(r, b.ID, len(entries)); err != nil {
			return err
		}
	}
	return r.See("/office/bulk/" + strconv.FormatInt(b.ID, 10))
}

// DrawFew draws few cases while the asker waits; a job draws many.
func DrawFew(r *site.Request, id int64, n int) error {
	if n > work.Inline {
		return nil
	}
	return r.Program.Bulk.Run(r.Context, r.At, id, bulk.Drawing)
}
