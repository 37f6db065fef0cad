package public

import (
	"html/template"
	"net/url"
	"regexp"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/standin/tray"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

const mailsShown = 60

// trayPage is what public/tray.html draws.
type trayPage struct {
	Mails []tray.Mail
	More  bool
	To    string
	Zone  *time.Location
}

// Tray shows the mails that the stand-in took.
func Tray(r *site.Request) error {
	mails, more := r.Site.Tray.List(r.Query("to"), 0, mailsShown)
	return r.Draw(fiber.StatusOK, "public/tray", view.Page{Title: "Mail tray", Nav: "tray",
		Data: trayPage{Mails: mails, More: more, To: r.Query("to"), Zone: time.Local}})
}

var address = regexp.MustCompile(`https?://[^\s<>"]+`)

// mailPage is what public/mail.html draws.
type mailPage struct {
	M    tray.Mail
	Body template.HTML
	Zone *time.Location
}

// Mail shows one, with the links of this site made to press.
func Mail(r *site.Request) error {
	m, ok := r.Site.Tray.Find(r.Params("mail"))
	if !ok {
		return fiber.ErrNotFound
	}
	var b strings.Builder
	last := 0
	for _, at := range address.FindAllStringIndex(m.Body, -1) {
		link := m.Body[at[0]:at[1]]
		b.WriteString(template.HTMLEscapeString(m.Body[last:at[0]]))
		last = at[1]
		u, err := url.Parse(link)
		if err != nil || !strings.HasPrefix(link, r.Config.BaseURL+"/") {
			b.WriteString(template.HTMLEscapeString(link))
			continue
		}
		b.WriteString(`<a href="` + template.HTMLEscapeString(u.Path) + `">` + template.HTMLEscapeString(link) + `</a>`)
	}
	b.WriteString(template.HTMLEscapeString(m.Body[last:]))
	return r.Draw(fiber.StatusOK, "public/mail", view.Page{Title: m.Subject, Nav: "tray",
		Data: mailPage{M: m, Body: template.HTML(b.String()), Zone: time.Local}})
}

// Attachment gives the file that came with a mail, as a download.
func Attachment(r *site.Request) error {
	m, ok := r.Site.Tray.Find(r.Params("mail"))
	if !ok || m.Attachment == "" {
		return fiber.ErrNotFound
	}
	return r.Download(m.Attachment, "application/pdf", m.Bytes)
}
