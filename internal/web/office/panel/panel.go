// Package panel holds the pages of the meetings at which cases are decided.
package panel

import (
	"context"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/panel"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// panelPage is what office/panel/panel.html draws: the meetings of a stage.
type panelPage struct {
	Key   string
	Stage form.Key
	List  []panel.Sitting
	Can   []who
	Zone  *time.Location
	May   bool
	Wrong refusal.Refusal
	Typed map[string]string
	Votes bool
}

// who is somebody who can sit.
type who struct {
	panel.Member
	In bool
}

// Panel lists the meetings, and calls one.
func Panel(r *site.Request) error { return drawPanel(r, fiber.StatusOK, refusal.Refusal{}) }

func drawPanel(r *site.Request, status int, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := panelPage{Key: r.Round.Key, Zone: f.Zone, May: r.May(access.Decide), Wrong: wrong,
		Votes: r.FormValue("votes") != ""}
	if d.Stage, err = r.Decisions.Stage(r.Context, r.DB, r.Round, f); err != nil {
		return err
	}
	if d.List, err = r.Program.Panel.Of(r.Context, r.DB, r.Round.ID, d.Stage); err != nil {
		return err
	}
	can, err := r.Program.Panel.Can(r.Context, r.DB, r.Round, r.At)
	if err != nil {
		return err
	}
	picked := r.Values("member")
	for _, m := range can {
		d.Can = append(d.Can, who{m, wrong.Says == "" || slices.Contains(picked, strconv.FormatInt(m.Account, 10))})
	}
	d.Typed = map[string]string{"name": "Panel meeting", "place": "", "minutes": "120",
		"at": r.At.In(f.Zone).AddDate(0, 0, 7).Format("2006-01-02") + "T14:00"}
	if wrong.Says != "" {
		for k := range d.Typed {
			d.Typed[k] = r.FormValue(k)
		}
	}
	return office.Draw(r, status, "office/panel/panel", "Panel, "+r.Round.Name, "panel", f, d)
}

// Call calls a meeting over what is still to be decided.
func Call(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	stage, err := r.Decisions.Stage(r.Context, r.DB, r.Round, f)
	if err != nil {
		return err
	}
	c := panel.Called{Name: r.FormValue("name"), Place: r.FormValue("place"), Votes: r.FormValue("votes") != ""}
	c.At, _ = time.ParseInLocation("2006-01-02T15:04", r.FormValue("at"), f.Zone)
	c.Minutes, _ = strconv.Atoi(strings.TrimSpace(r.FormValue("minutes")))
	for _, v := range r.Values("member") {
		if n, err := strconv.ParseInt(v, 10, 64); err == nil {
			c.Members = append(c.Members, n)
		}
	}
	var id int64
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		entries, items, err := r.Decisions.Agenda(ctx, tx, r.Round, f, stage, c.Minutes,
			rand.New(rand.NewPCG(uint64(r.Round.ID), 18)))
		if err != nil {
			return err
		}
		id, err = r.Program.Panel.Call(ctx, tx, r.Round, stage, c, entries, items)
		return err
	})
	if no, ok := refusal.Of(err); ok {
		return drawPanel(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	r.Tell("The meeting is called, and its agenda laid out by where a talk can change something.")
	return r.See("/office/rounds/" + r.Round.Key + "/panel/" + strconv.FormatInt(id, 10))
}
