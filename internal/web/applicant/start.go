package applicant

import (
	"context"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	core "ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/desk"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/profile"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// StartForm asks what the application is called.
func StartForm(r *site.Request) error { return drawStart(r, fiber.StatusOK, "", "") }

// startPage is what applicant/start.html draws.
type startPage struct {
	Round    round.Round
	Form     *form.Form
	Full     string
	Title    string
	Problem  string
	Carried  map[string]string
	Same     []desk.Item
	Mine     []desk.Item
	From     string
	Alike    []alike
	Zone     *time.Location
	Profiles []profile.Profile
	Unknown  []string // what the office does not know of them yet
	For      string
	Open     bool
}

func drawStart(r *site.Request, status int, title, problem string) error {
	f, err := r.Rounds.Published(r.Context, r.DB, r.Round)
	if err != nil {
		return err
	}
	mine, err := r.Desk.Mine(r.Context, r.Account.ID)
	if err != nil {
		return err
	}
	var same []desk.Item
	for _, it := range mine {
		if it.RoundKey == r.Round.Key && !it.State.Is(lifecycle.Gone) {
			same = append(same, it)
		}
	}
	alike, err := lookAlikes(r, f)
	if err != nil {
		return err
	}
	profiles, err := r.Profiles.Of(r.Context, r.DB, r.Account.ID)
	if err != nil {
		return err
	}
	var unknown []string
	for _, p := range profiles {
		if says := core.NotYetKnown(p.Kind, p.Name, p.State); says != "" {
			unknown = append(unknown, says)
		}
	}
	full := ""
	answers := field.FromForm(r, f)
	if f.CountsOthers() {
		others, err := r.Cases.Others(r.Context, r.DB, r.Account.ID, r.Round.ID, 0, r.At)
		if err != nil {
			return err
		}
		if rules := f.Full(answers, others, calendar.DateOf(r.At, f.Zone)); len(rules) > 0 {
			full = rules[0].Reason
		}
	}
	carried := map[string]string{}
	for p, a := range answers {
		carried[field.Name(p)] = a.Raw
		if a.Non != "" {
			carried[field.Name(p)] = string(a.Non)
		}
	}
	return r.Draw(status, "applicant/start", view.Page{Title: "Begin an application", Nav: "rounds",
		Data: startPage{Round: r.Round, Form: f, Full: full, Title: title, Problem: problem, Carried: carried, Same: same,
			Mine: mine, From: r.FormValue("from!earlier"), Alike: alike, Zone: f.Zone, Profiles: profiles, Unknown: unknown,
			For: r.FormValue("for!profile"), Open: f.Window().Phase(r.At) == calendar.Open}})
}

// alike is a round that somebody may mean instead.
type alike struct {
	R        round.Round
	About    string
	Zone     *time.Location
	Fund     int64
	Currency string
}

// lookAlikes are the other rounds of the same programme that are open now:
// somebody may mean one of them.
func lookAlikes(r *site.Request, f *form.Form) (out []alike, err error) {
	rounds, err := r.Rounds.Public(r.Context, r.At)
	if err != nil {
		return nil, err
	}
	for _, rd := range rounds {
		if rd.Key == r.Round.Key || rd.Programme != f.Design.Programme {
			continue
		}
		other, err := r.Rounds.Published(r.Context, r.DB, rd)
		if err != nil {
			return nil, err
		}
		if other.Window().Phase(r.At) == calendar.Open {
			out = append(out, alike{rd, other.Design.About, other.Zone, other.Design.Fund, other.Design.Currency})
		}
	}
	return out, nil
}

// Start begins one, with the answers of the check when there were any.
func Start(r *site.Request) error {
	title := r.FormValue("title")
	if says := intake.CheckTitle(title); says != "" {
		return drawStart(r, fiber.StatusUnprocessableEntity, title, says)
	}
	f, err := r.Rounds.Published(r.Context, r.DB, r.Round)
	if err != nil {
		return err
	}
	answers, says := field.FromForm(r, f), ""
	profile, _ := strconv.ParseInt(r.FormValue("for!profile"), 10, 64)
	if profile != 0 {
		if says, err = profiled(r, f, profile, answers); err != nil {
			return err
		}
	}
	var c application.Case
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		if earlier := r.FormValue("from!earlier"); earlier != "" {
			c, err = r.Intake.StartFrom(ctx, tx, r.Round.Key, title, earlier, answers)
		} else {
			c, err = r.Intake.Start(ctx, tx, r.Round.Key, title, answers)
		}
		if earlier := r.FormValue("from!earlier"); err == nil && earlier != "" && r.FormValue("from!again") == "yes" {
			err = r.Cases.Resubmits(ctx, tx, c, earlier)
		}
		if err == nil && profile != 0 {
			err = r.Cases.For(ctx, tx, c.ID, profile)
		}
		return err
	})
	if err == intake.ErrClosed {
		return r.Refuse(fiber.StatusConflict, "This round has closed; no application can be begun.")
	}
	var full refusal.Refusal
	if refusal.AsUnfit(err, &full) {
		return drawStart(r, fiber.StatusUnprocessableEntity, title, full.Sentence())
	}
	if err != nil {
		return err
	}
	if says != "" {
		r.Tell(says)
	}
	return r.See("/applications/" + c.Ref)
}
