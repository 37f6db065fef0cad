package decision

import (
	"context"
	"fmt"
	"time"

	"github.com/lib/pq"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// linesFit sees to it that the awards of a decision are what it comes to, each within
// its sum, no more of one than it has places, and none twice to one person.
func (s *Store) linesFit(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, list []deciding) error {
	given, any := map[form.Key]int{}, false
	var entries, bare []int64 // bare: given something that is no award
	for _, d := range list {
		entries = append(entries, d.EntryID)
		if d.Outcome.Is(lifecycle.Gives) && d.Lines == nil && d.before != nil {
			bare = append(bare, d.EntryID)
		}
		var sum int64
		has := map[form.Key]bool{}
		for _, l := range d.Lines {
			a, ok := f.Design.Award(l.Award)
			switch {
			case !ok:
				return refusal.Unfit(fmt.Sprintf("there is no award %q in this round", l.Award))
			case has[l.Award]:
				return refusal.Unfit(d.c.Ref + " would have “" + a.Label + "” twice")
			case l.Amount < a.LeastSum() || l.Amount > a.Purse:
				return refusal.Unfit(fmt.Sprintf("“%s” gives %s to %s, and %s would have %s of it", a.Label,
					money.Format(a.LeastSum(), f.Design.Currency),
					money.Format(a.Purse, f.Design.Currency), d.c.Ref, money.Format(l.Amount, f.Design.Currency)))
			}
			has[l.Award], any = true, true
			given[l.Award]++
			sum += l.Amount
		}
		if d.Lines != nil && sum != d.Amount {
			return fmt.Errorf("the awards of %s come to %d, and the decision to %d", d.c.Ref, sum, d.Amount)
		}
	}
	if err := s.keepsLines(ctx, tx, bare); err != nil || !any {
		return err
	}
	var others []struct {
		Award form.Key
		N     int
	}
	if err := tx.SelectContext(ctx, &others, `
		SELECT w.award, count(*) AS n FROM entry e JOIN application a ON a.id = e.application_id
		JOIN LATERAL (SELECT act_id FROM decision WHERE entry_id = e.id ORDER BY act_id DESC LIMIT 1) d ON true
		JOIN awarded w ON w.act_id = d.act_id AND w.entry_id = e.id AND NOT EXISTS (SELECT FROM came_back b WHERE b.entry_id = w.entry_id AND b.act_id = w.act_id AND b.award = w.award)
		WHERE a.round_id = $1 AND e.state = ANY($2) AND e.id <> ALL($3) GROUP BY w.award`, r.ID, lifecycle.With(lifecycle.Gives), entries); err != nil {
		return err
	}
	for _, o := range others {
		given[o.Award] += o.N
	}
	for _, a := range f.Design.Awards {
		if over := given[a.Key] - a.Places; over > 0 {
			return refusal.Unfit(fmt.Sprintf("“%s” has %d places, and would be given %d times", a.Label, a.Places,
				given[a.Key])).But(
				"place the awards anew")
		}
	}
	return nil
}

// keepsLines refuses to put one sum in place of awards that were recorded.
func (s *Store) keepsLines(ctx context.Context, tx *db.Tx, entries []int64) error {
	if entries == nil {
		return nil
	}
	var refs []string
	if err := tx.SelectContext(ctx, &refs, `
		SELECT DISTINCT a.ref FROM entry e JOIN application a ON a.id = e.application_id
		JOIN LATERAL (SELECT act_id FROM decision WHERE entry_id = e.id ORDER BY act_id DESC LIMIT 1) d ON true
		JOIN awarded w ON w.act_id = d.act_id AND w.entry_id = e.id WHERE e.id = ANY($1) ORDER BY a.ref`, entries); err != nil || len(refs) == 0 {
		return err
	}
	return refusal.Unfit(refs[0] +
		" was given awards, and they are changed where awards are placed").But("hold or free them on Awards, and record that")
}

// keepLines keeps the awards of decisions.
func (s *Store) keepLines(ctx context.Context, tx *db.Tx, act int64, list []deciding) error {
	var entries, amounts []int64
	var awards []string
	for _, d := range list {
		for _, l := range d.Lines {
			entries, awards, amounts = append(entries, d.EntryID), append(awards, string(l.Award)), append(amounts, l.Amount)
		}
	}
	if entries == nil {
		return nil
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO awarded (act_id, entry_id, award, amount)
		SELECT $1, n.entry, n.award, n.amount FROM unnest($2::bigint[], $3::text[], $4::bigint[]) AS n(entry, award, amount)`, act, entries,
		pq.StringArray(awards), amounts)
	return err
}

// awardsSaid is what a decision gives, for its letter: its awards, else its sum.
func awardsSaid(f *form.Form, ch Choice) string {
	if ch.Lines == nil && ch.Amount > 0 {
		return money.Format(ch.Amount, f.Design.Currency)
	}
	return linesSaid(f, ch.Lines)
}

// linesSaid are the awards of a decision for its letter.
func linesSaid(f *form.Form, lines []Line) string {
	var labels, donors []string
	var sums []int64
	for _, l := range lines {
		a, _ := f.Design.Award(l.Award)
		labels, donors, sums = append(labels, a.Label), append(donors, a.Donor), append(sums, l.Amount)
	}
	return say.LinesOfAwards(labels, sums, donors, f.Design.Currency)
}

// linesBy are the awards that an act gave, by entry.
func (s *Store) linesBy(ctx context.Context, q db.Querier, act int64) (map[int64][]Line, error) {
	var rows []struct {
		Entry int64 `db:"entry_id"`
		Line
	}
	err := q.SelectContext(ctx, &rows,
		`SELECT entry_id, award, amount FROM awarded WHERE act_id = $1 ORDER BY entry_id, amount DESC, award`, act)
	out := map[int64][]Line{}
	for _, r := range rows {
		out[r.Entry] = append(out[r.Entry], r.Line)
	}
	return out, err
}

// LinesOf are the awards that a decision gave, by its act, but for those that came back.
func (s *Store) LinesOf(ctx context.Context, q db.Querier, act, entry int64) (out []Line, err error) {
	err = q.SelectContext(ctx, &out,
		`SELECT award, amount FROM awarded w WHERE act_id = $1 AND entry_id = $2 AND NOT EXISTS (SELECT FROM came_back b WHERE b.entry_id = w.entry_id AND b.act_id = w.act_id AND b.award = w.award) ORDER BY amount DESC, award`, act, entry)
	return out, err
}

// Holder is somebody who was told that an award is theirs.
type Holder struct {
	Entry  int64
	Ref    string
	Title  string
	Lead   string
	Amount int64
	SentAt *time.Time `db:"sent_at"`
}

// HoldersOf an award of a round: those who were told, the first told first.
func (s *Store) HoldersOf(ctx context.Context, q db.Querier, round int64, award form.Key) (out []Holder, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT e.id AS entry, a.ref, a.title, p.name AS lead, w.amount, o.sent_at FROM awarded w JOIN entry e ON e.id = w.entry_id AND e.told_act = w.act_id
		JOIN decision d ON d.act_id = w.act_id AND d.entry_id = w.entry_id JOIN application a ON a.id = e.application_id
		JOIN relation l ON l.application_id = a.id AND l.kind = 'lead' JOIN account p ON p.id = l.account_id LEFT JOIN post o ON o.id = d.post_id
		WHERE a.round_id = $1 AND w.award = $2 AND NOT EXISTS (SELECT FROM came_back b WHERE b.entry_id = w.entry_id AND b.act_id = w.act_id AND b.award = w.award) AND d.outcome = ANY($3) AND COALESCE(NULLIF(e.told, ''), e.state) = ANY($3) ORDER BY o.sent_at, a.id`,
		round, award, lifecycle.With(lifecycle.Gives))
	return out, err
}
