package site

import (
	"crypto/rand"
	"errors"
	"log/slog"
	"net/url"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/files"
	"ulvant/internal/web/kit/view"
)

// Draw a page.
func (r *Request) Draw(status int, name string, p view.Page) error {
	p.CSRF, p.Demo, p.Path, p.Now, p.Allows, p.Funder = r.FormToken(), r.Demo, r.OriginalURL(), r.At, r.May,
		r.Funder.Now()
	if r.Account != nil {
		p.Who, p.Office, p.Reads = r.Account.Name, r.Rel.Has(access.AtOffice), r.Reader
		rel := access.SignedIn | access.Of(r.Roles, access.About{}, r.At)
		p.Bodies = access.Allow(access.SeeBodies, rel, "") == access.Allowed
	}
	if v := r.Cookies(r.cookie(noticeCookie)); v != "" {
		p.Notice, _ = url.QueryUnescape(v)
		r.Cookie(&fiber.Cookie{Name: r.cookie(noticeCookie), Path: "/", MaxAge: -1, Expires: time.Unix(1, 0),
			Secure: r.Config.SecureCookie})
	}
	html, err := r.Views.Page(name, p)
	if err != nil {
		return err
	}
	r.Set(fiber.HeaderCacheControl, "no-store")
	r.Type("html", "utf-8")
	return r.Status(status).Send(html)
}

const nothingThere = "There is nothing at this address, or it is not yours to see."

// statusOf is how each kind of refusal is answered.
var statusOf = map[refusal.Kind]int{refusal.KindBarred: fiber.StatusConflict,
	refusal.KindUnfit:   fiber.StatusUnprocessableEntity,
	refusal.KindMissing: fiber.StatusNotFound, refusal.KindOver: fiber.StatusGone}

// Fail turns an error into a page, or JSON, that says what can be done.
func (r *Request) Fail(err error) error {
	if err == nil {
		return nil
	}
	status, says := fiber.StatusInternalServerError, "Something went wrong on our side. Nothing you had kept is lost. "+
		"Try again in a minute; if it happens again, write to us."
	var f *fiber.Error
	var no refusal.Refusal
	switch {
	case errors.As(err, &f):
		status, says = f.Code, f.Message
		if status == fiber.StatusNotFound {
			says = nothingThere
		}
	case errors.As(err, &no):
		status, says = statusOf[no.Kind], no.Sentence()
		if no.Kind == refusal.KindMissing && no.Remedy == "" { // of whatever is not there, or not theirs, the same is said
			says = nothingThere
		}
	default:
		number := strings.ToLower(rand.Text()[:6])
		says += " Its number is " + number + "."
		slog.Error("a request failed", "number", number, "method", r.Method(), "route", r.Route().Path, "error", err)
		switch {
		case files.Full(err):
			status, says = fiber.StatusInsufficientStorage, "There is no room for your file here at the moment. Nothing "+
				"else is lost; we are told. Put it in again in some minutes."
		case db.Away(err):
			status, says = fiber.StatusServiceUnavailable, "We cannot keep anything at the moment, and are told. Nothing we "+
				"said was kept is lost, and what you typed stays in your browser. Try again in a minute."
			r.Set(fiber.HeaderRetryAfter, "30")
		}
	}
	return r.Refuse(status, says)
}

// Sentence is what may be said of an error, as a sentence of its own.
func Sentence(err error) string {
	no, ok := refusal.Of(err)
	if !ok {
		return "Something went wrong on our side. Nothing you had kept is lost. Try again in a minute."
	}
	return no.Sentence()
}

// Conflict refuses with what an error says.
func (r *Request) Conflict(err error) error { return r.Refuse(fiber.StatusConflict, Sentence(err)) }

// Refuse answers with a sentence.
func (r *Request) Refuse(status int, says string) error {
	if r.Wants("json") {
		return r.Status(status).JSON(fiber.Map{"fault": says})
	}
	return r.Draw(status, "public/fault", view.Page{Title: heading(status), Data: says})
}

func heading(status int) string {
	switch status {
	case fiber.StatusNotFound:
		return "Not found"
	case fiber.StatusGone:
		return "This link no longer works"
	case fiber.StatusConflict:
		return "Not now"
	case fiber.StatusUnauthorized, fiber.StatusForbidden:
		return "Not without signing in"
	case fiber.StatusRequestEntityTooLarge:
		return "Too large"
	case fiber.StatusTooManyRequests:
		return "Too many tries"
	case fiber.StatusServiceUnavailable, fiber.StatusInsufficientStorage:
		return "Not at the moment"
	}
	return "Something went wrong"
}
