package officer

import (
	"context"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/core/waiting"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/reading"
	"ulvant/internal/round"
	"ulvant/internal/web/site"
	"ulvant/internal/web/view"
)

// roundPage is what every page of a round shows above its own part.
type roundPage struct {
	Whole    bool // the asker sees all of the round, and not a part alone
	Round    any
	Key      string
	Name     string
	Desk     string
	Form     *form.Form
	Strand   view.Picture
	All      int
	Open     int // checks
	Asks     int // questions that wait for an answer
	Currency string
	Data     any
}

func drawRound(r *site.Request, status int, page, title, at string, f *form.Form, data any) error {
	counts, err := r.Desk.Counts(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	open, err := r.Desk.OpenChecksOf(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	p := roundPage{Round: r.Round, Key: r.Round.Key, Name: r.Round.Name, Desk: at, Form: f, Currency: f.Design.Currency, Whole: r.May(access.SeeWhole), Data: data}
	for _, o := range open {
		p.Open = o.N
	}
	waiting, err := r.Desk.OpenEnquiries(r.Context)
	if err != nil {
		return err
	}
	for _, w := range waiting {
		if w.RoundKey == p.Key {
			p.Asks = w.N
		}
	}
	in := 0
	for _, c := range counts {
		p.All += c.N
		if c.State.Is(lifecycle.In) {
			in += c.N
		}
	}
	labels := map[form.Key]string{}
	if p.All > 0 {
		labels[f.FirstStage()] = strconv.Itoa(in) + " in"
	}
	p.Strand = view.Strand(f, r.At, labels, at != "overview")
	return r.Draw(status, page, view.Page{Title: title, Nav: "rounds", Data: p})
}

func roundForm(r *site.Request) (*form.Form, error) {
	return r.Rounds.Published(r.Context, r.DB, r.Round)
}

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
}

// Overview is a round at a glance: the strand, whose move, pace, money.
func Overview(r *site.Request) error {
	f, err := roundForm(r)
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
	moving, err := moves(r, []round.Round{r.Round}, seen)
	if err != nil {
		return err
	}
	sum, err := summaries(r, []round.Round{r.Round}, moving)
	if err != nil {
		return err
	}
	tasks := sum[0].tasks
	waits, err := wishes(r, r.Round.Key, seen)
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
	words := map[lifecycle.Move]string{lifecycle.Applicant: "applicants writing", lifecycle.Third: "referees", lifecycle.Office: "the office", lifecycle.Reader: "readers", lifecycle.Nobody: "nobody"}
	var rows []moveRow
	for _, m := range lifecycle.Moves {
		rows = append(rows, moveRow{m, words[m], n[m], n[m] * 126 / most})
	}
	stuck, err := r.Desk.Stuck(r.Context, r.Round.ID, say.Stuck)
	if err != nil {
		return err
	}
	var stuckRows []stuckRow
	for _, s := range stuck {
		stuckRows = append(stuckRows, stuckRow{s.Says, say.StuckOn(s.Code), s.N * 100 / max(drafts, 1)})
	}
	letters, err := r.Desk.Letters(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	times, err := r.Desk.SentTimes(r.Context, r.Round.ID, f.FirstStage())
	if err != nil {
		return err
	}
	last, lastName, err := earlier(r, f)
	if err != nil {
		return err
	}
	return drawRound(r, fiber.StatusOK, "officer/overview", r.Round.Name, "overview", f, map[string]any{
		"Tasks": tasks, "Moves": rows, "Ended": states[lifecycle.Withdrawn] + states[lifecycle.Lapsed], "Stuck": stuckRows, "Drafts": drafts, "Letters": letters,
		"LetterStates": []form.LetterState{form.SentIn, form.Uploaded, form.Accepted, form.Asked, form.Declined},
		"Pace":         view.Pace(f, r.At, times, last), "In": len(times), "LastName": lastName, "LastN": sameDay(f, r, last), "HasLast": last != nil,
		"Asked": sum[0].Asked, "Fund": f.Design.Fund, "FundBar": view.FundBar(sum[0].Asked, f.Design.Fund), "Flow": view.Flow(lifecycle.FlowOf(states)), "Round": r.Round})
}

// Applications lists a round's, filtered, sorted, found.
func Applications(r *site.Request) error {
	f, err := roundForm(r)
	if err != nil {
		return err
	}
	q := desk.Query{Round: r.Round.ID, State: lifecycle.State(r.Query("state")), Move: lifecycle.Move(r.Query("move")), Find: strings.TrimSpace(r.Query("find")), Sort: desk.Sort(r.Query("sort")),
		After: desk.ParseCursor(r.Query("after")), Most: 60, Places: r.Sight().Places[r.Round.ID]}
	if r.Query("mine") == "yes" {
		q.Carer = r.Account.ID
	}
	items, next, err := r.Desk.Applications(r.Context, q)
	if err != nil {
		return err
	}
	counts, err := r.Desk.Counts(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	n := map[lifecycle.State]int{}
	for _, c := range counts {
		n[c.State] += c.N
	}
	type choice struct {
		State lifecycle.State
		N     int
		On    bool
		Href  string
	}
	var choices []choice
	for _, s := range lifecycle.States() {
		if n[s] > 0 {
			choices = append(choices, choice{s, n[s], q.State == s, "?state=" + url.QueryEscape(string(s))})
		}
	}
	return drawRound(r, fiber.StatusOK, "officer/applications", "Applications, "+r.Round.Name, "applications", f, map[string]any{
		"Items": items, "Next": next.String(), "Q": q, "States": choices, "Moves": lifecycle.Moves, "Heading": f.Design.Listed.Heading, "Zone": f.Zone, "Key": r.Round.Key})
}

// pageOf cuts a list that was asked for with one row more than a page has; next
// leads to the rest, "" when there is none.
func pageOf[T any](list []T, entry func(T) int64) (page []T, next string) {
	if len(list) <= perPage {
		return list, ""
	}
	list = list[:perPage]
	return list, "?after=" + strconv.FormatInt(entry(list[perPage-1]), 10)
}

func afterOf(r *site.Request) int64 {
	n, _ := strconv.ParseInt(r.Query("after"), 10, 64)
	return n
}

// checking is what the page of checks shows.
type checking struct {
	Rows  []desk.Checked
	Next  string
	First bool
	Open  []desk.Open // the oldest of them
	More  int         // open ones that are not listed
	Rules []form.Rule
	Names map[form.Key]string
	Zone  *time.Location
	Now   time.Time
}

// Checks lists every sent application with its rules worked through.
func Checks(r *site.Request) error {
	f, err := roundForm(r)
	if err != nil {
		return err
	}
	d := checking{Rules: f.Design.Rules, Names: say.RuleNames(f), Zone: f.Zone, Now: r.At, First: afterOf(r) == 0}
	rows, err := r.Desk.Checks(r.Context, r.Round.ID, afterOf(r), perPage+1)
	if err != nil {
		return err
	}
	d.Rows, d.Next = pageOf(rows, func(c desk.Checked) int64 { return c.EntryID })
	if d.First {
		if d.Open, err = r.Desk.OpenChecks(r.Context, r.Round.ID, perPage); err != nil {
			return err
		}
		for i, o := range d.Open {
			d.Open[i].Reason = say.Found(f, form.Key(o.Rule), o.Reason)
		}
		all, err := r.Desk.OpenChecksOf(r.Context, r.Round.ID)
		if err != nil {
			return err
		}
		for _, o := range all {
			d.More = o.N - len(d.Open)
		}
	}
	return drawRound(r, fiber.StatusOK, "officer/checks", "Checks, "+r.Round.Name, "checks", f, d)
}

// readingDesk is what the page of reading shows.
type readingDesk struct {
	Readers      []desk.ReaderLoad
	Cases        []desk.ReadingCase
	Next         string
	Ready, Short int // cases to hand out; cases that lack a reader
	Each         int
	Problem      string
	Typed        map[string]string
	Key          string
	Ends         time.Time
	From         time.Time // when handing out begins
	Now          time.Time
	Zone         *time.Location
	Work         *work.Work
}

// Reading shows readers, their loads, and who reads what.
func Reading(r *site.Request) error { return drawReading(r, fiber.StatusOK, "", nil) }

func drawReading(r *site.Request, status int, problem string, typed map[string]string) error {
	f, err := roundForm(r)
	if err != nil {
		return err
	}
	d := readingDesk{Each: f.Design.ReadersEach, Problem: problem, Typed: typed, Key: r.Round.Key, Ends: f.At(form.ReadingEnd), From: f.HandsOutFrom(), Now: r.At, Zone: f.Zone}
	if d.Readers, err = r.Desk.Readers(r.Context, r.Round.ID); err != nil {
		return err
	}
	cases, err := r.Desk.ReadingCases(r.Context, r.Round.ID, afterOf(r), perPage+1)
	if err != nil {
		return err
	}
	d.Cases, d.Next = pageOf(cases, func(c desk.ReadingCase) int64 { return c.EntryID })
	pending, err := r.Desk.Pending(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	d.Ready, d.Short = waiting.Readable(f, pendingCases(pending))
	if d.Work, err = r.Work.Latest(r.Context, r.Round.ID, work.HandingOut); err != nil {
		return err
	}
	if d.Work != nil && d.Work.EndedAt != nil && r.At.Sub(*d.Work.EndedAt) > time.Hour {
		d.Work = nil
	}
	return drawRound(r, status, "officer/reading", "Reading, "+r.Round.Name, "reading", f, d)
}

// InviteReader invites somebody by mail.
func InviteReader(r *site.Request) error {
	typed := map[string]string{"name": r.FormValue("name"), "email": r.FormValue("email")}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		_, err := r.Reading.Invite(ctx, tx, r.Round, typed["email"], typed["name"])
		return err
	})
	var p refusal.Refusal
	if refusal.AsUnfit(err, &p) {
		return drawReading(r, fiber.StatusUnprocessableEntity, p.Says, typed)
	}
	if err != nil {
		return err
	}
	r.Tell("The invitation to " + typed["name"] + " is on its way.")
	return r.See("/office/rounds/" + r.Round.Key + "/reading")
}

// HandOut gives every eligible case its readers.
func HandOut(r *site.Request) error {
	f, err := roundForm(r)
	if err != nil {
		return err
	}
	if err := reading.MayHandOut(f, r.At); err != nil {
		return drawReading(r, fiber.StatusConflict, site.Sentence(err), nil)
	}
	n, err := r.Reading.ToHandOut(r.Context, r.DB, r.Round, f, r.At)
	if err != nil {
		return err
	}
	says := phrase.Count(int64(n), "case is", "cases are") + " being handed out. You can leave this page."
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		if n > work.Inline {
			return r.Reading.HandOutLater(ctx, tx, r.Round, n)
		}
		out, err := r.Reading.HandOut(ctx, tx, r.Round, f, nil)
		says = out.Says()
		return err
	})
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawReading(r, fiber.StatusConflict, site.Sentence(err), nil)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See("/office/rounds/" + r.Round.Key + "/reading")
}
