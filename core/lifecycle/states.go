package lifecycle

import "slices"

// State of an entry: one application in one stage.
type State string

// The states, in the order of a case's life. What is true of each stands in the
// table below; code, SQL and templates ask for a fact, so that a state which
// joins the table is counted wherever it belongs.
const (
	Invited     State = "invited" // to a stage after the first; not taken up yet
	Draft       State = "draft"
	Owing       State = "waiting for payment" // sealed; in when it is paid
	Unpaid      State = "not paid"            // its time to pay is over
	Sent        State = "sent"
	HandedBack  State = "handed back" // a query of the office is open: some questions can be answered again
	Complete    State = "complete"
	Eligible    State = "eligible"
	NotEligible State = "not eligible"
	Reading     State = "reading"
	Read        State = "read"
	Interview   State = "interview"  // to be met; read again when it is over
	InvitedOn   State = "invited on" // to the next stage, which has an entry of its own
	Awarded     State = "awarded"
	OnOffer     State = "offered"      // told, and to be accepted or declined
	Accepted    State = "accepted"     // something of what was offered
	OfferDown   State = "declined"     // nothing of what was offered is taken
	OfferLapsed State = "offer lapsed" // nobody answered in time
	Reserve     State = "reserve"
	NotAwarded  State = "not awarded"
	Withdrawn   State = "withdrawn"
	Lapsed      State = "lapsed"
)

// Fact is something that is true of some states.
type Fact uint64

// The facts.
const (
	Stored     Fact = 1 << iota // kept with the entry; what is not is worked out from the clock
	Offered                     // to be taken up or not
	Drafting                    // written for the first time
	Writing                     // before sending: it lapses when its window closes
	Queried                     // handed back with a query that is open
	Open                        // the applicant writes: all of it, or what was handed back
	Sealed                      // a seal stands behind it
	In                          // sealed, and not taken back
	ToCheck                     // the rules have not been worked through
	ToSettle                    // a person must look at what the rules left open
	Settles                     // what the rules found can be settled, or settled anew
	TurnedDown                  // found not eligible
	ToRead                      // admitted, with nobody reading it
	BeingRead                   // readers have it
	HandsOut                    // handing out looks at it
	ToDecide                    // all its readers have spoken
	ToMeet                      // invited to an interview that is not over
	UnderWay                    // admitted, and not decided
	Ordered                     // stands in the order of a stage that is read
	Admitted                    // found eligible, whatever came after
	Decided                     // the panel has spoken
	Gives                       // something is awarded
	GoesOn                      // to the next stage
	Final                       // another decision takes its place with a reason alone
	Waits                       // on the reserve list
	Declined                    // nothing is awarded
	Ended                       // nobody moves any more
	Gone                        // taken back by the applicant
	Missed                      // its window closed before it was sent
	Owes                        // it is in when its fee is paid
	Answers                     // an offer of it waits for its answer
	Back                        // what was offered came back: it is free for others
	Taken                       // something that was offered is accepted
)

// Row of the table: a state and all that is true of it.
type Row struct {
	State State
	Facts Fact
}

const sent = Stored | Sealed | In

// Facts is the table of states.
var Facts = []Row{
	{Invited, Stored | Offered | Writing},
	{Draft, Stored | Drafting | Writing | Open},
	{Owing, Stored | Sealed | Owes},
	{Unpaid, Stored | Sealed | Missed | Ended},
	{Sent, sent | ToCheck},
	{HandedBack, sent | Queried | Open},
	{Complete, sent | ToSettle | Settles},
	{Eligible, sent | Settles | ToRead | HandsOut | UnderWay | Admitted},
	{NotEligible, sent | Settles | TurnedDown | Ended},
	{Reading, sent | BeingRead | HandsOut | UnderWay | Admitted},
	{Read, sent | ToDecide | UnderWay | Ordered | Admitted},
	{Interview, sent | ToMeet | UnderWay | Admitted},
	{InvitedOn, sent | Ordered | Admitted | Decided | Final | GoesOn | Ended},
	{Awarded, sent | Ordered | Admitted | Decided | Final | Gives | Ended},
	{OnOffer, sent | Ordered | Admitted | Decided | Final | Gives | Answers},
	{Accepted, sent | Ordered | Admitted | Decided | Final | Gives | Taken | Ended},
	{OfferDown, sent | Ordered | Admitted | Decided | Final | Back | Ended},
	{OfferLapsed, sent | Ordered | Admitted | Decided | Final | Back | Ended},
	{Reserve, sent | Ordered | Admitted | Decided | Waits},
	{NotAwarded, sent | Ordered | Admitted | Decided | Final | Declined | Ended},
	{Withdrawn, Stored | Sealed | Ended | Gone},
	{Lapsed, Ended | Missed},
}

// States lists them in order.
func States() []State {
	out := make([]State, len(Facts))
	for i, r := range Facts {
		out[i] = r.State
	}
	return out
}

// With are the states of which any of the facts is true, in order: what SQL is
// asked for.
func With(any Fact) (out []State) {
	for _, r := range Facts {
		if r.Facts&any != 0 {
			out = append(out, r.State)
		}
	}
	return out
}

// Is reports that any of the facts is true of a state; none is of a state that is
// not in the table.
func (s State) Is(any Fact) bool {
	i := slices.IndexFunc(Facts, func(r Row) bool { return r.State == s })
	return i >= 0 && Facts[i].Facts&any != 0
}

// What templates ask.

// Decided reports a state in which the panel has spoken.
func (s State) Decided() bool { return s.Is(Decided) }

// Ended reports a state after which nobody moves.
func (s State) Ended() bool { return s.Is(Ended) }

// Sealed reports a state that has a seal behind it.
func (s State) Sealed() bool { return s.Is(Sealed) }

// Writing reports a state before sending, which lapses when its window closes.
func (s State) Writing() bool { return s.Is(Writing) }

// Open reports a state in which the applicant writes.
func (s State) Open() bool { return s.Is(Open) }

// Drafting reports a state in which all of it is written.
func (s State) Drafting() bool { return s.Is(Drafting) }

// Offered reports an invitation that is not taken up.
func (s State) Offered() bool { return s.Is(Offered) }

// Queried reports that the office has asked something.
func (s State) Queried() bool { return s.Is(Queried) }

// BeingRead reports that readers have it.
func (s State) BeingRead() bool { return s.Is(BeingRead) }

// Meets reports an interview that is not over.
func (s State) Meets() bool { return s.Is(ToMeet) }

// Gone reports that the applicant took it back.
func (s State) Gone() bool { return s.Is(Gone) }

// Owes reports that it is in when its fee is paid.
func (s State) Owes() bool { return s.Is(Owes) }

// GoesOn reports an invitation to the next stage.
func (s State) GoesOn() bool { return s.Is(GoesOn) }

// Gives reports that something is awarded.
func (s State) Gives() bool { return s.Is(Gives) }

// Outcome is what the panel decided of a state that came of its decision: what is
// offered, accepted or came back was awarded. Other states are their own.
func (s State) Outcome() State {
	if s.Is(Gives | Back) {
		return Awarded
	}
	return s
}

// Answers reports an offer that waits for its answer.
func (s State) Answers() bool { return s.Is(Answers) }

// Back reports an offer that came back.
func (s State) Back() bool { return s.Is(Back) }

// MoveIn says whose move an entry in this state is. A draft's depends on what
// stands in its way and is worked out in core/form.
func MoveIn(s State) Move {
	if s.Writing() {
		return Applicant
	}
	for _, step := range Table {
		if step.To == s {
			return step.Move
		}
	}
	return Nobody
}
