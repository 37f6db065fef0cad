package office

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/fee"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/say"
	"ulvant/core/waiting"
	"ulvant/internal/bulk"
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
	Office int // things that wait for the asker: those that Today lists
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
			if t.Theirs(r.Roles, r.At) {
				s.Office += t.N
			}
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
	Needs      access.Action // whose it is to do: of those who may do this
	About      access.About  // where
}

// Theirs reports a task that somebody with these roles can do.
func (t Task) Theirs(roles []access.Held, at time.Time) bool {
	return t.Needs == "" || t.Needs.Theirs(access.Of(roles, t.About, at))
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
	polls, err := r.Ballots.Polls(r.Context, r.DB, one)
	if err != nil {
		return nil, err
	}
	if rounds == nil {
		var ids []int64
		for id := range polls {
			ids = append(ids, id)
		}
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
				out[rd.ID] = append(out[rd.ID], Task{N: c.N, What: say.RulesWait(c.N), Note: c.Ref + " " + c.Title,
					Link: "/office/rounds/" + rd.Key + "/checks", Since: c.Since, Needs: access.SettleCheck, About: aboutOf(rd)})
			}
		}
		poll, polled := polls[rd.ID]
		if len(byRound[rd.ID]) == 0 && !polled {
			continue
		}
		f, err := r.Rounds.Published(r.Context, r.DB, rd)
		if err != nil {
			return nil, err
		}
		if kind, n, since := waiting.OfPoll(f, poll, r.At); kind != waiting.Nothing {
			out[rd.ID] = append(out[rd.ID], Task{N: n, What: say.PollWaits(kind, n), Note: rd.Name, Since: since,
				Link: "/office/rounds/" + rd.Key + "/vote", Needs: access.Decide, About: aboutOf(rd)})
		}
		out[rd.ID] = append(out[rd.ID], readingTasks(rd, f, byRound[rd.ID], r.At)...)
	}
	return out, nil
}

func aboutOf(rd round.Round) access.About { return access.About{Programme: rd.Programme, Round: rd.ID} }

// readingTasks are what a round's reading waits for the office to do.
func readingTasks(rd round.Round, f *form.Form, pending []desk.Pending, now time.Time) (out []Task) {
	for _, w := range waiting.Of(f, PendingCases(pending), now) {
		t := Task{N: w.N, What: say.Waits(f, w.Kind, w.N), Note: rd.Name, Link: "/office/rounds/" + rd.Key + "/reading",
			Since: w.Since, Needs: access.HandOut, About: aboutOf(rd)}
		switch {
		case w.Kind >= waiting.Decide:
			t.Needs, t.Link = access.Decide, "/office/rounds/"+rd.Key+"/decisions"
		case w.Kind == waiting.Meet:
			t.Needs, t.Link = access.MeetPeople, "/office/rounds/"+rd.Key+"/interviews"
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
	sight := r.Sight()
	add := func(list []desk.Waiting, err error, what, where string, needs access.Action) error {
		for _, w := range list {
			if (key == "" || w.RoundKey == key) && (seen.SeesWhole(w.RoundKey) || sight.Shows(w.RoundID, w.Place, nil)) {
				out = append(out, Task{N: 1, What: what, Note: w.Ref + " " + w.Title + ", " + w.RoundName,
					Link: "/office/applications/" + w.Ref + where, Since: w.Since, Needs: needs, About: w.About()})
			}
		}
		return err
	}
	list, err := r.Desk.WantTime(r.Context)
	if err := add(list, err, "asks for more time", "#time", access.GiveTime); err != nil {
		return nil, err
	}
	list, err = r.Desk.WantSupport(r.Context)
	if err := add(list, err, "asks for support", "#support", access.WriteTo); err != nil {
		return nil, err
	}
	list, err = r.Desk.AnsweredQueries(r.Context)
	if err := add(list, err, "answered your query", "#queries", access.AskQuery); err != nil {
		return nil, err
	}
	fees, err := r.Desk.FeeTasks(r.Context, r.At)
	if err != nil {
		return nil, err
	}
	for _, t := range fees {
		if (key == "" || t.RoundKey == key) && seen.SeesWhole(t.RoundKey) {
			needs := access.SettleFee
			if t.Need == fee.ToAgree {
				needs = access.AgreeBack
			}
			out = append(out, Task{N: t.N, What: say.FeeTask(t.Need, t.N), Note: t.RoundName,
				Link: "/office/rounds/" + t.RoundKey + "/fees", Since: t.Since, Needs: needs,
				About: access.About{Programme: t.Programme, Round: t.RoundID}})
		}
	}
	if key == "" && r.May(access.LookOver) {
		bodies, err := r.Profiles.Waiting(r.Context, r.DB)
		if err != nil {
			return nil, err
		}
		for _, p := range bodies {
			out = append(out, Task{N: 1, What: "organisation to look over",
				Note: p.Name + ", promised by " + view.When(*p.Promised, r.Profiles.Zone()), Link: "/office/profiles/" +
					strconv.FormatInt(p.ID, 10), Since: *p.SentAt})
		}
	}
	turned, err := r.Program.Checks.TurnedRegisters(r.Context, r.DB)
	if err != nil {
		return nil, err
	}
	for _, t := range turned {
		if (key == "" || t.RoundKey == key) && (seen.SeesWhole(t.RoundKey) || sight.Shows(t.RoundID, t.Place, nil)) {
			out = append(out, Task{N: 1, What: "register says otherwise than when it was sent", Note: t.Ref + " " + t.Title,
				Link: "/office/applications/" + t.Ref + "#registers", Since: t.Since, Needs: access.SettleCheck,
				About: access.About{Programme: t.Programme, Round: t.RoundID, Place: t.Place}})
		}
	}
	beyond, err := r.Connected.OpenOf(r.Context, r.DB, r.At)
	if err != nil {
		return nil, err
	}
	for _, b := range beyond {
		if (key == "" || b.RoundKey == key) && seen.SeesWhole(b.RoundKey) {
			out = append(out, Task{N: b.N, What: say.InCommon(b.N), Note: b.RoundName,
				Link: "/office/rounds/" + b.RoundKey + "/checks/people", Since: b.Since, Needs: access.RuleBeyond,
				About: access.About{Programme: b.Programme, Round: b.RoundID}})
		}
	}
	ofRounds := func(list []desk.OfRound, err error, what func(int) string, where string, needs access.Action) error {
		for _, q := range list {
			if (key == "" || q.RoundKey == key) && seen.SeesWhole(q.RoundKey) {
				out = append(out, Task{N: q.N, What: what(q.N), Note: q.RoundName, Link: "/office/rounds/" + q.RoundKey + where,
					Since: q.Since,
					Needs: needs, About: access.About{Programme: q.Programme, Round: q.RoundID}})
			}
		}
		return err
	}
	back, err := r.Desk.OffersBack(r.Context)
	if err := ofRounds(back, err, say.OffersBack, "/offers",
		access.Decide); err != nil {
		return nil, err
	}
	questions, err := r.Desk.OpenEnquiries(r.Context)
	return out, ofRounds(questions, err, say.Enquiries, "/questions", access.AnswerAsked)
}

// Own are what waits for the asker alone: notes that name them, what they hold on
// many cases and can still stop, roles they are asked to take, and those they are
// asked to stand in for.
func Own(r *site.Request) ([]Task, error) {
	var out []Task
	named, err := r.Colleagues.MentionsOf(r.Context, r.DB, r.Account.ID, mostOwn)
	if err != nil {
		return nil, err
	}
	for _, m := range named {
		out = append(out, Task{N: 1, What: m.By + " names you in a note", Note: "“" + m.Text + "” · " + m.Title,
			Link: "/office/applications/" + m.Ref, Since: m.At})
	}
	held, err := r.Bulk.HeldBy(r.Context, r.DB, r.Account.ID)
	if err != nil {
		return nil, err
	}
	for _, b := range held {
		t, err := r.Bulk.Tally(r.Context, r.DB, b.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, Task{N: t[bulk.Would], What: say.Held(t[bulk.Would],
			b.DueAt.In(r.Profiles.Zone()).Format("15:04")), Note: strings.TrimSuffix(b.Act.Label(), "…") + ": " + b.Says,
			Link: "/office/bulk/" + strconv.FormatInt(b.ID, 10), Since: b.BegunAt})
	}
	turns, err := r.Desk.TurnTasks(r.Context, r.Roles, r.At)
	if err != nil {
		return nil, err
	}
	for _, t := range turns {
		note := t.Round
		if t.DueAt != nil {
			note += ", by " + view.When(*t.DueAt, r.Profiles.Zone())
		}
		out = append(out, Task{N: t.N, What: say.ToReview(t.N), Note: note,
			Link: "/office/rounds/" + t.RoundKey + "/turns", Since: t.Since})
	}
	me := "/office/people/" + strconv.FormatInt(r.Account.ID, 10)
	offers, err := r.People.Offers(r.Context, r.DB, r.Account.Email)
	if err != nil {
		return nil, err
	}
	for _, o := range offers {
		out = append(out, Task{N: 1, What: "role you are asked to take", Note: o.By + " asks: " + string(o.Role), Link: me,
			Since: o.At})
	}
	aways, err := r.Colleagues.Aways(r.Context, r.DB, r.Account.ID, r.At.In(r.Profiles.Zone()))
	if err != nil {
		return nil, err
	}
	for _, w := range aways {
		if w.Cover == r.Account.ID && w.AgreedAt == nil {
			out = append(out, Task{N: 1, What: "stand in for " + w.Name + "?", Note: "from " + w.From.Format("2 January") +
				" to " +
				w.To.Format("2 January"), Link: me, Since: r.At})
		}
	}
	return out, nil
}

// mostOwn notes that name the asker are listed one by one.
const mostOwn = 30

// InPart are the rules that need a person among the parts of rounds that the asker
// sees, and checks.
func InPart(r *site.Request) ([]Task, error) {
	var out []Task
	for id, parts := range r.Sight().Parts {
		rd, err := r.Rounds.ByID(r.Context, r.DB, id)
		if err != nil {
			return nil, err
		}
		for _, p := range parts {
			about := access.About{Programme: rd.Programme, Round: rd.ID, Place: p.Place}
			link := "/office/rounds/" + rd.Key + "/applications"
			if p.Body != "" {
				continue // it has no act of its own; Parts leads to its cases
			}
			n, since, err := r.Desk.OpenChecksAt(r.Context, id, p.Place)
			if err != nil {
				return nil, err
			}
			if n > 0 {
				out = append(out, Task{N: n, What: say.RulesWait(n), Note: rd.Name + ", " + p.Place,
					Link: link + "?if=tosettle~least~1", Since: since, Needs: access.SettleCheck, About: about})
			}
		}
	}
	return out, nil
}

// Partly is a part of a round that the asker sees, where they do not see all of it.
type Partly struct {
	Round, What string
	N           int
	Link        string
}

// Parts of rounds that the asker sees, with how many cases are in each.
func Parts(r *site.Request) ([]Partly, error) {
	var out []Partly
	for id, parts := range r.Sight().Parts {
		rd, err := r.Rounds.ByID(r.Context, r.DB, id)
		if err != nil {
			return nil, err
		}
		f, err := r.Rounds.Published(r.Context, r.DB, rd)
		if err != nil {
			return nil, err
		}
		for _, p := range parts {
			x := Partly{Round: rd.Name, What: p.Place, Link: "/office/rounds/" + rd.Key + "/applications"}
			if p.Body != "" {
				x.What = f.Design.BodyLabel(p.Body)
			}
			t, err := r.Desk.RegisterTotals(r.Context, desk.Sought{Round: id, Rounds: round.Only{},
				Parts: []desk.Part{{Round: id, Place: p.Place, Body: p.Body}}})
			if err != nil {
				return nil, err
			}
			x.N = t.N
			out = append(out, x)
		}
	}
	slices.SortFunc(out, func(a, b Partly) int { return strings.Compare(a.Round+a.What, b.Round+b.What) })
	return out, nil
}
