package ledger_test

import (
	"testing"

	"ulvant/core/ledger"
)

// A fee of 90 is charged, 30 of it let off, 70 come in by two ways, and 10 too
// much go back: the funder has earned 60 and has 60.
func TestBook(t *testing.T) {
	b := ledger.Sum([]ledger.Entry{{Kind: ledger.Charged, Amount: 90}, {Kind: ledger.LetOff, Amount: 30},
		{Kind: ledger.Paid, Amount: 50}, {Kind: ledger.PaidIn, Amount: 20}, {Kind: ledger.GivenBack, Amount: 5},
		{Kind: ledger.SentBack, Amount: 5}})
	for account, want := range map[ledger.Account]int64{ledger.Applicants: 0, ledger.Desk: 45, ledger.Bank: 15,
		ledger.Earned: -60} {
		if b.Sums[account] != want {
			t.Errorf("%s: %d, want %d", account, b.Sums[account], want)
		}
	}
	if !b.Even() {
		t.Error("it does not add up")
	}
	b.Sums[ledger.Desk]--
	if b.Even() {
		t.Error("a sum that is missing is not seen")
	}
	for _, k := range ledger.Kinds {
		if d, c := k.Sides(); d == "" || c == "" || d == c {
			t.Errorf("%s moves from %q to %q", k, c, d)
		}
		one := ledger.Sum([]ledger.Entry{{Kind: k, Amount: 7}})
		if !one.Even() {
			t.Errorf("%s alone does not add up", k)
		}
	}
	if ledger.Sum([]ledger.Entry{{Kind: "lost", Amount: 1}}).Even() {
		t.Error("an entry of no kind adds up")
	}
}
