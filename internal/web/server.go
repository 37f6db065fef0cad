// Package web serves the site. routes.go joins the rooms; each of them has its
// part of the map, its handlers and its pages.
package web

import (
	"context"
	"embed"
	"errors"
	"io/fs"
	"log/slog"
	"net"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/valyala/fasthttp"

	"ulvant/core/slot"
	"ulvant/internal/program"
	"ulvant/internal/standin/tray"
	"ulvant/internal/web/kit/asset"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

//go:embed static
var static embed.FS

// shipped are the files that ship with the pages, one set for all sites of a process.
var shipped = sync.OnceValues(func() (*asset.Set, error) {
	folder, err := fs.Sub(static, "static")
	if err != nil {
		return nil, err
	}
	return asset.Read(folder)
})

// Bounds of a request's body and time.
const (
	smallBody   = 1 << 20
	largeBody   = slot.MostPlain + 64<<10 // with the form around it
	smallTime   = 10 * time.Second
	largeTime   = 4 * time.Minute // 8 MB at 35 kB/s
	answerTime  = 60 * time.Second
	graceToStop = 20 * time.Second
)

// Server is the site, listening.
type Server struct {
	App      *fiber.App
	Addr     string // set by Listen
	listener net.Listener
	site     *site.Site
	done     chan error
	// Stamped is told each receipt instant as it is stamped; for tests.
	Stamped func(time.Time)
}

const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; media-src 'self'; font-src 'self'; " +
	"connect-src 'self'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'"

// policyFor lets forms lead to the payment desk too, where there is one: pressing
// Pay is a form of ours that is answered with its address.
func policyFor(paydesk string) string {
	if paydesk == "" {
		return policy
	}
	return strings.Replace(policy, "form-action 'self'", "form-action 'self' "+paydesk, 1)
}

// New makes the server. mails is the tray of a demo or test, nil otherwise.
func New(p *program.Program, mails *tray.Tray) (*Server, error) {
	files, err := shipped()
	if err != nil {
		return nil, err
	}
	views, err := view.New(func(name string) string { return files.Folder() + name }, Folders())
	if err != nil {
		return nil, err
	}
	s := &Server{site: &site.Site{Program: p, Views: views, Tray: mails, Demo: mails != nil}, done: make(chan error, 1)}
	s.App = fiber.New(fiber.Config{AppName: "Ulvant", Immutable: true, StreamRequestBody: false, BodyLimit: largeBody,
		ReadTimeout: smallTime,
		IdleTimeout: 90 * time.Second, WriteTimeout: answerTime, ErrorHandler: s.fault})
	s.App.Server().HeaderReceived = s.headerReceived
	s.App.Use(recover.New(recover.Config{EnableStackTrace: true,
		StackTraceHandler: func(_ fiber.Ctx, e any) { slog.Error("a handler panicked", "panic", e) }}))
	guard := helmet.Config{ContentSecurityPolicy: policyFor(p.Config.Paydesk), ReferrerPolicy: "same-origin",
		CrossOriginEmbedderPolicy: "unsafe-none",
		PermissionPolicy:          "camera=(), microphone=(), geolocation=(), payment=(), usb=(), midi=(), display-capture=(), browsing-topics=()"}
	if p.Config.SecureCookie { // the site is reached over TLS, by a proxy that may speak plainly to us
		s.App.Use(func(c fiber.Ctx) error {
			c.Set(fiber.HeaderStrictTransportSecurity, "max-age=63072000; includeSubDomains")
			return c.Next()
		})
	}
	s.App.Use(helmet.New(guard))
	s.App.Use(s.logged)
	// What is made for each request is pressed quickly; a stream must not wait, and what ships
	// with the pages is pressed once.
	s.App.Use(compress.New(compress.Config{Level: compress.LevelBestSpeed, Next: func(c fiber.Ctx) bool {
		return strings.HasPrefix(c.Path(), "/static") || strings.HasSuffix(c.Path(), "/stream")
	}}))
	s.App.Get(files.Folder()+"*", files.Serve)
	s.App.Get("/healthz", func(c fiber.Ctx) error { return c.SendString("ok\n") })
	s.App.Get("/readyz", s.ready)
	for _, rt := range Routes {
		s.App.Add([]string{rt.Method}, rt.Path, s.site.Bind(rt))
	}
	s.App.Use(s.site.Bind(notFound))
	return s, nil
}

// headerReceived stamps the receipt instant before any body is read, and
// gives each request its limits.
func (s *Server) headerReceived(h *fasthttp.RequestHeader) fasthttp.RequestConfig {
	at := s.site.Clock.Now()
	h.Del(site.ReceiptHeader)
	h.Set(site.ReceiptHeader, strconv.FormatInt(at.UnixNano(), 10))
	cfg := fasthttp.RequestConfig{ReadTimeout: smallTime, WriteTimeout: answerTime, MaxRequestBodySize: smallBody}
	path, _, _ := strings.Cut(string(h.RequestURI()), "?")
	if takesFile(string(h.Method()), path) &&
		s.site.Signed(func(name string) string { return string(h.Cookie(name)) }) {
		cfg.ReadTimeout, cfg.MaxRequestBodySize = largeTime, largeBody
	}
	if s.Stamped != nil {
		s.Stamped(at)
	}
	return cfg
}

// takesFile reports an address of a route that takes a file.
func takesFile(method, path string) bool {
	return slices.ContainsFunc(Routes, func(rt site.Route) bool {
		return rt.Large && rt.Method == method && fits(path, rt.Path)
	})
}

// fits reports an address of a route, whose parts after a colon are anything.
func fits(path, route string) bool {
	have, want := strings.Split(path, "/"), strings.Split(route, "/")
	if len(have) != len(want) {
		return false
	}
	for i, part := range want {
		if !strings.HasPrefix(part, ":") && have[i] != part {
			return false
		}
	}
	return true
}

// logged writes one line a request: the route, not the address, so that no
// token and no name gets into the log.
func (s *Server) logged(c fiber.Ctx) error {
	start := time.Now()
	err := c.Next()
	s.site.Health.Saw(start, c.Response().StatusCode(), time.Since(start))
	slog.Info("request", "method", c.Method(), "route", c.Route().Path, "status", c.Response().StatusCode(), "ms",
		time.Since(start).Milliseconds())
	return err
}

// fault answers what fails before a handler: bodies too large or too slow.
func (s *Server) fault(c fiber.Ctx, err error) error {
	status, says := fiber.StatusInternalServerError, "Something went wrong on our side. Try again in a minute."
	var f *fiber.Error
	switch {
	case errors.As(err, &f):
		status, says = f.Code, f.Message
	case errors.Is(err, fasthttp.ErrBodyTooLarge):
		status = fiber.StatusRequestEntityTooLarge
	}
	if status == fiber.StatusRequestEntityTooLarge {
		says = "This is more than we take in one go. Nothing of it was kept here; shorten it, or choose a smaller file."
	}
	if strings.Contains(c.Get(fiber.HeaderAccept), "application/json") {
		return c.Status(status).JSON(fiber.Map{"fault": says})
	}
	html, err := s.site.Views.Page("public/fault", view.Page{Title: "This did not go through", Data: says,
		Now: s.site.Clock.Now()})
	if err != nil {
		return err
	}
	c.Type("html", "utf-8")
	return c.Status(status).Send(html)
}

// most is how far the application's and PostgreSQL's clocks may be apart.
const most = 250 * time.Millisecond

func (s *Server) ready(c fiber.Ctx) error {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	var theirs time.Time
	before := time.Now()
	if err := s.site.DB.GetContext(ctx, &theirs, `SELECT clock_timestamp()`); err != nil {
		return c.Status(fiber.StatusServiceUnavailable).SendString("PostgreSQL does not answer\n")
	}
	after := time.Now()
	if theirs.Before(before.Add(-most)) || theirs.After(after.Add(most)) {
		return c.Status(fiber.StatusServiceUnavailable).SendString("the clocks of the application and of PostgreSQL are " +
			"more than 250 ms apart\n")
	}
	return c.SendString("ready\n")
}

// Folders are the pages of all rooms.
func Folders() (out []view.Folder) {
	for _, room := range Rooms {
		out = append(out, view.Folder{Name: room.Name, Pages: room.Pages, Values: room.Values})
	}
	return out
}

// Views are the pages it draws.
func (s *Server) Views() *view.Set { return s.site.Views }

// Listen on addr; the server answers when Listen returns.
func (s *Server) Listen(addr string) error {
	l, err := net.Listen("tcp", addr)
	if err != nil {
		return err
	}
	s.Addr, s.listener = l.Addr().String(), l
	go func() { s.done <- s.App.Listener(l, fiber.ListenConfig{DisableStartupMessage: true}) }()
	return nil
}

// Stop lets requests under way finish.
func (s *Server) Stop() error {
	if err := s.App.ShutdownWithTimeout(graceToStop); err != nil {
		return err
	}
	s.listener.Close() // one that had not begun to serve would begin now
	if err := <-s.done; !errors.Is(err, net.ErrClosed) {
		return err
	}
	return nil
}
