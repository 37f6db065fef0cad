package say

import (
	"strconv"
	"time"

	"ulvant/core/fee"
	"ulvant/core/form"
	"ulvant/core/money"
	"ulvant/core/phrase"
)

// ChargeLine is one line of a charge as people read it.
type ChargeLine struct {
	Label string
	Why   string // why it costs this, a few words; "" when there is nothing to say
	Count int
	Each  string // the price of one; "" for what is taken off
	Sum   string
}

// Charge says the lines of a charge, in their order.
func Charge(f *form.Form, c *form.Charge) (out []ChargeLine) {
	cur := f.Design.Currency
	for _, l := range c.Lines {
		x := ChargeLine{Count: l.Count, Sum: money.Format(l.Sum, cur)}
		if l.Sum < 0 {
			x.Sum = "−" + money.Format(-l.Sum, cur)
		}
		switch l.What {
		case form.LineCode:
			x.Label, x.Why = "Code", codeWhy(f, l.Key)
			if k := feeCode(f, l.Key); k != nil {
				x.Label = "Code " + k.Code
			}
		case form.LineWaived:
			x.Label, x.Why = "Let off", "the office asks nothing for this application"
		default:
			def := feeOf(f, l.Key)
			if def == nil {
				continue
			}
			x.Label = def.Label
			if l.What == form.FeeBundle {
				x.Why = "in one price, " + money.Format(def.Price.Else.Amount, cur)
				break
			}
			x.Each = money.Format(l.Each, cur)
			x.Why = priceWhy(f, def, l)
		}
		out = append(out, x)
	}
	return out
}

// priceWhy says which case of a price holds, and since when.
func priceWhy(f *form.Form, def *form.Fee, l form.ChargeLine) string {
	out := ""
	if l.When >= 0 && l.When < len(def.Price.When) {
		out = "if " + When(def.Price.When[l.When].If, Names{Form: f})
	}
	if !l.Since.IsZero() {
		if out != "" {
			out += ", "
		}
		out += "since " + Instant(l.Since, f.Zone)
	}
	return out
}

func codeWhy(f *form.Form, k form.Key) string {
	c := feeCode(f, k)
	if c == nil {
		return ""
	}
	out := ""
	switch {
	case c.Percent > 0 && c.Off > 0:
		out = strconv.Itoa(c.Percent) + "% and " + money.Format(c.Off, f.Design.Currency) + " less"
	case c.Percent > 0:
		out = strconv.Itoa(c.Percent) + "% less"
	default:
		out = money.Format(c.Off, f.Design.Currency) + " less"
	}
	if len(c.Members) > 0 {
		out += ", for those on its list"
	}
	if c.Uses > 0 {
		out += ", for " + phrase.Count(int64(c.Uses), "application", "applications")
	}
	if !c.Until.IsZero() {
		out += ", until the end of " + c.Until.Words()
	}
	return out
}

func feeOf(f *form.Form, k form.Key) *form.Fee {
	for i := range f.Design.Fees {
		if f.Design.Fees[i].Key == k {
			return &f.Design.Fees[i]
		}
	}
	return nil
}

func feeCode(f *form.Form, k form.Key) *form.FeeCode {
	for i := range f.Design.Codes {
		if f.Design.Codes[i].Key == k {
			return &f.Design.Codes[i]
		}
	}
	return nil
}

// ChargeNext says what the total becomes, and when: “€90 from Mon 7 Dec, 16:00”;
// "" while nothing will change.
func ChargeNext(f *form.Form, c *form.Charge) string {
	if c == nil || c.Next == nil {
		return ""
	}
	return money.Format(c.Next.Total, f.Design.Currency) + " from " + Instant(c.Next.At, f.Zone)
}

// Instant names a moment by the clocks of a zone: to the minute, or to the second
// where it does not fall on one.
func Instant(t time.Time, zone *time.Location) string {
	layout := "Mon 2 Jan, 15:04"
	if t.In(zone).Second() != 0 {
		layout = "Mon 2 Jan, 15:04:05"
	}
	return t.In(zone).Format(layout)
}

// Fee is one fee of a round as anybody may read it, with all its prices.
func Fee(f *form.Form, x *form.Fee) string {
	names := Names{Form: f}
	out := x.Label + ": "
	for _, w := range x.Price.When {
		out += price(f, w.Then) + " if " + When(w.If, names) + "; otherwise "
	}
	out += price(f, x.Price.Else)
	if x.What == form.FeeBundle {
		var of []string
		for _, k := range x.Of {
			if d := feeOf(f, k); d != nil {
				of = append(of, "“"+d.Label+"”")
			}
		}
		out += " for " + phrase.List(of) + " together, instead of the single prices"
	}
	if o := When(x.Offered, names); o != "" {
		out += ". Offered if " + o
	}
	return out + "."
}

// price with what it becomes: “€60, €90 from Mon 7 Dec, 16:00”.
func price(f *form.Form, p form.Price) string {
	out := money.Format(p.Amount, f.Design.Currency)
	for _, r := range p.Later {
		out += ", " + money.Format(r.Amount, f.Design.Currency) + " from " + Instant(f.At(r.From), f.Zone)
	}
	return out
}

// GivenBack says what whoever withdraws gets back of what they paid, as the round
// has it.
func GivenBack(f *form.Form) string {
	p := f.Paid()
	if len(p.Back) == 0 {
		return "Who withdraws gets nothing back; the office can decide otherwise in a single case."
	}
	out := "Who withdraws gets back "
	for i, b := range p.Back {
		if i > 0 {
			out += ", "
		}
		what := strconv.Itoa(b.Percent) + "% of what was paid"
		if b.Percent == 100 {
			what = "all that was paid"
		}
		out += what + " until " + Instant(f.At(b.Until), f.Zone)
	}
	return out + ", and nothing after that."
}

// PayBy says until when a payment is begun, and until when one that was begun in
// time still counts.
func PayBy(f *form.Form, closes, by time.Time) string {
	if !by.After(closes) {
		return "It must be paid before " + Instant(closes, f.Zone) + "; what comes later is given back."
	}
	return "Begin to pay before " + Instant(
		closes,
		f.Zone,
	) + ". A payment that was begun by then counts if it is through before " +
		Instant(
			by,
			f.Zone,
		) + "; what comes later is given back."
}

// GoesBack says why money goes back to whoever paid it, as a clause.
func GoesBack(why fee.Why) string {
	switch why {
	case fee.Late:
		return "it was paid after the time to pay was over"
	case fee.Twice:
		return "it was paid already"
	case fee.TooMuch:
		return "it was more than was asked"
	case fee.Withdrawn:
		return "the application was withdrawn"
	case fee.TimeOver:
		return "the rest did not come in time, so the application is not in"
	case fee.ByOffice:
		return "the office gives it back"
	case fee.LetOffNow:
		return "the office asks no fee for it"
	case fee.ByDesk:
		return "the payment desk, or a bank, took it back"
	}
	return ""
}

// FeeStand says to an applicant how their fee stands: what there is to do first.
// rest is what is still to be paid, written.
func FeeStand(s fee.Stand, invoice bool, rest int64, written string) string {
	switch {
	case s == fee.Over:
		return "The fee was not paid in time, so the application is not in."
	case s == fee.Gone && rest > 0:
		return "The application is withdrawn; " + written + " are still to be paid by the round’s terms."
	case s == fee.Gone:
		return "The application is withdrawn. Nothing is to be paid."
	case s == fee.Waiting:
		return "The application is sealed. It is in when " + written + " are paid."
	case rest > 0 && invoice:
		return "The application is in. " + written + " are to be paid by the invoice."
	case rest > 0:
		return "The application is in, and " + written + " of its fee are open."
	}
	return "The application is in, and nothing is to be paid."
}

// FeeNeed says what a group of fees is, and what the office does about each.
func FeeNeed(n fee.Need) (head, todo string) {
	switch n {
	case fee.ToAgree:
		return "To be given back, if a second person agrees", "Somebody proposed it with a reason. Open it, and agree or not."
	case fee.NotBack:
		return "The payment desk would not give it back",
			"Open it and ask the desk once more; if it still will not, send the money by transfer and say so there."
	case fee.ToTransfer:
		return "To be sent back by transfer",
			"It came by transfer, so no desk gives it back. Send it from the bank, then say so here."
	case fee.PaidNotIn:
		return "Paid, and not in",
			"A part is paid and the rest is missing, or money is here that counts for nothing. Give more time to pay, let the rest off, or leave it: what is not completed in time goes back by itself."
	case fee.InNotPaid:
		return "In, and not paid",
			"It is in on an invoice, or its payment was taken back. Put in the transfer when it comes, give a date to pay by, or let it off."
	case fee.Awaited:
		return "Sealed, and waiting for payment", "Nothing needs doing: they are reminded a day before closing."
	case fee.NotPaid:
		return "Not paid in time", "They are not in. If something on our side held them up, give more time to pay."
	}
	return "Settled", ""
}

// FeeDifference says what a difference between the ledger and the desk’s statement
// is, and what to do with it. ours: the checkout was begun here.
func FeeDifference(d fee.Difference, ours bool) string {
	switch {
	case d.Here == nil && !ours:
		return "The desk has it, and nobody here began it. Look for its reference among the applications; if it belongs to none, it is given back at the desk."
	case d.Here == nil && d.There.Amount < 0:
		return "It went back at the desk, and is not known here. Take it in."
	case d.Here == nil:
		return "It was paid at the desk, and is not known here. Take it in: the application then goes in, or the money back."
	case d.There == nil:
		return "It is known here, and is not in the statement. Look whether the statement is of the same days, and ask the desk."
	}
	return "The sums differ. Ask the desk which is right."
}

// TakenIn says what came of taking in what the desk knows.
func TakenIn(n int) string {
	if n == 0 {
		return "Nothing was to be taken in."
	}
	return phrase.Initial(
		phrase.Count(int64(n), "checkout was", "checkouts were"),
	) + " taken in from the payment desk."
}

// FeeTask says what some fees wait for the office to do, after their number.
func FeeTask(need fee.Need, n int) string {
	fees := after(n, "fee", "fees")
	switch need {
	case fee.ToAgree:
		return fees + " proposed to be given back or settled, if you agree"
	case fee.NotBack:
		return fees + " that the payment desk would not give back"
	case fee.ToTransfer:
		return fees + " to be sent back by transfer"
	}
	return after(n, "invoice", "invoices") + " overdue"
}

// DeskTry is a try to pay at the payment desk.
type DeskTry struct {
	Begun    time.Time
	Paid     bool
	Closed   bool // without a payment
	Answered bool // by the desk, when it was begun
	Declined int  // cards
}

// ToPayer says what came of it to whoever pays; "" when they paid.
func (t DeskTry) ToPayer(zone *time.Location) string {
	at := t.Begun.In(zone).Format("15:04 on 2 January")
	switch {
	case t.Paid:
		return ""
	case t.Closed:
		return "Your try of " + at + " is closed at the payment desk; nothing was paid there."
	case t.Declined > 0:
		return "The card was declined; nothing was paid. Try again, with another card if you have one."
	case !t.Answered:
		return "The payment desk did not answer at " + at + ". Nothing was paid; that you began then is kept."
	}
	return "You went to the payment desk at " + at + " and have not paid there. Pressing Pay goes on where you were. " +
		"If you did pay, the desk has not told us yet: we ask it again by ourselves, and nothing is lost."
}

// ToOffice says what came of it to the office.
func (t DeskTry) ToOffice(zone *time.Location) string {
	out := "begun " + Instant(t.Begun, zone)
	switch {
	case t.Paid:
		out += ", paid"
	case t.Closed:
		out += ", closed without a payment"
	case t.Answered:
		out += ", still open"
	default:
		out += ", still open: the desk has not answered"
	}
	if t.Declined > 0 {
		out += ", a card declined " + phrase.Count(int64(t.Declined), "time", "times")
	}
	return out
}
