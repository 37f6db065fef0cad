package applicant

import (
	"context"
	"errors"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	corefee "ulvant/core/fee"
	"ulvant/core/form"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/application"
	"ulvant/internal/fee"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/kit/view"
)

// feePage is what applicant/fee.html draws.
type feePage struct {
	Case     application.Case
	Fee      casefile.FeeView
	Base     string // of the addresses of receipts
	MayPay   bool
	MaySay   bool // who else pays
	Invoices bool // the round sends them, and one can be asked for
	Invoice  *fee.Invoice
	Payers   []fee.Payer
	LastTry  string
	Back     string // what the round gives back
	Contact  string
	Problem  refusal.Refusal
	Typed    map[string]string
	Form     *form.Form
}

// Fee shows what is to be paid for an application, and pays it.
func Fee(r *site.Request) error { return drawFee(r, fiber.StatusOK, refusal.Refusal{}) }

func drawFee(r *site.Request, status int, problem refusal.Refusal) error {
	x, err := r.Fees.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	if x == nil {
		return r.See("/applications/" + r.Case.Ref + r.Case.Query())
	}
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	d := feePage{Case: r.Case, Fee: casefile.Fee(f, x, r.At).Outside(), Base: "/applications/" + r.Case.Ref + "/fee",
		MayPay: r.May(access.PayFee) && x.MayPay(nil, r.At) &&
			r.Fees.Desk.On(), MaySay: r.May(access.LeadFee) && x.Fee.MayPay(r.At),
		LastTry: casefile.LastTry(x.Last(nil), f.Zone), Back: say.GivenBack(f), Contact: f.Design.Contact,
		Problem: problem, Typed: map[string]string{}, Form: f}
	if x.Fee.Rest() <= 0 {
		d.LastTry = ""
	}
	if d.Invoice, err = r.Fees.InvoiceOf(r.Context, r.DB, r.Case.EntryID); err != nil {
		return err
	}
	d.Invoices = f.Paid().Invoice && d.Invoice == nil && d.MaySay && x.Fee.Stand == corefee.Waiting
	if d.Payers, err = r.Fees.Payers(r.Context, r.DB, r.Case.EntryID); err != nil {
		return err
	}
	for _, k := range []string{"name", "email", "bill-name", "bill-email", "address", "theirs"} {
		d.Typed[k] = r.FormValue(k)
	}
	return r.Draw(
		status,
		"applicant/fee",
		view.Page{Title: "The fee for " + r.Case.Title, Nav: "applications", Data: d},
	)
}

// PayFee sends the payer on to the payment desk.
func PayFee(r *site.Request) error {
	url, err := r.Fees.Begin(r.Context, r.At, r.Actor(), r.Case, nil,
		r.Config.BaseURL+"/applications/"+r.Case.Ref+"/fee/back")
	if err != nil {
		return orFee(r, err)
	}
	return r.See(url)
}

// orFee draws the page with what stands in the way.
func orFee(r *site.Request, err error) error {
	if says, ok := refusal.Of(err); ok {
		return drawFee(r, fiber.StatusUnprocessableEntity, says)
	}
	return err
}

// BackFromDesk is where the payer comes back to: the desk is asked at once.
func BackFromDesk(r *site.Request) error {
	if err := r.Fees.Back(r.Context, r.At, r.Case.EntryID, nil); err != nil && !errors.Is(err, paydesk.ErrUnknown) {
		return err
	}
	return r.See("/applications/" + r.Case.Ref + "/fee")
}

// AskPayer asks somebody else to pay.
func AskPayer(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Fees.AskPayer(ctx, tx, r.Case, r.FormValue("name"), r.FormValue("email"))
	})
	if err != nil {
		return orFee(r, err)
	}
	r.Tell(r.FormValue("name") + " has a mail with a link to pay by. You can still pay yourself.")
	return r.See("/applications/" + r.Case.Ref + "/fee")
}

// EndPayer takes back that somebody is asked.
func EndPayer(r *site.Request) error {
	id, err := strconv.ParseInt(r.Params("payer"), 10, 64)
	if err != nil {
		return fiber.ErrNotFound
	}
	err = r.Act(func(ctx context.Context, tx *db.Tx) error { return r.Fees.EndPayer(ctx, tx, r.Case, id) })
	if err != nil {
		return orFee(r, err)
	}
	r.Tell("Their link no longer works.")
	return r.See("/applications/" + r.Case.Ref + "/fee")
}

// AskInvoice has an invoice sent.
func AskInvoice(r *site.Request) error {
	err := r.Act(func(ctx context.Context, tx *db.Tx) error {
		return r.Fees.AskInvoice(
			ctx,
			tx,
			r.Case,
			fee.Billing{Name: r.FormValue("bill-name"), Email: r.FormValue("bill-email"),
				Address: r.FormValue("address"), Theirs: r.FormValue("theirs")},
		)
	})
	if err != nil {
		return orFee(r, err)
	}
	r.Tell("The invoice is on its way to " + r.FormValue("bill-email") + ", and the application is in.")
	return r.See("/applications/" + r.Case.Ref + "/fee")
}

// FeeReceipt is the receipt of one payment as PDF.
func FeeReceipt(r *site.Request) error {
	f, x, p, err := paymentOf(r)
	if err != nil {
		return err
	}
	name, err := r.Fees.PayerName(r.Context, r.DB, r.Case, p)
	if err != nil {
		return err
	}
	file, pdf, err := casefile.Receipt(f, r.Case, x, p, name, r.Funder.Name())
	if err != nil {
		return err
	}
	return r.Download(file, "application/pdf", pdf)
}

func paymentOf(r *site.Request) (*form.Form, *fee.Charge, *fee.Payment, error) {
	n, err := strconv.ParseInt(r.Params("number"), 10, 64)
	if err != nil {
		return nil, nil, nil, fiber.ErrNotFound
	}
	x, err := r.Fees.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return nil, nil, nil, err
	}
	if x == nil || x.Payment(n) == nil {
		return nil, nil, nil, fiber.ErrNotFound
	}
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	return f, x, x.Payment(n), err
}

// FeeInvoice is the invoice as PDF.
func FeeInvoice(r *site.Request) error {
	x, err := r.Fees.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	i, err := r.Fees.InvoiceOf(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	if x == nil || i == nil {
		return fiber.ErrNotFound
	}
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	file, pdf, err := casefile.Invoice(f, r.Case, x, i, r.Funder.Name())
	if err != nil {
		return err
	}
	return r.Download(file, "application/pdf", pdf)
}
