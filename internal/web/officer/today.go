// Package officer holds the desks of the office.
package officer

import (
	"slices"
	"sort"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/identifier"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/core/waiting"
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
	Office int // things that wait for the office: those that Today lists
	Strand view.Picture
	tasks  []task
}

// summaries of rounds, with what waits for the office in each of them.
func summaries(r *site.Request, rounds []round.Round, waits map[int64][]task) ([]summary, error) {
	ids := make([]int64, len(rounds))
	for i, rd := range rounds {
		ids[i] = rd.ID
	}
	counts, err := r.Desk.Counts(r.Context, ids...)
	if err != nil {
		return nil, err
	}
	of := map[int64][]desk.Count{}
	for _, c := range counts {
		of[c.Round] = append(of[c.Round], c)
	}
	var out []summary
	for _, rd := range rounds {
		f, err := r.Rounds.Published(r.Context, r.DB, rd)
		if err != nil {
			return nil, err
		}
		s := summary{Round: rd, Form: f, Phase: phaseOf(r, rd, f), tasks: waits[rd.ID]}
		for _, c := range of[rd.ID] {
			switch {
			case c.State.Is(lifecycle.Drafting):
				s.Drafts += c.N
			case c.State.Is(lifecycle.In):
				s.In += c.N
				s.Asked += c.Asked
			}
		}
		for _, t := range s.tasks {
			s.Office += t.N
		}
		s.Strand = view.Strand(f, r.At, nil, true)
		out = append(out, s)
	}
	return out, nil
}

func phaseOf(r *site.Request, rd round.Round, f *form.Form) string {
	if rd.DesignID == nil {
		return "in design"
	}
	switch f.Window().Phase(r.At) {
	case calendar.Before:
		return "opens"
	case calendar.Open:
		return "open"
	}
	return "closed"
}

// task is one thing the office must do, oldest first.
type task struct {
	N          int
	What, Note string
	Link       string
	Since      time.Time
	Late       bool
}

const (
	shownRounds = 16  // on Today
	listRounds  = 50  // on a page of all rounds
	mostTasks   = 100 // on Today
)

// today is what the page of the day shows.
type today struct {
	Tasks     []task
	MoreTasks int
	Rounds    []summary
	More      int // rounds under way that are not shown
	Coming    []dated
	Lately    []latest
}

// Today is what the office must do now, over all rounds.
func Today(r *site.Request) error {
	seen, err := r.Rounds.Seen(r.Context, r.Sight())
	if err != nil {
		return err
	}
	under, more, err := r.Rounds.UnderWay(r.Context, seen.Whole, r.At.AddDate(0, -1, 0), shownRounds)
	if err != nil {
		return err
	}
	d := today{More: more}
	all, err := moves(r, nil, seen)
	if err != nil {
		return err
	}
	if d.Rounds, err = summaries(r, under, all); err != nil {
		return err
	}
	shown := map[int64]bool{}
	for _, s := range d.Rounds {
		shown[s.ID] = true
		d.Tasks = append(d.Tasks, s.tasks...)
	}
	for id, list := range all {
		if !shown[id] {
			d.Tasks = append(d.Tasks, list...)
		}
	}
	waits, err := wishes(r, "", seen)
	if err != nil {
		return err
	}
	d.Tasks = append(d.Tasks, waits...)
	held, err := r.Desk.HeldLetters(r.Context)
	if err != nil {
		return err
	}
	for _, h := range held {
		if !seen.SeesWhole(h.RoundKey) {
			continue
		}
		d.Tasks = append(d.Tasks, task{N: h.N, What: "letters go out soon and can still be stopped", Note: h.RoundName, Link: "/office/rounds/" + h.RoundKey + "/decisions", Since: h.Due})
	}
	sort.SliceStable(d.Tasks, func(i, j int) bool { return d.Tasks[i].Since.Before(d.Tasks[j].Since) })
	if len(d.Tasks) > mostTasks {
		d.MoreTasks, d.Tasks = len(d.Tasks)-mostTasks, d.Tasks[:mostTasks]
	}
	if d.Lately, err = happenedLately(r, seen.Whole); err != nil {
		return err
	}
	d.Coming = coming(d.Rounds, r.At)
	return r.Draw(fiber.StatusOK, "officer/today", view.Page{Title: "Today", Nav: "today", Data: d})
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
			out = append(out, dated{at, m.Label, s.Name, "/office/rounds/" + s.Key, s.Form.Zone, calendar.WorkingDaysBetween(today, m.At.Date, s.Form.Off)})
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

func happenedLately(r *site.Request, only round.Only) ([]latest, error) {
	rows, err := r.Desk.Lately(r.Context, only, news, 9)
	if err != nil {
		return nil, err
	}
	var ids []int64
	for _, row := range rows {
		ids = append(ids, row.RoundID)
	}
	rounds, err := r.Rounds.Some(r.Context, ids)
	if err != nil {
		return nil, err
	}
	forms := map[int64]*form.Form{}
	for _, rd := range rounds {
		if forms[rd.ID], err = r.Rounds.Published(r.Context, r.DB, rd); err != nil {
			return nil, err
		}
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

// moves are what rounds wait for the office to do, by round; nil rounds are all
// that wait for anything.
func moves(r *site.Request, rounds []round.Round, seen round.Seen) (map[int64][]task, error) {
	one := int64(0)
	if len(rounds) == 1 {
		one = rounds[0].ID
	}
	checks, err := r.Desk.OpenChecksOf(r.Context, one)
	if err != nil {
		return nil, err
	}
	pending, err := r.Desk.Pending(r.Context, one)
	if err != nil {
		return nil, err
	}
	if rounds == nil {
		var ids []int64
		for _, c := range checks {
			ids = append(ids, c.Round)
		}
		for _, p := range pending {
			ids = append(ids, p.Round)
		}
		if rounds, err = r.Rounds.Some(r.Context, ids); err != nil {
			return nil, err
		}
		rounds = slices.DeleteFunc(rounds, func(rd round.Round) bool { return !seen.SeesWhole(rd.Key) })
	}
	out := map[int64][]task{}
	byRound := map[int64][]desk.Pending{}
	for _, p := range pending {
		byRound[p.Round] = append(byRound[p.Round], p)
	}
	for _, rd := range rounds {
		for _, c := range checks {
			if c.Round == rd.ID {
				out[rd.ID] = append(out[rd.ID], task{N: c.N, What: "rules need a person", Note: c.Ref + " " + c.Title, Link: "/office/rounds/" + rd.Key + "/checks", Since: c.Since})
			}
		}
		if len(byRound[rd.ID]) == 0 {
			continue
		}
		f, err := r.Rounds.Published(r.Context, r.DB, rd)
		if err != nil {
			return nil, err
		}
		out[rd.ID] = append(out[rd.ID], readingTasks(rd, f, byRound[rd.ID], r.At)...)
	}
	return out, nil
}

// readingTasks are what a round's reading waits for the office to do.
func readingTasks(rd round.Round, f *form.Form, pending []desk.Pending, now time.Time) (out []task) {
	for _, w := range waiting.Of(f, pendingCases(pending), now) {
		t := task{N: w.N, What: say.Waits(f, w.Kind), Note: rd.Name, Link: "/office/rounds/" + rd.Key + "/reading", Since: w.Since}
		if w.Kind >= waiting.Decide {
			t.Link = "/office/rounds/" + rd.Key + "/decisions"
		}
		out = append(out, t)
	}
	return out
}

// pendingCases are pending ones without their rounds.
func pendingCases(list []desk.Pending) []waiting.Pending {
	out := make([]waiting.Pending, len(list))
	for i, p := range list {
		out[i] = p.Pending
	}
	return out
}

// wishes are those for more time, the answered queries and the questions
// about rounds that wait for the office; of one round, or of all when key is "".
func wishes(r *site.Request, key string, seen round.Seen) ([]task, error) {
	var out []task
	add := func(list []desk.Waiting, err error, what, where string) error {
		for _, w := range list {
			if (key == "" || w.RoundKey == key) && seen.SeesWhole(w.RoundKey) {
				out = append(out, task{N: 1, What: what, Note: w.Ref + " " + w.Title + ", " + w.RoundName, Link: "/office/applications/" + w.Ref + where, Since: w.Since})
			}
		}
		return err
	}
	list, err := r.Desk.WantTime(r.Context)
	if err := add(list, err, "asks for more time", "#time"); err != nil {
		return nil, err
	}
	list, err = r.Desk.AnsweredQueries(r.Context)
	if err := add(list, err, "answered your query", "#queries"); err != nil {
		return nil, err
	}
	if key == "" && r.May(access.LookOver) {
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
		if (key == "" || q.RoundKey == key) && seen.SeesWhole(q.RoundKey) {
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
		seen, err := r.Rounds.Seen(r.Context, r.Sight())
		if err != nil {
			return err
		}
		if found, err = r.Desk.Find(r.Context, seen.Rounds, q, 50); err != nil {
			return err
		}
		found.Keep(r.Sight(), seen.Whole)
		if ref, ok := identifier.ParseRef(q); ok && len(found.Items) > 0 && found.Items[0].Ref == ref {
			return r.See("/office/applications/" + ref)
		}
	}
	return r.Draw(fiber.StatusOK, "officer/find", view.Page{Title: "Found", Data: map[string]any{"Q": q, "Found": found, "Items": found.Items, "Heading": "Place or field"}})
}

// allRounds is a page of the list of rounds.
type allRounds struct {
	Rounds     []summary
	Prev, Next string
}

// Rounds lists every round, so many at a time.
func Rounds(r *site.Request) error {
	from, _ := strconv.Atoi(r.Query("from"))
	from = max(from, 0)
	seen, err := r.Rounds.Seen(r.Context, r.Sight())
	if err != nil {
		return err
	}
	rounds, err := r.Rounds.Page(r.Context, seen.Rounds, from, listRounds+1)
	if err != nil {
		return err
	}
	var d allRounds
	if from > 0 {
		d.Prev = "?from=" + strconv.Itoa(max(from-listRounds, 0))
	}
	if len(rounds) > listRounds {
		rounds, d.Next = rounds[:listRounds], "?from="+strconv.Itoa(from+listRounds)
	}
	waits, err := moves(r, rounds, seen)
	if err != nil {
		return err
	}
	if d.Rounds, err = summaries(r, rounds, waits); err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "officer/rounds", view.Page{Title: "Rounds", Nav: "rounds", Data: d})
}
