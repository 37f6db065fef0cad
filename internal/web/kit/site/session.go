package site

import (
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/platform/db"
)

const (
	sessionCookie = "ulvant"
	seedCookie    = "ulvant_seed"
	noticeCookie  = "ulvant_notice"
)

// cookie is the name a cookie goes by: over TLS with the prefix by which a
// browser takes it from this very host alone (RFC 6265bis, 4.1.3.2).
func (s *Site) cookie(name string) string {
	if s.Config.SecureCookie {
		return "__Host-" + name
	}
	return name
}

type signer struct{ key []byte }

func (s *Site) signer() signer { return signer{s.FormKey} }

func (s signer) mac(text string) string {
	h := hmac.New(sha256.New, s.key)
	h.Write([]byte(text))
	return base64.RawURLEncoding.EncodeToString(h.Sum(nil)[:18])
}

// sign marks a random text as ours, so that it can be told from an invented
// one before anything is looked up.
func (s signer) sign(text string) string { return text + "." + s.mac("cookie:"+text) }

func (s signer) valid(v string) bool {
	text, tag, ok := strings.Cut(v, ".")
	return ok && hmac.Equal([]byte(tag), []byte(s.mac("cookie:"+text)))
}

// ticketLife is how long somebody may take between the password and the code.
const ticketLife = 5 * time.Minute

// Ticket says that an account gave its password just now; it stands in the
// page that asks for the second factor.
func (r *Request) Ticket(account int64, hash string) string {
	text := strconv.FormatInt(account, 10) + "-" + strconv.FormatInt(r.At.Add(ticketLife).Unix(), 10)
	return text + "." + r.Site.signer().mac("ticket:"+text+":"+hash)
}

// Ticketed reads a ticket; hash is asked for the account's password hash, so
// that a ticket does not outlive the password it was given for.
func (r *Request) Ticketed(ticket string, hash func(account int64) string) (account int64, ok bool) {
	text, tag, _ := strings.Cut(ticket, ".")
	id, until, _ := strings.Cut(text, "-")
	account, err := strconv.ParseInt(id, 10, 64)
	if err != nil {
		return 0, false
	}
	end, err := strconv.ParseInt(until, 10, 64)
	if err != nil || r.At.Unix() >= end {
		return 0, false
	}
	return account, hmac.Equal([]byte(tag), []byte(r.Site.signer().mac("ticket:"+text+":"+hash(account))))
}

// Signed reports a cookie header with a session or seed of ours; the server
// asks it before it lets a large body in.
func (s *Site) Signed(cookie func(name string) string) bool {
	sg := s.signer()
	return sg.valid(cookie(s.cookie(sessionCookie))) || sg.valid(cookie(s.cookie(seedCookie)))
}

// Token is that of the session, "" when nobody is signed in.
func (r *Request) Token() string { return r.token }

// FormToken is the token that forms carry against cross-site requests: an
// HMAC over the session, or over a seed cookie before there is one.
func (r *Request) FormToken() string {
	base := r.token
	if base == "" {
		if r.seed == "" {
			r.seed = r.Site.signer().sign(rand.Text())
			r.Cookie(&fiber.Cookie{Name: r.cookie(seedCookie), Value: r.seed, Path: "/", HTTPOnly: true, SameSite: "Lax",
				Secure: r.Config.SecureCookie})
		}
		base = r.seed
	}
	return masked(r.Site.signer().mac("form:" + base))
}

// masked writes a token under a fresh pad: pages are compressed, and what
// stands on each of them must not be guessed from their lengths.
func masked(token string) string {
	out := make([]byte, 2*len(token))
	rand.Read(out[:len(token)])
	for i := range len(token) {
		out[len(token)+i] = token[i] ^ out[i]
	}
	return base64.RawURLEncoding.EncodeToString(out)
}

// unmasked reads masked; "" for anything else.
func unmasked(s string) string {
	b, err := base64.RawURLEncoding.DecodeString(s)
	if err != nil || len(b)%2 != 0 {
		return ""
	}
	n := len(b) / 2
	for i := range n {
		b[n+i] ^= b[i]
	}
	return string(b[n:])
}

var errForm = fiber.NewError(fiber.StatusForbidden,
	"This form did not come from our own page, or the page is too old. Open it again; what you typed is still in your browser if you go back.")

// sameOrigin refuses what another site sends: by the browser's own word
// (Sec-Fetch-Site, Origin) and by the form's token.
func (r *Request) sameOrigin(method string) error {
	if method == fiber.MethodGet || method == fiber.MethodHead {
		return nil
	}
	if site := r.Get("Sec-Fetch-Site"); site != "" && site != "same-origin" && site != "none" {
		return errForm
	}
	if o := r.Get(fiber.HeaderOrigin); o != "" && o != "null" {
		if u, err := url.Parse(o); err != nil || u.Host != r.Host() {
			return errForm
		}
	}
	token := r.Get("X-Form-Token")
	if token == "" {
		token = r.FormValue("form_token")
	}
	token = unmasked(token)
	for _, base := range []string{r.token, r.seed} {
		if base != "" && hmac.Equal([]byte(token), []byte(r.Site.signer().mac("form:"+base))) {
			return nil
		}
	}
	return errForm
}

// Begin a session for an account; the old one ends.
func (r *Request) Begin(account int64) error {
	var token string
	var expires time.Time
	err := r.DB.Do(r.Context, db.Actor{Kind: "account", ID: account, From: r.Client()}, r.At,
		func(ctx context.Context, tx *db.Tx) error {
			raw, exp, err := r.People.Begin(ctx, tx, account, r.token, r.Site.signer().sign)
			token, expires = raw, exp
			return err
		})
	if err != nil {
		return err
	}
	r.token = token
	r.Cookie(&fiber.Cookie{Name: r.cookie(sessionCookie), Value: token, Path: "/", HTTPOnly: true, SameSite: "Lax",
		Secure: r.Config.SecureCookie, Expires: expires})
	return nil
}

// End the session.
func (r *Request) End() error {
	if r.token != "" {
		if err := r.Act(func(ctx context.Context, tx *db.Tx) error { return r.People.End(ctx, tx, r.token) }); err != nil {
			return err
		}
	}
	r.token = ""
	r.Cookie(&fiber.Cookie{Name: r.cookie(sessionCookie), Path: "/", MaxAge: -1, Expires: time.Unix(1, 0),
		Secure: r.Config.SecureCookie})
	return nil
}
