package register

import (
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/export"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/bulk"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/work"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// TellBulk says what is to be done, and draws it.
func TellBulk(r *site.Request) error {
	b, err := found(r)
	if err != nil {
		return err
	}
	a, no := told(r)
	a.Rule = form.Key(r.FormValue("rule"))
	if no.Says == "" {
		err = r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Program.Bulk.Tell(ctx, tx, b, a) })
		refusal.AsUnfit(err, &no)
	}
	if no.Says != "" {
		b.Stage = bulk.Asked
		return drawBulk(r, fiber.StatusUnprocessableEntity, b, &a, no)
	}
	if err != nil {
		return err
	}
	tally, err := r.Program.Bulk.Tally(r.Context, r.DB, b.ID)
	if err != nil {
		return err
	}
	if err := office.DrawFew(r, b.ID, tally.N()); err != nil {
		return err
	}
	return r.See("/office/bulk/" + strconv.FormatInt(b.ID, 10))
}

// told reads what the form says.
func told(r *site.Request) (a bulk.Args, no refusal.Refusal) {
	a = bulk.Args{Subject: strings.TrimSpace(r.FormValue("subject")), Text: r.FormValue("text"),
		Yes: r.FormValue("outcome") == "yes", Note: strings.TrimSpace(r.FormValue("note")), Label: r.FormValue("label")}
	a.Account, _ = strconv.ParseInt(r.FormValue("account"), 10, 64)
	a.Days, _ = strconv.Atoi(r.FormValue("days"))
	for _, q := range r.Values("question") {
		a.Questions = append(a.Questions, form.Key(q))
	}
	day, hour := strings.TrimSpace(r.FormValue("day")), strings.TrimSpace(r.FormValue("hour"))
	if day == "" {
		return a, no
	}
	d, ok := calendar.ParseDate(day)
	at, err := time.Parse("15:04", hour)
	if !ok || err != nil {
		return a, refusal.Refusal{Kind: refusal.KindUnfit, Field: "until",
			Says: "Write the day like 4 December 2026 and the hour like 16:00."}
	}
	a.Until, _ = calendar.At(d, at.Hour(), at.Minute()).In(r.Profiles.Zone())
	return a, no
}

// DoBulk puts what was drawn to work.
func DoBulk(r *site.Request) error {
	b, err := found(r)
	if err != nil {
		return err
	}
	due := r.At
	if b.Act.Leaves() {
		switch v := r.FormValue("when", "10"); v {
		case "0":
		case "morning":
			d := calendar.DateOf(r.At, r.Profiles.Zone()).AddDays(1)
			due, _ = calendar.At(d, 8, 0).In(r.Profiles.Zone())
		default:
			n, _ := strconv.Atoi(v)
			due = r.At.Add(time.Duration(min(max(n, 1), 1440)) * time.Minute)
		}
	}
	n := 0
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		t, err := r.Program.Bulk.Tally(ctx, tx, b.ID)
		if err != nil {
			return err
		}
		n = t[bulk.Would]
		return r.Program.Bulk.Do(ctx, tx, b, due)
	})
	if err == nil && !due.After(r.At) && n <= work.Inline {
		err = r.Program.Bulk.Run(r.Context, r.At, b.ID, bulk.Held)
	}
	return after(r, b, err, "")
}

// StopBulk keeps a held one from happening.
func StopBulk(r *site.Request) error {
	b, err := found(r)
	if err != nil {
		return err
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Program.Bulk.Stop(ctx, tx, b) })
	return after(r, b, err, "Stopped. Nothing was done.")
}

// StopOne keeps a single case out, or lets it in again.
func StopOne(r *site.Request) error {
	b, err := found(r)
	if err != nil {
		return err
	}
	entry, _ := strconv.ParseInt(r.FormValue("case"), 10, 64)
	again := r.FormValue("again") == "yes"
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Program.Bulk.StopOne(ctx, tx, b, entry, again)
	})
	return after(r, b, err, "")
}

// UndoBulk takes back what was done.
func UndoBulk(r *site.Request) error {
	b, err := found(r)
	if err != nil {
		return err
	}
	n := 0
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		t, err := r.Program.Bulk.Tally(ctx, tx, b.ID)
		if err != nil {
			return err
		}
		n = t[bulk.Did]
		return r.Program.Bulk.Undo(ctx, tx, b)
	})
	if err == nil && n <= work.Inline {
		err = r.Program.Bulk.Run(r.Context, r.At, b.ID, bulk.Undoing)
	}
	return after(r, b, err, "")
}

// after leads back to the act; a refusal is said there.
func after(r *site.Request, b bulk.Bulk, err error, says string) error {
	var no refusal.Refusal
	if refusal.AsUnfit(err, &no) {
		says, err = no.Sentence(), nil
	}
	if err != nil {
		return err
	}
	if says != "" {
		r.Tell(says)
	}
	return r.See("/office/bulk/" + strconv.FormatInt(b.ID, 10))
}

// BulkProgress says how far it is.
func BulkProgress(r *site.Request) error {
	b, err := found(r)
	if err != nil || b.WorkID == 0 {
		return fiber.ErrNotFound
	}
	w, err := r.Work.Any(r.Context, b.WorkID)
	if err != nil {
		return err
	}
	return r.JSON(fiber.Map{"done": w.Done, "total": w.Total, "ended": w.EndedAt != nil, "says": w.Says})
}

// BulkReport gives out what came of each case.
func BulkReport(r *site.Request) error {
	b, err := found(r)
	if err != nil {
		return err
	}
	sheet := export.New(export.Column{Key: "ref", Heading: "Number"}, export.Column{Key: "title", Heading: "Title"},
		export.Column{Key: "lead", Heading: "Lead"}, export.Column{Key: "outcome", Heading: "Outcome"},
		export.Column{Key: "says", Heading: "What"})
	all := []bulk.Outcome{"", bulk.Would, bulk.WouldNot, bulk.StopOne, bulk.Did, bulk.Failed, bulk.TakenOff, bulk.Stands}
	list, err := r.Program.Bulk.Of(r.Context, r.DB, b.ID, all, 0, bulk.MostCases)
	if err != nil {
		return err
	}
	for _, x := range list {
		sheet.Add(export.Text(x.Ref), export.Text(x.Title), export.Text(x.Lead), export.Text(string(x.Outcome)),
			export.Text(x.Says))
	}
	return r.Give(strings.ReplaceAll(string(b.Act), " ", "-")+"-"+strconv.FormatInt(b.ID, 10), sheet)
}
