package connected_test

import (
	"testing"

	"ulvant/core/connected"
)

// Colleagues may apply and vouch; they may not judge or be paid unseen.
func TestWhatIsWorthATime(t *testing.T) {
	by := func(same bool, kinds ...connected.Kind) connected.Claim {
		c := connected.Claim{Same: same}
		for _, k := range kinds {
			c.Evidence = append(c.Evidence, connected.Evidence{Kind: k})
		}
		return c
	}
	for _, c := range []struct {
		claim connected.Claim
		a, b  connected.Part
		want  bool
	}{
		{by(false, connected.Domain), connected.Applicant, connected.Applicant, false},
		{by(false, connected.Domain, connected.Names), connected.Referee, connected.Applicant, false},
		{by(false, connected.Domain), connected.Supplier, connected.Applicant, true},
		{by(false, connected.Domain), connected.Director, connected.Supplier, true},
		{by(false, connected.Domain), connected.Applicant, connected.Reader, true},
		{by(false, connected.Domain), connected.Staff, connected.Referee, true},
		{by(false, connected.Phone), connected.Referee, connected.Applicant, true},
		{by(true, connected.Names), connected.Applicant, connected.Applicant, true},
	} {
		if got := c.claim.Worth(c.a, c.b); got != c.want {
			t.Errorf("%+v of %s and %s: %v", c.claim, c.a, c.b, got)
		}
	}
}

func TestWhatMatters(t *testing.T) {
	at := func(c, lead, account int64, p connected.Part) connected.Seat {
		return connected.Seat{Case: c, Lead: lead, Account: account, Part: p}
	}
	for _, c := range []struct {
		says string
		a, b connected.Seat
		want bool
	}{
		{"a referee who reads", at(1, 9, 0, connected.Referee), at(0, 0, 7, connected.Reader), true},
		{"a reader with a part of their own in the case", at(1, 7, 7, connected.Applicant), at(0, 0, 7, connected.Reader),
			true},
		{"a supplier who is staff", at(1, 9, 0, connected.Supplier), at(0, 0, 7, connected.Staff), true},
		{"two readers", at(0, 0, 7, connected.Reader), at(0, 0, 8, connected.Panel), false},
		{"a supplier who directs", at(1, 9, 0, connected.Supplier), at(1, 9, 0, connected.Director), true},
		{"a referee and the lead of one case", at(1, 9, 0, connected.Referee), at(1, 9, 9, connected.Applicant), true},
		{"two directors of one case", at(1, 9, 0, connected.Director), at(1, 9, 0, connected.Director), false},
		{"a referee and a supplier of one case", at(1, 9, 0, connected.Referee), at(1, 9, 0, connected.Supplier), false},
		{"two cases of one lead", at(1, 9, 0, connected.Director), at(2, 9, 0, connected.Director), false},
		{"two leads", at(1, 9, 9, connected.Applicant), at(2, 8, 8, connected.Applicant), true},
		{"one account that leads one and helps in another", at(1, 9, 9, connected.Applicant),
			at(2, 8, 9, connected.Teammate), false},
		{"a supplier of two cases", at(1, 9, 0, connected.Supplier), at(2, 8, 0, connected.Supplier), false},
		{"a referee of two cases", at(1, 9, 0, connected.Referee), at(2, 8, 0, connected.Referee), false},
		{"who holds the money and another lead", at(1, 9, 0, connected.Sponsor), at(2, 8, 8, connected.Applicant), true},
	} {
		if got := connected.Matters(c.a, c.b); got != c.want {
			t.Errorf("%s: %v", c.says, got)
		}
		if got := connected.Matters(c.b, c.a); got != c.want {
			t.Errorf("%s, the other way: %v", c.says, got)
		}
	}
}
