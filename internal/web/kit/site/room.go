package site

import (
	"io/fs"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/platform/limit"
)

// Room is one part of the site: its routes, its pages, and what each page
// draws.
type Room struct {
	Name   string // before the slash in the names of its pages
	Pages  fs.FS  // a template *.html for each page
	Values map[string]any
	Routes []Route
}

// The methods there are. Pages know the first two; files that arrive in pieces use
// the others (tus 1.0.0).
const (
	Get    = fiber.MethodGet
	Post   = fiber.MethodPost
	Head   = fiber.MethodHead
	Patch  = fiber.MethodPatch
	Delete = fiber.MethodDelete
)

// How often one visitor may do what has us write to others, what takes a core
// for a while, and what stays on a disk. People stay far below; who runs into
// one is told to wait.
var (
	Mails = []limit.Rule{{Name: "mails", Most: 60, Per: time.Hour}}
	Costs = []limit.Rule{{Name: "costs", Most: 120, Per: 10 * time.Minute}}
	Fills = []limit.Rule{{Name: "fills", Most: 300, Per: time.Hour}}
)
