package decide

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/fundline"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/decision"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// ordered is one row of the order as it is drawn.
type ordered struct {
	decision.Row
	Spread  view.Picture
	Choose  lifecycle.State // chosen or offered; "" leaves it as it is
	Sum     string          // chosen or offered
	Running string          // "" when it gets no money
	Decided bool
	Untold  bool // the applicant does not know of it yet
	Offers  []lifecycle.State
	Gifts   []giftRow
}

// deciding is what the page of decisions shows.
type deciding struct {
	figures
	Key        string
	T          decision.Table
	Rows       []ordered
	From, Upto int // of the order, from 1
	Prev, Next string
	Acts       []acted
	Between    []decision.Between // proposed between meetings
	Me         int64
	Outs       []lifecycle.State
	Up         *decision.Proposal // who can move up from the reserve; nil: nobody
	Problem    string
	Note       string
	Reason     string
	Batch      string // as typed
	LettersAt  string // as typed, of datetime-local
	Zone       *time.Location
	Stages     []*form.Stage
	Read       bool // the stage is read before it is decided
	Hold       int  // minutes
	Listed     string
	Work       *work.Work
}

// Figures of the page, for the part of it that follows every choice.

// Leaves reports that letters are on their way.
func (d deciding) Leaves() bool {
	return slices.ContainsFunc(d.Acts, func(a acted) bool { return a.Leaving != nil })
}

// PerPage is how many rows stand on a page.
func (deciding) PerPage() int { return office.PerPage }

// Over is how much more than the fund is chosen.
func (g figures) Over() int64 { return -g.Left }

// figures are what follows every choice.
type figures struct {
	fundline.Outlook
	Currency string
	Fund     int64
	Last     bool
	Bar      view.Picture
	NextAsks *int64
	Record   int    // how many would be recorded
	Revise   int    // how many of them were decided before
	Says     string // what would be recorded, in words
	Seen     string
	EndsAt   int64 // the entry above which the fund ends, 0 for none
	SplitTie bool
	Ties     string // what settles equal scores; "": the panel
	Unread   int
	Gifts    []giftFigure
}

// Decisions shows the order, where the fund ends, and what was recorded.
func Decisions(r *site.Request) error { return drawDecisions(r, fiber.StatusOK, "") }

// figuresOf adds up what is chosen.
func figuresOf(f *form.Form, t decision.Table) (figures, []fundline.Case) {
	cases := t.Cases()
	o := fundline.Look(cases, t.Fund)
	g := figures{Outlook: o, Currency: f.Design.Currency, Fund: t.Fund, Last: t.Last, Bar: view.FundBar(o.Placed, t.Fund),
		Seen: t.Seen(), SplitTie: t.Line.SplitsTie, Unread: t.Unread}
	settled := 0
	for _, r := range t.Rows {
		if r.Settled {
			settled++
		}
	}
	g.Ties = say.Ties(f.Design, settled)
	if o.Next >= 0 {
		g.NextAsks = &cases[o.Next].Asked
	}
	if o.Ends >= 0 {
		g.EndsAt = t.Rows[o.Ends].EntryID
	}
	g.Gifts = giftFigures(t, t.Gifts(), g.Currency)
	n := map[lifecycle.State]int{}
	state := map[int64]lifecycle.State{}
	for _, row := range t.Rows {
		state[row.EntryID] = row.State
	}
	for _, ch := range t.Chosen() {
		n[ch.Outcome]++
		g.Record++
		if state[ch.EntryID].Is(lifecycle.Final) {
			g.Revise++
		}
	}
	g.Says = say.Outcomes(n, lifecycle.Outcomes(t.Last))
	return g, cases
}

func drawDecisions(r *site.Request, status int, problem string) error {
	f, err := office.Form(r)
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
	d := deciding{Key: r.Round.Key, T: t, Problem: problem, Note: r.FormValue("note"), Reason: r.FormValue("reason"),
		LettersAt: r.FormValue("letters-at"),
		Zone:      f.Zone, Stages: f.Applying(), Read: f.ReadAfter(stage),
		Hold: f.Design.HoldMinutes, Listed: f.Design.Listed.Heading}
	if d.Up, err = r.Decisions.Proposed(r.Context, r.DB, f, t); err != nil {
		return err
	}
	d.Me, d.Outs = r.Account.ID, lifecycle.Outcomes(t.Last)
	if d.Between, err = r.Decisions.Betweens(r.Context, r.DB, r.Round.ID); err != nil {
		return err
	}
	acts, err := r.Decisions.Acts(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	for _, a := range acts {
		d.Acts = append(d.Acts, acted{a, leaving(a, r.At)})
	}
	d.Batch = r.FormValue("batch")
	if d.Work, err = r.Work.Latest(r.Context, r.Round.ID, work.Deciding); err != nil {
		return err
	}
	if d.Work != nil && d.Work.EndedAt != nil && r.At.Sub(*d.Work.EndedAt) > time.Hour {
		d.Work = nil
	}
	var cases []fundline.Case
	d.figures, cases = figuresOf(f, t)
	from, _ := strconv.Atoi(r.FormValue("from"))
	from = max(min(from, len(t.Rows)-1), 0) / office.PerPage * office.PerPage
	upto := min(from+office.PerPage, len(t.Rows))
	at := func(n int) string { return "?stage=" + string(stage) + "&from=" + strconv.Itoa(n) }
	if from > 0 {
		d.Prev = at(from - office.PerPage)
	}
	if upto < len(t.Rows) {
		d.Next = at(upto)
	}
	d.From, d.Upto = from+1, upto
	d.Rows = drawnRows(r, f, t, d.figures, cases, from, upto)
	return office.Draw(r, status, "office/decide/decisions", "Decisions, "+r.Round.Name, "decisions", f, d)
}

func drawnRows(r *site.Request, f *form.Form, t decision.Table, g figures, cases []fundline.Case, from,
	upto int) []ordered {
	steps := 1
	for _, c := range f.Design.Criteria {
		steps = max(steps, len(c.Steps)-1)
	}
	var out []ordered
	gifts := t.Gifts()
	for i := from; i < upto; i++ {
		row, c := t.Rows[i], cases[i]
		o := ordered{Row: row, Spread: view.Spread(row.Scores, row.Score, steps), Choose: c.Chosen,
			Sum: money.Plain(c.Amount, g.Currency), Decided: row.State.Decided(),
			Untold: row.State.Decided() && row.Told != row.State, Offers: lifecycle.Outcomes(t.Last)}
		if row.Amount == nil && c.Amount == 0 {
			o.Sum = ""
		}
		id := strconv.FormatInt(row.EntryID, 10)
		if r.Method() == fiber.MethodPost && slices.Contains(r.Values("entry"), id) { // what was typed stays
			o.Choose, o.Sum = lifecycle.State(r.FormValue("outcome:"+id)), r.FormValue("amount:"+id)
		}
		o.Gifts = giftRows(r, gifts, row, i, f.Design.Currency)
		if c.Given() > 0 {
			o.Running = money.Format(g.Running[i], g.Currency)
		}
		out = append(out, o)
	}
	return out
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

// sheet is a posted page of decisions.
type sheet struct {
	f       *form.Form
	stage   form.Key
	choices []decision.Choice
	left    []decision.Choice // entries that are to stay as they are
	wrong   string            // what cannot be read; "" for nothing
}

// posted reads a posted page of decisions.
func posted(r *site.Request) (s sheet, err error) {
	if s.f, err = office.Form(r); err != nil {
		return s, err
	}
	if s.stage, err = stageOf(r, s.f); err != nil {
		return s, err
	}
	for _, id := range r.Values("entry") {
		n, err := strconv.ParseInt(id, 10, 64)
		if err != nil {
			continue
		}
		version, _ := strconv.Atoi(r.FormValue("version:" + id))
		c := decision.Choice{EntryID: n, Version: version, Outcome: lifecycle.State(r.FormValue("outcome:" + id))}
		if c.Outcome == "" {
			s.left = append(s.left, c)
			continue
		}
		if typed := strings.TrimSpace(r.FormValue("amount:" + id)); c.Outcome.Is(lifecycle.Gives) &&
			typed != "" { // a place or a prize may have no sum
			sum, ok := money.Parse(typed, s.f.Design.Currency)
			if !ok {
				s.wrong = "“" + typed + "” is not a sum. Nothing was recorded."
				return s, nil
			}
			c.Amount = sum
		}
		var wrong string
		if c.Gifts, wrong = postedGifts(r, s.f, id); wrong != "" {
			s.wrong = "“" + wrong + "” is not an amount. Nothing was recorded."
			return s, nil
		}
		s.choices = append(s.choices, c)
	}
	return s, nil
}

// beside are the figures that stand beside the order.
type beside struct {
	F      figures
	Listed string
}

// Beside are its figures.
func (d deciding) Beside() beside { return beside{d.figures, d.Listed} }

// Choose keeps what is chosen on a page and answers with the figures it comes to.
func Choose(r *site.Request) error {
	s, err := posted(r)
	if err != nil {
		return err
	}
	if s.wrong != "" {
		if r.Wants("json") {
			return r.Status(fiber.StatusUnprocessableEntity).JSON(fiber.Map{"fault": s.wrong})
		}
		return drawDecisions(r, fiber.StatusUnprocessableEntity, s.wrong)
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Decisions.Choose(ctx, tx, r.Round, append(s.choices, s.left...))
	}); err != nil {
		return err
	}
	if !r.Wants("json") {
		return r.See("/office/rounds/" + r.Round.Key + "/decisions?stage=" + string(s.stage) + "&from=" +
			r.FormValue("from", "0"))
	}
	t, err := r.Decisions.Order(r.Context, r.DB, r.Round, s.f, s.stage)
	if err != nil {
		return err
	}
	g, cases := figuresOf(s.f, t)
	html, err := r.Views.Block("office/decide/decisions", "figures", beside{g, s.f.Design.Listed.Heading})
	if err != nil {
		return err
	}
	running := map[string]string{}
	for i, row := range t.Rows {
		if cases[i].Given() > 0 {
			running[strconv.FormatInt(row.EntryID, 10)] = money.Format(g.Running[i], g.Currency)
		}
	}
	return r.JSON(fiber.Map{"figures": string(html), "running": running, "ends": strconv.FormatInt(g.EndsAt, 10),
		"seen": g.Seen, "says": g.Says, "revise": g.Revise})
}

// Record records the panel's decisions in one act: those of the page, or of the
// whole order where it has several pages. Many of them are a job.
func Record(r *site.Request) error {
	s, err := posted(r)
	if err != nil {
		return err
	}
	if s.wrong != "" {
		return drawDecisions(r, fiber.StatusUnprocessableEntity, s.wrong)
	}
	sit := decision.Sitting{Stage: s.stage, Choices: s.choices, Note: r.FormValue("note"), Reason: r.FormValue("reason")}
	leave := r.At.Add(holdOf(s.f))
	if at, ok := leavesAt(r, s.f); !ok {
		return drawDecisions(r, fiber.StatusUnprocessableEntity,
			"“"+r.FormValue("letters-at")+"” is no day and time at which letters could leave.")
	} else if !at.IsZero() {
		sit.LettersAt, leave = at, at
	}
	if typed := strings.TrimSpace(r.FormValue("batch")); typed != "" {
		n, err := strconv.Atoi(typed)
		if err != nil || n < 1 || n > decision.MostBatch {
			return drawDecisions(r, fiber.StatusUnprocessableEntity, "“"+typed+"” is no number of letters to a batch.")
		}
		sit.Batch = n
	}
	var later int64
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		if r.FormValue("all") == "yes" {
			if sit.Choices, err = withRest(ctx, tx, r, s); err != nil {
				return err
			}
		}
		if len(sit.Choices) > work.Inline {
			if strings.TrimSpace(sit.Note) == "" {
				return refusal.Unfit("say who decided and when, such as “Panel of 14 May, N. Sparrow in the chair”")
			}
			later, err = r.Decisions.RecordLater(ctx, tx, r.Round, sit)
			return err
		}
		_, err = r.Decisions.Record(ctx, tx, r.Round, s.f, sit)
		return err
	})
	_, said := refusal.Of(err)
	switch {
	case errors.Is(err, application.ErrNotFound):
		return err
	case said:
		return drawDecisions(r, fiber.StatusConflict, site.Sentence(err))
	case err != nil:
		return err
	case later != 0:
		r.Tell(fmt.Sprintf("%d decisions are being recorded, all of them or none. You can leave this page.",
			len(sit.Choices)))
	default:
		r.Tell("Recorded. The letters go out " + view.When(leave, s.f.Zone) +
			"; until then they can be stopped here, and the applicants see nothing of it.")
	}
	return r.See("/office/rounds/" + r.Round.Key + "/decisions")
}

// withRest adds what is chosen, or offered, on the other pages of an order; what
// would be recorded must be what the page said.
func withRest(ctx context.Context, tx *db.Tx, r *site.Request, s sheet) ([]decision.Choice, error) {
	if err := r.Decisions.Choose(ctx, tx, r.Round, append(slices.Clone(s.choices), s.left...)); err != nil {
		return nil, err
	}
	t, err := r.Decisions.Order(ctx, tx, r.Round, s.f, s.stage)
	if err != nil {
		return nil, err
	}
	if t.Seen() != r.FormValue("seen") {
		return nil, refusal.Unfit("what would be recorded has changed since this page was drawn: look at the figures and " +
			"at the pages again, then record")
	}
	drawn := map[int64]int{}
	for _, c := range append(slices.Clone(s.choices), s.left...) {
		drawn[c.EntryID] = c.Version
	}
	all := t.Chosen()
	for i := range all {
		if v, ok := drawn[all[i].EntryID]; ok {
			all[i].Version = v
		}
	}
	return all, nil
}

// Progress is how far work of a round has come, as a part of its page.
func Progress(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("work"), 10, 64)
	w, err := r.Work.Find(r.Context, r.Round.ID, id)
	if errors.Is(err, work.ErrNone) {
		return fiber.ErrNotFound
	}
	if err != nil {
		return err
	}
	return r.JSON(fiber.Map{"done": w.Done, "total": w.Total, "percent": w.Percent(), "ended": w.EndedAt != nil,
		"failed": w.Failed, "says": w.Says})
}

// StopLetters stops an act's letters that have not gone out.
func StopLetters(r *site.Request) error {
	act, _ := strconv.ParseInt(r.Params("act"), 10, 64)
	var n int64
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		n, err = r.Decisions.StopLetters(ctx, tx, r.Round.ID, act)
		return err
	})
	return afterLetters(r, err, phrase.Count(n, "letter is",
		"letters are")+" stopped. The decisions stand, and the applicants see nothing of them; let the letters go when "+
		"you are ready.")
}

// ReleaseLetters lets stopped letters go after a new hold.
func ReleaseLetters(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	act, _ := strconv.ParseInt(r.Params("act"), 10, 64)
	n, leave := 0, r.At.Add(holdOf(f))
	if at, ok := leavesAt(r, f); ok && at.After(leave) {
		leave = at
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		n, err = r.Decisions.ReleaseLetters(ctx, tx, r.Round, f, act, leave)
		return err
	})
	return afterLetters(r, err, phrase.Count(int64(n), "letter goes",
		"letters go")+" out "+view.When(leave, f.Zone)+".")
}

func afterLetters(r *site.Request, err error, says string) error {
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawDecisions(r, fiber.StatusConflict, unfit.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See("/office/rounds/" + r.Round.Key + "/decisions")
}

func holdOf(f *form.Form) time.Duration { return time.Duration(f.Design.HoldMinutes) * time.Minute }

// leavesAt is when letters are to leave, where somebody says it; ok is false where that
// cannot be read.
func leavesAt(r *site.Request, f *form.Form) (at time.Time, ok bool) {
	text := strings.TrimSpace(r.FormValue("letters-at"))
	if text == "" {
		return at, true
	}
	at, err := time.ParseInLocation("2006-01-02T15:04", text, f.Zone)
	return at, err == nil
}
