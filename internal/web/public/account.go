package public

import (
	"context"
	"errors"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/limit"
	"ulvant/internal/web/site"
	"ulvant/internal/web/view"
)

var (
	signIns   = limit.Rule{Name: "sign-in", Most: 8, Per: 15 * time.Minute}
	signInIPs = limit.Rule{Name: "sign-in-ip", Most: 60, Per: 15 * time.Minute}
	signUps   = limit.Rule{Name: "sign-up", Most: 20, Per: time.Hour}
	mailsTo   = limit.Rule{Name: "sign-up-to", Most: 4, Per: time.Hour}
)

// accountForm is what the sign-up and sign-in pages show.
type accountForm struct {
	Email, Name, Next string
	Problem           people.Problem
	Demo              []people.Account
	Sent              bool
}

// safeNext keeps a next address on this site.
func safeNext(next string) string {
	u, err := url.Parse(next)
	if err != nil || u.Host != "" || u.Scheme != "" || !strings.HasPrefix(next, "/") || strings.HasPrefix(next, "//") || strings.Contains(next, `\`) {
		return ""
	}
	return next
}

// SignUpForm asks for an account.
func SignUpForm(r *site.Request) error {
	return r.Draw(fiber.StatusOK, "public/sign-up", view.Page{Title: "Sign up", Data: accountForm{Next: safeNext(r.Query("next"))}})
}

// SignUp makes an account and sends its link. The page that follows is the
// same whether the address had an account or not.
func SignUp(r *site.Request) error {
	f := accountForm{Email: strings.TrimSpace(r.FormValue("email")), Name: strings.TrimSpace(r.FormValue("name"))}
	password := r.FormValue("password")
	for _, err := range []error{people.CheckName(f.Name), people.CheckEmail(f.Email), people.CheckPassword(password)} {
		if errors.As(err, &f.Problem) {
			return r.Draw(fiber.StatusUnprocessableEntity, "public/sign-up", view.Page{Title: "Sign up", Data: f})
		}
	}
	for rule, who := range map[limit.Rule]string{signUps: r.IP(), mailsTo: people.Fold(f.Email)} {
		if ok, err := rule.Try(r.Context, r.DB, who, r.At); err != nil || !ok {
			return orTooMany(err, "That was tried many times within the hour. Wait a while, and look in your mail for a link we sent already.")
		}
	}
	hash, err := r.People.Hash(password)
	if err != nil {
		return err
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.People.SignUp(ctx, tx, f.Email, f.Name, hash) }); err != nil {
		return err
	}
	f.Sent = true
	return r.Draw(fiber.StatusOK, "public/sign-up", view.Page{Title: "Look in your mail", Data: f})
}

func orTooMany(err error, says string) error {
	if err != nil {
		return err
	}
	return fiber.NewError(fiber.StatusTooManyRequests, says)
}

// SignInForm asks who it is.
func SignInForm(r *site.Request) error {
	return drawSignIn(r, fiber.StatusOK, accountForm{Next: safeNext(r.Query("next"))})
}

func drawSignIn(r *site.Request, status int, f accountForm) error {
	if r.Demo {
		var err error
		if f.Demo, err = r.People.ForDemo(r.Context); err != nil {
			return err
		}
	}
	return r.Draw(status, "public/sign-in", view.Page{Title: "Sign in", Nav: "sign-in", Data: f})
}

// SignIn begins a session. Asked for JSON, it is the signing in again in
// place: it answers with the new form token, and the page stays.
func SignIn(r *site.Request) error {
	f := accountForm{Email: strings.TrimSpace(r.FormValue("email")), Next: safeNext(r.FormValue("next"))}
	for rule, who := range map[limit.Rule]string{signIns: people.Fold(f.Email), signInIPs: r.IP()} {
		if ok, err := rule.Try(r.Context, r.DB, who, r.At); err != nil || !ok {
			return orTooMany(err, "There were too many tries for this address. Wait a quarter of an hour and try again.")
		}
	}
	a, err := r.People.CheckSignIn(r.Context, f.Email, r.FormValue("password"))
	if errors.As(err, &f.Problem) {
		if err == people.ErrUnconfirmed {
			if ok, lerr := mailsTo.Try(r.Context, r.DB, people.Fold(f.Email), r.At); lerr == nil && ok {
				if err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.People.ResendConfirmation(ctx, tx, a) }); err != nil {
					return err
				}
			}
		}
		if r.Wants("json") {
			return r.Status(fiber.StatusUnprocessableEntity).JSON(fiber.Map{"fault": f.Problem.Says})
		}
		return drawSignIn(r, fiber.StatusUnprocessableEntity, f)
	}
	if err != nil {
		return err
	}
	if a.SecondAt != nil {
		return askCode(r, fiber.StatusOK, r.Ticket(a.ID, a.PasswordHash), f.Next, "")
	}
	return begin(r, a, f.Next)
}

func begin(r *site.Request, a people.Account, next string) error {
	if err := r.Begin(a.ID); err != nil {
		return err
	}
	if r.Wants("json") {
		return r.JSON(fiber.Map{"token": r.FormToken(), "name": a.Name})
	}
	if next != "" {
		return r.See(next)
	}
	reads, err := r.Reading.IsReader(r.Context, r.DB, a.ID)
	switch {
	case err != nil:
		return err
	case a.Office:
		return r.See("/office")
	case reads:
		return r.See("/reading")
	}
	return r.See("/applications")
}

// SignInAs begins a session for one of the demo's people.
func SignInAs(r *site.Request) error {
	id, err := strconv.ParseInt(r.FormValue("account"), 10, 64)
	if err != nil {
		return fiber.ErrNotFound
	}
	people, err := r.People.ForDemo(r.Context)
	if err != nil {
		return err
	}
	for _, a := range people {
		if a.ID == id {
			return begin(r, a, safeNext(r.FormValue("next")))
		}
	}
	return fiber.ErrNotFound
}

// SignOut ends the session.
func SignOut(r *site.Request) error {
	if err := r.End(); err != nil {
		return err
	}
	return r.See("/")
}

// ConfirmForm shows the button; pressing it, not the link alone, confirms, so
// that a mail scanner that opens links uses nothing up.
func ConfirmForm(r *site.Request) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "public/confirm", view.Page{Title: "Confirm your address", Data: map[string]any{"Email": a.Email, "Used": r.Link.UsedAt != nil}})
}

// Confirm confirms the address and signs in.
func Confirm(r *site.Request) error {
	var a people.Account
	err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		a, err = r.People.Confirm(ctx, tx, r.Link)
		return err
	})
	if err != nil {
		return err
	}
	r.Tell("Your address is confirmed, and you are signed in.")
	return begin(r, a, "")
}
