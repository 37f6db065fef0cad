package today

import (
	"slices"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/award"
	"ulvant/internal/decision"
	"ulvant/internal/round"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// giftsPage is what office/today/gifts.html draws: the awards somebody gives.
type giftsPage struct{ Gifts []gift }

// gift is one award as its donor sees it: no application, and no name of anybody
// who was not told.
type gift struct {
	form.Award
	Round            round.Round
	Worth            string
	Applied          string
	Opens, Closes    time.Time
	Panel            string // when the panel meets and answers go out, in words
	Zone             *time.Location
	Href             string
	OpenNow, Started bool
	For              string // whom it is for, in its criteria; "" for everybody who may apply
	Holders          []holder
}

// holder is somebody who was told that the award is theirs, and why it is.
type holder struct {
	decision.Holder
	Sum   string
	Words []award.Piece // of an answer that readers read, in which what it asks for stands
}

// Gifts lists the awards that the asker gives.
func Gifts(r *site.Request) error {
	var d giftsPage
	for _, h := range r.Roles {
		if h.Role != access.Gives || h.Over(r.At) {
			continue
		}
		rd, err := r.Rounds.ByID(r.Context, r.DB, h.Round)
		if err != nil {
			return err
		}
		g, ok, err := giftOf(r, rd, h.Award)
		if err != nil {
			return err
		}
		if ok {
			d.Gifts = append(d.Gifts, g)
		}
	}
	return r.Draw(fiber.StatusOK, "office/today/gifts", view.Page{Title: "My awards", Nav: "gifts", Data: d})
}

// Gift shows one award as its donor sees it.
func Gift(r *site.Request) error {
	g, ok, err := giftOf(r, r.Round, r.Params("award"))
	if err != nil {
		return err
	}
	if !ok {
		return fiber.ErrNotFound
	}
	return r.Draw(fiber.StatusOK, "office/today/gifts", view.Page{Title: g.Label, Nav: "gifts",
		Data: giftsPage{[]gift{g}}})
}

func giftOf(r *site.Request, rd round.Round, key string) (g gift, ok bool, err error) {
	f, err := r.Rounds.Published(r.Context, r.DB, rd)
	if err != nil {
		return g, false, err
	}
	for _, a := range f.Design.Awards {
		if string(a.Key) != key {
			continue
		}
		n, err := r.Desk.Applied(r.Context, rd.ID, key)
		if err != nil {
			return g, false, err
		}
		holders, err := holdersOf(r, rd, f, a)
		if err != nil {
			return g, false, err
		}
		w := f.Window()
		place := slices.IndexFunc(f.Design.Awards, func(x form.Award) bool { return x.Key == a.Key })
		return gift{Holders: holders, For: say.ForWhom(say.Criteria(f, place)), Award: a, Round: rd,
			Worth: a.Sentence(f.Design.Currency), Applied: say.Applied(n),
			Opens:  w.Opens,
			Closes: w.Closes, Panel: f.At(form.AnswerOn).In(f.Zone).Format("Monday 2 January 2006"), Zone: f.Zone,
			Href: "/office/rounds/" + rd.Key + "/awards/" + key, Started: !r.At.Before(w.Opens),
			OpenNow: !r.At.Before(w.Opens) && r.At.Before(w.Closes)}, true, nil
	}
	return g, false, nil
}

// holdersOf are those who have an award and were told, with what of it they met; an
// answer is shown only where readers read it too.
func holdersOf(r *site.Request, rd round.Round, f *form.Form, a form.Award) (out []holder, err error) {
	list, err := r.Decisions.HoldersOf(r.Context, r.DB, rd.ID, a.Key)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	for _, h := range list {
		x := holder{Holder: h}
		if h.Amount > 0 {
			x.Sum = money.Format(h.Amount, f.Design.Currency)
		}
		if q := f.Question(a.WordsIn); q != nil && q.ForReaders() {
			pairs, err := r.Awards.OfPerson(r.Context, r.DB, rd, f, award.Placing{}, h.Ref)
			if err != nil {
				return nil, err
			}
			for _, p := range pairs {
				if p.Award == a.Key && len(p.Said) > 0 {
					x.Words = p.Said[len(p.Said)-1].Pieces
				}
			}
		}
		out = append(out, x)
	}
	return out, nil
}
