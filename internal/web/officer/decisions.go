package officer

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/site"
	"ulvant/internal/web/view"
)

// ordered is one row of the order as it is drawn.
type ordered struct {
	decision.Row
	Spread  view.Picture
	Choose  lifecycle.State // offered or typed outcome
	Amount0 string          // offered or typed sum
	Decided bool
}

// Decisions shows the order, where the fund ends, and what was recorded.
func Decisions(r *site.Request) error { return drawDecisions(r, fiber.StatusOK, "") }

func drawDecisions(r *site.Request, status int, problem string) error {
	f, err := roundForm(r)
	if err != nil {
		return err
	}
	stage, err := stageOf(r, f)
	if err != nil {
		return err
	}
	t, err := r.Decisions.Order(r.Context, r.DB, r.Round, f, stage)
	if err != nil {
		return err
	}
	acts, err := r.Decisions.Acts(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	cur := f.Design.Currency
	steps := 1
	for _, c := range f.Design.Criteria {
		steps = max(steps, len(c.Steps)-1)
	}
	var rows []ordered
	toDecide, lineAt := 0, -1
	byPlace := map[string]int64{}
	var places []string
	var placed int64
	for i, row := range t.Rows {
		o := ordered{Row: row, Spread: view.Spread(row.Scores, row.Score, steps), Decided: row.State.Decided()}
		if !row.Within && lineAt < 0 {
			lineAt = i
		}
		o.Choose, o.Amount0 = lifecycle.NotAwarded, money.Plain(row.Asked0(), cur)
		if row.Within {
			o.Choose = lifecycle.Outcomes(t.Last)[0]
		} else if lineAt >= 0 && i < lineAt+3 {
			o.Choose = lifecycle.Reserve
		}
		if !row.Score.Known() { // nobody read it: the order says nothing
			o.Choose = ""
		}
		if !o.Decided {
			toDecide++
		}
		if typed := r.FormValue("outcome:" + strconv.FormatInt(row.EntryID, 10)); typed != "" {
			o.Choose, o.Amount0 = lifecycle.State(typed), r.FormValue("amount:"+strconv.FormatInt(row.EntryID, 10))
		}
		given := row.Asked0()
		if o.Decided {
			given = 0
			switch {
			case row.State == lifecycle.Awarded && row.Amount != nil:
				given = *row.Amount
			case row.State == lifecycle.InvitedOn:
				given = row.Asked0()
			}
		} else if !row.Within {
			given = 0
		}
		if _, ok := byPlace[row.Place]; !ok {
			places = append(places, row.Place)
		}
		byPlace[row.Place] += given
		placed += given
		rows = append(rows, o)
	}
	type share struct {
		Place   string
		Sum     int64
		Percent int
	}
	var shares []share
	for _, p := range places {
		shares = append(shares, share{p, byPlace[p], int(byPlace[p] * 100 / max(placed, 1))})
	}
	var next *ordered
	if lineAt >= 0 && lineAt < len(rows) {
		next = &rows[lineAt]
	}
	if read := slices.ContainsFunc(rows, func(o ordered) bool { return o.Score.Known() }); !read {
		lineAt, next = -1, nil
	}
	return drawRound(r, status, "officer/decisions", "Decisions, "+r.Round.Name, "decisions", f, map[string]any{
		"Rows": rows, "T": t, "Acts": acts, "Problem": problem, "ToDecide": toDecide, "LineAt": lineAt, "Next": next, "Shares": shares, "Placed": placed, "LeftOver": f.Design.Fund - placed,
		"Bar": view.FundBar(placed, f.Design.Fund), "Currency": cur, "Zone": f.Zone, "Key": r.Round.Key, "Note": r.FormValue("note"), "Hold": f.Design.HoldMinutes,
		"Outcomes": lifecycle.Outcomes(t.Last), "Stages": f.Applying(), "Read": f.ReadAfter(stage), "Now": r.At, "Steps": steps})
}

// stageOf is the stage whose decisions are asked for.
func stageOf(r *site.Request, f *form.Form) (form.Key, error) {
	asked := form.Key(r.FormValue("stage"))
	for _, s := range f.Applying() {
		if s.Key == asked {
			return asked, nil
		}
	}
	return r.Decisions.Stage(r.Context, r.DB, r.Round, f)
}

// Record records the panel's decisions in one act.
func Record(r *site.Request) error {
	f, err := roundForm(r)
	if err != nil {
		return err
	}
	stage, err := stageOf(r, f)
	if err != nil {
		return err
	}
	var choices []decision.Choice
	for _, raw := range r.Request().PostArgs().PeekMulti("entry") {
		id := string(raw)
		n, err := strconv.ParseInt(id, 10, 64)
		if err != nil || r.FormValue("outcome:"+id) == "" { // "" leaves a reserve as it is
			continue
		}
		version, _ := strconv.Atoi(r.FormValue("version:" + id))
		c := decision.Choice{EntryID: n, Version: version, Outcome: lifecycle.State(r.FormValue("outcome:" + id))}
		if c.Outcome == lifecycle.Awarded {
			sum, ok := money.Parse(r.FormValue("amount:"+id), f.Design.Currency)
			if !ok {
				return drawDecisions(r, fiber.StatusUnprocessableEntity, "“"+r.FormValue("amount:"+id)+"” is not a sum. Nothing was recorded.")
			}
			c.Amount = sum
		}
		choices = append(choices, c)
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		_, err := r.Decisions.Record(ctx, tx, r.Round, f, stage, choices, r.FormValue("note"))
		return err
	})
	if errors.Is(err, application.ErrNotFound) {
		return err
	}
	if err != nil {
		return drawDecisions(r, fiber.StatusConflict, say.Initial(err.Error())+".")
	}
	r.Tell("Recorded. The letters go out at " + r.At.Add(holdOf(f)).In(f.Zone).Format("15:04") + "; until then they can be stopped here.")
	return r.See("/office/rounds/" + r.Round.Key + "/decisions")
}

// StopLetters stops an act's letters that have not gone out.
func StopLetters(r *site.Request) error {
	act, _ := strconv.ParseInt(r.Params("act"), 10, 64)
	var n int64
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		n, err = r.Decisions.StopLetters(ctx, tx, r.Round.ID, act)
		return err
	})
	if err != nil {
		return drawDecisions(r, fiber.StatusConflict, say.Initial(err.Error())+".")
	}
	r.Tell(strconv.FormatInt(n, 10) + " letters are stopped. The decisions stand; let the letters go when you are ready.")
	return r.See("/office/rounds/" + r.Round.Key + "/decisions")
}

// ReleaseLetters lets stopped letters go after a new hold.
func ReleaseLetters(r *site.Request) error {
	f, err := roundForm(r)
	if err != nil {
		return err
	}
	act, _ := strconv.ParseInt(r.Params("act"), 10, 64)
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Decisions.ReleaseLetters(ctx, tx, r.Round, f, act)
	}); err != nil {
		return err
	}
	r.Tell("The letters go out at " + r.At.Add(holdOf(f)).In(f.Zone).Format("15:04") + ".")
	return r.See("/office/rounds/" + r.Round.Key + "/decisions")
}

func holdOf(f *form.Form) time.Duration { return time.Duration(f.Design.HoldMinutes) * time.Minute }
