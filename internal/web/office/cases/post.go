package cases

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/post"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// postPage is what office/cases/post.html draws: all that was written to and fro
// about a case, in one column.
type postPage struct {
	Case  application.Case
	Items []written
	Zone  *time.Location
}

// written is a mail, a query, an answer, a wish, in the order of time.
type written struct {
	At      time.Time
	Who     string // who wrote
	To      string
	Subject string
	Text    string
	Fate    string
	Hot     bool
}

// Post is the whole correspondence of a case.
func Post(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := postPage{Case: r.Case, Zone: f.Zone}
	letters, err := r.Desk.Correspondence(r.Context, r.Case.ID)
	if err != nil {
		return err
	}
	for _, l := range letters {
		w := written{At: l.CreatedAt, Who: r.Funder.Name(), To: l.ToName + ", " + l.To, Subject: l.Subject,
			Text: strings.ReplaceAll(l.Body, post.LinkMark, "(a personal link)")}
		if number := post.TextNumber(l.To); number != "" {
			w.To, w.Subject = l.ToName+", by text message to "+number, "Text message"
		}
		w.Fate, w.Hot = fate(l, f.Zone)
		d.Items = append(d.Items, w)
	}
	list, err := queries(r, f)
	if err != nil {
		return err
	}
	for _, q := range list {
		d.Items = append(d.Items, written{At: q.AskedAt, Who: q.Who, To: r.Case.LeadName, Subject: "Query", Text: q.Text})
		if q.Reply != "" && q.EndedAt != nil {
			d.Items = append(d.Items, written{At: *q.EndedAt, Who: r.Case.LeadName, Subject: "Answer to the query",
				Text: q.Reply})
		}
	}
	supports, err := r.Cases.Supports(r.Context, r.DB, r.Case)
	if err != nil {
		return err
	}
	for _, s := range supports {
		d.Items = append(d.Items, written{At: s.AskedAt, Who: s.By, Subject: "Asked for support", Text: s.Text})
	}
	slices.SortStableFunc(d.Items, func(a, b written) int { return a.At.Compare(b.At) })
	return office.Draw(r, fiber.StatusOK, "office/cases/post", "Correspondence, "+r.Case.Ref, "applications", f, d)
}

// fate says what became of a mail.
func fate(l desk.Mail, zone *time.Location) (says string, hot bool) {
	when := func(t time.Time) string { return t.In(zone).Format("2 January 2006, 15:04") }
	switch {
	case l.Back != nil:
		return "came back " + when(*l.Back) + ": " + l.Bounce, true
	case l.SentAt != nil:
		return "sent " + when(*l.SentAt), false
	case l.State == "held":
		return "goes out " + when(l.Due), false
	}
	return "stopped", false
}

// EndSupport keeps what was done for somebody who asked for support.
func EndSupport(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Cases.EndSupport(ctx, tx, r.Case, id, r.FormValue("note"))
	})
	if no, ok := refusal.Of(err); ok {
		return drawCase(r, fiber.StatusUnprocessableEntity, fault{"support " + strconv.FormatInt(id, 10), no.Sentence()})
	}
	if err != nil {
		return err
	}
	r.Tell("Kept, and told to them by mail.")
	return r.See("/office/applications/" + r.Case.Ref + r.Case.Query() + "#support")
}
