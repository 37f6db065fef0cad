package rounds

import (
	"context"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/reference"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// askedPage is what office/rounds/asked.html draws.
type askedPage struct {
	Counts  desk.BoardCount
	Rows    []boardRow
	Owing   []desk.Owing
	Parts   []boardPart
	Show    string
	Email   string
	Name    string // of the person whose requests alone are shown
	Labels  map[form.Key]string
	Zone    *time.Location
	More    string // address of the next page; "" for none
	Back    string
	From    int
	To      int
	Self    string
	Work    *work.Work
	Nudges  bool // whoever looks may nudge
	Awaited int  // on this view
}

// boardRow is one request with what stands beside it.
type boardRow struct {
	desk.BoardRow
	Label string
	Over  bool // its time is over
	Soon  bool // in two days
}

// boardPart is one part of the board, to be looked at alone.
type boardPart struct {
	Key, Label string
	N          int
	Here       bool
}

// boardOf reads what of the board is asked for.
func boardOf(r *site.Request, f *form.Form) (desk.BoardFilter, map[form.Key]string) {
	b := desk.BoardFilter{
		Show:  r.Query("show"),
		Email: r.Query("who"),
		Due:   map[form.Key]time.Time{},
		Own:   map[form.Key]bool{},
		Most:  office.PerPage + 1,
	}
	if !desk.Shows(b.Show) {
		b.Show = ""
	}
	labels := map[form.Key]string{}
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			if q := &s.Questions[i]; q.AsksPeople() {
				b.Due[q.Key], labels[q.Key] = f.Due(q, f.StageWindow(s.Stage).Closes), q.Label
				b.Own[q.Key] = q.Ask != nil && !q.Ask.By.Zero()
			}
		}
	}
	if n, err := strconv.Atoi(r.Query("from")); err == nil && n > 0 {
		b.Offset = n
	}
	return b, labels
}

// Asked is the board of a round: everybody who answers by a link, over all cases.
func Asked(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	b, labels := boardOf(r, f)
	d := askedPage{Show: b.Show, Email: b.Email, Labels: labels, Zone: f.Zone, Nudges: r.May(access.RemindPeople)}
	if d.Counts, err = r.Desk.BoardCounts(r.Context, r.Round.ID, b); err != nil {
		return err
	}
	rows, err := r.Desk.Board(r.Context, r.Round.ID, b)
	if err != nil {
		return err
	}
	self := url.Values{"show": {b.Show}, "who": {b.Email}}
	d.Self = "?" + self.Encode()
	if len(rows) > office.PerPage {
		rows = rows[:office.PerPage]
		self.Set("from", strconv.Itoa(b.Offset+office.PerPage))
		d.More = "?" + self.Encode()
	}
	if b.Offset > 0 {
		self.Set("from", strconv.Itoa(max(b.Offset-office.PerPage, 0)))
		d.Back = "?" + self.Encode()
	}
	d.From, d.To = b.Offset+1, b.Offset+len(rows)
	for _, x := range rows {
		d.Rows = append(d.Rows, boardRow{x, labels[x.Question], !r.At.Before(x.Due), x.Due.Sub(r.At) < 48*time.Hour})
		if b.Email != "" {
			d.Name = x.Name
		}
	}
	c := d.Counts
	for _, p := range []boardPart{{"", "open", c.Awaited + c.Bounced + c.Declined + c.ToAsk, false},
		{"unsent", "put up, not sent", c.Unsent, false}, {"bounced", "mail came back", c.Bounced, false},
		{"declined", "cannot do it", c.Declined, false}, {"in", "in", c.In, false}} {
		p.Here = p.Key == b.Show
		d.Parts = append(d.Parts, p)
	}
	if b.Email == "" && b.Offset == 0 {
		if d.Owing, err = r.Desk.Owing(r.Context, r.Round.ID, b); err != nil {
			return err
		}
	}
	if d.Work, err = r.Work.Latest(r.Context, r.Round.ID, work.Reminding); err != nil {
		return err
	}
	return office.Draw(r, fiber.StatusOK, "office/rounds/asked", "People asked, "+r.Round.Name, "asked", f, d)
}

// nudgePage is what office/rounds/askednudge.html draws.
type nudgePage struct {
	Writes  []nudged
	Passes  []nudged
	More    int // that would be written to and are not listed
	IDs     string
	Subject string // of the first mail
	Body    string
	Back    string
	Zone    *time.Location
}

// nudged is one person before a nudge.
type nudged struct {
	Name, Email, Ref, Title, Says string
	Due                           time.Time
}

// mostShown is how many people a preview lists.
const mostShown = 100

// AskNudge shows what a reminder to everybody of this view would do, before it
// is done: who is written to, who is passed over and why, and how the mail reads.
func AskNudge(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	b, _ := boardOf(r, f)
	if b.Show == "" {
		b.Show = "awaited"
	}
	b.Offset, b.Most = 0, mostNudged
	rows, err := r.Desk.Board(r.Context, r.Round.ID, b)
	if err != nil {
		return err
	}
	var entries []int64
	for _, x := range rows {
		entries = append(entries, x.EntryID)
	}
	cases, err := r.Cases.ByEntries(r.Context, r.DB, entries)
	if err != nil {
		return err
	}
	d := nudgePage{
		Zone: f.Zone,
		Back: "/office/rounds/" + r.Round.Key + "/asked?" + url.Values{"show": {r.Query("show")},
			"who": {b.Email}}.Encode(),
	}
	var ids []byte
	for _, x := range rows {
		c := cases[x.EntryID]
		cf, err := r.Rounds.Form(r.Context, r.DB, c.DesignID)
		if err != nil {
			return err
		}
		ref := requestOf(x)
		n := nudged{Name: x.Name, Email: x.Email, Ref: x.Ref, Title: x.Title, Due: x.Due}
		why := ref.ByHand(cf, c, r.At)
		if why != "" || !ref.Takes(cf, c, c.State.Open() && r.At.Before(ref.Due(cf, c)), r.At) {
			n.Says = say.NotReminded(x.Name, why, ref.Reminding(cf, c).Most)
			if len(d.Passes) < mostShown {
				d.Passes = append(d.Passes, n)
			}
			continue
		}
		if d.Subject == "" {
			d.Subject, d.Body = reminderOf(r, cf, c, ref)
		}
		ids = strconv.AppendInt(append(ids, ' '), x.ID, 10)
		if len(d.Writes) < mostShown {
			d.Writes = append(d.Writes, n)
		} else {
			d.More++
		}
	}
	d.IDs = string(ids)
	return office.Draw(r, fiber.StatusOK, "office/rounds/askednudge", "Remind, "+r.Round.Name, "asked", f, d)
}

// mostNudged is how many people one act reminds.
const mostNudged = 10_000

func requestOf(x desk.BoardRow) reference.Referee {
	return reference.Referee{
		ID:         x.ID,
		EntryID:    x.EntryID,
		Question:   x.Question,
		Name:       x.Name,
		Email:      x.Email,
		State:      x.State,
		StateAt:    x.StateAt,
		RemindedAt: x.RemindedAt,
		Reminders:  x.Reminders,
		Until:      x.Until,
		BouncedAt:  x.BouncedAt,
	}
}

func reminderOf(r *site.Request, f *form.Form, c application.Case, x reference.Referee) (subject, body string) {
	m := x.Reminding(f, c)
	return say.Reminder(say.RequestOf{Form: f, Question: f.Question(x.Question), Name: x.Name, Lead: c.LeadName,
		Round: c.RoundName, Title: c.Title, Due: m.Due, Link: "(their own link stands here)", Sender: r.Post.Name()}, x.State,
		m.Had+1 >= m.Most)
}

// NudgeAsked reminds those who were shown.
func NudgeAsked(r *site.Request) error {
	var ids []int64
	for _, s := range strings.Fields(r.FormValue("ids")) {
		if id, err := strconv.ParseInt(s, 10, 64); err == nil && len(ids) < mostNudged {
			ids = append(ids, id)
		}
	}
	back := "/office/rounds/" + r.Round.Key + "/asked"
	var later int64
	var written int
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		if len(ids) > work.Inline {
			later, err = r.Referees.NudgeLater(ctx, tx, r.Round, ids)
			return err
		}
		written, err = r.Referees.Nudge(ctx, tx, r.Round, ids, nil)
		return err
	})
	if err != nil {
		return err
	}
	if later != 0 {
		r.Tell(
			phrase.Count(
				int64(len(ids)),
				"reminder is",
				"reminders are",
			) + " being written. You can leave this page.",
		)
		return r.See(back)
	}
	r.Tell(reference.Nudged(written, len(ids)) + ".")
	return r.See(back)
}
