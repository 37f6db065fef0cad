package fee_test

import (
	"context"
	"errors"
	"strings"
	"testing"
	"time"

	"ulvant/core/fee"
	"ulvant/core/form"
	"ulvant/core/ledger"
	"ulvant/core/lifecycle"
	"ulvant/core/refusal"
	"ulvant/internal/application"
	kept "ulvant/internal/fee"
	"ulvant/internal/intake"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/paydesk"
	"ulvant/internal/programtest"
)

// house with a round that charges a fee, with its officer, and when it closes.
type house struct {
	*programtest.House
	officer int64
	closes  time.Time
}

func open(t testing.TB) house {
	h := programtest.New(t)
	officer := h.Person("neda@ostrel-trust.example", "Neda Varr")
	h.OpenRound(officer.ID, programtest.WithFee)
	x := house{h, officer.ID, time.Time{}}
	r, err := h.Rounds.Find(t.Context(), h.DB, "shore-2027")
	if err != nil {
		t.Fatal(err)
	}
	f, err := h.Rounds.Form(t.Context(), h.DB, *r.DesignID)
	if err != nil {
		t.Fatal(err)
	}
	x.closes = f.At(form.Closes)
	return x
}

// sent sends one that lacks nothing: it waits for its fee.
func (h house) sent(email string) application.Case {
	h.T.Helper()
	ready := h.Ready(email)
	var c application.Case
	h.Act(ready.LeadID, func(ctx context.Context, tx *db.Tx) (err error) {
		c, err = h.Intake.Send(ctx, tx, ready)
		return err
	})
	h.Drain()
	return c
}

// pay begins to pay and takes a card at the desk; back is whether the payer comes
// back from it.
func (h house) pay(c application.Case, card string, back bool) paydesk.Checkout {
	h.T.Helper()
	k := h.begin(c, nil)
	h.Till.Take(k.ID, card, "never")
	if back {
		h.back(c)
	}
	return h.checkout(k.ID)
}

func (h house) begin(c application.Case, payer *kept.Payer) paydesk.Checkout {
	h.T.Helper()
	url, err := h.Fees.Begin(h.T.Context(), h.Clock.Now(), db.Account(c.LeadID), c, payer, "http://localhost/back")
	if err != nil {
		h.T.Fatal(err)
	}
	return h.checkout(url[strings.LastIndexByte(url, '/')+1:])
}

func (h house) checkout(id string) paydesk.Checkout {
	h.T.Helper()
	k, err := h.Fees.Desk.Get(h.T.Context(), id)
	if err != nil {
		h.T.Fatal(err)
	}
	return k
}

func (h house) back(c application.Case) {
	h.T.Helper()
	if err := h.Fees.Back(h.T.Context(), h.Clock.Now(), c.EntryID, nil); err != nil {
		h.T.Fatal(err)
	}
	h.Drain()
}

func (h house) tell(k paydesk.Checkout, id string) {
	h.T.Helper()
	if err := h.Fees.Notice(h.T.Context(), h.Clock.Now(), paydesk.Notice{ID: id, Checkout: k}); err != nil {
		h.T.Fatal(err)
	}
	h.Drain()
}

func (h house) sweep() {
	h.T.Helper()
	if err := h.Jobs.Sweep(h.T.Context(), h.Clock.Now()); err != nil {
		h.T.Fatal(err)
	}
	h.Drain()
}

func (h house) charge(c application.Case) *kept.Charge {
	h.T.Helper()
	x, err := h.Fees.Of(h.T.Context(), h.DB, c.EntryID)
	if err != nil || x == nil {
		h.T.Fatal(x, err)
	}
	return x
}

// stands compares a case’s state, what is kept of what was paid, and the accounts.
func (h house) stands(c application.Case, what string, s lifecycle.State, keeps, rest int64) {
	h.T.Helper()
	x := h.charge(c)
	if got := h.StateOf(c); got != s || x.Fee.Paid()-x.Fee.Back() != keeps || x.Fee.Rest() != rest {
		h.T.Errorf(
			"%s: it is %s, keeps %d, %d are open; want %s, %d, %d",
			what,
			got,
			x.Fee.Paid()-x.Fee.Back(),
			x.Fee.Rest(),
			s,
			keeps,
			rest,
		)
	}
	h.even(what)
}

// even holds the ledger to the charges, and the account of the desk to the desk’s
// own statement.
func (h house) even(what string) {
	h.T.Helper()
	var rows []struct {
		Kind   ledger.Kind
		Amount int64
	}
	if err := h.DB.Select(&rows, `SELECT kind, amount FROM ledger`); err != nil {
		h.T.Fatal(err)
	}
	b := ledger.Sum(nil)
	for _, r := range rows {
		b.Add(r.Kind, r.Amount)
	}
	var open int64
	if err := h.DB.Get(&open, `
		SELECT COALESCE(sum(g.owed), 0)
		     - COALESCE((SELECT sum(r.amount) FROM returned r WHERE r.state = 'wanted'), 0) FROM charge g`); err != nil {
		h.T.Fatal(err)
	}
	if !b.Even() || b.Sums[ledger.Applicants] != open {
		h.T.Errorf("%s: the accounts are %v, the charges say that %d are open", what, b.Sums, open)
	}
	held := int64(0)
	for _, l := range h.Till.Statement(time.Time{}, h.Clock.Now().AddDate(10, 0, 0)) {
		held += l.Amount
	}
	if b.Sums[ledger.Desk] > held {
		h.T.Errorf("%s: the ledger has %d at the desk, which has %d", what, b.Sums[ledger.Desk], held)
	}
}

// mails counts those of a kind that went to somebody.
func (h house) mails(to, says string) (n int) {
	list, _ := h.Tray.List(to, 0, 200)
	for _, m := range list {
		if strings.Contains(m.Subject+m.Body, says) {
			n++
		}
	}
	return n
}

// Sending seals and does not enter; paying enters, once, however often the desk
// tells of it.
func TestPaying(t *testing.T) {
	h := open(t)
	c := h.sent("imre@isles.example")
	h.stands(c, "sent", lifecycle.Owing, 0, 6_000)
	if h.mails("imre@isles.example", "is sealed and waits for its fee") != 1 ||
		h.mails("imre@isles.example", "your application is in") != 0 {
		t.Error("what the lead was told on sending")
	}
	h.Held(
		c.LeadID,
		func(ctx context.Context, tx *db.Tx) error { _, err := h.Intake.Send(ctx, tx, c); return err },
	) // once more
	k := h.pay(c, "pays", true)
	h.stands(c, "paid", lifecycle.Eligible, 6_000, 0)
	for range 2 {
		h.tell(k, "n1")
	}
	h.tell(paydesk.Checkout{ID: k.ID, Currency: "EUR", State: paydesk.Open}, "n0") // an older notice
	h.back(c)
	h.stands(c, "told of again", lifecycle.Eligible, 6_000, 0)
	x := h.charge(c)
	if len(x.Payments) != 1 || h.mails("imre@isles.example", "Receipt 1: €60") != 1 {
		t.Errorf("%d payments, %d receipts", len(x.Payments), h.mails("imre@isles.example", "Receipt 1: €60"))
	}
	if _, err := h.Fees.Begin(t.Context(), h.Clock.Now(), db.Account(c.LeadID), c, nil, ""); !errors.Is(
		err,
		kept.ErrNothingDue,
	) {
		t.Errorf("paying once more: %v", err)
	}
	if err := h.Fees.Notice(t.Context(), h.Clock.Now(), paydesk.Notice{ID: "n2",
		Checkout: paydesk.Checkout{ID: "c999"}}); err != nil {
		t.Errorf("a notice about a checkout that is not ours: %v", err)
	}
}

// The ways in which a payment comes to be known.
func TestHowItIsKnown(t *testing.T) {
	h := open(t)
	told := h.sent("told@isles.example")
	h.tell(h.pay(told, "pays", false), "n1")
	h.stands(told, "by a notice alone", lifecycle.Eligible, 6_000, 0)
	silent := h.sent("silent@isles.example")
	h.pay(silent, "pays", false)
	h.stands(silent, "nobody has said anything", lifecycle.Owing, 0, 6_000)
	h.sweep()
	h.stands(silent, "too soon to ask", lifecycle.Owing, 0, 6_000)
	h.Clock.Set(h.Clock.Now().Add(3 * time.Minute))
	h.Till.Down.Store(true)
	h.sweep()
	h.stands(silent, "the desk is down", lifecycle.Owing, 0, 6_000)
	h.Till.Down.Store(false)
	h.sweep()
	h.stands(silent, "the desk was asked", lifecycle.Eligible, 6_000, 0)
}

// A card that is declined and a payer who goes away leave things as they were; the
// same checkout goes on.
func TestDeclinedAndAbandoned(t *testing.T) {
	h := open(t)
	c := h.sent("imre@isles.example")
	first := h.pay(c, "declined", true)
	x := h.charge(c)
	if k := x.Last(nil); k == nil || k.Declined != 1 || k.State != paydesk.Open {
		t.Errorf("%+v", k)
	}
	h.stands(c, "declined", lifecycle.Owing, 0, 6_000)
	if again := h.begin(c, nil); again.ID != first.ID {
		t.Errorf("another try is another checkout: %s, %s", first.ID, again.ID)
	}
	h.pay(c, "pays", true)
	h.stands(c, "paid in the end", lifecycle.Eligible, 6_000, 0)
}

// Two press Pay in the last seconds. What was begun counts, if it is through within
// the hour; later money goes back.
func TestAcrossClosing(t *testing.T) {
	h := open(t)
	h.Clock.Set(h.closes.Add(-10 * time.Minute))
	a, b, late := h.sent("ann@isles.example"), h.sent("bob@isles.example"), h.sent("late@isles.example")
	h.stands(a, "the price of the last day", lifecycle.Owing, 0, 9_000)
	h.Clock.Set(h.closes.Add(-2 * time.Second))
	ka, kb := h.begin(a, nil), h.begin(b, nil)
	h.Clock.Set(h.closes)
	if _, err := h.Fees.Begin(t.Context(), h.Clock.Now(), db.Account(late.LeadID), late, nil, ""); !errors.Is(
		err,
		kept.ErrTooLate,
	) {
		t.Errorf("begun at closing: %v", err)
	}
	h.Clock.Set(h.closes.Add(30 * time.Second))
	h.Till.Take(ka.ID, "pays", "never")
	h.back(a)
	h.stands(a, "through after closing", lifecycle.Eligible, 9_000, 0)
	if h.begin(b, nil).ID != kb.ID {
		t.Error("who began in time cannot go on")
	}
	h.Clock.Set(h.closes.Add(time.Hour))
	h.sweep()
	h.stands(b, "never paid", lifecycle.Unpaid, 0, 0)
	h.stands(late, "never begun", lifecycle.Unpaid, 0, 0)
	if h.mails("bob@isles.example", "is not in: its fee was not paid") != 1 {
		t.Error("bob was not told")
	}
	if got := h.Till.Take(kb.ID, "pays", "now"); got != "closed" {
		t.Errorf("the desk takes money after the time: %s", got)
	}
	// the office gives more time, with a reason; then it is paid
	until := h.Clock.Now().Add(48 * time.Hour)
	for _, bad := range []struct {
		until  time.Time
		reason string
	}{{until, ""}, {h.closes, "late"}} {
		if err := h.Try(h.officer, func(ctx context.Context, tx *db.Tx) error {
			return h.Fees.GiveTime(ctx, tx, b, bad.until, bad.reason)
		}); err == nil {
			t.Errorf("time until %s because %q", bad.until, bad.reason)
		}
	}
	h.Held(
		h.officer,
		func(ctx context.Context, tx *db.Tx) error { return h.Fees.GiveTime(ctx, tx, b, until, "the ferry") },
	)
	h.stands(b, "given time", lifecycle.Owing, 0, 9_000)
	h.pay(b, "pays", true)
	h.stands(b, "paid late by leave", lifecycle.Eligible, 9_000, 0)
}

// The news of a payment that was in time, days after: it is in.
func TestANoticeThatWasLost(t *testing.T) {
	h := open(t)
	c := h.sent("imre@isles.example")
	k := h.pay(c, "pays", false)
	h.Till.Down.Store(true)
	h.Clock.Set(h.closes.Add(2 * time.Hour))
	h.sweep()
	h.stands(c, "the desk is down at the end: nobody is shut out", lifecycle.Owing, 0, 6_000)
	// as if it had been: the office’s own road, a desk that forgot it for a while
	h.Till.Down.Store(false)
	h.Crowd(`UPDATE checkout SET state = 'closed'`)
	h.sweep()
	h.stands(c, "not known to be paid", lifecycle.Unpaid, 0, 0)
	h.tell(k, "days later")
	h.stands(c, "it was in time", lifecycle.Eligible, 6_000, 0)
}

// A desk that is down when Pay is pressed takes nobody’s place.
func TestTheDeskIsDown(t *testing.T) {
	h := open(t)
	h.Clock.Set(h.closes.Add(-10 * time.Minute))
	c := h.sent("imre@isles.example")
	h.Clock.Set(h.closes.Add(-2 * time.Second))
	h.Till.Down.Store(true)
	_, err := h.Fees.Begin(t.Context(), h.Clock.Now(), db.Account(c.LeadID), c, nil, "http://localhost/back")
	if says, ok := refusal.Of(err); !ok || !strings.Contains(says.Sentence(), "press Pay again in a minute") {
		t.Errorf("%v", err)
	}
	h.Till.Down.Store(false)
	h.Clock.Set(h.closes.Add(5 * time.Minute))
	h.pay(c, "pays", true)
	h.stands(c, "begun before closing", lifecycle.Eligible, 9_000, 0)
}

// Whoever pays what was paid gets it back by itself: twice, too much; too little
// waits for the rest, and goes back when it does not come.
func TestWrongSums(t *testing.T) {
	h := open(t)
	twice := h.sent("twice@isles.example")
	h.Held(twice.LeadID, func(ctx context.Context, tx *db.Tx) error {
		return h.Fees.AskPayer(ctx, tx, twice, "Orla Finn", "Orla@School.example")
	})
	h.Drain()
	payers, err := h.Fees.Payers(t.Context(), h.DB, twice.EntryID)
	if err != nil || len(payers) != 1 || h.mails("orla@school.example", "asks you to pay €60") != 1 {
		t.Fatalf("%+v %v", payers, err)
	}
	one, two := h.begin(twice, nil), h.begin(twice, &payers[0])
	if one.ID == two.ID {
		t.Fatal("two payers stand at one checkout")
	}
	h.Till.Take(two.ID, "pays", "never")
	h.Till.Take(one.ID, "pays", "never")
	h.tell(h.checkout(two.ID), "n1")
	h.stands(twice, "the guest has paid", lifecycle.Eligible, 6_000, 0)
	h.tell(h.checkout(one.ID), "n2")
	h.stands(twice, "and the lead too", lifecycle.Eligible, 6_000, 0)
	if got := h.checkout(one.ID); len(got.Refunds) != 1 || got.Refunds[0].Amount != 6_000 {
		t.Errorf("at the desk: %+v", got)
	}
	if h.mails("orla@school.example", "Receipt 1") != 1 ||
		h.mails("twice@isles.example", "Orla Finn has paid") != 1 ||
		h.mails("twice@isles.example", "All of it goes back, because it was paid already") != 1 ||
		h.mails("twice@isles.example", "€60 went back") != 1 {
		t.Error("who was told what")
	}

	more := h.sent("more@isles.example")
	h.pay(more, "more", true)
	h.stands(more, "five too much", lifecycle.Eligible, 6_000, 0)

	less := h.sent("less@isles.example")
	h.pay(less, "less", true)
	h.stands(less, "ten too little", lifecycle.Owing, 5_000, 1_000)
	h.pay(less, "pays", true)
	h.stands(less, "and the rest", lifecycle.Eligible, 6_000, 0)

	part := h.sent("part@isles.example")
	h.pay(part, "less", true)
	h.Clock.Set(h.closes.Add(2 * time.Hour))
	h.sweep()
	h.stands(part, "the rest never came", lifecycle.Unpaid, 0, 0)
	if h.mails("part@isles.example", "€50 go back to you") != 1 {
		t.Error("what the lead was told of the part")
	}
}

// A refund that the desk will not make is owed until it does; one made at the desk
// itself leaves the application in, and the fee open.
func TestRefundsThatGoWrong(t *testing.T) {
	h := open(t)
	c := h.sent("imre@isles.example")
	k := h.pay(c, "pays", true)
	if err := h.Till.GiveBack(k.Payments[0].ID, 6_000, "never"); err != nil {
		t.Fatal(err)
	}
	h.tell(h.checkout(k.ID), "n1")
	h.stands(c, "taken back by the bank", lifecycle.Eligible, 0, 6_000)

	x := h.sent("second@isles.example")
	h.Till.Down.Store(false)
	k = h.pay(x, "pays", true)
	h.Till.Down.Store(true)
	h.Held(x.LeadID, func(ctx context.Context, tx *db.Tx) error { return h.Intake.Withdraw(ctx, tx, x) })
	h.Drain()
	h.stands(x, "withdrawn while the desk is down", lifecycle.Withdrawn, 3_000, 0)
	if got := h.charge(x); got.Returns[0].State != fee.Wanted {
		t.Errorf("%+v", got.Returns)
	}
	h.Till.Down.Store(false)
	h.Clock.Set(h.Clock.Now().Add(5 * time.Minute))
	h.sweep()
	if got := h.charge(x); got.Returns[0].State != fee.Done {
		t.Errorf("%+v", got.Returns)
	}
	if got := h.checkout(k.ID); len(got.Refunds) != 1 || got.Refunds[0].Amount != 3_000 {
		t.Errorf("at the desk: %+v", got)
	}
	h.even("in the end")
}

// A code that works once works for one, also when two send with it.
func TestACodeThatWorksOnce(t *testing.T) {
	h := open(t)
	send := func(email string) (application.Case, error) {
		c := h.Ready(email)
		return c, h.Try(c.LeadID, func(ctx context.Context, tx *db.Tx) error {
			results, _, err := h.Intake.Save(ctx, tx, c, []intake.Edit{{EditID: "code-once", Value: "once",
				Place: form.Place{Question: "fees", Column: form.ColCode}}})
			if err != nil || results[0].Conflict || results[0].Fault != "" {
				t.Errorf("%+v %v", results, err)
			}
			_, err = h.Intake.Send(ctx, tx, c)
			return err
		})
	}
	a, err := send("ann@isles.example")
	if err != nil {
		t.Fatal(err)
	}
	h.Drain()
	h.stands(a, "let off by the code", lifecycle.Eligible, 0, 0)
	_, err = send("bob@isles.example")
	var stopped intake.Stopped
	if !errors.As(err, &stopped) || stopped.Obstacles[0].Code != form.CodeFeeCodeUsed {
		t.Errorf("the second: %v", err)
	}
	h.Act(a.LeadID, func(ctx context.Context, tx *db.Tx) error { return h.Intake.Withdraw(ctx, tx, a) })
	if _, err := send("cara@isles.example"); err != nil {
		t.Errorf("whoever withdraws frees it: %v", err)
	}
}
