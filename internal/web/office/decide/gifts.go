package decide

import (
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/say"
	"ulvant/internal/decision"
	"ulvant/internal/web/kit/site"
)

// giftRow is one kind of gift of one case.
type giftRow struct {
	Key   form.Key
	Label string
	Asked string
	Given string // recorded; "" for none
	Typed string // chosen or offered
}

// giftFigure is one kind of gift beside the fund.
type giftFigure struct {
	Label string
	Sum   string
	Has   string // "" when nothing bounds it
	Over  string // more than there is; ""
	Left  string
	Ends  string // the case it does not reach; ""
}

// giftFigures are the gifts beside the fund, with what is chosen and recorded.
func giftFigures(t decision.Table, gifts []decision.GiftLine, currency string) (out []giftFigure) {
	for _, x := range gifts {
		said := func(n int64) string { return say.GiftAmount(x.Gift, n, currency) }
		y := giftFigure{Label: x.Label, Sum: said(x.Sum)}
		if x.Has() > 0 {
			if y.Has = said(x.Has()); x.Left < 0 {
				y.Over = said(-x.Left)
			} else {
				y.Left = said(x.Left)
			}
		}
		if x.Ends >= 0 {
			y.Ends = t.Rows[x.Ends].Title
		}
		out = append(out, y)
	}
	return out
}

// giftRows are the gifts that the case at a place of the order asks for or has.
func giftRows(r *site.Request, gifts []decision.GiftLine, row decision.Row, at int, currency string) (out []giftRow) {
	id := strconv.FormatInt(row.EntryID, 10)
	for _, g := range gifts {
		asked, given := row.AsksOf[g.Key], row.Given[g.Key]
		if asked == 0 && given == 0 {
			continue
		}
		x := giftRow{Key: g.Key, Label: g.Label, Asked: say.GiftAmount(g.Gift, asked, currency),
			Typed: giftTyped(g.Gift, g.Handed.Given[at], currency)}
		if given > 0 {
			x.Given = g.Label + ": " + say.GiftAmount(g.Gift, given, currency)
		}
		if r.Method() == fiber.MethodPost && slices.Contains(r.Values("entry"), id) { // what was typed stays
			x.Typed = r.FormValue("gift:" + string(g.Key) + ":" + id)
		}
		out = append(out, x)
	}
	return out
}

// giftTyped is how much of a gift as it stands in its field; "" for none.
func giftTyped(g form.Gift, units int64, currency string) string {
	switch {
	case units == 0:
		return ""
	case g.InPieces():
		return strconv.FormatInt(units, 10)
	}
	return money.Plain(units, currency)
}

// postedGifts reads what a case is given besides the money; nil where its page asks for
// nothing. wrong is what cannot be read.
func postedGifts(r *site.Request, f *form.Form, id string) (out []decision.GivenGift, wrong string) {
	for _, g := range f.Deciding() {
		name := "gift:" + string(g.Key) + ":" + id
		if len(r.Values(name)) == 0 {
			continue
		}
		if out == nil {
			out = []decision.GivenGift{}
		}
		typed := strings.TrimSpace(r.FormValue(name))
		if typed == "" {
			continue
		}
		units, ok := money.Parse(typed, f.Design.Currency)
		if g.InPieces() {
			n, err := strconv.ParseInt(typed, 10, 32)
			units, ok = n, err == nil && n >= 0
		}
		if !ok {
			return nil, typed
		}
		if units > 0 {
			out = append(out, decision.GivenGift{Gift: g.Key, Units: units})
		}
	}
	return out, ""
}
