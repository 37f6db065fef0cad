package awards

import (
	"errors"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/award"
	"ulvant/internal/platform/work"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

// placingPage is what office/awards/placing.html draws.
type placingPage struct {
	Key      string
	Base     string // of the page's own links
	May      bool
	Worked   bool // it is worked out who meets what
	At       string
	Stale    bool
	Many     bool // so many that costs are worked out only when asked for
	In       int  // in the order
	Unread   int  // still being read
	Work     *work.Work
	List     []award.Placing
	On       award.Placing
	Lines    []awardLine
	Show     string // open, say; "" all
	Open     int    // places that are not given
	Say      int    // pairs of which a person must say
	Held     int
	Places   int
	Given    int
	Award    *awardPart
	Person   *personPart
	Queue    []queued
	Grid     view.Picture
	Currency string
	Wrong    refusal.Refusal
	Typed    typed
	Proof    string // whether the placing is the best there is
}

// typed is what was typed on the page and could not be taken.
type typed struct {
	Do, Why, Name, Most, Rule, Cap, Note, Reason, Others, Only string
	Reach                                                      bool
}

// awardLine is an award in the list.
type awardLine struct {
	award.Line
	Href  string
	Is    bool
	Worth string // what it gives in all
	Hot   string // what is to be done about it
}

// awardPart is the award looked at.
type awardPart struct {
	award.Line
	Gives      string
	Criteria   []string
	Rows       []pairRow
	Nearly     string
	From, Upto int
	All        int
	Prev, Next string
	Empty      string // nobody, and why
}

// pairRow is somebody who meets an award, or nearly does.
type pairRow struct {
	award.Pair
	Mark     string // given, meets, say, nearly, no
	Href     string
	Answers  []answer
	Worth    string
	Beside   string // what else they have
	Is       bool
	Sum      string
	NeedBar  view.Picture
	MeritBar view.Picture
}

// answer is what was said to one criterion.
type answer struct {
	award.Said
	Criterion string
	Missed    bool
}

// personPart is the person looked at.
type personPart struct {
	Entry   int64
	Ref     string
	Lead    string
	Href    string
	Says    string
	At      *personPair  // with the award looked at
	Given   []personPair // others that they are given
	Not     []personPair // others that they are not
	Changes []changeRow
	Costs   string // leads to why not, and what a change costs, where that is worked out only when asked for
}

// personPair is an award of a person.
type personPair struct {
	award.Pair
	Label    string
	Href     string
	Why      string // it is not given; "" where it is
	Costs    string
	HandSays string
}

// changeRow is something that could be done by hand, and what it costs.
type changeRow struct{ Does, Costs, Moves string }

// queued is a pair of which a person must say.
type queued struct {
	award.Pair
	Label     string
	Criterion string
	Answers   []answer
	Href      string
}

// perAward is how many rows of one award stand on a page.
const perAward = 50

// Placing shows who meets which award, who is given it, and why.
func Placing(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	return drawPlacing(r, f, refusal.Refusal{}, typed{}, fiber.StatusOK)
}

func drawPlacing(r *site.Request, f *form.Form, wrong refusal.Refusal, was typed, status int) error {
	d := placingPage{Key: r.Round.Key, Base: "/office/rounds/" + r.Round.Key + "/placing", May: r.May(access.Decide),
		Currency: f.Design.Currency,
		Wrong:    wrong, Typed: was, Show: r.FormValue("show")}
	if len(f.Design.Awards) == 0 {
		return fiber.ErrNotFound
	}
	var err error
	if d.Work, err = r.Work.Latest(r.Context, r.Round.ID, work.Placing); err != nil {
		return err
	}
	c, err := r.Awards.Candidacy(r.Context, r.DB, r.Round.ID)
	if err != nil && !errors.Is(err, award.ErrNotWorkedOut) {
		return err
	}
	now, bad := r.Awards.Standing(r.Context, r.DB, r.Round, f, c)
	if bad != nil {
		return bad
	}
	d.Unread, d.In = now.Unread, now.In
	if err != nil {
		return office.Draw(r, status, "office/awards/placing", "Awards, "+r.Round.Name, "placing", f, d)
	}
	d.Worked, d.At, d.Stale, d.Many = true, view.When(c.At, f.Zone), now.Stale, c.People > award.AtOnce
	if d.List, err = r.Awards.Placings(r.Context, r.DB, r.Round.ID); err != nil {
		return err
	}
	on, _ := strconv.ParseInt(r.FormValue("by"), 10, 64)
	i := max(0, slices.IndexFunc(d.List, func(p award.Placing) bool { return p.ID == on }))
	if i < len(d.List) {
		d.On = d.List[i]
		d.Proof = say.PlacingProof(d.On.Proved(), d.On.Gap())
		if d.On.Solved != c.Version && d.Wrong.Says == "" {
			no, ok := refusal.Of(r.Awards.Fault(r.Context, r.DB, r.Round, f, d.On))
			if d.Wrong = no; !ok {
				d.Wrong = refusal.Refusal{Says: "this placing is being worked out anew"}
			}
		}
	}
	if err := d.lines(r, f); err != nil {
		return err
	}
	if err := d.person(r, f); err != nil {
		return err
	}
	if err := d.award(r, f); err != nil {
		return err
	}
	if err := d.queue(r, f); err != nil {
		return err
	}
	if c.People <= mostColumns {
		if d.Grid, err = grid(r, f, d.On.ID, r.FormValue("award")); err != nil {
			return err
		}
	}
	return office.Draw(r, status, "office/awards/placing", "Awards, "+r.Round.Name, "placing", f, d)
}

// link is the page with one thing of its address changed.
func (d *placingPage) link(r *site.Request, pairs ...string) string {
	q := url.Values{}
	for _, k := range []string{"by", "award", "person", "show", "costs"} {
		if v := r.FormValue(k); v != "" {
			q.Set(k, v)
		}
	}
	for i := 0; i+1 < len(pairs); i += 2 {
		if q.Set(pairs[i], pairs[i+1]); pairs[i+1] == "" {
			q.Del(pairs[i])
		}
	}
	return d.Base + "?" + q.Encode()
}

// lines are the awards of the list.
func (d *placingPage) lines(r *site.Request, f *form.Form) error {
	list, err := r.Awards.List(r.Context, r.DB, r.Round, f, d.On.ID)
	if err != nil {
		return err
	}
	at := r.FormValue("award")
	for _, l := range list {
		d.Places, d.Given = d.Places+l.Places, d.Given+l.Given
		d.Open, d.Say, d.Held = d.Open+max(0, l.Places-l.Given), d.Say+l.Open, d.Held+l.Held
		x := awardLine{Line: l, Href: d.link(r, "award", string(l.Key), "from", ""), Is: string(l.Key) == at}
		switch {
		case l.Purse > 0:
			x.Worth = money.Format(l.Purse*int64(l.Places), d.Currency)
		default:
			x.Worth = phrase.Count(int64(l.Places), "place", "places")
		}
		x.Hot = say.AwardHot(l.Places, l.Given, l.Fits, l.Open, l.Asked)
		if d.Show == "open" && l.Given >= l.Places || d.Show == "say" && l.Open == 0 {
			continue
		}
		d.Lines = append(d.Lines, x)
	}
	if !slices.ContainsFunc(d.Lines, func(l awardLine) bool { return l.Is }) && len(d.Lines) > 0 {
		d.Lines[0].Is = true
	}
	return nil
}

// award is the part of the page about one of them.
func (d *placingPage) award(r *site.Request, f *form.Form) error {
	i := slices.IndexFunc(d.Lines, func(l awardLine) bool { return l.Is })
	if i < 0 {
		return nil
	}
	l := d.Lines[i]
	place := slices.IndexFunc(f.Design.Awards, func(a form.Award) bool { return a.Key == l.Key })
	p := &awardPart{Line: l.Line, Gives: say.AwardGives(l.Award, d.Currency), Criteria: say.Criteria(f, place)}
	from, _ := strconv.Atoi(r.FormValue("from"))
	from = min(max(0, from), 1_000_000)
	rows, all, err := r.Awards.OfAward(r.Context, r.DB, r.Round, f, d.On, l.Key, from, perAward)
	if err != nil {
		return err
	}
	p.All, p.From, p.Upto = all, from+1, min(from+perAward, all)
	if from > 0 {
		p.Prev = d.link(r, "award", string(l.Key)) + "&from=" + strconv.Itoa(max(0, from-perAward))
	}
	if p.Upto < all {
		p.Next = d.link(r, "award", string(l.Key)) + "&from=" + strconv.Itoa(p.Upto)
	}
	entries := make([]int64, len(rows))
	for k, x := range rows {
		entries[k] = x.Entry
	}
	has, err := r.Awards.HasOf(r.Context, r.DB, d.On.ID, entries)
	if err != nil {
		return err
	}
	person := r.FormValue("person")
	for _, x := range rows {
		row := pairRow{Pair: x, Mark: markOf(x), Href: d.link(r, "person", x.Ref, "award", string(l.Key)),
			Worth: say.Points(x.Worth), Is: x.Ref == person,
			Answers: answersOf(p.Criteria, x), NeedBar: view.Bar(x.Need, false), MeritBar: view.Bar(x.Merit, true)}
		if x.First {
			row.Worth = "first"
		}
		if x.Given != nil {
			row.Sum = money.Format(*x.Given, d.Currency)
		}
		var others []string
		for _, h := range has[x.Entry] {
			if h.Award != l.Key {
				others = append(others, f.Design.AwardLabel(string(h.Award)))
			}
		}
		if others != nil {
			row.Beside = "has " + phrase.List(others)
		}
		p.Rows = append(p.Rows, row)
	}
	p.Nearly = say.NearlyMeet(p.Criteria, l.Nearly)
	if l.Fits == 0 && l.MustSay == 0 {
		p.Empty = "Nobody who applied meets it."
		if !l.Asked {
			p.Empty = "Nobody who applied was asked what its criteria read."
		}
	}
	d.Award = p
	return nil
}

// markOf says how a pair is drawn.
func markOf(x award.Pair) string {
	switch {
	case x.Given != nil:
		return "given"
	case x.MustSay():
		return "say"
	case x.Meets():
		return "meets"
	case x.Nearly():
		return "nearly"
	}
	return "no"
}

// answersOf are what was said to the criteria, those that tell most first: words found,
// then what somebody must look at or what is missed, then the rest.
func answersOf(criteria []string, x award.Pair) (out []answer) {
	for i, s := range x.Said {
		a := answer{Said: s, Missed: x.Misses != nil && *x.Misses == i}
		if i < len(criteria) {
			a.Criterion = criteria[i]
		}
		out = append(out, a)
	}
	weight := func(a answer) int {
		switch {
		case a.Missed:
			return 0
		case len(a.Pieces) > 0:
			return 1
		case a.Look:
			return 2
		}
		return 3
	}
	slices.SortStableFunc(out, func(a, b answer) int { return weight(a) - weight(b) })
	return out
}

// queue is of whom a person must say.
func (d *placingPage) queue(r *site.Request, f *form.Form) error {
	if d.Say == 0 {
		return nil
	}
	list, err := r.Awards.ToSay(r.Context, r.DB, r.Round, f, d.On, 8)
	if err != nil {
		return err
	}
	at := r.FormValue("award")
	slices.SortStableFunc(list, func(a, b award.Pair) int {
		return strings.Compare(bit(string(a.Award) != at), bit(string(b.Award) != at))
	})
	for _, x := range list[:min(3, len(list))] {
		place := slices.IndexFunc(f.Design.Awards, func(a form.Award) bool { return a.Key == x.Award })
		q := queued{Pair: x, Label: f.Design.AwardLabel(string(x.Award)), Href: d.link(r, "award", string(x.Award), "person",
			x.Ref)}
		for _, a := range answersOf(say.Criteria(f, place), x) {
			if a.Look {
				q.Answers = append(q.Answers, a)
			}
		}
		d.Queue = append(d.Queue, q)
	}
	return nil
}

func bit(b bool) string {
	if b {
		return "1"
	}
	return "0"
}
