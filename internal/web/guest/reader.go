package guest

import (
	"context"
	"errors"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/refusal"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// Invitation asks an invited reader to begin.
func Invitation(r *site.Request) error { return drawInvitation(r, fiber.StatusOK, refusal.Refusal{}) }

// readerPage is what guest/reader.html draws.
type readerPage struct {
	A       people.Account
	New     bool
	Problem refusal.Refusal
}

func drawInvitation(r *site.Request, status int, p refusal.Refusal) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	return r.Draw(status, "guest/reader", view.Page{Title: "Read with us",
		Data: readerPage{A: a, New: a.PasswordHash == "", Problem: p}})
}

// Accept the invitation: a new reader chooses a password, one with an account
// signs in with it.
func Accept(r *site.Request) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	hash := ""
	if a.PasswordHash == "" {
		var p refusal.Refusal
		if errors.As(people.CheckPassword(r.FormValue("password"), a.Email, a.Name), &p) {
			return drawInvitation(r, fiber.StatusUnprocessableEntity, p)
		}
		if hash, err = r.People.Hash(r.FormValue("password")); err != nil {
			return err
		}
	}
	err = r.DB.Do(r.Context, db.Account(a.ID), r.At, func(ctx context.Context, tx *db.Tx) error {
		if hash != "" {
			if err := r.People.SetPassword(ctx, tx, a.ID, hash); err != nil {
				return err
			}
		}
		return r.Reading.Accept(ctx, tx, a.ID)
	})
	if err != nil {
		return err
	}
	if hash == "" {
		return r.See("/sign-in?next=/reading")
	}
	if err := r.Begin(a.ID); err != nil {
		return err
	}
	return r.See("/reading")
}
