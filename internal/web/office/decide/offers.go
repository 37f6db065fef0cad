package decide

import (
	"context"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/money"
	core "ulvant/core/offer"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/offer"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// offersPage is what office/decide/offers.html draws.
type offersPage struct {
	Key        string
	Offers     bool // the design offers what is awarded
	Placed     bool // the round gives awards
	Answers    []answered
	Rows       []offerRow
	Only       core.Answer // "" for all
	From, Upto int
	Prev, Next string
	May        bool
	Up         string // who can move up from the reserve; "" for nobody
	Promises   []string
	One        int64 // the offer that something was wrong with
	Wrong      refusal.Refusal
	Why, Until string // as typed
}

// answered counts the offers with one answer.
type answered struct {
	Answer core.Answer
	Says   string
	N      int
	Sum    string // "" where awards of it have none
}

// offerRow is one offer of the list.
type offerRow struct {
	offer.Listed
	What string
	Due  string
	Soon bool // it ends within two working days
	Said string
	Open bool
	Back bool
	Acts []act
}

// act is what the office can put in.
type act struct {
	Answer core.Answer
	Says   string
}

// Offers lists what was offered in a round, and what became of it.
func Offers(r *site.Request) error { return drawOffers(r, fiber.StatusOK, 0, refusal.Refusal{}) }

func drawOffers(r *site.Request, status int, one int64, wrong refusal.Refusal) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := offersPage{Key: r.Round.Key, Offers: f.Offers(), Placed: len(f.Design.Awards) > 0, May: r.May(access.MindOffers),
		One: one, Wrong: wrong, Why: r.FormValue("why"), Until: r.FormValue("until")}
	if f.Offers() {
		d.Promises = f.Design.Offer.Promises
	}
	if only := core.Answer(r.FormValue("answer")); slices.Contains(core.Answers, only) && r.Method() == fiber.MethodGet {
		d.Only = only
	}
	sums, err := r.Program.Offers.Sums(r.Context, r.DB, r.Round.ID)
	if err != nil {
		return err
	}
	all := 0
	for _, s := range sums {
		a := answered{s.Answer, say.OfferAnswer(s.Answer), s.N, ""}
		if s.Sum > 0 {
			a.Sum = money.Format(s.Sum, f.Design.Currency)
		}
		d.Answers = append(d.Answers, a)
		if d.Only == "" || d.Only == s.Answer {
			all += s.N
		}
	}
	from, _ := strconv.Atoi(r.FormValue("from"))
	from = max(min(from, all-1), 0) / office.PerPage * office.PerPage
	list, err := r.Program.Offers.List(r.Context, r.DB, r.Round.ID, d.Only, from, office.PerPage)
	if err != nil {
		return err
	}
	at := func(n int) string { return "?answer=" + string(d.Only) + "&from=" + strconv.Itoa(n) }
	if from > 0 {
		d.Prev = at(from - office.PerPage)
	}
	if d.From, d.Upto = from+1, from+len(list); d.Upto < all {
		d.Next = at(d.Upto)
	}
	soon := f.WorkingDaysAfter(r.At, core.RemindDays)
	for _, o := range list {
		row := offerRow{Listed: o, What: o.What(f), Due: say.Until(o.DueAt, f.Zone), Open: o.Answer == core.Open,
			Back: o.Answer.CameBack(), Said: say.OfferAnswer(o.Answer)}
		row.Soon = row.Open && !o.DueAt.After(soon)
		if o.AnsweredAt != nil {
			row.Said += " on " + calendar.DateOf(*o.AnsweredAt, f.Zone).Short()
		}
		for _, a := range []act{{core.Accepted, "they accept it"}, {core.Declined, "they decline it"},
			{core.Open, "open it again"}} {
			if core.May(o.Answer, a.Answer, core.Office, o.DueAt, r.At) == nil {
				row.Acts = append(row.Acts, a)
			}
		}
		d.Rows = append(d.Rows, row)
	}
	if d.Up, err = movesUp(r); err != nil {
		return err
	}
	return office.Draw(r, status, "office/decide/offers", "Offers, "+r.Round.Name, "decisions", f, d)
}

// movesUp is who can move up from the reserve now.
func movesUp(r *site.Request) (string, error) {
	f, err := office.Form(r)
	if err != nil || !f.Offers() {
		return "", err
	}
	stage, err := stageOf(r, f)
	if err != nil {
		return "", err
	}
	t, err := r.Decisions.Order(r.Context, r.DB, r.Round, f, stage)
	if err != nil {
		return "", err
	}
	p, err := r.Decisions.Proposed(r.Context, r.DB, f, t)
	if p == nil || err != nil {
		return "", err
	}
	return p.Row.Title, nil
}

// MindOffer puts an answer in for somebody, opens an offer again, or gives more time.
func MindOffer(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	id, _ := strconv.ParseInt(r.Params("offer"), 10, 64)
	do := r.FormValue("do")
	err = r.Act(func(ctx context.Context, tx *db.Tx) error {
		if do != "time" {
			return r.Program.Offers.Put(ctx, tx, r.Round.ID, id, core.Answer(do), r.FormValue("why"))
		}
		day, ok := calendar.ParseDate(strings.TrimSpace(r.FormValue("until")))
		if !ok {
			return refusal.In("until", "Choose the last day on which they can answer.")
		}
		until, _ := calendar.At(day, 24, 0).In(f.Zone)
		return r.Program.Offers.Extend(ctx, tx, r.Round.ID, id, until, r.FormValue("why"))
	})
	if no, ok := refusal.Of(err); ok {
		return drawOffers(r, fiber.StatusUnprocessableEntity, id, no)
	}
	if err != nil {
		return err
	}
	r.Tell("It is kept, and they have a mail that says so.")
	return r.See("/office/rounds/" + r.Round.Key + "/offers")
}
