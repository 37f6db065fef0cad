package cases

import (
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/mark"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/seal"
	"ulvant/internal/application"
	"ulvant/internal/check"
	"ulvant/internal/colleague"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/profile"
	"ulvant/internal/reading"
	"ulvant/internal/trail"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// worked is one rule worked through, as it is shown.
type worked struct {
	check.Finding
	Label, Holds string
	Who          string // who settled it
	Waits        bool   // for a reviewing body, not for the office
}

// markedBy is one reader's marks.
type markedBy struct {
	reading.Given
	Marks   []string
	Score   mark.Score
	Points  []string // pass points: "Names a survey method: met"
	Overall string
}

// casePage is what office/cases/case.html draws.
type casePage struct {
	Case     application.Case
	Zone     *time.Location
	Currency string
	Names    map[form.Key]string // of rules
	Criteria []form.Criterion
	St       application.Standing
	Rules    []worked
	Stages   []casefile.StageLink

	// of what is sealed; nil and empty for a draft
	Sections  []casefile.ReadSection
	Budget    *field.Costs
	Seal      *application.Seal
	Doc       *seal.Document
	Materials view.Materials
	Askables  []askable
	Genuine   bool
	Stuck     []string // what stands in the way of a draft

	Queries      []queried
	Holder       string // who holds the money; "" for nobody
	LateLetters  []desk.LateLetter
	Same         map[form.Key]desk.RuleStand
	Kept         view.Kept
	EarlierRef   string // of the application that this one repeats
	EarlierTitle string
	Time         *timeDesk // nil for whoever may not give time
	AskedTimes   []desk.AskedTime
	SameTime     int // of them, those who wait
	LateTries    []desk.Tried
	Referees     []askedRow
	Posts        []form.Option // what something that came by post can answer
	Letters      []casefile.Vouched
	TakesLetters bool
	Typed        map[string]string // into the forms beside who was asked
	Before       []desk.Before
	Readers      []markedBy
	Trail        []casefile.Happened
	Post         []desk.Letter

	Turns         []bodyTurn
	Registers     []said
	Supports      []application.Support
	RegisterWaits bool

	Wrong            fault // what could not be done, and what was typed
	CanSettle        bool
	MayAsk           bool
	Apart            bool // its readers' marks are far apart
	AllSent          bool // all of its readers have sent
	Now              time.Time
	Note, Text, Days string

	Stock   []colleague.Sentence // own sentences that a query can be made of
	Chosen  map[int64]bool       // those that are ticked
	KeepAsk bool
}

// mostBefore is how many other applications of the same applicant are listed.
const mostBefore = 8

// Case is everything the office knows of one application.
func Case(r *site.Request) error { return drawCase(r, fiber.StatusOK, fault{}) }

func drawCase(r *site.Request, status int, wrong fault) error {
	f, _, path, err := r.Cases.Walk(r.Context, r.DB, r.Case, r.At)
	if err != nil {
		return err
	}
	d := casePage{Case: r.Case, Zone: f.Zone, Currency: f.Design.Currency, Wrong: wrong, Names: say.RuleNames(f),
		Criteria:  f.Design.Judged(""),
		CanSettle: r.Case.State.Is(lifecycle.Settles) && r.May(access.SettleCheck), MayAsk: mayAsk(r.Case) &&
			r.May(access.AskQuery),
		Now: r.At, Note: r.FormValue("note"), Text: r.FormValue("text"), Days: r.FormValue("days", "5"),
		KeepAsk: r.FormValue("keep") == "yes"}
	if d.MayAsk {
		if d.Stock, d.Chosen, err = stock(r); err != nil {
			return err
		}
	}
	if d.St, err = r.Cases.Standing(r.Context, r.DB, r.Case.EntryID); err != nil {
		return err
	}
	if d.Rules, err = rulesOf(r, f); err != nil {
		return err
	}
	if d.Stages, err = casefile.StagesAt(r, f, "/office/applications/"); err != nil {
		return err
	}
	if r.Case.SealID != nil {
		ff, s, sealedFilled, sealedPath, err := casefile.Sealed(r, r.Case)
		if err != nil {
			return err
		}
		d.Sections = casefile.Reading(ff, sealedFilled, sealedPath,
			func(q *form.Question) bool { return q.Keeps() != form.InLines && q.Purpose != form.ForSurvey })
		d.Budget, d.Seal = field.ReadCosts(ff, sealedFilled, sealedPath, nil), &s
		if d.Doc, err = r.Referees.Whole(r.Context, r.DB, ff, r.Case, &s.Decoded); err != nil {
			return err
		}
		d.Letters = casefile.Letters(ff, d.Doc, len(s.Decoded.Letters), "/office/applications/"+r.Case.Ref+"/materials",
			r.Case.Query())
		d.Materials = casefile.Materials(ff, d.Doc, "/office/applications/"+r.Case.Ref+"/materials", r.Case.Query())
		d.Askables = askables(ff, sealedPath, r.Values("question"), d.Rules)
		d.Genuine = seal.Verify(r.SealKeyPublic(), s.Document, s.Signature)
	} else {
		// the office sees how far a draft is, not what is in it
		seen := map[form.Code]bool{}
		for _, o := range path.Obstacles {
			if !seen[o.Code] {
				seen[o.Code] = true
				d.Stuck = append(d.Stuck, say.Stuck(o.Code))
			}
		}
	}
	if d.Queries, err = queries(r, f); err != nil {
		return err
	}
	switch p, err := r.Profiles.For(r.Context, r.DB, r.Case.ID); {
	case err == nil:
		d.Holder = p.Sponsor
	case !errors.Is(err, profile.ErrNotFound):
		return err
	}
	if d.LateLetters, err = r.Desk.LateLetters(r.Context, r.Case.RoundID); err != nil {
		return err
	}
	if d.Same, err = r.Desk.RuleStands(r.Context, r.Case.RoundID); err != nil {
		return err
	}
	if d.Kept, err = office.KeptOf(r, r.Case, "/office/applications/"+r.Case.Ref+r.Case.Query()); err != nil {
		return err
	}
	if d.EarlierRef, d.EarlierTitle, err = r.Cases.Earlier(r.Context, r.DB, r.Case.ID); err != nil {
		return err
	}
	if err := timeFor(r, f, &d); err != nil {
		return err
	}
	for _, a := range d.AskedTimes {
		if a.AskedAt != nil && a.DecidedAt == nil {
			d.SameTime++
		}
	}
	if d.SameTime < 2 {
		d.SameTime = 0 // one alone is answered here
	}
	seen, err := r.Rounds.Seen(r.Context, r.Sight())
	if err != nil {
		return err
	}
	if d.Before, err = r.Desk.BeforeOf(r.Context, r.Case.ID, r.Case.LeadID, seen.Whole, mostBefore); err != nil {
		return err
	}
	if err := askedOf(r, f, &d); err != nil {
		return err
	}
	if d.Turns, err = turnsOf(r, f); err != nil {
		return err
	}
	if d.Supports, err = r.Cases.Supports(r.Context, r.DB, r.Case); err != nil {
		return err
	}
	if d.Registers, d.RegisterWaits, err = registersOf(r); err != nil {
		return err
	}
	if d.Readers, err = marksOf(r, f); err != nil {
		return err
	}
	var scores []mark.Score
	for _, m := range d.Readers {
		if m.SentAt != nil {
			scores = append(scores, m.Score)
		}
	}
	d.AllSent = len(scores) > 1 && len(scores) == len(d.Readers)
	d.Apart = d.AllSent && mark.Apart(scores, f.Design.MostMark())
	if d.Trail, err = trailOf(r, f); err != nil {
		return err
	}
	if d.Post, err = r.Desk.Post(r.Context, r.Case.ID); err != nil {
		return err
	}
	return office.Draw(r, status, "office/cases/case", r.Case.Ref+" "+r.Case.Title, "applications", f, d)
}

func rulesOf(r *site.Request, f *form.Form) ([]worked, error) {
	list, err := r.Checks.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return nil, err
	}
	var ids []int64
	for _, x := range list {
		if x.SettledBy != nil {
			ids = append(ids, *x.SettledBy)
		}
	}
	who, err := r.Desk.Names(r.Context, "account", ids)
	if err != nil {
		return nil, err
	}
	names := say.RuleNames(f)
	var out []worked
	holds := map[form.Key]string{}
	place := map[form.Key]int{}
	for i, rule := range f.Design.Rules {
		place[rule.Key], holds[rule.Key] = i-len(f.Design.Rules), say.When(rule.Holds, say.Names{Form: f})
	}
	slices.SortStableFunc(list,
		func(a, b check.Finding) int { return place[a.Rule] - place[b.Rule] }) // those of the design first
	for _, x := range list {
		x.Reason = say.Found(f, x.Rule, x.Reason)
		w := worked{Finding: x, Label: names[x.Rule], Holds: holds[x.Rule],
			Waits: strings.HasPrefix(string(x.Rule), string(form.TurnRule("")))}
		if x.SettledBy != nil {
			w.Who = who[strconv.FormatInt(*x.SettledBy, 10)]
		}
		out = append(out, w)
	}
	return out, nil
}

func marksOf(r *site.Request, f *form.Form) ([]markedBy, error) {
	given, err := r.Reading.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return nil, err
	}
	marks, err := r.Reading.MarksOf(r.Context, r.DB, []int64{r.Case.EntryID}, 0)
	if err != nil {
		return nil, err
	}
	points, err := r.Reading.PointsOf(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return nil, err
	}
	var out []markedBy
	for _, g := range given {
		m := markedBy{Given: g}
		if g.SentAt != nil { // marks that are not sent are the reader's own
			values, weights := reading.InOrder(f, marks[reading.Marker{Entry: r.Case.EntryID, Account: g.AccountID}])
			m.Score, _ = mark.Weighted(values, weights)
			for _, v := range values {
				if v < 0 {
					m.Marks = append(m.Marks, "–") // it does not apply to this case
					continue
				}
				m.Marks = append(m.Marks, strconv.Itoa(v))
			}
			for _, c := range f.Design.Judged("") {
				for _, p := range c.PassPoints {
					if met, ok := points[g.AccountID][form.PointKey(c.Key, p.Key)]; ok {
						m.Points = append(m.Points, p.Label+": "+map[bool]string{true: "met", false: "not met"}[met])
					}
				}
			}
			if o := g.Overall; o != nil && *o < len(f.Design.Overall) {
				m.Overall = f.Design.Overall[*o]
			}
		}
		out = append(out, m)
	}
	return out, nil
}

func trailOf(r *site.Request, f *form.Form) ([]casefile.Happened, error) {
	rows, err := trail.Of(r.Context, r.DB, r.Case.ID)
	if err != nil {
		return nil, err
	}
	return casefile.Narrate(r, rows, func(trail.Row) *form.Form { return f })
}

// Settle settles one rule by hand.
func Settle(r *site.Request) error {
	rule := form.Key(r.Params("rule"))
	yes := r.FormValue("outcome") == "yes"
	if o := r.FormValue("outcome"); o != "yes" && o != "no" {
		return drawCase(r, fiber.StatusUnprocessableEntity, fault{"rule " + string(rule),
			"Choose whether the rule is met or not."})
	}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Checks.Settle(ctx, tx, r.Case, rule, yes, r.FormValue("note"))
	})
	if no, ok := refusal.Of(err); ok {
		return drawCase(r, fiber.StatusUnprocessableEntity, fault{"rule " + string(rule),
			"Nothing was settled: " + no.Clause() + "."})
	}
	if err != nil {
		return err
	}
	r.Tell("Settled.")
	return r.See("/office/applications/" + r.Case.Ref + r.Case.Query())
}

// File sends a file of a sealed case, or a letter.
func File(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	m, err := r.Materials.Find(r.Context, r.DB, id, r.Case.EntryID)
	if err != nil || r.Case.SealID == nil {
		return fiber.ErrNotFound
	}
	return r.SendMaterial(m)
}
