package public

import (
	"context"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/limit"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// Only wrong passwords count, for an account from one client together: whoever
// tries from elsewhere holds nobody out. A client that tries many accounts is
// bounded too, and so are all clients together that try one; whoever owns that
// account gets in by mail meanwhile.
var (
	signIns        = limit.Rule{Name: "sign-in", Most: 8, Per: 15 * time.Minute}
	signInClients  = limit.Rule{Name: "sign-in-client", Most: 100, Per: 15 * time.Minute}
	signInAccounts = limit.Rule{Name: "sign-in-account", Most: 200, Per: 24 * time.Hour}
	signUps        = limit.Rule{Name: "sign-up", Most: 60, Per: time.Hour}
	mailsTo        = limit.Rule{Name: "sign-up-to", Most: 4, Per: time.Hour}
)

// accountForm is what the sign-up and sign-in pages show.
type accountForm struct {
	Email, Name, Next string
	Problem           refusal.Refusal
	Demo              []people.Account
	Sent, Held        bool
}

// safeNext keeps a next address on this site.
func safeNext(next string) string {
	u, err := url.Parse(next)
	if err != nil || u.Host != "" || u.Scheme != "" || !strings.HasPrefix(next, "/") || strings.HasPrefix(next, "//") ||
		strings.Contains(next, `\`) {
		return ""
	}
	return next
}

// SignUpForm asks for an account.
func SignUpForm(r *site.Request) error {
	return r.Draw(fiber.StatusOK, "public/sign-up", view.Page{Title: "Sign up",
		Data: accountForm{Next: safeNext(r.Query("next"))}})
}

// SignUp makes an account and sends its link. The page that follows is the
// same whether the address had an account or not.
func SignUp(r *site.Request) error {
	f := accountForm{Email: strings.TrimSpace(r.FormValue("email")), Name: strings.TrimSpace(r.FormValue("name")),
		Next: safeNext(r.FormValue("next"))}
	for _, err := range []error{people.CheckName(f.Name), people.CheckEmail(f.Email)} {
		if refusal.AsUnfit(err, &f.Problem) {
			return r.Draw(fiber.StatusUnprocessableEntity, "public/sign-up", view.Page{Title: "Sign up", Data: f})
		}
	}
	if err := mayMail(r, f.Email); err != nil {
		return err
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.People.SignUp(ctx, tx, f.Email, f.Name,
			f.Next)
	}); err != nil {
		return err
	}
	f.Sent = true
	return r.Draw(fiber.StatusOK, "public/sign-up", view.Page{Title: "Look in your mail", Data: f})
}

// mayMail counts a mail that a stranger has us send: by client, and by address.
func mayMail(r *site.Request, email string) error {
	for rule, who := range map[limit.Rule]string{signUps: r.Client(), mailsTo: people.Fold(email)} {
		if ok, err := rule.Try(r.Context, r.DB, who, r.At); err != nil || !ok {
			return orTooMany(err,
				"That was tried many times within the hour. Wait a while, and look in your mail for a link we sent already.")
		}
	}
	return nil
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

// Begins reports that somebody was on their way to begin an application.
func (f accountForm) Begins() bool { return begins.MatchString(f.Next) }

var begins = regexp.MustCompile(`^/rounds/[^/?]+/start(\?|$)`)

// SignIn begins a session. Asked for JSON, it is the signing in again in
// place: it answers with the new form token, and the page stays.
func SignIn(r *site.Request) error {
	f := accountForm{Email: strings.TrimSpace(r.FormValue("email")), Next: safeNext(r.FormValue("next"))}
	t, err := guess(r, f.Email)
	if err != nil {
		return err
	}
	if t.held {
		f.Held = true
		f.Problem = refusal.In("password",
			"There were too many wrong tries from where you are. Wait a quarter of an hour, or have a link to sign in sent to your address.")
		return refuseSignIn(r, fiber.StatusTooManyRequests, f)
	}
	a, err := r.People.CheckSignIn(r.Context, f.Email, r.FormValue("password"))
	if refusal.AsUnfit(err, &f.Problem) {
		if err == people.ErrUnconfirmed {
			if ok, lerr := mailsTo.Try(r.Context, r.DB, people.Fold(f.Email), r.At); lerr == nil && ok {
				if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
					return r.People.ResendConfirmation(ctx, tx,
						a)
				}); err != nil {
					return err
				}
			}
		} else if err := t.wrong(a.ID); err != nil {
			return err
		}
		return refuseSignIn(r, fiber.StatusUnprocessableEntity, f)
	}
	if err == nil {
		err = t.right()
	}
	if err != nil {
		return err
	}
	return proceed(r, a, f.Next)
}

func refuseSignIn(r *site.Request, status int, f accountForm) error {
	if r.Wants("json") {
		return r.Status(status).JSON(fiber.Map{"fault": f.Problem.Says})
	}
	return drawSignIn(r, status, f)
}

// SendEnter sends a link to sign in to an address that is held out. What
// follows is the same whether it has an account or not.
func SendEnter(r *site.Request) error {
	f := accountForm{Email: strings.TrimSpace(r.FormValue("email"))}
	if refusal.AsUnfit(people.CheckEmail(f.Email), &f.Problem) {
		return drawSignIn(r, fiber.StatusUnprocessableEntity, f)
	}
	if err := mayMail(r, f.Email); err != nil {
		return err
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.People.SendEnter(ctx, tx,
			f.Email)
	}); err != nil {
		return err
	}
	f.Sent = true
	return r.Draw(fiber.StatusOK, "public/forgot", view.Page{Title: "Look in your mail", Data: f})
}

// EnterForm shows the button that a link to sign in leads to.
func EnterForm(r *site.Request) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "public/enter", view.Page{Title: "Sign in",
		Data: accountForm{Email: a.Email, Sent: r.Link.UsedAt != nil}})
}

// Enter signs in by a link; the second factor is asked for after it.
func Enter(r *site.Request) error {
	var a people.Account
	if err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		a, err = r.People.Enter(ctx, tx, r.Link)
		return err
	}); err != nil {
		return err
	}
	return proceed(r, a, "")
}

// proceed begins a session, after the second factor where there is one.
func proceed(r *site.Request, a people.Account, next string) error {
	if a.SecondAt != nil {
		return askCode(r, fiber.StatusOK, r.Ticket(a.ID, a.PasswordHash), next, "")
	}
	return begin(r, a, next)
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
	if err != nil {
		return err
	}
	roles, err := r.People.Roles(r.Context, r.DB, a.ID)
	rel := access.Of(roles, access.About{}, r.At)
	switch {
	case err != nil:
		return err
	case rel.Any(access.Office):
		return r.See("/office")
	case rel.Has(access.DonorSomewhere):
		return r.See("/gifts")
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

// confirmForm is what the page behind a confirmation link shows.
type confirmForm struct {
	Email, Name string
	Used        bool
	Problem     refusal.Refusal
}

// ConfirmForm asks for the password. Sending it, not opening the link, confirms,
// so that a mail scanner that opens links uses nothing up.
func ConfirmForm(r *site.Request) error { return drawConfirm(r, fiber.StatusOK, refusal.Refusal{}) }

func drawConfirm(r *site.Request, status int, problem refusal.Refusal) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	f := confirmForm{Email: a.Email, Name: a.Name, Used: r.Link.UsedAt != nil || a.ConfirmedAt != nil, Problem: problem}
	if problem.Says != "" {
		f.Name = r.FormValue("name")
	}
	return r.Draw(status, "public/confirm", view.Page{Title: "Confirm your address", Data: f})
}

// Confirm confirms the address, keeps the password and signs in.
func Confirm(r *site.Request) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	name, password := r.FormValue("name"), r.FormValue("password")
	var wrong refusal.Refusal
	for _, err := range []error{people.CheckName(name), people.CheckPassword(password, a.Email, name)} {
		if refusal.AsUnfit(err, &wrong) {
			return drawConfirm(r, fiber.StatusUnprocessableEntity, wrong)
		}
	}
	hash, err := r.People.Hash(password)
	if err != nil {
		return err
	}
	if err := r.Act(func(ctx context.Context, tx *db.Tx) (err error) {
		a, err = r.People.Confirm(ctx, tx, r.Link, name, hash)
		return err
	}); err != nil {
		return err
	}
	r.Tell("Your address is confirmed, and you are signed in.")
	return begin(r, a, safeNext(r.Link.Next))
}
