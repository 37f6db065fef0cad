package designer

import (
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/proof"
	"ulvant/core/rehearsal"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// rehearsePage is what designer/rehearse.html draws.
type rehearsePage struct {
	Base    string
	Round   round.Round
	P       *rehearsal.Play
	From    time.Time
	To      time.Time
	Zone    *time.Location
	Troupe  int
	Office  view.Picture
	Marks   view.Picture
	Writing view.Picture
}

// Rehearse lets a made-up troupe, one of each kind of applicant, walk the round
// as it is designed now. Nothing is written and nobody is mailed.
func Rehearse(r *site.Request) error {
	base := "/office/rounds/" + r.Round.Key + "/design"
	f, faults, err := r.Rounds.Working(r.Round)
	if err != nil {
		return err
	}
	if len(faults) > 0 {
		r.Tell("It can be rehearsed once the design is whole.")
		return r.See(base)
	}
	t, err := r.Rounds.Proofs.Table(r.Context, f)
	if err != nil {
		return err
	}
	var kinds []string
	var troupe []*proof.Applicant
	for i, c := range t.Columns {
		a, err := r.Rounds.Proofs.Example(r.Context, f, i)
		if err != nil {
			return err
		}
		kinds, troupe = append(kinds, c.Name), append(troupe, a)
	}
	report, err := r.Rounds.Proofs.Of(r.Context, f)
	if err != nil {
		return err
	}
	for _, x := range report.Findings { // whoever a finding would hit walks along
		if x.Example != nil && len(troupe) < 2*len(t.Columns) {
			kinds, troupe = append(kinds, "the applicant of a finding"), append(troupe, x.Example)
		}
	}
	members := rehearsal.Troupe(kinds, troupe)
	p := rehearsal.Make(f, members)
	from, _ := calendar.At(p.Days[0].Date, 0, 0).In(f.Zone)
	to, _ := calendar.At(p.Days[len(p.Days)-1].Date.AddDays(1), 0, 0).In(f.Zone)
	return r.Draw(fiber.StatusOK, "designer/rehearse", view.Page{Title: "Rehearsing " + r.Round.Name, Nav: "rounds",
		Data: rehearsePage{Base: base, Round: r.Round, P: p, From: from, To: to, Zone: f.Zone, Troupe: len(members),
			Office: view.DayBars(p.Days, func(d rehearsal.Day) int { return d.Office }, "cases wait for the office"),
			Marks: view.DayBars(p.Days, func(d rehearsal.Day) int { return d.ToMark },
				"marks are owed by readers"), Writing: view.DayBars(p.Days, func(d rehearsal.Day) int { return d.Writing },
				"people are writing")}})
}
