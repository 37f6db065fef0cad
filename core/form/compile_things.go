package form

import (
	"slices"
	"strings"
	"time"
)

// awards compiles them. Where one may ask for every award that fits, who meets
// them must be known at that question, and whoever reads it reads that too.
func (c *compiler) awards() {
	d := c.f.Design
	c.walked, c.stage, c.reads = len(c.f.questions), len(d.Stages), nil
	picks := -1
	for i := range c.f.questions {
		if q := c.f.questions[i].def; q.wantsEvery() && picks < 0 {
			picks, c.walked, c.stage = i, i, c.f.sections[c.f.questions[i].section].stage
		}
	}
	for i := range d.Awards {
		a := &d.Awards[i]
		c.at("awards/"+string(a.Key), "award "+name(a.Label, a.Key), a.Key)
		c.need(a.Places >= 1, "an award has at least one place")
		c.need(a.Key != EveryAward, "the key %q stands for every award", a.Key)
		c.f.awards = append(c.f.awards, c.award(a))
	}
	c.placing()
	for i := picks; i >= 0 && i < len(c.f.questions); i++ {
		if q := &c.f.questions[i]; q.def.wantsEvery() {
			q.reads = append(q.reads, c.reads...)
		}
	}
	c.walked, c.stage = len(c.f.questions), len(d.Stages)
}

// things compiles fees.
func (c *compiler) things() {
	d := c.f.Design
	for i := range d.Fees {
		x := &d.Fees[i]
		c.at("fees/"+string(x.Key), "fee "+name(x.Label, x.Key), x.Key)
		out := fee{def: x, offered: c.cond(x.Offered)}
		c.price(x.Price.Else)
		for _, w := range x.Price.When {
			out.prices = append(out.prices, c.cond(w.If))
			c.price(w.Then)
		}
		for _, k := range x.Of {
			i := slices.IndexFunc(d.Fees, func(o Fee) bool { return o.Key == k })
			c.need(i >= 0 && d.Fees[i].What != FeeBundle, "a bundle is of other fees of the round; %q is none", k)
		}
		c.need(x.Most >= 0 && x.Most <= mostTaken, "one may take up to %d", mostTaken)
		c.f.fees = append(c.f.fees, out)
	}
	for i := range d.Codes {
		x := &d.Codes[i]
		c.at("codes/"+string(x.Key), "code "+name(x.Code, x.Key), x.Key)
		c.need(x.Percent >= 0 && x.Percent <= 100 && x.Off >= 0, "a code takes off 0 to 100 percent and no less than nothing")
		c.need(x.Uses >= 0, "how often a code can be used is not below 0")
		c.need(slices.IndexFunc(d.Codes, func(o FeeCode) bool { return strings.EqualFold(o.Code, x.Code) }) == i,
			"the code %q stands there twice", x.Code)
	}
	c.vote()
	c.offer()
	c.gifts()
	c.f.rises = c.f.changes()
	if p := d.Payment; p != nil {
		c.path, c.place = "payment", "payment"
		c.need(p.Grace >= 0 && p.Grace <= mostGrace, "the grace is 0 to %d minutes", mostGrace)
		c.need(!p.Invoice || p.InvoiceDays > 0, "say within how many days an invoice is to be paid")
		last := time.Time{}
		for _, b := range p.Back {
			_, ok := d.Moment(b.Until)
			c.need(ok, "what is given back ends at a moment of the calendar; %q is none", b.Until)
			c.need(b.Percent > 0 && b.Percent <= 100, "what is given back is 1 to 100 percent")
			c.need(!ok || c.f.At(b.Until).After(last), "what is given back stands in the order of its moments")
			if ok {
				last = c.f.At(b.Until)
			}
		}
	}
}

// mostTaken bounds how many of a thing one may take; mostGrace is in minutes.
const (
	mostTaken = 999
	mostGrace = 7 * 24 * 60
)

// price checks the moments from which a price is another one.
func (c *compiler) price(p Price) {
	last := time.Time{}
	c.need(p.Amount >= 0, "a price is not below 0")
	for _, r := range p.Later {
		_, ok := c.f.Design.Moment(r.From)
		c.need(ok, "a price changes at a moment of the calendar; %q is none", r.From)
		c.need(r.Amount >= 0, "a price is not below 0")
		if at := c.f.At(r.From); ok {
			c.need(at.After(last), "later prices stand in the order of their moments")
			last = at
		}
	}
}

func (c *compiler) assessment() {
	d := c.f.Design
	sum := 0
	for i := range d.Criteria {
		cr := &d.Criteria[i]
		c.at("criteria/"+string(cr.Key), "criterion "+name(cr.Label, cr.Key), cr.Key)
		c.need(len(cr.Steps) >= 2 && len(cr.Steps) <= MostSteps, "a criterion describes 2 to %d steps", MostSteps)
		c.need(cr.Weight > 0, "a criterion has a weight")
		c.need(cr.At == "" || slices.ContainsFunc(c.f.Design.Stages, func(s Stage) bool {
			return s.Key == cr.At &&
				s.Does == Interview
		}),
			"a criterion is marked by readers or at an interview, and there is no interview %q", cr.At)
		c.f.criteria = append(c.f.criteria, c.cond(cr.Applies))
		sum += cr.Weight
	}
	c.path, c.place = "criteria", "assessment"
	c.need(sum == 100, "the weights add up to %d, not 100", sum)
	_, noted := d.Moment(d.NotesOn)
	c.need(d.NotesOn == "" || noted, "readers’ notes go out at a moment of the calendar; %q is none", d.NotesOn)
	c.need(d.Tie == "" || d.Tie == TieSent || d.Tie == TieLot || slices.ContainsFunc(d.Criteria,
		func(x Criterion) bool { return x.Key == d.Tie && x.At == "" }),
		"equal scores are settled by a criterion that readers mark, by who was sent first or by lot; %q is none", d.Tie)
	c.need(d.Control >= 0 && d.Control <= 100, "0 to 100 percent of the cases have one reader more")
	c.need(d.ReadersEach >= 1 && d.ReadersEach <= 20, "each application has 1 to 20 readers")
	c.need(d.HoldMinutes >= 0, "letters are held for a time that is not negative")
	if d.Request != "" {
		q := c.f.Question(d.Request)
		c.need(q != nil && q.Keeps() == InText && q.Measure() == Sums,
			"what is asked of the fund is said by a question about money; %q is none", d.Request)
	}
	if l := d.Listed; l.Question != "" {
		q := c.f.Question(l.Question)
		c.need(q != nil && q.PicksOne(), "lists show a choice of one; %q is none", l.Question)
	}
	c.need(d.Score == ByMean || d.Score == ByCalibrated, "the order goes by %q", d.Score)
	if d.Useful != "" {
		q := c.f.Question(d.Useful)
		c.need(q != nil && q.Keeps() == InText && q.Measure() == Sums,
			"the least sum that is of use is said by a question about money; %q is none", d.Useful)
	}
	if d.Language != "" {
		q := c.f.Question(d.Language)
		c.need(q != nil && q.PicksOne(), "the language of an application is told by a choice of one; %q is none", d.Language)
	}
	if d.Field != "" {
		q := c.f.Question(d.Field)
		c.need(q != nil && q.PicksOne(), "the field of an application is told by a choice of one; %q is none", d.Field)
	}
	for i := range d.Bodies {
		b := &d.Bodies[i]
		c.at("bodies/"+string(b.Key), "body "+name(b.Label, b.Key), b.Key)
		c.need(b.Marks >= 0 && b.Marks <= MostBodyMark, "a body gives marks from 0 to at most %d", MostBodyMark)
		c.f.bodies = append(c.f.bodies, c.cond(b.Sees))
	}
	for _, l := range d.Letters {
		c.at("letters/"+string(l.Key), "letter "+string(l.Key), l.Key)
		c.need(l.Subject != "" && l.Body != "", "a letter needs a subject and a text")
		if l.Of != "" {
			other, ok := c.f.Letter(l.Of)
			c.need(ok && other.Of == "" && l.Of != l.Key,
				"a letter goes out in the place of one that goes out by itself; %q is none", l.Of)
			c.need(!l.When.Always() || l.Award != "", "say to whom it goes out in the place of the other")
		}
		c.need(l.Of != "" || l.When.Always() && l.Award == "", "say in the place of which letter it goes out to them")
		c.need(l.Award == "" || slices.ContainsFunc(d.Awards, func(a Award) bool { return a.Key == l.Award }),
			"there is no award %q", l.Award)
		c.f.letters = append(c.f.letters, c.cond(l.When))
	}
	for _, s := range d.Stages {
		c.at("stages/"+string(s.Key), "stage "+name(s.Label, s.Key), s.Key)
		c.need(s.Key != AfterSending, "the key %q stands for the survey", s.Key)
		_, from := d.Moment(s.From)
		_, to := d.Moment(s.To)
		c.need(from && to, "a stage runs from one moment of the calendar to another")
		c.need(slices.Contains([]Work{Apply, Check, Read, Interview, Votes, Decide}, s.Does), "a stage does %q", s.Does)
	}
}
