package round

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"strconv"
	"strings"

	"ulvant/core/design"
	"ulvant/core/form"
	"ulvant/core/personname"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/trail"
)

// ErrNoList: the round has no such list.
var ErrNoList = refusal.New("the round’s design has no such list any more")

// GrowList adds an item to a list of a round, for all: to the design that is being
// worked on, and, where the round is published, as a new design that differs from
// the last by nothing else, since whatever else is being worked on is not ready.
// published is that design; nil where there is none. An item that is there already,
// by its label, stays as it is.
func (s *Store) GrowList(ctx context.Context, tx *db.Tx, id int64, list form.Key, label string) (published *int64,
	err error) {
	raw, err := s.lockWorking(ctx, tx, id)
	if err != nil {
		return nil, err
	}
	switch d, err := Decode(raw); {
	case err != nil:
		return nil, err
	default:
		items, grown, err := grow(d, list, label)
		if err != nil {
			return nil, err
		}
		if grown {
			value, err := json.Marshal(items)
			if err != nil {
				return nil, err
			}
			if _, err := s.Edit(ctx, tx, id, "lists/"+string(list), []design.Op{{Do: design.Set, Path: "lists/" + string(list) +
				"/items",
				Value: value}}); err != nil {
				return nil, err
			}
		}
	}
	r, err := s.ByID(ctx, tx, id)
	if err != nil || r.DesignID == nil {
		return nil, err
	}
	var before []byte
	if err := tx.GetContext(ctx, &before, `SELECT document FROM design WHERE id = $1`, *r.DesignID); err != nil {
		return nil, err
	}
	d, err := Decode(before)
	if err != nil {
		return nil, err
	}
	if _, grown, err := grow(d, list, label); err != nil || !grown {
		return r.DesignID, err
	}
	_, canonical, err := compile(d)
	if err != nil {
		return nil, err
	}
	sum := sha256.Sum256(canonical)
	var next struct {
		ID     int64
		Number int
	}
	if err := tx.GetContext(ctx, &next, `
		INSERT INTO design (round_id, number, document, sha256, published_at, published_by)
		SELECT $1, max(number) + 1, $2, $3, $4, $5 FROM design WHERE round_id = $1 RETURNING id, number`,
		id, string(canonical), sum[:], tx.At, tx.By.ID); err != nil {
		return nil, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE round SET design_id = $2 WHERE id = $1`, id, next.ID); err != nil {
		return nil, err
	}
	return &next.ID, trail.Write(ctx, tx, "list-grew", 0, id, map[string]string{"list": string(list), "item": label,
		"number": strconv.Itoa(next.Number)})
}

// grow a list of a design by an item; grown is false when it has it.
func grow(d *form.Design, list form.Key, label string) (items []form.Item, grown bool, err error) {
	label = strings.TrimSpace(label)
	for i := range d.Lists {
		l := &d.Lists[i]
		if l.Key != list {
			continue
		}
		taken := map[string]bool{}
		for _, it := range l.Items {
			taken[it.Code] = true
			if personname.Fold(it.Label) == personname.Fold(label) {
				return l.Items, false, nil
			}
		}
		code := strings.ReplaceAll(personname.Fold(label), " ", "-")
		for n := 2; code == "" || taken[code]; n++ {
			code = strings.ReplaceAll(personname.Fold(label), " ", "-") + "-" + strconv.Itoa(n)
		}
		l.Items = append(l.Items, form.Item{Code: code, Label: label})
		return l.Items, true, nil
	}
	return nil, false, ErrNoList
}
