package office

import (
	"slices"
	"strconv"
	"time"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/core/waiting"
	"ulvant/internal/desk"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// Summary of a round for lists.
type Summary struct {
	round.Round
	Form   *form.Form
	Phase  string
	In     int // sent and not withdrawn
	Drafts int
	Asked  int64
	Office int // things that wait for the office: those that Today lists
	Strand view.Picture
	Tasks  []Task
}

// Summaries of rounds, with what waits for the office in each of them.
func Summaries(r *site.Request, rounds []round.Round, waits map[int64][]Task) ([]Summary, error) {
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
	var out []Summary
	for _, rd := range rounds {
		f, err := r.Rounds.Published(r.Context, r.DB, rd)
		if err != nil {
			return nil, err
		}
		s := Summary{Round: rd, Form: f, Phase: phaseOf(r, rd, f), Tasks: waits[rd.ID]}
		for _, c := range of[rd.ID] {
			switch {
			case c.State.Is(lifecycle.Drafting):
				s.Drafts += c.N
			case c.State.Is(lifecycle.In):
				s.In += c.N
				s.Asked += c.Asked
			}
		}
		for _, t := range s.Tasks {
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

// Task is one thing the office must do, oldest first.
type Task struct {
	N          int
	What, Note string
	Link       string
	Since      time.Time
	Late       bool
}

// Moves are what rounds wait for the office to do, by round; nil rounds are all
// that wait for anything.
func Moves(r *site.Request, rounds []round.Round, seen round.Seen) (map[int64][]Task, error) {
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
	out := map[int64][]Task{}
	byRound := map[int64][]desk.Pending{}
	for _, p := range pending {
		byRound[p.Round] = append(byRound[p.Round], p)
	}
	for _, rd := range rounds {
		for _, c := range checks {
			if c.Round == rd.ID {
				out[rd.ID] = append(out[rd.ID], Task{N: c.N, What: "rules need a person", Note: c.Ref + " " + c.Title,
					Link: "/office/rounds/" + rd.Key + "/checks", Since: c.Since})
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
func readingTasks(rd round.Round, f *form.Form, pending []desk.Pending, now time.Time) (out []Task) {
	for _, w := range waiting.Of(f, PendingCases(pending), now) {
		t := Task{N: w.N, What: say.Waits(f, w.Kind), Note: rd.Name, Link: "/office/rounds/" + rd.Key + "/reading",
			Since: w.Since}
		if w.Kind >= waiting.Decide {
			t.Link = "/office/rounds/" + rd.Key + "/decisions"
		}
		out = append(out, t)
	}
	return out
}

// PendingCases are pending ones without their rounds.
func PendingCases(list []desk.Pending) []waiting.Pending {
	out := make([]waiting.Pending, len(list))
	for i, p := range list {
		out[i] = p.Pending
	}
	return out
}

// Wishes are those for more time, the answered queries and the questions
// about rounds that wait for the office; of one round, or of all when key is "".
func Wishes(r *site.Request, key string, seen round.Seen) ([]Task, error) {
	var out []Task
	add := func(list []desk.Waiting, err error, what, where string) error {
		for _, w := range list {
			if (key == "" || w.RoundKey == key) && seen.SeesWhole(w.RoundKey) {
				out = append(out, Task{N: 1, What: what, Note: w.Ref + " " + w.Title + ", " + w.RoundName,
					Link: "/office/applications/" + w.Ref + where, Since: w.Since})
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
	fees, err := r.Desk.FeeTasks(r.Context, r.At)
	if err != nil {
		return nil, err
	}
	for _, t := range fees {
		if (key == "" || t.RoundKey == key) && seen.SeesWhole(t.RoundKey) {
			out = append(out, Task{N: t.N, What: say.FeeTask(t.Need), Note: t.RoundName,
				Link: "/office/rounds/" + t.RoundKey + "/fees", Since: t.Since})
		}
	}
	if key == "" && r.May(access.LookOver) {
		bodies, err := r.Profiles.Waiting(r.Context, r.DB)
		if err != nil {
			return nil, err
		}
		for _, p := range bodies {
			out = append(out, Task{N: 1, What: "organisation to look over",
				Note: p.Name + ", promised by " + view.When(*p.Promised, r.Profiles.Zone), Link: "/office/profiles/" +
					strconv.FormatInt(p.ID, 10), Since: *p.SentAt})
		}
	}
	questions, err := r.Desk.OpenEnquiries(r.Context)
	if err != nil {
		return nil, err
	}
	for _, q := range questions {
		if (key == "" || q.RoundKey == key) && seen.SeesWhole(q.RoundKey) {
			out = append(out, Task{N: q.N, What: "questions about the round, to answer", Note: q.RoundName,
				Link: "/office/rounds/" + q.RoundKey + "/questions", Since: q.Since})
		}
	}
	return out, nil
}
