// Package public holds the pages that need no account.
package public

import (
	"slices"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/pathtable"
	"ulvant/core/proof"
	"ulvant/core/say"
	"ulvant/internal/guidance"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/field"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// listed is a round on the public list.
type listed struct {
	round.Round
	Form        *form.Form
	Phase       calendar.Phase
	Zone        *time.Location
	Least, Most *int64
	Depends     bool         // other amounts for some
	Awards      []form.Award // the first of them
	MoreAwards  int
}

// listedAt is a round as it is listed at an instant.
type listedAt struct {
	L   listed
	Now time.Time
}

// At is the round as it is listed now.
func (l listed) At(now time.Time) listedAt { return listedAt{l, now} }

func list(r *site.Request, rd round.Round) (listed, error) {
	f, err := r.Rounds.Published(r.Context, r.DB, rd)
	if err != nil {
		return listed{}, err
	}
	l := listed{Round: rd, Form: f, Phase: f.Window().Phase(r.At), Zone: f.Zone}
	if q := f.Question(f.Design.Request); q != nil {
		l.Least, l.Most, l.Depends = q.Amounts()
	}
	for i, a := range f.Design.Awards {
		if i < 3 {
			l.Awards = append(l.Awards, a)
		}
	}
	l.MoreAwards = len(f.Design.Awards) - len(l.Awards)
	return l, nil
}

// asked is one question as somebody reads it before having an account.
type asked struct {
	Key                    form.Key
	Label, Help, Limit, If string
	Options                []form.Option
}

type askedSection struct {
	Label, If string
	Questions []asked
}

// roundPage is what public/round.html draws.
type roundPage struct {
	Papers   []guidance.Paper
	Answered int
	Need     *pathtable.Need
	Kinds    []pathtable.Column
	Kind     string
	R        listed
	Awards   []offered
	Fees     []string
	Sections []askedSection
	Ready    []string
	Strand   view.Picture
	Vote     *listedVote // nil: the public does not vote
}

// Round is the page of one round, worked out from its design.
func Round(r *site.Request) error {
	l, err := list(r, r.Round)
	if err != nil {
		return err
	}
	names := say.Names{Form: l.Form}
	var sections []askedSection
	var ready []string
	for _, s := range l.Form.Design.Sections {
		if l.Form.ByInvitation(s.Stage) {
			continue // it has no public page
		}
		out := askedSection{Label: s.Label, If: say.When(s.Asked, names)}
		if s.Stage == form.AfterSending {
			out.If = "you like, after sending: a survey, kept apart from the application"
		}
		for i := range s.Questions {
			q := &s.Questions[i]
			limit := say.Limit(l.Form, q, q.Limits.Else, true)
			for _, w := range q.Limits.When {
				limit += " If " + say.When(w.If, names) + ": " + say.Limit(l.Form, q, w.Then, true)
			}
			out.Questions = append(out.Questions, asked{Key: q.Key, Label: q.Label, Help: q.Help, Limit: limit,
				If: say.When(q.Asked, names), Options: l.Form.Options(q)})
			if n := say.Needed(l.Form, q); n != "" && s.Stage != form.AfterSending {
				ready = append(ready, n)
			}
		}
		sections = append(sections, out)
	}
	need, kinds, err := needOf(r, l.Form)
	if err != nil {
		return err
	}
	papers, err := r.Program.Guidance.Of(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	papers = slices.DeleteFunc(papers, func(p guidance.Paper) bool { return byInvitation(l.Form, p.Slot) })
	answered, err := r.Program.Enquiries.Public(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	v, err := r.Ballots.Of(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "public/round", view.Page{Title: l.Name, Nav: "rounds",
		Data: roundPage{Answered: len(answered), Papers: papers,
			Need: need, Kinds: kinds, Kind: r.Query("kind"), R: l, Awards: catalogue(l.Form), Fees: feesOf(l.Form),
			Sections: sections, Ready: append(ready, l.Form.Design.Ready...), Strand: strandOf(r, l),
			Vote: voteOf(r.Round, l.Form, v, r.At)}})
}

// byInvitation reports a question of a stage that has no public page.
func byInvitation(f *form.Form, q form.Key) bool {
	in := f.SectionOf(q)
	return slices.ContainsFunc(f.Design.Sections, func(s form.Section) bool {
		return s.Key == in && f.ByInvitation(s.Stage)
	})
}

// GuidanceFile sends a file beside a round, as it holds now.
func GuidanceFile(r *site.Request) error { return r.SendGuidance("") }

// needOf is what a visitor will need who says which kind of applicant they are;
// nil when they do not. kinds are those to choose from.
func needOf(r *site.Request, f *form.Form) (*pathtable.Need, []pathtable.Column, error) {
	t, err := r.Rounds.Proofs.Worked(r.Context, f)
	if err != nil || t.Unseen || len(t.Columns) < 2 {
		return nil, nil, err
	}
	i, err := strconv.Atoi(r.Query("kind"))
	if err != nil || i < 0 || i >= len(t.Columns) {
		return nil, t.Columns, nil
	}
	n := t.Need(f, []int{i})
	return &n, t.Columns, nil
}

// needAfter is what a visitor will need after what they answered in the check.
func needAfter(r *site.Request, f *form.Form, path *form.Path) (*pathtable.Need, error) {
	t, err := r.Rounds.Proofs.Worked(r.Context, f)
	if err != nil || t.Unseen {
		return nil, err
	}
	of := t.Possible(path)
	if len(of) == 0 {
		return nil, nil
	}
	n := t.Need(f, of)
	return &n, nil
}

// offered is an award as the public catalogue shows it.
type offered struct {
	form.Award
	If string // who meets it, as a sentence
}

func catalogue(f *form.Form) (out []offered) {
	for _, a := range f.Design.Awards {
		if a.Public {
			out = append(out, offered{a, say.When(a.Match, say.Names{Form: f})})
		}
	}
	return out
}

// feesOf says each charge, with what it hangs on.
func feesOf(f *form.Form) (out []string) {
	for i := range f.Design.Fees {
		out = append(out, say.Fee(f, &f.Design.Fees[i]))
	}
	if len(out) > 0 {
		out = append(out, say.GivenBack(f))
	}
	return out
}

func strandOf(r *site.Request, l listed) view.Picture {
	return view.Strand(l.Form, r.At, nil, true)
}

// Check asks the questions of "could this be for me".
func Check(r *site.Request) error { return check(r, false) }

// Answer answers them at once. Nothing is kept.
func Answer(r *site.Request) error { return check(r, true) }

// checkPage is what public/check.html draws.
type checkPage struct {
	R        listed
	Fields   []field.Field
	Ways     [][]proof.Step
	Need     *pathtable.Need
	Answered bool
	Verdict  form.Outcome
	Rules    []form.RuleState
	Names    map[form.Key]string
}

func check(r *site.Request, answered bool) error {
	l, err := list(r, r.Round)
	if err != nil {
		return err
	}
	filled := &form.Filled{Answers: field.FromForm(r, l.Form), Today: calendar.DateOf(r.At, l.Zone)}
	if r.Account != nil && l.Form.CountsOthers() {
		if filled.Others, err = r.Cases.Others(r.Context, r.DB, r.Account.ID, l.Round.ID, 0, r.At); err != nil {
			return err
		}
	}
	path := l.Form.Walk(filled)
	var fields []field.Field
	for _, q := range l.Form.CheckQuestions() {
		f := field.New(l.Form, filled, path, q, nil)
		if !answered || !q.Written() {
			f.Problems = nil
		}
		fields = append(fields, f)
	}
	verdict := path.Verdict()
	var ways [][]proof.Step
	if answered && verdict == form.Fails {
		ways = r.Rounds.Proofs.Nearest(r.Context, l.Form, filled)
	}
	var need *pathtable.Need
	if answered && verdict != form.Fails {
		if need, err = needAfter(r, l.Form, path); err != nil {
			return err
		}
	}
	return r.Draw(fiber.StatusOK, "public/check", view.Page{Title: "Could this be for me?", Nav: "rounds",
		Data: checkPage{R: l, Fields: fields, Ways: ways, Need: need, Answered: answered, Verdict: verdict,
			Rules: path.Rules, Names: say.RuleNames(l.Form)}})
}
