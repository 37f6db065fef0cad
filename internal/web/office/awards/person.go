package awards

import (
	"slices"
	"strings"

	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/placing"
	"ulvant/core/say"
	"ulvant/internal/award"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// person is the part of the page about one of them, and what could be changed.
func (d *placingPage) person(r *site.Request, f *form.Form) error {
	ref := r.FormValue("person")
	if ref == "" {
		return nil
	}
	list, err := r.Awards.OfPerson(r.Context, r.DB, r.Round, f, d.On, ref)
	if err != nil || len(list) == 0 {
		return err
	}
	first := list[0]
	var looked award.Looked
	if !d.Many || r.FormValue("costs") != "" {
		if looked, err = r.Awards.Look(r.Context, r.DB, r.Round, f, d.On, first.Entry, form.Key(d.at())); err != nil {
			return err
		}
	}
	whys := looked.Whys
	p := &personPart{Entry: first.Entry, Ref: first.Ref, Lead: first.Lead, Href: "/office/applications/" + first.Ref}
	meets, sum := 0, int64(0)
	var given []string
	for _, x := range list {
		y := personPair{Pair: x, Label: f.Design.AwardLabel(string(x.Award)), Href: d.link(r, "award", string(x.Award))}
		place := slices.IndexFunc(f.Design.Awards, func(a form.Award) bool { return a.Key == x.Award })
		why := whys[x.Award]
		switch {
		case x.Given != nil:
			given, sum = append(given, y.Label), sum+*x.Given
		case x.Meets() && x.Merit < 10*f.Design.Awards[place].LeastMerit:
			y.Why = say.TooLittleMerit(f.Design.Awards[place].LeastMerit, x.Merit)
		case x.Meets() && whys == nil:
			y.Why = "Somebody else is given it, or they are given enough."
		case x.Meets():
			y.Why = whyNot(f, why)
			if why.Can && why.Reason != "" {
				y.Costs = costs(why.Change)
			}
		case x.MustSay():
			y.Why = "A person must say whether they meet it."
		case x.Ruled != nil:
			y.Why = *x.RuledBy + " said that they do not meet it" + because(x.RuledWhy)
		default:
			y.Why = missed(say.Criteria(f, place), x)
		}
		if x.Meets() {
			meets++
		}
		if x.Back != nil {
			y.HandSays = say.GaveBack(*x.Back)
		}
		if x.Hand != nil {
			y.HandSays = "Held away"
			if *x.Hand {
				y.HandSays = "Held"
			}
			y.HandSays += " by " + *x.HandBy + because(x.HandWhy)
		}
		switch {
		case string(x.Award) == d.at():
			p.At = &y
		case x.Given != nil:
			p.Given = append(p.Given, y)
		default:
			p.Not = append(p.Not, y)
		}
		if string(x.Award) == d.at() {
			if c := why.Change; x.Given != nil && c.Can {
				p.Changes = append(p.Changes, changeRow{"take " + x.Lead + " out of this award", say.Points(-c.Costs),
					moves(f, c, x)})
			} else if c.Can && x.Meets() {
				p.Changes = append(p.Changes, changeRow{"give it to " + x.Lead, about(c) + say.Points(-c.Costs), moves(f, c, x)})
			}
		}
	}
	p.Says = "Meets " + phrase.Count(int64(meets), "award", "awards") + ". "
	switch {
	case given == nil:
		p.Says += "Given none."
	case sum > 0:
		p.Says += "Given " + phrase.List(given) + ": " + money.Format(sum, d.Currency) + "."
	default:
		p.Says += "Given " + phrase.List(given) + "."
	}
	if next := looked.Next; next != nil && next.Entry != p.Entry && looked.ToNext.Can {
		p.Changes = append(p.Changes, changeRow{"give it to " + next.Lead, say.Points(-looked.ToNext.Costs),
			moves(f, looked.ToNext, award.Pair{})})
	}
	if looked.Empty.Can {
		p.Changes = append(p.Changes, changeRow{"leave one place empty", say.Points(-looked.Empty.Costs),
			moves(f, looked.Empty, award.Pair{})})
	}
	if whys == nil {
		p.Costs = d.link(r, "costs", "yes")
	}
	d.Person = p
	return nil
}

// at is the key of the award looked at.
func (d *placingPage) at() string {
	for _, l := range d.Lines {
		if l.Is {
			return string(l.Key)
		}
	}
	return ""
}

func because(why *string) string {
	if why == nil || *why == "" {
		return ""
	}
	return ": “" + *why + "”"
}

// whyNot is the sentence of why somebody is not given an award they meet.
func whyNot(f *form.Form, w award.Why) string {
	var has, others []string
	for _, k := range w.Has {
		has = append(has, f.Design.AwardLabel(string(k)))
	}
	for _, o := range w.Others {
		others = append(others, o.Lead)
	}
	return say.WhyNotPlaced(w.Reason, has, others)
}

// missed says which criterion somebody misses who nearly meets an award.
func missed(criteria []string, x award.Pair) string {
	if x.Misses == nil || *x.Misses >= len(criteria) || *x.Misses >= len(x.Said) {
		return "They do not meet it."
	}
	said := x.Said[*x.Misses].Words
	out := "It asks that " + criteria[*x.Misses] + "."
	if said != "" {
		out += " Their answer: " + said + "."
	}
	return out
}

// about is what stands before a cost that is not exact.
func about(c award.Change) string {
	switch {
	case c.Exact:
		return ""
	case c.Most:
		return "at most "
	}
	return "at least "
}

// costs says what giving an award would cost in all.
func costs(c award.Change) string {
	switch {
	case c.Costs >= placing.FirstWorth/2:
		return "Somebody who comes before all others would lose one."
	case c.Costs <= 0 && (c.Exact || c.Most):
		return "Giving it costs nothing in all."
	}
	return "Giving it costs " + about(c) + say.Points(c.Costs) + " in all."
}

// moves says who else would have something else.
func moves(f *form.Form, c award.Change, of award.Pair) string {
	var out []string
	for _, m := range c.Moves {
		if m.Entry == of.Entry && m.Award == of.Award {
			continue
		}
		verb := " would not have "
		if m.Given {
			verb = " would have "
		}
		out = append(out, m.Lead+verb+f.Design.AwardLabel(string(m.Award)))
		if len(out) == mostMoves {
			break
		}
	}
	if more := len(c.Moves) - mostMoves; more > 0 && len(out) == mostMoves {
		out = append(out, phrase.Count(int64(more), "more moves", "more move"))
	}
	return strings.Join(out, "; ")
}

// mostMoves are named of a change.
const mostMoves = 4

// Of everybody against every award so much is drawn: more people would be less than a
// point wide.
const (
	mostColumns = 600
	mostDots    = 6000
)

// grid draws everybody against every award.
func grid(r *site.Request, f *form.Form, of int64, at string) (view.Picture, error) {
	dots, err := r.Awards.Dots(r.Context, r.DB, r.Round, of, mostDots)
	if err != nil || len(dots) == 0 {
		return "", err
	}
	row, column := map[form.Key]int{}, map[int64]int{}
	for i, a := range f.Design.Awards {
		row[a.Key] = i
	}
	var people []int64
	for _, x := range dots {
		people = append(people, x.Entry)
	}
	slices.Sort(people)
	people = slices.Compact(people)
	for i, e := range people {
		column[e] = i
	}
	list := make([]view.Dot, 0, len(dots))
	for _, x := range dots {
		if i, ok := row[x.Award]; ok {
			list = append(list, view.Dot{Row: i, Column: column[x.Entry], Full: x.Given})
		}
	}
	on := -1
	if i, ok := row[form.Key(at)]; ok {
		on = i
	}
	return view.Grid(list, len(f.Design.Awards), len(people), on), nil
}
