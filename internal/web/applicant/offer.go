package applicant

import (
	"context"
	"errors"
	"slices"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	core "ulvant/core/offer"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/offer"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/kit/site"
)

// onOffer is one thing that is offered, as whoever leads the case reads it.
type onOffer struct {
	At       string // where it is answered
	What     string // “Loft Bequest”, €2,000
	Short    string // on a button: it, or €2,000
	Donor    string // "" where none is named
	Until    string // the last day to answer
	Said     string // what was answered; "" while it is open
	Why      string // as it stands with the answer
	Open     bool
	Takes    bool // it is accepted
	May      bool // whoever looks may answer
	Lead     string
	Promises []promised
	Typed    string // a reason that could not be taken
}

// promised is a statement to tick.
type promised struct {
	Says   string
	Ticked bool
}

// offersOf the case in hand.
func offersOf(r *site.Request, f *form.Form) (out []onOffer, err error) {
	list, err := r.Offers.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return nil, err
	}
	ticked := r.Values("promise")
	for _, o := range list {
		id := strconv.FormatInt(o.ID, 10)
		here := r.Method() == fiber.MethodPost && r.Params("offer") == id
		x := onOffer{At: "/applications/" + r.Case.Ref + "/offers/" + id + r.Case.Query(), What: o.What(f), Short: "it",
			Until: say.Until(
				o.DueAt,
				f.Zone,
			), Open: o.Answer == core.Open && r.At.Before(o.DueAt), Takes: o.Answer == core.Accepted,
			May: r.May(access.AnswerOffer), Lead: r.Case.LeadName, Why: o.Why}
		if o.Award == "" {
			x.Short = o.What(f)
		} else if a, ok := f.Design.Award(o.Award); ok {
			x.Donor = a.Donor
		}
		if o.AnsweredAt != nil {
			x.Said = say.OfferAnswered(o.Answer, *o.AnsweredAt, f.Zone, o.ByID.Valid && o.ByID.Int64 != r.Case.LeadID)
		} else if !x.Open {
			x.Said = "The day by which it could be answered is over."
		}
		if f.Offers() {
			for _, p := range f.Design.Offer.Promises {
				x.Promises = append(x.Promises, promised{p, here && slices.Contains(ticked, p)})
			}
		}
		if here {
			x.Typed = r.FormValue("why")
		}
		out = append(out, x)
	}
	return out, nil
}

// AnswerOffer accepts or declines one thing that is offered.
func AnswerOffer(r *site.Request) error {
	id, _ := strconv.ParseInt(r.Params("offer"), 10, 64)
	says := ""
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		owner, err := r.Offers.EntryOf(ctx, tx, id)
		if errors.Is(err, offer.ErrNone) || err == nil && owner != r.Case.EntryID {
			return fiber.ErrNotFound
		}
		if err != nil {
			return err
		}
		switch r.FormValue("do") {
		case "accept":
			says = "You have accepted. We have sent you a mail that says so."
			return r.Offers.Accept(ctx, tx, r.Case.RoundID, id, r.Values("promise"))
		case "decline":
			says = "You have declined. We have sent you a mail that says so."
			return r.Offers.Decline(ctx, tx, r.Case.RoundID, id, r.FormValue("why"))
		}
		return fiber.ErrBadRequest
	})
	if no, ok := refusal.Of(err); ok {
		return drawSent(r, fiber.StatusUnprocessableEntity, no)
	}
	if err != nil {
		return err
	}
	r.Tell(says)
	return r.See("/applications/" + r.Case.Ref + "/sent" + r.Case.Query())
}
