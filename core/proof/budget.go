package proof

import (
	"slices"

	"ulvant/core/budget"
	"ulvant/core/form"
)

// sums of a budget that something reads, each a number of its own, held
// together by what a budget that adds up is: what is asked and what others pay
// come to the cost, the headings, years and partners come to what the lines
// cost, and the request is what it says. Lines are not told apart. What
// indirect costs come to hangs on lines, caps and roundings: of them only a
// bound is known, and the proof says that it was not exact.
type sums struct {
	q     *form.Question
	of    map[form.Key]*number // by column of form.BudgetSums
	asked map[form.Key]*number // what is asked under each heading
	unit  map[form.Key]int64   // of goods that are given whole: what one is worth; the number counts them
}

// greatest is the greatest sum that the proof looks at, in minor units.
const greatest = int64(9e14)

// budget makes the sums of a budget.
func (w *world) budget(q *form.Question, c *cell) *sums {
	if b := w.budgets[q.Key]; b != nil {
		return b
	}
	if w.facts != nil && (w.twin || q.Nature == form.Fact) {
		w.budgets[q.Key] = w.facts.budgets[q.Key]
		return w.budgets[q.Key]
	}
	b := &sums{q, map[form.Key]*number{}, map[form.Key]*number{}, map[form.Key]int64{}}
	w.budgets[q.Key] = b
	fix, fixed := w.fix[q.Key]
	fixed = fixed && fix.sums != nil
	number := func(k form.Key, low int64) *number {
		if fixed {
			return w.number(fix.sums[k], fix.sums[k])
		}
		return w.number(low, greatest/max(b.unit[k], 1))
	}
	for _, k := range b.costing().Gives {
		if g := w.f.Gift(k); g != nil && g.Value > 0 {
			b.unit[form.GiftSum(k)] = g.Value
		}
	}
	for _, o := range w.f.BudgetSums(q) {
		b.of[o.Key] = number(o.Key, 0)
	}
	for _, o := range q.Options {
		b.asked[o.Key] = number(underHeading+o.Key, 0)
	}
	if !fixed {
		w.budgetHolds(b, c)
	}
	return b
}

// underHeading stands before the key of a heading of which what is asked is meant.
const underHeading = "us:"

// each visits every sum under a key of its own.
func (b *sums) each(visit func(form.Key, *number)) {
	for k, n := range b.of {
		visit(k, n)
	}
	for k, n := range b.asked {
		visit(underHeading+k, n)
	}
}

func (b *sums) costing() *form.Costing {
	if b.q.Costing == nil {
		return &form.Costing{}
	}
	return b.q.Costing
}

// roomy is a heading that no cap holds; "" for none.
func (b *sums) roomy() form.Key {
	for _, o := range b.q.Options {
		capped := func(l form.Limits) bool {
			return slices.ContainsFunc(l.Caps, func(c form.Cap) bool { return c.Heading == o.Key })
		}
		if !capped(b.q.Limits.Else) &&
			!slices.ContainsFunc(b.q.Limits.When, func(c form.Case[form.Limits]) bool { return capped(c.Then) }) {
			return o.Key
		}
	}
	return ""
}

// budgetHolds is what holds of every budget whose lines are complete.
func (w *world) budgetHolds(b *sums, c *cell) {
	q, x := b.q, b.costing()
	holds := func(least int64, terms ...term) {
		w.linear = append(w.linear, &linear{is: c.given, terms: terms, least: least, half: true})
	}
	equal := func(terms ...term) {
		holds(0, terms...)
		holds(0, negated(terms)...)
	}
	whole := func(all *number, parts []form.Option, key func(form.Key) form.Key) {
		terms := []term{{1, all}}
		for _, p := range parts {
			terms = append(terms, b.times(-1, key(p.Key)))
		}
		if len(parts) > 0 {
			equal(terms...)
		}
	}
	cost, us := b.of[form.ColCost], b.of[form.ColUs]
	equal(term{1, cost}, term{-1, us}, term{-1, b.of[form.ColMatch]})
	whole(b.direct(), q.Options, form.HeadingSum)
	whole(b.direct(), x.Periods, form.PeriodSum)
	whole(b.direct(), x.Partners, form.PartnerSum)
	if len(x.Gives) > 0 {
		whole(us, w.f.Gifts(q), form.GiftSum)
	}
	under := b.roomy() // goods may as well all stand there
	goods := []term{}
	if under != "" {
		goods = append(goods, term{1, b.asked[under]})
	}
	for _, k := range x.Gives { // goods are given whole
		if g := w.f.Gift(k); g != nil && g.Value > 0 {
			goods = append(goods, b.times(-1, form.GiftSum(k)))
		}
	}
	if under != "" && len(goods) > 1 {
		holds(0, goods...)
	}
	asked := []term{{1, us}}
	for _, o := range q.Options {
		holds(0, term{1, b.of[form.HeadingSum(o.Key)]}, term{-1, b.asked[o.Key]})
		asked = append(asked, term{-1, b.asked[o.Key]})
	}
	sources := []term{{1, b.of[form.ColMatch]}}
	for _, s := range x.Sources {
		sources = append(sources, term{-1, b.of[s]})
	}
	if i := x.Indirect; i != nil {
		w.exact = false
		direct, indirect := b.of[form.ColDirect], b.of[form.ColIndirect]
		equal(term{1, cost}, term{-1, direct}, term{-1, indirect})
		holds(-5_000*int64(1+len(x.Periods)), term{i.Rate, direct}, term{-10_000, indirect})
		if i.ByOwn { // with a column of its own or without
			sources = nil
		} else {
			asked = append(asked, term{-1, indirect})
		}
	}
	if len(q.Options) > 0 {
		equal(asked...)
	}
	if len(x.Sources) > 0 && sources != nil {
		equal(sources...)
	}
}

func negated(terms []term) []term {
	out := make([]term, len(terms))
	for i, t := range terms {
		out[i] = term{-t.k, t.x}
	}
	return out
}

// times is a sum, k times, within a bound.
func (b *sums) times(k int64, sum form.Key) term { return term{k * max(b.unit[sum], 1), b.of[sum]} }

// value is a sum as figures read it.
func (b *sums) value(sum form.Key) value {
	if u := b.unit[sum]; u > 0 {
		return weighed{[]term{{u, b.of[sum]}}, 1}
	}
	return amount{b.of[sum], 1}
}

// direct is the number that the lines come to.
func (b *sums) direct() *number {
	if n := b.of[form.ColDirect]; n != nil {
		return n
	}
	return b.of[form.ColCost]
}

// budgetFits is that a budget keeps to its limits and comes to what is asked.
func (w *world) budgetFits(
	b *sums,
	within func(string, func(form.Limits) bool, func(form.Limits) lit) lit,
) (of []lit) {
	q, x := b.q, b.costing()
	cost, us, match := b.of[form.ColCost], b.of[form.ColUs], b.of[form.ColMatch]
	of = append(of, w.budgetRequests(b, x)...)
	if len(x.Sources) == 0 {
		w.exact = w.exact && q.Limits.Else.InKindMost == 0
	}
	share := func(member string, set func(form.Limits) bool, terms func(form.Limits) []term) {
		of = append(of, within(member, set, func(l form.Limits) lit { return w.sum(terms(l), 0) }))
	}
	share("matchPercent", func(l form.Limits) bool { return l.MatchPercent > 0 },
		func(l form.Limits) []term { return []term{{100, match}, {-l.MatchPercent, cost}} })
	share("matchOfAsked", func(l form.Limits) bool { return l.MatchOfAsked > 0 },
		func(l form.Limits) []term { return []term{{100, match}, {-l.MatchOfAsked, us}} })
	if kind := b.of[form.InKindSum]; kind != nil { // beyond its share it does not count
		share("inKindMost", func(l form.Limits) bool { return l.InKindMost > 0 && l.MatchPercent > 0 },
			func(l form.Limits) []term {
				return []term{{100, match}, {-100, kind}, {l.InKindMost - l.MatchPercent, cost}}
			})
	}
	for _, o := range q.Options {
		for _, kind := range []form.CapOf{form.OfAsked, form.OfCost, form.OfDirect} {
			percent := func(l form.Limits) int64 {
				for _, c := range l.Caps {
					if c.Heading == o.Key && c.Of == kind {
						return c.Percent
					}
				}
				return -1
			}
			part, all := b.of[form.HeadingSum(o.Key)], cost
			switch kind {
			case form.OfAsked:
				part, all = b.asked[o.Key], us
			case form.OfDirect:
				all = b.direct()
			}
			share("caps", func(l form.Limits) bool { return percent(l) >= 0 },
				func(l form.Limits) []term { return []term{{percent(l), all}, {-100, part}} })
		}
	}
	return of
}

// budgetRequests ties what is asked to the questions that say so, and to the
// least and most of each thing that is given.
func (w *world) budgetRequests(b *sums, x *form.Costing) (of []lit) {
	tie := func(request, sum form.Key) {
		c := w.cells[string(request)]
		if c == nil {
			return
		}
		if v, ok := c.value.(amount); ok {
			same := w.and(w.sum([]term{b.times(1, sum), {-1, v.x}}, 0), w.sum([]term{b.times(-1, sum), {1, v.x}}, 0))
			of = append(of, w.or(-c.given, same))
		}
	}
	if len(x.Gives) == 0 {
		tie(b.q.Request, form.ColUs)
		return of
	}
	tie(b.q.Request, form.GiftSum(form.OfMoney))
	for _, k := range x.Gives {
		g, n := w.f.Gift(k), form.GiftSum(k)
		if g == nil {
			continue
		}
		tie(g.Request, n)
		if g.Least != nil {
			of = append(of, w.or(-w.reaches(b.of[n], 1), w.sum([]term{b.times(1, n)}, *g.Least)))
		}
		if g.Most != nil {
			of = append(of, w.sum([]term{b.times(-1, n)}, -*g.Most))
		}
	}
	return of
}

// putBudgets writes lines so that a budget's sums come to what the model says:
// its cost is laid out as one stretch, cut wherever the heading, the year, the
// partner, the payer or what is asked for changes.
func (w *world) putBudgets(a *Applicant, m model, values func(*number) int64) {
	for _, st := range w.questions {
		b := w.budgets[st.q.Key]
		if b == nil || !m.holds(st.cell.given) || !m.holds(st.fits) { // what does not fit is written as an example
			continue
		}
		x := b.costing()
		read := func(n *number) int64 {
			if n == nil {
				return 0
			}
			return max(values(n), 0)
		}
		queue := func(list []form.Option, key func(form.Key) form.Key) *stretch {
			s := &stretch{}
			for _, o := range list {
				s.put(string(o.Key), read(b.of[key(o.Key)])*max(b.unit[key(o.Key)], 1))
			}
			return s
		}
		periods, partners, gives := queue(x.Periods, form.PeriodSum), queue(x.Partners, form.PartnerSum), &stretch{}
		if len(x.Gives) > 0 {
			gifts := w.f.Gifts(st.q) // money last: goods are given whole, under the heading that has room for them
			gives = queue(append(slices.Clone(gifts[1:]), gifts[0]), form.GiftSum)
		}
		payers := &stretch{}
		for _, s := range x.Sources {
			payers.put(string(s), read(b.of[s]))
		}
		var lines []budget.Line
		lay := func(heading form.Key, n int64, ours bool) {
			for n > 0 {
				who, step := payers, n
				if ours {
					who = gives
				}
				for _, s := range []*stretch{periods, partners, who} {
					step = min(step, s.room())
				}
				l := budget.Line{Item: "Line " + string(rune('A'+len(lines)%26)), Heading: string(heading), Cost: step,
					Period: periods.take(step), Partner: partners.take(step)}
				of := who.take(step)
				if ours {
					l.FromUs, l.Gives = step, of
				} else {
					l.Parts[form.SourceAt(form.Key(of))] = step
				}
				lines = append(lines, l)
				n -= step
			}
		}
		if len(st.q.Options) == 0 {
			lay("", read(b.of[form.ColUs]), true)
			lay("", read(b.of[form.ColMatch]), false)
		}
		headings := slices.Clone(st.q.Options)
		if i := slices.IndexFunc(headings, func(o form.Option) bool { return o.Key == b.roomy() }); i > 0 {
			headings[0], headings[i] = headings[i], headings[0]
		}
		for _, o := range headings {
			us := read(b.asked[o.Key])
			lay(o.Key, us, true)
			lay(o.Key, read(b.of[form.HeadingSum(o.Key)])-us, false)
		}
		if len(lines) > 0 && len(lines) < form.MostRows {
			w.f.PutLines(a.Filled, st.q, st.q.Limits.Else, lines)
		}
	}
}

// stretch is a sum cut into parts, taken from its beginning.
type stretch struct {
	names []string
	sums  []int64
}

func (s *stretch) put(name string, n int64) {
	if n > 0 {
		s.names, s.sums = append(s.names, name), append(s.sums, n)
	}
}

// room is how much can be taken of one part; when nothing is left, anything.
func (s *stretch) room() int64 {
	if len(s.sums) == 0 {
		return greatest
	}
	return s.sums[0]
}

func (s *stretch) take(n int64) string {
	if len(s.sums) == 0 {
		return ""
	}
	name := s.names[0]
	if s.sums[0] -= n; s.sums[0] <= 0 && len(s.sums) > 1 {
		s.names, s.sums = s.names[1:], s.sums[1:]
	} else if s.sums[0] <= 0 {
		s.sums[0] = greatest
	}
	return name
}

// readsBudgets marks what the sums of a budget are tied to, so that it is a
// number too.
func (w *world) readsBudgets() {
	for _, s := range w.f.Design.Sections {
		for i := range s.Questions {
			q := &s.Questions[i]
			if q.Keeps() != form.InLines || !w.deciding[q.Key] {
				continue
			}
			w.deciding[q.Request] = true
			if q.Costing != nil {
				for _, k := range q.Costing.Gives {
					if g := w.f.Gift(k); g != nil && g.Request != "" {
						w.deciding[g.Request] = true
					}
				}
			}
		}
	}
}
