package public

import (
	"slices"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/finder"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/web/field"
	"ulvant/internal/web/site"
	"ulvant/internal/web/view"
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
	return r.Draw(fiber.StatusOK, "public/rounds", view.Page{Title: "Open rounds", Nav: "rounds", Data: map[string]any{
		"Open": fitOpen, "Coming": fitComing, "Kinds": kinds, "Who": who, "Places": places, "Wish": wish, "Sum": sum, "Bad": bad, "Of": len(open) + len(coming), "Found": len(fitOpen) + len(fitComing)}})
}

// answeredFor is what the check says of one round.
type answeredFor struct {
	R       listed
	Verdict form.Outcome
	Reasons []string // of what is not met, or must be looked at
	Own     []string // labels of what only its own check can ask
	Carry   map[string]string
}

// askedFirst is how many questions the check for all shows unfolded.
const askedFirst = 5

// CheckAll asks the questions of every open round at once.
func CheckAll(r *site.Request) error { return checkAll(r, false) }

// AnswerAll answers for every open round at once. Nothing is kept.
func AnswerAll(r *site.Request) error { return checkAll(r, true) }

func checkAll(r *site.Request, answered bool) error {
	open, _, err := openRounds(r)
	if err != nil {
		return err
	}
	// Questions that are the same in several rounds are asked once. Where one
	// key stands for different questions the first round's is asked; the
	// other's is left to its own check.
	asked := map[form.Key]*form.Question{}
	for _, l := range open {
		for _, q := range l.Form.CheckQuestions() {
			if asked[q.Key] == nil {
				asked[q.Key] = q
			}
		}
	}
	type shared struct {
		field.Field
		For []string // names of the rounds that ask it
	}
	var out []answeredFor
	var fields []shared
	at := map[form.Key]int{}
	for _, l := range open {
		a := answeredFor{R: l, Carry: map[string]string{}}
		filled := &form.Filled{Answers: map[form.Place]form.Answer{}, Today: calendar.DateOf(r.At, l.Zone)}
		for p, x := range field.FromForm(r, l.Form) {
			if q := l.Form.Question(p.Question); q != nil && asked[q.Key] != nil && finder.Same(asked[q.Key], q) {
				filled.Answers[p] = x
				a.Carry[field.Name(p)] = x.Raw
				if x.Non != "" {
					a.Carry[field.Name(p)] = string(x.Non)
				}
			}
		}
		path := l.Form.Walk(filled)
		for _, q := range l.Form.CheckQuestions() {
			if !finder.Same(asked[q.Key], q) {
				a.Own = append(a.Own, q.Label)
				continue
			}
			fl := field.New(l.Form, filled, path, q, nil)
			fl.Problems = nil
			if i, ok := at[q.Key]; ok {
				fields[i].Shown = fields[i].Shown || fl.Shown
				fields[i].For = append(fields[i].For, l.Name)
				continue
			}
			at[q.Key] = len(fields)
			fields = append(fields, shared{fl, []string{l.Name}})
		}
		a.Verdict = path.Verdict()
		names := say.RuleNames(l.Form)
		for _, rule := range path.Rules {
			if rule.Outcome == form.Fails || rule.Outcome == form.Person {
				a.Reasons = append(a.Reasons, names[rule.Key]+": "+rule.Reason)
			}
		}
		out = append(out, a)
	}
	// What decides for most rounds is asked first; after a few the rest is folded.
	slices.SortStableFunc(fields, func(a, b shared) int { return len(b.For) - len(a.For) })
	first, more := fields[:min(len(fields), askedFirst)], fields[min(len(fields), askedFirst):]
	rank := map[form.Outcome]int{form.Holds: 0, form.Person: 1, form.NotYet: 2, form.Fails: 3}
	slices.SortStableFunc(out, func(a, b answeredFor) int { return rank[a.Verdict] - rank[b.Verdict] })
	return r.Draw(fiber.StatusOK, "public/checkall", view.Page{Title: "What could be for me?", Nav: "rounds", Data: map[string]any{"Fields": first, "More": more, "Rounds": out, "Answered": answered}})
}
