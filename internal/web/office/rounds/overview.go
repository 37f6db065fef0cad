package rounds

import (
	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// moveRow is one line of "whose move".
type moveRow struct {
	Move lifecycle.Move
	What string
	N    int
	Bar  int // of 126
}

// stuckRow is one line of "where people get stuck".
type stuckRow struct {
	What  string
	Move  lifecycle.Move // whose it is to mend
	Share int

	Mended string // for how many it stands in the way no more, and after what; "" for nobody
}

// overviewPage is what office/rounds/overview.html draws.
type overviewPage struct {
	Tasks        []office.Task
	Moves        []moveRow
	Ended        int
	Stuck        []stuckRow
	Drafts       int
	Letters      map[form.LetterState]int
	LetterStates []form.LetterState
	Pace         paced
	Promises     []promised // that slip, or soon may
	Asked        int64
	Fund         int64
	FundBar      view.Picture
	Flow         view.Picture
	Round        round.Round
	Budgets      bool // it asks for budgets
}

// Overview is a round at a glance: the strand, whose move, pace, money.
func Overview(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	counts, err := r.Desk.Counts(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	seen, err := r.Rounds.Seen(r.Context, r.Sight())
	if err != nil {
		return err
	}
	moving, err := office.Moves(r, []round.Round{r.Round}, seen)
	if err != nil {
		return err
	}
	sum, err := office.Summaries(r, []round.Round{r.Round}, moving)
	if err != nil {
		return err
	}
	tasks := sum[0].Tasks
	waits, err := office.Wishes(r, r.Round.Key, seen)
	if err != nil {
		return err
	}
	tasks = append(waits, tasks...)
	n := map[lifecycle.Move]int{}
	states := map[lifecycle.State]int{}
	drafts := 0
	for _, c := range counts {
		states[c.State] += c.N
		if !c.State.Is(lifecycle.Gone | lifecycle.Missed) {
			n[c.Move] += c.N
		}
		if c.State.Is(lifecycle.Drafting) {
			drafts += c.N
		}
	}
	most := 1
	for _, v := range n {
		most = max(most, v)
	}
	words := map[lifecycle.Move]string{lifecycle.Applicant: "applicants writing", lifecycle.Third: "referees",
		lifecycle.Office: "the office", lifecycle.Reader: "readers", lifecycle.Nobody: "nobody"}
	var rows []moveRow
	for _, m := range lifecycle.Moves {
		rows = append(rows, moveRow{m, words[m], n[m], n[m] * 126 / most})
	}
	stuck, err := r.Desk.Stuck(r.Context, r.Round.ID, say.Stuck)
	if err != nil {
		return err
	}
	mended, err := r.Desk.Mended(r.Context, r.Round.ID, say.Stuck)
	if err != nil {
		return err
	}
	var stuckRows []stuckRow
	for _, s := range stuck {
		stuckRows = append(stuckRows, stuckRow{s.Says, say.StuckOn(s.Code), s.N * 100 / max(drafts, 1),
			say.Mended(mended[s.Says])})
	}
	letters, err := r.Desk.Letters(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	list, forms, err := behind(r, f)
	if err != nil {
		return err
	}
	filling, err := pace(r, f, list, forms, false, "")
	if err != nil {
		return err
	}
	promises, err := promisesOf(r, f)
	if err != nil {
		return err
	}
	return office.Draw(r, fiber.StatusOK, "office/rounds/overview", r.Round.Name, "overview", f,
		overviewPage{Tasks: tasks, Moves: rows, Ended: states[lifecycle.Withdrawn] + states[lifecycle.Lapsed],
			Stuck: stuckRows, Drafts: drafts, Letters: letters,
			LetterStates: []form.LetterState{form.SentIn, form.Uploaded, form.Accepted, form.Asked, form.Declined},
			Pace:         filling, Promises: promises,
			Asked: sum[0].Asked, Fund: f.Design.Fund, FundBar: view.FundBar(sum[0].Asked,
				f.Design.Fund), Flow: view.Flow(lifecycle.FlowOf(states)), Round: r.Round, Budgets: len(f.Budgets()) > 0})
}
