package readings

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/assignment"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/reading"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// Bounds of the picture of a plan.
const (
	mostColumns = 24 // readers; more are listed by name beside each case
	mostLines   = 40 // cases at once, the worst fits first
	mostOthers  = 6  // readers offered instead
)

// planPage is what office/readings/plan.html draws: everybody against every case.
type planPage struct {
	Plan     *reading.Plan
	Readers  []planReader
	Grid     bool // few enough readers for a column each
	Lines    []planLine
	From     int // of the lines, from 0
	Upto, Of int
	Prev     int      // -1: nothing before
	Next     int      // -1: nothing after
	Says     []string // of the plan as a whole
	Lacking  []string
	Juries   string // that they share nobody; "" when they do
	Bridges  []bridge
	At       *planCase // looked at
	What     string    // what would be, without a reader or with one more
	Asks     reading.Asks
	Options  []form.Option // fields
	May      bool
	Problem  string
	Work     *work.Work
	ByField  bool
	Version  int
	AboutWho int64
}

type planReader struct {
	reading.Reader
	Column, Load, Most int
	Short              string // "B. Reyes"
}

type planLine struct {
	Entry      int64
	Ref, Title string
	Query      string
	Cells      []planCell
	Names      []string
	Fit        int // mean of its readers, in hundredths
	On         bool
	Bridge     bool
}

type planCell struct {
	Fit   int
	Never bool
	Reads bool
	Held  bool
	Who   string
}

type bridge struct {
	Entry  int64
	Reader int64
	Says   string
}

// Tenth is the fit in tenths, by which it is coloured.
func (c planCell) Tenth() int { return (c.Fit + 5) / 10 }

// planCase is one case of the plan with its readers and who could be instead.
type planCase struct {
	Ref, Title string
	Entry      int64
	Readers    []planWho
	Others     []planWho
	Why        string // the best of the others may not, and why
	Change     string // what the change asked about would cost
	To         int64  // the reader it asks about
}

type planWho struct {
	Account    int64
	Name, Says string
	Fit, Load  int
	Held       bool
}

// Plan draws who is to read what.
func Plan(r *site.Request) error { return drawPlan(r, fiber.StatusOK, "") }

func drawPlan(r *site.Request, status int, problem string) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := planPage{Problem: problem, Prev: -1, Next: -1, ByField: f.Design.Field != ""}
	d.From, _ = strconv.Atoi(r.Query("from"))
	if d.Work, err = r.Work.Latest(r.Context, r.Round.ID, work.Planning); err != nil {
		return err
	}
	if d.Work != nil && d.Work.EndedAt != nil {
		d.Work = nil
	}
	p, err := r.Reading.PlanOf(r.Context, r.DB, r.Round.ID)
	if errors.Is(err, reading.ErrNoPlan) {
		if d.Work == nil {
			return r.See("/office/rounds/" + r.Round.Key + "/reading")
		}
		return office.Draw(r, status, "office/readings/plan", "Who reads what, "+r.Round.Name, "reading", f, d)
	}
	if err != nil {
		return err
	}
	d.Plan, d.Asks, d.Version = p, p.Asks, p.Version
	items, err := r.Desk.Named(r.Context, p.Entries, f.Design.Field)
	if err != nil {
		return err
	}
	list, err := r.Reading.Readers(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	d.readers(p, list)
	d.lines(p, items, r.Query("case"))
	d.sentences(p, items, f)
	err = r.Act(func(ctx context.Context, tx *db.Tx) error { // a reckoning over the cases as they are now
		if err := d.bridges(ctx, tx, r, f, p, items); err != nil {
			return err
		}
		if err := d.look(ctx, tx, r, f, p, items); err != nil {
			return err
		}
		return d.whatIf(ctx, tx, r, f, p)
	})
	if errors.Is(err, reading.ErrPlanStale) {
		d.Problem = cmp.Or(d.Problem, "Cases or readers have changed since this plan was worked out. Work it out again.")
	} else if no, ok := refusal.Of(err); ok { // nobody is left to read, or nothing to be read
		d.Problem = cmp.Or(d.Problem, no.Sentence())
	} else if err != nil {
		return err
	}
	return office.Draw(r, status, "office/readings/plan", "Who reads what, "+r.Round.Name, "reading", f, d)
}

func (d *planPage) readers(p *reading.Plan, list []reading.Reader) {
	by := map[int64]reading.Reader{}
	for _, x := range list {
		by[x.Account] = x
	}
	loads := p.Loads()
	for i, id := range p.Readers {
		x := by[id]
		short := x.Name
		if words := strings.Fields(x.Name); len(words) > 1 {
			short = string([]rune(words[0])[:1]) + ". " + words[len(words)-1]
		}
		d.Readers = append(d.Readers, planReader{Reader: x, Column: i, Load: loads[i], Short: short})
	}
	d.Grid = len(d.Readers) <= mostColumns
}

func (d *planPage) lines(p *reading.Plan, items map[int64]desk.Named, at string) {
	for c, entry := range p.Entries {
		it := items[entry]
		l := planLine{Entry: entry, Ref: it.Ref, Title: it.Title, On: strconv.FormatInt(entry, 10) == at}
		sum := 0
		for i := range p.Readers {
			v, ok := p.Fit(c, i)
			reads := slices.Contains(p.Given[c], i)
			if reads {
				sum += v
				l.Names = append(l.Names, d.Readers[i].Name)
			}
			if d.Grid {
				l.Cells = append(l.Cells, planCell{Fit: v, Never: !ok, Reads: reads, Held: slices.Contains(p.Held[c], i),
					Who: d.Readers[i].Name})
			}
		}
		l.Fit = sum / max(1, len(p.Given[c]))
		d.Lines = append(d.Lines, l)
	}
	slices.SortStableFunc(d.Lines, func(a, b planLine) int { return cmp.Compare(a.Fit, b.Fit) })
	d.Of = len(d.Lines)
	d.From = max(0, min(d.From, d.Of-1)) / mostLines * mostLines
	d.Upto = min(d.Of, d.From+mostLines)
	if d.From > 0 {
		d.Prev = d.From - mostLines
	}
	if d.Upto < d.Of {
		d.Next = d.Upto
	}
	keep := slices.Clone(d.Lines[d.From:d.Upto])
	if i := slices.IndexFunc(d.Lines, func(l planLine) bool { return l.On }); i >= 0 && (i < d.From || i >= d.Upto) {
		keep = append(keep, d.Lines[i]) // what is looked at stays in view
	}
	d.Lines = keep
}

func (d *planPage) sentences(p *reading.Plan, items map[int64]desk.Named, f *form.Form) {
	each := f.Design.ReadersEach
	d.Says = append(d.Says, strconv.Itoa(len(p.Entries))+" cases × "+phrase.Count(int64(each), "reader",
		"readers")+", "+say.Loads(p.Loads()))
	mean := "fit " + say.Share(p.Mean()) + " of 1"
	switch {
	case p.Proved():
		mean += ", proved best"
	default:
		mean += ", within " + say.Share(p.Gap()) + " in all of the best there can be"
	}
	d.Says = append(d.Says, mean)
	if p.Asks.Field && len(p.Lacking) == 0 {
		d.Says = append(d.Says, "every case has one who knows its field")
	}
	if p.Asks.Apart && len(p.Lacking) == 0 {
		d.Says = append(d.Says, "nobody reads beside a colleague")
	}
	names := map[int64]string{}
	for _, x := range d.Readers {
		names[x.Account] = x.Name
	}
	said := map[string]bool{}
	for _, l := range p.Lacking {
		var s string
		switch l.Why {
		case reading.TooFewKnow:
			s = say.TooFewKnow(optionOf(f, l.Field), l.Needed, l.Places)
		case reading.OneOrg:
			s = say.OneOrganisation(items[l.Entry].Title)
		default:
			var cases, readers []string
			for _, e := range l.Cases {
				cases = append(cases, items[e].Title)
			}
			for _, a := range l.Readers {
				readers = append(readers, names[a])
			}
			s = say.TooFewPlaces(cases, readers, l.Needed, l.Places)
		}
		if !said[s] {
			said[s] = true
			d.Lacking = append(d.Lacking, s)
		}
	}
}

// fitOf a pair that may be, in hundredths.
func fitOf(p *reading.Plan, c, reader int) int {
	v, _ := p.Fit(c, reader)
	return v
}

// optionOf is how a field is called.
func optionOf(f *form.Form, key string) string {
	if q := f.Question(f.Design.Field); q != nil {
		for _, o := range q.Options {
			if string(o.Key) == key {
				return "“" + o.Label + "”"
			}
		}
	}
	return "its field"
}

func (d *planPage) bridges(ctx context.Context, tx *db.Tx, r *site.Request, f *form.Form, p *reading.Plan,
	items map[int64]desk.Named) error {
	juries := assignment.Juries(p.Given, len(p.Readers))
	if len(juries) < 2 {
		return nil
	}
	var names []string
	for _, i := range juries[len(juries)-1] {
		names = append(names, d.Readers[i].Name)
	}
	d.Juries = say.JuriesApart(len(juries), names)
	list, err := r.Reading.Bridges(ctx, tx, r.Round, f, p)
	if err != nil {
		return err
	}
	for _, b := range list {
		d.Bridges = append(d.Bridges, bridge{p.Entries[b.Case], p.Readers[b.Reader],
			d.Readers[b.Reader].Name + " reads “" + items[p.Entries[b.Case]].Title + "” as well, fit " +
				say.Share(fitOf(p, b.Case, b.Reader))})
	}
	return nil
}

func (d *planPage) look(ctx context.Context, tx *db.Tx, r *site.Request, f *form.Form, p *reading.Plan,
	items map[int64]desk.Named) error {
	entry, _ := strconv.ParseInt(r.Query("case"), 10, 64)
	c := slices.Index(p.Entries, entry)
	if c < 0 {
		return nil
	}
	fits, err := r.Reading.FitsOf(ctx, tx, r.Round, f, p, c)
	if err != nil {
		return err
	}
	at := &planCase{Ref: items[entry].Ref, Title: items[entry].Title, Entry: entry}
	field := optionOf(f, items[entry].FieldKey)
	best := -1
	for i, x := range d.Readers {
		v, ok := p.Fit(c, i)
		who := planWho{Account: x.Account, Name: x.Name, Says: say.Fit(fits[i], field), Fit: v, Load: x.Load,
			Held: slices.Contains(p.Held[c], i)}
		switch {
		case slices.Contains(p.Given[c], i):
			at.Readers = append(at.Readers, who)
		case ok:
			at.Others = append(at.Others, who)
		case best < 0 || fits[i].Score > fits[best].Score:
			best = i
		}
	}
	byFit := func(a, b planWho) int { return cmp.Or(cmp.Compare(b.Fit, a.Fit), cmp.Compare(a.Name, b.Name)) }
	slices.SortFunc(at.Readers, byFit)
	slices.SortFunc(at.Others, byFit)
	at.Others = at.Others[:min(mostOthers, len(at.Others))]
	if best >= 0 {
		at.Why = say.WhyNotReader(d.Readers[best].Name)
	}
	if to, _ := strconv.ParseInt(r.Query("to"), 10, 64); to != 0 {
		if i := slices.Index(p.Readers, to); i >= 0 {
			at.To = to
			m, err := r.Reading.TryMove(ctx, tx, r.Round, f, p, c, i)
			if no, ok := refusal.Of(err); ok && !errors.Is(err, reading.ErrPlanStale) {
				at.To, at.Change = 0, no.Sentence()
			} else if err != nil {
				return err
			} else {
				at.Change = d.moved(m, items)
			}
		}
	}
	d.At = at
	return nil
}

// moved says what a change by hand does.
func (d *planPage) moved(m reading.Moved, items map[int64]desk.Named) string {
	first, after := m.Moves[0], assignment.Plan{Given: m.Given}
	var passed []say.Passed
	for _, x := range m.Moves[1:] {
		passed = append(passed, say.Passed{Title: items[d.Plan.Entries[x.Case]].Title, From: d.Readers[x.From].Name,
			To: d.Readers[x.To].Name})
	}
	return say.ReaderMoved(d.Readers[first.From].Name, d.Readers[first.To].Name, m.Costs,
		after.Loads(len(d.Readers))[first.To], passed)
}

func (d *planPage) whatIf(ctx context.Context, tx *db.Tx, r *site.Request, f *form.Form, p *reading.Plan) error {
	without, _ := strconv.ParseInt(r.Query("without"), 10, 64)
	like, _ := strconv.ParseInt(r.Query("like"), 10, 64)
	i := slices.Index(p.Readers, max(without, like))
	if i < 0 {
		return nil
	}
	d.AboutWho = p.Readers[i]
	plan, err := r.Reading.WhatIf(ctx, tx, r.Round, f, p, i, like != 0)
	if err != nil {
		return err
	}
	who := "Without " + d.Readers[i].Name
	if like != 0 {
		who = "With one reader more, like " + d.Readers[i].Name
	}
	d.What = who + ": " + say.Loads(plan.Loads(len(p.Readers)+1)) + ", " + say.Costs(r.Reading.CostOf(plan)-p.Cost()) + "."
	if n := len(plan.Short); n > 0 {
		d.What = who + ", " + phrase.Count(int64(n), "case lacks a reader", "cases lack a reader") + "."
	}
	return nil
}

// WorkOut works a plan out.
func WorkOut(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	asks := reading.Asks{Apart: r.FormValue("apart") == "yes", Field: r.FormValue("field") == "yes"}
	for name, into := range map[string]*int{"most": &asks.Most, "least": &asks.Least} {
		if raw := strings.TrimSpace(r.FormValue(name)); raw != "" {
			if *into, err = strconv.Atoi(raw); err != nil || *into < 0 {
				return drawReading(r, fiber.StatusUnprocessableEntity, "“"+raw+"” is not a number of cases.", nil)
			}
		}
	}
	if err := reading.MayHandOut(f, r.At); err != nil {
		return drawReading(r, fiber.StatusConflict, site.Sentence(err), nil)
	}
	n, err := r.Reading.ToHandOut(r.Context, r.DB, r.Round, f, r.At)
	if err != nil {
		return err
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		if n > work.Inline {
			return r.Reading.WorkOutLater(ctx, tx, r.Round, n, asks)
		}
		_, err := r.Reading.WorkOut(ctx, tx, r.Round, f, asks)
		return err
	})
	if no, ok := refusal.Of(err); ok {
		return drawReading(r, fiber.StatusConflict, no.Sentence(), nil)
	}
	if err != nil {
		return err
	}
	return r.See("/office/rounds/" + r.Round.Key + "/reading/plan")
}

// ChangePlan gives a case to a reader, adds one, gives the plan out or throws it away.
func ChangePlan(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	version, _ := strconv.Atoi(r.FormValue("version"))
	entry, _ := strconv.ParseInt(r.FormValue("case"), 10, 64)
	reader, _ := strconv.ParseInt(r.FormValue("reader"), 10, 64)
	back := "/office/rounds/" + r.Round.Key + "/reading"
	says := ""
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		p, err := r.Reading.PlanOf(ctx, tx, r.Round.ID)
		if err != nil {
			return err
		}
		c, i := slices.Index(p.Entries, entry), slices.Index(p.Readers, reader)
		switch r.FormValue("do") {
		case "give out":
			if p.Version != version {
				return reading.ErrPlanStale
			}
			if len(p.Entries) > work.Inline {
				says = phrase.Count(int64(len(p.Entries)), "case is", "cases are") + " being given out. You can leave this page."
				return r.Reading.GiveOutLater(ctx, tx, r.Round, p)
			}
			out, err := r.Reading.GiveOut(ctx, tx, r.Round, f, version, nil)
			says = out.Says() + " Each of them is told by mail."
			return err
		case "drop":
			says = "The plan is thrown away. Nobody was told of it."
			return r.Reading.DropPlan(ctx, tx, r.Round)
		}
		if c < 0 || i < 0 {
			return reading.ErrPlanStale
		}
		back += "/plan?case=" + strconv.FormatInt(entry, 10)
		if r.FormValue("do") == "add" {
			says = "Added, and held."
			return r.Reading.Add(ctx, tx, r.Round, version, c, i)
		}
		m, err := r.Reading.Move(ctx, tx, r.Round, f, version, c, i)
		says = "Done, and held: " + say.Costs(m.Costs) + "."
		return err
	})
	if no, ok := refusal.Of(err); ok {
		return drawPlan(r, fiber.StatusConflict, no.Sentence())
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See(back)
}
