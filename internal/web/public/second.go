package public

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"image/png"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/pquerna/otp"

	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/intake"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/limit"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// codePage is what public/code.html draws.
type codePage struct {
	Ticket  string
	Next    string
	Problem string
}

// askCode asks for the second factor of somebody whose password was right.
func askCode(r *site.Request, status int, ticket, next, problem string) error {
	if r.Wants("json") {
		return r.Status(fiber.StatusUnprocessableEntity).JSON(fiber.Map{"fault": problem, "ticket": ticket})
	}
	return r.Draw(status, "public/code", view.Page{Title: "The code from your app",
		Data: codePage{Ticket: ticket, Next: next, Problem: problem}})
}

// codes bounds wrong codes of one account: six digits are soon guessed, from
// wherever. Who has reached this has typed the password.
var codes = limit.Rule{Name: "code", Most: 8, Per: 15 * time.Minute}

// SignInCode takes the second factor.
func SignInCode(r *site.Request) error {
	var a people.Account
	var failed error
	id, ok := r.Ticketed(r.FormValue("ticket"), func(account int64) string {
		if a, failed = r.People.Find(r.Context, r.DB, account); errors.Is(failed, sql.ErrNoRows) {
			failed = nil
		}
		return a.PasswordHash
	})
	if failed != nil {
		return failed
	}
	if !ok {
		if r.Wants("json") {
			return r.Status(fiber.StatusUnprocessableEntity).JSON(fiber.Map{"fault": "That took too long. Type the password " +
				"again."})
		}
		return drawSignIn(r, fiber.StatusUnprocessableEntity,
			accountForm{Next: safeNext(r.FormValue("next")), Problem: refusal.In("password",
				"That took too long. Sign in again.")})
	}
	by := db.Actor{Kind: "account", ID: id, From: r.Client()}
	mark, ok, err := codes.Take(r.Context, r.DB, a.Email, r.At)
	if err != nil || !ok {
		return orTooMany(err, tooMany)
	}
	err = r.DB.Do(r.Context, by, r.At, func(ctx context.Context, tx *db.Tx) error {
		return r.People.UseSecond(ctx, tx, id, r.FormValue("code"))
	})
	var wrong refusal.Refusal
	if refusal.AsUnfit(err, &wrong) {
		if err := r.People.Note(r.Context, by, r.At, id, say.WrongCode); err != nil {
			return err
		}
		return askCode(r, fiber.StatusUnprocessableEntity, r.FormValue("ticket"), safeNext(r.FormValue("next")), wrong.Says)
	}
	if err == nil {
		err = limit.Return(r.Context, r.DB, mark)
	}
	if err != nil {
		return err
	}
	return begin(r, a, safeNext(r.FormValue("next")))
}

// withPassword runs something that only the owner of an account may do, who
// says so by the password. A wrong one draws the account again.
func withPassword(r *site.Request, field string, do func() error) error {
	if ok, err := owns(r, r.FormValue("password")); err != nil {
		return err
	} else if !ok {
		return drawAccount(r, fiber.StatusUnprocessableEntity,
			refusal.In(field, "This is not your password. Nothing was changed."))
	}
	err := do()
	var wrong refusal.Refusal
	if refusal.AsUnfit(err, &wrong) {
		return drawAccount(r, fiber.StatusUnprocessableEntity, refusal.In(field, wrong.Says))
	}
	return err
}

// BeginSecond makes a secret, and goes on to the page that shows it.
func BeginSecond(r *site.Request) error {
	return withPassword(r, "second", func() error {
		if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
			_, err := r.People.BeginSecond(ctx, tx, *r.Account)
			return err
		}); err != nil {
			return err
		}
		return r.See("/account/second")
	})
}

// Second shows the secret that waits for its first code.
func Second(r *site.Request) error { return drawSecond(r, fiber.StatusOK, "") }

// secondPage is what public/second.html draws.
type secondPage struct {
	Secret  string
	Problem string
}

func drawSecond(r *site.Request, status int, problem string) error {
	if r.Account.SecondSecret == nil || r.Account.SecondAt != nil {
		return r.See("/account")
	}
	s, err := r.People.PendingSecond(*r.Account)
	if err != nil {
		return err
	}
	return r.Draw(status, "public/second", view.Page{Title: "A second factor",
		Data: secondPage{Secret: s.Secret, Problem: problem}})
}

// SecondPicture is the secret that waits as a square code that a phone can
// read, at an address of our own: the page's policy takes no other pictures.
func SecondPicture(r *site.Request) error {
	if r.Account.SecondSecret == nil || r.Account.SecondAt != nil {
		return fiber.ErrNotFound
	}
	s, err := r.People.PendingSecond(*r.Account)
	if err != nil {
		return err
	}
	picture, err := pictureOf(s.URL)
	if err != nil {
		return err
	}
	r.Set(fiber.HeaderCacheControl, "no-store")
	r.Type("png")
	return r.Send(picture)
}

// pictureOf draws an address as a square code, a PNG of 220 pixels.
func pictureOf(address string) ([]byte, error) {
	k, err := otp.NewKeyFromURL(address)
	if err != nil {
		return nil, err
	}
	img, err := k.Image(220, 220)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	err = png.Encode(&b, img)
	return b.Bytes(), err
}

// TurnOnSecond takes the first code, and shows the recovery codes once.
func TurnOnSecond(r *site.Request) error {
	mark, ok, err := codes.Take(r.Context, r.DB, r.Account.Email, r.At)
	if err != nil || !ok {
		return orTooMany(err, tooMany)
	}
	var list []string
	err = r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		list, err = r.People.TurnOnSecond(ctx, tx, *r.Account, r.FormValue("code"))
		return err
	})
	var wrong refusal.Refusal
	if refusal.AsUnfit(err, &wrong) {
		return drawSecond(r, fiber.StatusUnprocessableEntity, wrong.Says)
	}
	if err == nil {
		err = limit.Return(r.Context, r.DB, mark)
	}
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "public/recovery", view.Page{Title: "Recovery codes", Data: list})
}

// TurnOffSecond switches it off, with the password and a code.
func TurnOffSecond(r *site.Request) error {
	return withPassword(r, "second", func() error {
		mark, ok, err := codes.Take(r.Context, r.DB, r.Account.Email, r.At)
		if err != nil || !ok {
			return orTooMany(err, tooMany)
		}
		if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.People.TurnOffSecond(ctx, tx, r.Account.ID, r.FormValue("code"))
		}); err != nil {
			return err
		}
		if err := limit.Return(r.Context, r.DB, mark); err != nil {
			return err
		}
		r.Tell("The second factor is off.")
		return r.See("/account")
	})
}

// AskAddress begins a change of address. What follows is the same whether the
// new one has an account or not.
func AskAddress(r *site.Request) error {
	email := r.FormValue("email")
	return withPassword(r, "email", func() error {
		if err := people.CheckEmail(email); err != nil {
			return err
		}
		if ok, err := mailsTo.Try(r.Context, r.DB, people.Fold(email), r.At); err != nil || !ok {
			return orTooMany(err,
				"That was tried many times within the hour. Wait a while, and look in your mail for a link we sent already.")
		}
		if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.People.AskAddress(ctx, tx, *r.Account,
				email)
		}); err != nil {
			return err
		}
		r.Tell("A link is on its way to " + email + ". Your address changes when it is pressed.")
		return r.See("/account")
	})
}

// AskLasting begins with a second address, or ends with it.
func AskLasting(r *site.Request) error {
	email := r.FormValue("lasting")
	return withPassword(r, "lasting", func() error {
		if email != "" {
			if err := people.CheckEmail(email); err != nil {
				return refusal.In("lasting", "Give a whole mail address, or leave it empty for none.")
			}
			if ok, err := mailsTo.Try(r.Context, r.DB, people.Fold(email), r.At); err != nil || !ok {
				return orTooMany(err,
					"That was tried many times within the hour. Wait a while, and look in your mail for a link we sent already.")
			}
		}
		if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.People.AskLasting(ctx, tx, *r.Account, email)
		}); err != nil {
			return err
		}
		if email == "" {
			r.Tell("You have no second address any more.")
		} else {
			r.Tell("A link is on its way to " + email + ". It counts once that is pressed.")
		}
		return r.See("/account")
	})
}

// LastingForm shows the button that the link to a second address leads to.
func LastingForm(r *site.Request) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "public/address", view.Page{Title: "Your second address",
		Data: addressPage{Email: a.Lasting, Used: r.Link.UsedAt != nil || a.Lasting == "", Second: true}})
}

// ConfirmLasting uses it.
func ConfirmLasting(r *site.Request) error {
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		_, err := r.People.ConfirmLasting(ctx, tx, r.Link)
		return err
	}); err != nil {
		return err
	}
	r.Tell("Your second address is confirmed.")
	if r.Account != nil {
		return r.See("/account")
	}
	return r.See("/sign-in")
}

// AddressForm shows the button that the link to a new address leads to.
func AddressForm(r *site.Request) error { return drawAddress(r, fiber.StatusOK, "") }

// addressPage is what public/address.html draws.
type addressPage struct {
	Email   string
	Used    bool
	Second  bool // it is a second one, which nobody signs in with
	Problem string
}

func drawAddress(r *site.Request, status int, problem string) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	return r.Draw(status, "public/address", view.Page{Title: "Your new address",
		Data: addressPage{Email: a.NewEmail, Used: r.Link.UsedAt != nil || a.NewEmail == "", Problem: problem}})
}

// ChangeAddress uses it.
func ChangeAddress(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		_, err := r.People.ChangeAddress(ctx, tx, r.Link)
		return err
	})
	var wrong refusal.Refusal
	if refusal.AsUnfit(err, &wrong) {
		return drawAddress(r, fiber.StatusConflict, wrong.Says)
	}
	if err != nil {
		return err
	}
	r.Tell("Your address is changed. Sign in with it from now on.")
	if r.Account != nil {
		return r.See("/account")
	}
	return r.See("/sign-in")
}

// LeaveForm says what leaving erases.
func LeaveForm(r *site.Request) error { return drawLeave(r, fiber.StatusOK, "") }

// leavePage is what public/leave.html draws.
type leavePage struct {
	List    []intake.Left
	Problem string
}

func drawLeave(r *site.Request, status int, problem string) error {
	list, err := r.Intake.WouldLeave(r.Context, r.DB, r.Account.ID)
	if err != nil {
		return err
	}
	return r.Draw(status, "public/leave", view.Page{Title: "Leave", Data: leavePage{List: list, Problem: problem}})
}

// Leave erases the account and ends the session.
func Leave(r *site.Request) error {
	if r.FormValue("sure") != "yes" {
		return drawLeave(r, fiber.StatusUnprocessableEntity, "Tick that you mean it. Nothing was erased.")
	}
	if ok, err := owns(r, r.FormValue("password")); err != nil {
		return err
	} else if !ok {
		return drawLeave(r, fiber.StatusUnprocessableEntity, "This is not your password. Nothing was erased.")
	}
	err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Intake.Leave(ctx, tx, *r.Account) })
	var wrong refusal.Refusal
	if refusal.AsUnfit(err, &wrong) {
		return drawLeave(r, fiber.StatusConflict, wrong.Says)
	}
	if err != nil {
		return err
	}
	r.Tell("Your account is gone. You can sign up again whenever you like.")
	if err := r.End(); err != nil {
		return err
	}
	return r.See("/")
}
