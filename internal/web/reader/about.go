package reader

import (
	"context"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/platform/db"
	"ulvant/internal/reading"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// aboutPage is what reader/about.html draws: what a round knows of a reader, said by
// themselves, and the way out of it.
type aboutPage struct {
	R         reading.Reader
	RoundName string
	RoundKey  string
	Fields    []form.Option
	Tongues   []form.Option
	Tongue    string
	Field     string
	Due       time.Time
	Zone      *time.Location
	Most      string
	From, To  string
	Wrong     refusal.Refusal
}

// Has reports that the reader knows a field.
func (d aboutPage) Has(key form.Key) bool { return slices.Contains(d.R.Fields, string(key)) }

// mine is the asker as a reader of the round; not found for anybody else.
func mine(r *site.Request) (reading.Reader, error) {
	list, err := r.Reading.Readers(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return reading.Reader{}, err
	}
	i := slices.IndexFunc(list, func(x reading.Reader) bool { return x.Account == r.Account.ID && x.Reads() })
	if i < 0 {
		return reading.Reader{}, fiber.ErrNotFound
	}
	return list[i], nil
}

// Reads reports a language that the reader reads.
func (d aboutPage) Reads(key form.Key) bool { return slices.Contains(d.R.Languages, string(key)) }

// About shows what the round knows of the reader who asks.
func About(r *site.Request) error {
	x, err := mine(r)
	if err != nil {
		return err
	}
	d := aboutPage{R: x}
	if x.OwnMost != nil {
		d.Most = strconv.Itoa(*x.OwnMost)
	}
	if x.AwayFrom != nil && x.AwayTo != nil {
		d.From, d.To = x.AwayFrom.Format(time.DateOnly), x.AwayTo.Format(time.DateOnly)
	}
	return drawAbout(r, fiber.StatusOK, d)
}

func drawAbout(r *site.Request, status int, d aboutPage) error {
	f, err := r.Rounds.Published(r.Context, r.DB, r.Round)
	if err != nil {
		return err
	}
	d.RoundName, d.RoundKey, d.Due, d.Zone = r.Round.Name, r.Round.Key, f.At(form.ReadingEnd), f.Zone
	if q := f.Question(f.Design.Field); q != nil {
		d.Fields, d.Field = f.Options(q), q.Label
	}
	if q := f.Question(f.Design.Language); q != nil {
		d.Tongues, d.Tongue = f.Options(q), q.Label
	}
	return r.Draw(status, "reader/about", view.Page{Title: "You as a reader", Nav: "reading", Data: d})
}

// SayAbout keeps what a reader says of themselves, or that they cannot read.
func SayAbout(r *site.Request) error {
	x, err := mine(r)
	if err != nil {
		return err
	}
	f, err := r.Rounds.Published(r.Context, r.DB, r.Round)
	if err != nil {
		return err
	}
	d := aboutPage{Most: strings.TrimSpace(r.FormValue("most")), From: r.FormValue("from"), To: r.FormValue("to")}
	x, err = x.With(reading.Typed{Fields: r.Values("field"), Languages: r.Values("language"),
		Interests: r.FormValue("interests"), Knows: r.FormValue("knows"), Organisation: r.FormValue("organisation"),
		Most: d.Most, From: d.From, To: d.To})
	d.R = x
	if refusal.AsUnfit(err, &d.Wrong) {
		return drawAbout(r, fiber.StatusUnprocessableEntity, d)
	}
	decline := r.FormValue("do") == "decline"
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		if decline {
			return r.Reading.Decline(ctx, tx, r.Round, x.Account, r.FormValue("why"))
		}
		return r.Reading.Describe(ctx, tx, r.Round, f, x)
	})
	if refusal.AsUnfit(err, &d.Wrong) {
		return drawAbout(r, fiber.StatusUnprocessableEntity, d)
	}
	if err != nil {
		return err
	}
	if decline {
		r.Tell("You read no more in this round. The office gives your cases to somebody else; what you have sent stands.")
		return r.See("/")
	}
	r.Tell("Kept. Cases are found for you by it.")
	return r.See("/reading/about/" + string(r.Round.Key))
}
