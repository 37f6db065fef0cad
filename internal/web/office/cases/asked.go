package cases

import (
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/reference"
	"ulvant/internal/sealcopy"
	"ulvant/internal/web/kit/site"
)

// askedRow is somebody who answers for the case by a link, as the office sees them.
type askedRow struct {
	reference.Referee
	Label  string
	Due    time.Time
	Awaits bool // something may still come
}

// askedOf fills in who was asked, and what something by post can answer.
func askedOf(r *site.Request, f *form.Form, d *casePage) error {
	list, err := r.Referees.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	d.Typed = map[string]string{"at": r.Params("id")}
	for _, k := range []string{"for", "name", "arrived", "dated", "from", "to", "why", "until"} {
		d.Typed[k] = r.FormValue(k)
	}
	d.TakesLetters = r.May(access.TakeLetters) && (r.Case.State.Open() || reference.Afterwards(r.Case))
	for _, x := range list {
		q := f.Question(x.Question)
		if x.State == form.Replaced || q == nil {
			continue
		}
		row := askedRow{x, q.Label, x.Due(f, r.Case), !x.Sent() && x.State != form.ToAsk}
		d.Referees = append(d.Referees, row)
		if !x.Sent() {
			d.Posts = append(d.Posts, form.Option{Key: form.Key(string(q.Key) + ":" + strconv.FormatInt(x.ID, 10)),
				Label: q.Label + ", asked of " + x.Name})
		}
	}
	for _, s := range f.Design.Sections {
		for i := range s.Questions {
			if q := &s.Questions[i]; q.AsksPeople() {
				d.Posts = append(d.Posts, form.Option{Key: q.Key, Label: q.Label + ", of somebody not asked by mail"})
			}
		}
	}
	return nil
}

// LetterTime gives somebody who answers by a link more time.
func LetterTime(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	until, err := time.ParseInLocation("2006-01-02T15:04", r.FormValue("until"), f.Zone)
	if err != nil {
		return drawCase(r, fiber.StatusUnprocessableEntity,
			fault{"asked", "Choose the day and the hour until when it is taken."})
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Referees.MoreTime(ctx, tx, r.Case, id, until, r.FormValue("why"))
	})
	return afterAsked(r, err, "They have longer, and are told so with a new link.")
}

// Enter puts in what came by post.
func Enter(r *site.Request) error {
	p := reference.ByPost{Name: r.FormValue("name"), Knows: "came by post", Why: r.FormValue("why")}
	question, id, _ := strings.Cut(r.FormValue("for"), ":")
	p.Referee, _ = strconv.ParseInt(id, 10, 64)
	wrong := func(says string) error { return drawCase(r, fiber.StatusUnprocessableEntity, fault{"asked", says}) }
	for _, x := range []struct {
		raw  string
		into *calendar.Date
	}{{r.FormValue("arrived"), &p.Arrived}, {r.FormValue("dated"), &p.Dated}} {
		if s := strings.TrimSpace(x.raw); s != "" {
			var ok bool
			if *x.into, ok = calendar.ParseDate(s); !ok {
				return wrong("The day “" + s + "” cannot be read; write it like 9 April 2027.")
			}
		}
	}
	for _, y := range []struct {
		raw  string
		into *int
	}{{r.FormValue("from"), &p.From}, {r.FormValue("to"), &p.To}} {
		if s := strings.TrimSpace(y.raw); s != "" {
			n, err := strconv.Atoi(s)
			if err != nil || n < 1900 || n > 2999 {
				return wrong("The year “" + s + "” cannot be read; write it like 2024.")
			}
			*y.into = n
		}
	}
	h, body, err := r.Upload("file")
	if err != nil {
		return wrong("Choose its scan first.")
	}
	defer body.Close()
	p.File, p.Size, p.Body = h.Filename, h.Size, body
	ctx, cancel := r.UploadContext()
	defer cancel()
	m, err := r.Referees.Enter(ctx, r.Actor(), r.At, r.Case, form.Key(question), p)
	if err == nil && !reference.Opens(m) {
		return wrong("“" + m.Name + "” is neither a PDF nor a picture that can be opened here. Scan it again.")
	}
	return afterAsked(r, err, "It is put in, and counts like one that came by its link.")
}

func afterAsked(r *site.Request, err error, says string) error {
	if no, ok := refusal.Of(err); ok && no.Kind != refusal.KindMissing {
		return drawCase(r, fiber.StatusUnprocessableEntity, fault{"asked", no.Sentence()})
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See("/office/applications/" + r.Case.Ref + r.Case.Query() + "#asked")
}

// Evidence gives the page that shows what somebody confirmed.
func Evidence(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	x, err := r.Referees.In(r.Context, r.DB, r.Case, id)
	if err != nil {
		return err
	}
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	e, err := r.Referees.EvidenceOf(r.Context, r.DB, x, r.Case, f)
	if err != nil {
		return err
	}
	pdf, err := sealcopy.Evidence(e, f.Zone)
	if err != nil {
		return err
	}
	return r.Download("confirmation "+r.Case.Ref+".pdf", "application/pdf", pdf)
}
