package public

import (
	"context"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/refusal"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// ForgotForm asks for the address of an account whose password is forgotten.
func ForgotForm(r *site.Request) error {
	return r.Draw(fiber.StatusOK, "public/forgot", view.Page{Title: "A new password", Data: accountForm{}})
}

// Forgot sends a link. The page that follows is the same whether the address
// has an account or not.
func Forgot(r *site.Request) error {
	f := accountForm{Email: strings.TrimSpace(r.FormValue("email"))}
	if refusal.AsUnfit(people.CheckEmail(f.Email), &f.Problem) {
		return r.Draw(fiber.StatusUnprocessableEntity, "public/forgot", view.Page{Title: "A new password", Data: f})
	}
	if err := mayMail(r, f.Email); err != nil {
		return err
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.People.Forgot(ctx, tx, f.Email) }); err != nil {
		return err
	}
	f.Sent = true
	return r.Draw(fiber.StatusOK, "public/forgot", view.Page{Title: "Look in your mail", Data: f})
}

// ResetForm asks for the new password.
func ResetForm(r *site.Request) error { return drawReset(r, fiber.StatusOK, "") }

// resetPage is what public/reset.html draws.
type resetPage struct {
	Email   string
	Used    bool
	Problem string
}

func drawReset(r *site.Request, status int, problem string) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	return r.Draw(status, "public/reset", view.Page{Title: "A new password",
		Data: resetPage{Email: a.Email, Used: r.Link.UsedAt != nil, Problem: problem}})
}

// Reset takes the new password, ends every session and signs in.
func Reset(r *site.Request) error {
	password := r.FormValue("password")
	owner, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	var wrong refusal.Refusal
	if refusal.AsUnfit(people.CheckPassword(password, owner.Email, owner.Name), &wrong) {
		return drawReset(r, fiber.StatusUnprocessableEntity, wrong.Says)
	}
	hash, err := r.People.Hash(password)
	if err != nil {
		return err
	}
	var a people.Account
	if err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		a, err = r.People.Reset(ctx, tx, r.Link, hash)
		return err
	}); err != nil {
		return err
	}
	if a.SecondAt != nil { // the link has shown the address, not the second factor
		return askCode(r, fiber.StatusOK, r.Ticket(a.ID, a.PasswordHash), "", "")
	}
	r.Tell("Your password is new, and you are signed in. Every other session has ended.")
	return begin(r, a, "")
}

// Account shows one's own account and where it is signed in.
func Account(r *site.Request) error { return drawAccount(r, fiber.StatusOK, refusal.Refusal{}) }

// accountPage is what public/account.html draws.
type accountPage struct {
	A           *people.Account
	Sessions    []people.Signed
	Left        int
	Events      []people.Event
	NeedsSecond bool
	Wrong       refusal.Refusal
	Email       string
	Number      string // as it was typed, where it was refused
	Zone        *time.Location
}

func drawAccount(r *site.Request, status int, problem refusal.Refusal) error {
	left, err := r.People.RecoveryLeft(r.Context, r.Account.ID)
	if err != nil {
		return err
	}
	list, err := r.People.Sessions(r.Context, r.Account.ID, r.Token(), r.At)
	if err != nil {
		return err
	}
	events, err := r.People.Events(r.Context, r.Account.ID, 30)
	if err != nil {
		return err
	}
	return r.Draw(status, "public/account", view.Page{Title: "My account",
		Data: accountPage{A: r.Account, Sessions: list, Left: left, Events: events, NeedsSecond: r.NeedsSecond,
			Wrong: problem, Email: r.FormValue("email"), Number: r.FormValue("texts"), Zone: time.UTC}})
}

// ChangePassword changes one's own, with the old one.
func ChangePassword(r *site.Request) error {
	if ok, err := owns(r, r.FormValue("old")); err != nil {
		return err
	} else if !ok {
		return drawAccount(r, fiber.StatusUnprocessableEntity,
			refusal.In("password", "The old password is not right. Nothing was changed."))
	}
	password := r.FormValue("password")
	var wrong refusal.Refusal
	if refusal.AsUnfit(people.CheckPassword(password, r.Account.Email, r.Account.Name), &wrong) {
		return drawAccount(r, fiber.StatusUnprocessableEntity, wrong)
	}
	hash, err := r.People.Hash(password)
	if err != nil {
		return err
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.People.ChangePassword(ctx, tx, r.Account.ID, hash, r.Token())
	}); err != nil {
		return err
	}
	r.Tell("Your password is new. Every other session has ended.")
	return r.See("/account")
}

// EndOthers ends one's other sessions.
func EndOthers(r *site.Request) error {
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.People.EndOthers(ctx, tx, r.Account.ID, r.Token())
	}); err != nil {
		return err
	}
	r.Tell("Every other session has ended.")
	return r.See("/account")
}
