package cases

import (
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/turn"
	"ulvant/internal/check"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// bodyTurn is a reviewing body’s turn with the case, as it is drawn.
type bodyTurn struct {
	check.Turn
	Label, Says string
	Looks       []form.Option // what it looks at
	Marks       int           // it gives a mark up to this; 0: none
	Given       string        // as it was typed
	Mine        bool          // the asker reviews for it, and it is with them
	Before      bool          // a body has seen it before
}

// turnsOf are the turns of the case; whoever reviews for a body sees how far it is,
// and what other bodies wrote as the office does.
func turnsOf(r *site.Request, f *form.Form) ([]bodyTurn, error) {
	list, err := r.Program.Checks.TurnsOf(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return nil, err
	}
	var out []bodyTurn
	for i, t := range list {
		var due time.Time
		if t.DueAt != nil {
			due = *t.DueAt
		}
		x := bodyTurn{Turn: t, Label: f.Design.BodyLabel(t.Body), Says: say.Turn(f, t.Body, t.State, due, t.Word()),
			Mine: t.State == turn.With && office.ReviewsFor(r, r.Case.RoundID, t.Body), Before: i > 0,
			Given: r.FormValue("mark")}
		for _, b := range f.Design.Bodies {
			if string(b.Key) == t.Body {
				x.Looks, x.Marks = b.Points, b.Marks
			}
		}
		out = append(out, x)
	}
	return out, nil
}

// AnswerTurn keeps what a body says of a case.
func AnswerTurn(r *site.Request) error {
	body := r.FormValue("body")
	if !office.ReviewsFor(r, r.Case.RoundID, body) {
		return fiber.ErrNotFound
	}
	a := check.Answer{Note: r.FormValue("note"), Points: map[form.Key]bool{}}
	said := map[string]string{"yes": "yes; it is passed on", "no": "no; the office looks at it",
		"office": "sent back to the office",
		"before": "sent back to the body before you"}[r.FormValue("answer")]
	switch r.FormValue("answer") {
	case "yes":
		a.State = turn.Yes
	case "no":
		a.State = turn.No
	case "office":
		a.State = turn.Back
	case "before":
		a.State, a.Before = turn.Back, true
	}
	if n, err := strconv.Atoi(strings.TrimSpace(r.FormValue("mark"))); err == nil {
		a.Mark = &n
	}
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	for _, b := range f.Design.Bodies {
		for _, p := range b.Points {
			if v := r.FormValue("point-" + string(p.Key)); string(b.Key) == body && v != "" {
				a.Points[p.Key] = v == "yes"
			}
		}
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Checks.AnswerTurn(ctx, tx, r.Case, body, a)
	})
	if no, ok := refusal.Of(err); ok {
		return drawCase(r, fiber.StatusUnprocessableEntity, fault{"turn", no.Sentence()})
	}
	if err != nil {
		return err
	}
	r.Tell("Kept: " + said + ".")
	return r.See("/office/rounds/" + r.Case.RoundKey + "/turns")
}

// SeeRegisters keeps that somebody has looked at what a register says now.
func SeeRegisters(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Checks.SeeRegisters(ctx, tx, r.Case, r.FormValue("note"))
	})
	if no, ok := refusal.Of(err); ok {
		return drawCase(r, fiber.StatusUnprocessableEntity, fault{"registers", no.Sentence()})
	}
	if err != nil {
		return err
	}
	r.Tell("Kept; it no longer waits for you.")
	return r.See("/office/applications/" + r.Case.Ref + r.Case.Query() + "#registers")
}

// said is what a register said, as a sentence.
type said struct {
	check.RegisterAnswer
	Says string
}

// registersOf are what registers said of the case’s body; waits tells that one has
// changed its mind and nobody has looked.
func registersOf(r *site.Request) (out []said, waits bool, err error) {
	list, err := r.Program.Checks.Registers(r.Context, r.DB, r.Case.EntryID)
	for _, a := range list {
		out = append(out, said{a, say.RegisterSays(a.Value, a.Finding, a.Name)})
		waits = waits || a.Offer && a.SeenAt == nil
	}
	return out, waits, err
}
