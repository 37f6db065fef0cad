package connected

// Part is what somebody is in a place: of a case, or of a round or the office.
type Part string

// The parts. Those before Reader belong to a case, the others to none.
const (
	Applicant Part = "applicant" // the lead, and the body that applies
	Teammate  Part = "teammate"
	Director  Part = "director" // named in a table of people: directors, members, partners in the work
	Supplier  Part = "supplier" // who is to be paid
	Referee   Part = "referee"
	Signatory Part = "signatory"
	Sponsor   Part = "sponsor" // who holds the money

	Reader Part = "reader"
	Panel  Part = "panel"
	Staff  Part = "staff"
	Donor  Part = "donor"
)

// OfCase reports a part of a case; the others judge or give.
func (p Part) OfCase() bool {
	switch p {
	case Reader, Panel, Staff, Donor:
		return false
	}
	return true
}

// asks are those for whom a case asks.
func (p Part) asks() bool {
	return p == Applicant || p == Teammate || p == Director || p == Sponsor
}

// Seat is where somebody sits: a case (0 for none), whose case it is (an account;
// 0 for none), and as what.
type Seat struct {
	Case, Lead int64
	Account    int64 // of the person themselves; 0 for none
	Part       Part
}

// Matters reports whether it matters that two who sit so belong together; both
// ways round alike. Common practice, no source: those who judge or give are held
// against all of every case; within a case, whoever vouches, signs or is paid
// against whoever asks; between cases, those who ask against each other, since one
// may be applying twice. One lead’s own cases are not held against each other, nor
// one account against itself, except that nobody judges what they have a part in.
func Matters(a, b Seat) bool {
	if !a.Part.OfCase() {
		a, b = b, a
	}
	switch {
	case !a.Part.OfCase(): // two who judge
		return false
	case !b.Part.OfCase():
		return true
	case a.Account != 0 && a.Account == b.Account:
		return false
	case a.Case == b.Case:
		return a.Part.asks() != b.Part.asks()
	case a.Lead != 0 && a.Lead == b.Lead:
		return false
	}
	return a.Part.asks() && b.Part.asks()
}

// Worth reports whether a claim about two parts is worth a person’s time: colleagues
// who have nothing in common but a mail domain may each apply, and vouch for each
// other; they may not judge each other, nor be paid by each other unseen.
func (c Claim) Worth(a, b Part) bool {
	for _, e := range c.Evidence {
		if c.Same || e.Kind != Domain && e.Kind != Names {
			return true
		}
	}
	return !a.OfCase() || !b.OfCase() || a == Supplier || b == Supplier
}
