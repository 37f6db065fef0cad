package people

import (
	"context"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/calendar"
	"ulvant/core/funder"
	"ulvant/core/refusal"
	kept "ulvant/internal/funder"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/holidays"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// settingsPage is what office/people/settings.html draws.
type settingsPage struct {
	S         funder.Settings
	Version   int
	Channels  []funder.Channel // those there are, and room for more
	Days      []weekday
	Countries []string
	Changed   *kept.Change
	Problem   refusal.Refusal
	Coming    []string // the next days off, in words
	Zone      *time.Location
}

type weekday struct {
	Number int
	Name   string
	On     bool
}

// moreChannels is how many empty lines there are for ways of being helped.
const moreChannels = 2

// comingOff is how many days off are shown.
const comingOff = 6

// Settings shows what holds for the whole office.
func Settings(r *site.Request) error {
	return drawSettings(r, fiber.StatusOK, r.Funder.Now(), refusal.Refusal{})
}

func drawSettings(r *site.Request, status int, s funder.Settings, no refusal.Refusal) error {
	d := settingsPage{S: s, Version: r.Funder.Version(), Countries: holidays.Countries(), Problem: no,
		Zone: r.Funder.Zone()}
	d.Channels = append(d.Channels, s.Help...)
	for range min(moreChannels, funder.MostChannels-len(s.Help)) {
		d.Channels = append(d.Channels, funder.Channel{})
	}
	worked := map[time.Weekday]bool{}
	for _, w := range s.Week() {
		worked[w] = true
	}
	for i := range 7 {
		w := time.Weekday((i + 1) % 7)
		d.Days = append(d.Days, weekday{int(w), w.String(), worked[w]})
	}
	for day, n := calendar.DateOf(r.At, d.Zone), 0; n < 400 && len(d.Coming) < comingOff; n++ {
		if day = day.AddDays(1); r.Funder.Off(day) && worked[day.Weekday()] {
			d.Coming = append(d.Coming, day.Short())
		}
	}
	var err error
	if d.Changed, err = r.Funder.Changed(r.Context); err != nil {
		return err
	}
	return r.Draw(status, "office/people/settings", view.Page{Title: "What holds for the whole office", Nav: "people",
		Data: d})
}

// SetSettings keeps them.
func SetSettings(r *site.Request) error {
	s := funder.Settings{Name: strings.TrimSpace(r.FormValue("name")), Postal: strings.TrimSpace(r.FormValue("postal")),
		Mail: strings.TrimSpace(r.FormValue("mail")), Phone: strings.TrimSpace(r.FormValue("phone")),
		Zone: strings.TrimSpace(r.FormValue("zone")), Country: r.FormValue("country"),
		Closed: strings.TrimSpace(r.FormValue("closed")), Foot: strings.TrimSpace(r.FormValue("foot"))}
	for _, v := range r.Values("workday") {
		if n, err := strconv.Atoi(v); err == nil {
			s.Workdays = append(s.Workdays, n)
		}
	}
	for i := range funder.MostChannels {
		at := strconv.Itoa(i)
		c := funder.Channel{What: strings.TrimSpace(r.FormValue("what" + at)), Reach: strings.TrimSpace(r.FormValue("reach" +
			at)),
			Hours: strings.TrimSpace(r.FormValue("hours" + at)), Reply: strings.TrimSpace(r.FormValue("reply" + at))}
		if c != (funder.Channel{}) {
			s.Help = append(s.Help, c)
		}
	}
	version, _ := strconv.Atoi(r.FormValue("version"))
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		if len(r.Values("workday")) == 0 {
			return refusal.In("workdays", "Choose the days of the week on which you work.")
		}
		return r.Funder.Set(ctx, tx, version, s)
	})
	var no refusal.Refusal
	if refusal.AsUnfit(err, &no) {
		return drawSettings(r, fiber.StatusUnprocessableEntity, s, no)
	}
	if err != nil {
		return err
	}
	if err := r.Funder.Load(r.Context); err != nil {
		return err
	}
	r.Tell("Kept. It holds from now on; what was promised before stays as it was.")
	return r.See("/office/settings")
}
