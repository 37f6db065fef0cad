package fee_test

import (
	"context"
	"math/rand/v2"
	"strconv"
	"strings"
	"testing"
	"time"

	"ulvant/core/fee"
	"ulvant/core/lifecycle"
	"ulvant/internal/application"
	kept "ulvant/internal/fee"
	"ulvant/internal/platform/db"
	"ulvant/internal/platform/paydesk"
)

// refused runs an act that must not be done, and returns what it says.
func (h house) refused(by int64, what string, f func(ctx context.Context, tx *db.Tx) error) string {
	h.T.Helper()
	err := h.Try(by, f)
	if err == nil {
		h.T.Errorf("%s is done", what)
		return ""
	}
	return err.Error()
}

// What the office gives back above the round’s sum waits for somebody else.
func TestGivingBack(t *testing.T) {
	h := open(t)
	second := h.Person("oskar@ostrel-trust.example", "Oskar Lind").ID
	c := h.sent("imre@isles.example")
	k := h.pay(c, "pays", true)
	give := func(sum int64, reason string) func(context.Context, *db.Tx) error {
		return func(ctx context.Context, tx *db.Tx) error { return h.Fees.GiveBack(ctx, tx, c, sum, reason) }
	}
	h.refused(h.officer, "without a reason", give(1_000, " "))
	h.refused(h.officer, "more than was paid", give(6_001, "a slip"))
	h.refused(h.officer, "nothing", give(0, "a slip"))
	h.Held(h.officer, give(1_500, "the catalogue is sold out"))
	h.Drain()
	h.stands(c, "a small sum", lifecycle.Eligible, 4_500, 0)
	if h.mails("imre@isles.example", "the catalogue is sold out") != 1 {
		t.Error("the payer is not told why")
	}
	h.Act(h.officer, give(4_500, "entered by mistake"))
	h.Drain()
	if got := h.checkout(k.ID); len(got.Refunds) != 1 {
		t.Errorf("before anybody agreed: %+v", got.Refunds)
	}
	key := h.charge(c).Returns[1].Key
	agree := func(yes bool) func(context.Context, *db.Tx) error {
		return func(ctx context.Context, tx *db.Tx) error { return h.Fees.Agree(ctx, tx, c, key, yes, true) }
	}
	if says := h.refused(h.officer, "agreeing with oneself", agree(true)); !strings.Contains(
		says,
		"somebody else must agree",
	) {
		t.Error(says)
	}
	for _, yes := range []bool{true, false} {
		h.refused(second, "answering without the role", func(ctx context.Context, tx *db.Tx) error {
			return h.Fees.Agree(ctx, tx, c, key, yes, false)
		})
	}
	h.Held(second, agree(true))
	h.Drain()
	h.refused(second, "agreeing twice", agree(true))
	h.stands(c, "all of it", lifecycle.Eligible, 0, 0)
	if got := h.checkout(k.ID); len(got.Refunds) != 2 || got.Refunds[1].Amount != 4_500 {
		t.Errorf("at the desk: %+v", got.Refunds)
	}
	x := h.charge(c)
	if r := x.Returns[1]; r.State != fee.Done || r.ByID != h.officer || r.AgreedID != second ||
		r.Reason != "entered by mistake" {
		t.Errorf("%+v", r)
	}
	d := h.sent("dora@isles.example")
	h.pay(d, "pays", true)
	h.Held(
		h.officer,
		func(ctx context.Context, tx *db.Tx) error { return h.Fees.GiveBack(ctx, tx, d, 6_000, "a slip") },
	)
	key = h.charge(d).Returns[0].Key
	h.Held(
		h.officer,
		func(ctx context.Context, tx *db.Tx) error { return h.Fees.Agree(ctx, tx, d, key, false, false) },
	) // taken back
	h.stands(d, "thought better of", lifecycle.Eligible, 6_000, 0)
}

// The fee is let off before sending and afterwards; who was told that nothing is
// asked, and sent, is not asked again.
func TestLettingOff(t *testing.T) {
	h := open(t)
	waive := func(c application.Case, why string) func(context.Context, *db.Tx) error {
		return func(ctx context.Context, tx *db.Tx) error { return h.Fees.Waive(ctx, tx, c, why) }
	}
	again := func(c application.Case) func(context.Context, *db.Tx) error {
		return func(ctx context.Context, tx *db.Tx) error { return h.Fees.AskAgain(ctx, tx, c, "the wrong one") }
	}
	before := h.Ready("before@isles.example")
	h.refused(h.officer, "without a reason", waive(before, ""))
	h.Held(h.officer, waive(before, "hardship"))
	h.refused(h.officer, "twice", waive(before, "hardship"))
	h.Held(h.officer, again(before))
	h.refused(h.officer, "asking again twice", again(before))
	h.Act(h.officer, waive(before, "hardship"))
	h.Held(before.LeadID, func(ctx context.Context, tx *db.Tx) (err error) {
		_, err = h.Intake.Send(ctx, tx, before)
		return err
	})
	h.Drain()
	h.stands(before, "let off before", lifecycle.Eligible, 0, 0)
	h.refused(h.officer, "asking who has sent", again(before))
	if h.charge(before).Total != 0 || h.mails("before@isles.example", "the office asks no fee") != 2 {
		t.Error("what was charged and told")
	}
	waits := h.sent("waits@isles.example")
	h.Act(h.officer, waive(waits, "hardship"))
	h.Drain()
	h.stands(waits, "let off while it waits", lifecycle.Eligible, 0, 0)
	paid := h.sent("paid@isles.example")
	h.pay(paid, "pays", true)
	h.Act(h.officer, waive(paid, "hardship"))
	h.Drain()
	h.stands(paid, "let off after it was paid", lifecycle.Eligible, 0, 0)
	if h.mails("paid@isles.example", "€60 went back") != 1 {
		t.Error("the money did not go back")
	}
	over, gone := h.sent("over@isles.example"), h.sent("gone@isles.example")
	h.Held(gone.LeadID, func(ctx context.Context, tx *db.Tx) error { return h.Intake.Withdraw(ctx, tx, gone) })
	h.refused(h.officer, "letting off what is withdrawn", waive(gone, "hardship"))
	h.Clock.Set(h.closes.Add(2 * time.Hour))
	h.sweep()
	h.Act(h.officer, waive(over, "our own fault"))
	h.Drain()
	h.stands(over, "let off after its time", lifecycle.Eligible, 0, 0)
}

// An invoice lets it in at once; the office matches the transfer, which may come
// in parts and is never put in twice. What is too much is sent back by hand.
func TestInvoices(t *testing.T) {
	h := open(t)
	c := h.sent("imre@isles.example")
	bill := func(b kept.Billing) func(context.Context, *db.Tx) error {
		return func(ctx context.Context, tx *db.Tx) error { return h.Fees.AskInvoice(ctx, tx, c, b) }
	}
	good := kept.Billing{Name: "Tarl School", Email: "bursar@tarl.example", Address: "1 Quay\nTarl", Theirs: "PO 7"}
	bad := good
	bad.Address = ""
	h.refused(c.LeadID, "without an address", bill(bad))
	bad = good
	bad.Email = "bursar"
	h.refused(c.LeadID, "without a mail address", bill(bad))
	h.Held(c.LeadID, bill(good))
	h.Drain()
	h.stands(c, "on an invoice", lifecycle.Eligible, 0, 6_000)
	h.refused(c.LeadID, "a second invoice", bill(good))
	i, err := h.Fees.InvoiceOf(t.Context(), h.DB, c.EntryID)
	if err != nil || i.Number != 1 || i.DueOn.Format(time.DateOnly) != "2027-03-16" ||
		h.mails("bursar@tarl.example", "Invoice 1 over €60") != 1 {
		t.Errorf("%+v %v", i, err)
	}
	came := func(sum int64, ref string, day time.Time) func(context.Context, *db.Tx) error {
		return func(ctx context.Context, tx *db.Tx) error { return h.Fees.PaidIn(ctx, tx, c, sum, day, ref) }
	}
	day := h.Clock.Now().Add(-24 * time.Hour)
	h.refused(h.officer, "nothing came", came(0, "b1", day))
	h.refused(h.officer, "without a reference", came(100, "", day))
	h.refused(h.officer, "tomorrow", came(100, "b1", h.Clock.Now().Add(24*time.Hour)))
	h.Held(h.officer, came(2_000, "B 1", day))
	h.stands(c, "a part", lifecycle.Eligible, 2_000, 4_000)
	if says := h.refused(h.officer, "the same transfer", came(2_000, "b  1", day)); !strings.Contains(says, c.Ref) {
		t.Error(says)
	}
	h.Act(h.officer, came(5_000, "B 2", day))
	h.stands(c, "and too much", lifecycle.Eligible, 6_000, 0)
	for i, p := range h.charge(c).Payments { // whatever came to nothing meanwhile
		if p.Number != int64(i+1) {
			t.Errorf("payment %d has receipt %d", i+1, p.Number)
		}
	}
	key := h.charge(c).Returns[0].Key
	back := func(ctx context.Context, tx *db.Tx) error { return h.Fees.Transferred(ctx, tx, c, key) }
	h.Held(h.officer, back)
	h.refused(h.officer, "sending back twice", back)
	h.even("in the end")
	// whoever gets an invoice may pay by card, also long after closing
	d := h.sent("dora@isles.example")
	h.Act(d.LeadID, func(ctx context.Context, tx *db.Tx) error { return h.Fees.AskInvoice(ctx, tx, d, good) })
	h.Clock.Set(h.closes.AddDate(0, 1, 0))
	h.sweep()
	h.pay(d, "pays", true)
	h.stands(d, "by card after all", lifecycle.Eligible, 6_000, 0)
}

// Who is asked to pay, and who no longer is.
func TestPayers(t *testing.T) {
	h := open(t)
	c := h.sent("imre@isles.example")
	ask := func(name, email string) func(context.Context, *db.Tx) error {
		return func(ctx context.Context, tx *db.Tx) error { return h.Fees.AskPayer(ctx, tx, c, name, email) }
	}
	h.refused(c.LeadID, "a name that is none", ask("", "a@b.example"))
	h.refused(c.LeadID, "an address that is none", ask("Orla", "a"))
	for i := range 5 {
		h.Act(c.LeadID, ask("Orla", "orla"+strconv.Itoa(i)+"@b.example"))
	}
	h.refused(c.LeadID, "the same one twice", ask("Orla", "Orla1@b.example"))
	h.refused(c.LeadID, "a sixth", ask("Orla", "six@b.example"))
	list, err := h.Fees.Payers(t.Context(), h.DB, c.EntryID)
	if err != nil || len(list) != 5 {
		t.Fatal(list, err)
	}
	end := func(ctx context.Context, tx *db.Tx) error { return h.Fees.EndPayer(ctx, tx, c, list[0].ID) }
	h.Held(c.LeadID, end)
	h.refused(c.LeadID, "taking back twice", end)
	h.refused(c.LeadID, "one of another case", func(ctx context.Context, tx *db.Tx) error {
		return h.Fees.EndPayer(ctx, tx, application.Case{EntryID: c.EntryID + 1}, list[1].ID)
	})
}

// Those who have not paid are reminded once, a day before, and not at once.
func TestReminders(t *testing.T) {
	h := open(t)
	h.sent("imre@isles.example")
	h.sweep()
	h.Clock.Set(h.closes.Add(-23 * time.Hour))
	h.sent("late@isles.example")
	for range 3 {
		h.sweep()
		h.Clock.Set(h.Clock.Now().Add(time.Hour))
	}
	if n := h.mails("imre@isles.example", "Not in yet: the fee"); n != 1 {
		t.Errorf("reminded %d times", n)
	}
	if n := h.mails("late@isles.example", "Not in yet: the fee"); n != 0 {
		t.Errorf("reminded %d times within the hour of sending", n)
	}
}

// Whatever the desk tells, in any order, twice or never: in the end the ledger has
// at the desk what the desk has, and nobody is in twice or out with money here.
func TestSequences(t *testing.T) {
	h := open(t)
	r := rand.New(rand.NewPCG(15, 1))
	var all []application.Case
	var told []paydesk.Checkout
	cards := []string{"pays", "pays", "pays", "declined", "less", "more"}
	for i := range 12 {
		all = append(all, h.sent("p"+strconv.Itoa(i)+"@isles.example"))
	}
	for step := range 150 {
		c := all[r.IntN(len(all))]
		switch r.IntN(6) {
		case 0, 1, 2:
			if url, err := h.Fees.Begin(t.Context(), h.Clock.Now(), db.Account(c.LeadID), c, nil, "http://x"); err == nil {
				id := url[strings.LastIndexByte(url, '/')+1:]
				h.Till.Take(id, cards[r.IntN(len(cards))], "never")
				told = append(told, h.checkout(id))
			}
		case 3:
			if len(told) > 0 {
				h.tell(told[r.IntN(len(told))], strconv.Itoa(step))
			}
		case 4:
			if len(told) > 0 && r.IntN(3) == 0 {
				if k := told[r.IntN(len(told))]; len(k.Payments) > 0 {
					h.Till.GiveBack(k.Payments[0].ID, 500, "never") // refused where nothing is left
				}
			}
		case 5:
			if r.IntN(4) == 0 {
				h.Try(c.LeadID, func(ctx context.Context, tx *db.Tx) error { return h.Intake.Withdraw(ctx, tx, c) })
			}
		}
	}
	h.Clock.Set(h.closes.Add(2 * time.Hour))
	for range 3 {
		h.sweep()
		for _, k := range told { // the reconciliation tells the rest
			h.tell(h.checkout(k.ID), "last "+k.ID+strconv.Itoa(r.IntN(1_000_000)))
		}
		h.Clock.Set(h.Clock.Now().Add(10 * time.Minute))
	}
	var atDesk, ours int64
	for _, l := range h.Till.Statement(time.Time{}, h.Clock.Now().AddDate(1, 0, 0)) {
		atDesk += l.Amount
	}
	if err := h.DB.Get(&ours, `
		SELECT COALESCE(sum(CASE kind WHEN 'paid' THEN amount WHEN 'given back' THEN -amount ELSE 0 END), 0) FROM ledger`); err != nil {
		t.Fatal(err)
	}
	if atDesk != ours {
		t.Errorf("the desk has %d, the ledger says %d", atDesk, ours)
	}
	h.even("in the end")
	for _, c := range all {
		x := h.charge(c)
		keeps := x.Fee.Paid() - x.Fee.Back()
		switch x.Fee.Stand {
		case fee.Over:
			if keeps != 0 {
				t.Errorf("%s is not in, and %d of its money is here", c.Ref, keeps)
			}
		case fee.Waiting:
			t.Errorf("%s still waits", c.Ref)
		case fee.In:
			if n := h.mails(c.LeadEmail, c.Ref+": your application is in"); n != 1 {
				t.Errorf("%s went in %d times", c.Ref, n)
			}
		}
	}
}

// BenchmarkNotices takes in a burst of 500 notices of 500 payers, from eight at
// once, against writing one row for each.
func BenchmarkNotices(b *testing.B) {
	h := open(b)
	c := h.sent("one@isles.example")
	k := h.begin(c, nil)
	h.Till.Take(k.ID, "pays", "never")
	known := h.checkout(k.ID)
	b.Run("taken in", func(b *testing.B) {
		for i := range b.N {
			if err := h.Fees.Notice(b.Context(), h.Clock.Now(), paydesk.Notice{ID: "b" + strconv.Itoa(i),
				Checkout: known}); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("one row each", func(b *testing.B) {
		for i := range b.N {
			if _, err := h.DB.Exec(`INSERT INTO notice (id, at, known) VALUES ($1, now(), true)`,
				"x"+strconv.Itoa(i)+strconv.Itoa(b.N)); err != nil {
				b.Fatal(err)
			}
		}
	})
}
