// Package site is what all handlers share: a route that declares its action, a
// request that has been let in, pages and their errors. Handlers read the
// request, call a use case and draw a view; they never ask who may do what,
// because nothing reaches them before core/access has allowed it.
package site

import (
	"bytes"
	"context"
	"net"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	"ulvant/internal/desk"
	"ulvant/internal/people"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/limit"
	"ulvant/internal/platform/link"
	"ulvant/internal/program"
	"ulvant/internal/round"
	"ulvant/internal/standin/tray"
	"ulvant/internal/web/kit/view"
)

// Route is one address of the site. Params :ref and :round name the case and
// the round that the action is about; :token a personal link for Link.
type Route struct {
	Method, Path string
	Action       access.Action
	Link         link.Purpose
	Large        bool         // takes a file in its body
	Machine      bool         // for another program, which signs what it sends; its form has no token of ours
	Limits       []limit.Rule // how often one visitor may do it
	Handle       func(*Request) error
}

// Site serves routes.
type Site struct {
	*program.Program
	Views *view.Set
	Tray  *tray.Tray // nil unless demo or test
	Demo  bool
}

// Request is a request that was let in.
type Request struct {
	fiber.Ctx
	*Site
	Context context.Context // with a deadline for database calls
	At      time.Time       // the receipt instant: when the headers arrived
	Account *people.Account // nil when nobody is signed in
	Case    application.Case
	Round   round.Round
	Link    link.Link
	Rel     access.Relations
	Reader  bool
	Roles   people.Roles // at the office; none while NeedsSecond
	// NeedsSecond: works at the office, which asks for a second factor there is none of.
	NeedsSecond bool
	asking      desk.Asking // of an address that names a case; zero when none was found
	token       string      // session token, "" for none
	seed        string
}

const databaseTime = 20 * time.Second

var guesses = limit.Rule{Name: "link", Most: 60, Per: time.Hour}

// Bind makes a Fiber handler of a route: who asks, about what, may they?
func (s *Site) Bind(rt Route) fiber.Handler {
	return func(c fiber.Ctx) error {
		ctx, cancel := context.WithTimeout(context.Background(), databaseTime)
		defer cancel()
		r := &Request{Ctx: c, Site: s, Context: ctx, At: s.receipt(c)}
		if err := r.bounded(); err != nil {
			return r.Fail(err)
		}
		if err := r.identify(); err != nil {
			return r.Fail(err)
		}
		// A page whose session has run out is told so, and not that its form is
		// none of ours: it can ask for the password in place and send again.
		if r.Account == nil && access.Allow(rt.Action, r.Rel, "") == access.SignIn {
			return r.signIn(rt)
		}
		if !rt.Machine {
			if err := r.sameOrigin(rt.Method); err != nil {
				return r.Fail(err)
			}
		}
		state, err := r.find(rt)
		if err != nil {
			return r.Fail(err)
		}
		switch access.Allow(rt.Action, r.Rel, state) {
		case access.NotFound:
			if r.NeedsSecond && rt.Action.ByRole() {
				r.Tell("The office asks for a second factor of everybody who works there. Set it up here, then go on.")
				return r.See("/account")
			}
			return r.Fail(fiber.ErrNotFound)
		case access.SignIn:
			return r.signIn(rt)
		case access.Refused:
			return r.Fail(fiber.NewError(fiber.StatusConflict, refusedIn(rt.Action, r.Rel, state)))
		}
		for _, rule := range rt.Limits {
			if ok, err := rule.Try(ctx, s.DB, r.visitor(), r.At); err != nil || !ok {
				if err == nil {
					err = fiber.NewError(
						fiber.StatusTooManyRequests,
						"This was done very often in a short time. Wait a while and try again; nothing you had kept is lost.",
					)
				}
				return r.Fail(err)
			}
		}
		return r.Fail(rt.Handle(r))
	}
}

// signIn answers somebody who must sign in first.
func (r *Request) signIn(rt Route) error {
	if rt.Method == fiber.MethodGet && !r.Wants("json") {
		return r.Redirect().Status(fiber.StatusSeeOther).To("/sign-in?next=" + url.QueryEscape(r.OriginalURL()))
	}
	return r.Fail(fiber.NewError(fiber.StatusUnauthorized,
		"Your session has run out. Sign in again; what you typed is kept on this page."))
}

// mostFields of a form. The longest page of ours, a budget of 300 lines without scripts, has some 8,000.
const mostFields = 9000

// pieceOfFile is the type of a body that is part of a file, and no form (tus 1.0.0).
const pieceOfFile = "application/offset+octet-stream"

// bounded refuses a form of so many fields that reading it alone costs a core.
func (r *Request) bounded() error {
	body := r.RequestCtx().PostBody()
	kind := r.RequestCtx().Request.Header.ContentType()
	if bytes.Equal(kind, []byte(pieceOfFile)) {
		return nil
	}
	if bytes.Count(body, []byte{'&'}) > mostFields && !bytes.HasPrefix(kind, []byte("multipart/")) ||
		bytes.Count(body, []byte("Content-Disposition:")) > mostFields {
		return fiber.NewError(fiber.StatusRequestEntityTooLarge,
			"This form has more fields than any page of ours. Nothing of it was kept.")
	}
	return nil
}

// visitor is whom limits count by: the account, the personal link, or the
// client's address.
func (r *Request) visitor() string {
	switch {
	case r.Account != nil:
		return "account:" + strconv.FormatInt(r.Account.ID, 10)
	case r.Link.ID != 0:
		return "link:" + strconv.FormatInt(r.Link.ID, 10)
	}
	return "client:" + r.Client()
}

// Client is the network address of who asks. Behind a proxy that the settings
// name it is the last address of X-Forwarded-For that no such proxy has; what a
// client writes there itself stands further left and counts for nothing.
func (r *Request) Client() string {
	last := r.RequestCtx().RemoteIP().String()
	hops := strings.Split(r.Get(fiber.HeaderXForwardedFor), ",")
	for i := len(hops) - 1; i >= 0 && r.Config.Trusts(last); i-- {
		hop := strings.TrimSpace(hops[i])
		if net.ParseIP(hop) == nil {
			break
		}
		last = hop
	}
	return last
}

func refusedIn(a access.Action, r access.Relations, s lifecycle.State) string {
	if !a.Theirs(r) {
		return "This is for others at the office: your role there does not include it."
	}
	switch a {
	case access.SendCase:
		return "Only the lead can send it."
	case access.WriteCase:
		return "This application is " + string(s) + " now; nothing in it can be changed."
	case access.MarkCase, access.StepAside:
		return "This case is " + string(s) + " now; it cannot be marked any more."
	}
	return "This cannot be done now: the application is " + string(s) + "."
}

// ReceiptHeader carries the receipt instant from the server's first sight of
// the headers; what a client sends under this name is thrown away there.
const ReceiptHeader = "X-Ulvant-Receipt"

func (s *Site) receipt(c fiber.Ctx) time.Time {
	if n, err := strconv.ParseInt(c.Get(ReceiptHeader), 10, 64); err == nil {
		return time.Unix(0, n)
	}
	return s.Clock.Now()
}

// identify finds the account of the session cookie.
func (r *Request) identify() error {
	if v := r.Cookies(r.cookie(sessionCookie)); v != "" && r.Site.signer().valid(v) {
		r.token = v
	}
	if v := r.Cookies(r.cookie(seedCookie)); v != "" && r.Site.signer().valid(v) {
		r.seed = v
	}
	if r.token == "" {
		return nil
	}
	var ok bool
	var err error
	if ref := r.Params("ref"); ref != "" { // nearly every request is of this kind: all that lets it in is found at once
		if r.asking, ok, err = r.Desk.Asking(r.Context, r.People.Held(r.token, r.At), ref, r.Query("stage")); err != nil {
			return err
		}
		if ok {
			r.admit(r.asking.Account, r.asking.Reader, r.asking.Roles)
			return r.People.Seen(r.Context, r.token, r.asking.SeenAt, r.At)
		}
	}
	a, ok, err := r.People.Session(r.Context, r.token, r.At)
	if err != nil {
		return err
	}
	if !ok {
		r.token = ""
		return nil
	}
	reader, err := r.Reading.IsReader(r.Context, r.DB, a.ID)
	if err != nil {
		return err
	}
	roles, err := r.People.Roles(r.Context, r.DB, a.ID)
	r.admit(a, reader, roles)
	return err
}

// admit somebody who is signed in.
func (r *Request) admit(a people.Account, reader bool, roles people.Roles) {
	r.Account, r.Reader = &a, reader
	r.Rel |= access.SignedIn
	office := access.Of(roles, access.About{}, r.At)
	if r.NeedsSecond = office.Any(access.Office) && r.Config.OfficeSecond && a.SecondAt == nil; !r.NeedsSecond {
		r.Roles = roles
		r.Rel |= office
	}
	if reader {
		r.Rel |= access.ReaderSomewhere
	}
}

// find loads what the address names and how the asker is related to it.
func (r *Request) find(rt Route) (state lifecycle.State, err error) {
	if r.Demo {
		r.Rel |= access.Demo
	}
	if ref := r.Params("ref"); ref != "" {
		if r.Account == nil {
			return "", nil // nothing about a case is for strangers, not even that it is there
		}
		if r.asking.Case.ID == 0 {
			return "", application.ErrNotFound
		}
		r.Case, r.Round = r.asking.Case, r.asking.Round
		r.Rel |= r.asking.Rel | access.Of(r.Roles, access.About{Programme: r.Round.Programme, Round: r.Round.ID,
			Place: r.asking.Place, Bodies: r.asking.Bodies}, r.At)
		if rt.Action.Reads() {
			if err = r.given(); err != nil {
				return "", err
			}
		}
		if rt.Action.Applies() { // what was decided is seen when its letter has left
			r.Case.State = r.Case.Told
		}
		return r.Case.State, nil
	}
	if key := r.Params("round"); key != "" {
		if r.Round, err = r.Rounds.Find(r.Context, r.DB, key); err != nil {
			return "", err
		}
		r.Rel |= access.Of(r.Roles, access.About{Programme: r.Round.Programme, Round: r.Round.ID,
			Award: r.Params("award")}, r.At)
		if rt.Action == access.Visit && r.Round.DesignID == nil {
			return "", round.ErrNotFound
		}
	}
	if rt.Link != "" {
		if r.Link, err = r.Program.Links.Find(r.Context, r.DB, rt.Link, r.Params("token"), r.At); err != nil {
			if ok, lerr := guesses.Try(r.Context, r.DB, r.Client(), r.At); lerr != nil || !ok {
				return "", fiber.NewError(
					fiber.StatusTooManyRequests,
					"Too many links that do not work came from your address. Wait an hour, then press the link in the mail again.",
				)
			}
			return "", err
		}
		if rt.Link == link.Referee {
			r.Rel |= access.RefereeOf
		}
	}
	return "", nil
}

// Sight is what of the office's lists the asker sees.
func (r *Request) Sight() access.Sight { return access.Sees(r.Roles, r.At) }

// May reports whether the asker may do something else with what the request
// names; for what a page offers.
func (r *Request) May(a access.Action) bool {
	return access.Allow(a, r.Rel, r.Case.State) == access.Allowed
}

// Tries counts one try of something that is guessed at, and reports whether it
// is still allowed.
func (r *Request) Tries(what string) (bool, error) {
	return limit.Rule{Name: what, Most: 8, Per: 15 * time.Minute}.Try(r.Context, r.DB, r.visitor(), r.At)
}

// given turns to the stage that was given to the asker to read, which need not
// be the latest; another that the address names is theirs only when it was
// given to them too.
func (r *Request) given() error {
	if r.Query("stage") != "" {
		if _, err := r.Reading.Find(r.Context, r.DB, r.Case.EntryID, r.Account.ID); err == nil {
			return nil
		}
	}
	entry, err := r.Reading.EntryOf(r.Context, r.DB, r.Case.ID, r.Account.ID)
	if err == nil && entry != 0 && entry != r.Case.EntryID {
		r.Case, err = r.Cases.ByEntry(r.Context, r.DB, entry)
	}
	return err
}

// Actor of the request.
func (r *Request) Actor() db.Actor {
	switch {
	case r.Account != nil:
		return db.Actor{Kind: "account", ID: r.Account.ID, From: r.Client()}
	case r.Link.ID != 0:
		return db.Actor{Kind: "link", ID: r.Link.ID, From: r.Client()}
	}
	return db.Actor{Kind: "nobody", From: r.Client()}
}

// Values are all that a form holds under a name, in order; what stands in the
// address counts only where the form has nothing.
func (r *Request) Values(name string) []string {
	var out []string
	for _, v := range r.RequestCtx().PostArgs().PeekMulti(name) {
		out = append(out, text(string(v)))
	}
	if form, err := r.MultipartForm(); err == nil {
		for _, v := range form.Value[name] {
			out = append(out, text(v))
		}
	}
	if out == nil {
		for _, v := range r.RequestCtx().QueryArgs().PeekMulti(name) {
			out = append(out, text(string(v)))
		}
	}
	return out
}

// text is what of a request's value can be kept: PostgreSQL takes no NUL, and
// nobody typed one.
func text(s string) string { return strings.ReplaceAll(strings.ToValidUTF8(s, "\ufffd"), "\x00", "") }

// FormValue is one value of a form, as text.
func (r *Request) FormValue(name string, def ...string) string {
	return text(r.Ctx.FormValue(name, def...))
}

// Query is one value of the address, as text.
func (r *Request) Query(name string, def ...string) string { return text(r.Ctx.Query(name, def...)) }

// Act runs a use case at the receipt instant.
func (r *Request) Act(f func(ctx context.Context, tx *db.Tx) error) error {
	return r.DB.Do(r.Context, r.Actor(), r.At, f)
}

// Wants reports that the answer should be "json", or a "fragment" for htmx.
func (r *Request) Wants(what string) bool {
	if what == "fragment" {
		return r.Get("HX-Request") == "true"
	}
	return strings.Contains(r.Get(fiber.HeaderAccept), "application/json")
}

// See sends the browser on to another page.
func (r *Request) See(path string) error { return r.Redirect().Status(fiber.StatusSeeOther).To(path) }

// Tell leaves a sentence for the next page this browser is shown.
func (r *Request) Tell(sentence string) {
	r.Cookie(&fiber.Cookie{Name: r.cookie(noticeCookie), Value: url.QueryEscape(sentence), Path: "/", HTTPOnly: true,
		SameSite: "Lax", Secure: r.Config.SecureCookie, MaxAge: 60})
}
