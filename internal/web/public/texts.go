package public

import (
	"context"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// AskTexts begins with text messages, or ends with them.
func AskTexts(r *site.Request) error {
	number := r.FormValue("texts")
	return withPassword(r, "texts", func() error {
		if number != "" {
			if ok, err := mailsTo.Try(r.Context, r.DB, number, r.At); err != nil || !ok {
				return orTooMany(err,
					"That was tried many times within the hour. Wait a while, and look at the messages on that phone.")
			}
		}
		if err := r.Act(func(ctx context.Context, tx *db.Tx) error {
			return r.People.AskTexts(ctx, tx, *r.Account, number)
		}); err != nil {
			return err
		}
		if number == "" {
			r.Tell("You get no text messages any more. Mails come as before.")
		} else {
			r.Tell("A message with a link is on its way to that phone. The number counts once the link is pressed.")
		}
		return r.See("/account")
	})
}

// textsPage is what public/texts.html draws.
type textsPage struct {
	Number string
	Used   bool
}

// TextsForm shows the button that the link on the phone leads to.
func TextsForm(r *site.Request) error {
	a, err := r.People.Find(r.Context, r.DB, r.Link.Subject)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "public/texts", view.Page{Title: "Text messages",
		Data: textsPage{Number: a.Texts, Used: r.Link.UsedAt != nil || a.Texts == ""}})
}

// ConfirmTexts uses it.
func ConfirmTexts(r *site.Request) error {
	confirm := func(ctx context.Context, tx *db.Tx) error { return r.People.ConfirmTexts(ctx, tx, r.Link) }
	if err := r.Act(confirm); err != nil {
		return err
	}
	r.Tell("Text messages come to this phone from now on.")
	if r.Account != nil {
		return r.See("/account")
	}
	return r.See("/sign-in")
}
