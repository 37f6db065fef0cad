package guest

import (
	"slices"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/request"
	"ulvant/internal/desk"
	"ulvant/internal/platform/link"
	"ulvant/internal/reference"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// asked is one thing asked of an address, as its person sees it.
type asked struct {
	What  string // a letter, a confirmation …
	Who   string // who asks
	For   string
	Round string
	Due   time.Time // zero: no date
	Zone  *time.Location
	Move  lifecycle.Move
	Says  string // how it stands
	Path  string // "" when its link has run out
	Here  bool   // it is the one the page is about
	Mine  bool   // it is their move
}

// everything lists all that is asked of an address: what waits for them first,
// soonest due first, then the rest.
func everything(r *site.Request, email string) ([]asked, error) {
	if email == "" {
		return nil, nil
	}
	list, err := r.Desk.WantedOf(r.Context, email, r.At)
	if err != nil {
		return nil, err
	}
	var entries []int64
	for _, w := range list {
		if w.EntryID != 0 {
			entries = append(entries, w.EntryID)
		}
	}
	cases, err := r.Cases.ByEntries(r.Context, r.DB, entries)
	if err != nil {
		return nil, err
	}
	out := make([]asked, 0, len(list))
	for _, w := range list {
		a := asked{Who: w.Who, For: w.About, Zone: time.UTC}
		if w.LinkID != 0 {
			a.Path = r.Program.Links.PathOf(w.Purpose, w.LinkID, w.Generation)
			a.Here = r.Link.ID == w.LinkID
		}
		if c, ok := cases[w.EntryID]; ok {
			f, err := r.Rounds.Form(r.Context, r.DB, c.DesignID)
			if err != nil {
				return nil, err
			}
			x := reference.Referee{Question: w.Question, State: form.LetterState(w.State), Until: w.Until}
			a.Who, a.For, a.Round, a.Zone, a.Due = c.LeadName, c.Title, c.RoundName, f.Zone, x.Due(f, c)
			a.letter(f, x, x.Takes(f, c, c.State.Open() && r.At.Before(a.Due), r.At))
		} else {
			a.other(w)
		}
		out = append(out, a)
	}
	slices.SortStableFunc(out, func(a, b asked) int {
		switch {
		case a.Mine != b.Mine:
			if a.Mine {
				return -1
			}
			return 1
		case a.Mine:
			return a.Due.Compare(b.Due)
		}
		return 0
	})
	return out, nil
}

// letter says how a request of a case stands.
func (a *asked) letter(f *form.Form, x reference.Referee, open bool) {
	a.What, a.Move = "A letter", lifecycle.Nobody
	confirms := false
	if q := f.Question(x.Question); q != nil && q.Confirms() {
		a.What, confirms = "A confirmation", true
	}
	switch {
	case x.Sent() && confirms:
		a.Says = "You have confirmed it."
	case x.Sent():
		a.Says = "Sent. Nothing more is needed."
	case x.State == form.Declined:
		a.Says = "You said that you cannot do it."
	case !open:
		a.Says = "It can no longer be taken here."
	case request.Awaited(x.State):
		a.Mine, a.Move = true, lifecycle.Third
		switch x.State {
		case form.Uploaded:
			a.Says = "Put up, but NOT SENT."
		case form.Accepted:
			a.Says = "You said yes; nothing is put up yet."
		default:
			a.Says = "You have not answered yet."
		}
	}
}

// other says how what is asked outside an application stands.
func (a *asked) other(w desk.Wanted) {
	a.Move = lifecycle.Nobody
	switch w.Purpose {
	case link.Officer:
		a.What = "Whether you may sign for it"
	case link.Sponsor:
		a.What, a.For = "Whether “"+w.About+"” holds money", w.Who
	case link.Team:
		a.What = "Whether you join in"
	}
	switch w.State {
	case "asked":
		a.Mine, a.Move, a.Says = true, lifecycle.Third, "You have not answered yet."
	case "confirmed":
		a.Says = "You have confirmed it."
	case "refused":
		a.Says = "You have refused it."
	}
}

// everythingPage is what guest/everything.html draws.
type everythingPage struct {
	Email string
	All   []asked
	Mine  int // things that are theirs to do
	Back  string
	Known bool // somebody with an account looks
}

func pageOf(all []asked, email, back string, known bool) everythingPage {
	d := everythingPage{Email: email, All: all, Back: back, Known: known}
	for _, a := range all {
		if a.Mine {
			d.Mine++
		}
	}
	return d
}

// Everything shows who comes by a link all that is asked of their address.
func Everything(r *site.Request) error {
	email, err := r.Desk.AddressOf(r.Context, r.Link.Purpose, r.Link.Subject)
	if err != nil {
		return err
	}
	all, err := everything(r, email)
	if err != nil {
		return err
	}
	for i := range all {
		all[i].Here = false
	}
	return r.Draw(fiber.StatusOK, "guest/everything", view.Page{Title: "Everything asked of you",
		Data: pageOf(all, email, "/"+string(r.Link.Purpose)+"/"+r.Params("token"), false)})
}

// AskedOfMe shows somebody with an account the same, for their own address.
func AskedOfMe(r *site.Request) error {
	all, err := everything(r, r.Account.Email)
	if err != nil {
		return err
	}
	return r.Draw(fiber.StatusOK, "guest/everything", view.Page{Title: "Everything asked of you", Nav: "asked",
		Data: pageOf(all, r.Account.Email, "", true)})
}
