package decision

import (
	"context"
	"crypto/sha256"
	"encoding/binary"

	"ulvant/core/form"
	"ulvant/core/mark"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// notSentBack refuses what a second body has sent back.
func (s *Store) notSentBack(ctx context.Context, q db.Querier, r round.Round, sit Sitting, list []deciding) error {
	back, err := s.Panel.SentBack(ctx, q, r.ID, sit.Stage)
	if err != nil {
		return err
	}
	for _, d := range list {
		if why, ok := back[d.EntryID]; ok {
			return refusal.Unfit(d.c.Ref + " was sent back by the second body: “" + why + "”").
				But("talk about it again at a meeting, or leave it out of what is recorded")
		}
	}
	return nil
}

// ties are what settles equal scores by the round’s rule, the higher first; nil where the
// panel does.
func (s *Store) ties(ctx context.Context, q db.Querier, r round.Round, f *form.Form, stage form.Key,
	rows []Row) ([]mark.Score, error) {
	if f.Design.Tie == "" {
		return nil, nil
	}
	out := make([]mark.Score, len(rows))
	if f.Design.Tie == form.TieLot {
		for i, row := range rows {
			sum := sha256.Sum256([]byte(string(f.Design.Key) + ":" + row.Ref))
			out[i] = mark.Score{Num: int64(binary.BigEndian.Uint64(sum[:8]) >> 1), Den: 1}
		}
		return out, nil
	}
	var list []struct {
		EntryID int64 `db:"entry_id"`
		mark.Score
	}
	sql := `
		SELECT st.entry_id, sum(m.value) AS num, count(*) AS den FROM standing st
		JOIN assignment g ON g.entry_id = st.entry_id AND g.sent_at IS NOT NULL
		JOIN mark m ON m.entry_id = g.entry_id AND m.account_id = g.account_id AND m.criterion = $3
		WHERE st.round_id = $1 AND st.stage = $2 GROUP BY st.entry_id`
	if f.Design.Tie == form.TieSent {
		sql = `
		SELECT st.entry_id, -(extract(epoch FROM d.at) * 1000)::bigint AS num, 1 AS den FROM standing st
		JOIN entry e ON e.id = st.entry_id JOIN seal d ON d.id = e.seal_id WHERE st.round_id = $1 AND st.stage = $2 AND $3 <> ''`
	}
	if err := q.SelectContext(ctx, &list, sql, r.ID, stage, f.Design.Tie); err != nil {
		return nil, err
	}
	at := map[int64]mark.Score{}
	for _, x := range list {
		at[x.EntryID] = x.Score
	}
	for i, row := range rows {
		out[i] = at[row.EntryID]
	}
	return out, nil
}
