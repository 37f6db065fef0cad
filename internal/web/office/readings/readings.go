package readings

import (
	"context"
	"errors"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/phrase"
	"ulvant/core/refusal"
	"ulvant/core/waiting"
	"ulvant/internal/desk"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/reading"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// readingDesk is what the page of reading shows.
type readingDesk struct {
	Readers      []desk.ReaderLoad
	Cases        []desk.ReadingCase
	Next         string
	Ready, Short int // cases to hand out; cases that lack a reader
	Pictures     bool
	Each         int
	Problem      string
	Typed        map[string]string
	Key          string
	Ends         time.Time
	From         time.Time // when handing out begins
	Now          time.Time
	Zone         *time.Location
	Work         *work.Work
	Asks         reading.Asks // of a plan, as it begins
	ByField      bool
	Late         int              // readers who have not sent everything
	Planned      bool             // a plan waits to be given out
	Pool         []reading.Pooled // who has read for the programme before, and is not invited
}

// Reading shows readers, their loads, and who reads what.
func Reading(r *site.Request) error { return drawReading(r, fiber.StatusOK, "", nil) }

func drawReading(r *site.Request, status int, problem string, typed map[string]string) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := readingDesk{Each: f.Design.ReadersEach, Problem: problem, Typed: typed, Key: r.Round.Key,
		Pictures: casefile.TakesPictures(f),
		Ends:     f.At(form.ReadingEnd), From: f.HandsOutFrom(), Now: r.At, Zone: f.Zone}
	if d.Readers, err = r.Desk.Readers(r.Context, r.Round.ID); err != nil {
		return err
	}
	for _, x := range d.Readers {
		if x.Sent < x.Given {
			d.Late++
		}
	}
	if r.May(access.InviteReader) {
		if d.Pool, err = r.Reading.Pool(r.Context, r.DB, r.Round); err != nil {
			return err
		}
	}
	cases, err := r.Desk.ReadingCases(r.Context, r.Round.ID, office.After(r), office.PerPage+1)
	if err != nil {
		return err
	}
	d.Cases, d.Next = office.PageOf(cases, func(c desk.ReadingCase) int64 { return c.EntryID })
	pending, err := r.Desk.Pending(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	d.Ready, d.Short = waiting.Readable(f, office.PendingCases(pending))
	d.ByField, d.Asks.Field = f.Design.Field != "", f.Design.Field != ""
	if p, err := r.Reading.PlanOf(r.Context, r.DB, r.Round.ID); err == nil {
		d.Planned, d.Asks = true, p.Asks
	} else if !errors.Is(err, reading.ErrNoPlan) {
		return err
	}
	if d.Work, err = r.Work.Latest(r.Context, r.Round.ID, work.HandingOut); err != nil {
		return err
	}
	if d.Work != nil && d.Work.EndedAt != nil && r.At.Sub(*d.Work.EndedAt) > time.Hour {
		d.Work = nil
	}
	return office.Draw(r, status, "office/readings/reading", "Reading, "+r.Round.Name, "reading", f, d)
}

// InviteReader invites somebody by mail, or some who have read for the programme before.
func InviteReader(r *site.Request) error {
	if r.FormValue("do") == "pool" {
		return invitePool(r)
	}
	typed := map[string]string{"name": r.FormValue("name"), "email": r.FormValue("email")}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		_, err := r.Reading.Invite(ctx, tx, r.Round, typed["email"], typed["name"])
		return err
	})
	var p refusal.Refusal
	if refusal.AsUnfit(err, &p) {
		return drawReading(r, fiber.StatusUnprocessableEntity, p.Says, typed)
	}
	if err != nil {
		return err
	}
	r.Tell("The invitation to " + typed["name"] + " is on its way.")
	return r.See("/office/rounds/" + r.Round.Key + "/reading")
}

// HandOut gives every eligible case its readers.
func HandOut(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	if err := reading.MayHandOut(f, r.At); err != nil {
		return drawReading(r, fiber.StatusConflict, site.Sentence(err), nil)
	}
	n, err := r.Reading.ToHandOut(r.Context, r.DB, r.Round, f, r.At)
	if err != nil {
		return err
	}
	says := phrase.Count(int64(n), "case is", "cases are") + " being handed out. You can leave this page."
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		if n > work.Inline {
			return r.Reading.HandOutLater(ctx, tx, r.Round, n)
		}
		out, err := r.Reading.HandOut(ctx, tx, r.Round, f, nil)
		says = out.Says()
		return err
	})
	var unfit refusal.Refusal
	if refusal.AsUnfit(err, &unfit) {
		return drawReading(r, fiber.StatusConflict, site.Sentence(err), nil)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See("/office/rounds/" + r.Round.Key + "/reading")
}

func invitePool(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	var accounts []int64
	for _, v := range r.Values("account") {
		if n, err := strconv.ParseInt(v, 10, 64); err == nil {
			accounts = append(accounts, n)
		}
	}
	n := 0
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		n, err = r.Reading.InvitePool(ctx, tx, r.Round, f, accounts)
		return err
	})
	if err != nil {
		return err
	}
	r.Tell(phrase.Count(int64(n), "invitation is", "invitations are") + " on the way.")
	return r.See("/office/rounds/" + r.Round.Key + "/reading")
}
