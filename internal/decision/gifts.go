package decision

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"ulvant/core/form"
	"ulvant/core/fundline"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/register"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
)

// GivenGift is how much of one gift a decision gives.
type GivenGift struct {
	Gift  form.Key `json:"gift"`
	Units int64    `json:"units"` // pieces, or minor units of money
}

// GiftLine is how one kind of gift goes down the order.
type GiftLine struct {
	form.Gift
	fundline.Handed
}

// gifts puts beside the rows of an order what each asks of the gifts of a round, what was
// recorded and what is chosen.
func (s *Store) gifts(ctx context.Context, q db.Querier, f *form.Form, t *Table, rows []Row) error {
	if t.Deciding = f.Deciding(); len(t.Deciding) == 0 || !t.Last {
		t.Deciding = nil
		return nil
	}
	entries, at := make([]int64, len(rows)), make(map[int64]*Row, len(rows))
	for i := range rows {
		entries[i], at[rows[i].EntryID] = rows[i].EntryID, &rows[i]
		rows[i].AsksOf, rows[i].Given = map[form.Key]int64{}, map[form.Key]int64{}
	}
	names := make([]string, len(t.Deciding))
	for i, g := range t.Deciding {
		names[i] = register.FactGift(g.Key)
	}
	var asked []struct {
		Entry int64 `db:"entry_id"`
		N     int
		Units int64
	}
	if err := q.SelectContext(ctx, &asked, `
		SELECT k.entry_id, n.at::int AS n, (k.facts->>n.name)::bigint AS units FROM known k, unnest($2::text[]) WITH ORDINALITY AS n(name, at)
		WHERE k.entry_id = ANY($1) AND k.facts->>n.name IS NOT NULL`, entries, names); err != nil {
		return err
	}
	for _, a := range asked {
		at[a.Entry].AsksOf[t.Deciding[a.N-1].Key] = a.Units
	}
	var given []struct {
		Entry int64 `db:"entry_id"`
		GivenGift
	}
	if err := q.SelectContext(ctx, &given, `
		SELECT g.entry_id, g.gift, g.units FROM unnest($1::bigint[]) AS n(entry)
		JOIN LATERAL (SELECT act_id FROM decision WHERE entry_id = n.entry ORDER BY act_id DESC LIMIT 1) d ON true
		JOIN given g ON g.act_id = d.act_id AND g.entry_id = n.entry
		WHERE NOT EXISTS (SELECT FROM came_back b WHERE b.entry_id = g.entry_id AND b.act_id = g.act_id AND b.award = '')`, entries); err != nil {
		return err
	}
	for _, g := range given {
		at[g.Entry].Given[g.Gift] = g.Units
	}
	var chosen []struct {
		Entry int64 `db:"entry_id"`
		Gifts []byte
	}
	if err := q.SelectContext(ctx, &chosen,
		`SELECT entry_id, gifts FROM choice WHERE entry_id = ANY($1) AND gifts IS NOT NULL`, entries); err != nil {
		return err
	}
	for _, c := range chosen {
		if err := json.Unmarshal(c.Gifts, &at[c.Entry].ChosenGifts); err != nil {
			return err
		}
	}
	return nil
}

// Gifts are how each kind of gift goes down the order, with what is chosen and recorded;
// what nobody has chosen is offered as it is asked, until it ends.
func (t Table) Gifts() []GiftLine {
	cases := t.Cases()
	return t.giftsTo(func(i int) bool { return cases[i].Outcome().Is(lifecycle.Gives) })
}

// giftsTo are the gifts as they go down the order to those that take them.
func (t Table) giftsTo(takes func(int) bool) (out []GiftLine) {
	for _, g := range t.Deciding {
		list := make([]fundline.Taking, len(t.Rows))
		for i, row := range t.Rows {
			list[i] = fundline.Taking{Takes: takes(i), Asked: row.AsksOf[g.Key], Chosen: fundline.Open}
			switch {
			case row.Chosen != nil && row.ChosenGifts != nil:
				list[i].Chosen = unitsOf(row.ChosenGifts, g.Key)
			case row.State.Is(lifecycle.Gives):
				list[i].Chosen = row.Given[g.Key]
			}
		}
		out = append(out, GiftLine{g, fundline.HandDown(list, g.Has())})
	}
	return out
}

// Gifts are the gifts as those given something by a what-if would have them.
func (t *Trial) Gifts() []GiftLine {
	return t.Table.giftsTo(func(i int) bool { return t.Result.Gives[i] > 0 })
}

func unitsOf(list []GivenGift, gift form.Key) int64 {
	i := slices.IndexFunc(list, func(x GivenGift) bool { return x.Gift == gift })
	if i < 0 {
		return 0
	}
	return list[i].Units
}

// givenTo is what each row would be given of all gifts, in the order of the design.
func (t Table) givenTo() [][]GivenGift {
	out := make([][]GivenGift, len(t.Rows))
	for _, g := range t.Gifts() {
		for i, n := range g.Given {
			if n > 0 {
				out[i] = append(out[i], GivenGift{g.Key, n})
			}
		}
	}
	return out
}

// recorded is what a row was given of all gifts.
func (t Table) recorded(row Row) (out []GivenGift) {
	for _, g := range t.Deciding {
		if n := row.Given[g.Key]; n > 0 {
			out = append(out, GivenGift{g.Key, n})
		}
	}
	return out
}

// giftsFit sees to it that nobody is given more of a gift than was asked, unless the round
// says so, and all together no more than there is.
func (s *Store) giftsFit(ctx context.Context, q db.Querier, r round.Round, f *form.Form, list []deciding) error {
	sums, entries := map[form.Key]int64{}, make([]int64, len(list))
	for i, d := range list {
		entries[i] = d.EntryID
		for _, x := range d.Gifts {
			sums[x.Gift] += x.Units
		}
	}
	if len(sums) == 0 {
		return nil
	}
	var facts []struct {
		Entry int64 `db:"entry_id"`
		Facts []byte
	}
	if err := q.SelectContext(ctx, &facts, `SELECT entry_id, facts FROM known WHERE entry_id = ANY($1)`,
		entries); err != nil {
		return err
	}
	asks := map[int64]map[string]any{}
	for _, x := range facts {
		var m map[string]any
		if err := json.Unmarshal(x.Facts, &m); err != nil {
			return err
		}
		asks[x.Entry] = m
	}
	for _, d := range list {
		for _, x := range d.Gifts {
			g := f.Gift(x.Gift)
			if g == nil || x.Units < 0 {
				return refusal.Unfit(fmt.Sprintf("%s would have %d of %q, which this round does not give", d.c.Ref, x.Units,
					x.Gift))
			}
			asked, _ := asks[d.EntryID][register.FactGift(x.Gift)].(float64)
			if x.Units > int64(asked) && !f.Design.MoreThanAsked {
				return refusal.Unfit(fmt.Sprintf("%s asked for %s of “%s”, and would have %s", d.c.Ref,
					say.GiftAmount(*g, int64(asked), f.Design.Currency),
					g.Label, say.GiftAmount(*g, x.Units, f.Design.Currency)))
			}
		}
	}
	var others []GivenGift
	if err := q.SelectContext(ctx, &others, `
		SELECT g.gift, sum(g.units)::bigint AS units FROM entry e JOIN application a ON a.id = e.application_id
		JOIN LATERAL (SELECT act_id FROM decision WHERE entry_id = e.id ORDER BY act_id DESC LIMIT 1) d ON true
		JOIN given g ON g.act_id = d.act_id AND g.entry_id = e.id
		WHERE a.round_id = $1 AND e.state = ANY($2) AND e.id <> ALL($3)
		  AND NOT EXISTS (SELECT FROM came_back b WHERE b.entry_id = g.entry_id AND b.act_id = g.act_id AND b.award = '') GROUP BY g.gift`,
		r.ID, lifecycle.With(lifecycle.Gives), entries); err != nil {
		return err
	}
	for _, o := range others {
		if sums[o.Gift] > 0 {
			sums[o.Gift] += o.Units
		}
	}
	for _, g := range f.Design.Gifts {
		if over := sums[g.Key] - g.Has(); g.Has() > 0 && over > 0 {
			return refusal.Unfit(fmt.Sprintf("%s of “%s” would be given, %s more than there is",
				say.GiftAmount(g, sums[g.Key], f.Design.Currency),
				g.Label, say.GiftAmount(g, over, f.Design.Currency)))
		}
	}
	return nil
}

// keepGifts keeps the gifts of decisions.
func (s *Store) keepGifts(ctx context.Context, tx *db.Tx, act int64, list []deciding) error {
	var entries, units []int64
	var gifts []string
	for _, d := range list {
		for _, x := range d.Gifts {
			if x.Units > 0 {
				entries, gifts, units = append(entries, d.EntryID), append(gifts, string(x.Gift)), append(units, x.Units)
			}
		}
	}
	if entries == nil {
		return nil
	}
	_, err := tx.ExecContext(ctx, `
		INSERT INTO given (act_id, entry_id, gift, units)
		SELECT $1, n.entry, n.gift, n.units FROM unnest($2::bigint[], $3::text[], $4::bigint[]) AS n(entry, gift, units)`, act, entries, gifts, units)
	return err
}

// stillGiven is what a case has of gifts by what was recorded last.
func (s *Store) stillGiven(ctx context.Context, q db.Querier, entry int64) (out []GivenGift, err error) {
	err = q.SelectContext(ctx, &out, `
		SELECT g.gift, g.units FROM given g WHERE g.entry_id = $1 AND g.act_id = (SELECT max(act_id) FROM decision WHERE entry_id = $1)
		  AND NOT EXISTS (SELECT FROM came_back b WHERE b.entry_id = g.entry_id AND b.act_id = g.act_id AND b.award = '') ORDER BY g.gift`, entry)
	return out, err
}

// GiftsOf a decision, by its act, as they are said: their kinds, and how much of each.
func (s *Store) GiftsOf(ctx context.Context, q db.Querier, f *form.Form, act, entry int64) (gifts []form.Gift,
	units []int64, err error) {
	if len(f.Design.Gifts) == 0 {
		return nil, nil, nil
	}
	var list []GivenGift
	if err := q.SelectContext(ctx, &list, `SELECT gift, units FROM given WHERE act_id = $1 AND entry_id = $2`, act,
		entry); err != nil {
		return nil, nil, err
	}
	gifts, units = giftsSaid(f, list)
	return gifts, units, nil
}

// giftsSaid are gifts in the order of the design.
func giftsSaid(f *form.Form, list []GivenGift) (gifts []form.Gift, units []int64) {
	for _, g := range f.Design.Gifts {
		if n := unitsOf(list, g.Key); n > 0 {
			gifts, units = append(gifts, g), append(units, n)
		}
	}
	return gifts, units
}
