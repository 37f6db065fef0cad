package rounds

import (
	"errors"
	"time"

	"github.com/gofiber/fiber/v3"

	"ulvant/core/access"
	"ulvant/core/calendar"
	"ulvant/core/export"
	"ulvant/core/fee"
	"ulvant/core/form"
	"ulvant/core/ledger"
	"ulvant/core/money"
	"ulvant/core/refusal"
	"ulvant/core/say"
	"ulvant/internal/desk"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/web/kit/site"
	"ulvant/internal/web/office"
)

// feesPage is what office/rounds/fees.html draws.
type feesPage struct {
	Count   int
	Sums    []feeSum // what happened
	Stands  []feeSum // where it stands
	Even    bool
	Groups  []feeGroup
	Waived  []desk.WaivedReason
	Wished  []desk.Wished // something is proposed about their fee
	Desk    bool          // there is a payment desk
	MayTake bool
	From    string
	To      string
}

type feeSum struct{ Label, Sum string }

// feeGroup are the fees of one need.
type feeGroup struct {
	Need       fee.Need
	Head, Todo string
	Count      int
	Column     string // what the last sum is
	Sum        string // of that, together
	Rows       []feeRow
	More       int // rows that are not shown
	Folded     bool
}

type feeRow struct {
	desk.FeeRow
	Charged, In, Out, Open string
	Overdue                bool
	Says                   string
}

// shownFees is how many fees of one need the page shows.
const shownFees = 100

// Fees shows how a round’s fees stand: the accounts, and what is to be done.
func Fees(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	rows, err := r.Desk.Fees(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	book, err := r.Desk.FeeBook(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	sum := func(n int64) string { return money.Format(n, f.Design.Currency) }
	d := feesPage{
		Count:   len(rows),
		Even:    book.Even() && book.Sums[ledger.Applicants] == openOf(rows),
		Desk:    r.Fees.Desk.On(),
		MayTake: r.May(access.TakeFees),
	}
	for _, x := range []struct {
		kind  ledger.Kind
		label string
	}{{ledger.Charged, "Charged"}, {ledger.LetOff, "Not asked any more"}, {ledger.Paid, "Paid at the payment desk"},
		{ledger.PaidIn, "Paid by transfer"}, {ledger.GivenBack, "Given back by the payment desk"},
		{ledger.SentBack, "Sent back by transfer"}} {
		d.Sums = append(d.Sums, feeSum{x.label, sum(book.Kinds[x.kind])})
	}
	d.Stands = []feeSum{
		{"At the payment desk", sum(book.Sums[ledger.Desk])},
		{"At the bank", sum(book.Sums[ledger.Bank])},
		{
			"Earned",
			sum(-book.Sums[ledger.Earned]),
		},
		{"Open, less what is owed to payers", signed(book.Sums[ledger.Applicants], sum)},
	}
	d.Groups = feeGroups(f, rows, r.At)
	if d.Waived, err = r.Desk.Waived(r.Context, r.Round.ID); err != nil {
		return err
	}
	if d.Wished, err = r.Desk.Wished(r.Context, r.Round.ID); err != nil {
		return err
	}
	d.From = calendar.DateOf(f.Window().Opens, f.Zone).String()
	d.To = calendar.DateOf(r.At, f.Zone).String()
	return office.Draw(r, fiber.StatusOK, "office/rounds/fees", "Fees, "+r.Round.Name, "overview", f, d)
}

func signed(n int64, sum func(int64) string) string {
	if n < 0 {
		return "−" + sum(-n)
	}
	return sum(n)
}

// openOf is what the charges say is open; what is to go back and has not gone yet
// is still here.
func openOf(rows []desk.FeeRow) (n int64) {
	for _, x := range rows {
		n += x.Rest - x.Wanted
	}
	return n
}

// feeGroups puts fees under what is to be done about them.
func feeGroups(f *form.Form, rows []desk.FeeRow, at time.Time) (out []feeGroup) {
	sum := func(n int64) string {
		if n == 0 {
			return ""
		}
		return money.Format(n, f.Design.Currency)
	}
	for _, need := range fee.Needs {
		g := feeGroup{Need: need, Folded: need == fee.Settled || need == fee.Awaited || need == fee.NotPaid}
		g.Head, g.Todo = say.FeeNeed(need)
		g.Column = "Open"
		if need == fee.ToAgree || need == fee.NotBack || need == fee.ToTransfer {
			g.Column = "To go back"
		}
		total := int64(0)
		for _, x := range rows {
			if x.Need() != need {
				continue
			}
			g.Count++
			open := max(x.Rest, 0)
			switch need {
			case fee.ToAgree:
				open = x.Proposed
			case fee.NotBack:
				open = x.Failed
			case fee.ToTransfer:
				open = x.ToTransfer
			}
			total += open
			if g.Count > shownFees {
				g.More++
				continue
			}
			row := feeRow{
				FeeRow:  x,
				Charged: sum(x.Total),
				In:      sum(x.Paid),
				Out:     sum(x.Back - x.Proposed),
				Open:    sum(open),
				Overdue: x.DueOn != nil && x.Rest > 0 && at.After(x.DueOn.AddDate(0, 0, 1)),
			}
			switch {
			case x.DueOn != nil && x.Rest > 0:
				row.Says = "invoice, due " + x.DueOn.Format("2 Jan")
			case x.Trying && x.Rest > 0:
				row.Says = "at the payment desk"
			case need == fee.Awaited:
				row.Says = "until " + say.Instant(x.PayBy, f.Zone)
			}
			g.Rows = append(g.Rows, row)
		}
		g.Sum = sum(total)
		if g.Count > 0 {
			out = append(out, g)
		}
	}
	return out
}

// LedgerRows gives the ledger of a round’s fees out.
func LedgerRows(r *site.Request) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	rows, err := r.Desk.Ledger(r.Context, r.Round.ID)
	if err != nil {
		return err
	}
	s := export.New(
		export.Named(
			"entry",
			"case",
			"kind",
			"event",
			"debit",
			"credit",
			"amount",
			"currency",
			"happened",
			"known",
		)...)
	for _, x := range rows {
		debit, credit := x.Kind.Sides()
		s.Add(
			export.Whole(x.ID),
			export.Text(x.Ref),
			export.Text(string(x.Kind)),
			export.Text(x.Event),
			export.Text(string(debit)),
			export.Text(
				string(credit),
			),
			export.Decimal(money.Exact(x.Amount, f.Design.Currency)),
			export.Text(f.Design.Currency),
			export.Text(x.At.UTC().Format(time.RFC3339)),
			export.Text(x.KeptAt.UTC().Format(time.RFC3339)),
		)
	}
	return r.Give(r.Round.Key+" ledger", s)
}

// deskPage is what office/rounds/feesdesk.html draws.
type deskPage struct {
	From, To string
	Problem  string
	Read     bool
	Lines    int
	Same     int
	Rows     []deskRow
	More     int
	Known    int // differences that can be taken in
	MayTake  bool
	Zone     *time.Location
	File     bool // the statement was a file
}

// deskRow is one difference.
type deskRow struct {
	At        time.Time
	ID        string
	Reference string
	Checkout  string
	Here      string
	There     string
	Says      string
	Take      bool
	Ours      bool // its reference is one of ours
}

// FeesDesk compares the ledger with the payment desk’s own statement, asked for at
// once, or read from a file.
func FeesDesk(r *site.Request) error { return drawDesk(r, fiber.StatusOK, nil, false) }

// FeesFile compares with a statement that was put in as CSV.
func FeesFile(r *site.Request) error {
	head, err := r.FormFile("statement")
	if err != nil {
		return drawDesk(r, fiber.StatusUnprocessableEntity, refusal.Unfit("Choose the statement, a CSV file."), true)
	}
	file, err := head.Open()
	if err != nil {
		return err
	}
	defer file.Close()
	lines, err := paydesk.ReadStatement(file)
	if err != nil {
		return drawDesk(r, fiber.StatusUnprocessableEntity, err, true)
	}
	return compareDesk(r, lines, true)
}

// span is the days that are compared, the last one whole.
func span(r *site.Request, f *form.Form) (from, to time.Time, ok bool) {
	a, okA := calendar.ParseDate(r.FormValue("from"))
	b, okB := calendar.ParseDate(r.FormValue("to"))
	if !okA || !okB || b < a {
		return from, to, false
	}
	from, _ = calendar.At(a, 0, 0).In(f.Zone)
	to, _ = calendar.At(b.AddDays(1), 0, 0).In(f.Zone)
	return from, to, true
}

func drawDesk(r *site.Request, status int, problem error, file bool) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	d := deskPage{From: r.FormValue("from"), To: r.FormValue("to"), Zone: f.Zone, File: file}
	if problem != nil {
		d.Problem = site.Sentence(problem)
		return office.Draw(r, status, "office/rounds/feesdesk", "Payment desk, "+r.Round.Name, "overview", f, d)
	}
	from, to, ok := span(r, f)
	switch {
	case !ok:
		return drawDesk(
			r,
			fiber.StatusUnprocessableEntity,
			refusal.Unfit("Give two days, the first before the last."),
			file,
		)
	case !r.Fees.Desk.On():
		return drawDesk(
			r,
			fiber.StatusUnprocessableEntity,
			refusal.Unfit("No payment desk is set up here. Put its statement in as a file."),
			file,
		)
	}
	lines, err := r.Fees.Desk.Statement(r.Context, from, to)
	if errors.Is(err, paydesk.ErrAway) {
		return drawDesk(
			r,
			fiber.StatusBadGateway,
			refusal.Unfit(
				"The payment desk does not answer at the moment. Try again, or put its statement in as a file.",
			),
			file,
		)
	}
	if err != nil {
		return err
	}
	return compareDesk(r, lines, false)
}

// shownDifferences is how many the page shows.
const shownDifferences = 200

func compareDesk(r *site.Request, lines []paydesk.Line, file bool) error {
	f, err := office.Form(r)
	if err != nil {
		return err
	}
	from, to, ok := span(r, f)
	if !ok {
		return drawDesk(
			r,
			fiber.StatusUnprocessableEntity,
			refusal.Unfit("Give two days, the first before the last."),
			file,
		)
	}
	here, err := r.Desk.FeesHeld(r.Context, from, to)
	if err != nil {
		return err
	}
	var there []fee.Held
	currency := map[string]string{}
	for _, l := range lines {
		if l.At.Before(from) || !l.At.Before(to) {
			continue
		}
		there = append(
			there,
			fee.Held{ID: l.ID, Checkout: l.Checkout, Reference: l.Reference, Amount: l.Amount, At: l.At},
		)
		currency[l.ID] = l.Currency
	}
	differ, same := fee.Reconcile(here, there)
	d := deskPage{
		From:    r.FormValue("from"),
		To:      r.FormValue("to"),
		Read:    true,
		Lines:   len(there),
		Same:    same,
		Zone:    f.Zone,
		MayTake: r.May(access.TakeFees),
		File:    file,
	}
	ours, err := r.Fees.Ours(r.Context, r.DB, checkoutsOf(differ))
	if err != nil {
		return err
	}
	for _, x := range differ {
		row := deskRow{}
		if x.There != nil {
			row.At, row.ID, row.Reference, row.Checkout = x.There.At, x.There.ID, x.There.Reference, x.There.Checkout
			row.There = signed(x.There.Amount, func(n int64) string { return money.Format(n, currency[x.There.ID]) })
			row.Take = ours[x.There.Checkout]
		}
		if x.Here != nil {
			row.At, row.ID, row.Reference = x.Here.At, x.Here.ID, x.Here.Reference
			row.Here = signed(x.Here.Amount, func(n int64) string { return money.Format(n, f.Design.Currency) })
		}
		row.Ours = row.Take || x.Here != nil
		row.Says = say.FeeDifference(x, row.Take)
		if row.Take {
			d.Known++
		}
		if len(d.Rows) == shownDifferences {
			d.More++
			continue
		}
		d.Rows = append(d.Rows, row)
	}
	return office.Draw(r, fiber.StatusOK, "office/rounds/feesdesk", "Payment desk, "+r.Round.Name, "overview", f, d)
}

func checkoutsOf(list []fee.Difference) (out []string) {
	for _, x := range list {
		if x.There != nil {
			out = append(out, x.There.Checkout)
		}
	}
	return out
}

// TakeFromDesk takes in what the desk knows of checkouts that the comparison showed.
func TakeFromDesk(r *site.Request) error {
	from, to := r.FormValue("from"), r.FormValue("to")
	n, err := r.Fees.TakeIn(r.Context, r.At, r.Values("checkout"))
	switch {
	case errors.Is(err, paydesk.ErrAway):
		r.Tell("The payment desk does not answer at the moment; nothing was taken in. Try again in a minute.")
	case err != nil:
		return err
	default:
		r.Tell(say.TakenIn(n))
	}
	return r.See("/office/rounds/" + r.Round.Key + "/fees/desk?from=" + from + "&to=" + to)
}
