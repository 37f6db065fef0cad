package applicant

import (
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/profile"
	"ulvant/core/refusal"
	"ulvant/core/slot"
	"ulvant/internal/material"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// shelfPage is what applicant/shelf.html draws.
type shelfPage struct {
	Files   []material.Shelved
	Today   calendar.Date
	Holders []holder // organisations whose shelf may be filled
	Most    int64
	Problem string
	Until   string
	Zone    *time.Location
}

type holder struct {
	ID   int64
	Name string
}

// Shelf lists the files that are kept for several applications.
func Shelf(r *site.Request) error { return drawShelf(r, fiber.StatusOK, "") }

func drawShelf(r *site.Request, status int, problem string) error {
	list, err := r.Materials.Shelf(r.Context, r.DB, r.Account.ID)
	if err != nil {
		return err
	}
	p := shelfPage{Files: list, Today: calendar.DateOf(r.At, time.UTC), Most: slot.MostPlain, Problem: problem,
		Until: r.FormValue("until"), Zone: time.UTC}
	mine, err := r.Profiles.Of(r.Context, r.DB, r.Account.ID)
	if err != nil {
		return err
	}
	for _, x := range mine {
		if x.Kind != profile.Person {
			p.Holders = append(p.Holders, holder{x.ID, x.Name})
		}
	}
	return r.Draw(status, "applicant/shelf", view.Page{Title: "Your shelf", Nav: "applications", Data: p})
}

// PutOnShelf keeps a file for later.
func PutOnShelf(r *site.Request) error {
	var until calendar.Date
	if typed := strings.TrimSpace(r.FormValue("until")); typed != "" {
		d, ok := calendar.ParseDate(typed)
		if !ok {
			return drawShelf(r, fiber.StatusUnprocessableEntity, "The day “"+typed+"” cannot be read. Write it as 31 May 2027.")
		}
		until = d
	}
	h, body, err := r.Upload("file")
	if err != nil {
		return drawShelf(r, fiber.StatusUnprocessableEntity, "Choose a file first.")
	}
	defer body.Close()
	holder, _ := strconv.ParseInt(r.FormValue("holder"), 10, 64)
	ctx, cancel := r.UploadContext()
	defer cancel()
	if _, err := r.Materials.Shelve(ctx, r.Actor(), r.At, holder, "", h.Filename, until, h.Size, body); err != nil {
		if no, ok := refusal.Of(err); ok && no.Kind != refusal.KindMissing {
			return drawShelf(r, fiber.StatusUnprocessableEntity, no.Sentence())
		}
		return err
	}
	r.Tell("It is on the shelf. It is part of no application until you attach it there.")
	return r.See("/shelf")
}

// ShelfFile sends a file of the shelf.
func ShelfFile(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	x, err := r.Materials.Shelved(r.Context, r.DB, r.Account.ID, id)
	if err != nil {
		return err
	}
	return r.SendMaterial(material.File{Name: x.Name, SHA256: x.SHA256, MIME: x.MIME, State: slot.Ready, Facts: x.Facts})
}

// TakeOffShelf takes a file off the shelf.
func TakeOffShelf(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Materials.TakeOff(ctx, tx, id) }); err != nil {
		return err
	}
	r.Tell("It is off the shelf. Where it was attached it stays.")
	return r.See("/shelf")
}

// Attach puts a file of the shelf into a slot.
func Attach(r *site.Request) error {
	f, q, err := slotOf(r)
	if err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.FormValue("file"), 10, 64)
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Materials.Attach(ctx, tx, r.Case, q, id)
	}); err != nil {
		return orConflict(r, err)
	}
	return backTo(r, q.Key, f)
}

// KeepOnShelf keeps a file of a slot on the shelf too.
func KeepOnShelf(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("id"), 10, 64)
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	m, err := r.Materials.Find(r.Context, r.DB, id, r.Case.EntryID)
	if err != nil || m.EntryID == nil {
		return fiber.ErrNotFound
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Materials.ShelveAttached(ctx, tx, r.Case, id)
	}); err != nil {
		return err
	}
	r.Tell("“" + m.Name + "” is on your shelf too, for other applications.")
	return backTo(r, m.Slot, f)
}
