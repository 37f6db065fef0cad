package cases

import (
	"context"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/form"
	"ulvant/core/lifecycle"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	"ulvant/internal/desk"
	"ulvant/internal/fee"
	"ulvant/internal/platform/db"
	"ulvant/internal/web/casefile"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// feePage is what office/cases/fee.html draws.
type feePage struct {
	Case    application.Case
	Fee     *casefile.FeeView // nil before it is sent
	Base    string
	Waiver  *fee.Waiver
	Waived  []desk.WaivedReason // why others were let off
	Invoice *fee.Invoice
	Payers  []fee.Payer
	Tries   []string // at the desk
	Settles bool
	Agrees  bool
	Own     map[string]bool // returns that the asker proposed
	Who     map[int64]string
	MayLet  bool
	MayBack bool
	MayTime bool
	Wishes  []wished
	Second  string // the sum above which a second person must agree
	Keeps   string
	Until   string
	Zone    *time.Location
	Problem refusal.Refusal
	At      string // what the problem is about
	Typed   map[string]string
	Today   string
}

// wished is what somebody proposed about the fee.
type wished struct {
	ID   int64
	Says string
	At   time.Time
	Own  bool
}

// Fee shows the fee of a case to the office, with what can be done.
func Fee(r *site.Request) error { return drawFee(r, fiber.StatusOK, "", refusal.Refusal{}) }

func drawFee(r *site.Request, status int, at string, problem refusal.Refusal) error {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	if len(f.Design.Fees) == 0 {
		return fiber.ErrNotFound
	}
	x, err := r.Fees.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	d := feePage{
		Case:    r.Case,
		Base:    "/office/applications/" + r.Case.Ref + "/fee",
		Zone:    f.Zone,
		Problem: problem,
		At:      at,
		Settles: r.May(
			access.SettleFee,
		),
		Agrees: r.May(access.AgreeBack),
		Own:    map[string]bool{},
		Typed:  map[string]string{},
		Second: money.Format(f.Paid().Second, f.Design.Currency),
		Today:  calendar.DateOf(r.At, f.Zone).String(),
	}
	for _, k := range []string{"reason", "amount", "day", "reference", "until", "why"} {
		d.Typed[k] = r.FormValue(k)
	}
	if d.Waiver, err = r.Fees.Waived(r.Context, r.DB, r.Case.EntryID); err != nil {
		return err
	}
	if d.Waived, err = r.Desk.Waived(r.Context, r.Round.ID); err != nil {
		return err
	}
	d.MayLet = d.Settles && d.Waiver == nil && !r.Case.State.Is(lifecycle.Gone)
	wishes, err := r.Fees.Wishes(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	for _, w := range wishes {
		who, err := r.People.Names(r.Context, r.DB, []int64{w.ByID})
		if err != nil {
			return err
		}
		d.Wishes = append(d.Wishes, wished{w.ID, who[w.ByID] + " proposes " + w.Says(f.Design.Currency), w.At,
			w.ByID == r.Account.ID})
	}
	if x != nil {
		if err := d.charged(r, f, x); err != nil {
			return err
		}
	}
	return office.Draw(r, status, "office/cases/fee", "Fee of "+r.Case.Ref, "applications", f, d)
}

// charged fills in what there is once an application was sent.
func (d *feePage) charged(r *site.Request, f *form.Form, x *fee.Charge) (err error) {
	v := casefile.Fee(f, x, r.At)
	d.Fee = &v
	keeps := x.Fee.Counts()
	d.Keeps = money.Format(keeps, x.Currency)
	d.MayBack = d.Settles && keeps > 0
	d.MayTime = d.Settles && x.Fee.Stand != "gone" && (x.Fee.Rest() > 0 || x.Fee.Lapsed > 0)
	d.MayLet = d.MayLet && (x.Fee.Due() > 0 || x.Fee.Lapsed > 0)
	until := x.PayBy
	if r.At.After(until) {
		until = r.At
	}
	d.Until = until.In(f.Zone).AddDate(0, 0, 2).Format("2006-01-02T15:04")
	for _, k := range x.Checkouts {
		d.Tries = append(d.Tries, casefile.TryOf(k).ToOffice(f.Zone))
	}
	var ids []int64
	for _, b := range x.Returns {
		d.Own[b.Key] = b.ByID == r.Account.ID
		ids = append(ids, b.ByID, b.AgreedID)
	}
	if d.Who, err = r.People.Names(r.Context, r.DB, ids); err != nil {
		return err
	}
	if d.Invoice, err = r.Fees.InvoiceOf(r.Context, r.DB, r.Case.EntryID); err != nil {
		return err
	}
	d.Payers, err = r.Fees.Payers(r.Context, r.DB, r.Case.EntryID)
	return err
}

// actFee runs an act on the fee, and says what came of it.
func actFee(r *site.Request, at, done string, f func(ctx context.Context, tx *db.Tx) error) error {
	err := r.Act(f)
	if says, ok := refusal.Of(err); ok {
		return drawFee(r, fiber.StatusUnprocessableEntity, at, says)
	}
	if err != nil {
		return err
	}
	r.Tell(done)
	return r.See("/office/applications/" + r.Case.Ref + "/fee")
}

// LetOff asks no fee of a case.
func LetOff(r *site.Request) error {
	return actFee(r, "let-off",
		"It is proposed. When somebody who releases money agrees, no fee is asked and the applicant is told.",
		func(ctx context.Context, tx *db.Tx) error {
			return r.Fees.Propose(ctx, tx, r.Case, fee.WishLetOff, fee.Told{Reason: r.FormValue("reason")})
		})
}

// AnswerFee is a second person’s word on what was proposed, or the first’s taking it
// back.
func AnswerFee(r *site.Request) error {
	yes, done := r.FormValue("agree") == "yes", "It is not done."
	if yes {
		done = "Agreed and done; those concerned are told."
	}
	id, _ := strconv.ParseInt(r.FormValue("wish"), 10, 64)
	return actFee(r, "wish", done, func(ctx context.Context, tx *db.Tx) error {
		return r.Fees.Answer(ctx, tx, r.Case, id, yes, r.May(access.AgreeBack))
	})
}

// AskFee takes back that no fee is asked.
func AskFee(r *site.Request) error {
	return actFee(r, "let-off", "Its fee is asked again, and the applicant is told so.",
		func(ctx context.Context, tx *db.Tx) error {
			return r.Fees.AskAgain(ctx, tx, r.Case, r.FormValue("reason"))
		})
}

// sumOf reads a sum in the round’s currency.
func sumOf(r *site.Request, name string) (int64, error) {
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return 0, err
	}
	n, ok := money.Parse(r.FormValue(name), f.Design.Currency)
	if !ok {
		return 0, refusal.In(name, "“"+r.FormValue(name)+"” is no sum. Write it like 12.50.")
	}
	return n, nil
}

// GiveFeeBack gives a sum back, or proposes to.
func GiveFeeBack(r *site.Request) error {
	return actFee(r, "back", "It is kept. Above the round’s sum somebody else must agree first.",
		func(ctx context.Context, tx *db.Tx) error {
			n, err := sumOf(r, "amount")
			if err != nil {
				return err
			}
			return r.Fees.GiveBack(ctx, tx, r.Case, n, r.FormValue("reason"))
		})
}

// AgreeFeeBack is the second person’s word.
func AgreeFeeBack(r *site.Request) error {
	yes, done := r.FormValue("agree") == "yes", "It does not go back."
	if yes {
		done = "Agreed. The payment desk is asked to give it back, and whoever paid is told."
	}
	return actFee(r, "agree", done, func(ctx context.Context, tx *db.Tx) error {
		return r.Fees.Agree(ctx, tx, r.Case, r.FormValue("key"), yes, r.May(access.AgreeBack))
	})
}

// FeeBackAgain asks the desk once more.
func FeeBackAgain(r *site.Request) error {
	return actFee(r, "agree", "The payment desk is asked once more.",
		func(ctx context.Context, tx *db.Tx) error { return r.Fees.Again(ctx, tx, r.Case, r.FormValue("key")) })
}

// FeeTransferred says that money has gone back by transfer.
func FeeTransferred(r *site.Request) error {
	return actFee(r, "agree", "It is kept as sent back, and whoever paid is told.",
		func(ctx context.Context, tx *db.Tx) error {
			return r.Fees.Transferred(ctx, tx, r.Case, r.FormValue("key"))
		})
}

// FeePaidIn puts in a transfer.
func FeePaidIn(r *site.Request) error {
	return actFee(r, "paid-in",
		"It is proposed. When somebody who releases money agrees, it counts and whoever paid gets a receipt.",
		func(ctx context.Context, tx *db.Tx) error {
			n, err := sumOf(r, "amount")
			if err != nil {
				return err
			}
			f, err := r.Rounds.Form(ctx, tx, r.Case.DesignID)
			if err != nil {
				return err
			}
			d, ok := calendar.ParseDate(r.FormValue("day"))
			if !ok {
				return refusal.In("day", "Give the day on which it came.")
			}
			day, _ := calendar.At(d, 0, 0).In(f.Zone)
			return r.Fees.Propose(ctx, tx, r.Case, fee.WishPaidIn,
				fee.Told{Amount: n, Day: day, Reference: r.FormValue("reference")})
		})
}

// FeeTime gives more time to pay.
func FeeTime(r *site.Request) error {
	return actFee(r, "time", "It can be paid until then, and the applicant is told so.",
		func(ctx context.Context, tx *db.Tx) error {
			f, err := r.Rounds.Form(ctx, tx, r.Case.DesignID)
			if err != nil {
				return err
			}
			until, err := time.ParseInLocation("2006-01-02T15:04", r.FormValue("until"), f.Zone)
			if err != nil {
				return refusal.In("until", "Choose the day and the hour until when it can be paid.")
			}
			return r.Fees.GiveTime(ctx, tx, r.Case, until, r.FormValue("why"))
		})
}

// FeeReceipt is a receipt as the payer has it.
func FeeReceipt(r *site.Request) error {
	x, err := r.Fees.Of(r.Context, r.DB, r.Case.EntryID)
	if err != nil {
		return err
	}
	n, err := strconv.ParseInt(r.Params("number"), 10, 64)
	if err != nil || x == nil || x.Payment(n) == nil {
		return fiber.ErrNotFound
	}
	f, err := r.Rounds.Form(r.Context, r.DB, r.Case.DesignID)
	if err != nil {
		return err
	}
	name, err := r.Fees.PayerName(r.Context, r.DB, r.Case, x.Payment(n))
	if err != nil {
		return err
	}
	file, pdf, err := casefile.Receipt(f, r.Case, x, x.Payment(n), name, r.Funder.Name())
	if err != nil {
		return err
	}
	return r.Download(file, "application/pdf", pdf)
}
