// Package office is what the desks of the office share: the frame of a round's
// pages, the pages of long lists, and what waits for the office to do.
package office

import (
	"strconv"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// PerPage is how many rows of an order stand on one page.
const PerPage = 100

// RoundPage is what every page of a round shows above its own part.
type RoundPage[T any] struct {
	Whole    bool // the asker sees all of the round, and not a part alone
	Round    round.Round
	Key      string
	Name     string
	Desk     string
	Form     *form.Form
	Strand   view.Picture
	All      int
	Open     int // checks
	Asks     int // questions that wait for an answer
	Currency string
	Data     T // its own part
}

// Draw draws a page of the request's round; at names the tab it stands under.
func Draw[T any](r *site.Request, status int, page, title, at string, f *form.Form, data T) error {
	p, err := Frame(r, at, f, data)
	if err != nil {
		return err
	}
	return r.Draw(status, page, view.Page{Title: title, Nav: "rounds", Data: p})
}

// Frame is what stands above a page of the request's round.
func Frame[T any](r *site.Request, at string, f *form.Form, data T) (p RoundPage[T], err error) {
	counts, err := r.Desk.Counts(r.Context, r.Round.ID)
	if err != nil {
		return p, err
	}
	open, err := r.Desk.OpenChecksOf(r.Context, r.Round.ID)
	if err != nil {
		return p, err
	}
	p = RoundPage[T]{Round: r.Round, Key: r.Round.Key, Name: r.Round.Name, Desk: at, Form: f, Currency: f.Design.Currency,
		Whole: r.May(access.SeeWhole), Data: data}
	for _, o := range open {
		p.Open = o.N
	}
	waiting, err := r.Desk.OpenEnquiries(r.Context)
	if err != nil {
		return p, err
	}
	for _, w := range waiting {
		if w.RoundKey == p.Key {
			p.Asks = w.N
		}
	}
	in := 0
	for _, c := range counts {
		p.All += c.N
		if c.State.Is(lifecycle.In) {
			in += c.N
		}
	}
	labels := map[form.Key]string{}
	if p.All > 0 {
		labels[f.FirstStage()] = strconv.Itoa(in) + " in"
	}
	p.Strand = view.Strand(f, r.At, labels, at != "overview")
	return p, nil
}

// Form is the design of the request's round as it is published.
func Form(r *site.Request) (*form.Form, error) {
	return r.Rounds.Published(r.Context, r.DB, r.Round)
}

// PageOf cuts a list that was asked for with one row more than a page has; next
// leads to the rest, "" when there is none.
func PageOf[T any](list []T, entry func(T) int64) (page []T, next string) {
	if len(list) <= PerPage {
		return list, ""
	}
	list = list[:PerPage]
	return list, "?after=" + strconv.FormatInt(entry(list[PerPage-1]), 10)
}

// After is the entry after which a page of a long list begins; 0 for its first page.
func After(r *site.Request) int64 {
	n, _ := strconv.ParseInt(r.Query("after"), 10, 64)
	return n
}
