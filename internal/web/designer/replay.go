package designer

import (
	"encoding/json"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/replay"
	"ulvant/core/seal"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// replayPage is what designer/replay.html draws.
type replayPage struct {
	panel
	Round  round.Round
	Rounds []round.Round // that can be replayed over
	Over   *round.Round
	R      *replay.Result
}

// Link leads to where a path of the design is set.
func (p replayPage) Link(path string) string { return p.link(path) }

// Replay runs the design being worked on over the sealed applications of an
// earlier round.
func Replay(r *site.Request) error {
	base := "/office/rounds/" + r.Round.Key + "/design"
	f, faults, err := r.Rounds.Working(r.Round)
	if err != nil {
		return err
	}
	if len(faults) > 0 {
		r.Tell("It can be run over an earlier round once the design is whole.")
		return r.See(base)
	}
	all, err := r.Rounds.All(r.Context)
	if err != nil {
		return err
	}
	var rounds []round.Round
	var over *round.Round
	for _, o := range all {
		if o.DesignID == nil || o.OpensAt.After(r.At) {
			continue
		}
		rounds = append(rounds, o)
		if o.Key == value(r, "over") {
			over = &rounds[len(rounds)-1]
		}
	}
	for i := range rounds { // the latest closed one of the same programme, unless another is named
		if o := &rounds[i]; over == nil && o.Programme == r.Round.Programme && o.ID != r.Round.ID && o.ClosesAt.Before(r.At) {
			over = o
		}
	}
	d := replayPage{panel: panel{Base: base}, Round: r.Round, Rounds: rounds, Over: over}
	if over != nil {
		was, err := r.Rounds.Published(r.Context, r.DB, *over)
		if err != nil {
			return err
		}
		sealed, err := r.Cases.SealedOf(r.Context, r.DB, over.ID)
		if err != nil {
			return err
		}
		cases := make([]replay.Case, 0, len(sealed))
		for _, s := range sealed {
			var doc seal.Document
			if err := json.Unmarshal(s.Document, &doc); err != nil {
				return err
			}
			cases = append(cases, replay.Case{Ref: s.Ref, Title: s.Title, Filled: doc.Filled(s.Lead), State: s.State})
		}
		played := replay.Over(f, was, cases)
		d.R = &played
	}
	return r.Draw(fiber.StatusOK, "designer/replay", view.Page{Title: "Replaying " + r.Round.Name, Nav: "rounds", Data: d})
}
