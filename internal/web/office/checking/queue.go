package checking

import (
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/bulk"
	"ulvant/internal/colleague"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

const (
	shownNext    = 12 // that come after the one in hand
	shownEarlier = 8  // settled before, of the same rule
)

// queuePage is what office/checking/queue.html draws.
type queuePage struct {
	Tabs      []tab
	At        *inHand // nil: nothing waits
	Next      []coming
	More      bool
	Outdated  int // cases whose rules were worked by a design with others
	Sentences []colleague.Sentence
	Places    []string
	Place     string
	Zone      *time.Location
	Now       time.Time
	May       bool // rule on what lies beyond
	Settles   bool

	Wrong refusal.Refusal
	Typed map[string]string
}

// inHand is the rule that is settled now.
type inHand struct {
	desk.Queued
	Label     string
	Holds     string // the rule, where the design has it
	Lines     []string
	Sections  []casefile.ReadSection
	Materials view.Materials
	Same      desk.RuleStand
	Earlier   []desk.Earlier
	Left      int // other rules of the case that wait
	Skip      string
	Back      string
	Beyond    string // where what was found is ruled on, for what lies beyond the case
}

// coming is one that waits after it.
type coming struct {
	desk.Queued
	Label, Href string
}

func href(round, place, after string) string {
	out := "/office/rounds/" + round + "/checks?at=" + after
	if place != "" {
		out += "&place=" + place
	}
	return out
}

func atOf(q desk.Queued) string { return strconv.FormatInt(q.EntryID, 10) + "." + string(q.Rule) }

// Queue shows what a person must settle, one rule at a time.
func Queue(r *site.Request) error {
	entry, rule, _ := strings.Cut(r.Query("at"), ".")
	id, _ := strconv.ParseInt(entry, 10, 64)
	return drawQueue(r, fiber.StatusOK, id, form.Key(rule), refusal.Refusal{})
}

func drawQueue(r *site.Request, status int, entry int64, rule form.Key, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := queuePage{Zone: f.Zone, Now: r.At, Wrong: wrong, Place: r.Query("place"), May: r.May(access.RuleBeyond),
		Settles: access.SettleCheck.Theirs(access.Of(r.Roles, access.About{Programme: r.Round.Programme,
			Round: r.Round.ID}, r.At)),
		Typed: map[string]string{"note": r.FormValue("note"), "outcome": r.FormValue("outcome")}}
	if d.Tabs, err = tabsOf(r, f, ""); err != nil {
		return err
	}
	list, err := r.Desk.Queue(r.Context, r.Round.ID, d.Place, entry, rule, shownNext+2)
	if err != nil {
		return err
	}
	if len(list) == 0 && entry != 0 { // at the end: from the first again
		if list, err = r.Desk.Queue(r.Context, r.Round.ID, d.Place, 0, "", shownNext+2); err != nil {
			return err
		}
	}
	names := say.RuleNames(f)
	if len(list) > 0 {
		if d.At, err = handOf(r, f, list, d.Place); err != nil {
			return err
		}
		for i, q := range list[1:] {
			if i == shownNext {
				d.More = true
				break
			}
			d.Next = append(d.Next, coming{q, names[q.Rule], href(r.Round.Key, d.Place, atOf(q))})
		}
	}
	old, err := r.Program.Checks.Outdated(r.Context, r.DB, r.Round, f)
	if err != nil {
		return err
	}
	d.Outdated = len(old)
	if d.Sentences, err = r.Colleagues.Sentences(r.Context, r.DB, colleague.OfSettling); err != nil {
		return err
	}
	return office.Draw(r, status, "office/checking/queue", "Checks, "+r.Round.Name, "checks", f, d)
}

// handOf is the first of a list with all that is needed to settle it.
func handOf(r *site.Request, f *form.Form, list []desk.Queued, place string) (*inHand, error) {
	q := list[0]
	h := &inHand{Queued: q, Label: say.RuleNames(f)[q.Rule], Skip: href(r.Round.Key, place, "0.")}
	if len(list) > 1 {
		h.Skip = href(r.Round.Key, place, atOf(list[1]))
	}
	before, err := r.Desk.QueuedBefore(r.Context, r.Round.ID, place, q.EntryID, q.Rule)
	if err != nil {
		return nil, err
	}
	if before != nil {
		h.Back = href(r.Round.Key, place, atOf(*before))
	}
	for _, rule := range f.Design.Rules {
		if rule.Key == q.Rule && rule.Says == "" { // else what was found says the rule
			h.Holds = say.When(rule.Holds, say.Names{Form: f})
		}
	}
	h.Lines = strings.Split(say.Found(f, q.Rule, q.Reason), "\n")
	switch q.Rule {
	case form.ConnectedRule:
		h.Beyond = "/office/rounds/" + r.Round.Key + "/checks/people?case=" + q.Ref
	case form.AlikeRule:
		h.Beyond = "/office/rounds/" + r.Round.Key + "/checks/texts?case=" + q.Ref
	}
	if _, ok := strings.CutPrefix(string(q.Rule), string(form.ProposalRule(""))); ok {
		h.Beyond = "/office/rounds/" + r.Round.Key + "/checks/lists"
	}
	c, err := r.Cases.ByEntry(r.Context, r.DB, q.EntryID)
	if err != nil {
		return nil, err
	}
	if err := readFor(r, c, h); err != nil {
		return nil, err
	}
	found, err := r.Program.Checks.Of(r.Context, r.DB, q.EntryID)
	if err != nil {
		return nil, err
	}
	for _, x := range found {
		if x.Rule != q.Rule && x.Outcome == form.Person && x.Settled == nil {
			h.Left++
		}
	}
	stands, err := r.Desk.RuleStands(r.Context, r.Round.ID)
	if err != nil {
		return nil, err
	}
	h.Same = stands[q.Rule]
	h.Earlier, err = r.Desk.Settled(r.Context, r.Round.ID, q.Rule, shownEarlier)
	return h, err
}

// readFor draws the answers that the rule hangs on, and the files.
func readFor(r *site.Request, c application.Case, h *inHand) error {
	ff, s, filled, path, err := casefile.Sealed(r, c)
	if err != nil {
		return err
	}
	reads := map[form.Key]bool{}
	for _, k := range ff.ReadBy(h.Rule) {
		reads[k] = true
	}
	if _, key, ok := strings.Cut(string(h.Rule), "-"); ok { // a tick, a paper, what was promised, declared or proposed
		reads[form.Key(key)] = true
	}
	h.Sections = casefile.Reading(ff, filled, path,
		func(q *form.Question) bool { return reads[q.Key] && q.Purpose != form.ForSurvey })
	doc, err := r.Referees.Whole(r.Context, r.DB, ff, c, &s.Decoded)
	if err != nil {
		return err
	}
	h.Materials = casefile.Materials(ff, doc, "/office/applications/"+c.Ref+"/materials", c.Query())
	return nil
}

// SettleNext settles the rule in hand and goes on to the next.
func SettleNext(r *site.Request) error {
	rule, outcome, note := form.Key(r.Params("rule")), r.FormValue("outcome"), r.FormValue("note")
	round, err := r.Rounds.ByID(r.Context, r.DB, r.Case.RoundID)
	if err != nil {
		return err
	}
	r.Round = round
	refuse := func(no refusal.Refusal) error {
		return drawQueue(r, fiber.StatusUnprocessableEntity, r.Case.EntryID, rule, no)
	}
	if outcome != "yes" && outcome != "no" {
		return refuse(refusal.In("outcome", "Choose whether it is met or not."))
	}
	place := r.FormValue("place")
	following, err := r.Desk.Queue(r.Context, round.ID, place, r.Case.EntryID, rule, 2)
	if err != nil {
		return err
	}
	before := r.Case.State
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		if err := r.Program.Checks.Settle(ctx, tx, r.Case, rule, outcome == "yes", note); err != nil {
			return err
		}
		return r.Colleagues.UseSentence(ctx, tx, colleague.OfSettling, note, r.FormValue("keep") == "yes")
	})
	if no, ok := refusal.Of(err); ok {
		return refuse(no)
	}
	if err != nil {
		return err
	}
	after, err := r.Cases.ByEntry(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	r.Tell(told(r, outcome, before, after))
	next := "0."
	for _, q := range following {
		if q.EntryID != r.Case.EntryID || q.Rule != rule {
			next = atOf(q)
			break
		}
	}
	return r.See(href(round.Key, place, next))
}

// told says what came of it.
func told(r *site.Request, outcome string, before lifecycle.State, after application.Case) string {
	out := "“" + r.Case.Title + "”: " + map[string]string{"yes": "met", "no": "not met"}[outcome]
	if after.State != before {
		out += "; it is " + string(after.State) + " now"
		if after.State.Is(lifecycle.TurnedDown) {
			out += ", and its letter waits"
		}
	}
	return out + ". To settle it otherwise, open " + r.Case.Ref + "."
}

// DropSentence takes a sentence out of the stock.
func DropSentence(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Colleagues.DropSentence(ctx, tx, id) })
	if err != nil {
		return err
	}
	r.Tell("It is out of the stock; what was written with it stays.")
	return r.See("/office/rounds/" + r.Round.Key + "/checks")
}

// Rework draws what working the rules anew would do to the cases whose rules were
// worked by a design with others.
func Rework(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	back := "/office/rounds/" + r.Round.Key + "/checks"
	entries, err := r.Program.Checks.Outdated(r.Context, r.DB, r.Round, f)
	if err != nil {
		return err
	}
	if len(entries) == 0 {
		r.Tell("Every application was checked by the rules as they are now.")
		return r.See(back)
	}
	if len(entries) > bulk.MostCases {
		entries = entries[:bulk.MostCases]
	}
	return office.BeginBulk(r, bulk.Bulk{Round: r.Round.ID, Act: bulk.Rework, Back: back,
		Says: "applications checked under an earlier design"}, entries)
}
