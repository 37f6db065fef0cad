package demo

import (
	"context"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
)

// readersKnow is what the readers say of themselves, in the order of the readers.
var readersKnow = []struct {
	fields              []string
	knows, organisation string
}{
	{[]string{"peat"}, "Blocking of drains and grips with peat dams; dipwells and water tables, thirty years of it.",
		"Isles Wetland Survey"},
	{[]string{"shore", "grassland"}, "Marram, dune slacks and what cattle do to them; machair.", "Ness Field Station"},
	{[]string{"shore"}, "Oysters, reefs and spat; sea walls and sills of stone.", "Harbour Engineers’ Society"},
	{[]string{"grassland"}, "Hay meadows, orchids and yellow rattle; waders on wet grassland.", "Ness Field Station"},
	{[]string{"peat", "shore"}, "Budgets of repair, and whether they hold; boulders, timber and what barges cost.", ""},
	{nil, "I have read for the Trust for nine years, as somebody who lives here.", ""},
}

// knows is a reader as the round knows them.
func knows(a people.Account, i int) reading.Reader {
	k := readersKnow[i%len(readersKnow)]
	return reading.Reader{Account: a.ID, Fields: k.fields, Knows: k.knows, Organisation: k.organisation}
}

// readersOf invites readers to a round, and they accept.
func (b *builder) readersOf(ctx context.Context, id int64, list []people.Account) error {
	r, err := b.Rounds.ByID(ctx, b.DB, id)
	if err != nil {
		return err
	}
	for _, a := range list {
		if err := b.act(ctx, b.officer.ID, func(ctx context.Context, tx *db.Tx) error {
			_, err := b.Reading.Invite(ctx, tx, r, a.Email, a.Name)
			return err
		}); err != nil {
			return err
		}
		if err := b.act(ctx, a.ID, func(ctx context.Context, tx *db.Tx) error {
			return b.Reading.Accept(ctx, tx,
				a.ID)
		}); err != nil {
			return err
		}
	}
	return nil
}
