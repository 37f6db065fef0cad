package rounds

import (
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// allRounds is a page of the list of rounds.
type allRounds struct {
	Rounds     []office.Summary
	Prev, Next string
}

// Rounds lists every round, so many at a time.
func Rounds(r *site.Request) error {
	from, _ := strconv.Atoi(r.Query("from"))
	from = max(from, 0)
	seen, err := r.Rounds.Seen(r.Context, r.Sight())
	if err != nil {
		return err
	}
	rounds, err := r.Rounds.Page(r.Context, seen.Rounds, from, listRounds+1)
	if err != nil {
		return err
	}
	var d allRounds
	if from > 0 {
		d.Prev = "?from=" + strconv.Itoa(max(from-listRounds, 0))
	}
	if len(rounds) > listRounds {
		rounds, d.Next = rounds[:listRounds], "?from="+strconv.Itoa(from+listRounds)
	}
	waits, err := office.Moves(r, rounds, seen)
	if err != nil {
		return err
	}
	if d.Rounds, err = office.Summaries(r, rounds, waits); err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "office/rounds/rounds", view.Page{Title: "Rounds", Nav: "rounds", Data: d})
}

const listRounds = 50 // on a page of all rounds
