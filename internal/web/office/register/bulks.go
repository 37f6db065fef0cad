package register

import (
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/internal/bulk"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// mostBulks are listed.
const mostBulks = 60

// bulksPage is what office/register/bulks.html draws.
type bulksPage struct {
	Rows []bulkRow
	Zone *time.Location
}

type bulkRow struct {
	bulk.Bulk
	Label string
	N     int
}

// Bulks lists what the asker did to many cases, the latest first.
func Bulks(r *site.Request) error {
	list, err := r.Program.Bulk.Lately(r.Context, r.DB, r.Account.ID, mostBulks)
	if err != nil {
		return err
	}
	d := bulksPage{Zone: r.Profiles.Zone()}
	for _, b := range list {
		t, err := r.Program.Bulk.Tally(r.Context, r.DB, b.ID)
		if err != nil {
			return err
		}
		d.Rows = append(d.Rows, bulkRow{b, strings.TrimSuffix(b.Act.Label(), "…"),
			t[bulk.Did] + t[bulk.Would] + t[bulk.TakenOff]})
	}
	return r.Draw(fiber.StatusOK, "office/register/bulks", view.Page{Title: "What you did to many", Nav: "register",
		Data: d})
}
