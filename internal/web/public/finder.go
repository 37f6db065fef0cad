package public

import (
	"slices"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/finder"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// wishFrom reads what a visitor looks for; sum is as typed, and bad when it is
// no sum.
func wishFrom(r *site.Request, currency string) (w finder.Wish, sum string, bad bool) {
	w = finder.Wish{Kind: r.Query("kind"), Who: r.Query("who"), Place: r.Query("place")}
	if sum = r.Query("sum"); sum != "" {
		n, ok := money.Parse(sum, currency)
		w.Sum, bad = n, !ok || n < 0
		if bad {
			w.Sum = 0
		}
	}
	return w, sum, bad
}

// openRounds lists the rounds that are open now.
func openRounds(r *site.Request) (open, coming []listed, err error) {
	rounds, err := r.Rounds.Public(r.Context, r.At)
	if err != nil {
		return nil, nil, err
	}
	for _, rd := range rounds {
		l, err := list(r, rd)
		if err != nil {
			return nil, nil, err
		}
		if l.Phase == calendar.Open {
			open = append(open, l)
		} else {
			coming = append(coming, l)
		}
	}
	return open, coming, nil
}

// sharedField is a question that several rounds ask.
type sharedField struct {
	field.Field
	For []string // names of the rounds that ask it
}

// roundsPage is what public/rounds.html draws.
type roundsPage struct {
	Open   []listed
	Coming []listed
	Kinds  []string
	Who    []string
	Places []string
	Wish   finder.Wish
	Sum    string
	Bad    bool
	Of     int
	Found  int
	Votes  []listedVote
}

// Rounds lists what is open and coming, narrowed to what a visitor looks for.
func Rounds(r *site.Request) error {
	open, coming, err := openRounds(r)
	if err != nil {
		return err
	}
	currency := "EUR"
	var all []finder.Round
	for _, l := range append(slices.Clone(open), coming...) {
		all = append(all, finder.Describe(l.Form))
		currency = l.Form.Design.Currency
	}
	kinds, who, places := finder.Choices(all)
	wish, sum, bad := wishFrom(r, currency)
	fit := func(l listed) bool { return !finder.Describe(l.Form).Fits(wish) }
	fitOpen, fitComing := slices.DeleteFunc(slices.Clone(open), fit), slices.DeleteFunc(slices.Clone(coming), fit)
	polls, err := votes(r)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "public/rounds", view.Page{Title: "Open rounds", Nav: "rounds",
		Data: roundsPage{Open: fitOpen, Coming: fitComing, Kinds: kinds, Who: who, Places: places, Wish: wish, Sum: sum,
			Bad: bad, Of: len(open) + len(coming), Found: len(fitOpen) + len(fitComing), Votes: polls}})
}

// answeredFor is what the check says of one round.
type answeredFor struct {
	R       listed
	Verdict form.Outcome
	Reasons []string // of what is not met, or must be looked at
	Own     []string // labels of what only its own check can ask
	Carry   map[string]string
}

// CheckAll asks the questions of every open round at once.
func CheckAll(r *site.Request) error { return checkAll(r, false) }

// AnswerAll answers for every open round at once. Nothing is kept.
func AnswerAll(r *site.Request) error { return checkAll(r, true) }

// checkallPage is what public/checkall.html draws.
type checkallPage struct {
	Fields   []sharedField
	More     []sharedField
	Rounds   []answeredFor
	Answered bool
}

func checkAll(r *site.Request, answered bool) error {
	open, _, err := openRounds(r)
	if err != nil {
		return err
	}
	forms := make([]*form.Form, len(open))
	for i, l := range open {
		forms[i] = l.Form
	}
	questions, own := finder.Share(forms)
	asks := make([]map[form.Key]bool, len(open))
	for _, q := range questions {
		for _, i := range q.Rounds {
			if asks[i] == nil {
				asks[i] = map[form.Key]bool{}
			}
			asks[i][q.Key] = true
		}
	}
	out, fills, paths := make([]answeredFor, len(open)), make([]*form.Filled, len(open)), make([]*form.Path, len(open))
	for i, l := range open {
		a := answeredFor{R: l, Own: own[i], Carry: map[string]string{}}
		fills[i] = &form.Filled{Answers: map[form.Place]form.Answer{}, Today: calendar.DateOf(r.At, l.Zone)}
		for p, x := range field.FromForm(r, l.Form) {
			if asks[i][p.Question] {
				fills[i].Answers[p] = x
				a.Carry[field.Name(p)] = x.Raw
				if x.Non != "" {
					a.Carry[field.Name(p)] = string(x.Non)
				}
			}
		}
		paths[i] = l.Form.Walk(fills[i])
		a.Verdict = paths[i].Verdict()
		names := say.RuleNames(l.Form)
		for _, rule := range paths[i].Rules {
			if rule.Outcome == form.Fails || rule.Outcome == form.Person {
				a.Reasons = append(a.Reasons, names[rule.Key]+": "+rule.Reason)
			}
		}
		out[i] = a
	}
	fields := make([]sharedField, len(questions))
	for k, q := range questions {
		for n, i := range q.Rounds {
			fl := field.New(forms[i], fills[i], paths[i], forms[i].Question(q.Key), nil)
			if n == 0 {
				fl.Problems = nil
				fields[k].Field = fl
			}
			fields[k].Shown = fields[k].Shown || fl.Shown
			fields[k].For = append(fields[k].For, open[i].Name)
		}
	}
	first, more := fields[:min(len(fields), finder.AskedFirst)], fields[min(len(fields), finder.AskedFirst):]
	rank := map[form.Outcome]int{form.Holds: 0, form.Person: 1, form.NotYet: 2, form.Fails: 3}
	slices.SortStableFunc(out, func(a, b answeredFor) int { return rank[a.Verdict] - rank[b.Verdict] })
	return r.Draw(fiber.StatusOK, "public/checkall", view.Page{Title: "What could be for me?", Nav: "rounds",
		Data: checkallPage{Fields: first, More: more, Rounds: out, Answered: answered}})
}
