package guest

import (
	"errors"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/fee"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// payPage is what guest/pay.html draws.
type payPage struct {
	Case    application.Case
	Payer   fee.Payer
	Fee     casefile.FeeView
	Base    string
	MayPay  bool
	Invoice *fee.Invoice
	LastTry string
	Contact string
	Problem string
}

// paying is what the link of a payer is about.
type paying struct {
	payer fee.Payer
	c     application.Case
	x     *fee.Charge
	f     *form.Form
}

func payingOf(r *site.Request) (p paying, err error) {
	if p.payer, err = r.Fees.Payer(r.Context, r.DB, r.Link.Subject); err != nil {
		return p, err
	}
	if p.c, err = r.Cases.ByEntry(r.Context, r.DB, p.payer.EntryID); err != nil {
		return p, err
	}
	if p.x, err = r.Fees.Of(r.Context, r.DB, p.payer.EntryID); err != nil {
		return p, err
	}
	p.f, err = r.Rounds.Form(r.Context, r.DB, p.c.DesignID)
	return p, err
}

// Pay shows somebody what they are asked to pay, and what came of it.
func Pay(r *site.Request) error { return drawPay(r, fiber.StatusOK, "") }

func drawPay(r *site.Request, status int, problem string) error {
	p, err := payingOf(r)
	if err != nil {
		return err
	}
	i, err := r.Fees.InvoiceOf(r.Context, r.DB, p.c.EntryID)
	if err != nil {
		return err
	}
	if i != nil && i.PayerID != p.payer.ID {
		i = nil
	}
	v := casefile.Fee(p.f, p.x, r.At).Outside()
	v.Moves = own(p, v.Moves)
	d := payPage{Case: p.c, Payer: p.payer, Fee: v, Base: "/pay/" + r.Params("token"), Invoice: i, Problem: problem,
		MayPay:  p.x.MayPay(&p.payer.ID, r.At) && r.Fees.Desk.On(),
		Contact: p.f.Design.Contact}
	if p.x.Fee.Rest() > 0 {
		d.LastTry = casefile.LastTry(p.x.Last(&p.payer.ID), p.f.Zone)
	}
	return r.Draw(status, "guest/pay", view.Page{Title: "Pay for " + p.c.Title, Data: d})
}

// own are the payments of a payer, and what went back of them; those of others are
// none of theirs.
func own(p paying, all []casefile.FeeMove) (out []casefile.FeeMove) {
	theirs := map[int64]bool{}
	keys := map[string]bool{}
	for _, x := range p.x.Payments {
		for _, k := range p.x.Checkouts {
			if x.CheckoutID != nil && k.ID == *x.CheckoutID && k.PayerID != nil && *k.PayerID == p.payer.ID {
				theirs[x.Number] = true
				for _, b := range p.x.Returns {
					keys[b.Key] = keys[b.Key] || b.PaymentID == x.ID
				}
			}
		}
	}
	for _, m := range all {
		if m.Receipt != 0 && theirs[m.Receipt] || m.Back && keys[m.Key] {
			out = append(out, m)
		}
	}
	return out
}

// PayNow sends the payer on to the payment desk.
func PayNow(r *site.Request) error {
	p, err := payingOf(r)
	if err != nil {
		return err
	}
	url, err := r.Fees.Begin(r.Context, r.At, r.Actor(), p.c, &p.payer,
		r.Config.BaseURL+"/pay/"+r.Params("token")+"/back")
	if says, ok := refusal.Of(err); ok {
		return drawPay(r, fiber.StatusUnprocessableEntity, says.Sentence())
	}
	if err != nil {
		return err
	}
	return r.See(url)
}

// PaidBack is where the payer comes back to.
func PaidBack(r *site.Request) error {
	p, err := payingOf(r)
	if err != nil {
		return err
	}
	if err := r.Fees.Back(r.Context, r.At, p.c.EntryID, &p.payer.ID); err != nil &&
		!errors.Is(err, paydesk.ErrUnknown) {
		return err
	}
	return r.See("/pay/" + r.Params("token"))
}

// PayReceipt is the receipt of a payment of theirs.
func PayReceipt(r *site.Request) error {
	p, err := payingOf(r)
	if err != nil {
		return err
	}
	n, err := strconv.ParseInt(r.Params("number"), 10, 64)
	if err != nil || p.x.Payment(n) == nil {
		return fiber.ErrNotFound
	}
	if len(own(p, []casefile.FeeMove{{Receipt: n}})) == 0 {
		return fiber.ErrNotFound
	}
	file, pdf, err := casefile.Receipt(p.f, p.c, p.x, p.x.Payment(n), p.payer.Name, r.Funder.Name())
	if err != nil {
		return err
	}
	return r.Download(file, "application/pdf", pdf)
}

// PayInvoice is the invoice that went to them.
func PayInvoice(r *site.Request) error {
	p, err := payingOf(r)
	if err != nil {
		return err
	}
	i, err := r.Fees.InvoiceOf(r.Context, r.DB, p.c.EntryID)
	if err != nil {
		return err
	}
	if i == nil || i.PayerID != p.payer.ID {
		return fiber.ErrNotFound
	}
	file, pdf, err := casefile.Invoice(p.f, p.c, p.x, i, r.Funder.Name())
	if err != nil {
		return err
	}
	return r.Download(file, "application/pdf", pdf)
}

// Notice takes in what the payment desk tells by itself. It is signed; anything
// else is told that there is nothing here.
func Notice(r *site.Request) error {
	n, err := paydesk.Read(r.Fees.Desk.Secret, r.Get(paydesk.TimeHeader), r.Get(paydesk.MACHeader), r.Body(), r.At)
	if err != nil {
		return fiber.ErrNotFound
	}
	if err := r.Fees.Notice(r.Context, r.At, n); err != nil {
		return err // the desk tells of it again
	}
	return r.SendStatus(fiber.StatusNoContent)
}
