package award

import (
	"context"
	"strings"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/round"
	"ulvant/internal/trail"
)

// pairOf finds a pair that is worked out, and the case it is of.
func (s *Store) pairOf(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, entry int64,
	award form.Key) (app int64, label string, err error) {
	var ids []int64
	if err := tx.SelectContext(ctx, &ids, `
		SELECT e.application_id FROM fit x JOIN entry e ON e.id = x.entry_id WHERE x.round_id = $1 AND x.entry_id = $2 AND x.award = $3`, r.ID,
		entry, award); err != nil {
		return 0, "", err
	}
	if len(ids) == 0 {
		return 0, "", refusal.Missing("this person does not stand to this award").But("work it out anew if something changed")
	}
	return ids[0], f.Design.AwardLabel(string(award)), nil
}

// mostWhy is how long a reason may be, in bytes.
const mostWhy = 1000

// Rule says whether somebody meets an award where that cannot be told by itself, or
// where somebody sees that it was told wrongly. A ruling that is changed, and one
// against what was worked out, needs a reason.
func (s *Store) Rule(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, entry int64, award form.Key,
	fits bool, why string) error {
	app, label, err := s.pairOf(ctx, tx, r, f, entry, award)
	if err != nil {
		return err
	}
	if why = strings.TrimSpace(why); len(why) > mostWhy {
		return refusal.In("why", "Say why in up to 1,000 characters.")
	}
	var before struct {
		Stand string
		Ruled *bool
	}
	if err := tx.GetContext(ctx, &before, `
		SELECT x.stand, g.fits AS ruled FROM fit x LEFT JOIN award_ruling g ON g.entry_id = x.entry_id AND g.award = x.award
		WHERE x.entry_id = $1 AND x.award = $2`, entry, award); err != nil {
		return err
	}
	open := before.Stand == string(form.MustSay) && before.Ruled == nil
	if !open && why == "" {
		return refusal.In("why", "Say why: this changes what was known of them.")
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO award_ruling (entry_id, award, round_id, fits, why, by_id, at) VALUES ($1, $2, $3, $4, $5, $6, $7)
		ON CONFLICT (entry_id, award) DO UPDATE SET fits = $4, why = $5, by_id = $6, at = $7`, entry, award, r.ID, fits, why, tx.By.ID, tx.At); err != nil {
		return err
	}
	says := "meets it"
	if !fits {
		says = "does not meet it"
		if _, err := tx.ExecContext(ctx, `DELETE FROM award_hand WHERE entry_id = $1 AND award = $2 AND give`, entry,
			award); err != nil {
			return err
		}
	}
	if err := trail.Write(ctx, tx, "award-ruled", app, r.ID, map[string]string{"award": label, "says": says,
		"why": why}); err != nil {
		return err
	}
	return bump(ctx, tx, r.ID)
}

// Hand is what is done with a pair by hand.
type Hand string

// The hands.
const (
	Give Hand = "give" // given, whatever else is
	Bar  Hand = "bar"  // not given, whatever else is
	Free Hand = "free" // placed as it comes
)

// Lay a hand on a pair, with a reason; it holds for every placing.
func (s *Store) Lay(ctx context.Context, tx *db.Tx, r round.Round, f *form.Form, entry int64, award form.Key,
	hand Hand, why string) error {
	app, label, err := s.pairOf(ctx, tx, r, f, entry, award)
	if err != nil {
		return err
	}
	if why = strings.TrimSpace(why); why == "" || len(why) > mostWhy {
		return refusal.In("why", "Say why, in up to 1,000 characters; it stays beside the award.")
	}
	verb := map[Hand]string{Give: "award-held", Bar: "award-barred", Free: "award-freed"}[hand]
	switch hand {
	case Free:
		if _, err := tx.ExecContext(ctx, `DELETE FROM award_hand WHERE entry_id = $1 AND award = $2`, entry,
			award); err != nil {
			return err
		}
	case Give, Bar:
		var meets bool
		if err := tx.GetContext(ctx, &meets, `
			SELECT COALESCE(g.fits, x.stand = 'fits') FROM fit x LEFT JOIN award_ruling g ON g.entry_id = x.entry_id AND g.award = x.award
			WHERE x.entry_id = $1 AND x.award = $2`, entry, award); err != nil {
			return err
		}
		if hand == Give && !meets {
			return refusal.Unfit("they do not meet “" + label + "” as it stands").But("say first that they do, with a reason")
		}
		if _, err := tx.ExecContext(ctx, `
			INSERT INTO award_hand (entry_id, award, round_id, give, why, by_id, at) VALUES ($1, $2, $3, $4, $5, $6, $7)
			ON CONFLICT (entry_id, award) DO UPDATE SET give = $4, why = $5, by_id = $6, at = $7`, entry, award, r.ID, hand == Give, why, tx.By.ID,
			tx.At); err != nil {
			return err
		}
	default:
		return refusal.New("choose to give it, not to give it, or to let it go as it comes")
	}
	if err := trail.Write(ctx, tx, say.Verb(verb), app, r.ID, map[string]string{"award": label, "why": why}); err != nil {
		return err
	}
	return bump(ctx, tx, r.ID)
}
