package decide

import (
	"context"
	"slices"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// lettersPage is what office/decide/letters.html draws: the letters of an act before
// they leave, the odd ones first.
type lettersPage struct {
	Key      string
	Act      decision.Act
	Letters  []decision.Letter
	Odd      int
	Kinds    []kindOf
	One      *decision.Letter // the one looked at
	Zone     *time.Location
	Currency string
	May      bool
	Wrong    refusal.Refusal
	Subject  string
	Body     string
	More     int // beyond those drawn
}

// kindOf counts the letters of one outcome.
type kindOf struct {
	Outcome lifecycle.State
	N       int
}

// acted is an act, with how far its letters are.
type acted struct {
	decision.Act
	Leaving *work.Work // nil: none of them, or all, have left
}

// leaving is how far the letters of an act are that are on their way; nil when none are.
func leaving(a decision.Act, now time.Time) *work.Work {
	if a.Held == 0 || a.Sent == 0 && now.Before(a.LettersAt) {
		return nil
	}
	return &work.Work{Done: a.Sent, Total: a.Sent + a.Held}
}

// LettersLeaving is how far the letters of an act are, as a part of the page.
func LettersLeaving(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("act"), 10, 64)
	acts, err := r.Decisions.Acts(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	for _, a := range acts {
		if a.ID == id {
			return r.JSON(fiber.Map{"done": a.Sent, "total": a.Sent + a.Held, "ended": a.Held == 0, "failed": false,
				"says": phrase.Count(int64(a.Sent), "letter has left.", "letters have left.")})
		}
	}
	return fiber.ErrNotFound
}

// mostLetters is how many are listed at once.
const mostLetters = 300

// Letters shows the letters of an act.
func Letters(r *site.Request) error { return drawLetters(r, fiber.StatusOK, refusal.Refusal{}) }

func drawLetters(r *site.Request, status int, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.Params("act"), 10, 64)
	acts, err := r.Decisions.Acts(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(acts, func(a decision.Act) bool { return a.ID == id })
	if i < 0 {
		return fiber.ErrNotFound
	}
	d := lettersPage{Key: r.Round.Key, Act: acts[i], Zone: f.Zone, Currency: f.Design.Currency,
		May: r.May(access.HoldLetters), Wrong: wrong}
	if d.Letters, err = r.Decisions.LettersOf(r.Context, r.DB, f, r.Round.ID, id); err != nil {
		return err
	}
	slices.SortStableFunc(d.Letters, func(a, b decision.Letter) int { return len(b.Odd) - len(a.Odd) })
	one, _ := strconv.ParseInt(r.FormValue("letter"), 10, 64)
	for k := range d.Letters {
		l := &d.Letters[k]
		if len(l.Odd) > 0 {
			d.Odd++
		}
		if at := slices.IndexFunc(d.Kinds, func(x kindOf) bool { return x.Outcome == l.Outcome }); at >= 0 {
			d.Kinds[at].N++
		} else {
			d.Kinds = append(d.Kinds, kindOf{l.Outcome, 1})
		}
		if l.ID == one || one == 0 && k == 0 {
			shown := *l
			d.One, d.Subject, d.Body = &shown, l.Subject, l.Body
		}
	}
	if wrong.Says != "" {
		d.Subject, d.Body = r.FormValue("subject"), r.FormValue("body")
	}
	if n := len(d.Letters); n > mostLetters {
		d.Letters, d.More = d.Letters[:mostLetters], n-mostLetters
	}
	return office.Draw(r, status, "office/decide/letters", "Letters, "+r.Round.Name, "decisions", f, d)
}

// RewordLetter changes the text of one that has not left.
func RewordLetter(r *site.Request) error {
	act, _ := strconv.ParseInt(r.Params("act"), 10, 64)
	id, _ := strconv.ParseInt(r.FormValue("letter"), 10, 64)
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Decisions.Reword(ctx, tx, r.Round, act, id, r.FormValue("subject"), r.FormValue("body"))
	})
	if no, ok := refusal.Of(err); ok {
		return drawLetters(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	r.Tell("The letter is changed; it leaves as it stands here.")
	return r.See("/office/rounds/" + r.Round.Key + "/acts/" + r.Params("act") + "/letters?letter=" + r.FormValue("letter"))
}
