package rounds

import (
	"math"
	"strings"
	"time"

	"ulvant/core/condition"
	"ulvant/core/forecast"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/register"
	"ulvant/core/say"
	"ulvant/internal/desk"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// mostBehind is how many earlier rounds stand behind a pace.
const mostBehind = 5

// paced is a pace with what it says.
type paced struct {
	Label   string
	Picture view.Picture
	Says    []string
}

// behind are the earlier rounds of the programme, with their designs.
func behind(r *site.Request, f *form.Form) ([]round.Round, []*form.Form, error) {
	until := r.Round.ClosesAt
	if until.After(r.At) {
		until = r.At
	}
	list, err := r.Rounds.Before(r.Context, f.Design.Programme, until, mostBehind)
	if err != nil {
		return nil, nil, err
	}
	forms := make([]*form.Form, len(list))
	for i, rd := range list {
		if forms[i], err = r.Rounds.Published(r.Context, r.DB, rd); err != nil {
			return nil, nil, err
		}
	}
	return list, forms, nil
}

// pace draws how a round fills, beside earlier ones, with its forecast: by count or
// by money, of one stream or of all ("").
func pace(r *site.Request, f *form.Form, list []round.Round, forms []*form.Form, inMoney bool,
	stream form.Key) (p paced, err error) {
	fact := func(f *form.Form) string {
		if q := f.Supplying(condition.Stream); q != nil {
			return register.FactOf(q.Key)
		}
		return ""
	}
	window := f.Window()
	now, err := r.Desk.Arrivals(r.Context, r.Round.ID, f.FirstStage(), desk.Window{Opens: window.Opens,
		Closes: window.Closes}, r.At,
		inMoney, fact(f), string(stream))
	if err != nil {
		return p, err
	}
	var earlier []forecast.Round
	for i, rd := range list {
		w := forms[i].Window()
		entries, err := r.Desk.Arrivals(r.Context, rd.ID, forms[i].FirstStage(), desk.Window{Opens: w.Opens,
			Closes: w.Closes}, w.Closes,
			inMoney, fact(forms[i]), string(stream))
		if err != nil {
			return p, err
		}
		if len(entries) > 0 {
			earlier = append(earlier, forecast.Round{Name: strings.TrimPrefix(rd.Name, f.Design.Programme+", "),
				Entries: entries})
		}
	}
	left := leftOf(window.Opens, window.Closes, r.At)
	fc, ok := forecast.Of(now, left, earlier)
	drafts := 0
	for _, e := range now {
		if e.Sent == forecast.Never {
			drafts += max(e.N, 1)
		}
	}
	of, unit := say.Counted, 1.0
	if inMoney {
		of = func(n float64) string { return money.Format(int64(math.Round(n/10_000))*10_000, f.Design.Currency) }
		unit = 100
	}
	p.Picture = view.Pace(window.Closes.Sub(window.Opens), left, now, earlier, fc.Fan(left, 24), of, unit)
	p.Says = say.Pace(say.PaceNow{In: fc.In, Drafts: drafts, Left: left, Open: r.At.Before(window.Closes),
		Begun: r.At.After(window.Opens), Earlier: earlier, Forecast: fc, Ok: ok, Of: of, Money: inMoney})
	return p, nil
}

// leftOf is the share of a window that is left, 1 before it and 0 after it.
func leftOf(opens, closes, now time.Time) float64 {
	return max(0, min(1, closes.Sub(now).Seconds()/closes.Sub(opens).Seconds()))
}
