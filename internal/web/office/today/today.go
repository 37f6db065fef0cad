// Package today is the day of the office: what each who works there must do now.
package today

import (
	"sort"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/identifier"
	"ulvant/core/say"
	"ulvant/internal/desk"
	"ulvant/internal/round"
	"ulvant/internal/trail"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
	"ulvant/internal/web/office"
)

const (
	shownRounds = 16  // on Today
	listRounds  = 50  // on a page of all rounds
	mostTasks   = 100 // on Today
)

// today is what the page of the day shows.
type today struct {
	Tasks     []office.Task
	MoreTasks int
	Others    int  // tasks that wait for colleagues, whose roles they are of
	Unsaid    bool // nobody has said yet what holds for the office, and the asker may
	Rounds    []office.Summary
	Parts     []office.Partly // of rounds that are seen in part
	More      int             // rounds under way that are not shown
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
	all, err := office.Moves(r, nil, seen)
	if err != nil {
		return err
	}
	if d.Rounds, err = office.Summaries(r, under, all); err != nil {
		return err
	}
	shown := map[int64]bool{}
	for _, s := range d.Rounds {
		shown[s.ID] = true
		d.Tasks = append(d.Tasks, s.Tasks...)
	}
	for id, list := range all {
		if !shown[id] {
			d.Tasks = append(d.Tasks, list...)
		}
	}
	waits, err := office.Wishes(r, "", seen)
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
		d.Tasks = append(d.Tasks, office.Task{N: h.N, What: say.LettersHeld(h.N),
			Note: h.RoundName, Link: "/office/rounds/" + h.RoundKey + "/decisions", Since: h.Due, Needs: access.HoldLetters,
			About: access.About{Programme: h.Programme, Round: h.RoundID}})
	}
	inPart, err := office.InPart(r)
	if err != nil {
		return err
	}
	if d.Parts, err = office.Parts(r); err != nil {
		return err
	}
	own, err := office.Own(r)
	if err != nil {
		return err
	}
	found := append(d.Tasks, inPart...)
	d.Tasks = own
	for _, t := range found {
		if t.Theirs(r.Roles, r.At) {
			d.Tasks = append(d.Tasks, t)
		} else {
			d.Others += t.N
		}
	}
	d.Unsaid = r.Funder.Version() == 0 && r.May(access.SetOffice)
	sort.SliceStable(d.Tasks, func(i, j int) bool { return d.Tasks[i].Since.Before(d.Tasks[j].Since) })
	if len(d.Tasks) > mostTasks {
		d.MoreTasks, d.Tasks = len(d.Tasks)-mostTasks, d.Tasks[:mostTasks]
	}
	if d.Lately, err = happenedLately(r, seen.Whole); err != nil {
		return err
	}
	d.Coming = coming(d.Rounds, r.At)
	return r.Draw(fiber.StatusOK, "office/today/today", view.Page{Title: "Today", Nav: "today", Data: d})
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
func coming(sums []office.Summary, now time.Time) []dated {
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
			out = append(out, dated{at, m.Label, s.Name, "/office/rounds/" + s.Key, s.Form.Zone,
				calendar.WorkingDaysBetween(today, m.At.Date, s.Form.Off)})
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].At.Before(out[j].At) })
	return out
}

// news are the verbs that an officer wants to hear of without looking for them.
var news = []say.Verb{"sent", "withdraw", "referee-sent", "referee-declined", "marks-sent", "stepped-aside", "late",
	"late-letter"}

// latest is one line of "lately".
type latest struct {
	casefile.Happened
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
	told, err := casefile.Narrate(r, plain, func(row trail.Row) *form.Form { return of[row.ID] })
	if err != nil {
		return nil, err
	}
	out := make([]latest, len(rows))
	for i, row := range rows {
		out[i] = latest{told[i], row.Ref, row.Title, of[row.ID].Zone}
	}
	return out, nil
}

// findPage is what office/today/find.html draws.
type findPage struct {
	Q       string
	Found   desk.Found
	Items   []desk.Item
	Heading string
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
	return r.Draw(fiber.StatusOK, "office/today/find", view.Page{Title: "Found",
		Data: findPage{Q: q, Found: found, Items: found.Items, Heading: "Place or field"}})
}
