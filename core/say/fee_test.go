package say

import (
	"testing"
	"time"
)

// What came of a try at the payment desk, as whoever pays and the office hear it.
func TestATryAtTheDesk(t *testing.T) {
	begun := time.Date(2027, 3, 2, 12, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		name            string
		try             DeskTry
		payer, toOffice string
	}{
		{"paid", DeskTry{Begun: begun, Paid: true, Answered: true}, "", ", paid"},
		{"paid at the second card", DeskTry{Begun: begun, Paid: true, Answered: true, Declined: 1}, "",
			", paid, a card declined 1 time"},
		{"closed", DeskTry{Begun: begun, Closed: true, Answered: true},
			"Your try of 12:00 on 2 March is closed at the payment desk; nothing was paid there.", ", closed without a payment"},
		{"two cards declined", DeskTry{Begun: begun, Answered: true, Declined: 2},
			"The card was declined; nothing was paid. Try again, with another card if you have one.",
			", still open, a card declined 2 times"},
		{"the desk is away", DeskTry{Begun: begun},
			"The payment desk did not answer at 12:00 on 2 March. Nothing was paid; that you began then is kept.",
			", still open: the desk has not answered"},
		{"open", DeskTry{Begun: begun, Answered: true},
			"You went to the payment desk at 12:00 on 2 March and have not paid there. Pressing Pay goes on where you were. " +
				"If you did pay, the desk has not told us yet: we ask it again by ourselves, and nothing is lost.",
			", still open"},
	} {
		if got := c.try.ToPayer(time.UTC); got != c.payer {
			t.Errorf("%s, to whoever pays: %q", c.name, got)
		}
		if got, want := c.try.ToOffice(time.UTC), "begun "+Instant(begun, time.UTC)+c.toOffice; got != want {
			t.Errorf("%s, to the office: %q", c.name, got)
		}
	}
}
