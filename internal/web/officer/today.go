// Package officer holds the desks of the office.
package officer

import (
	"sort"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/identifier"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/internal/desk"
	"ulvant/internal/round"
	"ulvant/internal/trail"
	"ulvant/internal/web/site"
	"ulvant/internal/web/view"
)

// summary of a round for lists.
type summary struct {
	round.Round
	Form   *form.Form
	Phase  string
	In     int // sent and not withdrawn
	Drafts int
	Asked  int64
	Office int // cases that wait for the office
	Strand view.Picture
}

func summaries(r *site.Request, rounds []round.Round) ([]summary, error) {
	counts, err := r.Desk.Counts(r.Context, 0)
	if err != nil {
		return nil, err
	}
	var out []summary
	for _, rd := range rounds {
		f, err := r.Rounds.Published(r.Context, r.DB, rd)
		if err != nil {
			return nil, err
		}
		s := summary{Round: rd, Form: f}
		for _, c := range counts {
			if c.Round != rd.ID {
				continue
			}
			switch {
			case c.State == lifecycle.Draft:
				s.Drafts += c.N
			case c.State.Sealed() && c.State != lifecycle.Withdrawn:
				s.In += c.N
				s.Asked += c.Asked
			}
			if c.Move == lifecycle.Office {
				s.Office += c.N
			}
		}
		switch f.Window().Phase(r.At) {
		case calendar.Before:
			s.Phase = "opens"
		case calendar.Open:
			s.Phase = "open"
		default:
			s.Phase = "closed"
		}
		if rd.DesignID == nil {
			s.Phase = "in design"
		}
		s.Strand = view.Strand(f, r.At, nil, true)
		out = append(out, s)
	}
	return out, nil
}

// task is one thing the office must do, oldest first.
type task struct {
	N          int
	What, Note string
	Link       string
	Since      time.Time
	Late       bool
}

// Today is what the office must do now, over all rounds.
func Today(r *site.Request) error {
	rounds, err := r.Rounds.All(r.Context)
	if err != nil {
		return err
	}
	sums, err := summaries(r, rounds)
	if err != nil {
		return err
	}
	var tasks []task
	open, err := r.Desk.OpenChecks(r.Context, 0, 500)
	if err != nil {
		return err
	}
	byRound := map[string]*task{}
	for _, o := range open {
		t := byRound[o.RoundKey]
		if t == nil {
			byRound[o.RoundKey] = &task{N: 1, What: "rules need a person", Note: o.Ref + " " + o.Title, Link: "/office/rounds/" + o.RoundKey + "/checks", Since: o.Since}
			continue
		}
		t.N++
	}
	for _, t := range byRound {
		tasks = append(tasks, *t)
	}
	var shown []summary
	for _, s := range sums {
		more, err := moves(r, s)
		if err != nil {
			return err
		}
		tasks = append(tasks, more...)
		if s.Form.At(form.AnswerOn).After(r.At.AddDate(0, -1, 0)) {
			shown = append(shown, s)
		}
	}
	waits, err := waiting(r, "")
	if err != nil {
		return err
	}
	tasks = append(tasks, waits...)
	held, err := r.Desk.HeldLetters(r.Context)
	if err != nil {
		return err
	}
	for _, h := range held {
		tasks = append(tasks, task{N: h.N, What: "letters go out soon and can still be stopped", Note: h.RoundName, Link: "/office/rounds/" + h.RoundKey + "/decisions", Since: h.Due})
	}
	sort.SliceStable(tasks, func(i, j int) bool { return tasks[i].Since.Before(tasks[j].Since) })
	lately, err := happenedLately(r, sums)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "officer/today", view.Page{Title: "Today", Nav: "today", Data: map[string]any{
		"Tasks": tasks, "Rounds": shown, "Coming": coming(sums, r.At), "Lately": lately}})
}

// dated is a moment of a round that comes soon.
type dated struct {
	At    time.Time
	What  string
	Round string
	Link  string
	Zone  *time.Location
	Days  int // working days left, today not counted
}

const comingDays = 60

// coming lists the moments of published rounds in the next weeks, soonest first.
func coming(sums []summary, now time.Time) []dated {
	var out []dated
	for _, s := range sums {
		if s.DesignID == nil {
			continue
		}
		today := calendar.DateOf(now, s.Form.Zone)
		for _, m := range s.Form.Design.Calendar {
			at := s.Form.At(m.Key)
			if at.Before(now) || at.After(now.AddDate(0, 0, comingDays)) {
				continue
			}
			out = append(out, dated{at, m.Label, s.Name, "/office/rounds/" + s.Key, s.Form.Zone, calendar.WorkingDaysBetween(today, m.At.Date, nil)})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].At.Before(out[j].At) })
	return out
}

// news are the verbs that an officer wants to hear of without looking for them.
var news = []say.Verb{"sent", "withdraw", "referee-sent", "referee-declined", "marks-sent", "stepped-aside", "late", "late-letter"}

// latest is one line of "lately".
type latest struct {
	happened
	Ref, Title string
	Zone       *time.Location
}

func happenedLately(r *site.Request, sums []summary) ([]latest, error) {
	rows, err := r.Desk.Lately(r.Context, news, 9)
	if err != nil {
		return nil, err
	}
	forms := map[int64]*form.Form{}
	for _, s := range sums {
		forms[s.ID] = s.Form
	}
	plain, of := make([]trail.Row, len(rows)), map[int64]*form.Form{}
	for i, row := range rows {
		plain[i], of[row.ID] = row.Row, forms[row.RoundID]
	}
	told, err := narrate(r, plain, func(row trail.Row) *form.Form { return of[row.ID] })
	if err != nil {
		return nil, err
	}
	out := make([]latest, len(rows))
	for i, row := range rows {
		out[i] = latest{told[i], row.Ref, row.Title, of[row.ID].Zone}
	}
	return out, nil
}

// moves are what a round waits for the office to do.
func moves(r *site.Request, s summary) ([]task, error) {
	cases, err := r.Desk.ReadingCases(r.Context, s.ID)
	if err != nil {
		return nil, err
	}
	var out []task
	count := func(what, link string, is func(desk.ReadingCase) bool) {
		t := task{What: what, Note: s.Name, Link: "/office/rounds/" + s.Key + link}
		for _, c := range cases {
			if is(c) {
				t.N++
				if t.Since.IsZero() || c.ChangedAt.Before(t.Since) {
					t.Since = c.ChangedAt
				}
			}
		}
		if t.N > 0 {
			out = append(out, t)
		}
	}
	if s.Phase == "closed" {
		count("eligible, to hand out for reading", "/reading", func(c desk.ReadingCase) bool { return c.State == lifecycle.Eligible && s.Form.ReadAfter(c.Stage) })
	}
	count("cases lack a reader", "/reading", func(c desk.ReadingCase) bool {
		return c.State == lifecycle.Reading && c.Given < s.Form.Design.ReadersEach
	})
	count("read, to decide", "/decisions", func(c desk.ReadingCase) bool { return c.State == lifecycle.Read })
	count("eligible, to decide", "/decisions", func(c desk.ReadingCase) bool { return c.State == lifecycle.Eligible && !s.Form.ReadAfter(c.Stage) })
	return out, nil
}

// waiting are the wishes for more time, the answered queries and the questions
// about rounds that wait for the office; of one round, or of all when key is "".
func waiting(r *site.Request, key string) ([]task, error) {
	var out []task
	cases := func(list []desk.Waiting, err error, what, where string) error {
		for _, w := range list {
			if key == "" || w.RoundKey == key {
				out = append(out, task{N: 1, What: what, Note: w.Ref + " " + w.Title + ", " + w.RoundName, Link: "/office/applications/" + w.Ref + where, Since: w.Since})
			}
		}
		return err
	}
	list, err := r.Desk.WantTime(r.Context)
	if err := cases(list, err, "asks for more time", "#time"); err != nil {
		return nil, err
	}
	list, err = r.Desk.AnsweredQueries(r.Context)
	if err := cases(list, err, "answered your query", "#queries"); err != nil {
		return nil, err
	}
	if key == "" {
		bodies, err := r.Profiles.Waiting(r.Context, r.DB)
		if err != nil {
			return nil, err
		}
		for _, p := range bodies {
			out = append(out, task{N: 1, What: "organisation to look over", Note: p.Name + ", promised by " + view.When(*p.Promised, r.Profiles.Zone), Link: "/office/profiles/" + strconv.FormatInt(p.ID, 10), Since: *p.SentAt})
		}
	}
	questions, err := r.Desk.OpenEnquiries(r.Context)
	if err != nil {
		return nil, err
	}
	for _, q := range questions {
		if key == "" || q.RoundKey == key {
			out = append(out, task{N: q.N, What: "questions about the round, to answer", Note: q.RoundName, Link: "/office/rounds/" + q.RoundKey + "/questions", Since: q.Since})
		}
	}
	return out, nil
}

// Find searches anything anywhere; a whole number leads to its case at once.
func Find(r *site.Request) error {
	q := r.Query("q")
	var found desk.Found
	if len([]rune(q)) >= 2 {
		var err error
		if found, err = r.Desk.Find(r.Context, q, 50); err != nil {
			return err
		}
		if ref, ok := identifier.ParseRef(q); ok && len(found.Items) > 0 && found.Items[0].Ref == ref {
			return r.See("/office/applications/" + ref)
		}
	}
	return r.Draw(fiber.StatusOK, "officer/find", view.Page{Title: "Found", Data: map[string]any{"Q": q, "Found": found, "Items": found.Items, "Heading": "Place or field"}})
}

// Rounds lists every round.
func Rounds(r *site.Request) error {
	rounds, err := r.Rounds.All(r.Context)
	if err != nil {
		return err
	}
	sums, err := summaries(r, rounds)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "officer/rounds", view.Page{Title: "Rounds", Nav: "rounds", Data: sums})
}
