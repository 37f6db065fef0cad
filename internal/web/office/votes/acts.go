package votes

import (
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/internal/ballot"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// act does something and goes on to a part of the page, or draws it again with what is
// wrong.
func act(r *site.Request, to string,
	do func(ctx context.Context, tx *db.Tx, f *form.Form) (says string, err error)) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	if f.Votes() == nil {
		return fiber.ErrNotFound
	}
	says := ""
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		v, err := r.Ballots.Of(ctx, tx, r.Round.ID)
		if err != nil {
			return err
		}
		if f, err = r.Ballots.Rules(ctx, tx, v, f); err != nil {
			return err
		}
		says, err = do(ctx, tx, f)
		return err
	})
	if no, ok := refusal.Of(err); ok {
		was := typed{Do: r.FormValue("do"), Why: r.FormValue("why"), Label: r.FormValue("label"),
			Codes: r.FormValue("codes"), Note: r.FormValue("note")}
		return draw(r, no, was, fiber.StatusUnprocessableEntity)
	}
	if err != nil {
		return err
	}
	if says != "" {
		r.Tell(says)
	}
	return r.See("/office/rounds/" + r.Round.Key + "/vote?at=" + to)
}

func number(r *site.Request, name string) int64 {
	n, _ := strconv.ParseInt(r.FormValue(name), 10, 64)
	return n
}

// Gather reads the projects out of what was sent.
func Gather(r *site.Request) error {
	return act(r, "paper", func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
		all, _, err := r.Ballots.Candidates(ctx, tx, r.Round, f)
		if err != nil {
			return "", err
		}
		if all > ballot.AtOnce {
			return "The projects are being read out. You can leave this page.", r.Ballots.GatherLater(ctx, tx,
				r.Round, all)
		}
		n, err := r.Ballots.Gather(ctx, tx, r.Round, f, nil)
		return phrase.Count(int64(n), "project stands", "projects stand") + " to be looked through.", err
	})
}

// Look lets a project through or holds it back.
func Look(r *site.Request) error {
	to := "paper"
	if next := r.FormValue("next"); next != "" && next != "0" {
		to += "&project=" + strconv.FormatInt(number(r, "next"), 10)
	} else if r.FormValue("do") == "" {
		to += "&project=" + strconv.FormatInt(number(r, "project"), 10)
	}
	return act(r, to, func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
		return "", r.Ballots.Look(ctx, tx, r.Round, f, number(r, "project"), r.FormValue("do"), r.FormValue("why"))
	})
}

// Paper lays the ballot paper out, or takes it back.
func Paper(r *site.Request) error {
	return act(r, "paper", func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
		if r.FormValue("do") == "back" {
			return "The ballot paper is taken back.", r.Ballots.TakeBack(ctx, tx, r.Round, f, r.FormValue("why"))
		}
		says := "The ballot paper is laid out. Votes are taken from " + f.VoteWindow().Opens.In(f.Zone).Format(
			"15:04 on Monday 2 January") + "."
		if !tx.At.Before(f.VoteWindow().Opens) {
			says = "The ballot paper is laid out, and votes are taken from now on."
		}
		return says, r.Ballots.LayOut(ctx, tx, r.Round, f)
	})
}

// Off takes a project off the paper, or puts it back.
func Off(r *site.Request) error {
	off := r.FormValue("do") == "off"
	return act(
		r,
		"paper&project="+strconv.FormatInt(number(r, "project"), 10),
		func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
			says := "It is put back on the ballot paper."
			if off {
				says = "It is taken off the ballot paper. Votes for it do not count."
			}
			return says, r.Ballots.TakeOff(ctx, tx, r.Round, f, number(r, "project"), off, r.FormValue("why"))
		},
	)
}

// sheetPage is what office/votes/sheet.html draws.
type sheetPage struct {
	Key, Label string
	Asks       string
	Address    string // of the vote
	Codes      []string
	Until      time.Time
	Zone       *time.Location
	Contact    string
}

// Print makes codes and shows them, once, to be printed.
func Print(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	was := typed{Label: r.FormValue("label"), Codes: strings.TrimSpace(r.FormValue("codes"))}
	n, _ := strconv.Atoi(was.Codes)
	var codes []string
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		_, codes, err = r.Ballots.Print(ctx, tx, r.Round, f, was.Label, n)
		return err
	})
	if no, ok := refusal.Of(err); ok {
		return draw(r, no, was, fiber.StatusUnprocessableEntity)
	}
	if err != nil {
		return err
	}
	d := sheetPage{
		Key:   r.Round.Key,
		Label: strings.TrimSpace(was.Label),
		Asks:  f.Design.Vote.Asks,
		Codes: codes,
		Until: f.VoteWindow().Closes,
		Zone:  f.Zone,
		Address: strings.TrimPrefix(
			strings.TrimPrefix(r.Config.BaseURL, "https://"),
			"http://",
		) + "/votes/" + r.Round.Key,
		Contact: f.Design.Contact,
	}
	return office.Draw(r, fiber.StatusOK, "office/votes/sheet", "Codes for "+d.Label, "vote", f, d)
}

// Void takes a sheet of codes back.
func Void(r *site.Request) error {
	return act(r, "codes", func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
		return "The codes of that sheet that were not used work no more.", r.Ballots.Void(ctx, tx, r.Round,
			number(r, "sheet"), r.FormValue("why"))
	})
}

// Pattern rules on a pattern.
func Pattern(r *site.Request) error {
	to := "turnout"
	if r.FormValue("at") == "result" {
		to = "result"
	}
	return act(r, to, func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
		return "Noted. It stands beside the result.", r.Ballots.Rule(ctx, tx, r.Round, number(r, "pattern"),
			r.FormValue("do"), r.FormValue("why"))
	})
}

// Count counts the ballots.
func Count(r *site.Request) error {
	return act(r, "result", func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
		x, err := r.Ballots.Turnout(ctx, tx, r.Round, f)
		if err != nil {
			return "", err
		}
		if x.Ballots > ballot.CountAtOnce {
			return "The ballots are being counted. You can leave this page.", r.Ballots.CountLater(ctx, tx, r.Round,
				x.Ballots)
		}
		n, err := r.Ballots.Count(ctx, tx, r.Round, f)
		return phrase.Count(int64(n), "ballot is", "ballots are") + " counted.", err
	})
}

// Publish shows the result, or takes it back.
func Publish(r *site.Request) error {
	return act(r, "result", func(ctx context.Context, tx *db.Tx, f *form.Form) (string, error) {
		if r.FormValue("do") == "back" {
			return "The result is taken back. Its page says why.", r.Ballots.Unpublish(ctx, tx, r.Round, f,
				r.FormValue("why"))
		}
		return "The result is published.", r.Ballots.Publish(ctx, tx, r.Round, f, r.FormValue("note"))
	})
}
