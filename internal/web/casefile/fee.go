package casefile

import (
	"fmt"
	"slices"
	"time"

	corefee "ulvant/core/fee"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/fee"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/sealcopy"
)

// FeeView is the fee of a case as anybody reads it who may see it.
type FeeView struct {
	Lines  []say.ChargeLine
	Total  string // as it was charged
	LetOff string // what is asked no longer; "" for nothing
	Stands string
	Rest   string // still to be paid; "" for nothing
	Owed   string // owed to whoever paid; "" for nothing
	PayBy  string // until when; "" when nothing can be paid
	Moves  []FeeMove
	Zone   *time.Location
	In     bool
	Over   bool
}

// FeeMove is a payment, or money that goes back.
type FeeMove struct {
	At      time.Time
	What    string
	Detail  string
	Sum     string
	Receipt int64 // of a payment
	Back    bool
	Waits   bool // it is not done yet
	Key     string
	Reason  string
	State   corefee.State
	Bank    bool
}

// Fee draws a charge as it stands at an instant.
func Fee(f *form.Form, x *fee.Charge, at time.Time) FeeView {
	sum := func(n int64) string { return money.Format(n, x.Currency) }
	rest := x.Fee.Rest()
	v := FeeView{Lines: x.Lines, Total: sum(x.Total), Zone: f.Zone, In: x.Fee.Stand == corefee.In,
		Over:   x.Fee.Stand == corefee.Over,
		Stands: say.FeeStand(x.Fee.Stand, x.Fee.Invoice, rest, sum(rest))}
	if off := x.LetOff; off > 0 && x.Fee.Stand != corefee.Over {
		v.LetOff = "−" + sum(off)
	}
	if rest > 0 {
		v.Rest = sum(rest)
	}
	if rest < 0 {
		v.Owed = sum(-rest)
	}
	if x.Fee.Stand == corefee.Waiting {
		v.PayBy = say.PayBy(f, x.Closes, x.PayBy)
	}
	for _, p := range x.Payments {
		m := FeeMove{At: p.At, What: "Paid by card", Sum: sum(p.Amount), Receipt: p.Number, Bank: p.Bank}
		if p.Bank {
			m.What = "Paid by transfer"
		}
		if back := p.Amount - p.Keeps; back > 0 {
			m.Detail = sum(back) + " of it went on to be given back, because " + say.GoesBack(p.Why)
			if p.Keeps == 0 {
				m.Detail = "It goes back, because " + say.GoesBack(p.Why)
			}
		}
		v.Moves = append(v.Moves, m)
	}
	for _, r := range x.Returns {
		m := FeeMove{
			At:     r.At,
			What:   "Given back",
			Detail: phrase.Initial(say.GoesBack(r.Why)),
			Sum:    "−" + sum(r.Amount),
			Back:   true,
			Key:    r.Key,
			Reason: r.Reason,
			State:  r.State,
			Bank:   r.Bank,
		}
		switch r.State {
		case corefee.Refused, corefee.Replaced:
			continue
		case corefee.Proposed:
			m.What, m.Waits = "Proposed to be given back", true
		case corefee.Wanted:
			m.What, m.Waits = "Goes back", true
		case corefee.Failed:
			m.What, m.Waits = "Could not be given back yet", true
		case corefee.Done:
			m.At = *r.DoneAt
		}
		v.Moves = append(v.Moves, m)
	}
	slices.SortStableFunc(v.Moves, func(a, b FeeMove) int { return a.At.Compare(b.At) })
	return v
}

// Shown to applicants and payers: what is only proposed is the office's own.
func (v FeeView) Outside() FeeView {
	v.Moves = slices.DeleteFunc(slices.Clone(v.Moves), func(m FeeMove) bool { return m.State == corefee.Proposed })
	return v
}

// LastTry says to whoever pays what came of their last try; "" where there was none.
func LastTry(k *fee.Checkout, zone *time.Location) string {
	if k == nil {
		return ""
	}
	return TryOf(*k).ToPayer(zone)
}

// TryOf is a try at the payment desk, as sentences tell of it.
func TryOf(k fee.Checkout) say.DeskTry {
	return say.DeskTry{Begun: k.BegunAt, Paid: k.State == paydesk.Paid, Closed: k.State == paydesk.Closed,
		Answered: k.Desk != nil, Declined: k.Declined}
}

// Receipt of a payment as PDF.
func Receipt(
	f *form.Form,
	c application.Case,
	x *fee.Charge,
	p *fee.Payment,
	payer string,
	funder string,
) (name string, pdf []byte, err error) {
	sum := func(n int64) string { return money.Format(n, x.Currency) }
	way := "By card, at the payment desk; its number for it is " + p.ID + "."
	if p.Bank {
		way = "By transfer."
	}
	paper := sealcopy.Paper{
		Title: fmt.Sprintf("Receipt %d", p.Number),
		At:    p.At,
		Head:  funder + " · " + f.Design.Contact,
		Parts: []sealcopy.Part{
			{Label: "Paid by", Text: payer},
			{Label: "For", Text: "“" + c.Title + "”, " + c.RoundName + ", " + c.Ref},
			{Label: "On", Text: p.At.In(f.Zone).Format("2 January 2006 at 15:04:05 MST")},
			{Label: "How", Text: way},
		},
	}
	for _, l := range x.Lines {
		paper.Sums = append(paper.Sums, sealcopy.Sum{Label: lineLabel(l), Sum: l.Sum})
	}
	paper.Sums = append(paper.Sums, sealcopy.Sum{Label: "Charged", Sum: sum(x.Total), Total: true},
		sealcopy.Sum{Label: "Paid by this payment", Sum: sum(p.Amount), Total: true})
	for _, r := range x.Returns {
		if r.PaymentID == p.ID && r.State == corefee.Done {
			paper.Sums = append(
				paper.Sums,
				sealcopy.Sum{Label: "Given back on " + r.DoneAt.In(f.Zone).Format("2 January 2006"),
					Sum: "−" + sum(r.Amount)},
			)
		}
	}
	pdf, err = paper.Draw()
	return fmt.Sprintf("receipt-%d.pdf", p.Number), pdf, err
}

func lineLabel(l say.ChargeLine) string {
	if l.Count > 1 {
		return fmt.Sprintf("%s, %d × %s", l.Label, l.Count, l.Each)
	}
	return l.Label
}

// Invoice as PDF.
func Invoice(f *form.Form, c application.Case, x *fee.Charge, i *fee.Invoice, funder string) (name string, pdf []byte,
	err error) {
	sum := func(n int64) string { return money.Format(n, x.Currency) }
	paper := sealcopy.Paper{
		Title: fmt.Sprintf("Invoice %d", i.Number),
		At:    i.At,
		Head:  funder + " · " + f.Design.Contact,
		Parts: []sealcopy.Part{
			{Label: "To", Text: i.Name + "\n" + i.Address},
			{Label: "Your reference", Text: i.Theirs},
			{Label: "For", Text: "“" + c.Title + "”, " + c.RoundName + ", " + c.Ref},
			{Label: "Of", Text: i.At.In(f.Zone).Format("2 January 2006")},
			{Label: "To be paid by", Text: i.DueOn.Format("2 January 2006")},
			{Label: "Into the account", Text: f.Paid().Account},
		},
		Foot: "Give " + c.Ref +
			" with the transfer, so that it is found. It can be paid by card as well, by the link in the mail that came with it.",
	}
	for _, l := range x.Lines {
		paper.Sums = append(paper.Sums, sealcopy.Sum{Label: lineLabel(l), Sum: l.Sum})
	}
	paper.Sums = append(paper.Sums, sealcopy.Sum{Label: "To be paid", Sum: sum(x.Total), Total: true})
	pdf, err = paper.Draw()
	return fmt.Sprintf("invoice-%d.pdf", i.Number), pdf, err
}
