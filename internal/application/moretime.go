package application

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"ulvant/core/calendar"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/trail"
)

// MoreTime is a wish for more time, and what became of it.
type MoreTime struct {
	ID        int64
	EntryID   int64      `db:"entry_id"`
	AskedAt   *time.Time `db:"asked_at"` // nil: given unasked
	Reason    string
	DecidedAt *time.Time `db:"decided_at"`
	DecidedBy *int64     `db:"decided_by"`
	Until     *time.Time // nil: not given
	Note      string
}

const moretimeColumns = `id, entry_id, asked_at, reason, decided_at, decided_by, until, note`

// MoreTimes of an entry, the latest first.
func (s *Store) MoreTimes(ctx context.Context, q db.Querier, entry int64) (out []MoreTime, err error) {
	err = q.SelectContext(ctx, &out, `SELECT `+moretimeColumns+` FROM moretime WHERE entry_id = $1 ORDER BY id DESC`,
		entry)
	return out, err
}

// AskTime asks the office for more time, once until it is answered.
func (s *Store) AskTime(ctx context.Context, tx *db.Tx, c Case, reason string) error {
	reason = strings.TrimSpace(reason)
	if reason == "" || len(reason) > 2000 {
		return refusal.Unfit("Say in a few sentences why, in up to 2,000 characters. The reason is kept.")
	}
	c, err := s.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	if !c.State.Is(lifecycle.Drafting) {
		return ErrNotDraft
	}
	var open bool
	if err := tx.GetContext(ctx, &open, `SELECT EXISTS (SELECT FROM moretime WHERE entry_id = $1 AND decided_at IS NULL)`,
		c.EntryID); err != nil {
		return err
	}
	if open {
		return refusal.Unfit("You have asked already").But("the office answers by mail.")
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO moretime (entry_id, asked_at, reason) VALUES ($1, $2, $3)`, c.EntryID,
		tx.At, reason); err != nil {
		return err
	}
	return trail.Write(ctx, tx, "asked-for-time", c.ID, c.RoundID, nil)
}

// GiveTime lets one draft be written and sent until a time of its own, or says
// that it cannot be (until is zero). The reason is kept, and told to the lead.
func (s *Store) GiveTime(ctx context.Context, tx *db.Tx, c Case, until time.Time, note string) error {
	note = strings.TrimSpace(note)
	if note == "" || len(note) > 2000 {
		return refusal.Unfit("Give the reason, in up to 2,000 characters. It is kept, and told to the applicant.")
	}
	c, err := s.Lock(ctx, tx, c, false)
	if err != nil {
		return err
	}
	if !c.State.Is(lifecycle.Drafting) {
		return ErrNotDraft
	}
	f, err := s.Rounds.Form(ctx, tx, c.DesignID)
	if err != nil {
		return err
	}
	given := !until.IsZero()
	if given && (!until.After(tx.At) || !until.After(c.Window(f).Closes)) {
		return refusal.Unfit("Choose a time in the future, later than they have now.")
	}
	var to *time.Time
	if given {
		to = &until
	}
	res, err := tx.ExecContext(ctx,
		`UPDATE moretime SET decided_at = $2, decided_by = $3, until = $4, note = $5 WHERE entry_id = $1 AND decided_at IS NULL`, c.EntryID, tx.At, tx.By.ID, to, note)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		if !given {
			return refusal.Unfit("Nobody asked for more time here.")
		}
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO moretime (entry_id, decided_at, decided_by, until, note) VALUES ($1, $2, $3, $4, $5)`, c.EntryID,
			tx.At, tx.By.ID, to, note); err != nil {
			return err
		}
	}
	l := post.Letter{Kind: "more-time", Account: c.LeadID, Application: c.ID, Round: c.RoundID, To: c.LeadEmail,
		ToName: c.LeadName, ReplyTo: f.Design.Contact,
		Subject: "No more time for “" + c.Title +
			"”", Body: fmt.Sprintf("Dear %s,\n\nyou asked for more time for “%s” in %s. It cannot be given:\n\n%s\n",
			c.LeadName, c.Title, c.RoundName, note)}
	verb, figures := say.Verb("refused-time"), map[string]string(nil)
	if given {
		verb, figures = "gave-time", map[string]string{"until": strconv.FormatInt(until.Unix(), 10)}
		l.Subject = "More time for “" + c.Title + "”"
		l.Body = fmt.Sprintf("Dear %s,\n\n“%s” in %s may be written and sent until %s.\n\n%s\n\nYour referees' links "+
			"work until then too.\n", c.LeadName, c.Title, c.RoundName, calendar.WallOf(until, f.Zone).Words(), note)
		if _, err := tx.ExecContext(ctx, `UPDATE entry SET more_until = $2 WHERE id = $1`, c.EntryID, until); err != nil {
			return err
		}
	}
	if _, err := s.Post.Queue(ctx, tx, l); err != nil {
		return err
	}
	if err := trail.Write(ctx, tx, verb, c.ID, c.RoundID, figures); err != nil {
		return err
	}
	if c, err = s.ByEntry(ctx, tx, c.EntryID); err != nil {
		return err
	}
	_, err = s.Refresh(ctx, tx, c)
	return err
}
