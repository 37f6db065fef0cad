package fee_test

import (
	"testing"

	"ulvant/core/fee"
)

// Under which heading the office finds a fee.
func TestNeeds(t *testing.T) {
	for _, c := range []struct {
		what string
		f    fee.Facts
		want fee.Need
	}{
		{"nothing is open", fee.Facts{Stand: fee.In, Paid: 9000}, fee.Settled},
		{"withdrawn, a part kept", fee.Facts{Stand: fee.Gone, Paid: 9000, Back: 4500}, fee.Settled},
		{"withdrawn, on an invoice", fee.Facts{Stand: fee.Gone, Rest: 4500, Invoice: true}, fee.InNotPaid},
		{"waits", fee.Facts{Stand: fee.Waiting, Rest: 9000}, fee.Awaited},
		{"a part is paid", fee.Facts{Stand: fee.Waiting, Rest: 1000, Paid: 8000}, fee.PaidNotIn},
		{"late money that goes back", fee.Facts{Stand: fee.Over, Paid: 9000, Back: 9000}, fee.NotPaid},
		{"late money that is still here", fee.Facts{Stand: fee.Over, Paid: 9000}, fee.PaidNotIn},
		{"an invoice", fee.Facts{Stand: fee.In, Rest: 9000, Invoice: true}, fee.InNotPaid},
		{"taken back by the bank", fee.Facts{Stand: fee.In, Rest: 9000, Paid: 9000, Back: 9000}, fee.InNotPaid},
		{"proposed", fee.Facts{Stand: fee.In, Paid: 9000, Back: 3000, Proposed: 3000}, fee.ToAgree},
		{"the desk would not", fee.Facts{Stand: fee.In, Rest: -3000, Paid: 9000, Failed: 3000}, fee.NotBack},
		{"to be sent by hand", fee.Facts{Stand: fee.In, Paid: 9100, Back: 100, ToTransfer: 100}, fee.ToTransfer},
	} {
		if got := c.f.Need(); got != c.want {
			t.Errorf("%s: %s, want %s", c.what, got, c.want)
		}
	}
}

// A statement against the ledger: one is the same, one differs, one is missing on
// each side.
func TestReconcile(t *testing.T) {
	here := []fee.Held{{ID: "p1", Amount: 9000}, {ID: "p2", Amount: 9000}, {ID: "r1", Amount: -100}}
	there := []fee.Held{{ID: "p3", Amount: 5}, {ID: "p2", Amount: 8000}, {ID: "p1", Amount: 9000}}
	out, same := fee.Reconcile(here, there)
	if same != 1 || len(out) != 3 || out[0].Here != nil || out[0].There.ID != "p3" || out[1].Here.Amount != 9000 ||
		out[1].There.Amount != 8000 || out[2].There != nil || out[2].Here.ID != "r1" {
		t.Errorf("%d the same, %+v", same, out)
	}
	if out, same := fee.Reconcile(nil, nil); same != 0 || out != nil {
		t.Error(out)
	}
}
