package votes

import (
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/export"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/rehearsal"
	"ulvant/core/say"
	"ulvant/core/vote"
	"ulvant/internal/ballot"
	"ulvant/internal/platform/work"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// votePage is what office/votes/vote.html draws.
type votePage struct {
	Key      string
	Base     string
	May      bool
	At       string // the part that is shown: paper, rehearsal, codes, turnout, result
	Vote     ballot.Vote
	Phase    ballot.Phase
	Opens    time.Time
	Closes   time.Time
	Zone     *time.Location
	Currency string
	Design   *form.Vote
	Rules    []string
	Work     *work.Work
	Wrong    refusal.Refusal
	Typed    typed

	All      int // cases that may stand on the paper
	Fresh    int // of them, not read out yet or sent anew
	Gathered bool
	Projects []ballot.Project
	From     int // the first of them that is listed
	Through  ballot.Looked
	On       *ballot.Project
	Next     int64 // the next that nobody has looked at; 0: none
	Faults   []vote.Fault
	Stops    bool

	Rehearsals []rehearsed
	Sheets     []ballot.Sheet
	Turnout    ballot.Turnout
	Tries      []tried
	Bars       view.Picture
	Patterns   []ballot.Pattern
	OpenRuling int
	Looked     string // an address that is looked up
	LookedSays string
	Sum        *ballot.Summary
	Rows       []resultRow
	Other      bool
	OtherSays  string
}

// typed is what stood in a form that was refused.
type typed struct{ Do, Why, Label, Codes, Note string }

// rehearsed is what the rules make of made-up voters.
type rehearsed struct {
	Says   string
	Won    []string
	Spent  int64
	Votes  string
	Broken string // what did not hold that voters are promised
}

type tried struct {
	Says string
	N    int
}

// resultRow is what a project came to, with what is left out and without it.
type resultRow struct {
	vote.OnPaper
	Came, All      int64
	Won, WouldHave bool
	Payers         int64
	Bought, OfRest bool
}

// triesSay are what did not become a ballot, in words.
var triesSay = map[ballot.Try]string{ballot.AgainByMail: "a ballot asked for again by an address that had voted",
	ballot.AgainByCode: "a code typed again after it was used", ballot.NoSuchCode: "a code that there is none of",
	ballot.TooLate: "a ballot that came too late", ballot.Waited: "one that waited for its turn, and then went through"}

// Vote shows a part of the public vote.
func Vote(r *site.Request) error { return draw(r, refusal.Refusal{}, typed{}, fiber.StatusOK) }

func draw(r *site.Request, wrong refusal.Refusal, was typed, status int) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	if f.Votes() == nil {
		return fiber.ErrNotFound
	}
	v, err := r.Ballots.Of(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	if f, err = r.Ballots.Rules(r.Context, r.DB, v, f); err != nil {
		return err
	}
	w := f.VoteWindow()
	d := votePage{Vote: v, Key: r.Round.Key, Base: "/office/rounds/" + r.Round.Key + "/vote",
		May: r.May(access.Decide), At: r.FormValue("at"), Opens: w.Opens, Closes: w.Closes,
		Zone: f.Zone, Currency: f.Design.Currency, Design: f.Design.Vote, Rules: say.VoteRules(f),
		Wrong: wrong, Typed: was}
	if d.Work, err = r.Work.Latest(r.Context, r.Round.ID, work.Ballots); err != nil {
		return err
	}
	d.Phase, d.Gathered = d.Vote.Phase(f, r.At), d.Vote.Gathered != nil
	if !slices.Contains([]string{"paper", "rehearsal", "codes", "turnout", "result"}, d.At) {
		d.At = map[ballot.Phase]string{ballot.Preparing: "paper", ballot.Running: "turnout", ballot.Closed: "result",
			ballot.Result: "result"}[d.Phase]
	}
	if err := d.paper(r, f); err != nil {
		return err
	}
	switch d.At {
	case "codes":
		d.Sheets, err = r.Ballots.Sheets(r.Context, r.DB, r.Round.ID)
	case "turnout":
		err = d.turnout(r, f)
	case "result":
		err = d.result(r)
	}
	if err != nil {
		return err
	}
	return office.Draw(r, status, "office/votes/vote", "Public vote, "+r.Round.Name, "vote", f, d)
}

// paper fills in the projects and what stands in the way of laying them out.
func (d *votePage) paper(r *site.Request, f *form.Form) (err error) {
	if d.All, d.Fresh, err = r.Ballots.Candidates(r.Context, r.DB, r.Round, f); err != nil {
		return err
	}
	if d.Vote.Laid != nil {
		d.Fresh = 0
	}
	if d.Through, err = r.Ballots.Looked(r.Context, r.DB, r.Round.ID); err != nil {
		return err
	}
	if d.At != "paper" && d.At != "rehearsal" {
		return nil
	}
	shown, err := d.shown(r)
	if err != nil {
		return err
	}
	d.Faults = ballot.Faults(f, shown)
	if d.Through.Shown > form.MostOnBallot {
		d.Faults = []vote.Fault{{Stops: true, Says: "A ballot paper holds " + strconv.Itoa(form.MostOnBallot) +
			" projects at most, and " +
			strconv.Itoa(d.Through.Shown) + " are let through. Let the panel choose first."}}
	}
	d.Stops = slices.ContainsFunc(d.Faults, func(x vote.Fault) bool { return x.Stops })
	if d.At == "rehearsal" {
		if len(shown) >= 2 && !d.Stops {
			d.rehearse(f, shown)
		}
		return nil
	}
	d.From, _ = strconv.Atoi(r.Query("from"))
	d.From = max(0, d.From) / ballot.PerList * ballot.PerList
	if d.Projects, err = r.Ballots.Projects(r.Context, r.DB, r.Round.ID, d.From, ballot.PerList); err != nil {
		return err
	}
	return d.on(r)
}

// on fills in the project that is looked at: the one that is asked for, or the next that
// nobody has looked at.
func (d *votePage) on(r *site.Request) (err error) {
	on, _ := strconv.ParseInt(r.FormValue("project"), 10, 64)
	if on == 0 {
		if on, err = r.Ballots.Unseen(r.Context, r.DB, r.Round.ID, 0); err != nil {
			return err
		}
	}
	if on == 0 && len(d.Projects) > 0 {
		on = d.Projects[0].ID
	}
	if on == 0 {
		return nil
	}
	p, err := r.Ballots.Project(r.Context, r.DB, r.Round.ID, on)
	if errors.Is(err, ballot.ErrNoProject) {
		return nil
	}
	if err != nil {
		return err
	}
	d.On = &p
	d.Next, err = r.Ballots.Unseen(r.Context, r.DB, r.Round.ID, p.ID)
	return err
}

// shown are the projects that are let through, or stand on the paper.
func (d *votePage) shown(r *site.Request) ([]ballot.Project, error) {
	if d.Vote.Laid != nil {
		return r.Ballots.OnPaper(r.Context, r.DB, r.Round.ID)
	}
	return r.Ballots.LetThrough(r.Context, r.DB, r.Round.ID)
}

// rehearse counts made-up ballots on the projects that are let through.
func (d *votePage) rehearse(f *form.Form, shown []ballot.Project) {
	e := ballot.Election(f, shown)
	for _, x := range e.Rehearse(d.Vote.Seed) {
		res := x.Result
		out := rehearsed{Says: x.Says, Spent: res.Shared.Spent, Broken: x.Broken}
		for _, i := range res.Won {
			out.Won = append(out.Won, shown[i].Title)
		}
		var most []string
		for _, i := range res.Order[:min(3, len(res.Order))] {
			most = append(most, shown[i].Title+" "+strconv.FormatInt(res.Came[i], 10))
		}
		out.Votes = phrase.List(most)
		d.Rehearsals = append(d.Rehearsals, out)
	}
}

func (d *votePage) turnout(r *site.Request, f *form.Form) (err error) {
	if d.Turnout, err = r.Ballots.Turnout(r.Context, r.DB, r.Round, f); err != nil {
		return err
	}
	for _, t := range ballot.Tries {
		if n := d.Turnout.Tries[t]; n > 0 {
			d.Tries = append(d.Tries, tried{triesSay[t], n})
		}
	}
	d.Bars = bars(f, d.Turnout.Days, d.Opens, r.At, d.Closes)
	if d.Looked = strings.TrimSpace(r.Query("address")); d.Looked != "" {
		asked, voted, err := r.Ballots.Voted(r.Context, r.DB, r.Round.ID, d.Looked)
		switch no, ok := refusal.Of(err); {
		case ok:
			d.LookedSays = no.Sentence()
		case err != nil:
			return err
		case voted:
			d.LookedSays = "This address has asked for a ballot, and it is in the box."
		case asked:
			d.LookedSays = "This address has asked for a ballot, and it is not in the box."
		default:
			d.LookedSays = "This address has asked for no ballot."
		}
	}
	return d.patterns(r)
}

// mostPatterns are listed, those to rule on first.
const mostPatterns = 100

func (d *votePage) patterns(r *site.Request) (err error) {
	if d.Patterns, err = r.Ballots.Patterns(r.Context, r.DB, r.Round.ID, mostPatterns); err != nil {
		return err
	}
	polls, err := r.Ballots.Polls(r.Context, r.DB, r.Round.ID)
	d.OpenRuling = polls[r.Round.ID].Unruled
	return err
}

// bars draws how many ballots came on each day of the vote so far.
func bars(f *form.Form, days []ballot.Day, from, now, to time.Time) view.Picture {
	by := map[string]int{}
	for _, x := range days {
		by[x.Day.Format(time.DateOnly)] = x.Ballots
	}
	if now.Before(to) {
		to = now
	}
	var out []rehearsal.Day
	for t := from.In(f.Zone); !t.After(to); t = t.AddDate(0, 0, 1) {
		out = append(
			out,
			rehearsal.Day{Date: calendar.DateOf(t, f.Zone),
				Working: calendar.IsWorkingDay(calendar.DateOf(t, f.Zone), f.Off)},
		)
	}
	return view.DayBars(out, func(x rehearsal.Day) int { return by[x.Date.String()] }, "ballots came")
}

func (d *votePage) result(r *site.Request) (err error) {
	if err := d.patterns(r); err != nil {
		return err
	}
	if d.Sum, err = r.Ballots.Summary(r.Context, r.DB, r.Round.ID); err != nil || d.Sum == nil {
		return err
	}
	d.Other, d.OtherSays = ballot.Otherwise(d.Sum)
	order, _ := vote.InOrder(d.Sum.Result.Came)
	for _, i := range order {
		row := resultRow{OnPaper: d.Sum.Projects[i], Came: d.Sum.Result.Came[i], All: d.Sum.All.Came[i]}
		row.Won, row.WouldHave = slices.Contains(d.Sum.Result.Won, row.Number), slices.Contains(d.Sum.All.Won,
			row.Number)
		for _, b := range d.Sum.Result.Bought {
			if b.Number == row.Number {
				row.Payers, row.Bought, row.OfRest = b.Payers, b.Rate != "", b.Rate == ""
			}
		}
		d.Rows = append(d.Rows, row)
	}
	return nil
}

// Picture shows a picture of a project to whoever looks it through, as the public would
// see it.
func Picture(r *site.Request) error {
	of, _ := strconv.ParseInt(r.Params("project"), 10, 64)
	p, err := r.Ballots.Project(r.Context, r.DB, r.Round.ID, of)
	if err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.Params("file"), 10, 64)
	if !slices.Contains(p.Pictures, id) {
		return fiber.ErrNotFound
	}
	f, err := r.Materials.Find(r.Context, r.DB, id, p.Entry)
	if err != nil {
		return err
	}
	return r.SendMaterial(f)
}

// Turnout gives the days out, and what did not become a ballot.
func Turnout(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	if f.Votes() == nil {
		return fiber.ErrNotFound
	}
	x, err := r.Ballots.Turnout(r.Context, r.DB, r.Round, f)
	if err != nil {
		return err
	}
	out := export.New(export.Named("day", "asked for a ballot", "ballots")...)
	for _, day := range x.Days {
		out.Add(export.Day(day.Day.Format(time.DateOnly)), export.Whole(int64(day.Asked)),
			export.Whole(int64(day.Ballots)))
	}
	return r.Give("turnout-"+r.Round.Key, out)
}

// Parts are where the parts of a long list begin; nil where it is short.
func (d votePage) Parts() (out []int) {
	if d.Through.All > ballot.PerList {
		for at := 0; at < d.Through.All; at += ballot.PerList {
			out = append(out, at)
		}
	}
	return out
}
