package proof

import (
	"fmt"
	"strings"

	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/money"
)

// fees finds what the fees of a round say and never do.
func (p *prover) fees() {
	d := p.f.Design
	if len(d.Fees) == 0 {
		return
	}
	say := func(g Grade, path, format string, args ...any) {
		p.found(Finding{Grade: g, Code: FeesAsk, Path: path, Says: fmt.Sprintf(format, args...)})
	}
	if !p.f.AsksFees() {
		say(ThinkAgain, "fees", "The round has fees, and no question asks about them: nobody pays anything.")
	}
	w := p.f.Window()
	price := map[form.Key]form.Price{}
	for i := range d.Fees {
		x := &d.Fees[i]
		price[x.Key] = x.Price.Else
		for _, c := range append([]form.Case[form.Price]{{Then: x.Price.Else}}, x.Price.When...) {
			for _, r := range c.Then.Later {
				if at := p.f.At(r.From); !at.Before(w.Closes) {
					say(
						ThinkAgain,
						"fees/"+string(x.Key),
						"“%s” costs %s from %s on, when the round is closed: nobody ever pays that.",
						x.Label,
						money.Format(r.Amount, d.Currency),
						p.moment(r.From),
					)
				} else if !at.After(w.Opens) {
					say(ThinkAgain, "fees/"+string(x.Key),
						"“%s” costs %s from %s on, before the round opens: nobody ever pays the price before it.",
						x.Label, money.Format(r.Amount, d.Currency), p.moment(r.From))
				}
			}
		}
	}
	for i := range d.Fees {
		x := &d.Fees[i]
		if x.What != form.FeeBundle || len(x.Price.When) > 0 {
			continue
		}
		sum, plain := int64(0), true
		for _, k := range x.Of {
			f := p.fee(k)
			plain = plain && f != nil && len(f.Price.When) == 0
			sum += price[k].Amount
		}
		if plain && x.Price.Else.Amount >= sum {
			say(
				ThinkAgain,
				"fees/"+string(x.Key),
				"“%s” costs %s, and what is in it %s by itself: nobody is ever given the bundle.",
				x.Label,
				money.Format(x.Price.Else.Amount, d.Currency),
				money.Format(sum, d.Currency),
			)
		}
	}
	for _, c := range d.Codes {
		path := "codes/" + string(c.Key)
		if c.Percent == 0 && c.Off == 0 {
			say(ThinkAgain, path, "The code “%s” takes nothing off.", c.Code)
		}
		if at := c.Until; !at.IsZero() && at < calendar.DateOf(w.Opens, p.f.Zone) {
			say(ThinkAgain, path, "The code “%s” ends on %s, before the round opens.", c.Code, at.Words())
		}
	}
	if pay := d.Payment; pay != nil && pay.Invoice && strings.TrimSpace(pay.Account) == "" {
		say(ThinkAgain, "payment", "One may ask for an invoice, and it does not say into which account it is paid.")
	}
}

func (p *prover) fee(k form.Key) *form.Fee {
	for i := range p.f.Design.Fees {
		if p.f.Design.Fees[i].Key == k {
			return &p.f.Design.Fees[i]
		}
	}
	return nil
}
